// Dates and times of day as text.
#include "table/date_text.h"

#include <fmt/format.h>

#include <chrono>
#include <cmath>

#include "table/digits.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// Exactly `count` digits as a number, or -1.
int fixed_digits(std::string_view text, std::size_t& at, std::size_t count) {
  if (at + count > text.size()) return -1;
  int value = 0;
  for (std::size_t i = 0; i < count; ++i, ++at) {
    if (!is_digit(text[at])) return -1;
    value = value * 10 + (text[at] - '0');
  }
  return value;
}

bool skip(std::string_view text, std::size_t& at, char c) {
  if (at >= text.size() || text[at] != c) return false;
  ++at;
  return true;
}

// A time of day: as seconds, and the nanoseconds of its fraction of a second.
struct Clock {
  double seconds = 0;
  std::int64_t whole = 0;
  std::int64_t nanoseconds = 0;
};

// hh:mm[:ss[.fff]]; nothing when it is no time of day.
std::optional<Clock> read_clock(std::string_view text, std::size_t& at) {
  const int hours = fixed_digits(text, at, 2);
  if (hours < 0 || hours > 24 || !skip(text, at, ':')) return std::nullopt;
  const int minutes = fixed_digits(text, at, 2);
  if (minutes < 0 || minutes > 59) return std::nullopt;
  double seconds = 0;
  Clock clock{0, hours * 3600 + minutes * 60, 0};
  if (skip(text, at, ':')) {
    const std::size_t begin = at;
    const int whole = fixed_digits(text, at, 2);
    if (whole < 0 || whole > 60) return std::nullopt;
    seconds = whole;
    clock.whole += whole;
    if (skip(text, at, '.') || skip(text, at, ',')) {
      const std::size_t fraction = at;
      if (skip_digits(text, at) == 0) return std::nullopt;
      clock.nanoseconds = nanoseconds_of_fraction(text.substr(fraction, at - fraction));
      std::string number(text.substr(begin, at - begin));
      number[2] = '.';
      seconds = read_number(number).value;
    }
  }
  if (hours == 24 && (minutes != 0 || seconds != 0)) return std::nullopt;
  clock.seconds = hours * 3600 + minutes * 60 + seconds;
  return clock;
}

// Z, +hh:mm or +hhmm as seconds east of Greenwich.
std::optional<double> read_offset(std::string_view text, std::size_t& at) {
  if (skip(text, at, 'Z') || at == text.size()) return 0;
  const bool west = text[at] == '-';
  if (!west && text[at] != '+') return std::nullopt;
  ++at;
  const int hours = fixed_digits(text, at, 2);
  skip(text, at, ':');
  const int minutes = at == text.size() ? 0 : fixed_digits(text, at, 2);
  if (hours < 0 || hours > 14 || minutes < 0 || minutes > 59) return std::nullopt;
  const double seconds = hours * 3600 + minutes * 60;
  return west ? -seconds : seconds;
}

// 0 for AM and 1 for PM, in any case, a.m. too.
std::optional<int> half_of_day(std::string_view text) {
  std::string letters;
  for (const char c : text) {
    if (c != ' ' && c != '.') letters += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  }
  if (letters == "am") return 0;
  if (letters == "pm") return 1;
  return std::nullopt;
}

}  // namespace

std::int64_t nanoseconds_of_fraction(std::string_view digits) {
  constexpr std::size_t kDigits = 9;
  std::int64_t nanoseconds = 0;
  for (std::size_t i = 0; i < kDigits; ++i)
    nanoseconds = nanoseconds * 10 + (i < digits.size() ? digits[i] - '0' : 0);
  const bool up = digits.size() > kDigits && digits[kDigits] >= '5';
  return nanoseconds + (up ? 1 : 0);
}

std::optional<WrittenDate> read_iso_date(std::string_view text) {
  std::size_t at = 0;
  const int year = fixed_digits(text, at, 4);
  if (year < 0 || !skip(text, at, '-')) return std::nullopt;
  const int month = fixed_digits(text, at, 2);
  if (month < 0 || !skip(text, at, '-')) return std::nullopt;
  const int day = fixed_digits(text, at, 2);
  if (day < 0) return std::nullopt;
  const std::chrono::year_month_day date{std::chrono::year(year),
                                         std::chrono::month(static_cast<unsigned>(month)),
                                         std::chrono::day(static_cast<unsigned>(day))};
  if (!date.ok()) return std::nullopt;
  const std::int64_t day_begin = std::int64_t{std::chrono::sys_days(date).time_since_epoch().count()} * 86400;
  WrittenDate written;
  written.clock = instant_of(day_begin);
  if (at == text.size()) return written;
  if (!skip(text, at, 'T') && !skip(text, at, ' ')) return std::nullopt;
  const auto clock = read_clock(text, at);
  if (!clock) return std::nullopt;
  written.clock = instant_of(day_begin + clock->whole, clock->nanoseconds);
  written.has_clock = true;
  if (at == text.size()) return written;
  written.offset = read_offset(text, at);
  if (!written.offset || at != text.size()) return std::nullopt;
  return written;
}

std::optional<Instant> read_date(std::string_view text) {
  const auto written = read_iso_date(text);
  return written ? std::optional(written->utc()) : std::nullopt;
}

std::optional<double> read_duration(std::string_view text) {
  constexpr std::size_t kMostHourDigits = 6;
  std::size_t at = 0;
  const bool negative = skip(text, at, '-');
  const std::size_t begin = at;
  const std::size_t digits = skip_digits(text, at);
  if (digits == 0 || digits > kMostHourDigits || !skip(text, at, ':')) return std::nullopt;
  // The minutes and seconds are those of a clock that stands at hour 00.
  const double hours = read_number(text.substr(begin, digits)).value;
  const std::string clock = "00:" + std::string(text.substr(at));
  std::size_t read = 0;
  const auto rest = read_clock(clock, read);
  if (!rest) return std::nullopt;
  double hour = hours;
  if (read != clock.size()) {
    const auto half = half_of_day(std::string_view(clock).substr(read));
    if (!half || negative || hours < 1 || hours > 12) return std::nullopt;
    hour = std::fmod(hours, 12) + 12 * *half;
  }
  const double seconds = hour * 3600 + rest->seconds;
  return negative ? -seconds : seconds;
}

std::string date_text(const Instant& instant, bool clock) {
  // What no calendar reaches is no date.
  constexpr double kMostSeconds = 9e11;
  if (!(std::fabs(instant.seconds) < kMostSeconds)) return number_text(instant.seconds, -1) + " s";
  const SecondsAndNanoseconds parts = parts_of(instant);
  const auto day =
      std::chrono::floor<std::chrono::days>(std::chrono::sys_seconds(std::chrono::seconds(parts.seconds)));
  const std::chrono::year_month_day date{day};
  std::string text = fmt::format("{:04}-{:02}-{:02}", static_cast<int>(date.year()),
                                 static_cast<unsigned>(date.month()), static_cast<unsigned>(date.day()));
  const std::int64_t whole = parts.seconds - std::int64_t{day.time_since_epoch().count()} * 86400;
  if (whole == 0 && parts.nanoseconds == 0 && !clock) return text;
  text += fmt::format("T{:02}:{:02}:{:02}", whole / 3600, whole / 60 % 60, whole % 60);
  if (parts.nanoseconds != 0) {
    std::string fraction = fmt::format(".{:09}", parts.nanoseconds);
    fraction.erase(fraction.find_last_not_of('0') + 1);
    text += fraction;
  }
  return text;
}

}  // namespace opensum
