// Where computed rows go as text: a file that is written row by row, in the order of the sheet.
#pragma once

#include <vector>

#include "base/text_buffer.h"
#include "engine/block_values.h"

namespace opensum {

/// The text of the rows of a block, and where that of each row ends.
struct RowTexts {
  std::size_t formulas = 0;  ///< derived texts that look like one
  TextBuffer text;
  std::vector<std::size_t> ends;

  void clear() {
    text.clear();
    ends.clear();
    formulas = 0;
  }
};

class RowSink {
 public:
  virtual ~RowSink() = default;
  /// Appends the text of each row of a block; several threads do so at a time. The ends of rows are only
  /// needed where the sheet is sorted.
  virtual void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const = 0;
  /// Takes up texts, block after block.
  virtual void take(const RowTexts& texts) = 0;
  /// Says that there are no more rows. `order` are the rows in the order in which they are written; empty
  /// where that is the one in which they came.
  virtual void finish(const std::vector<std::size_t>& order) = 0;
};

}  // namespace opensum
