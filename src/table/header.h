// Column headers: the label, the unit and the symbol that stand in one.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "units/unit_system.h"

namespace opensum {

/// What in a header's brackets was not taken for a unit, though it may be meant as one.
enum class HeaderDoubt : std::uint8_t { none, nearly_unit, single_letter, plain_number };

struct HeaderReading {
  std::string label;
  Unit unit;
  bool unit_stated = false;
  HeaderDoubt doubt = HeaderDoubt::none;
  std::string bracketed;  ///< what the doubt is about
  std::string meant;      ///< the unit it may mean
};

/// Reads `Flow [L/min]`, `Flow (L/min)`, `Flow / (L/min)` or `t/°C`. In round brackets and behind a solidus a
/// single letter, `min` or `1` is as likely a name, so it is taken for no unit and doubted; square brackets
/// hold units, so there only `C` and `F` are doubted.
HeaderReading read_header(std::string_view header, const UnitSystem& units);

/// The symbol for a label: NFC, look-alikes unified, runs of other characters become `_`, `c_` before a
/// leading digit, a trailing `_` on a reserved word. An empty label gives an empty symbol.
std::string symbol_of(std::string_view label);

/// Makes symbols distinct: several of one symbol `s` become `s_1`, `s_2`, ….
void number_repeated(std::vector<std::string>& symbols);

/// A letter of any script, a digit or `_`: what names consist of. Reads one character at `at`, gives its
/// length in bytes, 0 when it is none of these.
std::size_t name_character(std::string_view text, std::size_t at, bool first);

/// Words that cannot be names.
bool is_reserved(std::string_view word);

/// Unicode normal form C.
std::string normalised(std::string_view text);

/// The columns a text takes up in a terminal.
std::size_t display_width(std::string_view text);

}  // namespace opensum
