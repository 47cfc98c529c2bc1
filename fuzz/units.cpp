// Units: what is read is printed, and what is printed is read as the same unit.
#include "bytes.h"
#include "units/unit_system.h"

using namespace opensum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  const UnitSystem units;
  const std::string text = text_of(bytes, size);
  const UnitReading reading = units.read(text);
  if (!reading.unit) {
    (void)units.meant_by(text);
    return 0;
  }
  const Unit& unit = *reading.unit;
  const std::string printed = unit.text();
  const UnitReading again = units.read(printed);
  require(again.unit.has_value(), "`" + printed + "` can be read");
  require(same_scale(*again.unit, unit), "`" + printed + "` is the unit that was printed");
  require(again.unit->text() == printed, "`" + printed + "` is printed as it was");
  (void)unit.typeset();
  // What the algebra makes of it does not show angles in products.
  const Unit made = coherent(unit);
  const UnitReading of_made = units.read(made.text());
  require(of_made.unit.has_value(), "`" + made.text() + "` can be read");
  require(of_made.unit->dimension == made.dimension && of_made.unit->factor == made.factor,
          "`" + made.text() + "` is what it was made from");
  return 0;
}
