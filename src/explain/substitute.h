// An equation with the values of one row put in for its names, in the equation language.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "compute/whole_columns.h"
#include "equation/check_context.h"
#include "equation/parser.h"
#include "equation/program.h"
#include "table/column.h"

namespace opensum {

/// A value as the equation language writes it: `5.98 [L/min]`, `"text"`, `date("2031-04-02")`, `true`,
/// `null`.
std::string literal(const Column& column, std::size_t row);

/// A name for which a value was put in.
struct SubstitutedName {
  std::string text;
  std::optional<std::size_t> column;  ///< in the table; nothing for a constant
  std::string value;                  ///< of a constant
};

/// A function of whole columns for which its value in the row was put in.
struct SubstitutedCall {
  std::string text;
  std::string value;
  Program program;
  Type operand;  ///< of what it goes over
};

/// Puts values in. `context` is that in which the expression was checked; `study` is needed where reductions
/// go over other sheets.
class Substitution {
 public:
  Substitution(const CheckContext& context, const Passage& passage, const Table& table, std::size_t row,
               Origins& origins, const StudyColumns* study = nullptr)
      : context_(context), passage_(passage), table_(table), row_(row), origins_(origins), study_(study) {}

  /// The expression with values for columns, constants, measured(…), limit(…) and functions of whole columns.
  NodePtr run(const Node& node);

  /// The names and functions replaced, in order of first use.
  const std::vector<SubstitutedName>& names() const { return names_; }
  const std::vector<SubstitutedCall>& calls() const { return calls_; }

 private:
  NodePtr column_value(std::size_t index, const std::string& name);
  NodePtr name_value(const Node& node);
  NodePtr call_value(const Node& node);
  NodePtr copy(const Node& node);
  /// The body of a formula with what is passed to it put in.
  NodePtr formula_value(const Node& call, const Formula& formula);
  static NodePtr duplicate(const Node& node);
  /// The columns that a range or pattern stands for.
  std::vector<std::size_t> listed(const Node& node) const;

  const CheckContext& context_;
  const Passage& passage_;
  const Table& table_;
  std::size_t row_;
  Origins& origins_;
  const StudyColumns* study_;
  /// What the parameters stand for inside a formula.
  std::map<std::string, const Node*> parameters_;
  std::vector<SubstitutedName> names_;
  std::vector<SubstitutedCall> calls_;
};

}  // namespace opensum
