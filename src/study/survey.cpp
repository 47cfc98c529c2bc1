// Finding out what the columns of a table are whose rows are left in their file.
#include "study/survey.h"

#include <algorithm>

#include "base/parallel.h"
#include "base/progress.h"

namespace opensum {
namespace {

// Goes over the rows of a table and reads the cells of some columns.
class Survey {
 public:
  Survey(LeftInFile& left, const std::vector<Column*>& columns) : left_(left), columns_(columns) {
    for (std::size_t i = 0; i < columns.size(); ++i) readers_.emplace_back(left.rules[i], columns[i]->origin);
  }

  bool run() {
    std::vector<std::optional<Kind>> kinds(columns_.size(), Kind::number);
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      if (left_.rules[i].kind) kinds[i] = left_.rules[i].kind;
    }
    std::vector<CellNotes> notes;
    if (!pass(kinds, true, notes)) return false;
    bool again = false;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      Column& column = *columns_[i];
      column.kind = left_.rules[i].kind.value_or(kind_of(notes[i]));
      kinds[i].reset();
      if (!left_.rules[i].kind && column.kind != Kind::number) {
        column.text_because = text_because(column.kind, notes[i]);
        const bool all_read = notes[i].missing_by_value == 0 &&
                              (notes[i].dates == notes[i].known || notes[i].truths == notes[i].known);
        if (column.kind != Kind::text && !all_read) kinds[i] = column.kind;
        again = again || kinds[i];
        notes[i].unreadable_count = 0;
        notes[i].unreadable.clear();
      }
    }
    std::vector<CellNotes> second(columns_.size());
    if (again && !pass(kinds, false, second)) return false;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      columns_[i]->rows = left_.rows();
      if (kinds[i]) notes[i] = second[i];
      if (needs_utc(columns_[i]->kind, notes[i], left_.rules[i])) left_.rules[i].dates_in_utc = true;
      settle_cells(*columns_[i], notes[i], left_.rules[i]);
    }
    return true;
  }

 private:
  // What one block came to.
  struct Surveyed {
    RawRows rows;
    RowSource::Reading reading;
    std::vector<CellNotes> notes;
  };

  // Reads all blocks, and of columns with a kind the cells as that.
  bool pass(const std::vector<std::optional<Kind>>& kinds, bool find_blocks, std::vector<CellNotes>& notes) {
    std::vector<CellNotes> all(columns_.size());
    std::vector<Surveyed> slots(2 * threads() + 2);
    bool good = true;
    cuts_ = left_.source->cuts();
    next_ = RowBlock();
    next_.begin = cuts_.front();
    next_.first_line = left_.source->first_line();
    if (find_blocks) left_.blocks.clear();
    for_each_in_order(
        cuts_.size() - 1, slots.size(),
        [&](std::size_t part, std::size_t slot) { read(cuts_[part], cuts_[part + 1], kinds, slots[slot]); },
        [&](std::size_t part, std::size_t slot) {
          if (good) good = take(part, kinds, find_blocks, slots[slot], all);
        });
    notes = std::move(all);
    return good;
  }

  // Reads rows, with their lines counted from 0.
  void read(std::size_t begin, std::size_t end, const std::vector<std::optional<Kind>>& kinds,
            Surveyed& to) const {
    to.reading = {};
    if (!left_.source->is_text(begin, end)) return;
    to.reading = left_.source->read(begin, end, 0, to.rows);
    if (!to.reading.clean) return;
    to.notes.assign(columns_.size(), {});
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      if (kinds[i])
        to.notes[i] = readers_[i].read(*kinds[i], to.rows.columns[i], to.rows.lines, 0, nullptr, nullptr);
    }
  }

  // Appends a block. It may have been begun inside a row that reaches over more lines.
  bool take(std::size_t part, const std::vector<std::optional<Kind>>& kinds, bool find_blocks,
            Surveyed& block, std::vector<CellNotes>& all) {
    const std::size_t end = cuts_[part + 1];
    if (next_.begin >= end) return true;
    if (next_.begin != cuts_[part]) read(next_.begin, end, kinds, block);
    if (!block.reading.clean) return false;
    next_.end = block.reading.end;
    next_.rows = next_.source_rows = block.rows.rows();
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      for (UnreadableCell& cell : block.notes[i].unreadable) {
        cell.row += next_.first_row;
        cell.line += next_.first_line;
      }
      for (auto* cell : {&block.notes[i].of_dates.with_offset, &block.notes[i].of_dates.without_offset}) {
        if (*cell) (*cell)->line += next_.first_line;
      }
      if (block.notes[i].first_code) block.notes[i].first_code->line += next_.first_line;
      if (block.notes[i].first_uncertain) block.notes[i].first_uncertain->line += next_.first_line;
      all[i].add(block.notes[i]);
    }
    if (find_blocks) left_.blocks.push_back(next_);
    left_.source->forget(next_.begin, next_.end);
    const std::size_t done = next_.end - cuts_.front();
    tell_progress("looking through " + left_.name, next_.first_row + next_.rows,
                  static_cast<double>(done) / static_cast<double>(cuts_.back() - cuts_.front()));
    next_.begin = next_.end;
    next_.first_line += block.reading.lines;
    next_.first_row += next_.rows;
    next_.first_source_row = next_.first_row;
    return true;
  }

  LeftInFile& left_;
  const std::vector<Column*>& columns_;
  std::vector<CellReader> readers_;
  std::vector<std::size_t> cuts_;
  RowBlock next_;
};

}  // namespace

