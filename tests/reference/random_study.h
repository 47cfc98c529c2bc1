// Whole studies at random: sheets of every kind that look into one another in any order and depth.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace opensum::reference {

/// The parts of a study, each of which may be left out to find the least that still fails.
struct RandomStudy {
  struct Sheet {
    std::string name;
    std::string head;                    ///< where its rows come from, and its settings
    std::vector<std::string> settings;   ///< keep, sort_by, links and fills, a line each
    std::vector<std::string> equations;  ///< a line each
    std::vector<std::string> claims;
  };
  /// A standard uncertainty that is stated of a measured column, in kg, s or K.
  struct Stated {
    std::string sheet;
    std::string column;
    std::string size;
    std::string unit;
  };
  std::uint64_t seed = 0;
  std::string constants;
  std::string formulas;
  std::vector<Sheet> sheets;
  std::vector<Stated> stated;

  std::string toml() const;
};

/// The study of a seed: 3 to 8 sheets of 2 to 12 rows. With uncertainties there are no fills: that of a
/// constant in a gap is not known.
enum class Uncertainties : std::uint8_t { none, stated };
RandomStudy random_study(std::uint64_t seed, Uncertainties uncertainties = Uncertainties::none);

}  // namespace opensum::reference
