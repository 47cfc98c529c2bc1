// Arithmetic in few passes over a batch, for rows of which none is null and all results are finite.
#include "compute/fused.h"

#include <algorithm>
#include <cmath>

#include "compute/kernels.h"
#include "equation/operation.h"

namespace opensum {
namespace {

struct Add {
  double operator()(double a, double b) const { return a + b; }
};
struct Subtract {
  double operator()(double a, double b) const { return a - b; }
};
struct SubtractFrom {
  double operator()(double a, double b) const { return b - a; }
};
struct Multiply {
  double operator()(double a, double b) const { return a * b; }
};
struct Divide {
  double operator()(double a, double b) const { return a / b; }
};

// Fills a batch; whether all results are finite, where that is asked for. x - x is zero for finite x only,
// and any NaN makes a sum NaN; a sum for each of several lanes lets the compiler make vector code.
template <bool kChecked, typename Function>
bool fill(double* out, std::size_t rows, Function value_of) {
  constexpr std::size_t kLanes = 8;
  std::array<double, kLanes> sums{};
  std::size_t i = 0;
  for (; i + kLanes <= rows; i += kLanes) {
    for (std::size_t lane = 0; lane < kLanes; ++lane) {
      const double value = value_of(i + lane);
      out[i + lane] = value;
      if (kChecked) sums[lane] += value - value;
    }
  }
  for (; i < rows; ++i) {
    out[i] = value_of(i);
    if (kChecked) sums[0] += out[i] - out[i];
  }
  return !kChecked || std::all_of(sums.begin(), sums.end(), [](double sum) { return sum == 0; });
}

template <bool kChecked, typename Outer>
bool simple(const double* a, const double* b, const double*, double* out, std::size_t rows) {
  return fill<kChecked>(out, rows, [=](std::size_t i) { return Outer()(a[i], b[i]); });
}

template <bool kChecked, typename Outer, typename Inner>
bool nested(const double* a, const double* b, const double* c, double* out, std::size_t rows) {
  return fill<kChecked>(out, rows, [=](std::size_t i) { return Outer()(Inner()(a[i], b[i]), c[i]); });
}

template <bool kChecked>
bool root(const double* a, const double*, const double*, double* out, std::size_t rows) {
  return fill<kChecked>(out, rows, [=](std::size_t i) { return std::sqrt(a[i]); });
}

template <bool kChecked, typename Inner>
bool root_of(const double* a, const double* b, const double*, double* out, std::size_t rows) {
  return fill<kChecked>(out, rows, [=](std::size_t i) { return std::sqrt(Inner()(a[i], b[i])); });
}

enum class Arithmetic : std::uint8_t { add, subtract, subtract_from, multiply, divide };

// Calls `action` with the function of an operation.
template <typename Action>
auto with(Arithmetic op, const Action& action) {
  switch (op) {
    case Arithmetic::add:
      return action(Add());
    case Arithmetic::subtract:
      return action(Subtract());
    case Arithmetic::subtract_from:
      return action(SubtractFrom());
    case Arithmetic::multiply:
      return action(Multiply());
    case Arithmetic::divide:
      break;
  }
  return action(Divide());
}

}  // namespace

// Makes steps of instructions: first one node for each operation, then steps of up to two.
class FusedProgram::Builder {
 public:
  explicit Builder(const Program& program) : program_(program), writers_(program.registers) {}

  std::optional<FusedProgram> build() {
    if (program_.kind != Kind::number || program_.result.source != Operand::Source::result)
      return std::nullopt;
    for (const Instruction& instruction : program_.instructions) {
      if (!add(instruction)) return std::nullopt;
    }
    const Place result = writers_[program_.result.index];
    if (result.source != Place::Source::result || result.index + 1 != nodes_.size()) return std::nullopt;
    count_uses();
    for (Node& node : nodes_) fuse(node);
    place();
    return std::move(out_);
  }

 private:
  enum class What : std::uint8_t { arithmetic, root, other };
  struct Node {
    What what{};
    Arithmetic op{};
    const Instruction* instruction = nullptr;
    std::vector<Place> in;
    std::size_t uses = 0;
    bool checked = false;                // its result is looked at
    std::optional<std::size_t> inner{};  // the node that is computed in the same pass, the first operand
    bool within = false;                 // it is the inner one of another
  };

