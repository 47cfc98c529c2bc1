// The derivative of each operation.
#include "compute/derivatives.h"

#include <algorithm>
#include <cmath>

#include "compute/functions_of_one.h"
#include "compute/kernels.h"
#include "compute/quantiles.h"
#include "compute/statistics.h"
#include "equation/operation.h"

namespace opensum {
namespace {

// What the derivatives of an operation are calculated from.
class Partials {
 public:
  Partials(const Instruction& instruction, std::span<const View> in, const View& result, std::size_t rows,
           std::span<std::vector<double>> out)
      : instruction_(instruction), in_(in), result_(result), rows_(rows), out_(out) {}

  void run() {
    for (std::size_t k = 0; k < in_.size(); ++k) std::fill_n(out_[k].begin(), rows_, 0.0);
    switch (instruction_.op) {
      case Op::convert:
        return by(0, [&](std::size_t) {
          return instruction_.conversion.multiply / instruction_.conversion.divide;
        });
      case Op::negate:
        return by(0, [](std::size_t) { return -1; });
      case Op::add:
        return both([](std::size_t) { return 1; }, [](std::size_t) { return 1; });
      case Op::subtract:
        return both([](std::size_t) { return 1; }, [](std::size_t) { return -1; });
      case Op::multiply:
        return both([&](std::size_t i) { return b(i); }, [&](std::size_t i) { return a(i); });
      case Op::divide:
        return both([&](std::size_t i) { return 1 / b(i); }, [&](std::size_t i) { return -y(i) / b(i); });
      case Op::power:
        return power();
      case Op::arc_tangent2:
        return both([&](std::size_t i) { return b(i) / (a(i) * a(i) + b(i) * b(i)); },
                    [&](std::size_t i) { return -a(i) / (a(i) * a(i) + b(i) * b(i)); });
      case Op::hypotenuse:
        return both([&](std::size_t i) { return a(i) / y(i); }, [&](std::size_t i) { return b(i) / y(i); });
      case Op::modulo:
        // So many steps are taken away.
        return both([](std::size_t) { return 1; },
                    [&](std::size_t i) { return -std::round((a(i) - y(i)) / b(i)); });
      case Op::t_quantile:
      case Op::normal_quantile:
      case Op::chi2_quantile:
        // Degrees of freedom are counted.
        return by(0, [&](std::size_t i) {
          if (result_.null(i)) return std::nan("");
          return slope_of_quantile(instruction_.op, y(i), in_.size() > 1 ? b(i) : 1);
        });
      case Op::clamp:
        return chosen([&](std::size_t i) -> std::size_t {
          const Instant value = in_[0].instant(i);
          return value < in_[1].instant(i) ? 1 : value > in_[2].instant(i) ? 2 : 0;
        });
      case Op::select:
        return chosen([&](std::size_t i) -> std::size_t { return a(i) != 0 ? 1 : 2; });
      case Op::fallback:
        return chosen([&](std::size_t i) { return first_known(i); });
      case Op::exclude:
        return chosen([](std::size_t) -> std::size_t { return 0; });
      case Op::ratio:
        return ratio();
      case Op::within_calendar:
      case Op::shift_months:
      case Op::shift_days:
      case Op::date_time:
      case Op::limit:
        return by(0, [](std::size_t) { return 1; });
      case Op::row_sum:
      case Op::row_product:
      case Op::row_mean:
      case Op::row_median:
      case Op::row_min:
      case Op::row_max:
      case Op::row_range:
      case Op::row_sd:
        for (std::size_t i = 0; i < rows_; ++i) along_row(i);
        return;
      default:
        // The others are steps, truths and texts.
        with_function_of_one(instruction_.op, [&](const auto& /*value*/, const auto& slope) {
          by(0, [&](std::size_t i) { return slope(a(i), y(i)); });
        });
    }
  }

 private:
  double a(std::size_t i) const { return in_[0].numbers[i]; }
  double b(std::size_t i) const { return in_[1].numbers[i]; }
  double y(std::size_t i) const { return result_.numbers[i]; }

  template <typename Function>
  void by(std::size_t operand, Function function) {
    double* out = out_[operand].data();
    for (std::size_t i = 0; i < rows_; ++i) out[i] = function(i);
  }
  template <typename First, typename Second>
  void both(First first, Second second) {
    by(0, first);
    by(1, second);
  }
  // The result is one of the operands.
  template <typename Choice>
  void chosen(Choice choice) {
    for (std::size_t i = 0; i < rows_; ++i) out_[choice(i)][i] = 1;
  }

  std::size_t first_known(std::size_t i) const {
    for (std::size_t k = 0; k < in_.size(); ++k) {
      if (!in_[k].null(i)) return k;
    }
    return 0;
  }

