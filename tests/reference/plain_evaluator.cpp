// The plain evaluator: walks a checked tree for one row at a time.
#include "reference/plain_evaluator.h"

#include <algorithm>
#include <cctype>
#include <cmath>

#include "compute/quantiles.h"
#include "equation/operation.h"
#include "reference/exact.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum::reference {

Value null_value(Null null) {
  Value value;
  value.null = null;
  return value;
}

Value number(double x, OriginId own) {
  if (!std::isfinite(x)) return null_value(Null(Reason::overflow, own));
  Value value;
  value.number = x;
  return value;
}

// Neumaier's sum, written anew.
double sum(const std::vector<double>& values) {
  double total = 0;
  double lost = 0;
  for (const double v : values) {
    const double t = total + v;
    lost += std::fabs(total) >= std::fabs(v) ? (total - t) + v : (v - t) + total;
    total = t;
  }
  return total + lost;
}

// The mean; by way of smaller numbers where the sum would be beyond the largest.
double mean(std::vector<double> values) {
  const double n = static_cast<double>(values.size());
  if (std::isfinite(sum(values))) return sum(values) / n;
  for (double& value : values) value = std::ldexp(value, -200);
  return std::ldexp(sum(values) / n, 200);
}

// Order statistics, interpolated at (n - 1) p.
double quantile(std::vector<double> values, double p) {
  std::sort(values.begin(), values.end());
  const double at = (static_cast<double>(values.size()) - 1) * p;
  const auto k = static_cast<std::size_t>(at);
  const double part = at - static_cast<double>(k);
  if (part == 0 || values[k] == values[k + 1]) return values[k];
  return (1 - part) * values[k] + part * values[k + 1];
}

double seconds_after(double date, double seconds) {
  __extension__ using Long = __float128;
  const double whole = std::floor(seconds);
  const Long nanoseconds = std::round((seconds - whole) * 1e9);
  return static_cast<double>(Long(date) + whole + nanoseconds / 1e9);
}

double mean(const Checked& node, std::vector<double> values) {
  if (node.args[0]->type.kind != Kind::date) return mean(std::move(values));
  const double first = values.front();
  for (double& value : values) value -= first;
  return seconds_after(first, mean(std::move(values)));
}

double quantile(const Checked& node, std::vector<double> values, double p) {
  if (node.args[0]->type.kind != Kind::date) return quantile(std::move(values), p);
  std::sort(values.begin(), values.end());
  const double at = (static_cast<double>(values.size()) - 1) * p;
  const auto k = static_cast<std::size_t>(at);
  const double part = at - static_cast<double>(k);
  return part == 0 ? values[k] : seconds_after(values[k], part * (values[k + 1] - values[k]));
}

// The sample standard deviation from the distances to the mean, in numbers of 113 bits.
double deviation(const std::vector<double>& values) {
  __extension__ using Long = __float128;
  const auto n = static_cast<Long>(values.size());
  Long sum = 0;
  for (const double v : values) sum += v;
  const Long mean = sum / n;
  Long squares = 0;
  for (const double v : values) squares += (v - mean) * (v - mean);
  return std::sqrt(static_cast<double>(squares) / static_cast<double>(n - 1));
}

