// opensum units: what units and constants there are.
#include <algorithm>
#include <cctype>
#include <memory>

#include "cli/command.h"
#include "cli/text_table.h"
#include "files/shared_files.h"
#include "files/study_reader.h"
#include "plan/plan.h"
#include "table/number_text.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

std::string lower(std::string_view text) {
  std::string out(text);
  std::transform(out.begin(), out.end(), out.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return out;
}

const char* prefixes_text(Prefixes prefixes) {
  switch (prefixes) {
    case Prefixes::none:
      return "";
    case Prefixes::all:
      return "all";
    case Prefixes::large:
      return "k M G T";
    case Prefixes::small:
      return "m µ n p f";
  }
  return "";
}

// What one of a unit is: the scales and angles have factors that the catalogue's text does not hold.
std::string definition_text(const UnitSystem& units, const CatalogueUnit& entry) {
  const Unit unit = *units.read(entry.symbol).unit;
  if (unit.is_reading()) return "a reading on a scale";
  const UnitReading definition = units.read(entry.definition);
  if (definition.unit && !(definition.unit->factor == unit.factor))
    return number_text(unit.factor.value()) + " " + coherent(unit).text();
  return entry.definition;
}

// A word matches a symbol or alias exactly, and a name or quantity in part.
bool matches(const std::string& word, std::string_view symbol, std::string_view aliases,
             std::string_view name, std::string_view quantity) {
  if (word.empty() || word == symbol) return true;
  if ((" " + std::string(aliases) + " ").find(" " + word + " ") != std::string::npos) return true;
  const std::string small = lower(word);
  return word.size() > 2 &&
         (lower(name).find(small) != std::string::npos || lower(quantity).find(small) != std::string::npos);
}

// What files along the path of shared files add to every study that uses them.
struct SharedTables {
  TextTable unit_table{{{"own unit"}, {"is"}, {"from"}}};
  TextTable constant_table{{{"own constant"}, {"value"}, {"unit"}, {"name"}, {"from"}}};
  std::size_t units = 0;
  std::size_t constants = 0;
};

SharedTables shared_tables(const std::string& word, Diagnostics& diagnostics) {
  SharedTables tables;
  for (const std::string& path : all_shared()) {
    Inputs inputs;
    const Library library = read_shared(path, inputs, diagnostics);
    for (const OwnUnit& unit : library.units) {
      if (!matches(word, unit.symbol.text(), "", unit.symbol.text(), unit.definition.text())) continue;
      tables.unit_table.add({unit.symbol.text(), unit.definition.text(), path});
      ++tables.units;
    }
    UncertainNumbers uncertain;
    const UnitSystem units = plan_units(library.units, diagnostics);
    for (const ScopeConstant& constant :
         plan_constants(library.constants, {}, units, NullPolicy(), uncertain, diagnostics)) {
      if (constant.broken || !matches(word, constant.name, "", constant.label, "")) continue;
      const bool text = constant.type.kind == Kind::text;
      tables.constant_table.add({constant.name, text ? constant.text : number_text(constant.number),
                                 text ? "" : constant.type.unit.text(), constant.label, path});
      ++tables.constants;
    }
  }
  return tables;
}

int list_units(const std::string& word, bool markdown, Streams& streams) {
  const UnitSystem units;
  TextTable unit_table({{"unit"}, {"also"}, {"is"}, {"prefixes"}, {"name"}, {"quantity"}});
  std::size_t found = 0;
  // A unit as it stands, with a prefix or compound, finds those of its dimension.
  const UnitReading reading = units.read(word);
  std::vector<const CatalogueUnit*> alike;
  if (reading.unit) alike = units_of_dimension(units, reading.unit->dimension);
  for (const CatalogueUnit& entry : catalogue_units()) {
    const bool same = reading.unit && std::find(alike.begin(), alike.end(), &entry) != alike.end();
    if (!same && !matches(word, entry.symbol, entry.aliases, entry.name, entry.quantity)) continue;
    unit_table.add({entry.symbol, entry.aliases, definition_text(units, entry), prefixes_text(entry.prefixes),
                    entry.name, entry.quantity});
    ++found;
  }
  TextTable constant_table({{"constant"}, {"value"}, {"unit"}, {"name"}});
  std::size_t constants = 0;
  for (const CatalogueConstant& entry : catalogue_constants()) {
    const std::string symbol = std::string("codata.") + entry.symbol;
    if (word != "codata" && word != symbol && !matches(word, entry.symbol, "", entry.name, "")) continue;
    constant_table.add({symbol, entry.value, entry.unit, entry.name});
    ++constants;
  }
  Diagnostics diagnostics;
  const SharedTables shared = shared_tables(word, diagnostics);
  const std::size_t width = streams.out_is_terminal ? streams.width : SIZE_MAX;
  if (found > 0) streams.out << (markdown ? unit_table.markdown() + "\n" : unit_table.text(width));
  if (constants > 0) streams.out << (markdown ? constant_table.markdown() : constant_table.text(width));
  if (shared.units > 0)
    streams.out << (markdown ? shared.unit_table.markdown() : shared.unit_table.text(width));
  if (shared.constants > 0)
    streams.out << (markdown ? shared.constant_table.markdown() : shared.constant_table.text(width));
  if (found + constants + shared.units + shared.constants > 0) return report(diagnostics, streams);
  diagnostics.add(Code::no_such_unit, {word, reading.suggestion});
  return report(diagnostics, streams);
}

}  // namespace

void add_units(CommandLine& command_line) {
  auto word = std::make_shared<std::string>();
  Command command = command_line.add("units", "list units and constants, by name, symbol or dimension",
                                     "  opensum units pressure\n"
                                     "  opensum units kJ/s");
  command.argument("WORD", *word, "a symbol, a name or a quantity");
  auto format = std::make_shared<std::string>("table");
  add_list_format(command, *format);
  command.runs(
      [word, format](Streams& streams) { return list_units(*word, *format == "markdown", streams); });
}

}  // namespace opensum