  void power() {
    both(
        [&](std::size_t i) {
          if (b(i) == 0) return 0.0;
          if (b(i) == 1) return 1.0;
          if (b(i) == 2) return 2 * a(i);
          return b(i) * std::pow(a(i), b(i) - 1);
        },
        [&](std::size_t i) {
          // 0 to any positive power is 0.
          return a(i) == 0 && b(i) > 0 ? 0 : y(i) * std::log(a(i));
        });
  }

  void ratio() {
    for (std::size_t i = 0; i < rows_; ++i) {
      if (b(i) == 0) {
        if (in_.size() > 2) out_[2][i] = 1;
        continue;
      }
      out_[0][i] = 1 / b(i);
      out_[1][i] = -y(i) / b(i);
    }
  }

  // The reductions along a row: of the operands that are known.
  void along_row(std::size_t i) {
    known_.clear();
    for (std::size_t k = 0; k < in_.size(); ++k) {
      if (!in_[k].null(i)) known_.push_back(k);
    }
    if (known_.empty()) return;
    const double n = static_cast<double>(known_.size());
    const auto x = [&](std::size_t k) { return in_[k].numbers[i]; };
    const auto smaller = [&](std::size_t k, std::size_t l) { return in_[k].instant(i) < in_[l].instant(i); };
    // Dates are taken from the first of them.
    const auto from_first = [&](std::size_t k) {
      return instruction_.on_instants ? seconds_between(in_[known_.front()].instant(i), in_[k].instant(i))
                                      : x(k);
    };
    switch (instruction_.op) {
      case Op::row_sum:
        for (const std::size_t k : known_) out_[k][i] = 1;
        return;
      case Op::row_mean:
        for (const std::size_t k : known_) out_[k][i] = 1 / n;
        return;
      case Op::row_product:
        for (const std::size_t k : known_) {
          double others = 1;
          for (const std::size_t l : known_) others *= l == k ? 1 : x(l);
          out_[k][i] = others;
        }
        return;
      case Op::row_min:
        out_[*std::min_element(known_.begin(), known_.end(), smaller)][i] = 1;
        return;
      case Op::row_max:
        out_[*std::max_element(known_.begin(), known_.end(), smaller)][i] = 1;
        return;
      case Op::row_range:
        out_[*std::max_element(known_.begin(), known_.end(), smaller)][i] += 1;
        out_[*std::min_element(known_.begin(), known_.end(), smaller)][i] -= 1;
        return;
      case Op::row_median: {
        std::stable_sort(known_.begin(), known_.end(), smaller);
        out_[known_[(known_.size() - 1) / 2]][i] += 0.5;
        out_[known_[known_.size() / 2]][i] += 0.5;
        return;
      }
      case Op::row_sd: {
        CompensatedSum sum;
        for (const std::size_t k : known_) sum.add(from_first(k));
        const double mean = sum.over(n);
        for (const std::size_t k : known_) out_[k][i] = (from_first(k) - mean) / ((n - 1) * y(i));
        return;
      }
      default:
        not_computed(instruction_.op, "along_row");
    }
  }

