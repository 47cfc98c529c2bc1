// Dates in forms other than ISO 8601.
#include "table/date_format.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

#include "table/calendar.h"

namespace opensum {
namespace {

constexpr std::string_view kCodes = "YymbBhdejaAHIpMSzn%t";

// Codes that stand for several.
const char* expansion(char code) {
  switch (code) {
    case 'F':
      return "%Y-%m-%d";
    case 'D':
      return "%m/%d/%y";
    case 'T':
      return "%H:%M:%S";
    case 'R':
      return "%H:%M";
    case 'r':
      return "%I:%M:%S %p";
    default:
      return nullptr;
  }
}

// What a code says: codes of one group contradict one another.
char group_of(char code) {
  switch (code) {
    case 'y':
      return 'Y';
    case 'b':
    case 'B':
    case 'h':
      return 'm';
    case 'e':
      return 'd';
    case 'A':
      return 'a';
    case 'I':
      return 'H';
    default:
      return code;
  }
}

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\n'; }

enum class HalfOfDay : std::uint8_t { before_noon, after_noon };

// The parts of a date as they are read. A format has the year, and month and day or the day of the year.
struct Parts {
  int year = 0;
  int month = 1;
  int day = 1;
  std::optional<int> day_of_year;
  std::optional<int> weekday;  // Monday 1
  int hour = 0;
  std::optional<HalfOfDay> half;
  bool twelve = false;
  int minute = 0;
  int second = 0;
  std::int64_t nanoseconds = 0;
  bool has_clock = false;
  std::optional<double> offset;
};

class Reader {
 public:
  explicit Reader(std::string_view text) : text_(text) {}

  bool at_end() const { return at_ == text_.size(); }
  void skip_blanks() {
    while (at_ < text_.size() && is_blank(text_[at_])) ++at_;
  }
  bool literal(char c) {
    if (at_ == text_.size() || text_[at_] != c) return false;
    ++at_;
    return true;
  }

  bool part(char code, Parts& parts) {
    switch (code) {
      case 'Y':
        return digits(4, 4, 0, 9999, parts.year);
      case 'y':
        if (!digits(2, 2, 0, 99, parts.year)) return false;
        parts.year += parts.year < 69 ? 2000 : 1900;
        return true;
      case 'm':
        return digits(1, 2, 1, 12, parts.month);
      case 'b':
      case 'B':
      case 'h':
        return name(month_name, 12, parts.month);
      case 'd':
      case 'e':
        skip_blanks();
        return digits(1, 2, 1, 31, parts.day);
      case 'j':
        return digits(1, 3, 1, 366, parts.day_of_year);
      case 'a':
      case 'A':
        return name(weekday_name, 7, parts.weekday);
      case 'H':
        parts.has_clock = true;
        return digits(1, 2, 0, 24, parts.hour);
      case 'I':
        parts.has_clock = parts.twelve = true;
        return digits(1, 2, 1, 12, parts.hour);
      case 'p':
        return half_of_day(parts.half);
      case 'M':
        return digits(1, 2, 0, 59, parts.minute);
      case 'S':
        return seconds(parts);
      case 'z':
        return offset(parts);
      default:
        return false;
    }
  }

 private:
  template <typename Number>
  bool digits(std::size_t least, std::size_t most, int low, int high, Number& into) {
    std::size_t count = 0;
    int value = 0;
    while (count < most && at_ < text_.size() && text_[at_] >= '0' && text_[at_] <= '9') {
      value = value * 10 + (text_[at_++] - '0');
      ++count;
    }
    if (count < least || value < low || value > high) return false;
    into = value;
    return true;
  }

  // A name in full or its first three letters.
  template <typename Number>
  bool name(const char* (*name_of)(int), int count, Number& into) {
    const auto matches = [&](std::string_view word) {
      return text_.size() - at_ >= word.size() &&
             std::equal(word.begin(), word.end(), text_.begin() + static_cast<std::ptrdiff_t>(at_),
                        [](char a, char b) {
                          return std::tolower(static_cast<unsigned char>(a)) ==
                                 std::tolower(static_cast<unsigned char>(b));
                        });
    };
    for (int i = 1; i <= count; ++i) {
      const std::string_view whole = name_of(i);
      for (const std::string_view word : {whole, whole.substr(0, 3)}) {
        if (!matches(word)) continue;
        at_ += word.size();
        into = i;
        return true;
      }
    }
    return false;
  }

  // AM, PM, a.m., p.m. in any case.
  bool half_of_day(std::optional<HalfOfDay>& into) {
    const auto letter = [&](char small) {
      if (at_ == text_.size() || std::tolower(static_cast<unsigned char>(text_[at_])) != small) return false;
      ++at_;
      return true;
    };
    if (letter('a')) {
      into = HalfOfDay::before_noon;
    } else if (letter('p')) {
      into = HalfOfDay::after_noon;
    } else {
      return false;
    }
    const bool dotted = literal('.');
    if (!letter('m')) return false;
    if (dotted) literal('.');
    return true;
  }