  // Adds the nodes of an instruction; false where these are not for such programs.
  bool add(const Instruction& instruction) {
    std::vector<Place> in;
    for (const Operand& operand : instruction.in) {
      const auto place = place_of(operand);
      if (!place) return false;
      in.push_back(*place);
    }
    const auto result = add(instruction, in);
    if (!result) return false;
    writers_[instruction.out] = *result;
    return true;
  }

  std::optional<Place> add(const Instruction& instruction, const std::vector<Place>& in) {
    switch (instruction.op) {
      case Op::add:
        return arithmetic(Arithmetic::add, in[0], in[1]);
      case Op::subtract:
        return arithmetic(Arithmetic::subtract, in[0], in[1]);
      case Op::multiply:
        return arithmetic(Arithmetic::multiply, in[0], in[1]);
      case Op::divide:
        return arithmetic(Arithmetic::divide, in[0], in[1]);
      case Op::negate:
        return arithmetic(Arithmetic::multiply, in[0], number(-1));
      case Op::convert:
        return converted(instruction.conversion, in[0]);
      case Op::square_root:
        return add_node({What::root, {}, nullptr, in});
      case Op::power:
        if (is_number(in[1], 2)) return arithmetic(Arithmetic::multiply, in[0], in[0]);
        if (is_number(in[1], 0.5)) return add_node({What::root, {}, nullptr, {in[0]}});
        break;
      default:
        break;
    }
    if (!calculates(instruction.op)) return std::nullopt;
    return add_node({What::other, {}, &instruction, in});
  }

  // The same operations as in Conversion.
  Place converted(const Conversion& change, Place value) {
    if (change.multiply != 1) value = arithmetic(Arithmetic::multiply, value, number(change.multiply));
    if (change.divide != 1) value = arithmetic(Arithmetic::divide, value, number(change.divide));
    return change.add == 0 ? value : arithmetic(Arithmetic::add, value, number(change.add));
  }

  Place arithmetic(Arithmetic op, const Place& a, const Place& b) {
    return add_node({What::arithmetic, op, nullptr, {a, b}});
  }

  Place add_node(Node node) {
    nodes_.push_back(std::move(node));
    return {Place::Source::result, nodes_.size() - 1};
  }

  Place number(double value) {
    out_.numbers_.emplace_back(kBatchRows, value);
    return {Place::Source::number, out_.numbers_.size() - 1};
  }

  bool is_number(const Place& place, double value) const {
    return place.source == Place::Source::number && out_.numbers_[place.index].front() == value;
  }

  std::optional<Place> place_of(const Operand& operand) {
    switch (operand.source) {
      case Operand::Source::result:
        return writers_[operand.index];
      case Operand::Source::number:
        // Dates within a second are left to the steps one by one.
        if (program_.rests[operand.index] != 0) return std::nullopt;
        return number(program_.numbers[operand.index]);
      case Operand::Source::text:
        return std::nullopt;
      case Operand::Source::input:
      case Operand::Source::stage:
        break;
    }
    const auto same = [&](const Operand& leaf) {
      return leaf.source == operand.source && leaf.index == operand.index;
    };
    const auto found = std::find_if(out_.leaves_.begin(), out_.leaves_.end(), same);
    const auto index = static_cast<std::size_t>(found - out_.leaves_.begin());
    if (found == out_.leaves_.end()) out_.leaves_.push_back(operand);
    return Place{Place::Source::leaf, index};
  }

  // How often results are used, and which of them must be looked at: what follows from an infinite number or
  // NaN by arithmetic is one too, but for a quotient by it.
  void count_uses() {
    for (const Node& node : nodes_) {
      for (std::size_t i = 0; i < node.in.size(); ++i) {
        if (node.in[i].source != Place::Source::result) continue;
        Node& operand = nodes_[node.in[i].index];
        ++operand.uses;
        const bool divisor = node.what == What::arithmetic && node.op == Arithmetic::divide && i == 1;
        if (node.what == What::other || divisor) operand.checked = true;
      }
    }
    ++nodes_.back().uses;
    nodes_.back().checked = true;
  }

