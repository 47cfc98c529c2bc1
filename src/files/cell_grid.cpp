// A sheet of a workbook as a grid of texts, and the table that stands in it.
#include "files/cell_grid.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "base/limits.h"
#include "base/result.h"
#include "base/unicode.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::string column_letters(std::size_t column) {
  std::string letters;
  for (; column > 0; column = (column - 1) / 26) {
    letters.insert(letters.begin(), static_cast<char>('A' + (column - 1) % 26));
  }
  return letters;
}

bool is_blank(const GridRow& row) {
  return std::all_of(row.cells.begin(), row.cells.end(),
                     [](std::string_view cell) { return trimmed(cell).empty(); });
}

// How many cells a row has up to its last one that is not empty.
std::size_t width_of(const GridRow& row) {
  std::size_t width = row.cells.size();
  while (width > 0 && trimmed(row.cells[width - 1]).empty()) --width;
  return width;
}

// A row as a line of text that messages can quote, and where each cell stands in it.
std::shared_ptr<const Source> quoted_row(const std::string& name, const GridRow& row, std::size_t width,
                                         std::vector<Span>& spans) {
  std::string line;
  for (std::size_t i = 0; i < width; ++i) {
    if (i > 0) line += " | ";
    const std::size_t begin = line.size();
    if (i < row.cells.size()) line += row.cells[i];
    std::replace(line.begin(), line.end(), '\n', ' ');
    spans.push_back({begin, std::max(line.size(), begin + 1)});
  }
  return std::make_shared<const Source>(name, line + ' ', row.number);
}

class GridTable {
 public:
  GridTable(const CellGrid& grid, const ReadSettings& settings, Diagnostics& diagnostics)
      : grid_(grid), settings_(settings), diagnostics_(diagnostics) {
    table_.file = grid.name;
    table_.storage = grid.texts;
  }

  std::optional<RawTable> run() {
    if (!choose_rows()) return std::nullopt;
    warn_of_several_tables();
    if (!read_header() || !read_units()) return std::nullopt;
    if (!read_rows()) return std::nullopt;
    warn_of_cells();
    drop_empty_columns();
    return std::move(table_);
  }

 private:
  // The rows between those that are skipped.
  bool choose_rows() {
    std::size_t last = 0;
    for (const GridRow& row : grid_.rows) {
      if (grid_.empty_rows_count || !is_blank(row)) last = row.number;
    }
    if (last == 0) {
      diagnostics_.add(Code::empty_file, {grid_.name});
      return false;
    }
    const std::size_t named = std::max(settings_.header_line.value_or(0), settings_.units_row.value_or(0));
    const std::size_t needed = std::max(settings_.skip_rows + 1, named) + settings_.skip_end;
    if (last < needed) {
      diagnostics_.add(Code::too_few_lines, {grid_.name, std::to_string(last), std::to_string(needed)});
      return false;
    }
    for (const auto& line : {settings_.header_line, settings_.units_row}) {
      if (line && *line <= settings_.skip_rows) {
        diagnostics_.add(Code::header_is_skipped,
                         {std::to_string(*line), std::to_string(settings_.skip_rows)});
        return false;
      }
    }
    for (const GridRow& row : grid_.rows) {
      const bool inside = row.number > settings_.skip_rows && row.number + settings_.skip_end <= last;
      if (inside && (grid_.empty_rows_count || !is_blank(row))) rows_.push_back(&row);
    }
    return true;
  }

  static bool is_filled(const GridRow& row, std::size_t column) {
    return column < row.cells.size() && !trimmed(row.cells[column]).empty();
  }

  static bool is_number(std::string_view cell) {
    return read_number(trimmed(cell)).fault == NumberFault::none;
  }

  // Whether the first row in a range has texts in all columns and a number stands below it.
  bool is_table(const MergedCells& range) const {
    bool number = false;
    for (const GridRow* row : rows_) {
      if (row->number < range.first_row || row->number > range.last_row) continue;
      for (std::size_t column = range.first_column - 1; column < range.last_column; ++column) {
        const bool filled = is_filled(*row, column);
        if (row->number == range.first_row && (!filled || is_number(row->cells[column]))) return false;
        number = number || (filled && is_number(row->cells[column]));
      }
    }
    return number && range.last_row > range.first_row;
  }

