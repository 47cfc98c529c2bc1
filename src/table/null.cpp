// Why a cell holds no value.
#include "table/null.h"

#include <fmt/format.h>

#include <array>
#include <stdexcept>

namespace opensum {

const char* reason_name(Reason reason) {
  static constexpr std::array<const char*, kReasons> names = {
      "none",         "missing",        "unreadable", "below_limit",  "above_limit",
      "excluded",     "divide_by_zero", "domain",     "overflow",     "no_match",
      "out_of_range", "ambiguous",      "too_few",    "no_neighbour", "failed_fit"};
  return names.at(static_cast<std::size_t>(reason));
}

std::string null_counts_text(const std::map<std::string, std::size_t>& nulls) {
  std::string text;
  for (const auto& [reason, count] : nulls)
    text += fmt::format("{}{} {}", text.empty() ? "" : ", ", count, reason);
  return text;
}

OriginId Origins::add(const std::string& sheet, const std::string& column) {
  constexpr std::size_t kMost = std::size_t{1} << 24U;
  if (origins_.size() >= kMost) throw std::length_error("more than 16 million origins of nulls");
  origins_.push_back({sheet, column, std::nullopt});
  return static_cast<OriginId>(origins_.size() - 1);
}

Null Origins::in_row(Null null, std::size_t row) {
  if (origins_.at(null.origin()).row) return null;
  const auto [found, is_new] = in_rows_.try_emplace({null.origin(), row}, 0);
  if (is_new) {
    const Origin origin = origins_.at(null.origin());
    found->second = add(origin.sheet, origin.column);
    origins_[found->second].row = row;
  }
  return {null.reason(), found->second};
}

}  // namespace opensum
