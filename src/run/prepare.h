// First step of a run: read the study and its tables, and check everything that can be known without
// computing.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "compute/column_reductions.h"
#include "compute/fills.h"
#include "compute/links.h"
#include "files/csv_reader.h"
#include "files/text_file.h"
#include "message/diagnostic.h"
#include "report/page.h"
#include "run/quoted_rows.h"
#include "study/model.h"
#include "study/plan.h"
#include "study/selection.h"

namespace opensum {

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

/// What is said of a sheet whose rows are not held in memory.
struct StreamedFacts {
  std::vector<NullCounts> null_counts;  ///< by column
  std::vector<LinkCounts> links;
  ReportTable first_rows;
  /// What the views of those columns look into that are held for figures and fits.
  std::shared_ptr<const void> texts;
};

/// A fitted curve of one group of points.
struct FitGroup {
  std::string group;  ///< empty for all points of the sheet
  Curve curve;
  double origin = 0;         ///< of dates: the first that was fitted, from which x counts in s
  std::size_t left_out = 0;  ///< rows where x, y or the weight is null
};

/// What a fit came to for one sheet.
struct FitResult {
  std::vector<FitGroup> groups;
  std::vector<std::size_t> group_of_row;
};

/// A sheet on its way through a run.
struct RunSheet {
  const SheetModel* model = nullptr;
  SheetTable source;
  SheetPlan plan;
  std::optional<Selection> selection;
  std::vector<FillResult> fills;
  std::vector<ClaimResult> claims;
  /// In step with the plan's links; made when they are computed.
  std::vector<RowMap> links;
  /// Of a sheet that has rows of another: which ones, and of a grouped one the groups of that other's rows.
  std::vector<std::size_t> taken_rows;
  std::optional<Grouping> grouping;
  bool is_sorted = false;
  /// What was understood of the file.
  std::string format;  ///< in words, if it is no text
  std::string encoding;
  char delimiter = ',';
  std::size_t header_line = 0;  ///< 0 without a header
  /// Per derived column: nulls that its row reductions left out, and in how many rows.
  std::map<std::string, std::pair<std::size_t, std::size_t>> left_out;

  /// Per derived column: its reductions down the column that left nulls out.
  std::map<std::string, std::vector<ReductionTally>> tallies;

  /// Whether it is computed while it is written, a block of rows at a time.
  bool is_streamed() const { return source.left_in_file != nullptr; }
  /// Of such a sheet, once that is done.
  std::optional<StreamedFacts> streamed;

  Table& table() { return source.table; }
  const Table& table() const { return source.table; }
};

/// A study with its tables.
struct PreparedStudy {
  Study study;
  std::string folder;  ///< of the study, with its last solidus; empty for the current one
  std::string output;  ///< folder for everything written
  Inputs inputs;
  UnitSystem units;
  std::vector<ScopeConstant> constants;
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

  RunSheet* find_sheet(const std::string& name) const;
  /// The sheets that are written and reported: all but those that are only there for others.
  std::vector<RunSheet*> shown_sheets() const;
  /// The sheet of which another one has the rows.
  const RunSheet& source_of(const RunSheet& sheet) const;
  /// The same as its author sees it: not one that is only there for others.
  const RunSheet& shown_source(const RunSheet& sheet) const;
};

/// The columns of a study's sheets.
class PreparedColumns : public StudyColumns {
 public:
  explicit PreparedColumns(const PreparedStudy& prepared) : prepared_(prepared) {}
  SheetColumns columns_of(std::size_t sheet) const override;
  static SheetColumns columns_of(const RunSheet& sheet);
  const Grouping& groups_of(std::size_t sheet) const override;
  std::vector<Chunk> fitted_values(const Stage& stage, const std::vector<Chunk>& values,
                                   OriginId own) const override;

 private:
  const PreparedStudy& prepared_;
};

/// What the equations of a sheet see of the others once everything is planned.
class PlannedOthers : public OtherSheets {
 public:
  PlannedOthers(const PreparedStudy& prepared, const RunSheet& sheet) : prepared_(prepared), sheet_(sheet) {}
  int linked(const Node& member, const Passage& passage, Diagnostics& diagnostics) override;
  std::optional<OtherScope> scope_of(const std::string& sheet) const override;
  bool has_link(const std::string& name) const override;
  std::optional<OtherScope> grouped() const override;
  FitView fit(const std::string& name, const std::string& sheet) const override;

 private:
  const PreparedStudy& prepared_;
  const RunSheet& sheet_;
};

/// Reads a study file and prepares it; null when it cannot be read at all. Everything wrong is reported.
std::unique_ptr<PreparedStudy> prepare_study_file(const std::string& path, Diagnostics& diagnostics,
                                                  Rows rows = Rows::read);

/// Prepares a study that was put together in memory.
std::unique_ptr<PreparedStudy> prepare(Study study, std::string folder, Inputs inputs,
                                       Diagnostics& diagnostics, Rows rows = Rows::read);

}  // namespace opensum