namespace {

Value null_of(const Value& other) {
  Value value = null_value(other.null);
  value.began = other.began;
  return value;
}

Value truth(bool is) {
  Value value;
  value.number = is ? 1 : 0;
  return value;
}

double rounded(Op op, double x, double step) {
  const Exact steps = typed(x) / typed(step);
  const Exact below = floor_of(steps);
  const Exact above = -floor_of(-steps);
  Exact chosen = below;
  if (op == Op::ceil_to || (op == Op::trunc_to && x < 0)) chosen = above;
  if (op == Op::round_to) {
    const Exact part = steps - below;
    const bool even_below = floor_of(below / 2) * 2 == below;
    if (part * 2 > 1 || (part * 2 == 1 && !even_below)) chosen = above;
  }
  return nearest_double(chosen * typed(step));
}

double modulo(double a, double b) {
  const Exact step = typed(b);
  return nearest_double(typed(a) - floor_of(typed(a) / step) * step);
}

// Dates are compared as they are, numbers as decimals.
bool same_number(const Checked& left, double a, double b) {
  return left.type.kind == Kind::number ? typed(a) == typed(b) : a == b;
}
bool is_less(const Checked& left, double a, double b) {
  return left.type.kind == Kind::number ? typed(a) < typed(b) : a < b;
}

Value row_reduction(const Checked& node, const std::vector<Value>& args, OriginId own) {
  std::vector<double> known;
  std::vector<std::size_t> indices;
  const Value* first = nullptr;
  for (std::size_t i = 0; i < args.size(); ++i) {
    if (!args[i].null) {
      known.push_back(args[i].number);
      indices.push_back(i);
    } else if (first == nullptr) {
      first = &args[i];
    }
  }
  if (node.op == Op::row_count) return number(static_cast<double>(known.size()), own);
  if (first != nullptr && !node.nulls.skip) return null_of(*first);
  const std::size_t least =
      std::max<std::size_t>(node.op == Op::row_sd ? 2 : 1, static_cast<std::size_t>(node.nulls.at_least));
  if (known.size() < least) return null_value(Null(Reason::too_few, own));
  // The first of equal ones, which 0 and -0 are.
  const auto low = std::min_element(known.begin(), known.end());
  const auto high = std::max_element(known.begin(), known.end());
  switch (node.op) {
    case Op::row_sum:
      return number(sum(known), own);
    case Op::row_mean:
      return number(mean(node, known), own);
    case Op::row_min:
      return number(*low, own);
    case Op::row_max:
      return number(*high, own);
    case Op::row_range:
      return number(*high - *low, own);
    case Op::row_product: {
      double product = 1;
      for (const double v : known) product *= v;
      return number(product, own);
    }
    case Op::row_median: {
      return number(quantile(node, known, 0.5), own);
    }
    case Op::row_sd: {
      return number(deviation(known), own);
    }
    case Op::row_min_name:
    case Op::row_max_name: {
      // The first of equal extremes.
      std::size_t best = 0;
      for (std::size_t i = 1; i < known.size(); ++i) {
        if (node.op == Op::row_min_name ? is_less(*node.args[0], known[i], known[best])
                                        : is_less(*node.args[0], known[best], known[i]))
          best = i;
      }
      Value value;
      value.text = node.names[indices[best]];
      return value;
    }
    default:
      not_computed(node.op, "the reference of rows");
  }
}

// Where the function is defined; its values are held against the probabilities they stand for by a test of
// its own.
Value distribution_quantile(Op op, double p, double freedom, OriginId own) {
  if (!(p > 0) || !(p < 1) || !(freedom > 0)) return null_value(Null(Reason::domain, own));
  return number(opensum::quantile(op, p, freedom), own);
}

Value function(const Checked& node, const std::vector<Value>& args, OriginId own) {
  const double x = args[0].number;
  const Value domain = null_value(Null(Reason::domain, own));
  switch (node.op) {
    case Op::convert:
      // Adding zero would turn -0 into 0.
      if (node.conversion.add == 0) return number(x * node.conversion.multiply / node.conversion.divide, own);
      return number(x * node.conversion.multiply / node.conversion.divide + node.conversion.add, own);
    case Op::negate:
      return number(-x, own);
    case Op::logical_not:
      return truth(x == 0);
    case Op::absolute:
      return number(std::fabs(x), own);
    case Op::sign:
      return number(x > 0 ? 1 : x < 0 ? -1 : 0, own);
    case Op::square_root:
      return x < 0 ? domain : number(std::sqrt(x), own);
    case Op::cube_root:
      return number(std::cbrt(x), own);
    case Op::exponential:
      return number(std::exp(x), own);
    case Op::exponential_less_1:
      return number(std::expm1(x), own);
    case Op::log_of_1_more:
      return x <= -1 ? domain : number(std::log1p(x), own);
    case Op::error_function:
      return number(std::erf(x), own);
    case Op::normal_quantile:
      return distribution_quantile(node.op, x, 1, own);
    case Op::natural_log:
      return x <= 0 ? domain : number(std::log(x), own);
    case Op::decimal_log:
      return x <= 0 ? domain : number(std::log10(x), own);
    case Op::binary_log:
      return x <= 0 ? domain : number(std::log2(x), own);
    case Op::sine:
      return number(std::sin(x), own);
    case Op::cosine:
      return number(std::cos(x), own);
    case Op::tangent:
      return number(std::tan(x), own);
    case Op::arc_sine:
      return std::fabs(x) > 1 ? domain : number(std::asin(x), own);
    case Op::arc_cosine:
      return std::fabs(x) > 1 ? domain : number(std::acos(x), own);
    case Op::arc_tangent:
      return number(std::atan(x), own);
    case Op::hyperbolic_sine:
      return number(std::sinh(x), own);
    case Op::hyperbolic_cosine:
      return number(std::cosh(x), own);
    case Op::hyperbolic_tangent:
      return number(std::tanh(x), own);
    case Op::round_to:
    case Op::floor_to:
    case Op::ceil_to:
    case Op::trunc_to:
      return number(rounded(node.op, x, std::get<RoundingStep>(node.setting).size), own);
    default:
      not_computed(node.op, "the reference of one number");
  }
}

// Days since 1970-01-01 by counting years and months, and back again.
bool leap(int year) { return (year % 4 == 0 && year % 100 != 0) || year % 400 == 0; }
int days_in(int year, int month) {
  if (month == 2) return leap(year) ? 29 : 28;
  return month == 4 || month == 6 || month == 9 || month == 11 ? 30 : 31;
}
double day_number(int year, int month, int day) {
  double days = 0;
  for (int y = 1970; y < year; ++y) days += leap(y) ? 366 : 365;
  for (int y = year; y < 1970; ++y) days -= leap(y) ? 366 : 365;
  for (int m = 1; m < month; ++m) days += days_in(year, m);
  return days + day - 1;
}
struct Parts {
  int year = 1970;
  int month = 1;
  int day = 1;
};
Parts parts_of(double seconds) {
  double left = std::floor(seconds / 86400);
  Parts parts;
  while (left < 0) left += leap(--parts.year) ? 366 : 365;
  while (left >= (leap(parts.year) ? 366 : 365)) left -= leap(parts.year++) ? 366 : 365;
  while (left >= days_in(parts.year, parts.month)) left -= days_in(parts.year, parts.month++);
  parts.day = static_cast<int>(left) + 1;
  return parts;
}
double clock_of(double seconds) { return seconds - std::floor(seconds / 86400) * 86400; }

Value date(double seconds, OriginId own) {
  const bool good = seconds >= day_number(0, 1, 1) * 86400 && seconds < day_number(10000, 1, 1) * 86400;
  return good ? number(seconds, own) : null_value(Null(Reason::overflow, own));
}

double months_later(double seconds, double months) {
  const Parts from = parts_of(seconds);
  const double count = from.year * 12.0 + from.month - 1 + months;
  const int year = static_cast<int>(std::floor(count / 12));
  const int month = static_cast<int>(count - 12.0 * year) + 1;
  return day_number(year, month, std::min(from.day, days_in(year, month))) * 86400 + clock_of(seconds);
}

double years_between(double from, double to) {
  if (to < from) {
    double back = parts_of(from).year - parts_of(to).year - 2;
    while (months_later(from, -12 * (back + 1)) >= to) ++back;
    return back <= 0 ? 0 : -back;
  }
  double years = parts_of(to).year - parts_of(from).year - 2;
  while (months_later(from, 12 * (years + 1)) <= to) ++years;
  return years < 0 ? 0 : years;
}

Value period_edge(const Checked& node, double seconds, OriginId own) {
  const Parts p = parts_of(seconds);
  const bool start = node.op == Op::start_of;
  const double today = std::floor(seconds / 86400);
  const int quarter = (p.month - 1) / 3 * 3 + 1;
  switch (static_cast<int>(std::get<Period>(node.setting))) {
    case 0:
      return date(86400 * (start ? day_number(p.year, 1, 1) : day_number(p.year, 12, 31)), own);
    case 1:
      return date(86400 * (start ? day_number(p.year, quarter, 1)
                                 : day_number(p.year, quarter + 2, days_in(p.year, quarter + 2))),
                  own);
    case 2:
      return date(86400 * day_number(p.year, p.month, start ? 1 : days_in(p.year, p.month)), own);
    case 3: {
      // 1970-01-01 was a Thursday.
      const double monday = today - (today + 3 - 7 * std::floor((today + 3) / 7));
      return date(86400 * (start ? monday : monday + 6), own);
    }
    case 4:
      return date(86400 * today, own);
    default:
      return date(std::floor(seconds / 3600) * 3600 + (start ? 0 : 3599), own);
  }
}

Value in_text(std::string text) {
  Value value;
  value.text = std::move(text);
  return value;
}

std::string cased(std::string text, bool upper) {
  for (char& c : text) {
    c = static_cast<char>(upper ? std::toupper(static_cast<unsigned char>(c))
                                : std::tolower(static_cast<unsigned char>(c)));
  }
  return text;
}

// `hh:mm`, `hh:mm:ss`, and on clocks of twelve hours.
std::optional<double> clock_in(std::string text) {
  const std::size_t begin = text.find_first_not_of(' ');
  if (begin == std::string::npos) return std::nullopt;
  text = text.substr(begin, text.find_last_not_of(' ') + 1 - begin);
  int half = 0;
  if (text.size() > 3 && text.compare(text.size() - 3, 3, " AM") == 0) half = 1;
  if (text.size() > 3 && text.compare(text.size() - 3, 3, " PM") == 0) half = 2;
  if (half > 0) text.resize(text.size() - 3);
  const bool back = text.front() == '-';
  if (back) text.erase(0, 1);
  std::vector<int> parts;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t end = std::min(text.find(':', at), text.size());
    const std::string digits = text.substr(at, end - at);
    if (digits.empty() || digits.find_first_not_of("0123456789") != std::string::npos) return std::nullopt;
    if (parts.empty() ? digits.size() > 6 : digits.size() != 2 || digits[0] > '5') return std::nullopt;
    parts.push_back(std::stoi(digits));
    at = end + 1;
  }
  if (parts.size() < 2 || parts.size() > 3) return std::nullopt;
  if (half > 0) {
    if (back || parts[0] < 1 || parts[0] > 12) return std::nullopt;
    parts[0] = parts[0] % 12 + 12 * (half - 1);
  }
  parts.resize(3);
  return (back ? -1 : 1) * (3600.0 * parts[0] + 60 * parts[1] + parts[2]);
}

