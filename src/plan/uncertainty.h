// Standard uncertainties: what a study states of measured columns, and which columns have one that follows.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "message/source.h"
#include "units/unit.h"

namespace opensum {

struct Table;
struct Column;

/// An unknown of which measured values are wrong: one for each cell of a column, or one that all cells share.
struct UncertainSource {
  std::string name;         ///< as a budget names it
  std::size_t column = 0;   ///< of the own sheet, which has the value
  bool shared = false;      ///< the same for all rows
  bool instrument = false;  ///< the same for all columns of all sheets that name it
};

/// The standard uncertainty of a measured column: a part of the size of each value and a constant, or what
/// another column says.
struct StatedUncertainty {
  std::size_t column = 0;
  std::size_t source = 0;  ///< its place among those of the sheet
  double relative = 0;
  double absolute = 0;              ///< in the unit of the column, as a difference
  std::optional<std::size_t> from;  ///< the column that says it
  Conversion to_own;                ///< from its unit to that of the column, as differences
  double divide_by = 1;             ///< of an expanded one k, of a half width the root of 3
  bool rectangular =
      false;  ///< values lie anywhere within a half width, else as a normal distribution has them
  /// Cells state their own, as `5.03(4)`: what these are divided by. Those that do not have the rest.
  std::optional<double> cells_divided_by;

  /// Of a value; `said` is that of the other column, if there is one, and `in_cell` what its cell says, NaN
  /// where it says nothing. NaN where nothing is stated.
  double of(double value, double said, double in_cell) const;
};

/// What the cell of a value says of its uncertainty, where cells do; else NaN.
double uncertainty_in_cell(const StatedUncertainty& stated, const Column& column, std::size_t row);

/// A statement as it is told again, of one standard uncertainty: `2 % + 0.1 K`, `by u_t`.
std::string stated_text(const StatedUncertainty& stated, const Table& table);

/// A column whose values have an uncertainty, and the column that holds it.
struct UncertainColumn {
  std::size_t column = 0;
  std::size_t index = 0;
};

/// An uncertainty that an equation asks for, as `u(flow)`.
struct AskedUncertainty {
  UncertainColumn of;
  Place place;
};

/// All of a sheet.
struct SheetUncertainty {
  std::vector<UncertainSource> sources;
  std::vector<StatedUncertainty> stated;
  /// Columns with an uncertainty that have a column for it: derived ones, and those that are asked for.
  std::vector<UncertainColumn> columns;
  std::vector<AskedUncertainty> asked;
  /// Whether anything of the study states one; what fits give then has one, too.
  bool in_use = false;
  /// By column, whether it follows from something uncertain.
  std::vector<bool> reached;
  /// Columns that follow from uncertain ones in a way in which uncertainty is not carried: theirs is not
  /// known.
  std::vector<std::size_t> unknown;

  bool reaches(std::size_t column) const { return column < reached.size() && reached[column]; }
};

/// What a sheet states, each once for all columns of which it says the same: these, and the statement as
/// `0.05 K, and 0.1 K of the instrument bath for all values`.
struct ToldUncertainty {
  std::vector<std::size_t> columns;
  std::string text;
};
std::vector<ToldUncertainty> told_uncertainties(const SheetUncertainty& plan, const Table& table);

}  // namespace opensum
