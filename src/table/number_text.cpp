// Numbers as text.
#include "table/number_text.h"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>

#include "table/digits.h"
#include "table/usual_number.h"

namespace opensum {
namespace {

constexpr int kDefaultDigits = 12;
constexpr std::size_t kLongestQuantity = 15;

}  // namespace

bool is_plain_decimal(std::string_view text) {
  std::size_t at = 0;
  if (at < text.size() && (text[at] == '-' || text[at] == '+')) ++at;
  std::size_t digits = skip_digits(text, at);
  if (at < text.size() && text[at] == '.') {
    ++at;
    digits += skip_digits(text, at);
  }
  if (digits == 0) return false;
  if (at < text.size() && (text[at] == 'e' || text[at] == 'E')) {
    ++at;
    if (at < text.size() && (text[at] == '-' || text[at] == '+')) ++at;
    if (skip_digits(text, at) == 0) return false;
  }
  return at == text.size();
}

NumberReading read_number(std::string_view text) {
  NumberReading usual;
  if (read_usual_number(text, usual.value)) {
    usual.fault = NumberFault::none;
    return usual;
  }
  if (!is_plain_decimal(text)) return {};
  if (text.front() == '+') text.remove_prefix(1);
  NumberReading reading;
  const auto result = fast_float::from_chars(text.data(), text.data() + text.size(), reading.value);
  if (result.ec != std::errc() || result.ptr != text.data() + text.size()) return {};
  reading.fault = std::isfinite(reading.value) ? NumberFault::none : NumberFault::too_large;
  return reading;
}

bool NumberStyle::is_possible() const {
  const auto characters = std::count_if(
      group.begin(), group.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; });
  return characters <= 1 && group != std::string(1, decimal) && !is_digit(decimal) &&
         (group.empty() || !is_digit(group[0]));
}

std::string plain_number_text(std::string_view text, const NumberStyle& style) {
  if (style.is_plain()) return std::string(text);
  std::string plain;
  std::size_t digits = 0;  // since the last sign
  bool grouped = false;
  bool fraction = false;
  for (std::size_t at = 0; at < text.size();) {
    const char c = text[at];
    if (!fraction && !style.group.empty() && text.substr(at).starts_with(style.group)) {
      if (digits == 0 || digits > 3 || (grouped && digits != 3)) return {};
      // A number of thousands does not begin with a zero: `0,123` is one with another decimal sign.
      if (!grouped && plain[plain.size() - digits] == '0') return {};
      grouped = true;
      digits = 0;
      at += style.group.size();
      continue;
    }
    if (!fraction && (c == style.decimal || c == 'e' || c == 'E')) {
      if (grouped && digits != 3) return {};
      fraction = true;
      plain += c == style.decimal ? '.' : c;
    } else if (c == '.' && style.decimal != '.') {
      return {};
    } else {
      digits += is_digit(c) ? 1 : 0;
      plain += c;
    }
    ++at;
  }
  if (grouped && !fraction && digits != 3) return {};
  return plain;
}

NumberReading read_number(std::string_view text, const NumberStyle& style) {
  return style.is_plain() ? read_number(text) : read_number(plain_number_text(text, style));
}

bool looks_like_code(std::string_view text) {
  // Most numbers are settled by their length and first digit.
  if (text.size() <= kLongestQuantity && !text.empty() && text[0] > '0' && text[0] <= '9') return false;
  if (!text.empty() && (text[0] == '-' || text[0] == '+')) text.remove_prefix(1);
  for (const char c : text) {
    if (!is_digit(c)) return false;
  }
  return text.size() > kLongestQuantity || (text.size() > 1 && text[0] == '0');
}

