// Derivatives of every operation, alone and in one another, against differences of the values.
#include "compute/derivatives.h"

#include <gtest/gtest.h>

#include <cmath>
#include <iostream>
#include <random>
#include <set>

#include "equation/checker.h"
#include "equation/operation.h"
#include "equation/parser.h"

namespace opensum {
namespace {

// A function of x and n, which are plain numbers.
class Function {
 public:
  explicit Function(const std::string& equation) {
    Scope scope;
    for (const char* symbol : {"x", "n"}) {
      ScopeColumn& column = scope.columns.emplace_back();
      column.symbol = symbol;
      column.type.unit = *units_.read("1").unit;
    }
    Diagnostics diagnostics;
    const Passage passage = Passage::whole("test", equation);
    const NodePtr tree = parse_expression(passage, diagnostics);
    const NullPolicy policy;
    CheckedPtr checked;
    if (tree) checked = check_expression(*tree, passage, {scope, units_, policy}, diagnostics);
    if (!checked) {
      ADD_FAILURE() << equation << "\n" << render(diagnostics);
      return;
    }
    program_ = compile(*checked);
  }

  std::set<Op> operations() const {
    std::set<Op> found;
    for (const Instruction& instruction : program_.instructions) found.insert(instruction.op);
    return found;
  }

  // The value at x and n, and the derivatives by both.
  Tangents at(double x, double n) const {
    std::vector<std::vector<double>> inputs;
    std::vector<std::size_t> by;
    for (const std::size_t input : program_.inputs) {
      by.push_back(inputs.size());
      inputs.push_back({input == 0 ? x : n});
    }
    Tangents found = TangentEvaluator(program_, by).run(inputs, 1);
    Tangents sorted{found.values, {{0.0}, {0.0}}};
    for (std::size_t k = 0; k < program_.inputs.size(); ++k)
      sorted.derivatives[program_.inputs[k]] = found.derivatives[k];
    return sorted;
  }

