// Sheets that have the rows of another sheet: which rows, and the columns taken over.
#pragma once

#include <map>

#include "engine/blocks.h"
#include "engine/study_run.h"
#include "message/diagnostic.h"

namespace opensum {

/// Finds the rows that a sheet takes from its source, in the order in which the source is written, or one for
/// each group of them. The columns that decide on it have their values.
void take_rows(RunSheet& sheet, const RunSheet& source, StudyRun& run, Diagnostics& diagnostics);

/// What is known of a column that is taken over once its source has its values.
struct TakenValues {
  TakenColumn taken;
  /// By chunk of the rows that are taken, each with the cell from which it comes; empty without nulls.
  std::vector<std::vector<Null>> nulls;
  bool with_source = false;  ///< of cells
};
TakenValues taken_values(const RunSheet& sheet, const RunSheet& source, const TakenColumn& taken,
                         Origins& origins);

/// The rows of a sheet that has those of another: what it takes over is gathered there block by block.
class TakenBlocks : public HeldBlocks {
 public:
  /// `whole` has the taken rows of `sheet`, `given` says which of its columns are held; `values` are those
  /// that are taken over, by column, as far as they are known when a block is read. Texts of `source` that
  /// live on there do so here.
  TakenBlocks(const Table& whole, std::vector<bool> given, const RunSheet& sheet, const RunSheet& source,
              const std::map<std::size_t, TakenValues>& values)
      : HeldBlocks(whole, std::move(given)), sheet_(sheet), source_(source), values_(values) {}
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override;
  bool lives_on(std::string_view text) const override {
    return source_.source.left_in_file && source_.source.left_in_file->source->holds(text);
  }

 private:
  std::vector<Chunk> gather(const TakenValues& values, const RowRange& rows) const;

  const RunSheet& sheet_;
  const RunSheet& source_;
  const std::map<std::size_t, TakenValues>& values_;
};

}  // namespace opensum
