// What is computed in a block of rows: links, fills, equations and conditions, by what is known of whole
// columns so far.
#pragma once

#include <deque>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "compute/evaluator.h"
#include "compute/links.h"
#include "compute/stage_run.h"
#include "engine/blocks.h"
#include "engine/known_uncertainty.h"
#include "engine/study_run.h"

namespace opensum {

/// A block on its way through a pass, with what links and fills came to in it.
struct ComputedBlock : Block {
  std::vector<RowMap> links;      ///< in step with the plan's
  std::vector<FillResult> fills;  ///< in step with the plan's
  /// By derived column: nulls that its row reductions left out, and in how many rows.
  std::map<std::string, std::pair<std::size_t, std::size_t>> left_out;
  /// By column with an uncertainty: its deviations.
  std::map<std::size_t, UncertaintyParts> parts;
};

/// How the rows of a link are found, once that is known.
struct LinkFinder {
  std::optional<RowFinder> by_keys;
  std::optional<PlaceFinder> by_place;
};

/// A function of whole columns on its way.
struct KnownStage {
  KnownStage(const Stage& stage, OriginId own, bool used_elsewhere)
      : run(stage, own), elsewhere(used_elsewhere) {}
  StageRun run;
  bool elsewhere;  ///< the column that uses it belongs to another sheet
  /// Rows of which something is to be said, in words, where the column stands elsewhere.
  std::map<std::size_t, std::string> quoted;
};

/// What is known of whole columns, over all sheets.
struct Known {
  std::map<const Stage*, std::unique_ptr<KnownStage>> stages;
  std::vector<std::vector<LinkFinder>> links;                    ///< by sheet
  std::vector<std::vector<std::optional<LinkedValues>>> linked;  ///< by sheet and borrowed column
};

/// Computes in blocks of one sheet; several threads may do so at a time.
class BlockValues {
 public:
  BlockValues(const StudyRun& run, const Known& known, std::size_t sheet)
      : run_(run), known_(known), sheet_(*run.sheets[sheet]), number_(sheet) {}

  /// Does one thing of the sheet for the rows of a block.
  void compute(const Task& task, ComputedBlock& block) const;
  /// The values of a program in the rows of a block. `own` is the origin of nulls that begin there.
  std::vector<Chunk> values(const Program& program, OriginId own, const Block& block) const;
  /// What the functions of whole columns of a program give the rows of a block, in their order.
  std::vector<std::vector<Chunk>> stages_of(const Program& program, OriginId own, const Block& block) const;
  /// In which rows a condition is true.
  std::vector<bool> holds(const Program& condition, const Block& block) const;
  /// What a function of whole columns takes up from a block.
  StageRows rows_for(const StageRun& stage, const Block& block) const;
  /// What a function of whole columns gives the rows of a block.
  std::vector<Chunk> stage_values(const Stage& stage, OriginId own, const Block& block) const;
  /// Of a reduction the number of the group of each row; empty where all are one group.
  std::vector<std::size_t> groups_in(const Stage& stage, OriginId own, const Block& block) const;

 private:
  void link(std::size_t index, ComputedBlock& block) const;
  void fill(std::size_t index, ComputedBlock& block) const;
  void derive(const DerivedColumn& derived, ComputedBlock& block) const;
  std::vector<Chunk> values(Evaluator& evaluator, const Program& program, OriginId own,
                            const Block& block) const;
  LocalGroups groups_of(const Stage& stage, OriginId own, const Block& block) const;

  const StudyRun& run_;
  const Known& known_;
  const RunSheet& sheet_;
  std::size_t number_;
};

}  // namespace opensum
