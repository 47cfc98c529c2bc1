// A study on its way through a run: its sheets, what is to be computed, and what it came to.
#pragma once

#include <deque>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/trial.h"
#include "compute/fills.h"
#include "compute/linear_form.h"
#include "compute/links.h"
#include "compute/row_store.h"
#include "compute/whole_columns.h"
#include "engine/quoted_rows.h"
#include "engine/selection.h"
#include "model/study.h"
#include "plan/plan.h"

namespace opensum {

struct SqlSource;

/// What the rules of a fill came to; in step with the plan's fills.
struct FillResult {
  std::vector<FilledCell> cells;
  EvaluationNotes notes;
  std::size_t gaps = 0;
  std::vector<std::size_t> closed;          ///< gaps by the rule that closed them
  std::map<std::string, std::size_t> left;  ///< the others, by the reason for which no rule gave a value

  /// Counts the cells; `rules` are there.
  void count_cells(std::size_t rules);
  /// Adds the counts of other rows.
  void add_counts(const FillResult& other);
};

/// What a claim came to; in step with the plan's claims.
struct ClaimResult {
  std::size_t held = 0;
  QuotedRows broken;
  QuotedRows undecided;
};

/// How many rows of a link found their row elsewhere.
struct LinkCounts {
  std::size_t matched = 0;
  std::map<std::string, std::size_t> unmatched;  ///< by reason

  void add(const RowMap& map);
};

/// How many rows a report shows of a sheet.
constexpr std::size_t kFirstRows = 12;

/// What the rows of a sheet came to, once all of them were computed.
struct RowFacts {
  std::vector<NullCounts> null_counts;  ///< by column
  std::vector<LinkCounts> links;
  Table first_rows;  ///< the first few as they are written
};

/// A fitted curve of one group of points.
struct FitGroup {
  std::string group;  ///< empty for all points of the sheet
  Curve curve;
  Instant origin;            ///< of dates: the first that was fitted, from which x counts in s
  std::size_t left_out = 0;  ///< rows where x, y or the weight is null
  /// The points and their rows, where they are kept.
  CurveData data;
  RowNumbers rows;
};

/// What a fit came to for one sheet.
struct FitResult {
  std::vector<FitGroup> groups;
  RowNumbers group_of_row;
};

/// A sheet on its way through a run.
struct RunSheet {
  const SheetModel* model = nullptr;
  SheetTable source;
  SheetPlan plan;
  std::optional<Selection> selection;
  std::vector<FillResult> fills;
  std::vector<ClaimResult> claims;
  /// In step with the plan's links, where they are asked for.
  std::vector<RowMap> links;
  /// Of a sheet that has rows of another: which ones, and of a grouped one the groups of that other's rows.
  RowNumbers taken_rows;
  /// Of one with one row per cell: which one, by its place among them. Empty for all others.
  std::vector<std::uint32_t> taken_cells;
  std::optional<Grouping> grouping;
  /// Of a sheet that is computed in its database: that it is, of one with rows of its own where they are, and
  /// the condition for them.
  bool in_database = false;
  bool stays_there = false;  ///< and its rows do not come here
  std::shared_ptr<const SqlSource> there;
  std::shared_ptr<const KeepPlan> keep_there;
  /// What was understood of the file.
  std::string format;  ///< in words, if it is no text
  std::string encoding;
  char delimiter = ',';
  std::string comment;              ///< what lines begin with that are comments
  std::vector<std::string> before;  ///< the lines before the table
  std::size_t header_line = 0;      ///< 0 without a header
  /// Per derived column: nulls that its row reductions left out, and in how many rows.
  std::map<std::string, std::pair<std::size_t, std::size_t>> left_out;

  /// Per derived column: its reductions down the column that left nulls out.
  std::map<std::string, std::vector<ReductionTally>> tallies;

  RowFacts facts;
  /// The deviations of columns whose budget is asked for, row by row.
  std::map<std::size_t, FormRows> budget;
  /// By column whether anything uses it; empty where nobody asked.
  std::vector<bool> used;
  /// Where texts live that views in held columns look into.
  TextKeeper texts;

  Table& table() { return source.table; }
  const Table& table() const { return source.table; }
};

/// The rows of a sheet as they were read, with the columns that are given.
std::unique_ptr<BlockSource> source_of_rows(const RunSheet& sheet, std::vector<bool> given);

/// The places of a sheet's rows in its source.
RowNumbers source_rows_of(const RunSheet& sheet);

/// Says in the table of a sheet how many rows were found in its file.
void count_rows(RunSheet& sheet);

class KnownUncertainty;

/// A study with its sheets.
struct StudyRun {
  Study study;
  UnitSystem units;
  std::vector<ScopeConstant> constants;
  UncertainNumbers uncertain;
  std::vector<Formula> formulas;
  Origins origins;
  std::vector<std::unique_ptr<RunSheet>> sheets;
  /// What is computed, in order, over all sheets.
  std::vector<Task> order;
  std::deque<FitPlan> fits;
  /// By fit and by its sheets; made when they are computed.
  std::vector<std::vector<FitResult>> fit_results;
  /// By plot: the conditions for the rows of its sheets, and once computed which rows they keep.
  std::vector<PlotKeep> plot_keeps;
  std::vector<std::map<std::size_t, std::vector<bool>>> plot_rows;
  /// Where what is uncertain is drawn at random.
  std::optional<Trial> trial;
  /// What is known of uncertainties, once it is computed.
  std::shared_ptr<KnownUncertainty> uncertainty;

  RunSheet* find_sheet(const std::string& name) const;
  /// The sheets that are written and reported: all but those that are only there for others.
  std::vector<RunSheet*> shown_sheets() const;
  /// The sheet of which another one has the rows.
  RunSheet& source_of(const RunSheet& sheet) const;
  /// The same as its author sees it: not one that is only there for others.
  const RunSheet& shown_source(const RunSheet& sheet) const;
};

/// The columns of a study's sheets, where they are held whole.
class HeldColumns : public StudyColumns {
 public:
  explicit HeldColumns(const StudyRun& run) : run_(run) {}
  SheetColumns columns_of(std::size_t sheet) const override;
  static SheetColumns columns_of(const RunSheet& sheet);
  const Grouping& groups_of(std::size_t sheet) const override;
  std::vector<Chunk> fitted_values(const Stage& stage, const std::vector<Chunk>& values, OriginId own,
                                   std::size_t first_row) const override;

 private:
  const StudyRun& run_;
};

}  // namespace opensum
