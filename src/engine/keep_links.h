// What the condition for the rows of a sheet finds in other sheets.
#pragma once

#include <deque>

#include "compute/links.h"
#include "engine/blocks.h"
#include "engine/study_run.h"

namespace opensum {

/// The columns of a condition's table that links lead to. Of the other sheets the keys and these columns have
/// their values.
class KeepLinks {
 public:
  KeepLinks(StudyRun& run, const KeepPlan& keep);

  /// Gives the columns their values in a block whose keys, or places in the source, have theirs.
  void give_values(const std::vector<bool>& needed, Block& to) const;

 private:
  struct Finder {
    std::optional<RowFinder> by_keys;
    std::optional<PlaceFinder> by_place;
  };

  const KeepPlan& keep_;
  std::deque<Finder> finders_;       ///< in step with the plan's links
  std::deque<LinkedValues> values_;  ///< in step with the borrowed columns
};

/// The rows of a sheet with what its condition finds in others.
class LinkedBlocks : public BlockSource {
 public:
  LinkedBlocks(BlockSource& rows, const KeepLinks& links) : rows_(rows), links_(links) {}

  std::size_t count() const override { return rows_.count(); }
  RowRange range(std::size_t block) const override { return rows_.range(block); }
  void fetch(std::size_t block, Block& to) const override { rows_.fetch(block, to); }
  void place(std::size_t block, Block& to) override { rows_.place(block, to); }
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override {
    rows_.read(block, needed, to);
    links_.give_values(needed, to);
  }
  void leave(std::size_t block, const Block& to) override { rows_.leave(block, to); }
  void end_pass() override { rows_.end_pass(); }
  bool lives_on(std::string_view text) const override { return rows_.lives_on(text); }

 private:
  BlockSource& rows_;
  const KeepLinks& links_;
};

/// Leaves the rows of a sheet for which its condition is true. The sheet has rows of its own, and the columns
/// of others that the condition names have their values.
void choose_rows(RunSheet& sheet, StudyRun& run, Diagnostics& diagnostics);

}  // namespace opensum
