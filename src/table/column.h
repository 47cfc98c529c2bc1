// Columns of a sheet: typed, in chunks, with null marks held only by chunks that have nulls.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <deque>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "table/instant.h"
#include "table/null.h"
#include "table/number_text.h"
#include "table/row_numbers.h"
#include "units/unit.h"

namespace opensum {

/// What a column's values are. Dates are instants, held as seconds since 1970-01-01 00:00 and a rest, and
/// truth is 0 or 1, held as numbers; a duration is a number with a unit of time.
enum class Kind : std::uint8_t { number, date, truth, text };

/// `number`, `date`, `truth`, `text`.
const char* kind_name(Kind kind);

/// Rows of a chunk, but for the last chunk of a column.
constexpr std::size_t kChunkRows = 4096;

/// Texts that were computed and stand in no source; their places in memory never change.
using MadeTexts = std::deque<std::string>;

/// Views of texts in a quarter of their memory, for many that are held: those of a file, each shorter than
/// 256 bytes and not far behind the first, take 4 bytes, others 8.
class PackedTexts {
 public:
  /// Adds a text; false, and it is not, where it is longer than 65,535 bytes.
  bool add(std::string_view text);
  void shrink_to_fit();
  std::size_t size() const { return near_.size() + far_.size(); }
  bool empty() const { return near_.empty() && far_.empty(); }
  std::string_view operator[](std::size_t i) const {
    if (!near_.empty()) return {base_ + (near_[i] >> kNearBits), near_[i] & kLongestNear};
    return {base_ + (far_[i] >> kFarBits), static_cast<std::size_t>(far_[i] & kLongest)};
  }

 private:
  static constexpr int kNearBits = 8;
  static constexpr std::uint32_t kLongestNear = 0xFF;
  static constexpr int kFarBits = 16;
  static constexpr std::int64_t kLongest = 0xFFFF;

  void add_far(std::int64_t behind, std::size_t size);

  const char* base_ = nullptr;
  /// How far behind the base each begins, and its length in the lowest bits: all of them in one of the two.
  std::vector<std::uint32_t> near_;
  std::vector<std::int64_t> far_;
};

/// Values of consecutive rows. Invariants: `numbers` (all kinds but text) or `texts` has an entry per row;
/// `nulls` is empty or has an entry per row; where a null is marked the value is not looked at, except that
/// nulls of reason below_limit and above_limit keep their limit there. `rests` is empty or has an entry per
/// row of dates: what each is beyond its number (see Instant).
struct Chunk {
  std::vector<double> numbers;
  std::vector<float> rests;
  std::vector<std::string_view> texts;
  std::vector<Null> nulls;
  /// Measured columns: each cell's bytes in the source.
  std::vector<std::string_view> source;
  /// The same of columns that are held, where `source` is empty.
  PackedTexts packed_source;
  /// These bytes stand in a line of the source side by side with those of the columns beside it, and are
  /// written just so: nothing is quoted, no blanks are around them, nulls are empty.
  bool verbatim = false;
  /// Keeps computed texts alive.
  std::shared_ptr<const MadeTexts> made;

  bool has_nulls() const { return !nulls.empty(); }
  bool has_source() const { return !source.empty() || !packed_source.empty(); }
  std::string_view source_at(std::size_t i) const { return source.empty() ? packed_source[i] : source[i]; }
  Null null_at(std::size_t i) const { return nulls.empty() ? Null() : nulls[i]; }
  /// Dates.
  Instant instant_at(std::size_t i) const { return {numbers[i], rests.empty() ? 0 : rests[i]}; }
  void set_instant(std::size_t i, const Instant& instant) {
    numbers[i] = instant.seconds;
    if (rests.empty() && instant.rest == 0) return;
    rests.resize(numbers.size());
    rests[i] = instant.rest;
  }
  void add_instant(const Instant& instant) {
    numbers.push_back(0);
    set_instant(numbers.size() - 1, instant);
  }
};

/// A cell of a number column that is no number.
struct UnreadableCell {
  std::size_t row = 0;   ///< from 0
  std::size_t line = 0;  ///< of the source, from 1
  std::string text;
  std::string file;  ///< in which it stands
};

/// Everything of a column but its values.
struct ColumnHead {
  std::string symbol;
  std::string label;
  std::string header;  ///< as the source has it; empty for derived columns
  Unit unit;
  Kind kind = Kind::number;
  bool unit_stated = false;  ///< a unit was given, be it `1`
  bool measured = true;
  /// Row by row what a link leads to: for equations, never written.
  bool linked = false;
  /// Its nulls may keep a limit such as `<0.5`: it was read, or is taken over or linked from such a column.
  bool keeps_limits = false;
  /// Its cells may be written hh:mm:ss.
  bool holds_clocks = false;
  /// Every known cell is written as a plain decimal number, but for blanks around it.
  bool cells_are_plain = false;
  /// Cells that cannot be read are null because the study says so; else they are written as they stand.
  bool unreadable_is_null = false;
  bool clock = false;  ///< of dates: they are written with their time of day, at midnight too
  /// Of dates whose clocks are ahead of UTC by unlike times: they are instants of UTC.
  bool in_utc = false;
  /// The symbol of the measured column of which this one has the gaps filled; empty for others.
  std::string fills;
  /// The symbol of the column with gaps filled of which this one holds the values as measured, where both
  /// were taken over from another sheet; empty for others.
  std::string measured_of;
  OriginId origin = 0;
  /// Its place among the columns of the file, for measured ones.
  std::optional<std::size_t> in_source;
  /// Significant digits where written: 0 for the default, -1 for shortest round-trip.
  int digits = 0;

