// Arithmetic in few passes comes to the numbers of one operation after the other, and says where a row is
// null.
#include "compute/fused.h"

#include <gtest/gtest.h>

#include <bit>
#include <iostream>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "compute/against_plain.h"
#include "compute/columns_in_scope.h"
#include "equation/checker.h"
#include "equation/parser.h"
#include "reference/plain_evaluator.h"

namespace opensum {
namespace {

// A batch of four columns of numbers without nulls, of which a few are zero, huge or negative.
class Batch {
 public:
  explicit Batch(unsigned seed) : random_(seed) {
    for (const auto& [symbol, unit] :
         std::vector<std::pair<const char*, const char*>>{{"x", "1"}, {"y", "1"}, {"m", "kg"}, {"n", "g"}}) {
      Column column;
      column.symbol = symbol;
      column.unit = *units_.read(unit).unit;
      column.rows = kRows;
      column.origin = origins_.add("batch", symbol);
      column.chunks.emplace_back().numbers.resize(kRows);
      columns_.push_back(std::move(column));
    }
    pointers_ = put_in_scope(columns_, scope_);
    own_ = origins_.add("batch", "result");
  }

  // Between one and two, where little is infinite; `odd` of a thousand are special.
  void draw(unsigned odd) {
    const auto& special = special_values();
    for (Column& column : columns_) {
      for (double& number : column.chunks.front().numbers) {
        number = 1 + static_cast<double>(random_() % 1'000'000) * 1e-6;
        if (random_() % 1000 < odd) number = special[random_() % special.size()];
      }
    }
  }

  // What became of an equation.
  enum class Outcome : std::uint8_t { no_equation, no_operation, not_fused, fused, has_nulls };
  Outcome compare(const std::string& equation) {
    Diagnostics diagnostics;
    const Passage passage = Passage::whole("equation", equation);
    const NodePtr tree = parse_expression(passage, diagnostics);
    if (!tree) return Outcome::no_equation;
    const CheckedPtr checked = check_expression(*tree, passage, {scope_, units_, policy_}, diagnostics);
    if (!checked) return Outcome::no_equation;
    const Program program = compile(*checked);
    auto fused = FusedProgram::of(program);
    if (!fused) return program.instructions.empty() ? Outcome::no_operation : Outcome::not_fused;
    std::vector<const double*> leaves;
    for (const Operand& leaf : fused->leaves())
      leaves.push_back(columns_[program.inputs[leaf.index]].chunks.front().numbers.data());
    std::vector<double> out(kRows);
    const bool all_known = fused->run(leaves, kRows, out.data());
    bool any_null = false;
    for (std::size_t row = 0; row < kRows; ++row) {
      const reference::Value expected = reference::evaluate(*checked, pointers_, row, own_);
      any_null = any_null || bool(expected.null);
      if (!all_known || any_null) continue;
      EXPECT_EQ(std::bit_cast<std::uint64_t>(out[row]), std::bit_cast<std::uint64_t>(expected.number))
          << equation << " in row " << row;
    }
    EXPECT_EQ(all_known, !any_null) << equation;
    return all_known ? Outcome::fused : Outcome::has_nulls;
  }

  static constexpr std::size_t kRows = 37;

 private:
  std::mt19937 random_;
  UnitSystem units_;
  NullPolicy policy_;
  std::vector<Column> columns_;
  std::vector<const Column*> pointers_;
  Scope scope_;
  Origins origins_;
  OriginId own_ = 0;
};

std::string random_equation(std::mt19937& random, int depth) {
  static const std::vector<std::string> leaves = {"x", "y", "m", "n", "2", "-0.5", "0", "3 [g]", "m / n"};
  if (depth == 0 || random() % 6 == 0) return leaves[random() % leaves.size()];
  const std::string a = "(" + random_equation(random, depth - 1) + ")";
  static const std::vector<std::string> around = {"-",    "sqrt", "exp",  "sin",   "ln",
                                                  "tanh", "abs",  "atan", "floor", "asin"};
  switch (random() % 8) {
    case 0:
      return around[random() % around.size()] + a;
    case 1:
      return a + std::vector<std::string>{"^2", "^0.5", "^-1", " in [mg]"}[random() % 4];
    default:
      break;
  }
  return a + std::string(1, "+-*/"[random() % 4]) + "(" + random_equation(random, depth - 1) + ")";
}

TEST(Fused, ComesToTheSameAndFindsEveryNull) {
  const unsigned seed = 20310418;
  std::mt19937 random(seed);
  Batch batch(seed);
  std::map<Batch::Outcome, std::size_t> outcomes;
  while (outcomes[Batch::Outcome::fused] < 1500 && !HasFailure()) {
    batch.draw(random() % 2 == 0 ? 0 : 10);
    ++outcomes[batch.compare(random_equation(random, 5))];
  }
  std::cout << outcomes[Batch::Outcome::fused] << " equations of known numbers, "
            << outcomes[Batch::Outcome::has_nulls] << " with nulls, " << outcomes[Batch::Outcome::no_equation]
            << " rejected by the checker; seed " << seed << "\n";
  EXPECT_GT(outcomes[Batch::Outcome::has_nulls], 300U);
  EXPECT_EQ(outcomes[Batch::Outcome::not_fused], 0U);
}

// Each operation beside each other one, on either side.
TEST(Fused, EveryPairOfOperations) {
  Batch batch(7);
  std::size_t fused = 0;
  for (const unsigned odd : {0U, 20U}) {
    for (const char outer : std::string("+-*/^")) {
      for (const char inner : std::string("+-*/^")) {
        for (const std::string last : {"2", "0.5", "x", "0"}) {
          for (const std::string& equation :
               {std::string("(x ") + inner + " y) " + outer + " " + last,
                last + " " + outer + " (y " + inner + " x)", "sqrt(x " + std::string(1, inner) + " y)",
                "-(x " + std::string(1, inner) + " y) " + outer + " (y " + inner + " " + last + ")"}) {
            batch.draw(odd);
            fused += batch.compare(equation) == Batch::Outcome::fused ? 1 : 0;
          }
        }
      }
    }
  }
  EXPECT_GT(fused, 400U);
}

TEST(Fused, WhatChoosesOrCountsIsNotForIt) {
  Batch batch(1);
  batch.draw(0);
  for (const char* equation : {"if(x > 1, x, y)", "fallback(x, y)", "row_sum(x, y)", "x > y"})
    EXPECT_EQ(batch.compare(equation), Batch::Outcome::not_fused) << equation;
}

}  // namespace
}  // namespace opensum
