// Dates and texts as SQL.
#include <algorithm>
#include <limits>

#include "sql/translator.h"

namespace opensum {

SqlValue Translator::end_of(const Instruction& instruction, const SqlValue& a) const {
  const std::string period = period_name(std::get<Period>(instruction.setting));
  const std::string clock = fmt::format("to_timestamp({}) AT TIME ZONE 'UTC'", a.value);
  std::string last = fmt::format("date_trunc('{}', {})", period, clock);
  if (period == "hour") {
    last += " + interval '3599 seconds'";
  } else if (period != "day") {
    last +=
        fmt::format(" + interval '{}' - interval '1 day'", period == "quarter" ? "3 months" : "1 " + period);
  }
  SqlValue out = from({a}, Kind::date);
  out.value = fmt::format("extract(epoch FROM {})::float8", last);
  out.bounds = {a.bounds.least, a.bounds.greatest + 4e7, 1e-6, false};
  return out;
}

SqlValue Translator::within_calendar(const SqlValue& seconds) const {
  constexpr double kFirstYear = -62135596800;
  constexpr double kAfterLastYear = 253402300800;
  if (seconds.bounds.least < kFirstYear) throw NotInSql{"it may come to dates before the year 1"};
  SqlValue out = from({seconds}, Kind::date);
  const std::string after = seconds.bounds.greatest < kAfterLastYear
                                ? ""
                                : fmt::format("{} >= {}", number(seconds), sql_number(kAfterLastYear));
  const std::string known = out.why.empty() ? "" : fmt::format("({}) IS NOT NULL", out.why);
  out.value = guarded(joined_by({known, after}, " OR "), "", number(seconds));
  null_where(out, after, Reason::overflow);
  out.bounds = seconds.bounds;
  out.bounds.greatest = std::min(out.bounds.greatest, kAfterLastYear);
  out.bounds.whole = false;
  return out;
}

SqlValue Translator::part_of_date(const SqlValue& a, const char* field, double most) const {
  SqlValue out = from({a}, Kind::number);
  out.value = fmt::format("extract({} FROM to_timestamp({}) AT TIME ZONE 'UTC')::float8", field, a.value);
  out.bounds = {0, most, 1e-6, true};
  return out;
}

SqlValue Translator::of_text(const std::vector<SqlValue>& in, Kind kind, const std::string& value) const {
  SqlValue out = from(in, kind);
  out.value = value;
  return out;
}

}  // namespace opensum
