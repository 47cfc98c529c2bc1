// From definitions to an order of computing: constants with their values, and the derived columns of a sheet
// checked and compiled.
#pragma once

#include <deque>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "equation/check_context.h"
#include "equation/program.h"
#include "fit/curve.h"
#include "model/study.h"
#include "plan/cell_headers.h"
#include "plan/sheet_table.h"
#include "plan/uncertainty.h"

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

/// How the rows of a sheet find their rows in another.
struct LinkPlan {
  std::string name;
  Place place;
  std::optional<std::size_t> sheet;  ///< the number of the other one, if there is such a sheet
  LinkHow how = LinkHow::equal;
  std::optional<double> within;  ///< in the unit of the last key here, in s for dates; nothing for any
  struct Keys {
    std::size_t here = 0;  ///< indices in the tables
    std::size_t there = 0;
    Conversion conversion;
  };
  std::vector<Keys> keys;
  bool good = false;
};

/// A column that holds, row by row, what a link leads to.
struct BorrowedColumn {
  std::size_t index = 0;  ///< in the scope and in the table
  std::size_t link = 0;
  std::size_t there = 0;  ///< index in the other table
};

/// A column by which the rows are sorted where they are written.
struct SortKey {
  std::size_t column = 0;
  bool down = false;
};

/// A column of a sheet that is taken over from the sheet of which it has the rows.
struct TakenColumn {
  std::size_t index = 0;  ///< in the scope and in the table
  std::size_t there = 0;  ///< in the other table; of cells the first one
  /// Of the column of a sheet with one row per cell that holds these cells, in turn: where they stand in the
  /// other table, and how they come to the unit of the first.
  std::vector<std::size_t> cells = {};
  std::vector<Conversion> to_first = {};
  /// Holds what the headers of the cells say.
  bool of_headers = false;

  std::size_t there_of(std::size_t cell) const { return cells.empty() ? there : cells[cell]; }
};

struct KeepPlan;

struct SheetPlan {
  Scope scope;
  std::vector<FillPlan> fills;
  std::vector<DerivedColumn> derived;  ///< as written
  std::vector<std::size_t> order;      ///< indices into `derived`, as they must be computed
  std::vector<ClaimPlan> claims;
  std::vector<LinkPlan> links;
  std::vector<BorrowedColumn> borrowed;
  std::vector<SortKey> sort_by;
  SheetUncertainty uncertainty;
  /// The number of the sheet of which this one has the rows; nothing for one with rows of its own.
  std::optional<std::size_t> source;
  std::vector<TakenColumn> taken;
  /// Of a sheet with one row per cell of the source: what their headers say.
  std::optional<CellHeaders> cell_headers;
  /// One row for each combination of values of these columns of the source, if it is grouped.
  bool grouped = false;
  std::vector<std::size_t> keys;
  /// Which of the source's rows, or of its own where the condition looks through links; a null pointer for
  /// all that are there.
  std::shared_ptr<KeepPlan> keep;
  /// Columns of the source that only `keep` looks at: their index in its table, and there.
  std::vector<TakenColumn> keep_also;
  /// Of a plan for `keep`: the columns of each complete(…), and texts that columns are compared with.
  std::vector<std::vector<std::size_t>> complete;
  std::vector<ComparedText> compared;
};

/// A condition for rows, over a table of its own. Its program stands in the only claim of the plan. What it
/// finds in other sheets stands in the plan's links and borrowed columns.
struct KeepPlan {
  SheetTable table;
  SheetPlan plan;
};

/// A fit to the points of one sheet. Columns are indices in the sheet's table.
struct FitSheetPlan {
  std::size_t sheet = 0;
  std::size_t x = 0;
  std::size_t y = 0;
  std::optional<std::size_t> by;
  std::optional<std::size_t> weights;
  /// The weights are the standard uncertainty of y, which this converts to its unit.
  std::optional<Conversion> from_uncertainty;
  /// The standard uncertainty of x, where points count by both.
  std::optional<std::size_t> x_error;
  Conversion to_x_error;
  std::optional<Program> keep;
  /// To the units of the fit, which are those of its first sheet.
  Conversion to_x;
  Conversion to_y;
  bool good = false;
};

struct FitPlan {
  const FitModel* model = nullptr;
  CurveModel curve;
  /// Of x, of y and of the parameters; known once the first sheet is checked.
  Type x;
  Type y;
  std::vector<Type> types;
  bool known = false;
  std::vector<FitSheetPlan> sheets;
};

/// What all sheets of a study share.
struct PlanContext {
  const std::vector<ScopeConstant>& constants;
  const std::vector<Formula>& formulas;
  const std::vector<std::string>& sheets;
  const std::vector<FitModel>& fits;
  const std::vector<PlotModel>& plots;
  const UnitSystem& units;
  const NullPolicy& policy;
  Origins& origins;
  UncertainNumbers& uncertain;
};

/// Reads, checks and evaluates definitions without columns. Those of `others` stand in the place of those of
/// the same name.
std::vector<ScopeConstant> plan_constants(const std::vector<Passage>& passages,
                                          const std::vector<Passage>& others, const UnitSystem& units,
                                          const NullPolicy& policy, UncertainNumbers& uncertain,
                                          Diagnostics& diagnostics);

/// One thing to compute: a derived column, a fill or a link of a sheet, by its index there; which rows of
/// another sheet it has, and a column that it takes over from there; a fit to its points.
struct Task {
  enum class Kind : std::uint8_t { derived, fill, link, rows, taken, fit };
  Kind kind{};
  std::size_t sheet = 0;
  std::size_t index = 0;  ///< of a fit, its number
};

/// A sheet with its table, to be planned.
struct SheetInput {
  const SheetModel* model = nullptr;
  SheetTable* table = nullptr;
};

/// The conditions of a plot for the rows of its sheets, by their numbers.
using PlotKeep = std::map<std::size_t, Program>;

struct StudyPlan {
  std::deque<SheetPlan> sheets;
  std::deque<FitPlan> fits;
  std::vector<PlotKeep> plots;
  /// Everything to compute, each after what it needs, over all sheets.
  std::vector<Task> order;
};

/// Reads the named formulas of a study. Their bodies are checked where they are used.
std::vector<Formula> plan_formulas(const std::vector<Passage>& passages, Diagnostics& diagnostics);

/// The sheets in an order in which each comes after the one of which it has the rows. A sheet that is not
/// there and a cycle are reported, and nothing is given.
std::vector<std::size_t> order_by_source(const std::vector<SheetInput>& sheets, Diagnostics& diagnostics);

/// Checks the links, fills, equations and claims of all sheets against their tables and puts them in one
/// order. Adds to the tables a column for each fill, after the one that it fills, one for each equation and
/// one for each column that a link borrows, still without values. All errors are reported together.
StudyPlan plan_study(const std::vector<SheetInput>& sheets, const PlanContext& context,
                     Diagnostics& diagnostics);

/// Defines the study's own units; faults are reported.
UnitSystem plan_units(const std::vector<OwnUnit>& own, Diagnostics& diagnostics);

/// Indices of definitions in an order in which each comes after those it needs. `needs[i]` are the indices
/// that i needs. A cycle is given to `cycles` instead, in its own order, and left out of the result.
std::vector<std::size_t> dependency_order(const std::vector<std::vector<std::size_t>>& needs,
                                          std::vector<std::vector<std::size_t>>& cycles);

}  // namespace opensum