Value date_or_text(const Checked& node, const std::vector<Value>& args, OriginId own) {
  static const std::vector<std::string> months = {"January",   "February", "March",    "April",
                                                  "May",       "June",     "July",     "August",
                                                  "September", "October",  "November", "December"};
  static const std::vector<std::string> days = {"Thursday", "Friday",  "Saturday", "Sunday",
                                                "Monday",   "Tuesday", "Wednesday"};
  const double x = args[0].number;
  const std::string& text = args[0].text;
  switch (node.op) {
    case Op::within_calendar:
      return date(x, own);
    case Op::shift_months:
      if (args[1].number != std::floor(args[1].number)) return null_value(Null(Reason::domain, own));
      if (std::fabs(args[1].number) > 200000) return null_value(Null(Reason::overflow, own));
      return date(months_later(x, args[1].number), own);
    case Op::shift_days:
      if (args[1].number != std::floor(args[1].number)) return null_value(Null(Reason::domain, own));
      return date(x + 86400 * args[1].number, own);
    case Op::whole_years:
      return number(years_between(x, args[1].number), own);
    case Op::date_time: {
      const bool in_words = node.args[1]->type.kind == Kind::text;
      const auto clock = in_words ? clock_in(args[1].text) : std::optional(args[1].number);
      if (!clock) return null_value(Null(Reason::unreadable, own));
      return date(std::floor(x / 86400) * 86400 + *clock, own);
    }
    case Op::year_of:
      return number(parts_of(x).year, own);
    case Op::quarter_of:
      return number(std::ceil(parts_of(x).month / 3.0), own);
    case Op::month_of:
      return number(parts_of(x).month, own);
    case Op::week_of: {
      // Thursdays since the first of January of the year of this week's Thursday.
      const double day = std::floor(x / 86400);
      const double since_monday = day + 3 - 7 * std::floor((day + 3) / 7);
      const double thursday = day - since_monday + 3;
      const int year = parts_of(thursday * 86400).year;
      double count = 0;
      for (double d = day_number(year, 1, 1); d <= thursday; ++d)
        count += d - 7 * std::floor(d / 7) == 0 ? 1 : 0;
      return number(count, own);
    }
    case Op::day_of_year: {
      double day = parts_of(x).day;
      for (int m = 1; m < parts_of(x).month; ++m) day += days_in(parts_of(x).year, m);
      return number(day, own);
    }
    case Op::day_of:
      return number(parts_of(x).day, own);
    case Op::hour_of:
      return number(std::floor(clock_of(x) / 3600), own);
    case Op::minute_of:
      return number(std::floor(clock_of(x) / 60) - 60 * std::floor(clock_of(x) / 3600), own);
    case Op::second_of:
      return number(std::round((clock_of(x) - 60 * std::floor(clock_of(x) / 60)) * 1e6) / 1e6, own);
    case Op::weekday_of: {
      const double since_monday = std::floor(x / 86400) + 3;
      return number(since_monday - 7 * std::floor(since_monday / 7) + 1, own);
    }
    case Op::month_name:
      return in_text(months[static_cast<std::size_t>(parts_of(x).month - 1)]);
    case Op::weekday_name: {
      const double since = std::floor(x / 86400);
      return in_text(days[static_cast<std::size_t>(since - 7 * std::floor(since / 7))]);
    }
    case Op::start_of:
    case Op::end_of:
      return period_edge(node, x, own);
    case Op::contains:
      return truth(text.find(args[1].text) != std::string::npos);
    case Op::starts_with:
      return truth(text.rfind(args[1].text, 0) == 0);
    case Op::ends_with:
      return truth(text.size() >= args[1].text.size() &&
                   text.compare(text.size() - args[1].text.size(), std::string::npos, args[1].text) == 0);
    case Op::part: {
      std::vector<std::string> parts = {""};
      const std::string& sign = args[1].text;
      for (std::size_t i = 0; i < text.size();) {
        if (text.compare(i, sign.size(), sign) == 0) {
          parts.emplace_back();
          i += sign.size();
        } else {
          parts.back() += text[i++];
        }
      }
      const std::size_t place = std::get<PartNumber>(node.setting).number;
      return place > parts.size() ? null_value(Null(Reason::out_of_range, own)) : in_text(parts[place - 1]);
    }
    case Op::number_of_text: {
      const NumberReading reading = read_number(trimmed(text));
      if (reading.fault == NumberFault::none) return number(reading.value, own);
      return null_value(
          Null(reading.fault == NumberFault::too_large ? Reason::overflow : Reason::unreadable, own));
    }
    case Op::upper:
    case Op::lower:
      return in_text(cased(text, node.op == Op::upper));
    case Op::trim: {
      const std::size_t begin = text.find_first_not_of(" \t");
      if (begin == std::string::npos) return in_text("");
      return in_text(text.substr(begin, text.find_last_not_of(" \t") - begin + 1));
    }
    case Op::concat: {
      std::string all;
      for (std::size_t i = 0; i < args.size(); ++i) {
        const std::string& kind = node.names[i];
        if (kind == "text") all += args[i].text;
        if (kind == "number") all += number_text(args[i].number);
        if (kind == "date") all += date_text(instant_near(args[i].number));
        if (kind == "date and time") all += date_text(instant_near(args[i].number), true);
        if (kind == "truth") all += args[i].number != 0 ? "true" : "false";
      }
      return in_text(all);
    }
    default:
      not_computed(node.op, "the reference of dates and texts");
  }
}

