// Numbers as text: strict reading and reproducible writing.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace opensum {

/// How reading a number ended.
enum class NumberFault : std::uint8_t { none, malformed, too_large };

struct NumberReading {
  double value = 0;
  NumberFault fault = NumberFault::malformed;
};

/// Reads a plain decimal number, `-12.5e3` or `+.5`, correctly rounded. Nothing may follow it; infinity,
/// NaN and hexadecimal are malformed; what is beyond the largest double is too_large; what is nearer to
/// zero than the smallest is zero.
NumberReading read_number(std::string_view text);

/// How a file writes its numbers: `1.234,5` has the decimal sign `,` and the thousands sign `.`.
struct NumberStyle {
  char decimal = '.';
  std::string group;  ///< one character, or empty for none

  bool is_plain() const { return decimal == '.' && group.empty(); }
  /// Whether the signs are one character each and can be told apart.
  bool is_possible() const;
};

/// Reads a number in a style. Between thousands signs there are three digits, and no zero stands first; any
/// other is malformed.
NumberReading read_number(std::string_view text, const NumberStyle& style);

/// A number in a style with the signs of plain ones: `1.234,50` becomes `1234.50`. Empty for what is no
/// number in that style.
std::string plain_number_text(std::string_view text, const NumberStyle& style);

/// An integer that is likely a code and no quantity: a leading zero before further digits, or over 15 digits.
bool looks_like_code(std::string_view text);

/// True for text that other programs read as the same number: digits with an optional sign, point and
/// exponent.
bool is_plain_decimal(std::string_view text);

/// A derived number as written: `digits` significant digits (0: 12; -1: the shortest text that reads back
/// the same), trailing zeros dropped, whole numbers up to 2^53 in full.
std::string number_text(double value, int digits = 0);
/// The same, appended to a text.
void append_number(std::string& out, double value, int digits = 0);
/// The same at a place with room for kLongestNumber bytes; gives the place after it.
char* write_number(char* to, double value, int digits = 0);
constexpr std::size_t kLongestNumber = 48;

/// Without blanks at both ends.
inline std::string_view trimmed(std::string_view text) {
  while (!text.empty() && (text.front() == ' ' || text.front() == '\t')) text.remove_prefix(1);
  while (!text.empty() && (text.back() == ' ' || text.back() == '\t')) text.remove_suffix(1);
  return text;
}

}  // namespace opensum
