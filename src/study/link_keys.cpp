// What the keys of a link say.
#include "study/link_keys.h"

#include "table/number_text.h"

namespace opensum {

std::pair<std::string, std::string> split_keys(const std::string& text) {
  const std::size_t equals = text.find('=');
  const std::string here(trimmed(std::string_view(text).substr(0, equals)));
  if (equals == std::string::npos) return {here, here};
  return {here, std::string(trimmed(std::string_view(text).substr(equals + 1)))};
}

bool read_within(const Passage& text, const Type& key, const UnitSystem& units, double& within,
                 Diagnostics& diagnostics) {
  const std::string& given = text.text();
  const std::size_t blank = given.find_first_of(" [");
  const NumberReading number = read_number(trimmed(given.substr(0, blank)));
  std::string unit_text = blank == std::string::npos ? "" : std::string(trimmed(given.substr(blank)));
  if (unit_text.size() > 1 && unit_text.front() == '[') unit_text = unit_text.substr(1, unit_text.size() - 2);
  const UnitReading unit = units.read(unit_text.empty() ? "1" : unit_text);
  const Unit wanted = key.kind == Kind::date ? second() : difference_unit(key.unit);
  if (number.fault != NumberFault::none || number.value < 0 || !unit.unit ||
      mismatch(*unit.unit, wanted) != Mismatch::none) {
    diagnostics.add(Code::link_within_unit, text.place(), {given, wanted.is_one() ? "1" : wanted.text()});
    return false;
  }
  within = conversion(*unit.unit, key.kind == Kind::date ? wanted : key.unit, true)(number.value);
  return true;
}

}  // namespace opensum
