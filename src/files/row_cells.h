// Cells of rows on their way into a file: bytes that several threads make and one puts into it.
#pragma once

#include <cstdint>
#include <cstring>
#include <string_view>

#include "base/text_buffer.h"

namespace opensum {

/// Appends the bytes of a plain value.
template <typename Value>
void append_value(TextBuffer& out, const Value& value) {
  std::memcpy(out.room(sizeof value), &value, sizeof value);
  out.end_at(out.room(0) + sizeof value);
}

/// Takes a plain value from the begin of some bytes.
template <typename Value>
Value take_value(std::string_view& bytes) {
  Value value;
  std::memcpy(&value, bytes.data(), sizeof value);
  bytes.remove_prefix(sizeof value);
  return value;
}

/// The same with a text, behind its length.
inline void append_sized(TextBuffer& out, std::string_view text) {
  append_value(out, text.size());
  out.add(text);
}
inline std::string_view take_sized(std::string_view& bytes) {
  const auto size = take_value<std::size_t>(bytes);
  const std::string_view text = bytes.substr(0, size);
  bytes.remove_prefix(size);
  return text;
}

/// What a cell is: a truth, a number, a day or a moment (in the file's own numbers), or a text.
enum class CellForm : std::uint8_t { null, truth, number, cut_number, day, moment, cut_moment, text };

/// A cell of a row that is put into a file.
struct RowCell {
  CellForm form = CellForm::null;
  double number = 0;  ///< of all but nulls and texts; a truth is 0 or 1
  std::string_view text;
};

inline void append_cell(TextBuffer& out, const RowCell& cell) {
  append_value(out, cell.form);
  if (cell.form == CellForm::text) {
    append_sized(out, cell.text);
  } else if (cell.form != CellForm::null) {
    append_value(out, cell.number);
  }
}

inline RowCell take_cell(std::string_view& bytes) {
  RowCell cell;
  cell.form = take_value<CellForm>(bytes);
  if (cell.form == CellForm::text) {
    cell.text = take_sized(bytes);
  } else if (cell.form != CellForm::null) {
    cell.number = take_value<double>(bytes);
  }
  return cell;
}

}  // namespace opensum
