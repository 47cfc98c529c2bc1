// A study as its author wrote it: sheets, their columns and equations, plots, policies. What is said here is
// not yet checked against the data.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "compute/link_how.h"
#include "equation/null_policy.h"
#include "message/source.h"
#include "model/plot_model.h"
#include "table/column.h"
#include "table/number_text.h"

namespace opensum {

/// What the author says about a column.
/// Whether a name stands for all that it matches.
inline bool is_pattern(const std::string& name) { return name.find_first_of("*?") != std::string::npos; }

/// What is said of the standard uncertainty of a column: `0.1 K`, `2 %`, `2 % + 0.1 K`, or another column.
struct UncertaintyModel {
  Passage text;
  double divide_by = 1;  ///< of an expanded one k, of a half width the root of 3
  bool rectangular = false;
};

struct ColumnSettings {
  std::string symbol;
  Place place;
  std::optional<Passage> header;      ///< the header's or label's text
  std::optional<std::size_t> number;  ///< or its number, from 1
  std::optional<Passage> unit;
  std::optional<std::string> label;
  std::optional<Kind> kind;
  bool duration = false;          ///< the kind is a duration: a number in a unit of time, or hh:mm:ss
  std::optional<Passage> format;  ///< of dates, as for strftime
  std::optional<std::vector<std::string>> missing;
  std::optional<std::vector<std::string>> values;      ///< the cells of a column that is typed into the study
  std::optional<int> digits;                           ///< significant, or -1 for the shortest round-trip
  std::optional<UncertaintyModel> uncertainty;         ///< independent from cell to cell
  std::optional<UncertaintyModel> uncertainty_shared;  ///< one unknown for the column, or the instrument
  std::optional<Passage> instrument;

  /// Whether the symbol is a pattern: the settings are those of all columns that it matches.
  bool is_pattern() const { return opensum::is_pattern(symbol); }
};

/// How a file is read.
struct ReadSettings {
  std::size_t skip_rows = 0;               ///< lines of the file before the table
  std::size_t skip_end = 0;                ///< lines of the file below it
  std::optional<std::size_t> header_line;  ///< from 1; the first line after those skipped unless it is said
  std::optional<std::size_t> second_header_line;  ///< below it, where headers stand over two lines
  bool no_header = false;
  std::optional<std::size_t> units_row;  ///< the line that holds the units
  std::optional<std::string> encoding;
  std::optional<char> delimiter;       ///< a blank for any run of blanks and tabs
  std::optional<std::string> comment;  ///< what lines begin with that are comments; empty for none
  bool short_rows_are_null = false;    ///< what a row lacks at its end is null
  NumberStyle style;
  std::optional<Passage> date_format;  ///< as for strftime
  std::optional<std::vector<std::string>> missing;
  std::vector<std::string> missing_also;
  bool unreadable_is_null = false;
};

/// How a row of a sheet finds its row elsewhere.
struct LinkModel {
  Passage name;
  std::optional<Passage> sheet;  ///< the name itself unless it is said
  bool by_row = false;
  std::vector<Passage> match;  ///< `here = there`, or one name for both
  LinkHow how = LinkHow::equal;
  std::optional<Passage> within;
};

/// Rules, tried in order, for the nulls of a measured column.
struct FillModel {
  Passage symbol;  ///< or a pattern of symbols
  std::vector<Passage> rules;

