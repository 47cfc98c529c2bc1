// Arithmetic in few passes over a batch, for rows of which none is null and all results are finite.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <span>
#include <vector>

#include "compute/batch.h"
#include "equation/program.h"

namespace opensum {

/// A program of numbers whose neighbouring operations are done in one pass. It comes to the same numbers as
/// one operation after the other. What is infinite or undefined on the way is found at the end: such batches
/// are left to those who look at each step.
class FusedProgram {
 public:
  /// Nothing where the program does more than to calculate. Keeps references to its instructions.
  static std::optional<FusedProgram> of(const Program& program);

  /// The columns and stages that it reads, in the order in which `run` is given their numbers.
  const std::vector<Operand>& leaves() const { return leaves_; }

  /// Writes the results of `rows` rows, at most kBatchRows. False where a row would be null; `out` is of no
  /// use then.
  bool run(std::span<const double* const> leaves, std::size_t rows, double* out);

 private:
  class Builder;

  // Where a step finds a number for each row.
  struct Place {
    enum class Source : std::uint8_t { leaf, number, result };
    Source source{};
    std::size_t index = 0;
    bool operator==(const Place&) const = default;
  };

  // A pass over a batch, with up to three operands; false where it looked for an infinite result and found
  // one.
  using Kernel = bool (*)(const double* a, const double* b, const double* c, double* out, std::size_t rows);

  struct Step {
    Kernel kernel = nullptr;
    const Instruction* instruction = nullptr;  // in place of a kernel: what has its own
    std::vector<Place> in;
    std::size_t out = 0;
  };

  const double* at(const Place& place, std::span<const double* const> leaves) const;

  std::vector<Operand> leaves_;
  std::vector<std::vector<double>> numbers_;
  std::vector<Step> steps_;
  std::vector<Register> registers_;
};

}  // namespace opensum
