// A value of the equation language as SQL: its value and, where it may be null, why.
#pragma once

#include <set>
#include <string>

#include "message/source.h"
#include "sql/bounds.h"
#include "table/column.h"

namespace opensum {

struct SqlValue {
  Kind kind = Kind::number;  ///< numbers and dates are double precision, truths boolean
  std::string value;         ///< NULL exactly where it is null
  std::string why;           ///< the bits of a Null, NULL where the value is known; empty for never
  std::set<Reason> reasons;  ///< for which it may be null
  Bounds bounds;             ///< of numbers
  bool constant = false;
  std::size_t expanded = 0;  ///< how long it is once all names are replaced by what they stand for

  bool may_be_null() const { return !why.empty(); }
};

/// What cannot be said in SQL with the same meaning, and why.
struct NotInSql {
  std::string reason;
  Place place = {};  ///< of the equation, where it is one
};

/// A number of a double as SQL.
std::string sql_number(double number);

/// A null of a reason that begins in a column.
std::string sql_null(Reason reason, OriginId own);

/// An expression as an operand of another: in brackets unless it is a name or a number.
std::string in_brackets(const std::string& sql);

/// The first of several that is not null; empty ones are left out.
std::string first_known(std::initializer_list<std::string> values);

}  // namespace opensum
