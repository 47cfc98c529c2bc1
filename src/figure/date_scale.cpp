// Axes of dates: ticks where units of the calendar begin.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "figure/scale.h"
#include "table/calendar.h"

namespace opensum {
namespace {

constexpr double kMinute = 60;
constexpr double kHour = 3600;
constexpr double kDay = 86400;
constexpr double kMonth = 30.44 * kDay;

// Steps in seconds, and from a month on in months.
struct Step {
  double seconds = 0;
  int months = 0;
  double length() const { return months > 0 ? months * kMonth : seconds; }
};
constexpr std::array kSteps = {Step{1, 0},
                               Step{2, 0},
                               Step{5, 0},
                               Step{10, 0},
                               Step{15, 0},
                               Step{30, 0},
                               Step{kMinute, 0},
                               Step{2 * kMinute, 0},
                               Step{5 * kMinute, 0},
                               Step{10 * kMinute, 0},
                               Step{15 * kMinute, 0},
                               Step{30 * kMinute, 0},
                               Step{kHour, 0},
                               Step{2 * kHour, 0},
                               Step{3 * kHour, 0},
                               Step{6 * kHour, 0},
                               Step{12 * kHour, 0},
                               Step{kDay, 0},
                               Step{2 * kDay, 0},
                               Step{7 * kDay, 0},
                               Step{14 * kDay, 0},
                               Step{0, 1},
                               Step{0, 2},
                               Step{0, 3},
                               Step{0, 6},
                               Step{0, 12},
                               Step{0, 24},
                               Step{0, 60},
                               Step{0, 120},
                               Step{0, 240},
                               Step{0, 600},
                               Step{0, 1200},
                               Step{0, 6000}};

// The step that divides a range into at most `wanted` parts and a little more.
Step step_for(double range, int wanted) {
  for (const Step& step : kSteps) {
    if (range / step.length() <= wanted + 0.5) return step;
  }
  return kSteps.back();
}

std::vector<double> ticks_between(double low, double high, const Step& step) {
  std::vector<double> ticks;
  if (step.months == 0) {
    // Weeks begin on Monday; 1970-01-05 was one.
    const double zero = step.seconds >= 7 * kDay ? 4 * kDay : 0;
    const double first = std::ceil((low - zero) / step.seconds) * step.seconds + zero;
    const auto count = static_cast<std::size_t>(std::max(0.0, std::floor((high - first) / step.seconds) + 1));
    for (std::size_t i = 0; i < count; ++i) ticks.push_back(first + static_cast<double>(i) * step.seconds);
    return ticks;
  }
  if (!within_calendar(low)) return ticks;
  const CalendarDate first = calendar_date(low);
  const int months = (first.year * 12 + first.month - 1) / step.months * step.months;
  for (int month = months;; month += step.months) {
    const auto tick = seconds_of({month / 12, month % 12 + 1, 1, 0});
    if (!tick || *tick > high) return ticks;
    if (*tick >= low) ticks.push_back(*tick);
  }
}

std::string clock_text(const CalendarDate& date, bool seconds) {
  const int clock = static_cast<int>(std::lround(date.clock));
  const std::string text = fmt::format("{:02}:{:02}", clock / 3600, clock / 60 % 60);
  return seconds ? fmt::format("{}:{:02}", text, clock % 60) : text;
}

std::string day_text(const CalendarDate& date) {
  return fmt::format("{:04}-{:02}-{:02}", date.year, date.month, date.day);
}

// As much of a date as the step moves; the rest is said once where it is the same for all ticks.
std::string label_of(const CalendarDate& date, const Step& step, bool one_day, bool one_year) {
  if (step.months >= 12) return fmt::format("{:04}", date.year);
  if (step.months > 0) {
    return one_year ? std::string(month_name(date.month)).substr(0, 3)
                    : fmt::format("{:04}-{:02}", date.year, date.month);
  }
  std::string day = one_year
                        ? fmt::format("{} {}", date.day, std::string(month_name(date.month)).substr(0, 3))
                        : day_text(date);
  if (step.seconds >= kDay) return day;
  std::string clock = clock_text(date, step.seconds < kMinute);
  if (one_day) return clock;
  return date.clock == 0 ? day : clock;
}

}  // namespace

Scale make_date_scale(double least, double greatest, int wanted, const ScaleWish& wish) {
  Scale scale;
  scale.reversed = wish.reversed;
  const double range = greatest > least ? greatest - least : 2 * kHour;
  scale.low = wish.low.value_or((least + greatest) / 2 - range * (0.5 + kAxisMargin));
  scale.high = wish.high.value_or((least + greatest) / 2 + range * (0.5 + kAxisMargin));
  if (!(scale.low < scale.high)) {
    (wish.high ? scale.low : scale.high) = wish.high ? scale.high - range : scale.low + range;
  }
  // Within less than some seconds a fraction of one would have to be told; the ends of the axis are told
  // then.
  const Step step = step_for(scale.high - scale.low, wanted);
  for (const double tick : ticks_between(scale.low, scale.high, step)) {
    if (within_calendar(tick)) scale.ticks.push_back(tick);
  }
  if (scale.ticks.empty()) return scale;
  const CalendarDate first = calendar_date(scale.ticks.front());
  const CalendarDate last = calendar_date(scale.ticks.back());
  const bool one_year = first.year == last.year;
  const bool one_day = one_year && first.month == last.month && first.day == last.day;
  for (const double tick : scale.ticks)
    scale.labels.push_back(label_of(calendar_date(tick), step, one_day, one_year));
  if (one_day && step.seconds < kDay && step.months == 0) {
    scale.shared_date = day_text(first);
  } else if (one_year && step.months < 12) {
    scale.shared_date = fmt::format("{:04}", first.year);
  }
  return scale;
}

}  // namespace opensum
