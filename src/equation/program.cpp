// Last stage of an equation: the checked tree as straight-line code.
#include "equation/program.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include "equation/operation.h"

namespace opensum {
namespace {

class Compiler {
 public:
  Program run(const Checked& tree) {
    program_.kind = tree.type.kind;
    program_.result = emit(tree);
    return std::move(program_);
  }

 private:
  Operand emit(const Checked& node) {
    switch (node.op) {
      case Op::constant:
        if (!node.parts.empty()) return uncertain_number(node);
        return {Operand::Source::number, index_of(node.number, node.rest)};
      case Op::text_constant:
        return {Operand::Source::text, index_of(program_.texts, node.text)};
      case Op::column:
        return {Operand::Source::input, index_of(program_.inputs, node.column)};
      default:
        break;
    }
    if (needs_whole_column(node.op)) {
      program_.stages.push_back(stage_of(node));
      return {Operand::Source::stage, static_cast<std::uint32_t>(program_.stages.size() - 1)};
    }
    Instruction instruction;
    instruction.op = node.op;
    for (const CheckedPtr& arg : node.args) {
      const std::size_t place = instruction.in.size();
      instruction.in.push_back(emit(*arg));
      if (arg->type.kind == Kind::text && !arg->type.any) instruction.on_text = true;
      if (arg->type.kind != Kind::date || arg->type.any) continue;
      instruction.on_instants = true;
      if (place < instruction.is_instant.size()) instruction.is_instant.at(place) = true;
    }
    instruction.gives_text = node.type.kind == Kind::text;
    instruction.setting = node.setting;
    instruction.keeps_limit = node.keeps_limit;
    instruction.conversion = node.conversion;
    instruction.nulls = node.nulls;
    instruction.names = node.names;
    // The operands' registers are free again, but not for this result: kernels never write what they read.
    instruction.out = take_register();
    for (const Operand& operand : instruction.in) {
      if (operand.source == Operand::Source::result) free_.push_back(operand.index);
    }
    const Operand result{Operand::Source::result, instruction.out};
    program_.instructions.push_back(std::move(instruction));
    return result;
  }

  // One of its own, though another may be as large.
  Operand uncertain_number(const Checked& node) {
    const auto index = static_cast<std::uint32_t>(program_.numbers.size());
    program_.numbers.push_back(node.number);
    program_.rests.push_back(node.rest);
    program_.uncertain.push_back({index, node.parts});
    return {Operand::Source::number, index};
  }

  static Stage stage_of(const Checked& node) {
    Stage stage;
    stage.op = node.op;
    stage.name = node.text;
    stage.kind = node.type.kind;
    stage.value = compile(*node.args[0]);
    stage.nulls = node.nulls;
    stage.setting = node.setting;
    stage.over = node.over;
    stage.curve = node.curve;
    std::size_t next = 1;
    if (node.has_beside) stage.beside.push_back(compile(*node.args[next++]));
    if (node.has_where) stage.where.push_back(compile(*node.args[next++]));
    for (; next < node.args.size(); ++next) stage.keys.push_back(compile(*node.args[next]));
    return stage;
  }

  std::uint32_t take_register() {
    if (free_.empty()) return program_.registers++;
    const std::uint32_t index = free_.back();
    free_.pop_back();
    return index;
  }

  // The place of a number; `rest` is that of a date.
  std::uint32_t index_of(double value, float rest) {
    const auto uncertain = [&](std::size_t index) {
      return std::any_of(program_.uncertain.begin(), program_.uncertain.end(),
                         [&](const UncertainNumber& number) { return number.index == index; });
    };
    const std::vector<double>& numbers = program_.numbers;
    for (std::size_t i = 0; i < numbers.size(); ++i) {
      // Zero has two signs.
      const bool same = std::bit_cast<std::uint64_t>(numbers[i]) == std::bit_cast<std::uint64_t>(value);
      if (same && program_.rests[i] == rest && !uncertain(i)) return static_cast<std::uint32_t>(i);
    }
    program_.numbers.push_back(value);
    program_.rests.push_back(rest);
    return static_cast<std::uint32_t>(numbers.size() - 1);
  }

  template <typename T>
  static std::uint32_t index_of(std::vector<T>& pool, const T& value) {
    const auto found = std::find(pool.begin(), pool.end(), value);
    const auto index = static_cast<std::uint32_t>(found - pool.begin());
    if (found == pool.end()) pool.push_back(value);
    return index;
  }

  Program program_;
  std::vector<std::uint32_t> free_;
};

}  // namespace

Program compile(const Checked& tree) { return Compiler().run(tree); }

std::vector<std::size_t> all_inputs(const Program& program) {
  std::vector<std::size_t> inputs = program.inputs;
  const auto add = [&](const Program& part) {
    for (const std::size_t input : all_inputs(part)) {
      if (std::find(inputs.begin(), inputs.end(), input) == inputs.end()) inputs.push_back(input);
    }
  };
  for (const Stage& stage : program.stages) {
    if (stage.over) continue;
    add(stage.value);
    for (const Program& where : stage.where) add(where);
    for (const Program& along : stage.beside) add(along);
    for (const Program& key : stage.keys) add(key);
  }
  return inputs;
}

std::string Program::dump() const {
  const auto name = [&](const Operand& operand) {
    switch (operand.source) {
      case Operand::Source::result:
        return fmt::format("r{}", operand.index);
      case Operand::Source::input:
        return fmt::format("column{}", inputs[operand.index]);
      case Operand::Source::number:
        return fmt::format("{}", numbers[operand.index]);
      case Operand::Source::text:
        return fmt::format("\"{}\"", texts[operand.index]);
      case Operand::Source::stage:
        return fmt::format("stage{}", operand.index);
    }
    return std::string();
  };
  std::string out;
  for (const Instruction& i : instructions) {
    out += fmt::format("r{} = {}", i.out, name_of(i.op));
    for (const Operand& operand : i.in) out += " " + name(operand);
    if (i.op == Op::convert) {
      out += fmt::format(" * {} / {} + {}", i.conversion.multiply, i.conversion.divide, i.conversion.add);
    }
    out += '\n';
  }
  return out + "result " + name(result) + '\n';
}

}  // namespace opensum
