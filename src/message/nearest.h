// The nearest right name for a misspelt one.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// How many single-character edits (insert, delete, replace, swap of neighbours) turn one word into the
/// other; letters that differ in case alone count as nearly the same.
double edit_distance(std::string_view a, std::string_view b);

/// The candidate nearest to `word`, or an empty string when none is near enough to be meant. Of equally
/// near candidates the first wins.
std::string nearest_name(std::string_view word, const std::vector<std::string>& candidates);

}  // namespace opensum