  bool is_pattern() const { return opensum::is_pattern(symbol.text()); }
};

/// Lines of a sheet, and at which step of inheritance they were written: a later step replaces earlier lines
/// of a name.
struct Lines {
  Passage text;
  std::size_t step = 0;
};

/// A line that is left out of what was inherited before a step.
struct LeftOut {
  std::string name;
  std::size_t step = 0;
};

/// A column from the lines before the table: what the line is called that holds its value.
struct PreambleModel {
  std::string symbol;
  Place place;
  Passage line;
};

struct SheetModel {
  std::string name;
  Place place;
  /// How often it inherits: 0 for a sheet without `like`.
  std::size_t step = 0;
  std::vector<LeftOut> without;
  /// Files, or patterns of files where it is a list or one pattern.
  std::vector<Passage> data;
  bool data_is_list = false;
  ReadSettings read;
  std::vector<ColumnSettings> columns;
  std::vector<PreambleModel> preamble;
  /// Where the rows come from, unless from files: a table typed into the study, a number of rows, the rows of
  /// another sheet.
  std::optional<Passage> table;
  std::optional<std::size_t> rows;
  std::optional<Passage> rows_of;
  /// The columns that are taken over from the other sheet; all where it is not said.
  std::optional<std::vector<Passage>> take;
  /// One row for each combination of values of these columns of the other sheet.
  std::optional<std::vector<Passage>> one_row_per;
  /// One row for each cell of these columns of the other sheet: names, ranges `a..d` and patterns.
  std::optional<std::vector<Passage>> one_row_per_cell;
  /// The column of these cells, `cell` where it is not said; of several each has those of one item of the
  /// list.
  std::vector<Passage> cell;
  std::optional<Passage>
      from_header;  ///< the column of what their headers say; `header` where it is not said
  /// Only there for another sheet: never written, nor named in reports.
  bool hidden = false;
  std::vector<Passage> sort_by;  ///< such as `flow` or `flow down`
  std::vector<Passage> show;     ///< the columns that are written, in order; all where it is empty
  std::optional<Passage> keep;
  std::vector<LinkModel> links;
  std::vector<FillModel> fills;
  std::vector<Lines> equations;
  std::vector<Lines> claims;
  std::optional<bool> claims_are_warnings;
  std::optional<bool> headers_are_symbols;
  std::optional<bool> guards_formulas;            ///< in derived texts of CSV files
  std::optional<std::vector<std::string>> write;  ///< the formats in which it is written
  std::optional<bool> compute_in_database;        ///< where its rows are, if they are in one
};

/// A curve that is fitted to points.
struct FitModel {
  std::string name;
  Place place;
  std::vector<Passage> sheets;  ///< all that there is where it is not said
  Passage x;
  Passage y;
  Passage model;  ///< such as `line`, or an equation in x
  std::optional<Passage> keep;
  std::optional<Passage> by;
  std::optional<Passage> weights;  ///< a column, or `uncertainty`
  /// Of an equation: its parameters and where their search begins, such as `5 kW`.
  std::vector<std::pair<Passage, Passage>> start;

  /// Whether the weights follow from the standard uncertainty of y.
  bool weighted_by_uncertainty() const { return weights && weights->text() == "uncertainty"; }
};

struct OwnUnit {
  Passage symbol;
  Passage definition;
};

/// What several studies share.
struct Library {
  std::vector<Passage> constants;
  std::vector<Passage> formulas;
  std::vector<OwnUnit> units;
  std::map<std::string, SheetModel> templates;
};

struct Study {
  std::string title;
  std::string output = "results";
  std::vector<Passage> constants;
  /// Definitions that stand in the place of those of the same name, for one run.
  std::vector<Passage> other_constants;
  std::vector<Passage> formulas;
  std::vector<OwnUnit> units;
  NullPolicy policy;
  bool headers_are_symbols = false;
  bool claims_are_warnings = false;
  /// Whether nulls.csv lists also those of measured columns that nothing uses.
  bool nulls_of_all = false;
  std::vector<Passage> budgets;    ///< cells whose uncertainty the report takes apart, as `duty row 5`
  std::optional<double> coverage;  ///< of expanded uncertainties in the report, between 0 and 1
  std::vector<std::string> write = {"csv"};
  std::vector<std::string> notes;  ///< on where files that it uses were found
  std::vector<SheetModel> sheets;
  std::vector<FitModel> fits;
  std::vector<PlotModel> plots;
};

}  // namespace opensum
