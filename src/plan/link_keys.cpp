// What the keys of a link say.
#include "plan/link_keys.h"

#include "base/result.h"
#include "plan/quantity.h"
#include "table/number_text.h"

namespace opensum {

std::pair<std::string, std::string> split_keys(const std::string& text) {
  const std::size_t equals = text.find('=');
  const std::string here(trimmed(std::string_view(text).substr(0, equals)));
  if (equals == std::string::npos) return {here, here};
  return {here, std::string(trimmed(std::string_view(text).substr(equals + 1)))};
}

Result<void> read_within(const Passage& text, const Type& key, const UnitSystem& units,
                         std::optional<double>& within, Diagnostics& diagnostics) {
  const auto quantity = read_quantity(text.text(), units);
  const Unit wanted = key.kind == Kind::date ? second() : difference_unit(key.unit);
  if (!quantity || quantity->value < 0 || mismatch(quantity->unit, wanted)) {
    diagnostics.add(Code::link_within_unit, text.place(),
                    {text.text(), wanted.is_one() ? "1" : wanted.text()});
    return false;
  }
  within = conversion(quantity->unit, key.kind == Kind::date ? wanted : key.unit, true)(quantity->value);
  return true;
}

}  // namespace opensum
