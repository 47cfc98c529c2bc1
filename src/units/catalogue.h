// The units and constants that every study knows: a table of data.
#pragma once

#include <cstdint>
#include <span>

namespace opensum {

/// Which SI prefixes a unit takes.
enum class Prefixes : std::uint8_t {
  none,
  all,
  large,  ///< k M G T
  small,  ///< m µ n p f
};

/// One line of the catalogue.
struct CatalogueUnit {
  const char* symbol;
  /// Other spellings, separated by spaces.
  const char* aliases;
  /// What one of it is, in other units; empty for the SI base units.
  const char* definition;
  Prefixes prefixes;
  const char* name;
  const char* quantity;
};

struct CatalogueConstant {
  const char* symbol;
  const char* value;
  const char* unit;
  const char* name;
  /// Also an energy per cycle: times a frequency it leaves no cycles.
  bool per_cycle = false;
};

struct CataloguePrefix {
  const char* symbol;
  const char* name;
  int power_of_ten;
};

std::span<const CatalogueUnit> catalogue_units();
std::span<const CataloguePrefix> catalogue_prefixes();
std::span<const CatalogueConstant> catalogue_constants();

}  // namespace opensum
