// Third stage of an equation: the checked tree, in which every node has a kind and a unit, conversions
// stand as operations of their own, and null rules are decided.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "equation/op.h"
#include "equation/op_setting.h"
#include "equation/uncertain_numbers.h"
#include "message/source.h"
#include "table/column.h"
#include "units/unit.h"

namespace opensum {

/// What an expression gives.
struct Type {
  Kind kind = Kind::number;
  Unit unit;
  /// The unit is a product of others as the algebra made it, not one that somebody wrote.
  bool raw = false;
  /// Of dates: they have a time of day, and are written with it.
  bool clock = false;
  /// A difference between temperatures, which is no point on a scale.
  bool difference = false;
  /// The literal null, which fits everywhere.
  bool any = false;
};

/// How concat names a date that is written with its time of day; other operands go by their kinds.
constexpr const char* kDateTime = "date and time";

/// How a reduction treats nulls.
struct NullRule {
  bool skip = false;
  int at_least = 1;
};

/// The rows of another sheet, over which a reduction goes.
struct OtherRows {
  std::size_t sheet = 0;  ///< its number
  /// The number of the own sheet, if each of its rows stands for a group of those rows, of which the
  /// reduction is taken.
  std::optional<std::size_t> groups_of;
};

/// The fitted curve that gives a value.
struct CurveUsed {
  std::size_t fit = 0;    ///< its number
  std::size_t sheet = 0;  ///< the number of the sheet to which it is fitted
  bool own = false;       ///< the rows are those of that sheet, each with its group
};

struct Checked;
using CheckedPtr = std::unique_ptr<Checked>;

struct Checked {
  Op op{};
  Type type;
  Span span;
  double number = 0;              ///< of a constant
  float rest = 0;                 ///< of one that is a date (see Instant)
  std::vector<NumberPart> parts;  ///< of a constant with an uncertainty
  OpSetting setting;
  std::string text;        ///< of a text constant; the name of a reduction down the column
  std::size_t column = 0;  ///< index in the scope's columns
  Conversion conversion;
  /// Of a comparison: whether its left and right operands are measured columns, whose nulls may keep a limit.
  std::array<bool, 2> keeps_limit{};
  NullRule nulls;
  /// Of a function of whole columns: whether its second operand (`along:`, `weights:` or another column) and
  /// its `where:` follow the first, in this order. Further arguments are the keys of its `by:`.
  bool has_where = false;
  bool has_beside = false;
  std::optional<OtherRows> over;   ///< of a reduction that does not go over the own rows
  std::optional<CurveUsed> curve;  ///< of what a fitted curve gives
  std::vector<std::string> names;  ///< of the columns that a row_…_name chooses from
  std::vector<CheckedPtr> args;
};

}  // namespace opensum
