// A table that is left in its database: what is known of it without its rows.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace opensum {

struct SqlSource {
  std::string server;  ///< the address of its server
  std::string from;    ///< as it stands behind FROM
  /// Whether its rows have places that say in which order they are stored.
  bool has_places = false;
  /// What together has its rows, as it stands behind FROM, where some of it is on other servers; else empty.
  std::vector<std::string> parts;
  struct Column {
    std::string name;
    std::uint32_t type = 0;  ///< the server's number of its type
  };
  std::vector<Column> columns;
};

/// Types that are read in a way of their own, by their numbers in the server's catalogue.
constexpr std::uint32_t kBooleanType = 16;
constexpr std::uint32_t kBigintType = 20;
constexpr std::uint32_t kSmallintType = 21;
constexpr std::uint32_t kIntegerType = 23;
constexpr std::uint32_t kTextType = 25;
constexpr std::uint32_t kVaryingType = 1043;
constexpr std::uint32_t kRealType = 700;
constexpr std::uint32_t kDoubleType = 701;
constexpr std::uint32_t kDateType = 1082;
constexpr std::uint32_t kTimestampWithZoneType = 1184;
constexpr std::uint32_t kIntervalType = 1186;

}  // namespace opensum
