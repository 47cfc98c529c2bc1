// Finding out what the columns of a table are whose rows are left in their file.
#include "table/survey.h"

#include <algorithm>

#include "base/parallel.h"
#include "base/progress.h"

namespace opensum {

BlockFinder::BlockFinder(LeftInFile& left) : left_(left), cuts_(left.source->cuts()) {
  next_.begin = cuts_.front();
}

void BlockFinder::read(std::size_t part, Part& to) const {
  to.reading = {};
  if (left_.source->is_text(cuts_[part], cuts_[part + 1]))
    to.reading = left_.source->read(cuts_[part], cuts_[part + 1], 0, to.rows);
}

bool BlockFinder::place(std::size_t part, Part& to) {
  const std::size_t end = cuts_[part + 1];
  if (const auto line = left_.source->line_at(cuts_[part])) next_.first_line = *line;
  to.where = next_;
  if (next_.begin >= end) {
    // The row before reaches over all of it.
    to.rows = {};
    to.rows.columns.resize(left_.rules.size());
    return true;
  }
  if (next_.begin != cuts_[part]) to.reading = left_.source->read(next_.begin, end, 0, to.rows);
  if (!to.reading.clean) return false;
  for (std::size_t& line : to.rows.lines) line += next_.first_line;
  to.where.end = to.reading.end;
  to.where.rows = to.where.source_rows = to.rows.rows();
  left_.blocks.push_back(to.where);
  next_.begin = to.where.end;
  next_.first_line += to.reading.lines;
  next_.first_row += to.where.rows;
  next_.first_source_row = next_.first_row;
  return true;
}

double BlockFinder::share_before(std::size_t place) const {
  return static_cast<double>(place - cuts_.front()) /
         static_cast<double>(std::max<std::size_t>(cuts_.back() - cuts_.front(), 1));
}

void ColumnNotes::add(const ColumnNotes& next) {
  first.add(next.first);
  second.add(next.second);
}

namespace {

// The kind of a column whose cells were read as numbers or as the kind stated.
Kind kind_by(const CellNotes& first, const CellRules& rules) { return rules.kind.value_or(kind_of(first)); }

// Whether the cells must be read again as the kind that they have.
bool needs_second_look(const CellNotes& first, const CellRules& rules) {
  const Kind kind = kind_by(first, rules);
  if (rules.kind || kind == Kind::number || kind == Kind::text) return false;
  return first.missing_by_value > 0 || (first.dates != first.known && first.truths != first.known);
}

}  // namespace

void settle_column(Column& column, CellRules& rules, const ColumnNotes& notes) {
  column.kind = kind_by(notes.first, rules);
  CellNotes settled = needs_second_look(notes.first, rules) ? notes.second : notes.first;
  if (!rules.kind && column.kind != Kind::number) {
    column.text_because = text_because(column.kind, notes.first);
    if (!needs_second_look(notes.first, rules)) {
      settled.unreadable_count = 0;
      settled.unreadable.clear();
    }
  }
  if (needs_utc(column.kind, settled, rules)) rules.dates_in_utc = true;
  settle_cells(column, settled, rules);
}

namespace {

// Goes over the rows of a table and reads the cells of some columns.
class Survey {
 public:
  Survey(LeftInFile& left, const std::vector<Column*>& columns) : left_(left), columns_(columns) {
    for (std::size_t i = 0; i < columns.size(); ++i) readers_.emplace_back(left.rules[i], columns[i]->origin);
  }

  // Looks at so many parts of the file; false where rows are not plain.
  bool run(std::size_t parts) {
    std::vector<std::optional<Kind>> kinds(columns_.size(), Kind::number);
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      if (left_.rules[i].kind) kinds[i] = left_.rules[i].kind;
    }
    std::vector<CellNotes> first(columns_.size());
    if (!pass(parts, kinds, first)) return false;
    bool again = false;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      kinds[i].reset();
      if (needs_second_look(first[i], left_.rules[i])) kinds[i] = kind_by(first[i], left_.rules[i]);
      again = again || kinds[i];
    }
    std::vector<CellNotes> second(columns_.size());
    if (again && !pass(parts, kinds, second)) return false;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      columns_[i]->rows = left_.rows();
      settle_column(*columns_[i], left_.rules[i], {first[i], second[i]});
    }
    return true;
  }

 private:
  // What one block came to.
  struct Surveyed {
    BlockFinder::Part part;
    bool plain = true;  // so far
    std::vector<CellNotes> notes;
  };

  // Reads blocks, and of columns with a kind the cells as that.
  bool pass(std::size_t parts, const std::vector<std::optional<Kind>>& kinds, std::vector<CellNotes>& all) {
    left_.blocks.clear();
    BlockFinder finder(left_);
    std::vector<Surveyed> slots(2 * threads() + 2);
    bool plain = true;
    for_each_in_order(
        std::min(parts, finder.parts()), slots.size(),
        [&](std::size_t part, std::size_t slot) { finder.read(part, slots[slot].part); },
        [&](std::size_t part, std::size_t slot) {
          plain = plain && finder.place(part, slots[slot].part);
          slots[slot].plain = plain;
        },
        [&](std::size_t, std::size_t slot) {
          if (slots[slot].plain) read(kinds, slots[slot]);
        },
        [&](std::size_t, std::size_t slot) {
          if (!slots[slot].plain) return;
          const RowBlock& where = slots[slot].part.where;
          for (std::size_t i = 0; i < columns_.size(); ++i) all[i].add(slots[slot].notes[i]);
          left_.source->forget(where.begin, where.end);
          tell_progress("looking through " + left_.name, where.first_row + where.rows,
                        finder.share_before(where.end));
        });
    return plain;
  }

  void read(const std::vector<std::optional<Kind>>& kinds, Surveyed& block) const {
    block.notes.assign(columns_.size(), {});
    const RawRows& rows = block.part.rows;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      if (kinds[i])
        block.notes[i] =
            readers_[i].read(*kinds[i], {rows.columns[i], rows.lines, block.part.where.first_row});
      for (UnreadableCell& cell : block.notes[i].unreadable) cell.file = left_.files[rows.table];
    }
  }

  LeftInFile& left_;
  const std::vector<Column*>& columns_;
  std::vector<CellReader> readers_;
};

// Whether there is anything to be said of a column that all of its cells must be looked at for.
bool leaves_doubt(const Column& column) {
  return column.unreadable_count > 0 || column.uncertain_cells > 0 || column.in_utc ||
         !column.mixed_clocks.empty() || !column.text_because.empty();
}

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

bool survey_rows(LeftInFile& left, const std::vector<Column*>& columns, LookedAt look) {
  // So much shows what most columns are, and is still in the cache of the file when the work begins.
  constexpr std::size_t kFirstParts = 2;
  if (look == LookedAt::first_rows && left.source->cuts().size() > kFirstParts + 2) {
    if (!Survey(left, columns).run(kFirstParts)) return false;
    left.blocks.clear();
    left.guessed =
        std::none_of(columns.begin(), columns.end(), [](const Column* c) { return leaves_doubt(*c); });
    if (left.guessed) return true;
  }
  return Survey(left, columns).run(SIZE_MAX);
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

}  // namespace opensum
