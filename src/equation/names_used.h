// What an expression depends on: the names in it.
#pragma once

#include <string>
#include <vector>

#include "equation/scope.h"
#include "equation/tree.h"

namespace opensum {

/// The columns and constants that an expression names, in order of first use: what it depends on. Ranges and
/// texts that may be patterns name the measured columns that they match.
std::vector<std::string> names_used(const Node& expression, const Scope& scope);
/// Those that stand inside of measured(…), and those that stand outside: the latter mean a column with its
/// gaps filled.
std::vector<std::string> names_as_measured(const Node& expression, const Scope& scope);
std::vector<std::string> names_as_filled(const Node& expression, const Scope& scope);

/// Of a sheet with one row per group: the names inside its reductions down the column, which mean columns of
/// `source`, and those outside, which mean columns of the sheet's own `scope`.
std::vector<std::string> names_inside_reductions(const Node& expression, const Scope& source);
std::vector<std::string> names_outside_reductions(const Node& expression, const Scope& scope);
/// Columns of the groups' own `scope` that stand inside of its reductions: where `source` has none of the
/// name.
std::vector<std::string> groups_named_inside(const Node& expression, const Scope& scope, const Scope& source);

/// Of a reduction: the names in it that stand in none of the reductions inside it.
std::vector<std::string> names_of_reduction(const Node& reduction, const Scope& scope);
/// Whether one of these columns has the name of its sheet before it.
bool names_itself(const Node& reduction, const Scope& scope);
/// The columns of a scope that an expression names without any sheet before them.
std::vector<std::string> bare_columns(const Node& expression, const Scope& scope);

/// Columns of other sheets that an expression names as SHEET.COLUMN, or by way of a link as LINK.COLUMN.
struct MemberUse {
  std::string owner;
  std::string column;
};
std::vector<MemberUse> members_used(const Node& expression, const Scope& scope);
/// Of a reduction: those that stand in none of the reductions inside it.
std::vector<MemberUse> members_of_reduction(const Node& reduction, const Scope& scope);

/// Fits that an expression uses, each with the sheet that it names; empty for the expression's own.
std::vector<MemberUse> fits_used(const Node& expression);

}  // namespace opensum
