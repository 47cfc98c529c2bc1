// The serial numbers by which workbooks write dates.
#pragma once

namespace opensum {

constexpr double kSecondsPerDay = 86400;
/// Days from the serial number 0 of the two calendars to 1970-01-01.
constexpr double kEpochOf1900 = 25569;
constexpr double kEpochOf1904 = 24107;

}  // namespace opensum
