// From cells of text to typed columns: kinds, missing tokens, cells that cannot be read.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "table/column.h"
#include "table/date_format.h"
#include "table/number_text.h"
#include "table/raw_table.h"

namespace opensum {

class CellUnits;

/// What the researcher says about the cells of a column.
struct CellRules {
  /// Tokens that stand for a missing value, in these cases of their letters; numbers among them match by
  /// value.
  std::vector<std::string> missing;
  /// Further ones that do so among numbers and dates alone.
  std::vector<std::string> missing_quantities = {};
  std::optional<Kind> kind;
  NumberStyle style = {};
  std::optional<DateFormat> date_format = {};  ///< beside ISO 8601
  bool dates_in_utc = false;  ///< dates are converted to UTC; else they are as their clocks show them
  bool percent = false;       ///< the column's unit is %, so that cells may repeat it
  /// CellRange may also be written hh:mm:ss; a second is so much in the column's unit. 0 for other columns.
  double second = 0;
  /// CellRange hold units of their own.
  std::shared_ptr<const CellUnits> cell_units = {};
};

/// The tokens taken for missing when nothing else is said: empty, NA, N/A, n/a, NaN, nan, NULL, null (Na is
/// sodium); among numbers and dates also - and -- (which else may be a charge).
std::vector<std::string> default_missing();
std::vector<std::string> default_missing_quantities();

/// What dates came to.
struct DateNotes {
  bool has_clock = false;        ///< some have a time of day
  std::optional<double> offset;  ///< the first that is written
  bool offsets_differ = false;
  /// The first cells with and without an offset from UTC.
  std::optional<UnreadableCell> with_offset;
  std::optional<UnreadableCell> without_offset;

  void add(const WrittenDate& date, std::string_view cell, std::size_t line);
  void add(const DateNotes& next);
};

/// What reading cells came to.
struct CellNotes {
  std::size_t known = 0;
  std::size_t numbers = 0;
  std::size_t dates = 0;
  std::size_t truths = 0;
  std::size_t other_forms = 0;    ///< numbers that are no plain decimal ones
  std::size_t uncertainties = 0;  ///< numbers with an uncertainty
  std::optional<UnreadableCell> first_uncertain;
  /// Missing because their number is one of those that stand for it.
  std::size_t missing_by_value = 0;
  /// The first that is likely a code and no quantity.
  std::optional<UnreadableCell> first_code;
  std::size_t unreadable_count = 0;
  std::vector<UnreadableCell> unreadable;  ///< the first few
  DateNotes of_dates;

  /// Adds those of the cells that follow.
  void add(const CellNotes& next);
};

/// What such cells are, read as numbers.
Kind kind_of(const CellNotes& notes);

/// Some consecutive cells of a column.
struct CellRange {
  std::span<const std::string_view> texts;
  std::span<const std::size_t> lines;  ///< of the source
  std::size_t first_row = 0;           ///< the place of the first among all rows
  bool ascii = false;                  ///< for sure
};

/// Reads the cells of one column; several threads may do so at a time.
class CellReader {
 public:
  CellReader(const CellRules& rules, OriginId origin);
  ~CellReader();
  CellReader(CellReader&&) noexcept;
  CellReader& operator=(CellReader&&) = delete;

  /// Reads cells as a kind and says what they are.
  CellNotes read(Kind kind, const CellRange& cells) const;
  /// The same for a chunk, which has the cells as its source and takes up values and nulls. Texts are in
  /// Unicode's normal form C, so that the same letters are the same text however a file composes them; `made`
  /// keeps those whose cells are in another form, and belongs to all chunks of a column.
  CellNotes read(Kind kind, const CellRange& cells, Chunk& chunk,
                 const std::shared_ptr<MadeTexts>& made) const;

 private:
  struct Rules;
  CellNotes read_quantities(Kind kind, const CellRange& cells, Chunk* chunk) const;
  CellNotes read_texts(const CellRange& cells, Chunk* chunk) const;
  void set_null(Chunk& chunk, std::size_t row, Reason reason, std::string_view cell) const;
  void keep_texts(Chunk& chunk, bool ascii, const std::shared_ptr<MadeTexts>& made) const;

  std::unique_ptr<Rules> rules_;
  OriginId origin_;
};

/// Whether dates must be read again as instants of UTC, for their clocks are not all the same.
bool needs_utc(Kind kind, const CellNotes& notes, const CellRules& rules);

/// Says in a column whose cells were read how they are written, and which cannot be read.
void settle_cells(Column& column, const CellNotes& notes, const CellRules& rules);

/// Why a column is text whose cells were first read as numbers; empty for others.
std::string text_because(Kind kind, const CellNotes& as_numbers);

/// Fills a column (its names and unit are the caller's) with the cells: finds the kind unless the rules say
/// it, marks nulls with their reason. CellRange of a number, date or truth column that are none become nulls
/// of reason `unreadable` and are listed in the column.
void type_cells(Column& column, const std::vector<std::string_view>& cells,
                const std::vector<std::size_t>& lines, const CellRules& rules);

}  // namespace opensum
