// Where computed rows go as text: a file that is written row by row, in the order of the sheet.
#pragma once

#include <span>
#include <vector>

#include "base/text_buffer.h"
#include "engine/block_values.h"
#include "table/written_notes.h"

namespace opensum {

/// The text of the rows of a block, and where that of each row ends.
struct RowTexts {
  WrittenNotes notes;  ///< of cells of CSV
  TextBuffer text;
  std::vector<std::size_t> ends;

  /// Few blocks wait at a time: the memory of long texts is not kept for each that might.
  void clear() {
    constexpr std::size_t kKept = std::size_t{1} << 20U;
    text.clear_to(kKept);
    ends.clear();
    notes = {};
  }
};

class RowSink {
 public:
  virtual ~RowSink() = default;
  /// Appends the text of each row of a block; several threads do so at a time. The ends of rows are only
  /// needed where the sheet is sorted.
  virtual void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const = 0;
  /// Takes up texts, block after block. `places` are those of the rows among all that are written; empty
  /// where these are written as they come.
  virtual void take(const RowTexts& texts, std::span<const std::size_t> places) = 0;
  /// Says that there are no more rows.
  virtual void finish() = 0;
};

}  // namespace opensum
