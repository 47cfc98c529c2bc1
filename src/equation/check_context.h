// What an equation can see where it stands: the columns and constants of its sheet, other sheets, and fits.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
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
  /// Of the source of groups: the sheet as its author names it.
  std::string shown_as = {};
};

/// How an equation reaches the columns of other sheets.
class OtherSheets {
 public:
  virtual ~OtherSheets() = default;
  /// The scope's column that gives row by row what a link leads to; -1 after a reported error, such as that
  /// no link says which row is meant.
  virtual Result<std::size_t> linked(const Node& member, const Passage& passage,
                                     Diagnostics& diagnostics) = 0;
  /// The scope of another sheet by its name, and its rows; nothing when there is none.
  virtual std::optional<OtherScope> scope_of(const std::string& sheet) const = 0;
  /// Whether the sheet has a link of this name.
  virtual bool has_link(const std::string& name) const = 0;
  /// Of a sheet with one row per group of rows of another: the scope of that other one, and its rows in these
  /// groups. Nothing for all others.
  virtual std::optional<OtherScope> grouped() const = 0;
  /// Of such a sheet, inside a reduction over its groups: the column of that other one's scope that gives row
  /// by row what a column of the groups, by its index, is for the group of the row.
  virtual std::size_t group_column(std::size_t column) = 0;
  /// The same: the columns of that other one's scope whose values make a group.
  virtual std::vector<std::size_t> group_keys() const = 0;
  /// Whether that reductions over the whole other sheet are meant is still to be said of this sheet; false
  /// from then on.
  virtual bool is_first_whole_source() = 0;
  /// A fit by its name, for a sheet by its name or for the equation's own where that is empty.
  virtual FitView fit(const std::string& name, const std::string& sheet) const = 0;
  /// The scope's column that holds the standard uncertainty of another one, named at `place`.
  virtual std::size_t uncertainty_of(std::size_t column, const Place& place) = 0;
};

/// What stands around a reduction over the rows of a group: the sheet of the groups.
struct GroupsAround {
  const Scope& scope;
  OtherSheets& others;
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
  /// Inside a reduction over the rows of a group, whose own reductions and sequences are of that group.
  const GroupsAround* groups = nullptr;
};

}  // namespace opensum
