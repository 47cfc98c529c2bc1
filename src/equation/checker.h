// Third stage of an equation: tree to checked tree. Names, kinds, units and null rules are settled here,
// before a row is computed. Sole entry points: check_definition, check_expression and check_condition.
#pragma once

#include "equation/checked.h"
#include "equation/null_policy.h"
#include "equation/scope.h"
#include "equation/tree.h"
#include "message/diagnostic.h"
#include "units/unit_system.h"

namespace opensum {

/// Where an expression stands, which decides on what it can see.
enum class Standing : std::uint8_t {
  equation,  ///< everything: filled columns, derived ones, functions of whole columns
  fill,      ///< columns as measured, and constants
  keep,      ///< rows one by one, before fills
};

/// What a fit tells of itself beside its parameters.
enum class FitStatistic : std::uint8_t { residual_sd, reduced_chi2, r2, r, n, degrees_of_freedom };
/// As equations name it.
const char* statistic_name(FitStatistic statistic);
/// Where a checked tree has a statistic in the place of a parameter, and back.
constexpr double place_of(FitStatistic statistic) { return -1.0 - static_cast<double>(statistic); }
constexpr FitStatistic statistic_at(double place) {
  return static_cast<FitStatistic>(static_cast<int>(-1.0 - place));
}

/// A fitted curve as an equation sees it.
struct FitView {
  std::optional<std::size_t> fit;    ///< its number, where there is one of the name
  std::optional<std::size_t> sheet;  ///< the number of the sheet, where it is fitted to the one named
  bool own = false;                  ///< that sheet is the one of the equation
  bool grouped = false;              ///< there is one curve per group of rows
  bool good = false;                 ///< no errors, which are reported elsewhere
  std::vector<std::string> known;    ///< fits that there are
  std::vector<std::string> sheets;   ///< those to which it is fitted
  std::vector<std::string> parameters;
  std::vector<Type> types;  ///< of the parameters
  /// What can be named beside the parameters.
  std::vector<FitStatistic> statistics;
  Type x;
  Type y;
};

/// Another sheet as an equation sees it.
struct OtherScope {
  const Scope* scope = nullptr;
  OtherRows rows;
};

/// How an equation reaches the columns of other sheets.
class OtherSheets {
 public:
  virtual ~OtherSheets() = default;
  /// The scope's column that gives row by row what a link leads to; -1 after a reported error, such as that
  /// no link says which row is meant.
  virtual std::optional<std::size_t> linked(const Node& member, const Passage& passage,
                                            Diagnostics& diagnostics) = 0;
  /// The scope of another sheet by its name, and its rows; nothing when there is none.
  virtual std::optional<OtherScope> scope_of(const std::string& sheet) const = 0;
  /// Whether the sheet has a link of this name.
  virtual bool has_link(const std::string& name) const = 0;
  /// Of a sheet with one row per group of rows of another: the scope of that other one, and its rows in these
  /// groups. Nothing for all others.
  virtual std::optional<OtherScope> grouped() const = 0;
  /// A fit by its name, for a sheet by its name or for the equation's own where that is empty.
  virtual FitView fit(const std::string& name, const std::string& sheet) const = 0;
  /// The scope's column that holds the standard uncertainty of another one, named at `place`.
  virtual std::size_t uncertainty_of(std::size_t column, const Place& place) = 0;
};

struct CheckContext {
  const Scope& scope;
  const UnitSystem& units;
  const NullPolicy& policy;
  Standing standing = Standing::equation;
  std::optional<std::size_t> self = std::nullopt;  ///< the column that a fill is for
  OtherSheets* others = nullptr;
  /// Takes up numbers with an uncertainty; a null pointer where there can be none.
  UncertainNumbers* uncertain = nullptr;
};

/// The checked right side of a definition, in the unit that the definition states or else in the unit that
/// follows from the algebra. Null where there are errors, which are reported, each with its narrowest span.
CheckedPtr check_definition(const Definition& definition, const CheckContext& context,
                            Diagnostics& diagnostics);

/// The same for an expression without a name.
CheckedPtr check_expression(const Node& expression, const Passage& passage, const CheckContext& context,
                            Diagnostics& diagnostics);

/// A condition, as in `keep` and claims.
CheckedPtr check_condition(const Node& expression, const Passage& passage, const CheckContext& context,
                           Diagnostics& diagnostics);

/// A rule that fills the column `context.self`: of its kind and in its unit.
CheckedPtr check_fill(const Node& expression, const Passage& passage, const CheckContext& context,
                      Diagnostics& diagnostics);

/// Reports a fault of reading the unit at `span` of a passage.
void report_unit_fault(const UnitReading& reading, const Passage& passage, Span span,
                       Diagnostics& diagnostics);

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

/// Columns of other sheets that an expression names as SHEET.COLUMN, or by way of a link as LINK.COLUMN.
struct MemberUse {
  std::string owner;
  std::string column;
};
std::vector<MemberUse> members_used(const Node& expression, const Scope& scope);

/// Fits that an expression uses, each with the sheet that it names; empty for the expression's own.
std::vector<MemberUse> fits_used(const Node& expression);

/// The checked tree of a lone constant value.
CheckedPtr constant_node(double number, Type type, Span span);

}  // namespace opensum
