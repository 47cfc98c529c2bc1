// Values of the plain interpreter of whole studies.
#include "reference/study_values.h"

#include <cmath>

namespace opensum::reference {

double to_double(const Exact& number) { return number.convert_to<double>(); }

Exact exact_decimal(const std::string& digits) {
  std::string whole;
  int power = 0;
  bool point = false;
  std::size_t i = 0;
  const bool negative = !digits.empty() && digits[0] == '-';
  if (negative || (!digits.empty() && digits[0] == '+')) ++i;
  for (; i < digits.size() && digits[i] != 'e' && digits[i] != 'E'; ++i) {
    if (digits[i] == '.') {
      point = true;
      continue;
    }
    whole += digits[i];
    if (point) --power;
  }
  if (i < digits.size()) power += std::stoi(digits.substr(i + 1));
  const std::size_t nonzero = std::min(whole.find_first_not_of('0'), whole.size());
  boost::multiprecision::cpp_int number(nonzero == whole.size() ? "0" : whole.substr(nonzero));
  const boost::multiprecision::cpp_int scale =
      boost::multiprecision::pow(boost::multiprecision::cpp_int(10), static_cast<unsigned>(std::abs(power)));
  Exact value = power < 0 ? Exact(number, scale) : Exact(number * scale);
  return negative ? Exact(-value) : value;
}

Worth worth(Exact number, double error) {
  Worth value;
  // A double has it within half a unit of its last place.
  value.error = error + std::fabs(to_double(number)) * 1.2e-16;
  value.number = std::move(number);
  return value;
}

Worth date_worth(const Exact& seconds, double error) {
  using Integer = boost::multiprecision::cpp_int;
  const Exact count = seconds * 1'000'000'000;
  const Exact doubled = count * 2 + 1;
  // Half of a nanosecond is rounded up, and what is that near to it may be rounded to either side.
  Integer whole = numerator(doubled) / (denominator(doubled) * 2);
  if (doubled < 0 && Exact(whole * 2) != doubled) --whole;
  const double apart = 0.5 - std::fabs(to_double(Exact(count - Exact(whole))));
  Worth value;
  value.kind = Kind::date;
  value.number = Exact(whole) / 1'000'000'000;
  if (error * 4e9 >= apart) value.error = error + 1e-9;
  return value;
}

Worth truth_worth(bool truth) {
  Worth value;
  value.kind = Kind::truth;
  value.number = truth ? 1 : 0;
  return value;
}

Worth text_worth(std::string text) {
  Worth value;
  value.kind = Kind::text;
  value.text = std::move(text);
  return value;
}

Worth null_worth(Reason reason) {
  Worth value;
  value.null = Absent{reason, std::nullopt};
  return value;
}

int order(const Worth& a, const Worth& b, bool& unsure) {
  const Exact difference = a.number - b.number;
  const double size = std::fabs(to_double(difference));
  const double scale = std::max(std::fabs(to_double(a.number)), std::fabs(to_double(b.number)));
  if (a.kind == Kind::date && b.kind == Kind::date) {
    unsure = unsure || (a.error + b.error > 0 && size <= 4 * (a.error + b.error));
    return difference < 0 ? -1 : difference > 0 ? 1 : 0;
  }
  // A reading in °C that was in kelvin before has lost digits.
  constexpr double kColdest = 150;
  constexpr double kHottest = 450;
  if (difference == 0 && scale > kColdest && scale < kHottest) {
    unsure = true;
    return 0;
  }
  if (difference == 0) {
    // The same number by another way of calculating is the same at 15 digits, unless much of it cancelled.
    unsure = unsure || a.error + b.error > scale * 2e-16 * 2;
    return 0;
  }
  unsure = unsure || size <= 4 * (a.error + b.error) + scale * 2e-15;
  return difference < 0 ? -1 : 1;
}

}  // namespace opensum::reference