Value two(const Checked& node, const Value& left, const Value& right, OriginId own) {
  const double a = left.number;
  const double b = right.number;
  const Value by_zero = null_value(Null(Reason::divide_by_zero, own));
  switch (node.op) {
    case Op::add:
      return number(a + b, own);
    case Op::subtract:
      return number(a - b, own);
    case Op::multiply:
      return number(a * b, own);
    case Op::divide:
      return b == 0 ? by_zero : number(a / b, own);
    case Op::power:
      if (a == 0 && b < 0) return by_zero;
      if (a < 0 && b != std::floor(b)) return null_value(Null(Reason::domain, own));
      return number(b == 2 ? a * a : b == 0.5 ? std::sqrt(a) : std::pow(a, b), own);
    case Op::modulo: {
      if (b == 0) return by_zero;
      return number(modulo(a, b), own);
    }
    case Op::equal:
      return truth(same_number(*node.args[0], a, b));
    case Op::not_equal:
      return truth(!same_number(*node.args[0], a, b));
    case Op::less:
      return truth(is_less(*node.args[0], a, b));
    case Op::less_equal:
      return truth(!is_less(*node.args[0], b, a));
    case Op::greater:
      return truth(is_less(*node.args[0], b, a));
    case Op::greater_equal:
      return truth(!is_less(*node.args[0], a, b));
    case Op::text_equal:
      return truth(left.text == right.text);
    case Op::text_not_equal:
      return truth(left.text != right.text);
    case Op::t_quantile:
    case Op::chi2_quantile:
      return distribution_quantile(node.op, a, b, own);
    case Op::arc_tangent2:
      return number(std::atan2(a, b), own);
    case Op::hypotenuse:
      return number(std::hypot(a, b), own);
    default:
      not_computed(node.op, "the reference of two numbers");
  }
}

