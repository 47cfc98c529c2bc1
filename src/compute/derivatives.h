// The derivative of each operation, and programs run together with the derivatives of their results.
#pragma once

#include <span>
#include <vector>

#include "compute/batch.h"
#include "equation/program.h"

namespace opensum {

/// The partial derivatives of an instruction's results by its operands, for `rows` rows: `out[k]` by operand
/// k, of at least kBatchRows places each. Operands that are no numbers have none. A choice between operands
/// (if, row_min, fallback) has the derivative of what was chosen; steps (floor, comparisons) have none. Where
/// the derivative does not exist, as that of sqrt at 0, the place is infinite or NaN.
void partials(const Instruction& instruction, std::span<const View> in, const View& result, std::size_t rows,
              std::span<std::vector<double>> out);

/// Values of a program, and their derivatives by each of some of its inputs.
struct Tangents {
  std::vector<double> values;                    ///< NaN where the program gives null
  std::vector<std::vector<double>> derivatives;  ///< by each of the inputs asked for
};

/// Runs programs together with derivatives by some of their inputs.
class TangentEvaluator {
 public:
  /// `by` are inputs, numbers or functions of whole columns of the program.
  TangentEvaluator(const Program& program, std::vector<Operand> by);
  /// `by` are places in Program::inputs, of numbers.
  TangentEvaluator(const Program& program, const std::vector<std::size_t>& by);

  /// Of a program without stages whose inputs are numbers: `inputs` are the columns of its inputs, all of
  /// `rows` values; one of a single value has it in all rows.
  Tangents run(std::span<const std::vector<double>> inputs, std::size_t rows);

  /// Of any program: `inputs` and `stages` are chunks of `rows` rows of its inputs and of its functions of
  /// whole columns.
  Tangents run(std::span<const Chunk* const> inputs, std::span<const Chunk* const> stages, std::size_t rows);

 private:
  struct Slot {
    Register values;
    std::vector<std::vector<double>> derivatives;
    std::vector<bool> varies;  ///< whether there is a derivative by each input
  };

  View view(const Operand& operand) const;
  void run_batch(std::size_t begin, std::size_t count, Tangents& tangents);
  const std::vector<double>* derivative(const Operand& operand, std::size_t by) const;
  void load(std::span<const std::vector<double>> inputs, std::size_t begin, std::size_t rows);
  static bool chooses(Op op);
  void step(const Instruction& instruction, std::size_t rows);

  const Program& program_;
  std::vector<Operand> by_;
  std::vector<Slot> registers_;
  std::vector<std::vector<double>> inputs_;
  std::vector<View> input_views_;
  std::vector<View> stage_views_;
  std::vector<std::vector<std::string_view>> texts_;
  std::vector<Repeated> numbers_;
  std::vector<double> ones_;
  std::vector<std::vector<double>> partials_;
};

}  // namespace opensum