  // The columns that hold anything, divided by those that do not, with the rows in which they do.
  std::vector<MergedCells> blocks_of_columns() const {
    std::vector<std::pair<std::size_t, std::size_t>> ends;  // the first and last filled row of each column
    for (const GridRow* row : rows_) {
      ends.resize(std::max(ends.size(), row->cells.size()));
      for (std::size_t column = 0; column < row->cells.size(); ++column) {
        if (!is_filled(*row, column)) continue;
        if (ends[column].first == 0) ends[column].first = row->number;
        ends[column].second = row->number;
      }
    }
    std::vector<MergedCells> blocks;
    bool inside = false;
    for (std::size_t column = 0; column < ends.size(); ++column) {
      const auto [first, last] = ends[column];
      if (first > 0 && !inside) blocks.push_back({first, last, column + 1, column + 1});
      if (first > 0) {
        MergedCells& block = blocks.back();
        block = {std::min(block.first_row, first), std::max(block.last_row, last), block.first_column,
                 column + 1};
      }
      inside = first > 0;
    }
    return blocks;
  }

  // Warns where an empty column stands between what are tables by themselves.
  void warn_of_several_tables() {
    std::vector<MergedCells> tables = blocks_of_columns();
    if (tables.size() < 2) return;
    std::erase_if(tables, [&](const MergedCells& block) { return !is_table(block); });
    if (tables.size() < 2) return;
    std::string names;
    for (const MergedCells& table : tables) names += (names.empty() ? "" : ", ") + cells_name(table);
    diagnostics_.add(Code::several_tables,
                     {grid_.name, names, grid_.name + "!" + cells_name(tables.front())});
  }

  // Takes the row of a number out of those that are left; a null pointer if it is blank.
  const GridRow* take(std::size_t number) {
    const auto found =
        std::find_if(rows_.begin(), rows_.end(), [&](const GridRow* row) { return row->number == number; });
    if (found == rows_.end()) return nullptr;
    const GridRow* row = *found;
    rows_.erase(rows_.begin(), found + 1);
    return row;
  }

  bool read_header() {
    if (settings_.no_header) {
      std::size_t width = 0;
      for (const GridRow* row : rows_) width = std::max(width, width_of(*row));
      return set_width(width);
    }
    if (settings_.units_row && settings_.units_row == settings_.header_line) {
      diagnostics_.add(Code::units_in_header, {std::to_string(*settings_.units_row)});
      return false;
    }
    const GridRow* header = nullptr;
    if (settings_.header_line) {
      units_before_ = settings_.units_row && *settings_.units_row < *settings_.header_line
                          ? take(*settings_.units_row)
                          : nullptr;
      header = take(*settings_.header_line);
    } else if (!rows_.empty()) {
      header = take(rows_.front()->number);
    }
    if (header == nullptr) {
      diagnostics_.add(Code::empty_file, {grid_.name});
      return false;
    }
    if (!set_width(width_of(*header))) return false;
    for (const GridRow& row : grid_.rows) {
      if (row.number >= header->number) break;
      std::string line;
      for (const std::string_view cell : row.cells) {
        if (!line.empty()) line += '\t';
        line += cell;
      }
      if (!trimmed(line).empty()) table_.before.push_back(std::move(line));
    }
    table_.header_line = header->number;
    table_.header_source = quoted_row(grid_.name, *header, table_.headers.size(), table_.header_spans);
    for (std::size_t i = 0; i < table_.headers.size(); ++i) table_.headers[i] = trimmed(header->cells[i]);
    for (const std::string& name : grid_.symbols.empty() ? std::vector<std::string>() : table_.headers) {
      const auto known = grid_.symbols.find(name);
      table_.metadata.emplace_back();
      if (known != grid_.symbols.end()) table_.metadata.back().emplace().symbol = known->second;
    }
    return not_merged(header->number);
  }

  bool set_width(std::size_t width) {
    if (width > kMostColumns) {
      diagnostics_.add(Code::too_many_columns,
                       {grid_.name, std::to_string(width), std::to_string(kMostColumns)});
      return false;
    }
    table_.headers.resize(width);
    table_.columns.resize(width);
    return true;
  }

  // Refuses cells of a header that are merged over columns or rows.
  bool not_merged(std::size_t row) {
    std::string names;
    for (const MergedCells& cells : grid_.merged) {
      if (cells.first_row <= row && row <= cells.last_row)
        names += (names.empty() ? "" : ", ") + cells_name(cells);
    }
    if (!names.empty()) diagnostics_.add(Code::merged_header, {grid_.name, names});
    return names.empty();
  }

  bool read_units() {
    if (!settings_.units_row) return true;
    const GridRow* units = units_before_ != nullptr ? units_before_ : take(*settings_.units_row);
    if (units == nullptr) return true;
    const std::size_t width = table_.headers.size();
    table_.units_source = quoted_row(grid_.name, *units, width, table_.units_spans);
    for (std::size_t i = 0; i < width; ++i) {
      table_.units.emplace_back(i < units->cells.size() ? trimmed(units->cells[i]) : "");
    }
    return not_merged(units->number);
  }