  NumberStyle style;  ///< in which its cells are written

  std::vector<UnreadableCell> unreadable;  ///< the first few
  std::size_t unreadable_count = 0;
  /// Cells that state an uncertainty of their number, and the first of them.
  std::size_t uncertain_cells = 0;
  UnreadableCell first_uncertain;
  /// Cells with and without an offset from UTC, which cannot be put in order.
  std::string mixed_clocks;
  std::string text_because;  ///< why a column that may look like numbers is text; empty otherwise

  /// `label [unit]`, as written at the head of the column.
  std::string title() const;
};

/// Whether values of a kind have differences, and so an uncertainty.
constexpr bool has_differences(Kind kind) { return kind == Kind::number || kind == Kind::date; }
/// The unit in which differences of a column's values are shown, and the one in which they are held: of dates
/// seconds, of readings on a scale K and the step of the scale.
Unit difference_unit(const ColumnHead& column);
Unit step_unit(const ColumnHead& column);

/// One column of a sheet.
struct Column : ColumnHead {
  Column() = default;
  /// A column like another, without rows.
  explicit Column(const ColumnHead& head) : ColumnHead(head) {}

  std::size_t rows = 0;
  std::vector<Chunk> chunks;
  /// What the views in the chunks look into.
  std::shared_ptr<const void> storage;

  Null null(std::size_t row) const { return chunks[row / kChunkRows].null_at(row % kChunkRows); }
  double number(std::size_t row) const { return chunks[row / kChunkRows].numbers[row % kChunkRows]; }
  Instant instant(std::size_t row) const { return chunks[row / kChunkRows].instant_at(row % kChunkRows); }
  /// The value, or NaN for a null.
  double number_or_nan(std::size_t row) const {
    return null(row) ? std::numeric_limits<double>::quiet_NaN() : number(row);
  }
  std::string_view text(std::size_t row) const { return chunks[row / kChunkRows].texts[row % kChunkRows]; }
  std::size_t null_count() const;
  /// The bytes of a measured cell that could not be read as one of the column, which is written as it was
  /// read; empty for all others, also where the study says that such cells are null.
  std::string_view unread(std::size_t row) const;
};

/// How many values of a column are null, by reason.
using NullCounts = std::array<std::size_t, kReasons>;
NullCounts null_counts(const Column& column);

/// A sheet's table: its columns, measured first.
struct Table {
  std::string name;
  std::string file;  ///< where its rows come from, as shown in messages
  /// A deque, so that columns may be added while others are looked at. Those that links borrow come last.
  std::deque<Column> columns;
  std::size_t rows = 0;
  RowNumbers lines;                ///< of the source, per row
  std::vector<std::string> files;  ///< the sources, as shown in messages
  /// The source of each row as its place in `files`; empty where there is only one.
  std::vector<std::uint32_t> file_of;
  RowNumbers source_rows;        ///< its place among the rows of the source, from 0, per row
  std::size_t source_count = 0;  ///< rows of the source
  /// The columns that are written, in order; all but borrowed ones where it is empty.
  std::vector<std::size_t> shown;
  /// The rows in the order in which they are written, and the place of each; as they are where both are
  /// empty.
  std::vector<std::size_t> order;
  std::vector<std::size_t> places;

  const Column* find(std::string_view symbol) const;
  /// The source in which a row stands, and its place there, as `day1.csv:12`.
  const std::string& source_of(std::size_t row) const;
  std::string place_text(std::size_t row) const;
  /// The same in words: `day1.csv line 12`.
  std::string line_text(std::size_t row) const;
  /// The columns that are written, in order.
  std::vector<const Column*> written() const;
  /// The row that is written at a place (from 0), and the place of a row.
  std::size_t row_at(std::size_t place) const { return order.empty() ? place : order[place]; }
  std::size_t place_of(std::size_t row) const { return places.empty() ? row : places[row]; }
  /// Writes the rows in this order.
  void write_in_order(std::vector<std::size_t> rows_in_order);
  /// A table with the same columns, without rows.
  Table without_rows() const;
  /// Drops the columns behind the measured ones.
  void keep_measured();
};

}  // namespace opensum
