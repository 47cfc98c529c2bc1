// From definitions to an order of computing: constants with their values, and the derived columns of a sheet
// checked and compiled.
#pragma once

#include <string>
#include <vector>

#include "equation/checker.h"
#include "equation/program.h"
#include "study/model.h"
#include "study/sheet_table.h"

namespace opensum {

/// A derived column, ready to be computed.
struct DerivedColumn {
  Definition definition;
  std::size_t index = 0;  ///< in the scope and in the table
  Type type;
  Program program;
  std::vector<std::string> inputs;  ///< the columns it is computed from
  std::string null_rule;            ///< in words
  bool good = false;
};

struct SheetPlan {
  Scope scope;
  std::vector<DerivedColumn> derived;  ///< as written
  std::vector<std::size_t> order;      ///< indices into `derived`, as they must be computed
};

/// Reads, checks and evaluates definitions without columns.
std::vector<ScopeConstant> plan_constants(const std::vector<Passage>& passages, const UnitSystem& units,
                                          const NullPolicy& policy, Diagnostics& diagnostics);

/// Checks the equations of a sheet against its table and puts them in order. Appends to the table a column
/// for each, still without values. All errors are reported together.
SheetPlan plan_sheet(const SheetModel& sheet, SheetTable& table, const std::vector<ScopeConstant>& constants,
                     const std::vector<std::string>& sheets, const UnitSystem& units,
                     const NullPolicy& policy, Origins& origins, Diagnostics& diagnostics);

/// Defines the study's own units; faults are reported.
UnitSystem plan_units(const std::vector<OwnUnit>& own, Diagnostics& diagnostics);

/// Indices of definitions in an order in which each comes after those it needs. `needs[i]` are the indices
/// that i needs. A ring is given to `ring` instead, in its own order, and left out of the result.
std::vector<std::size_t> dependency_order(const std::vector<std::vector<std::size_t>>& needs,
                                          std::vector<std::vector<std::size_t>>& rings);

}  // namespace opensum