  // Rows of a title above the table, where most rows are wider than what was taken for the header.
  bool has_title() {
    const std::size_t width = table_.headers.size();
    std::map<std::size_t, std::size_t> rows_of_width;
    for (const GridRow* row : rows_) ++rows_of_width[width_of(*row)];
    const auto usual = std::max_element(rows_of_width.begin(), rows_of_width.end(),
                                        [](const auto& a, const auto& b) { return a.second < b.second; });
    if (settings_.header_line || usual == rows_of_width.end() || usual->first <= width ||
        usual->second * 2 <= rows_.size())
      return false;
    const auto begins = std::find_if(rows_.begin(), rows_.end(),
                                     [&](const GridRow* row) { return width_of(*row) == usual->first; });
    const std::size_t line = (*begins)->number;
    diagnostics_.add(Code::lines_before_header,
                     {grid_.name, std::to_string(table_.header_line), std::to_string(width),
                      std::to_string(usual->first), std::to_string(line), std::to_string(line - 1)});
    return true;
  }

  bool read_rows() {
    const std::size_t width = table_.headers.size();
    if (has_title()) return false;
    bool good = true;
    for (std::vector<std::string_view>& column : table_.columns) column.reserve(rows_.size());
    table_.lines.reserve(rows_.size());
    for (const GridRow* row : rows_) {
      if (width_of(*row) > width) {
        std::vector<Span> spans;
        const auto quoted = quoted_row(grid_.name, *row, width_of(*row), spans);
        diagnostics_.add(Code::ragged_row, Place{quoted, {spans[width].begin, spans.back().end}},
                         {std::to_string(width_of(*row)), std::to_string(width)});
        good = false;
        continue;
      }
      for (std::size_t i = 0; i < width; ++i) {
        table_.columns[i].push_back(i < row->cells.size() ? row->cells[i] : std::string_view());
      }
      table_.lines.push_back(row->number);
    }
    if (good && table_.lines.empty()) diagnostics_.add(Code::no_rows, {grid_.name});
    return good;
  }

  // Leaves out columns without a header and without cells, such as those left of a table.
  void drop_empty_columns() {
    const auto drop = [](auto& list, std::size_t i) {
      if (i < list.size()) list.erase(list.begin() + static_cast<std::ptrdiff_t>(i));
    };
    for (std::size_t i = table_.headers.size(); i-- > 0;) {
      const auto& cells = table_.columns[i];
      const bool empty = table_.headers[i].empty() && std::all_of(cells.begin(), cells.end(), [](auto cell) {
                           return trimmed(cell).empty();
                         });
      if (!empty || grid_.empty_rows_count) continue;
      drop(table_.headers, i);
      drop(table_.header_spans, i);
      drop(table_.columns, i);
      drop(table_.units, i);
      drop(table_.units_spans, i);
    }
  }

  void warn_of_cells() {
    std::vector<const MergedCells*> merged;
    for (const MergedCells& cells : grid_.merged) {
      const bool among_rows = std::any_of(table_.lines.begin(), table_.lines.end(), [&](std::size_t line) {
        return cells.first_row <= line && line <= cells.last_row;
      });
      if (among_rows && cells.first_column <= table_.headers.size()) merged.push_back(&cells);
    }
    if (!merged.empty()) diagnostics_.add(Code::merged_cells, {grid_.name, cells_name(*merged.front())});
    for (const auto& [column, cell] : grid_.percents) {
      const bool in_table = column < table_.headers.size() &&
                            std::binary_search(table_.lines.begin(), table_.lines.end(), cell.row);
      if (!in_table || table_.headers[column].find('%') == std::string::npos) continue;
      const NumberReading stored = read_number(cell.stored);
      diagnostics_.add(Code::percent_cells, {table_.headers[column], grid_.name, cell.stored,
                                             number_text(stored.value * 100) + " %"});
    }
  }

  const CellGrid& grid_;
  const ReadSettings& settings_;
  Diagnostics& diagnostics_;
  std::vector<const GridRow*> rows_;
  const GridRow* units_before_ = nullptr;
  RawTable table_;
};

}  // namespace

std::string_view CellMemory::keep(std::string_view text) {
  if (text.empty()) return {};
  auto* const kept = static_cast<char*>(parts_.back().allocate(text.size(), 1));
  std::copy(text.begin(), text.end(), kept);
  return {kept, text.size()};
}

