// Numbers that were written with their standard uncertainty, such as `0.42 ± 0.01`: each is one unknown for
// everything that is calculated from it.
#pragma once

#include <cstddef>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/trial.h"
#include "message/source.h"

namespace opensum {

/// What a number moves by when one of those is off by its standard uncertainty.
struct NumberPart {
  std::size_t number = 0;  ///< its place in UncertainNumbers
  double by = 0;
};

/// All of a study.
class UncertainNumbers {
 public:
  /// The place of the one that stands in a text; the same for each use of a formula.
  std::size_t at(const Place& place, const std::string& name) {
    const auto key = std::make_pair(static_cast<const void*>(place.source.get()), place.span.begin);
    const auto [found, added] = by_place_.emplace(key, names_.size());
    if (added) names_.push_back(name);
    return found->second;
  }
  /// As a budget names it.
  const std::string& name(std::size_t number) const { return names_[number]; }
  void rename(std::size_t number, const std::string& name) { names_[number] = name; }
  std::size_t size() const { return names_.size(); }

  /// In a trial numbers are drawn at random; else they are as written.
  std::optional<Trial> trial;
  /// By how many of its standard uncertainties a number is off.
  double drawn(std::size_t number) const {
    constexpr std::uint64_t kKind = UINT64_MAX;
    return trial ? trial->normal(kKind, number) : 0;
  }

 private:
  std::map<std::pair<const void*, std::size_t>, std::size_t> by_place_;
  std::vector<std::string> names_;
};

}  // namespace opensum
