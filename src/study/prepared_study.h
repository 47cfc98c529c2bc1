// A study with its files, ready to be computed.
#pragma once

#include <map>
#include <string>
#include <utility>

#include "base/result.h"
#include "engine/study_run.h"
#include "figure/thinned_points.h"
#include "files/text_file.h"

namespace opensum {

/// A cell whose budget is asked for.
struct BudgetWish {
  std::size_t sheet = 0;
  std::size_t column = 0;
  std::optional<std::size_t> row;  ///< as it is written, from 0
  Place place;
};

/// What a run leaves out when it is told to compute only a part.
struct PartOfRun {
  std::vector<std::string> wanted;
  std::vector<std::string> sheets;  ///< those to be written
  bool fits = false;                ///< whether fits were asked for by name
};

/// A study with its files.
struct PreparedStudy : StudyRun {
  std::string folder;  ///< of the study, with its last slash; empty for the current one
  std::string output;  ///< folder for everything written
  Inputs inputs;
  /// How many of the inputs, from the first, are the study and what it uses.
  std::size_t texts = 0;
  std::optional<PartOfRun> part;
  /// Constants with another value than in the study, as they were written on the command line and in words.
  std::vector<std::string> constants_given;
  std::vector<std::string> changes;
  std::vector<BudgetWish> budgets;
  /// Points that came in place of the columns of a plot: by its number and that of the pair.
  std::map<std::pair<std::size_t, std::size_t>, ThinnedPoints> thinned;
  /// Whether it is run again when something changes: the report page is loaded again by itself.
  bool watched = false;
  /// Whether sheets whose rows are in a database are computed there though the study does not say so.
  bool always_in_database = false;
  /// Whether the tables of databases that the study names are written: not where results are only verified.
  bool writes_databases = true;
};

/// What the equations of a sheet see of the others once everything is planned.
class PlannedOthers : public OtherSheets {
 public:
  PlannedOthers(const StudyRun& run, const RunSheet& sheet) : prepared_(run), sheet_(sheet) {}
  Result<std::size_t> linked(const Node& member, const Passage& passage, Diagnostics& diagnostics) override;
  std::optional<OtherScope> scope_of(const std::string& sheet) const override;
  bool has_link(const std::string& name) const override;
  std::optional<OtherScope> grouped() const override;
  std::size_t group_column(std::size_t column) override;
  std::vector<std::size_t> group_keys() const override { return sheet_.plan.keys; }
  bool is_first_whole_source() override { return false; }
  FitView fit(const std::string& name, const std::string& sheet) const override;
  std::size_t uncertainty_of(std::size_t column, const Place& place) override;

 private:
  const StudyRun& prepared_;
  const RunSheet& sheet_;
};

}  // namespace opensum
