// Rows found again by the hash of their keys: a table of places, in which each row stands once.
#pragma once

#include <bit>
#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

#include "table/instant.h"

namespace opensum {

/// The hash of a number and of a text, and of several keys one after the other. Equal numbers, 0 and -0
/// among them, have equal hashes.
inline std::uint64_t mixed(std::uint64_t bits) {
  // The finalizer of MurmurHash3.
  bits ^= bits >> 33U;
  bits *= 0xFF51AFD7ED558CCDULL;
  bits ^= bits >> 33U;
  bits *= 0xC4CEB9FE1A85EC53ULL;
  return bits ^ (bits >> 33U);
}
inline std::uint64_t hash_of(double number) {
  return mixed(std::bit_cast<std::uint64_t>(number == 0 ? 0.0 : number));
}
inline std::uint64_t hash_of(const Instant& instant) {
  const std::uint64_t hash = hash_of(instant.seconds);
  return instant.rest == 0 ? hash : mixed(hash + hash_of(static_cast<double>(instant.rest)));
}
inline std::uint64_t hash_of(std::string_view text) { return std::hash<std::string_view>()(text); }
inline std::uint64_t hash_of(std::uint64_t first, std::uint64_t second) {
  return mixed(first * 0x9E3779B97F4A7C15ULL + second);
}

class RowHash {
 public:
  static constexpr std::size_t kNone = SIZE_MAX;

  /// With room for so many rows.
  explicit RowHash(std::size_t rows) : slots_(std::bit_ceil(2 * rows + 1)) {}

  /// The row of a hash for which `same(row)` is true; kNone where there is none.
  template <typename Same>
  std::size_t find(std::uint64_t hash, const Same& same) const {
    const Slot& slot = slots_[slot_of(hash, same)];
    return slot.row;
  }
  /// The same, but where there is none `row` is put there.
  template <typename Same>
  std::size_t find_or_add(std::uint64_t hash, std::size_t row, const Same& same) {
    Slot& slot = slots_[slot_of(hash, same)];
    if (slot.row != kNone) return slot.row;
    slot = {hash, row};
    return kNone;
  }

 private:
  struct Slot {
    std::uint64_t hash = 0;
    std::size_t row = kNone;
  };

  template <typename Same>
  std::size_t slot_of(std::uint64_t hash, const Same& same) const {
    std::size_t at = hash & (slots_.size() - 1);
    while (slots_[at].row != kNone && !(slots_[at].hash == hash && same(slots_[at].row)))
      at = (at + 1) & (slots_.size() - 1);
    return at;
  }

  std::vector<Slot> slots_;
};

}  // namespace opensum
