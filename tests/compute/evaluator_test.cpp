// The evaluator against the plain one: all small equations, then random ones, over special values and nulls
// of every reason, at lengths around the borders of batches and chunks.
#include "compute/evaluator.h"

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <limits>
#include <random>

#include "equation/checker.h"
#include "equation/parser.h"
#include "reference/plain_evaluator.h"

namespace opensum {
namespace {

#ifdef __SANITIZE_ADDRESS__
constexpr std::size_t kRandomEquations = 300;
constexpr std::size_t kLongColumn = 1100;
#else
constexpr std::size_t kRandomEquations = 3000;
constexpr std::size_t kLongColumn = 4200;
#endif

const std::vector<double>& special_values() {
  static const std::vector<double> values = {0.0,
                                             -0.0,
                                             1.0,
                                             -1.0,
                                             2.0,
                                             0.5,
                                             -0.5,
                                             3.0,
                                             1e-320,
                                             1e308,
                                             -1e308,
                                             1e-5,
                                             12345.678,
                                             0.1,
                                             -7.25,
                                             std::numeric_limits<double>::max(),
                                             std::numeric_limits<double>::min(),
                                             273.15};
  return values;
}

constexpr OriginId kOwn = 77;

// A sheet of four number columns of several units, a truth and a text column.
class Bench {
 public:
  explicit Bench(std::size_t rows, unsigned seed) : rows_(rows), random_(seed) {
    add("a", "kg", Kind::number, 0);
    add("b", "g", Kind::number, 10);
    add("n", "1", Kind::number, 25);
    add("t", "degC", Kind::number, 5);
    add("yes", "1", Kind::truth, 15);
    add("word", "1", Kind::text, 15);
    for (const Column& column : columns_) {
      ScopeColumn entry;
      entry.symbol = column.symbol;
      entry.type.kind = column.kind;
      entry.type.unit = column.unit;
      scope_.columns.push_back(entry);
      pointers_.push_back(&column);
    }
    scope_.sheet = "bench";
  }

  // Compares both evaluators over the equation; false when it does not pass the checker.
  bool compare(const std::string& equation) {
    Diagnostics diagnostics;
    const Passage passage = Passage::whole("equation", equation);
    const NodePtr tree = parse_expression(passage, diagnostics);
    if (!tree) return false;
    const CheckedPtr checked = check_expression(*tree, passage, {scope_, units_, policy_}, diagnostics);
    if (!checked) return false;
    const Program program = compile(*checked);
    const std::vector<Chunk> chunks = Evaluator(program, kOwn).run_column(pointers_, rows_, origins_);
    for (std::size_t row = 0; row < rows_; ++row) {
      const reference::Value expected = reference::evaluate(*checked, pointers_, row, kOwn);
      const Chunk& chunk = chunks[row / kChunkRows];
      const std::size_t i = row % kChunkRows;
      const Null null = chunk.null_at(i);
      EXPECT_EQ(null.reason(), expected.null.reason()) << equation << " in row " << row;
      EXPECT_EQ(null.origin(), expected.null.origin()) << equation << " in row " << row;
      if (null || expected.null) continue;
      if (checked->type.kind == Kind::text) {
        EXPECT_EQ(chunk.texts[i], expected.text) << equation << " in row " << row;
      } else {
        EXPECT_EQ(std::bit_cast<std::uint64_t>(chunk.numbers[i]),
                  std::bit_cast<std::uint64_t>(expected.number))
            << equation << " in row " << row << ": " << chunk.numbers[i] << " and " << expected.number;
      }
      if (::testing::Test::HasFailure()) return true;
    }
    return true;
  }

 private:
  void add(const char* symbol, const char* unit, Kind kind, int percent_null) {
    Column column;
    column.symbol = symbol;
    column.unit = *units_.read(unit).unit;
    column.kind = kind;
    column.rows = rows_;
    column.origin = static_cast<OriginId>(columns_.size());
    static const std::vector<std::string_view> words = {"red", "green", ""};
    const auto& special = special_values();
    for (std::size_t begin = 0; begin < rows_; begin += kChunkRows) {
      Chunk chunk;
      const std::size_t size = std::min(kChunkRows, rows_ - begin);
      for (std::size_t i = 0; i < size; ++i) {
        // Each pair of special values meets in some row of two columns of different stride.
        const std::size_t row = begin + i;
        const std::size_t pick = columns_.size() % 2 == 0 ? row / special.size() : row;
        if (kind == Kind::text) chunk.texts.push_back(words[random_() % words.size()]);
        if (kind == Kind::truth) chunk.numbers.push_back(static_cast<double>(random_() % 2));
        if (kind == Kind::number) chunk.numbers.push_back(special[pick % special.size()]);
        if (static_cast<int>(random_() % 100) < percent_null) {
          chunk.nulls.resize(size);
          const auto reason = static_cast<Reason>(1 + random_() % (kReasons - 1));
          chunk.nulls[i] = Null(reason, column.origin);
        }
      }
      column.chunks.push_back(std::move(chunk));
    }
    columns_.push_back(std::move(column));
  }

  std::size_t rows_;
  std::mt19937 random_;
  UnitSystem units_;
  NullPolicy policy_;
  std::vector<Column> columns_;
  std::vector<const Column*> pointers_;
  Scope scope_;
  Origins origins_;
};

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
  out.push_back("near(" + x + ", " + y + ", within: 0)");
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
  for (const char* name :
       {"abs",  "sign", "sqrt", "cbrt", "exp",  "ln",   "log10", "log2",  "sin",  "cos",  "tan",
        "asin", "acos", "atan", "sinh", "cosh", "tanh", "round", "floor", "ceil", "trunc"}) {
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
