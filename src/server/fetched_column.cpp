// A column as it comes from a query, cell by cell.
#include "server/fetched_column.h"

#include <charconv>

#include "files/copied_rows.h"

namespace opensum {
namespace {

std::string truth_text(const Column& column, const std::string& text) {
  if (column.kind != Kind::truth) return text;
  return text == "true" || text == "t" ? "true" : "false";
}

}  // namespace

Null null_in(std::string_view cell) {
  std::uint64_t bits = 0;
  std::from_chars(cell.data(), cell.data() + cell.size(), bits);
  return {static_cast<Reason>(bits & 0xFFU), static_cast<OriginId>(bits >> 8U)};
}

std::size_t FetchedColumn::take(const std::vector<std::string>& cells, std::size_t at, std::size_t row) {
  if (row % kChunkRows == 0) {
    column_->chunks.emplace_back();
    texts_ = std::make_shared<MadeTexts>();
    column_->chunks.back().made = texts_;
  }
  Chunk& chunk = column_->chunks.back();
  const std::optional<std::string> value = copied_cell(cells[at++]);
  if (column_->kind == Kind::text) {
    chunk.texts.push_back(value ? texts_->emplace_back(*value) : std::string_view());
  } else if (column_->kind == Kind::truth) {
    chunk.numbers.push_back(value && *value == "t" ? 1 : 0);
  } else {
    double number = 0;
    if (value) std::from_chars(value->data(), value->data() + value->size(), number);
    // Dates come with the microseconds of the database.
    chunk.add_instant(column_->kind == Kind::date ? instant_near(number) : Instant{number, 0});
  }
  if (beside_.why) {
    const std::string& why = cells[at++];
    const bool known = why == kCopiedNull;
    if (!known && chunk.nulls.empty()) chunk.nulls.resize(row % kChunkRows);
    if (!known || !chunk.nulls.empty()) chunk.nulls.push_back(known ? Null() : null_in(why));
  } else if (!chunk.nulls.empty()) {
    chunk.nulls.emplace_back();
  }
  if (beside_.source) {
    const std::optional<std::string> text = copied_cell(cells[at++]);
    chunk.source.push_back(text ? texts_->emplace_back(truth_text(*column_, *text)) : std::string_view());
  }
  return at;
}

}  // namespace opensum
