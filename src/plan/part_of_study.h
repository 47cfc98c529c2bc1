// A part of a study: some of its sheets, fits and plots, with what they need.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "message/diagnostic.h"
#include "model/study.h"

namespace opensum {

/// What was asked for by name.
struct PartOfStudy {
  std::set<std::string> sheets;
  std::set<std::string> fits;
  std::set<std::string> plots;
};

/// Takes all out of a study but what is wanted, `duty`, or `plot.duty` where several are called so, and what
/// that needs: the sheets and fits that its equations, conditions, fills and links name, and so on. Sheets
/// that are only needed lose their claims and are not written. An unknown or ambiguous name is reported.
PartOfStudy take_part(Study& study, const std::vector<Passage>& wanted, Diagnostics& diagnostics);

}  // namespace opensum
