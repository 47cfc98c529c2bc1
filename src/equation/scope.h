// The names an equation can use: columns of its sheet and constants.
#pragma once

#include <deque>
#include <map>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "equation/checked.h"
#include "table/column.h"

namespace opensum {

struct Node;

/// A column as the checker sees it.
struct ScopeColumn {
  std::string symbol;
  std::string label;
  std::string header;
  Type type;
  bool measured = true;
  /// Its nulls may keep a limit such as `<0.5`, by which comparisons can be decided.
  bool keeps_limits = false;
  /// Its own definition has errors, which are reported there; uses of it are passed over in silence.
  bool broken = false;
  /// Row by row what a link leads to; its name is LINK.COLUMN.
  bool linked = false;
  /// The measured column, for messages that quote cells.
  const Column* data = nullptr;
  /// The column that holds the values with gaps filled, which every name of this one means but in measured();
  /// without fill nothing.
  std::optional<std::size_t> filled;
  /// The column that measured() means where this one was taken over with its gaps filled.
  std::optional<std::size_t> as_measured;
  /// Only such a column: no pattern matches it.
  bool only_as_measured = false;
};

struct ScopeConstant {
  std::string name;
  std::string label;
  Type type;
  double number = 0;
  float rest = 0;                 ///< of a date (see Instant)
  std::vector<NumberPart> parts;  ///< of one with an uncertainty
  std::string text;
  bool broken = false;

  /// Its standard uncertainty; 0 for one without.
  double uncertainty() const;
};

struct Formula;

struct Scope {
  std::string sheet;
  std::string file;  ///< of the measured columns, as shown in messages
  /// A deque, so that columns may be added while others are looked at.
  std::deque<ScopeColumn> columns;
  std::vector<ScopeConstant> constants;
  /// The named formulas of the study; may be a null pointer.
  const std::vector<Formula>* formulas = nullptr;
  /// Other sheets of the study, for messages.
  std::vector<std::string> sheets;
  /// Lists of columns that loops made, by their names.
  std::map<std::string, std::vector<std::string>> lists;
  /// Symbols that several headers share, and what they are called instead.
  std::map<std::string, std::vector<std::string>> shared_symbols;

  /// Index of a column by symbol, or by exact header or unique label where `quoted`; nothing when there is
  /// none.
  std::optional<std::size_t> find_column(const std::string& name, bool quoted) const;
  /// That of a name, or of a member by its own name; nothing for another node.
  std::optional<std::size_t> find_column(const Node& node) const;
  /// What the name of a column means: the column itself or the one that fills it.
  std::size_t meant_by(std::size_t index) const { return columns[index].filled.value_or(index); }
  const ScopeConstant* find_constant(const std::string& name) const;
  const Formula* find_formula(const std::string& name) const;
  /// What can be named here, for suggestions.
  std::vector<std::string> names() const;
  /// Columns whose symbols a pattern with * and ? matches, in the file's order; measured ones only.
  std::vector<std::size_t> matching(const std::string& pattern) const;

 private:
  /// The first column of each symbol, for the columns that were there when a name was last looked up.
  mutable std::unordered_map<std::string, std::size_t> by_symbol_;
  mutable std::size_t indexed_ = 0;
};

/// Whether a text matches a pattern in which * stands for any run of characters and ? for one.
bool matches_pattern(std::string_view text, std::string_view pattern);

}  // namespace opensum