  bool seconds(Parts& parts) {
    if (!digits(1, 2, 0, 60, parts.second)) return false;
    if (at_ + 1 < text_.size() && (text_[at_] == '.' || text_[at_] == ',') &&
        std::isdigit(static_cast<unsigned char>(text_[at_ + 1])) != 0) {
      const std::size_t begin = ++at_;
      while (at_ < text_.size() && std::isdigit(static_cast<unsigned char>(text_[at_])) != 0) ++at_;
      parts.nanoseconds = nanoseconds_of_fraction(text_.substr(begin, at_ - begin));
    }
    return true;
  }

  // Z, +hh, +hhmm or +hh:mm.
  bool offset(Parts& parts) {
    parts.offset = 0;
    if (literal('Z')) return true;
    const bool west = at_ < text_.size() && text_[at_] == '-';
    if (!west && (at_ == text_.size() || text_[at_] != '+')) return false;
    ++at_;
    int hours = 0;
    int minutes = 0;
    if (!digits(2, 2, 0, 14, hours)) return false;
    literal(':');
    if (at_ < text_.size() && std::isdigit(static_cast<unsigned char>(text_[at_])) != 0 &&
        !digits(2, 2, 0, 59, minutes)) {
      return false;
    }
    parts.offset = (west ? -60.0 : 60.0) * (hours * 60 + minutes);
    return true;
  }

  std::string_view text_;
  std::size_t at_ = 0;
};

// The hour of a day of 24; nothing where hour and half contradict one another.
std::optional<int> hour_of(const Parts& parts) {
  if (!parts.half) return parts.hour;
  const bool after_noon = parts.half == HalfOfDay::after_noon;
  if (parts.twelve) return parts.hour % 12 + (after_noon ? 12 : 0);
  return (parts.hour >= 12) == after_noon ? std::optional(parts.hour) : std::nullopt;
}

std::optional<WrittenDate> date_of(const Parts& parts) {
  CalendarDate date;
  date.year = parts.year;
  date.month = parts.month;
  date.day = parts.day;
  auto day = seconds_of(date);
  if (!day) return std::nullopt;
  if (parts.day_of_year) {
    *day += (*parts.day_of_year - 1) * 86400.0;
    if (calendar_date(*day).year != parts.year) return std::nullopt;
  }
  if (parts.weekday && weekday(*day) != *parts.weekday) return std::nullopt;
  const auto hour = hour_of(parts);
  if (!hour || (*hour == 24 && (parts.minute != 0 || parts.second != 0 || parts.nanoseconds != 0)))
    return std::nullopt;
  WrittenDate written;
  const int clock = *hour * 3600 + parts.minute * 60 + parts.second;
  written.clock = instant_of(static_cast<std::int64_t>(*day) + clock, parts.nanoseconds);
  written.offset = parts.offset;
  written.has_clock = parts.has_clock;
  return written;
}

}  // namespace

std::optional<DateFormat> DateFormat::parse(std::string_view format, DateFormatFault& fault) {
  std::string plain;
  for (std::size_t i = 0; i < format.size(); ++i) {
    const char* several = format[i] == '%' && i + 1 < format.size() ? expansion(format[i + 1]) : nullptr;
    if (several != nullptr) {
      plain += several;
      ++i;
    } else {
      plain += format[i];
      // A doubled sign is a sign.
      if (format[i] == '%' && i + 1 < format.size()) plain += format[++i];
    }
  }
  DateFormat result;
  std::string groups;
  for (std::size_t i = 0; i < plain.size(); ++i) {
    if (plain[i] != '%') {
      result.pieces_.push_back({0, plain[i]});
      continue;
    }
    const char code = i + 1 < plain.size() ? plain[++i] : '\0';
    if (code == '\0' || kCodes.find(code) == std::string_view::npos) {
      fault.code = code == '\0' ? "%" : std::string("%") + code;
      return std::nullopt;
    }
    if (code == '%' || code == 'n' || code == 't') {
      result.pieces_.push_back({0, code == '%' ? '%' : ' '});
      continue;
    }
    const char group = group_of(code);
    if (groups.find(group) != std::string::npos) {
      fault.code = std::string("%") + code;
      fault.repeated = true;
      return std::nullopt;
    }
    groups += group;
    result.pieces_.push_back({code, 0});
  }
  const auto has = [&](char group) { return groups.find(group) != std::string::npos; };
  if (has('j') && (has('m') || has('d'))) {
    fault.code = "%j";
    fault.repeated = true;
    return std::nullopt;
  }
  const bool whole_day = has('Y') && (has('j') || (has('m') && has('d')));
  return whole_day ? std::optional(std::move(result)) : std::nullopt;
}

std::optional<WrittenDate> DateFormat::read(std::string_view text) const {
  Parts parts;
  Reader reader(text);
  for (const Piece& piece : pieces_) {
    if (piece.code != 0) {
      if (!reader.part(piece.code, parts)) return std::nullopt;
    } else if (is_blank(piece.literal)) {
      reader.skip_blanks();
    } else if (!reader.literal(piece.literal)) {
      return std::nullopt;
    }
  }
  return reader.at_end() ? date_of(parts) : std::nullopt;
}

}  // namespace opensum
