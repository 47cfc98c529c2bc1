// The plain evaluator: walks a checked tree for one row at a time. Slow and simple; the fast one must agree
// with it bit for bit, null reasons and origins included.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "equation/checked.h"
#include "table/column.h"

namespace opensum::reference {

struct Value {
  double number = 0;
  std::string text;
  Null null;
  /// The row in which the null began, if that is another than its own.
  std::optional<std::size_t> began;
};

/// The value of a tree in one row. `own` is the origin of nulls that begin in the result.
Value evaluate(const Checked& node, const std::vector<const Column*>& columns, std::size_t row, OriginId own);

/// The same for functions of whole columns, which look at every row of their operands.
Value evaluate_whole(const Checked& node, const std::vector<const Column*>& columns, std::size_t row,
                     OriginId own);

/// Plain statistics: a compensated sum, order statistics, the sample standard deviation.
double sum(const std::vector<double>& values);
double mean(std::vector<double> values);
double quantile(std::vector<double> values, double p);
double deviation(const std::vector<double>& values);
/// The date some seconds after another, which are rounded to the nanosecond.
double seconds_after(double date, double seconds);
/// The mean and the quantiles of the operand of a function: those of dates come from differences.
double mean(const Checked& node, std::vector<double> values);
double quantile(const Checked& node, std::vector<double> values, double p);

/// A null, and a number that is one where it is not finite.
Value null_value(Null null);
Value number(double x, OriginId own);

}  // namespace opensum::reference
