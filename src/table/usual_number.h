// The short exact way to read most numbers.
#pragma once

#include <array>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <string_view>

namespace opensum {

/// The powers of ten that a double holds exactly.
constexpr std::array<double, 23> kExactPowers = {1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                 1e8,  1e9,  1e10, 1e11, 1e12, 1e13, 1e14, 1e15,
                                                 1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};

/// A number of up to 15 digits without exponent: its digits as one, and how many of them are decimals.
struct UsualNumber {
  std::uint64_t digits = 0;
  std::size_t decimals = 0;
  bool negative = false;
};

/// Eight digits, the first in the lowest byte, as one number: neighbours are joined three times.
inline std::uint64_t joined_digits(std::uint64_t word) {
  constexpr std::uint64_t kPairs = 0x000000FF000000FFULL;
  word = word * 10 + (word >> 8U);
  return ((word & kPairs) * (100 + (1'000'000ULL << 32U)) +
          ((word >> 16U) & kPairs) * (1 + (10'000ULL << 32U))) >>
         32U;
}

/// Reads such a number; false for all other texts. All bytes are looked at at once, for numbers of different
/// lengths make a loop over them slow.
inline bool read_usual_digits(std::string_view text, UsualNumber& number) {
  static_assert(std::endian::native == std::endian::little);
  constexpr std::uint64_t kEach = 0x0101010101010101ULL;
  constexpr std::uint64_t kLow = 0x7F7F7F7F7F7F7F7FULL;
  constexpr std::size_t kWord = sizeof(std::uint64_t);
  constexpr std::size_t kMostDigits = 15;
  const char* at = text.data();
  std::size_t size = text.size();
  number.negative = size > 0 && *at == '-';
  if (number.negative) {
    ++at;
    --size;
  }
  if (size == 0 || size > kMostDigits + 1) return false;
  // The bytes in two words, the first in the lowest byte; none is read beyond the text.
  const auto word_at = [&](std::size_t place) {
    std::uint64_t word = 0;
    std::memcpy(&word, at + place, kWord);
    return word;
  };
  const auto byte_at = [&](std::size_t place) {
    return std::uint64_t{static_cast<unsigned char>(at[place])} << (8 * place);
  };
  std::uint64_t low = 0;
  std::uint64_t high = 0;
  if (size >= kWord) {
    low = word_at(0);
    high = size == kWord ? 0 : word_at(size - kWord) >> (8 * (2 * kWord - size));
  } else if (size >= kWord / 2) {
    std::uint32_t first = 0;
    std::uint32_t last = 0;
    std::memcpy(&first, at, sizeof first);
    std::memcpy(&last, at + size - sizeof last, sizeof last);
    low = first | std::uint64_t{last} << (8 * (size - sizeof last));
  } else {
    low = byte_at(0) | byte_at(size / 2) | byte_at(size - 1);
  }
  // The point is taken out, and what follows it moves up.
  const auto points_in = [&](std::uint64_t word) {
    const std::uint64_t others = word ^ (kEach * '.');
    return ~(((others & kLow) + kLow) | others | kLow);
  };
  number.decimals = 0;
  std::size_t count = size;
  if (const std::uint64_t points = points_in(low); points != 0) {
    const auto place = static_cast<unsigned>(std::countr_zero(points)) / 8;
    const std::uint64_t before = (std::uint64_t{1} << (8 * place)) - 1;
    low = (low & before) | ((low >> 8U) & ~before) | (high << 56U);
    high >>= 8U;
    number.decimals = --count - place;
  } else if (const std::uint64_t later = points_in(high); later != 0) {
    const auto place = static_cast<unsigned>(std::countr_zero(later)) / 8;
    const std::uint64_t before = (std::uint64_t{1} << (8 * place)) - 1;
    high = (high & before) | ((high >> 8U) & ~before);
    number.decimals = --count - place - kWord;
  }
  if (count == 0 || count > kMostDigits) return false;
  // Zeros come before, so that the last digit is in the highest byte.
  const auto shifted = [](std::uint64_t word, std::size_t digits) {
    const std::size_t missing = 8 * (kWord - digits);
    return missing == 0 ? word : (word << missing) | ((kEach * '0') >> (64 - missing));
  };
  const auto are_digits = [](std::uint64_t word) {
    constexpr std::uint64_t kHalves = 0xF0F0F0F0F0F0F0F0ULL;
    return ((word & kHalves) | (((word + kEach * 6) & kHalves) >> 4U)) == kEach * '3';
  };
  if (count <= kWord) {
    low = shifted(low, count);
    if (!are_digits(low)) return false;
    number.digits = joined_digits(low - kEach * '0');
    return true;
  }
  high = shifted(high, count - kWord);
  if (!are_digits(low) || !are_digits(high)) return false;
  number.digits = joined_digits(low - kEach * '0') * static_cast<std::uint64_t>(kExactPowers[count - kWord]) +
                  joined_digits(high - kEach * '0');
  return true;
}

/// Reads a number without exponent whose digits a double holds exactly: one division of two exact numbers is
/// rounded right (Clinger 1990). False for all others.
inline bool read_usual_number(std::string_view text, double& value) {
  UsualNumber number;
  if (!read_usual_digits(text, number)) return false;
  const double whole = static_cast<double>(number.digits) / kExactPowers[number.decimals];
  value = number.negative ? -whole : whole;
  return true;
}

}  // namespace opensum
