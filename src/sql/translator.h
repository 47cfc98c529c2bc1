// Inside of the translation of programs into SQL, shared by its files: what a program is made of in
// expression.cpp, arithmetic.cpp, comparisons and choices in choices.cpp, reductions along a row in
// along_row.cpp, dates and texts in dates_and_texts.cpp.
#pragma once

#include <fmt/format.h>

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "equation/operation.h"
#include "equation/program.h"
#include "sql/operands.h"

namespace opensum {

/// Numbers of 15 digits are told apart as they stand there.
constexpr double kDigitsHold = 1e15;

/// Conditions joined by a word; empty ones are left out.
std::string joined_by(std::initializer_list<std::string> conditions, const char* word);

SqlValue sql_constant(double number);

class Translator {
 public:
  Translator(const Program& program, const SqlOperands& operands, std::vector<SqlLeftOut>* left_out)
      : program_(program), operands_(operands), left_out_(left_out) {}

  SqlValue run();
  SqlValue multiply(const SqlValue& a, const SqlValue& b) const;
  SqlValue divide(const SqlValue& a, const SqlValue& b) const;
  SqlValue add(const SqlValue& a, const SqlValue& b, int sign) const;

 private:
  SqlValue value_of(const Operand& operand) const;
  std::string null(Reason reason) const { return sql_null(reason, operands_.own); }
  [[noreturn]] static void refuse(Op op) {
    throw NotInSql{fmt::format("`{}` has no counterpart there", name_of(op))};
  }
  /// A number in a place where it is one: a single constant is no operand of the server's integer arithmetic.
  static std::string number(const SqlValue& value) {
    return value.constant ? value.value + "::float8" : in_brackets(value.value);
  }
  /// Nothing is known of the result but what its operands tell.
  static SqlValue from(const std::vector<SqlValue>& in, Kind kind);
  /// Makes a value null where a condition holds.
  void null_where(SqlValue& out, const std::string& condition, Reason reason) const;
  /// A value that is null where conditions hold, and zero where it would be too near to it.
  static std::string guarded(const std::string& undefined, const std::string& vanishing,
                             const std::string& value);
  SqlValue raise(const SqlValue& a, const SqlValue& b) const;
  SqlValue root(const SqlValue& a) const;
  SqlValue logarithm(const SqlValue& a, const char* form) const;
  SqlValue exponential(const SqlValue& a) const;
  SqlValue hyperbolic(const SqlValue& a, const char* name) const;
  /// A function that is defined everywhere and bounded.
  SqlValue simple(const SqlValue& a, const char* name, double least, double greatest,
                  double shrinks = 1) const;
  SqlValue arc(const SqlValue& a, const char* name) const;
  /// Compares numbers as the decimals that they are.
  std::string comparison(const SqlValue& a, const SqlValue& b, const char* sign, bool instants) const;
  static const char* sign_of(Op op);
  SqlValue compare(const Instruction& instruction, const std::vector<SqlValue>& in) const;
  /// Constants of truth are numbers in a program.
  static std::string truth(const SqlValue& value);
  SqlValue logic(const std::vector<SqlValue>& in, const char* word) const;
  static Kind kind_of_branches(const SqlValue& a, const SqlValue& b);
  static std::string branch(const SqlValue& value, Kind kind);
  static Bounds bounds_of_branches(const SqlValue& a, const SqlValue& b);
  SqlValue choose(const std::vector<SqlValue>& in) const;
  SqlValue first_of(const std::vector<SqlValue>& in) const;
  SqlValue excluded(const std::vector<SqlValue>& in) const;
  SqlValue quotient_or(const std::vector<SqlValue>& in) const;
  SqlValue one_of(const Instruction& instruction, const std::vector<SqlValue>& in) const;
  SqlValue along_row(const Instruction& instruction, const std::vector<SqlValue>& in) const;
  /// ln(1 + x) and e^x - 1 by functions that lose nothing near zero.
  SqlValue near_zero(const SqlValue& a, bool logarithm_of) const;
  SqlValue modulo(const SqlValue& a, const SqlValue& b) const;
  /// Of a step that is no power of ten: by what is left of whole steps, exactly.
  static std::string rounded_to_step(Op op, const std::string& x, const std::string& step);
  SqlValue end_of(const Instruction& instruction, const SqlValue& a) const;
  SqlValue within_calendar(const SqlValue& seconds) const;
  SqlValue part_of_date(const SqlValue& a, const char* field, double most) const;
  SqlValue of_text(const std::vector<SqlValue>& in, Kind kind, const std::string& value) const;
  SqlValue rounded(const Instruction& instruction, const SqlValue& a) const;
  SqlValue apply(const Instruction& instruction, const std::vector<SqlValue>& in) const;

  const Program& program_;
  const SqlOperands& operands_;
  std::vector<SqlLeftOut>* left_out_;
  std::map<std::uint32_t, SqlValue> registers_;
};

}  // namespace opensum