void LeftInFile::keep(std::vector<bool> wanted) {
  kept = std::move(wanted);
  std::size_t row = 0;
  for (RowBlock& block : blocks) {
    const auto first = kept.begin() + static_cast<std::ptrdiff_t>(block.first_source_row);
    block.first_row = row;
    block.rows = static_cast<std::size_t>(
        std::count(first, first + static_cast<std::ptrdiff_t>(block.source_rows), true));
    row += block.rows;
  }
}

bool survey_rows(LeftInFile& left, const std::vector<Column*>& columns) {
  return Survey(left, columns).run();
}

void read_block(const LeftInFile& left, const RowBlock& block, RawRows& rows) {
  left.source->read(block.begin, block.end, block.first_line, rows);
  if (left.kept.empty()) return;
  const auto drop = [&](auto& list) {
    std::size_t to = 0;
    for (std::size_t i = 0; i < list.size(); ++i) {
      if (left.kept[block.first_source_row + i]) list[to++] = list[i];
    }
    list.resize(to);
  };
  for (std::vector<std::string_view>& column : rows.columns) drop(column);
  drop(rows.lines);
}

std::shared_ptr<const void> load_rows(const LeftInFile& left, const std::vector<Column*>& columns,
                                      std::vector<std::size_t>& lines) {
  const std::size_t rows = left.rows();
  lines.resize(rows);
  std::vector<std::vector<std::string_view>> cells(columns.size());
  for (std::vector<std::string_view>& column : cells) column.resize(rows);
  auto unquoted = std::make_shared<std::vector<std::deque<std::string>>>(left.blocks.size());
  for_each_part(left.blocks.size(), [&](std::size_t part) {
    const RowBlock& block = left.blocks[part];
    const auto first = static_cast<std::ptrdiff_t>(block.first_row);
    RawRows raw;
    read_block(left, block, raw);
    std::copy(raw.lines.begin(), raw.lines.end(), lines.begin() + first);
    for (std::size_t i = 0; i < columns.size(); ++i)
      std::copy(raw.columns[i].begin(), raw.columns[i].end(), cells[i].begin() + first);
    // The views look into the strings, which stay where they are.
    (*unquoted)[part] = std::move(raw.unquoted);
  });
  for (std::size_t i = 0; i < columns.size(); ++i) {
    CellRules rules = left.rules[i];
    rules.kind = columns[i]->kind;
    // What was said of cells that cannot be read stays said.
    Column& column = *columns[i];
    const std::vector<UnreadableCell> unreadable = std::move(column.unreadable);
    const std::size_t unreadable_count = column.unreadable_count;
    type_cells(column, cells[i], lines, rules);
    column.unreadable = unreadable;
    column.unreadable_count = unreadable_count;
    cells[i] = {};
  }
  return unquoted;
}

}  // namespace opensum
