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
  std::uint64_t seed = 0;
  std::string constants;
  std::string formulas;
  std::vector<Sheet> sheets;

  std::string toml() const;
};

/// The study of a seed: 3 to 8 sheets of 2 to 12 rows.
RandomStudy random_study(std::uint64_t seed);

}  // namespace opensum::reference