namespace {

// A number of digits by the formatting library, which is right for all of them.
std::string any_number_text(double value, int digits) {
  std::string text = digits < 0 ? fmt::format("{}", value)
                                : fmt::format("{:.{}g}", value, digits == 0 ? kDefaultDigits : digits);
  // 1e-07 and 1e+20 become 1e-7 and 1e20, the shorter usual forms.
  const std::size_t exponent = text.find('e');
  if (exponent != std::string::npos) {
    std::size_t sign = exponent + 1;
    if (text[sign] == '+') {
      text.erase(sign, 1);
    } else if (text[sign] == '-') {
      ++sign;
    }
    while (sign + 1 < text.size() && text[sign] == '0') text.erase(sign, 1);
  }
  return text;
}

// A product of two words.
__extension__ using Product128 = unsigned __int128;

// The powers of ten that a word holds, as far as they are needed.
constexpr std::array<std::uint64_t, 16> kPowers = {1,
                                                   10,
                                                   100,
                                                   1'000,
                                                   10'000,
                                                   100'000,
                                                   1'000'000,
                                                   10'000'000,
                                                   100'000'000,
                                                   1'000'000'000,
                                                   10'000'000'000,
                                                   100'000'000'000,
                                                   1'000'000'000'000,
                                                   10'000'000'000'000,
                                                   100'000'000'000'000,
                                                   1'000'000'000'000'000};

// The borders of the decades of usual sizes.
constexpr std::array<double, 17> kDecades = {1e-4, 1e-3, 1e-2, 1e-1, 1e0, 1e1,  1e2,  1e3, 1e4,
                                             1e5,  1e6,  1e7,  1e8,  1e9, 1e10, 1e11, 1e12};

constexpr std::uint64_t kMillion = 1'000'000;

// The pairs of digits from 00 to 99.
constexpr std::array<char, 200> kPairs = [] {
  std::array<char, 200> pairs{};
  for (std::size_t i = 0; i < 100; ++i) {
    pairs.at(2 * i) = static_cast<char>('0' + i / 10);
    pairs.at(2 * i + 1) = static_cast<char>('0' + i % 10);
  }
  return pairs;
}();

// Six digits of a number below a million, zeros in front among them.
void write_six(char* to, std::uint32_t number) {
  const std::uint32_t front = number / 10'000;
  const std::uint32_t rest = number % 10'000;
  for (const std::uint32_t pair : {front, rest / 100, rest % 100}) {
    std::memcpy(to, &kPairs[std::size_t{2} * pair], 2);
    to += 2;
  }
}

// How many of the eight digits before an end are zeros at that end; eight are counted on one by one.
int zeros_at_end(const char* end) {
  static_assert(std::endian::native == std::endian::little);
  constexpr std::uint64_t kZeros = 0x3030303030303030ULL;
  std::uint64_t last = 0;
  std::memcpy(&last, end - sizeof last, sizeof last);
  if (last != kZeros) return std::countl_zero(last ^ kZeros) / 8;
  int zeros = sizeof last;
  while (end[-zeros - 1] == '0') ++zeros;
  return zeros;
}

// Twelve significant digits of a number of usual size. It is a whole number of powers of two, so that its
// product with a power of ten, and what is left after twelve digits, are known exactly. A null pointer where
// it is half-way between two, and for sizes that are written with an exponent.
char* write_usual(char* to, double value) {
  static_assert(std::numeric_limits<double>::is_iec559);
  constexpr std::uint64_t kOne = 100'000'000'000;  // the least number of twelve digits
  constexpr int kFractionBits = 52;
  constexpr int kBias = 1023;
  const double size = std::fabs(value);
  if (!(size >= kDecades.front() && size < kDecades.back())) return nullptr;
  const auto bits = std::bit_cast<std::uint64_t>(size);
  const int binary = static_cast<int>(bits >> kFractionBits) - kBias;
  // A guess from the power of two, log10(2) = 1233 / 4096, which is right or one too small.
  const int guess = (binary * 1233) >> 12;
  auto decade = static_cast<std::size_t>(std::max(guess + 4, 0));
  decade += static_cast<std::size_t>(size >= kDecades[decade + 1]);
  const int exponent = static_cast<int>(decade) - 4;
  constexpr std::uint64_t kHidden = std::uint64_t{1} << kFractionBits;
  const std::uint64_t mantissa = (bits & (kHidden - 1)) | kHidden;
  const int shift = kFractionBits - binary;
  // Half of the last digit is added, so that what is cut off rounds: nothing is cut off half-way between two.
  const Product128 rounded =
      Product128{mantissa} * kPowers[static_cast<std::size_t>(kDefaultDigits - 1 - exponent)] +
      (Product128{1} << (shift - 1));
  const auto number = static_cast<std::uint64_t>(rounded >> shift);
  if (rounded == Product128{number} << shift) return nullptr;
  if (number < kOne || number >= 10 * kOne) return nullptr;
  // Whole steps of this size are copied, whose rest is overwritten or cut off.
  constexpr std::size_t kStep = 16;
  std::array<char, kDefaultDigits + kStep> all{};
  write_six(all.data(), static_cast<std::uint32_t>(number / kMillion));
  write_six(all.data() + kDefaultDigits / 2, static_cast<std::uint32_t>(number % kMillion));
  const int digits = kDefaultDigits - zeros_at_end(all.data() + kDefaultDigits);
  // From here on numbers of all sizes go the same way: which of them come next cannot be foreseen.
  *to = '-';
  to += static_cast<std::ptrdiff_t>(value < 0);
  const bool below_one = exponent < 0;
  const int lead = below_one ? 1 - exponent : 0;  // 0. and zeros
  const int whole = below_one ? 0 : exponent + 1;
  const int point = below_one ? 0 : 1;
  std::memcpy(to, "0.000", sizeof "0.000");
  std::memcpy(to + lead, all.data(), kStep);
  to[lead + whole] = '.';
  std::memcpy(to + lead + whole + point, all.data() + whole, kStep);
  return to + (digits <= whole ? whole : lead + digits + point);
}

}  // namespace

char* write_number(char* to, double value, int digits) {
  if (value == 0) {
    *to++ = '0';
    return to;
  }
  if (digits <= 0 && std::fabs(value) <= kLargestExactInteger) {
    const auto whole = static_cast<std::int64_t>(value);
    if (static_cast<double>(whole) == value) {
      const fmt::format_int text(whole);
      return std::copy_n(text.data(), text.size(), to);
    }
  }
  if (digits == 0) {
    if (char* const end = write_usual(to, value)) return end;
  }
  const std::string text = any_number_text(value, digits);
  return std::copy_n(text.data(), text.size(), to);
}

void append_number(std::string& out, double value, int digits) {
  std::array<char, kLongestNumber> text{};
  out.append(text.data(), static_cast<std::size_t>(write_number(text.data(), value, digits) - text.data()));
}

std::string number_text(double value, int digits) {
  std::string text;
  append_number(text, value, digits);
  return text;
}

}  // namespace opensum
