// Symbols made of labels, and what names consist of.
#include "table/header.h"

#include <utf8proc.h>

#include <algorithm>
#include <array>
#include <map>

#include "base/unicode.h"
#include "table/number_text.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

constexpr std::array kReserved = {"codata", "fit", "self", "null", "true", "false",
                                  "pi",     "and", "or",   "not",  "in",   "for"};

}  // namespace

bool is_reserved(std::string_view word) {
  return std::find(kReserved.begin(), kReserved.end(), word) != kReserved.end();
}

std::size_t name_character(std::string_view text, std::size_t at, bool first) {
  std::int32_t code = 0;
  const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                       static_cast<utf8proc_ssize_t>(text.size() - at), &code);
  if (length <= 0) return 0;
  const auto category = utf8proc_category(code);
  const bool letter = code == '_' || (category >= UTF8PROC_CATEGORY_LU && category <= UTF8PROC_CATEGORY_LO);
  const bool later = (category >= UTF8PROC_CATEGORY_MN && category <= UTF8PROC_CATEGORY_ME) ||
                     category == UTF8PROC_CATEGORY_ND;
  return letter || (!first && later) ? static_cast<std::size_t>(length) : 0;
}

std::string symbol_of(std::string_view label) {
  const std::string text = normalised(unify_lookalikes(label));
  std::string symbol;
  bool gap = false;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t length = name_character(text, at, false);
    if (length == 0) {
      gap = true;
      ++at;
      continue;
    }
    if (gap && !symbol.empty()) symbol += '_';
    gap = false;
    symbol.append(text, at, length);
    at += length;
  }
  if (symbol.empty()) return symbol;
  if (name_character(symbol, 0, true) == 0) symbol.insert(0, "c_");
  if (is_reserved(symbol)) symbol += '_';
  return symbol;
}

void number_repeated(std::vector<std::string>& symbols) {
  std::map<std::string, int> count;
  for (const std::string& symbol : symbols) ++count[symbol];
  std::map<std::string, int> next;
  for (std::string& symbol : symbols) {
    if (count[symbol] < 2) continue;
    const std::string base = symbol;
    // A numbered name must not meet a column that is called so itself.
    do {
      symbol = base + '_' + std::to_string(++next[base]);
    } while (count.contains(symbol));
  }
}

}  // namespace opensum
