// The budget of an uncertainty: what each unknown contributes to it.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "engine/study_run.h"

namespace opensum {

/// What one source contributes to the uncertainty of a cell.
struct BudgetLine {
  std::string source;
  std::string own;          ///< its own standard uncertainty; empty where it is not one number
  std::string sensitivity;  ///< how much the value moves with it; empty where that is not one number
  std::string contribution;
  double share = 0;  ///< of the variance
};

/// The budget of a cell, the largest contribution first; nothing for one whose uncertainty is not known. Its
/// deviations must have been kept.
struct Budget {
  std::string value;
  std::string uncertainty;
  std::vector<BudgetLine> lines;
};
Budget budget_of(const StudyRun& run, const RunSheet& sheet, std::size_t column, std::size_t row);

/// The same as text, a line for each source; empty where there is none.
std::string budget_text(const StudyRun& run, const RunSheet& sheet, std::size_t column, std::size_t row);

}  // namespace opensum
