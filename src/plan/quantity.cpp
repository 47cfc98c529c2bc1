// A number with its unit, as a study writes it in one text.
#include "plan/quantity.h"

#include "table/number_text.h"

namespace opensum {

std::optional<Quantity> read_quantity(const std::string& text, const UnitSystem& units) {
  const std::size_t blank = text.find_first_of(" [");
  const NumberReading number = read_number(trimmed(text.substr(0, blank)));
  if (number.fault != NumberFault::none) return std::nullopt;
  Quantity quantity;
  quantity.value = number.value;
  if (blank == std::string::npos) return quantity;
  std::string words(trimmed(std::string_view(text).substr(blank)));
  if (words.size() > 1 && words.front() == '[') words = words.substr(1, words.size() - 2);
  if (words.empty()) return quantity;
  const UnitReading unit = units.read(words);
  if (!unit.unit) return std::nullopt;
  quantity.unit = *unit.unit;
  quantity.unit_stated = true;
  return quantity;
}

}  // namespace opensum
