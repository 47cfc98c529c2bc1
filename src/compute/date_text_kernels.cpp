// The functions of dates and of text, over a batch of rows.
#include <algorithm>
#include <cmath>
#include <optional>

#include "base/unicode.h"
#include "compute/kernels.h"
#include "equation/operation.h"
#include "table/calendar.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr double kDay = 86400;

// Calls a function that gives the value of a row, for the rows that are not null.
template <typename Function>
void each_known(Register& out, std::size_t rows, Function function) {
  for (std::size_t i = 0; i < rows; ++i) {
    if (out.has_nulls && out.nulls[i]) continue;
    function(i);
  }
}

void set_date(Register& out, std::size_t i, const Instant& date, OriginId own) {
  if (within_calendar(date.seconds)) {
    out.set_instant(i, date);
  } else {
    out.set_instant(i, {});
    out.mark(i, Null(Reason::overflow, own));
  }
}

int quarter_of(const CalendarDate& date) { return (date.month - 1) / 3 + 1; }

// The whole seconds of a date, rounded down.
double whole_seconds(const Instant& date) { return static_cast<double>(parts_of(date).seconds); }

double part_of(Op op, const Instant& instant) {
  const double seconds = whole_seconds(instant);
  const CalendarDate date = calendar_date(seconds);
  switch (op) {
    case Op::year_of:
      return date.year;
    case Op::month_of:
      return date.month;
    case Op::day_of:
      return date.day;
    case Op::quarter_of:
      return quarter_of(date);
    case Op::week_of:
      return week_of_year(seconds);
    case Op::day_of_year:
      return day_of_year(seconds);
    case Op::hour_of:
      return std::floor(date.clock / 3600);
    case Op::minute_of:
      return std::floor(std::fmod(date.clock, 3600) / 60);
    case Op::second_of:
      return seconds_between(instant_of(static_cast<std::int64_t>(seconds - std::fmod(date.clock, 60))),
                             instant);
    case Op::weekday_of:
      return weekday(seconds);
    default:
      not_computed(op, "part_of");
  }
}

// `hh:mm`, `hh:mm:ss` or with a fraction, as seconds.
void date_times(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
                OriginId own) {
  each_known(out, rows, [&](std::size_t i) {
    const Instant day{std::floor(whole_seconds(in[0].instant(i)) / kDay) * kDay, 0};
    if (!instruction.on_text) return set_date(out, i, later(day, in[1].numbers[i]), own);
    if (const auto clock = read_duration(trimmed(in[1].texts[i])))
      return set_date(out, i, later(day, *clock), own);
    out.numbers[i] = 0;
    out.mark(i, Null(Reason::unreadable, own));
  });
}

void shift_months(std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  constexpr double kMost = 1e6;
  each_known(out, rows, [&](std::size_t i) {
    const double months = in[1].numbers[i];
    if (months != std::floor(months)) {
      out.numbers[i] = 0;
      out.mark(i, Null(Reason::domain, own));
    } else {
      set_date(out, i,
               shifted(in[0].instant(i), static_cast<std::int64_t>(std::clamp(months, -kMost, kMost))), own);
    }
  });
}

void shift_days(std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  each_known(out, rows, [&](std::size_t i) {
    const double days = in[1].numbers[i];
    if (days != std::floor(days)) {
      out.numbers[i] = 0;
      out.mark(i, Null(Reason::domain, own));
    } else {
      set_date(out, i, later(in[0].instant(i), days * kDay), own);
    }
  });
}

bool text_test(Op op, std::string_view text, std::string_view part) {
  switch (op) {
    case Op::starts_with:
      return text.starts_with(part);
    case Op::ends_with:
      return text.ends_with(part);
    case Op::contains:
      return text.find(part) != std::string_view::npos;
    default:
      not_computed(op, "text_test");
  }
}

std::string joined(const Instruction& instruction, std::span<const View> in, std::size_t i) {
  std::string text;
  for (std::size_t k = 0; k < in.size(); ++k) {
    const std::string& kind = instruction.names[k];
    if (kind == kind_name(Kind::text)) {
      text += in[k].texts[i];
    } else if (kind == kind_name(Kind::date)) {
      text += date_text(in[k].instant(i));
    } else if (kind == kDateTime) {
      text += date_text(in[k].instant(i), true);
    } else if (kind == kind_name(Kind::truth)) {
      text += in[k].numbers[i] != 0 ? "true" : "false";
    } else {
      text += number_text(in[k].numbers[i]);
    }
  }
  return text;
}