  // Whether a result can be computed in the pass of the only node that uses it.
  bool is_inner(const Place& place) const {
    if (place.source != Place::Source::result) return false;
    const Node& node = nodes_[place.index];
    return node.what == What::arithmetic && node.uses == 1 && !node.checked && !node.inner;
  }

  void fuse(Node& node) {
    if (node.what == What::other) return;
    if (is_inner(node.in[0])) {
      node.inner = node.in[0].index;
    } else if (node.what == What::arithmetic && is_inner(node.in[1])) {
      node.inner = node.in[1].index;
      std::swap(node.in[0], node.in[1]);
      if (node.op == Arithmetic::subtract) node.op = Arithmetic::subtract_from;
    }
    if (node.inner) nodes_[*node.inner].within = true;
  }

  // Gives each step a register that no later step still reads.
  void place() {
    std::vector<std::size_t> register_of(nodes_.size());
    std::vector<std::size_t> free;
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      const Node& node = nodes_[i];
      if (node.within) continue;
      Step step{kernel_of(node), node.instruction, operands_of(node), 0};
      if (free.empty()) {
        free.push_back(out_.registers_.size());
        out_.registers_.emplace_back();
      }
      step.out = register_of[i] = free.back();
      free.pop_back();
      for (Place& place : step.in) {
        if (place.source != Place::Source::result) continue;
        const std::size_t from = place.index;
        place.index = register_of[from];
        if (--nodes_[from].uses == 0) free.push_back(register_of[from]);
      }
      out_.steps_.push_back(std::move(step));
    }
  }

  std::vector<Place> operands_of(const Node& node) const {
    if (!node.inner) return node.in;
    std::vector<Place> in = nodes_[*node.inner].in;
    in.insert(in.end(), node.in.begin() + 1, node.in.end());
    return in;
  }

  Kernel kernel_of(const Node& node) const {
    if (node.what == What::other) return nullptr;
    if (node.what == What::root && !node.inner) return node.checked ? root<true> : root<false>;
    if (node.what == What::root) {
      return with(nodes_[*node.inner].op, [&](auto inner) -> Kernel {
        return node.checked ? root_of<true, decltype(inner)> : root_of<false, decltype(inner)>;
      });
    }
    return with(node.op, [&](auto outer) -> Kernel {
      using Outer = decltype(outer);
      if (!node.inner) return node.checked ? simple<true, Outer> : simple<false, Outer>;
      return with(nodes_[*node.inner].op, [&](auto inner) -> Kernel {
        return node.checked ? nested<true, Outer, decltype(inner)> : nested<false, Outer, decltype(inner)>;
      });
    });
  }

  const Program& program_;
  std::vector<Place> writers_;  // of each register, at this point of the program
  std::vector<Node> nodes_;
  FusedProgram out_;
};

std::optional<FusedProgram> FusedProgram::of(const Program& program) { return Builder(program).build(); }

const double* FusedProgram::at(const Place& place, std::span<const double* const> leaves) const {
  switch (place.source) {
    case Place::Source::leaf:
      return leaves[place.index];
    case Place::Source::number:
      return numbers_[place.index].data();
    case Place::Source::result:
      break;
  }
  return registers_[place.index].numbers.data();
}

bool FusedProgram::run(std::span<const double* const> leaves, std::size_t rows, double* out) {
  std::vector<View> operands;
  for (const Step& step : steps_) {
    const bool last = &step == &steps_.back();
    Register& result = registers_[step.out];
    if (step.kernel != nullptr) {
      std::array<const double*, 3> in{};
      std::transform(step.in.begin(), step.in.end(), in.begin(),
                     [&](const Place& place) { return at(place, leaves); });
      if (!step.kernel(in[0], in[1], in[2], last ? out : result.numbers.data(), rows)) return false;
      continue;
    }
    operands.clear();
    for (const Place& place : step.in) operands.push_back({at(place, leaves), nullptr, nullptr});
    if (!calculate_known(*step.instruction, operands, result, rows)) return false;
    if (last) std::copy_n(result.numbers.begin(), rows, out);
  }
  return true;
}

}  // namespace opensum
