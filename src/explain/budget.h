// The budget of an uncertainty: what each unknown contributes to it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "message/diagnostic.h"
#include "report/summary.h"
#include "study/prepared_study.h"

namespace opensum {

/// The budget of a cell, whose deviations must have been kept.
Budget budget_of(const StudyRun& run, const RunSheet& sheet, std::size_t column, std::size_t row);

/// The same as text, a line for each source; empty where there is none.
std::string budget_text(const StudyRun& run, const RunSheet& sheet, std::size_t column, std::size_t row);

/// Looks up the cells whose budgets a study asks for, as `duty row 5` or `run.duty`; what is not there is
/// reported.
std::vector<BudgetWish> budgets_asked(const PreparedStudy& prepared, Diagnostics& diagnostics);

/// Their budgets, once all is computed; of a column without a row that of its first known value. Rows that
/// are not there are reported.
std::vector<Budget> budgets_of(const PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
