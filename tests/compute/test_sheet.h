// A sheet of made-up columns on which tests run equations.
#pragma once

#include <gtest/gtest.h>

#include <algorithm>
#include <functional>
#include <memory>
#include <optional>
#include <random>
#include <string>
#include <vector>

#include "compute/columns_in_scope.h"
#include "compute/whole_column.h"
#include "equation/checker.h"
#include "equation/parser.h"

namespace opensum {

// A sheet of a number column x [g], a temperature t [°C], a text column g and a plain number n.
class Sheet {
 public:
  explicit Sheet(std::size_t rows) : rows_(rows) {
    std::mt19937 random(3);
    static const std::vector<std::string_view> words = {"a", "b", "c"};
    for (const char* symbol : {"x", "t", "n", "g"}) {
      Column column;
      column.symbol = symbol;
      column.kind = column.symbol == "g" ? Kind::text : Kind::number;
      column.unit = *units_.read(column.symbol == "x" ? "g" : column.symbol == "t" ? "degC" : "1").unit;
      column.rows = rows;
      column.origin = origins_.add("sheet", symbol);
      for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
        Chunk chunk;
        const std::size_t size = std::min(kChunkRows, rows - begin);
        chunk.nulls.resize(size);
        for (std::size_t i = 0; i < size; ++i) {
          if (column.kind == Kind::text) {
            chunk.texts.push_back(words[random() % 3]);
          } else {
            chunk.numbers.push_back(static_cast<double>(random() % 1000) / 8 - 20);
          }
          if (random() % 10 == 0) chunk.nulls[i] = Null(Reason::missing, column.origin);
        }
        column.chunks.push_back(std::move(chunk));
      }
      columns_.push_back(std::move(column));
    }
    pointers_ = put_in_scope(columns_, scope_);
  }

  const Column& operator[](std::size_t i) const { return columns_[i]; }
  const Origins& origins() const { return origins_; }
  const EvaluationNotes& notes() const { return notes_; }
  void set(std::size_t column, const std::vector<double>& values) {
    columns_[column].chunks.front().numbers = values;
    columns_[column].chunks.front().nulls.assign(values.size(), Null());
  }

  std::vector<Chunk> run(const std::string& equation) {
    const std::optional<Program> program = program_of(equation);
    if (!program) return {};
    notes_ = {};
    return evaluate_column(*program, whole());
  }

  // Visits the function of whole columns that an equation is.
  void with_stage(const std::string& function,
                  const std::function<void(const Stage&, const WholeColumns&)>& visit) {
    const std::optional<Program> program = program_of(function);
    if (!program) return;
    notes_ = {};
    const WholeColumns columns = whole();
    visit(program->stages.back(), columns);
  }

  double first(const std::string& equation) { return run(equation).at(0).numbers.at(0); }
  Null first_null(const std::string& equation) { return run(equation).at(0).null_at(0); }
  const std::string& unit() const { return unit_; }

 private:
  std::optional<Program> program_of(const std::string& equation) {
    Diagnostics diagnostics;
    const Passage passage = Passage::whole("test", equation);
    const NodePtr tree = parse_expression(passage, diagnostics);
    const NullPolicy policy;
    CheckedPtr checked;
    if (tree) checked = check_expression(*tree, passage, {scope_, units_, policy}, diagnostics);
    if (!checked) {
      ADD_FAILURE() << equation << '\n' << render(diagnostics);
      return std::nullopt;
    }
    unit_ = checked->type.unit.text();
    return compile(*checked);
  }

  WholeColumns whole() {
    return {pointers_, rows_, origins_.add("sheet", "result"), origins_, std::make_shared<MadeTexts>(),
            notes_};
  }

  std::size_t rows_;
  UnitSystem units_;
  Origins origins_;
  std::vector<Column> columns_;
  std::vector<const Column*> pointers_;
  Scope scope_;
  EvaluationNotes notes_;
  std::string unit_;
};

}  // namespace opensum
