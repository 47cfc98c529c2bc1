// Dates in forms other than ISO 8601.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace opensum {

/// Reads a date in a format of strftime, such as `%d.%m.%Y %H:%M`, as seconds since 1970-01-01 00:00. Names
/// of months and days are English, seconds may have a fraction. Nothing for a text that does not fit as a
/// whole or a day that does not exist.
std::optional<double> read_date(std::string_view text, const std::string& format);

}  // namespace opensum