// The limit of a cell such as `<0.5`, in the unit in which it is compared.
std::optional<double> limit_of(const Checked& node, const std::vector<const Column*>& columns,
                               std::size_t row) {
  const bool converted = node.op == Op::convert;
  const Checked& cell = converted ? *node.args[0] : node;
  if (cell.op != Op::column) return std::nullopt;
  const Reason reason = columns[cell.column]->null(row).reason();
  if (reason != Reason::below_limit && reason != Reason::above_limit) return std::nullopt;
  const double limit = columns[cell.column]->number(row);
  const double here = converted ? node.conversion(limit) : limit;
  return std::isfinite(here) ? here : std::copysign(std::numeric_limits<double>::max(), here);
}

// A comparison in which a side is only known to be at most, or at least, its limit.
std::optional<bool> by_limits(const Checked& node, const std::vector<Value>& args,
                              const std::vector<const Column*>& columns, std::size_t row) {
  if (!node.keeps_limit[0] && !node.keeps_limit[1]) return std::nullopt;
  // A number that stands for the side where it is as small, and as great, as it can be.
  std::optional<double> least[2];
  std::optional<double> greatest[2];
  for (std::size_t i = 0; i < 2; ++i) {
    if (!args[i].null) {
      least[i] = greatest[i] = args[i].number;
      continue;
    }
    const auto limit = node.keeps_limit.at(i) ? limit_of(*node.args[i], columns, row) : std::nullopt;
    if (!limit) return std::nullopt;
    if (args[i].null.reason() == Reason::below_limit) {
      greatest[i] = limit;
    } else {
      least[i] = limit;
    }
  }
  if (!args[0].null && !args[1].null) return std::nullopt;
  const bool surely_less = greatest[0] && least[1] && typed(*greatest[0]) < typed(*least[1]);
  const bool surely_greater = least[0] && greatest[1] && typed(*least[0]) > typed(*greatest[1]);
  const bool at_most = greatest[0] && least[1] && typed(*greatest[0]) <= typed(*least[1]);
  const bool at_least = least[0] && greatest[1] && typed(*least[0]) >= typed(*greatest[1]);
  const auto decide = [](bool yes, bool no) {
    return yes ? std::optional(true) : no ? std::optional(false) : std::nullopt;
  };
  switch (node.op) {
    case Op::less:
      return decide(surely_less, at_least);
    case Op::less_equal:
      return decide(at_most, surely_greater);
    case Op::greater:
      return decide(surely_greater, at_most);
    case Op::greater_equal:
      return decide(at_least, surely_less);
    case Op::equal:
      return decide(false, surely_less || surely_greater);
    default:
      return decide(surely_less || surely_greater, false);
  }
}

}  // namespace

