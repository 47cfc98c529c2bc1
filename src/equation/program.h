// Last stage of an equation: the checked tree as straight-line code. Sole entry point: compile.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "equation/checked.h"

namespace opensum {

/// Where an instruction finds an operand.
struct Operand {
  enum class Source : std::uint8_t { result, input, number, text, stage };
  Source source{};
  std::uint32_t index = 0;
};

/// One step: applies an operation to operands and leaves the outcome in a register.
struct Instruction {
  Op op{};
  std::uint32_t out = 0;
  std::vector<Operand> in;
  bool on_text = false;              ///< the operands compared are texts
  bool on_instants = false;          ///< operands are dates, which are no decimals
  std::array<bool, 2> is_instant{};  ///< which of the first two
  bool gives_text = false;
  OpSetting setting;
  std::array<bool, 2> keeps_limit{};  ///< of a comparison: operands whose nulls may keep a limit
  Conversion conversion;
  NullRule nulls;
  std::vector<std::string> names;
};

struct Stage;

/// A number of a program that has an uncertainty.
struct UncertainNumber {
  std::uint32_t index = 0;  ///< among its numbers
  std::vector<NumberPart> parts;
};

/// Straight-line code over registers. The value of the program is the operand `result`.
struct Program {
  std::vector<Instruction> instructions;
  std::vector<std::size_t> inputs;  ///< columns of the scope, in order of first use
  std::vector<double> numbers;
  std::vector<float> rests;  ///< of numbers that are dates (see Instant), one for each number
  std::vector<UncertainNumber> uncertain;
  std::vector<std::string> texts;
  std::uint32_t registers = 0;
  /// What must be computed over whole columns before, in order.
  std::vector<Stage> stages;
  Operand result;
  Kind kind = Kind::number;

  /// One line per instruction, for tests and for people.
  std::string dump() const;
};

/// A function of whole columns, whose result the program then reads like a column.
struct Stage {
  Op op{};
  std::string name;          ///< of the function
  Kind kind = Kind::number;  ///< of the result
  Program value;
  std::vector<Program> where;  ///< none or one
  /// None or one: the `along:`, `weights:` or second operand.
  std::vector<Program> beside;
  std::vector<Program> keys;
  NullRule nulls;
  OpSetting setting;
  std::optional<OtherRows> over;   ///< of a reduction that does not go over the own rows
  std::optional<CurveUsed> curve;  ///< of what a fitted curve gives
};

Program compile(const Checked& tree);

/// Columns of the own sheet that a program and its stages read, in order of first use.
std::vector<std::size_t> all_inputs(const Program& program);

}  // namespace opensum