GridRoom::GridRoom(std::size_t bytes) : source_(bytes) {}

void GridRoom::add_source(std::size_t bytes) { source_ += bytes; }

bool GridRoom::take(std::size_t count, std::size_t bytes) {
  if (count > kMostCells - std::min(cells_, kMostCells)) {
    reason_ = fmt::format("a sheet of it has more than {} cells", kMostCells);
    return false;
  }
  cells_ += count;
  // A cell stands in its row, and then in its column.
  return take_bytes(count, 2 * sizeof(std::string_view) + bytes);
}

bool GridRoom::take_text(std::size_t bytes) { return take_bytes(1, bytes); }

bool GridRoom::take_bytes(std::size_t count, std::size_t each) {
  const std::size_t most = std::max(kFreeGridBytes, kMostGridRatio * source_);
  if (count > 0 && each > (most - std::min(bytes_, most)) / count) {
    reason_ = fmt::format(
        "a sheet of it would take up more than {} MB, and the limits are {} MB and {} times what it is "
        "stored in",
        most >> 20U, kFreeGridBytes >> 20U, kMostGridRatio);
    return false;
  }
  bytes_ += count * each;
  return true;
}

void make_valid(CellGrid& grid, Diagnostics& diagnostics) {
  std::size_t replaced = 0;
  std::string first;
  make_valid_utf8(grid.name);
  for (GridRow& row : grid.rows) {
    for (std::size_t column = 0; column < row.cells.size(); ++column) {
      std::string_view& cell = row.cells[column];
      if (std::all_of(cell.begin(), cell.end(), [](char c) { return c > 0; })) continue;
      std::string valid(cell);
      if (!make_valid_utf8(valid)) continue;
      cell = grid.texts->keep(valid);
      if (++replaced == 1) first = column_letters(column + 1) + std::to_string(row.number);
    }
  }
  if (replaced > 0) diagnostics.add(Code::bytes_replaced, {grid.name, std::to_string(replaced), first});
}

std::string cells_name(const MergedCells& cells) {
  return fmt::format("{}{}:{}{}", column_letters(cells.first_column), cells.first_row,
                     column_letters(cells.last_column), cells.last_row);
}

std::optional<MergedCells> range_of(std::string_view text) {
  MergedCells range;
  const auto read = [&](std::size_t& column, std::size_t& row) {
    constexpr std::size_t kMost = 10'000'000;
    const std::size_t before = text.size();
    for (; !text.empty() && std::isalpha(static_cast<unsigned char>(text[0])) != 0 && column < kMost;
         text.remove_prefix(1))
      column =
          column * 26 + static_cast<std::size_t>(std::toupper(static_cast<unsigned char>(text[0])) - 'A' + 1);
    const std::size_t letters = before - text.size();
    for (; !text.empty() && std::isdigit(static_cast<unsigned char>(text[0])) != 0 && row < kMost;
         text.remove_prefix(1))
      row = row * 10 + static_cast<std::size_t>(text[0] - '0');
    return letters > 0 && column > 0 && row > 0;
  };
  if (!read(range.first_column, range.first_row) || !text.starts_with(':')) return std::nullopt;
  text.remove_prefix(1);
  if (!read(range.last_column, range.last_row) || !text.empty()) return std::nullopt;
  if (range.last_column < range.first_column || range.last_row < range.first_row) return std::nullopt;
  return range;
}

void crop(CellGrid& grid, const MergedCells& range) {
  std::erase_if(grid.rows, [&](const GridRow& row) {
    return row.number < range.first_row || row.number > range.last_row;
  });
  for (GridRow& row : grid.rows) {
    row.cells.resize(std::min(row.cells.size(), range.last_column));
    row.cells.erase(row.cells.begin(), row.cells.begin() + static_cast<std::ptrdiff_t>(std::min(
                                                               row.cells.size(), range.first_column - 1)));
  }
  std::erase_if(grid.merged, [&](const MergedCells& cells) {
    return cells.last_row < range.first_row || cells.first_row > range.last_row ||
           cells.last_column < range.first_column || cells.first_column > range.last_column;
  });
  std::map<std::size_t, PercentCell> percents;
  for (auto& [column, cell] : grid.percents) {
    if (column + 1 >= range.first_column && column + 1 <= range.last_column)
      percents.emplace(column + 1 - range.first_column, std::move(cell));
  }
  grid.percents = std::move(percents);
}

Result<RawTable> grid_table(const CellGrid& grid, const ReadSettings& settings, Diagnostics& diagnostics) {
  return GridTable(grid, settings, diagnostics).run();
}

}  // namespace opensum