Value evaluate(const Checked& node, const std::vector<const Column*>& columns, std::size_t row,
               OriginId own) {
  if (needs_whole_column(node.op)) return evaluate_whole(node, columns, row, own);
  std::vector<Value> args;
  for (const CheckedPtr& arg : node.args) args.push_back(evaluate(*arg, columns, row, own));
  switch (node.op) {
    case Op::constant:
      return number(node.number, own);
    case Op::text_constant: {
      Value value;
      value.text = node.text;
      return value;
    }
    case Op::null_constant:
      return null_value(Null(Reason::excluded, own));
    case Op::column: {
      const Column& column = *columns[node.column];
      Value value;
      value.null = column.null(row);
      if (column.kind == Kind::text) {
        value.text = std::string(column.text(row));
      } else {
        value.number = column.number(row);
      }
      return value;
    }
    case Op::logical_and:
    case Op::logical_or: {
      const double decides = node.op == Op::logical_or ? 1 : 0;
      for (const Value& arg : args) {
        if (!arg.null && arg.number == decides) return truth(decides == 1);
      }
      for (const Value& arg : args) {
        if (arg.null) return arg;
      }
      return truth(decides != 1);
    }
    case Op::select:
      if (args[0].null) return null_of(args[0]);
      return args[0].number != 0 ? args[1] : args[2];
    case Op::is_any: {
      if (args[0].null) return null_of(args[0]);
      const Value* unknown = nullptr;
      for (std::size_t i = 1; i < args.size(); ++i) {
        if (args[i].null) {
          if (unknown == nullptr) unknown = &args[i];
        } else if (same_number(*node.args[0], args[i].number, args[0].number) &&
                   args[i].text == args[0].text) {
          return truth(true);
        }
      }
      return unknown != nullptr ? null_of(*unknown) : truth(false);
    }
    case Op::is_null:
      return truth(static_cast<bool>(args[0].null));
    case Op::fallback:
      for (const Value& arg : args) {
        if (!arg.null) return arg;
      }
      return args[0];
    case Op::complete:
      return truth(std::none_of(args.begin(), args.end(), [](const Value& v) { return bool(v.null); }));
    case Op::exclude:
      if (args[0].null) return args[0];
      if (args[1].null) return null_of(args[1]);
      return args[1].number != 0 ? null_value(Null(Reason::excluded, own)) : args[0];
    case Op::limit: {
      const Reason reason = args[0].null.reason();
      if (!args[0].null) return null_value(Null(Reason::excluded, own));
      if (reason != Reason::below_limit && reason != Reason::above_limit) return args[0];
      return number(args[0].number, own);
    }
    case Op::ratio:
      if (args[0].null) return args[0];
      if (args[1].null) return args[1];
      return args[1].number == 0 ? args[2] : number(args[0].number / args[1].number, own);
    default:
      break;
  }
  const OpFamily family = family_of(node.op);
  if (family == OpFamily::along_row) return row_reduction(node, args, own);
  if (const auto decided = by_limits(node, args, columns, row)) return truth(*decided);
  for (const Value& arg : args) {
    if (arg.null) return null_of(arg);
  }
  if (node.op == Op::clamp) {
    if (args[1].number > args[2].number) return null_value(Null(Reason::domain, own));
    return number(std::min(std::max(args[0].number, args[1].number), args[2].number), own);
  }
  if (node.op == Op::agrees) {
    if (args[2].number < 0) return null_value(Null(Reason::domain, own));
    const Exact distance = typed(args[0].number) - typed(args[1].number);
    return truth((distance < 0 ? -distance : distance) <= typed(args[2].number));
  }
  if (family == OpFamily::of_dates || family == OpFamily::of_texts) return date_or_text(node, args, own);
  return args.size() == 2 ? two(node, args[0], args[1], own) : function(node, args, own);
}

}  // namespace opensum::reference
