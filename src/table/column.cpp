// Columns of a sheet.
#include "table/column.h"

#include <algorithm>
#include <array>

namespace opensum {

bool PackedTexts::add(std::string_view text) {
  if (text.size() > static_cast<std::size_t>(kLongest)) return false;
  if (base_ == nullptr && !text.empty()) base_ = text.data();
  // Addresses have 47 bits: how far two lie apart fits beside the length.
  const std::int64_t behind =
      text.empty() ? 0
                   : reinterpret_cast<std::intptr_t>(text.data()) - reinterpret_cast<std::intptr_t>(base_);
  constexpr std::int64_t kNear = std::int64_t{1} << (32 - kNearBits);
  if (far_.empty() && 0 <= behind && behind < kNear && text.size() <= kLongestNear) {
    near_.push_back(static_cast<std::uint32_t>(behind) << kNearBits |
                    static_cast<std::uint32_t>(text.size()));
    return true;
  }
  for (const std::uint32_t near : near_) add_far(near >> kNearBits, near & kLongestNear);
  near_ = {};
  add_far(behind, text.size());
  return true;
}

void PackedTexts::add_far(std::int64_t behind, std::size_t size) {
  far_.push_back(behind * (kLongest + 1) + static_cast<std::int64_t>(size));
}

void PackedTexts::shrink_to_fit() {
  near_.shrink_to_fit();
  far_.shrink_to_fit();
}

const char* kind_name(Kind kind) {
  static constexpr std::array<const char*, 4> names = {"number", "date", "truth", "text"};
  return names.at(static_cast<std::size_t>(kind));
}

std::string_view Column::unread(std::size_t row) const {
  const Chunk& chunk = chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  const Reason reason = chunk.null_at(i).reason();
  const bool read = reason != Reason::unreadable && reason != Reason::overflow;
  if (read || unreadable_is_null || !chunk.has_source()) return {};
  return trimmed(chunk.source_at(i));
}

std::size_t Column::null_count() const {
  std::size_t count = 0;
  for (const Chunk& chunk : chunks) {
    count += static_cast<std::size_t>(
        std::count_if(chunk.nulls.begin(), chunk.nulls.end(), [](Null n) { return static_cast<bool>(n); }));
  }
  return count;
}

std::string ColumnHead::title() const {
  if (unit.parts.empty()) return label;
  return label + " [" + unit.text() + "]";
}

NullCounts null_counts(const Column& column) {
  NullCounts counts{};
  for (const Chunk& chunk : column.chunks) {
    for (const Null null : chunk.nulls) ++counts[static_cast<std::size_t>(null.reason())];
  }
  counts[static_cast<std::size_t>(Reason::none)] = 0;
  return counts;
}

const Column* Table::find(std::string_view symbol) const {
  const auto found =
      std::find_if(columns.begin(), columns.end(), [&](const Column& c) { return c.symbol == symbol; });
  return found == columns.end() ? nullptr : &*found;
}

const std::string& Table::source_of(std::size_t row) const {
  return file_of.empty() ? files.front() : files[file_of[row]];
}

std::string Table::place_text(std::size_t row) const {
  return source_of(row) + ':' + std::to_string(lines[row]);
}

std::string Table::line_text(std::size_t row) const {
  return source_of(row) + " line " + std::to_string(lines[row]);
}

void Table::write_in_order(std::vector<std::size_t> rows_in_order) {
  order = std::move(rows_in_order);
  places.resize(order.size());
  for (std::size_t place = 0; place < order.size(); ++place) places[order[place]] = place;
}

void Table::keep_measured() {
  while (!columns.empty() && !columns.back().measured) columns.pop_back();
}

Table Table::without_rows() const {
  Table table;
  table.name = name;
  table.file = file;
  table.files = files;
  table.shown = shown;
  for (const Column& column : columns) table.columns.emplace_back(static_cast<const ColumnHead&>(column));
  return table;
}

std::vector<const Column*> Table::written() const {
  std::vector<const Column*> found;
  for (const std::size_t index : shown) found.push_back(&columns[index]);
  if (!shown.empty()) return found;
  for (const Column& column : columns) {
    if (!column.linked) found.push_back(&column);
  }
  return found;
}

Unit difference_unit(const ColumnHead& column) {
  return column.kind == Kind::date ? second() : difference_unit(column.unit);
}

Unit step_unit(const ColumnHead& column) {
  return column.kind == Kind::date ? second() : step_unit(column.unit);
}

}  // namespace opensum
