// Equations in words, as a paper would put them.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "equation/tree.h"

namespace opensum {

/// What columns are called in the middle of a sentence, by their symbols.
using Labels = std::map<std::string, std::string>;

/// A label in the middle of a sentence: its first letter small, unless it begins a sign such as `pH` or
/// `CO2`.
std::string label_in_sentence(const std::string& label);

/// `1 row`, `2 rows`.
std::string counted(std::size_t count, const char* what);

/// A number and its unit, unless that is 1.
std::string with_unit(const std::string& number, const std::string& unit);

/// `a`, `a and b`, `a, b and c`.
std::string enumerated(const std::vector<std::string>& items);

/// What an equation does, where a few words say it: `the mean of outlet temperature A to outlet temperature
/// C, of those that were known, at least 2`. Empty where it takes the equation itself.
std::string in_words(const Node& expression, const Labels& labels);

}  // namespace opensum
