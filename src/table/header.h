// Symbols made of labels, and what names consist of.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace opensum {

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

}  // namespace opensum
