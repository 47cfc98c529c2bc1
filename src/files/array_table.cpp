// A table made of arrays of one length.
#include "files/array_table.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/result.h"
#include "table/calendar.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }
bool is_digit(char c) { return c >= '0' && c <= '9'; }

constexpr std::int64_t kSecond = 1'000'000'000;  // ns

}  // namespace

std::optional<TimeUnit> read_time_unit(const std::string& unit) {
  constexpr std::string_view kSince = " since ";
  const std::size_t at = unit.find(kSince);
  if (at == std::string::npos) return std::nullopt;
  const std::string_view word = trimmed(std::string_view(unit).substr(0, at));
  TimeUnit time;
  const std::array<std::pair<std::string_view, std::int64_t>, 8> words = {
      std::pair{std::string_view("nanosecond"), std::int64_t{1}},
      {"microsecond", 1'000},
      {"millisecond", 1'000'000},
      {"second", kSecond},
      {"sec", kSecond},
      {"minute", 60 * kSecond},
      {"hour", 3600 * kSecond},
      {"day", 86400 * kSecond}};
  const auto* const found = std::find_if(words.begin(), words.end(), [&](const auto& known) {
    return word == known.first || word == std::string(known.first) + "s";
  });
  if (found == words.end()) return std::nullopt;
  time.nanoseconds = found->second;
  std::string begin(trimmed(std::string_view(unit).substr(at + kSince.size())));
  if (begin.ends_with(" UTC")) begin.resize(begin.size() - 4);
  const auto date = read_date(begin);
  if (!date) return std::nullopt;
  time.begin = *date;
  return time;
}

Instant TimeUnit::after(std::int64_t count) const {
  const SecondsAndNanoseconds from = parts_of(begin);
  if (nanoseconds >= kSecond)
    return instant_of(from.seconds + count * (nanoseconds / kSecond), from.nanoseconds);
  const std::int64_t in_second = kSecond / nanoseconds;
  return instant_of(from.seconds + count / in_second, from.nanoseconds + count % in_second * nanoseconds);
}

Instant TimeUnit::after(double count) const {
  constexpr double kMostExact = 9007199254740992;  // 2^53
  const double seconds = begin.seconds + count * (static_cast<double>(nanoseconds) / kSecond);
  // What no calendar reaches is no date.
  const bool whole = count == std::floor(count) && std::fabs(count) < kMostExact && within_calendar(seconds);
  return whole ? after(static_cast<std::int64_t>(count)) : instant_near(seconds);
}

std::string usual_unit(const std::string& unit) {
  for (const std::string_view celsius :
       {"celsius", "Celsius", "degree_Celsius", "degrees_Celsius", "degree_C", "degrees_C", "degC", "deg_C",
        "degree_celsius", "degrees_celsius"}) {
    if (unit == celsius) return "degC";
  }
  if (unit == "kelvin" || unit == "Kelvin" || unit == "degrees_K" || unit == "degK") return "K";
  std::string out;
  for (std::size_t i = 0; i < unit.size(); ++i) {
    const bool before = i > 0 && is_letter(unit[i - 1]);
    const bool sign = (unit[i] == '-' || unit[i] == '+') && i + 1 < unit.size() && is_digit(unit[i + 1]);
    if (before && (sign || is_digit(unit[i]))) out += '^';
    if (unit[i] == '+' && sign) continue;
    out += unit[i] == '.' && before ? ' ' : unit[i];
  }
  return out;
}

std::string ArrayMeaning::cell(double stored, const std::optional<TimeUnit>& time) const {
  if (std::isnan(stored) || std::find(missing.begin(), missing.end(), stored) != missing.end()) return {};
  const double value = is_packed() ? stored * scale + offset : stored;
  if (time) return date_text(time->after(value), true);
  if (single && !is_packed()) return fmt::format("{}", static_cast<float>(value));
  return number_text(value, is_packed() && single ? 7 : -1);
}

std::string ArrayMeaning::cell(std::int64_t stored, const TimeUnit& time) const {
  const auto is_missing = [&](double number) { return number == static_cast<double>(stored); };
  if (std::any_of(missing.begin(), missing.end(), is_missing)) return {};
  return date_text(time.after(stored), true);
}

Result<RawTable> table_of_arrays(const std::vector<ArrayColumn>& arrays, std::size_t rows,
                                 const std::vector<std::string>& before, const InputFile& file,
                                 const std::string& name, Rows read, Diagnostics& diagnostics) {
  constexpr std::size_t kStep = 16384;
  std::vector<SpooledColumn> columns;
  std::vector<std::optional<TimeUnit>> times;
  for (const ArrayColumn& array : arrays) {
    SpooledColumn& column = columns.emplace_back();
    column.header = array.name;
    column.metadata.label = array.meaning.label;
    times.push_back(array.is_time || array.numbers ? read_time_unit(array.meaning.unit) : std::nullopt);
    if (times.back()) {
      column.metadata.kind = Kind::date;
    } else if (!array.meaning.unit.empty()) {
      column.metadata.unit = usual_unit(array.meaning.unit);
    }
  }
  SpooledTable table(columns);
  for (const std::string& line : before) table.add_before(line);
  std::vector<std::vector<double>> numbers(arrays.size());
  std::vector<std::vector<std::string>> texts(arrays.size());
  for (std::size_t begin = 0; begin < rows; begin += kStep) {
    const std::size_t count = std::min(kStep, rows - begin);
    for (std::size_t i = 0; i < arrays.size(); ++i) {
      const bool good = arrays[i].numbers ? arrays[i].numbers(begin, count, numbers[i])
                                          : arrays[i].texts(begin, count, texts[i]);
      if (!good) {
        diagnostics.add(Code::file_damaged,
                        {name, "a table", "the values of " + arrays[i].name + " are damaged"});
        return std::nullopt;
      }
    }
    for (std::size_t row = 0; row < count; ++row) {
      for (std::size_t i = 0; i < arrays.size(); ++i)
        table.add(arrays[i].numbers ? arrays[i].meaning.cell(numbers[i][row], times[i]) : texts[i][row]);
      table.end_row();
    }
  }
  return table.finish(file, name, read, diagnostics);
}

}  // namespace opensum