// The part of a text at a place, from 1, between signs; a null pointer where there are fewer.
std::optional<std::string_view> part_of_text(std::string_view text, std::string_view sign,
                                             std::size_t place) {
  for (std::size_t at = 1;; ++at) {
    const std::size_t end = text.find(sign);
    if (at == place) return text.substr(0, end);
    if (end == std::string_view::npos) return std::nullopt;
    text.remove_prefix(end + sign.size());
  }
}

void parts(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
           OriginId own) {
  const std::size_t place = std::get<PartNumber>(instruction.setting).number;
  each_known(out, rows, [&](std::size_t i) {
    const auto part = part_of_text(in[0].texts[i], in[1].texts[i], place);
    if (part) {
      out.texts[i] = *part;
    } else {
      out.mark(i, Null(Reason::out_of_range, own));
    }
  });
}

void numbers_of_texts(std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  each_known(out, rows, [&](std::size_t i) {
    const NumberReading number = read_number(trimmed(in[0].texts[i]));
    const bool good = number.fault == NumberFault::none;
    out.numbers[i] = good ? number.value : 0;
    if (good) return;
    out.mark(i, Null(number.fault == NumberFault::too_large ? Reason::overflow : Reason::unreadable, own));
  });
}

std::string_view kept(Register& out, std::string text) { return out.made->emplace_back(std::move(text)); }

}  // namespace

void apply_date_or_text(const Instruction& instruction, std::span<const View> in, Register& out,
                        std::size_t rows, OriginId own) {
  const Op op = instruction.op;
  if (instruction.gives_text) std::fill_n(out.texts.begin(), rows, std::string_view());
  switch (op) {
    case Op::within_calendar:
      return each_known(out, rows, [&](std::size_t i) { set_date(out, i, in[0].instant(i), own); });
    case Op::shift_months:
      return shift_months(in, out, rows, own);
    case Op::shift_days:
      return shift_days(in, out, rows, own);
    case Op::whole_years:
      return each_known(out, rows, [&](std::size_t i) {
        out.numbers[i] = whole_years(in[0].instant(i), in[1].instant(i));
      });
    case Op::date_time:
      return date_times(instruction, in, out, rows, own);
    case Op::month_name:
      return each_known(out, rows, [&](std::size_t i) {
        out.texts[i] = month_name(calendar_date(whole_seconds(in[0].instant(i))).month);
      });
    case Op::weekday_name:
      return each_known(out, rows, [&](std::size_t i) {
        out.texts[i] = weekday_name(weekday(whole_seconds(in[0].instant(i))));
      });
    case Op::start_of:
    case Op::end_of: {
      const auto period = std::get<Period>(instruction.setting);
      return each_known(out, rows, [&](std::size_t i) {
        const double date = whole_seconds(in[0].instant(i));
        set_date(out, i, {op == Op::start_of ? start_of(date, period) : end_of(date, period), 0}, own);
      });
    }
    case Op::concat:
      return each_known(out, rows,
                        [&](std::size_t i) { out.texts[i] = kept(out, joined(instruction, in, i)); });
    case Op::part:
      return parts(instruction, in, out, rows, own);
    case Op::number_of_text:
      return numbers_of_texts(in, out, rows, own);
    case Op::contains:
    case Op::starts_with:
    case Op::ends_with:
      return each_known(out, rows, [&](std::size_t i) {
        out.numbers[i] = text_test(op, in[0].texts[i], in[1].texts[i]) ? 1 : 0;
      });
    case Op::upper:
    case Op::lower:
      return each_known(out, rows, [&](std::size_t i) {
        out.texts[i] = kept(out, op == Op::upper ? upper_case(in[0].texts[i]) : lower_case(in[0].texts[i]));
      });
    case Op::trim:
      return each_known(out, rows, [&](std::size_t i) { out.texts[i] = trimmed(in[0].texts[i]); });
    default:
      return each_known(out, rows, [&](std::size_t i) { out.numbers[i] = part_of(op, in[0].instant(i)); });
  }
}

}  // namespace opensum