 private:
  UnitSystem units_;
  Program program_;
};

// The derivative of a smooth function by differences over ever shorter ways, extrapolated to none (the method
// of Ridders), with the error it estimates.
template <typename Value>
std::pair<double, double> by_differences(Value value, double at, double way) {
  constexpr int kWays = 8;
  std::vector<std::vector<double>> table(kWays, std::vector<double>(kWays));
  double best = 0;
  double error = HUGE_VAL;
  for (int i = 0; i < kWays; ++i, way /= 2) {
    table[0][i] = (value(at + way) - value(at - way)) / (2 * way);
    double weight = 4;
    for (int j = 1; j <= i; ++j, weight *= 4) {
      table[j][i] = (weight * table[j - 1][i] - table[j - 1][i - 1]) / (weight - 1);
      const double off =
          std::max(std::abs(table[j][i] - table[j - 1][i]), std::abs(table[j][i] - table[j - 1][i - 1]));
      if (off >= error) continue;
      error = off;
      best = table[j][i];
    }
  }
  return {best, error};
}

constexpr const char* kFunctions[] = {"x",
                                      "n",
                                      "3",
                                      "-x",
                                      "x + n",
                                      "x - n",
                                      "n - x",
                                      "x * n",
                                      "x * x",
                                      "x / n",
                                      "n / x",
                                      "1 / x",
                                      "x^2",
                                      "x^3",
                                      "x^(-1)",
                                      "x^0.5",
                                      "x^n",
                                      "n^x",
                                      "2^x",
                                      "abs(-x)",
                                      "abs(x)",
                                      "sqrt(x)",
                                      "cbrt(x)",
                                      "exp(x)",
                                      "expm1(x)",
                                      "ln(x)",
                                      "log1p(x)",
                                      "log10(x)",
                                      "log2(x)",
                                      "erf(x)",
                                      "sin(x)",
                                      "cos(x)",
                                      "tan(x / 3)",
                                      "asin(x / 4)",
                                      "acos(x / 4)",
                                      "atan(x)",
                                      "sinh(x)",
                                      "cosh(x)",
                                      "tanh(x)",
                                      "atan2(x, n)",
                                      "hypot(x, n)",
                                      "mod(x, 0.7)",
                                      "mod(5, x)",
                                      "clamp(x, 0, 9)",
                                      "clamp(x, n, 9)",
                                      "clamp(x, 5, 7 * n)",
                                      "if(x > n, x^2, n^3)",
                                      "fallback(x, n)",
                                      "fallback(null, x * n)",
                                      "exclude(x * n, where: x > 9)",
                                      "ratio(x, n)",
                                      "ratio(x, n, zero: x)",
                                      "ratio(x, 0 * n, zero: x * n)",
                                      "row_sum(x, n, x * n)",
                                      "row_mean(x, n, x * x)",
                                      "row_product(x, n, x)",
                                      "row_min(x, n)",
                                      "row_max(x, n * n, 2)",
                                      "row_range(x, n, x * n)",
                                      "row_median(x, n, x + n)",
                                      "row_median(x, n, x * n, 9)",
                                      "row_sd(x, n, x * n)",
                                      "row_count(x, n)",
                                      "sign(x)",
                                      "t_quantile(x / 4, 7)",
                                      "normal_quantile(x / 3)",
                                      "chi2_quantile(x / 3, 5)",
                                      "(x * 1 [m] + n * 1 [km]) / (1 [cm])"};

TEST(Derivatives, AreThoseOfDifferences) {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> uniform(0.3, 2.3);
  std::set<Op> seen;
  std::size_t compared = 0;
  double worst = 0;
  const auto compare = [&](const std::string& equation) {
    const Function function(equation);
    seen.merge(function.operations());
    for (int point = 0; point < 20; ++point) {
      const double place[] = {uniform(random), uniform(random)};
      const Tangents exact = function.at(place[0], place[1]);
      for (std::size_t by = 0; by < 2; ++by) {
        const auto value = [&](double moved) {
          return function.at(by == 0 ? moved : place[0], by == 1 ? moved : place[1]).values[0];
        };
        const auto [differences, error] = by_differences(value, place[by], 0.01);
        const double scale = std::max({1.0, std::abs(differences), std::abs(exact.values[0])});
        // At a corner there is no derivative, which the differences notice.
        if (!(error < 1e-6 * scale)) continue;
        ++compared;
        const double off = std::abs(exact.derivatives[by][0] - differences) / scale;
        worst = std::max(worst, off);
        EXPECT_LT(off, 1e-8) << equation << " by "
                             << "xn"[by] << " at " << place[0] << ", " << place[1];
      }
    }
  };
  for (const char* equation : kFunctions) compare(equation);
  // One in another.
  for (int k = 0; k < 400; ++k) {
    std::string equation = kFunctions[random() % std::size(kFunctions)];
    const std::string inner = kFunctions[random() % std::size(kFunctions)];
    std::string nested;
    for (std::size_t i = 0; i < equation.size(); ++i) {
      const auto is_letter = [&](std::size_t at) {
        return at < equation.size() && (std::isalpha(equation[at]) != 0 || equation[at] == '_');
      };
      const bool alone = equation[i] == 'x' && (i == 0 || !is_letter(i - 1)) && !is_letter(i + 1);
      nested += alone ? "(1.3 + tanh(" + inner + ") / 2)" : std::string(1, equation[i]);
    }
    compare(nested);
  }
  std::cout << "derivatives: " << compared << " compared, the worst off by " << worst << "\n";
  EXPECT_GT(compared, 15000U);
  // Every operation that a model may have and that does not go in steps.
  const std::set<Op> steps = {Op::round_to, Op::floor_to,     Op::ceil_to,     Op::trunc_to,
                              Op::agrees,   Op::is_any,       Op::is_null,     Op::complete,
                              Op::limit,    Op::row_min_name, Op::row_max_name};
  for (int number = 0; number < static_cast<int>(Op::count_); ++number) {
    const Op op = static_cast<Op>(number);
    const OpFamily family = family_of(op);
    const bool goes_smoothly = family == OpFamily::arithmetic || family == OpFamily::of_numbers ||
                               family == OpFamily::choice || family == OpFamily::along_row;
    if (!goes_smoothly || steps.count(op) > 0) continue;
    EXPECT_EQ(seen.count(op), 1U) << name_of(op) << " is not swept";
  }
}

}  // namespace
}  // namespace opensum
