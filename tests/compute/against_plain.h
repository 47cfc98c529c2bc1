// Columns of special values and nulls of every reason, over which the evaluator is compared with the plain
// one.
#pragma once

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <limits>
#include <random>
#include <string>
#include <vector>

#include "compute/columns_in_scope.h"
#include "compute/whole_column.h"
#include "equation/checker.h"
#include "equation/parser.h"
#include "reference/plain_evaluator.h"

namespace opensum {

inline const std::vector<double>& special_values() {
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

// A sheet of four number columns of several units, a truth, a text and a date column, one that increases and
// one of clocks.
class Bench {
 public:
  explicit Bench(std::size_t rows, unsigned seed) : rows_(rows), random_(seed) {
    add("a", "kg", Kind::number, 0);
    add("b", "g", Kind::number, 10);
    add("n", "1", Kind::number, 25);
    add("t", "degC", Kind::number, 5);
    add("yes", "1", Kind::truth, 15);
    add("word", "1", Kind::text, 15);
    add("day", "1", Kind::date, 10);
    add("order", "s", Kind::number, 10);
    add("clock", "1", Kind::text, 15);
    own_ = origins_.add("bench", "result");
    pointers_ = put_in_scope(columns_, scope_);
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
    EvaluationNotes notes;
    const std::vector<Chunk> chunks =
        evaluate_column(program, {pointers_, rows_, own_, origins_, std::make_shared<MadeTexts>(), notes});
    for (std::size_t row = 0; row < rows_; ++row) {
      const reference::Value expected = reference::evaluate(*checked, pointers_, row, own_);
      const Chunk& chunk = chunks[row / kChunkRows];
      const std::size_t i = row % kChunkRows;
      const Null null = chunk.null_at(i);
      EXPECT_EQ(null.reason(), expected.null.reason()) << equation << " in row " << row;
      if (null && expected.null) {
        const Origins::Origin& origin = origins_[null.origin()];
        EXPECT_EQ(origin.column, origins_[expected.null.origin()].column) << equation << " in row " << row;
        EXPECT_EQ(origin.row.value_or(row), expected.began.value_or(row)) << equation << " in row " << row;
      }
      if (null || expected.null) {
        if (::testing::Test::HasFailure()) return true;
        continue;
      }
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
    column.origin = origins_.add("bench", symbol);
    static const std::vector<std::string_view> colors = {"red", "green", ""};
    static const std::vector<std::string_view> clocks = {
        "10:30", "1:00 PM", "12:05 AM", "12:00 PM", "23:59:59", "13:00 PM", "7:61", "-0:30", ""};
    const auto& words = column.symbol == "clock" ? clocks : colors;
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
        if (kind == Kind::date) {
          const auto day = static_cast<double>(random_() % 3'000'000) - 700'000;
          chunk.numbers.push_back(day * 86400 + static_cast<double>(random_() % 86400));
        } else if (column.symbol == "order") {
          chunk.numbers.push_back(static_cast<double>(row) * 1.5 + static_cast<double>(random_() % 8) / 8);
        } else if (kind == Kind::number) {
          chunk.numbers.push_back(special[pick % special.size()]);
        }
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
  OriginId own_ = 0;
};

}  // namespace opensum