  const Instruction& instruction_;
  std::span<const View> in_;
  const View& result_;
  std::size_t rows_;
  std::span<std::vector<double>> out_;
  std::vector<std::size_t> known_;
};

}  // namespace

void partials(const Instruction& instruction, std::span<const View> in, const View& result, std::size_t rows,
              std::span<std::vector<double>> out) {
  Partials(instruction, in, result, rows, out).run();
}

namespace {

std::vector<Operand> inputs_at(const std::vector<std::size_t>& places) {
  std::vector<Operand> inputs;
  inputs.reserve(places.size());
  for (const std::size_t place : places)
    inputs.push_back({Operand::Source::input, static_cast<std::uint32_t>(place)});
  return inputs;
}

}  // namespace

TangentEvaluator::TangentEvaluator(const Program& program, const std::vector<std::size_t>& by)
    : TangentEvaluator(program, inputs_at(by)) {}

TangentEvaluator::TangentEvaluator(const Program& program, std::vector<Operand> by)
    : program_(program), by_(std::move(by)), registers_(program.registers), ones_(kBatchRows, 1) {
  for (Slot& slot : registers_) {
    slot.values.made = std::make_shared<MadeTexts>();
    slot.derivatives.assign(by_.size(), std::vector<double>(kBatchRows));
    slot.varies.assign(by_.size(), false);
  }
  for (std::size_t i = 0; i < program.numbers.size(); ++i)
    numbers_.emplace_back(program.numbers[i], program.rests[i]);
  for (const std::string& text : program.texts) texts_.emplace_back(kBatchRows, text);
}

View TangentEvaluator::view(const Operand& operand) const {
  View view;
  switch (operand.source) {
    case Operand::Source::result:
      return registers_[operand.index].values.view();
    case Operand::Source::input:
      return input_views_[operand.index];
    case Operand::Source::stage:
      return stage_views_[operand.index];
    case Operand::Source::number:
      return numbers_[operand.index].view();
    case Operand::Source::text:
      view.texts = texts_[operand.index].data();
      break;
  }
  return view;
}

// The derivative of an operand; a null pointer where it does not depend on the input.
const std::vector<double>* TangentEvaluator::derivative(const Operand& operand, std::size_t by) const {
  if (operand.source != Operand::Source::result) {
    const bool same = operand.source == by_[by].source && operand.index == by_[by].index;
    return same ? &ones_ : nullptr;
  }
  const Slot& slot = registers_[operand.index];
  return slot.varies[by] ? &slot.derivatives[by] : nullptr;
}

void TangentEvaluator::load(std::span<const std::vector<double>> inputs, std::size_t begin,
                            std::size_t rows) {
  for (std::size_t k = 0; k < inputs.size(); ++k) {
    if (inputs[k].size() == 1) {
      std::fill_n(inputs_[k].begin(), rows, inputs[k].front());
    } else {
      std::copy_n(inputs[k].begin() + static_cast<std::ptrdiff_t>(begin), rows, inputs_[k].begin());
    }
  }
}

// Whether an operation passes over operands, or only looks at them: its derivative by these is zero.
bool TangentEvaluator::chooses(Op op) {
  return op == Op::clamp || (op != Op::row_product && !calculates(op));
}

void TangentEvaluator::step(const Instruction& instruction, std::size_t rows) {
  std::vector<View> in;
  in.reserve(instruction.in.size());
  for (const Operand& operand : instruction.in) in.push_back(view(operand));
  Slot& slot = registers_[instruction.out];
  apply(instruction, in, slot.values, rows, 0);
  while (partials_.size() < in.size()) partials_.emplace_back(kBatchRows);
  partials(instruction, in, slot.values.view(), rows, std::span(partials_).first(in.size()));
  const bool passes_over = chooses(instruction.op);
  for (std::size_t by = 0; by < by_.size(); ++by) {
    std::vector<double>& sum = slot.derivatives[by];
    slot.varies[by] = false;
    for (std::size_t k = 0; k < in.size(); ++k) {
      const std::vector<double>* inner = derivative(instruction.in[k], by);
      if (inner == nullptr) continue;
      if (!slot.varies[by]) std::fill_n(sum.begin(), rows, 0.0);
      slot.varies[by] = true;
      for (std::size_t i = 0; i < rows; ++i) {
        // Where the operand does not vary, an infinite derivative by it means nothing; and one that was
        // passed over, null or not, brings nothing.
        if ((*inner)[i] == 0 || in[k].null(i) || (passes_over && partials_[k][i] == 0)) continue;
        sum[i] += partials_[k][i] * (*inner)[i];
      }
    }
  }
}

// The rows of a batch, whose inputs are in view.
void TangentEvaluator::run_batch(std::size_t begin, std::size_t count, Tangents& tangents) {
  for (const Instruction& instruction : program_.instructions) step(instruction, count);
  const View result = view(program_.result);
  for (std::size_t i = 0; i < count; ++i)
    tangents.values.push_back(result.null(i) ? std::nan("") : result.numbers[i]);
  for (std::size_t by = 0; by < by_.size(); ++by) {
    const std::vector<double>* derivative_of_result = derivative(program_.result, by);
    if (derivative_of_result == nullptr) continue;
    std::copy_n(derivative_of_result->begin(), count,
                tangents.derivatives[by].begin() + static_cast<std::ptrdiff_t>(begin));
  }
}

namespace {

Tangents tangents_for(std::size_t rows, std::size_t by) {
  Tangents tangents;
  tangents.values.reserve(rows);
  tangents.derivatives.assign(by, std::vector<double>(rows, 0));
  return tangents;
}

}  // namespace

Tangents TangentEvaluator::run(std::span<const std::vector<double>> inputs, std::size_t rows) {
  Tangents tangents = tangents_for(rows, by_.size());
  inputs_.resize(inputs.size(), std::vector<double>(kBatchRows));
  input_views_.assign(inputs.size(), {});
  for (std::size_t begin = 0; begin < rows; begin += kBatchRows) {
    const std::size_t count = std::min(kBatchRows, rows - begin);
    load(inputs, begin, count);
    for (std::size_t k = 0; k < inputs.size(); ++k) input_views_[k].numbers = inputs_[k].data();
    run_batch(begin, count, tangents);
  }
  return tangents;
}

Tangents TangentEvaluator::run(std::span<const Chunk* const> inputs, std::span<const Chunk* const> stages,
                               std::size_t rows) {
  Tangents tangents = tangents_for(rows, by_.size());
  for (std::size_t begin = 0; begin < rows; begin += kBatchRows) {
    input_views_.clear();
    stage_views_.clear();
    for (const Chunk* chunk : inputs) input_views_.push_back(view_of(*chunk, begin));
    for (const Chunk* chunk : stages) stage_views_.push_back(view_of(*chunk, begin));
    run_batch(begin, std::min(kBatchRows, rows - begin), tangents);
  }
  return tangents;
}

}  // namespace opensum
