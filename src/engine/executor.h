// The one way in which a study is computed: rounds of passes over its sheets until everything is known that
// needs whole columns, then a last pass over each sheet.
#pragma once

#include <map>
#include <memory>
#include <set>
#include <vector>

#include "engine/last_pass.h"
#include "engine/pass_plan.h"
#include "engine/taken_rows.h"
#include "message/diagnostic.h"

namespace opensum {

/// What the last pass over a sheet leaves behind besides its facts.
struct LastWishes {
  std::vector<Held> held;  ///< by column: what is to be held of it; none where it is empty
  /// Columns of which only one row is looked at, and which. Chunks without it stay empty.
  std::map<std::size_t, std::size_t> only_row;
  bool lines = false;     ///< whether the lines of the rows are to be held
  bool row_maps = false;  ///< whether it is kept which rows links lead to and which gaps were filled
  std::vector<RowSink*> sinks;
  std::vector<std::size_t> budget_of;  ///< columns whose deviations are kept
};

class Executor {
 public:
  Executor(StudyRun& run, Diagnostics& diagnostics);
  ~Executor();

  /// Finds out everything that must be known before the last passes.
  void prepare();
  /// Goes over the rows of a sheet for the last time.
  void finish(std::size_t sheet, const LastWishes& wishes);
  /// Makes the fits that no equation uses; the last passes held what they need.
  void fit_rest();

 private:
  void begin_round(std::size_t round);
  void find_rows(std::size_t sheet);
  void make_finder(std::size_t sheet, std::size_t link);
  void make_linked(std::size_t sheet, std::size_t borrowed);
  void make_fit(const FitPlace& fit);
  void scatter(const FitPlace& place, FitResult& result) const;
  void pass(std::size_t sheet, std::size_t round);
  void want_forms();
  void carry_uncertainty(std::size_t sheet, std::size_t round);
  static void sort(RunSheet& sheet);
  std::vector<Held> needed_by_fits(std::size_t sheet) const;
  bool fits_need_lines(std::size_t sheet) const;
  bool is_held(std::size_t sheet, std::size_t column) const;
  BlockSource& source(std::size_t sheet);
  std::vector<bool>* fit_rows(const FitPlace& fit) { return &fit_rows_[fit]; }

  StudyRun& run_;
  Diagnostics& diagnostics_;
  PassPlan plan_;
  Known known_;
  std::vector<std::vector<bool>> computed_;                // by sheet and column
  std::vector<std::map<std::size_t, TakenValues>> taken_;  ///< by sheet and column
  std::vector<std::unique_ptr<BlockSource>> sources_;
  std::map<FitPlace, std::vector<bool>> fit_rows_;
  std::set<std::pair<std::size_t, std::size_t>> wanted_forms_;  // of columns, by sheet and column
};

}  // namespace opensum
