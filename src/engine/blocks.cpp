// Blocks of rows and where they come from.
#include "engine/blocks.h"

#include <algorithm>

#include "compute/row_store.h"

namespace opensum {

FileBlocks::FileBlocks(LeftInFile& left, const Table& whole)
    : left_(left), whole_(whole), notes_(left.rules.size()) {
  for (const Column& column : whole.columns) {
    const bool given = column.in_source && column.fills.empty();
    in_source_.push_back(given ? column.in_source : std::nullopt);
    readers_.emplace_back(given ? left.rules[*column.in_source] : CellRules(), column.origin);
  }
  if (left.guessed) finder_.emplace(left);
}

std::size_t FileBlocks::count() const { return finder_ ? finder_->parts() : left_.blocks.size(); }

RowRange FileBlocks::range(std::size_t block) const {
  return {left_.blocks[block].first_row, left_.blocks[block].rows};
}

void FileBlocks::fetch(std::size_t block, Block& to) const {
  if (finder_) return finder_->read(block, to.part);
  to.part.where = left_.blocks[block];
  read_block(left_, to.part.where, to.part.rows);
}

void FileBlocks::place(std::size_t block, Block& to) {
  if (finder_ && !finder_->place(block, to.part)) throw LaterRowsDiffer();
  to.first_row = to.part.where.first_row;
}

void FileBlocks::set_places(const RowBlock& where, Table& table) const {
  table.source_rows.clear();
  for (std::size_t place = where.first_source_row; place < where.first_source_row + where.source_rows;
       ++place) {
    if (left_.kept.empty() || left_.kept[place]) table.source_rows.push_back(place);
  }
}

void FileBlocks::read(std::size_t /*block*/, const std::vector<bool>& needed, Block& to) const {
  Table& table = to.table;
  table.rows = to.part.rows.rows();
  table.lines.clear();
  table.lines.append(to.part.rows.lines);
  if (left_.files.size() > 1)
    table.file_of.assign(table.rows, static_cast<std::uint32_t>(to.part.rows.table));
  if (gives_places_) set_places(to.part.where, table);
  if (finder_) to.notes.assign(left_.rules.size(), {});
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    table.columns[i].rows = table.rows;
    if (in_source_[i] && (needed[i] || finder_)) read_column(i, to);
  }
}

void FileBlocks::read_column(std::size_t index, Block& to) const {
  Table& table = to.table;
  Column& column = table.columns[index];
  const std::size_t place = *in_source_[index];
  std::vector<std::string_view>& cells = to.part.rows.columns[place];
  const bool stated = left_.rules[place].kind.has_value();
  column.chunks.resize((table.rows + kChunkRows - 1) / kChunkRows);
  const auto made = std::make_shared<MadeTexts>();
  for (std::size_t part = 0; part < column.chunks.size(); ++part) {
    Chunk& chunk = column.chunks[part];
    const std::size_t begin = part * kChunkRows;
    const std::size_t size = std::min(kChunkRows, table.rows - begin);
    // A single chunk takes the cells over.
    if (size == cells.size()) {
      chunk.source.swap(cells);
    } else {
      const auto first = cells.begin() + static_cast<std::ptrdiff_t>(begin);
      chunk.source.assign(first, first + static_cast<std::ptrdiff_t>(size));
    }
    const CellRange some{chunk.source, {to.part.rows.lines.data() + begin, size}, begin, to.part.rows.ascii};
    const CellNotes read = readers_[index].read(column.kind, some, chunk, made);
    chunk.verbatim = chunk.verbatim && to.part.rows.bare;
    if (!finder_) continue;
    if (stated || column.kind == Kind::number) {
      to.notes[place].first.add(read);
    } else {
      to.notes[place].first.add(readers_[index].read(Kind::number, some));
      to.notes[place].second.add(read);
    }
  }
}

void FileBlocks::leave(std::size_t /*block*/, const Block& to) {
  left_.source->forget(to.part.where.begin, to.part.where.end);
  if (!finder_) return;
  for (std::size_t i = 0; i < notes_.size(); ++i) notes_[i].add(to.notes[i]);
  for (std::size_t i = 0; i < in_source_.size(); ++i) {
    // Once a cell cannot be read, no later one makes up for it.
    const bool fails = in_source_[i] && whole_.columns[i].kind == Kind::number &&
                       notes_[*in_source_[i]].first.unreadable_count > 0;
    if (fails) throw LaterRowsDiffer();
  }
}

// Whether the notes of all cells say of a column what those of the first ones said.
void FileBlocks::check_notes(std::size_t index, const ColumnNotes& notes) const {
  const Column& guessed = whole_.columns[index];
  Column column;
  CellRules rules = left_.rules[*in_source_[index]];
  settle_column(column, rules, notes);
  const bool same =
      column.kind == guessed.kind && column.cells_are_plain == guessed.cells_are_plain &&
      column.clock == guessed.clock && column.in_utc == guessed.in_utc &&
      column.mixed_clocks == guessed.mixed_clocks && column.unreadable_count == guessed.unreadable_count &&
      column.uncertain_cells == guessed.uncertain_cells && column.text_because == guessed.text_because;
  if (!same) throw LaterRowsDiffer();
}

void FileBlocks::end_pass() {
  if (!finder_) return;
  for (std::size_t i = 0; i < in_source_.size(); ++i) {
    if (in_source_[i]) check_notes(i, notes_[*in_source_[i]]);
  }
  finder_.reset();
  left_.guessed = false;
}

namespace {

// A whole chunk, which stays in a cache: several blocks are on their way at a time.
constexpr std::size_t kHeldBlockRows = kChunkRows;

void copy_range(const RowNumbers& from, const RowRange& range, RowNumbers& to) {
  to.clear();
  if (!from.empty()) to.append(from.part(range.first_row, range.rows));
}

}  // namespace

std::size_t HeldBlocks::count() const { return (whole_.rows + kHeldBlockRows - 1) / kHeldBlockRows; }

RowRange HeldBlocks::range(std::size_t block) const {
  const std::size_t first = block * kHeldBlockRows;
  return {first, std::min(kHeldBlockRows, whole_.rows - first)};
}

void HeldBlocks::place(std::size_t block, Block& to) { to.first_row = range(block).first_row; }

void HeldBlocks::read(std::size_t block, const std::vector<bool>& needed, Block& to) const {
  const RowRange rows = range(block);
  Table& table = to.table;
  table.rows = rows.rows;
  copy_range(whole_.lines, rows, table.lines);
  copy_range(whole_.source_rows, rows, table.source_rows);
  table.file_of.clear();
  if (!whole_.file_of.empty()) {
    const auto first = whole_.file_of.begin() + static_cast<std::ptrdiff_t>(rows.first_row);
    table.file_of.assign(first, first + static_cast<std::ptrdiff_t>(rows.rows));
  }
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    Column& column = table.columns[i];
    column.rows = table.rows;
    if (given_[i] && needed[i]) column.chunks = slice(whole_.columns[i].chunks, rows.first_row, rows.rows);
  }
}

}  // namespace opensum
