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

/// The rules for the gaps of a measured column.
struct FillPlan {
  std::size_t measured = 0;  ///< index in the scope and in the table
  std::size_t filled = 0;    ///< the column that holds the values with gaps filled
  std::vector<Passage> texts;
  std::vector<Program> rules;
};

struct ClaimPlan {
  Claim claim;
  Program program;
};

/// A text with which a condition compares a column.
struct ComparedText {
  std::size_t column = 0;
  std::string text;
  Span span;
};

struct SheetPlan {
  Scope scope;
  std::vector<FillPlan> fills;
  std::vector<DerivedColumn> derived;  ///< as written
  std::vector<std::size_t> order;      ///< indices into `derived`, as they must be computed
  std::vector<ClaimPlan> claims;
  /// Of a plan for `keep`: the columns of each complete(…), and texts that columns are compared with.
  std::vector<std::vector<std::size_t>> complete;
  std::vector<ComparedText> compared;
};

/// What all sheets of a study share.
struct PlanContext {
  const std::vector<ScopeConstant>& constants;
  const std::vector<std::string>& sheets;
  const UnitSystem& units;
  const NullPolicy& policy;
  Origins& origins;
};

/// Reads, checks and evaluates definitions without columns.
std::vector<ScopeConstant> plan_constants(const std::vector<Passage>& passages, const UnitSystem& units,
                                          const NullPolicy& policy, Diagnostics& diagnostics);

/// Checks the fills, equations and claims of a sheet against its table and puts the equations in order. Adds
/// to the table a column for each fill, behind the one that it fills, and one for each equation, still
/// without values. All errors are reported together.
SheetPlan plan_sheet(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                     Diagnostics& diagnostics);

/// The plan of a condition for `keep`, with those equations that it needs. Adds columns to the table as
/// plan_sheet does. The program stands in the only claim; without one there were errors.
SheetPlan plan_keep(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                    Diagnostics& diagnostics);

/// Defines the study's own units; faults are reported.
UnitSystem plan_units(const std::vector<OwnUnit>& own, Diagnostics& diagnostics);

/// Indices of definitions in an order in which each comes after those it needs. `needs[i]` are the indices
/// that i needs. A ring is given to `ring` instead, in its own order, and left out of the result.
std::vector<std::size_t> dependency_order(const std::vector<std::vector<std::size_t>>& needs,
                                          std::vector<std::vector<std::size_t>>& rings);

}  // namespace opensum
