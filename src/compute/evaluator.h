// The one evaluator: runs programs over the chunks of columns.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "compute/batch.h"
#include "compute/fused.h"
#include "equation/program.h"
#include "table/column.h"

namespace opensum {

/// Runs one program. An evaluator holds the registers and may be used for one chunk after the other; each
/// thread needs its own. The program must outlive it.
class Evaluator {
 public:
  /// `own` is the origin of nulls that begin in the column that the program computes; `made` is where
  /// computed texts live, a new place if none is given.
  Evaluator(const Program& program, OriginId own, std::shared_ptr<MadeTexts> made = nullptr);

  /// Its registers point into it.
  Evaluator(const Evaluator&) = delete;
  Evaluator& operator=(const Evaluator&) = delete;

  /// Computes the rows of one chunk. `inputs` are the chunks of the program's input columns, in the order
  /// of Program::inputs, all of `rows` rows. Texts in the result look into the inputs, into the program or
  /// into `names` of its instructions.
  /// For programs without stages.
  Chunk run(std::span<const Chunk* const> inputs, std::size_t rows);

  /// The rows of the chunk at `index` of columns, which are those of the scope. `stages` has the values of
  /// the functions of whole columns, in the same chunks.
  Chunk run_chunk(const std::vector<const Column*>& columns, const std::vector<std::vector<Chunk>>& stages,
                  std::size_t index, std::size_t rows);

  /// The same for all chunks of `rows` rows.
  std::vector<Chunk> run_rows(const std::vector<const Column*>& columns,
                              const std::vector<std::vector<Chunk>>& stages, std::size_t rows);

  /// Nulls that row reductions left out so far, and in how many rows.
  std::size_t left_out() const;
  std::size_t rows_left_out() const { return rows_left_out_; }

 private:
  View view(const Operand& operand, std::span<const Chunk* const> inputs, std::size_t begin) const;

  // Computes a batch in few passes; false where it has to be looked at step by step.
  bool run_fused(std::span<const Chunk* const> inputs, std::size_t begin, std::size_t count, Chunk& result);

  const Program& program_;
  OriginId own_;
  /// The chunks of each stage that belong to the rows at hand.
  std::vector<const Chunk*> stages_;
  std::shared_ptr<MadeTexts> made_;
  std::vector<Register> registers_;
  std::vector<bool> batch_left_out_ = std::vector<bool>(kBatchRows);
  std::size_t rows_left_out_ = 0;
  std::vector<Repeated> numbers_;
  std::vector<std::vector<std::string_view>> texts_;
  std::optional<FusedProgram> fused_;
  std::vector<const double*> leaves_;  ///< of the batch at hand
  std::size_t tries_ = 0;              ///< of fused_
  std::size_t failures_ = 0;
};

}  // namespace opensum
