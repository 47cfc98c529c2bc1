// The evaluator against the plain one: all small equations, then random ones, over special values and nulls
// of every reason, at lengths around the borders of batches and chunks.
#include "compute/evaluator.h"

#include <gtest/gtest.h>

#include <random>

#include "compute/against_plain.h"

namespace opensum {
namespace {

#ifdef OPENSUM_SANITIZED
constexpr std::size_t kRandomEquations = 300;
constexpr std::size_t kLongColumn = 1100;
#else
constexpr std::size_t kRandomEquations = 3000;
constexpr std::size_t kLongColumn = 4200;
#endif

const std::vector<std::string>& leaves() {
  static const std::vector<std::string> list = {"a",    "b",       "n",         "t",    "yes",   "word",
                                                "2",    "-0.5",    "0",         "null", "3 [g]", "5 [%]",
                                                "true", "\"red\"", "-5 [degC]", "pi"};
  return list;
}

// Every way to put one and two operands together.
std::vector<std::string> combined(const std::string& x, const std::string& y) {
  std::vector<std::string> out;
  for (const char* op : {"+", "-", "*", "/", "^", "==", "!=", "<", "<=", ">", ">=", "and", "or"}) {
    out.push_back("(" + x + ") " + op + " (" + y + ")");
  }
  for (const char* name : {"atan2", "hypot", "mod", "fallback", "is_any", "complete", "row_sum", "row_mean",
                           "row_median", "row_min", "row_max", "row_range", "row_sd", "row_count",
                           "row_product", "row_min_name", "row_max_name", "ratio"}) {
    out.push_back(std::string(name) + "(" + x + ", " + y + ")");
  }
  for (const char* name : {"row_sum", "row_mean", "row_sd", "row_max_name"}) {
    out.push_back(std::string(name) + "(" + x + ", " + y + ", nulls: skip)");
    out.push_back(std::string(name) + "(" + x + ", " + y + ", nulls: skip, at_least: 2)");
  }
  out.push_back("if(yes, " + x + ", " + y + ")");
  out.push_back("exclude(" + x + ", where: " + y + ")");
  out.push_back("agrees(" + x + ", " + y + ", within: 0)");
  out.push_back("clamp(" + x + ", " + y + ", " + y + ")");
  return out;
}

std::vector<std::string> wrapped(const std::string& x) {
  std::vector<std::string> out = {"-(" + x + ")",
                                  "not (" + x + ")",
                                  "(" + x + ") in [mg]",
                                  "value(" + x + ", [g])",
                                  "kelvin(" + x + ")",
                                  "is_null(" + x + ")",
                                  "(" + x + ")^2",
                                  "(" + x + ")^0.5",
                                  "(" + x + ")^-1",
                                  "(" + x + ")^(1/3)",
                                  "ratio(" + x + ", n, zero: 0)",
                                  "round(" + x + ", to: 0.1 [g])",
                                  "round(" + x + ", to: 0.25)"};
  for (const char* name : {"abs",  "sign",  "sqrt",  "cbrt", "exp",   "ln",    "log10", "log2",
                           "sin",  "cos",   "tan",   "asin", "acos",  "atan",  "sinh",  "cosh",
                           "tanh", "expm1", "log1p", "erf",  "round", "floor", "ceil",  "trunc"}) {
    out.push_back(std::string(name) + "(" + x + ")");
  }
  return out;
}

TEST(EvaluatorAgainstPlain, AgreesOnAllSmallEquations) {
  Bench bench(400, 1);
  std::size_t compared = 0;
  std::size_t rejected = 0;
  const auto run = [&](const std::string& equation) { (bench.compare(equation) ? compared : rejected)++; };
  for (const std::string& x : leaves()) {
    run(x);
    for (const std::string& equation : wrapped(x)) run(equation);
    for (const std::string& y : leaves()) {
      for (const std::string& equation : combined(x, y)) run(equation);
    }
    if (HasFailure()) break;
  }
  std::cout << compared << " equations compared, " << rejected << " rejected by the checker\n";
  EXPECT_GT(compared, 2000U);
}

class RandomEquation {
 public:
  explicit RandomEquation(unsigned seed) : random_(seed) {}
  std::string make(int depth) {
    if (depth == 0 || random_() % 5 == 0) return leaves()[random_() % leaves().size()];
    const std::string x = make(depth - 1);
    if (random_() % 3 == 0) {
      const auto all = wrapped(x);
      return all[random_() % all.size()];
    }
    const auto all = combined(x, make(depth - 1));
    return all[random_() % all.size()];
  }

 private:
  std::mt19937 random_;
};

TEST(EvaluatorAgainstPlain, AgreesOnRandomEquations) {
  const unsigned seed = 20310402;
  std::size_t compared = 0;
  std::size_t rejected = 0;
  Bench bench(330, seed);
  RandomEquation random(seed);
  while (compared < kRandomEquations && !HasFailure()) {
    const std::string equation = random.make(4);
    if (bench.compare(equation)) {
      ++compared;
    } else {
      ++rejected;
    }
  }
  std::cout << compared << " random equations compared, " << rejected << " rejected; seed " << seed << "\n";
}

TEST(EvaluatorAgainstPlain, AgreesAroundBatchAndChunkBorders) {
  for (const std::size_t rows : {std::size_t{0}, std::size_t{1}, kBatchRows - 1, kBatchRows, kBatchRows + 1,
                                 kLongColumn, kChunkRows, kChunkRows + 1}) {
    Bench bench(rows, static_cast<unsigned>(rows));
    EXPECT_TRUE(bench.compare("row_mean(a, b, 5 [g], nulls: skip) + b * n"));
    EXPECT_TRUE(bench.compare("if(n > 1 or is_null(b), ratio(a, b, zero: null), a / b)"));
    EXPECT_TRUE(bench.compare("fallback(word, \"none\")"));
  }
}

}  // namespace
}  // namespace opensum
