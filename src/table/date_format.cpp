// Dates in forms other than ISO 8601.
#include "table/date_format.h"

#include <date/date.h>

#include <chrono>
#include <sstream>

namespace opensum {

std::optional<double> read_date(std::string_view text, const std::string& format) {
  // The stream and its locale are costly to make, and cells come by the million.
  thread_local std::istringstream stream = [] {
    std::istringstream fresh;
    fresh.imbue(std::locale::classic());
    return fresh;
  }();
  stream.clear();
  stream.str(std::string(text));
  date::sys_time<std::chrono::microseconds> instant;
  date::from_stream(stream, format.c_str(), instant);
  if (stream.fail() || stream.peek() != std::istringstream::traits_type::eof()) return std::nullopt;
  return static_cast<double>(instant.time_since_epoch().count()) / 1e6;
}

}  // namespace opensum
