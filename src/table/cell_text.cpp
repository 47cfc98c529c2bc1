// Cells as they are shown and written.
#include "table/cell_text.h"

#include <algorithm>

#include "table/date_text.h"
#include "table/number_form.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A number in a form of its own as a plain one with the same digits; else its value.
void append_form(std::string& out, std::string_view cell, const NumberStyle& style, double value) {
  const auto form = read_number_form(cell, style, true);
  if (form) {
    out += form->plain;
  } else {
    append_number(out, value, -1);
  }
}

}  // namespace

std::string_view text_as_read(const Chunk& chunk, std::size_t i) {
  // What fills a gap stands in no source.
  return !chunk.has_source() || chunk.source_at(i).empty() ? chunk.texts[i] : chunk.source_at(i);
}

void append_value(std::string& out, const Column& column, const Chunk& chunk, std::size_t i) {
  if (chunk.has_source()) {
    const std::string_view source = trimmed(chunk.source_at(i));
    if (column.holds_clocks && read_duration(source)) {
      out += source;
      return;
    }
    if (column.kind == Kind::number && column.style.is_plain()) {
      if (column.cells_are_plain ? !source.empty() : is_plain_decimal(source)) {
        out += source;
        return;
      }
      if (!source.empty()) return append_form(out, source, column.style, chunk.numbers[i]);
    } else if (column.kind == Kind::number) {
      const std::string plain = plain_number_text(source, column.style);
      if (is_plain_decimal(plain)) {
        out += plain;
        return;
      }
      if (!source.empty()) return append_form(out, source, column.style, chunk.numbers[i]);
    } else if (column.kind != Kind::date || read_date(source)) {
      out += source;
      return;
    }
  }
  switch (column.kind) {
    case Kind::date:
      out += date_text(chunk.instant_at(i), column.clock);
      break;
    case Kind::truth:
      out += chunk.numbers[i] != 0 ? "true" : "false";
      break;
    default:
      append_number(out, chunk.numbers[i], column.digits);
  }
}

std::string limit_text(const Column& column, std::size_t row) {
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (!is_limit(chunk.null_at(i).reason()) || !column.measured || !chunk.has_source()) return {};
  const std::string_view source = trimmed(chunk.source_at(i));
  if (column.style.is_plain() || source.empty()) return std::string(source);
  const std::size_t digits = std::min(source.find_first_not_of("<>= "), source.size());
  return std::string(source.substr(0, digits)) + plain_number_text(source.substr(digits), column.style);
}

std::string cell_text(const Column& column, std::size_t row) {
  if (column.null(row)) return std::string(column.unread(row));
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (column.kind == Kind::text) return std::string(text_as_read(chunk, i));
  std::string text;
  append_value(text, column, chunk, i);
  return text;
}

}  // namespace opensum
