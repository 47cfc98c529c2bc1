// From tables of text to typed, named columns with units.
#include "plan/sheet_table.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "equation/scope.h"
#include "message/nearest.h"
#include "plan/headings.h"
#include "plan/preamble.h"
#include "table/cell_units.h"
#include "table/number_text.h"
#include "table/sql_source.h"
#include "table/stacked_rows.h"
#include "table/typing.h"

namespace opensum {
namespace {

// A column of the sheet and where it stands in each table.
struct Stacked {
  Heading heading;
  static constexpr std::size_t kAbsent = SIZE_MAX;
  std::vector<std::size_t> in_table;
};

// What keeps the bytes of several tables alive.
using Storages = std::vector<std::shared_ptr<const void>>;

class TableBuilder {
 public:
  TableBuilder(const SheetModel& sheet, std::vector<RawTable>& tables, const UnitSystem& units,
               Origins& origins, LookedAt look, Diagnostics& diagnostics)
      : sheet_(sheet),
        tables_(tables),
        units_(units),
        origins_(origins),
        look_(look),
        diagnostics_(diagnostics) {}

  SheetTable run() {
    stack_rows();
    stack_columns();
    const auto is_left = [](const RawTable& raw) { return raw.left_in_file != nullptr; };
    const auto is_empty = [](const RawTable& raw) { return raw.rows() == 0; };
    if (std::any_of(tables_.begin(), tables_.end(), is_left)) {
      // Rows of some that must be read are below those that are left.
      result_.rows_are_plain = std::all_of(
          tables_.begin(), tables_.end(), [&](const RawTable& raw) { return is_left(raw) || is_empty(raw); });
      if (!result_.rows_are_plain) return std::move(result_);
      leave_in_file();
    } else {
      for (const Stacked& column : stacked_) add_column(column);
    }
    if (sheet_.data_is_list) add_source_column();
    for (const PreambleModel& model : sheet_.preamble) add_preamble_column(model);
    if (left_) look_through_files();
    for (const ColumnSettings& settings : sheet_.columns) {
      if (settings.values) add_typed_column(settings);
    }
    return std::move(result_);
  }

 private:
  void stack_rows() {
    Table& table = result_.table;
    table.name = sheet_.name;
    auto storages = std::make_shared<Storages>();
    for (std::size_t i = 0; i < tables_.size(); ++i) {
      const RawTable& raw = tables_[i];
      table.files.push_back(raw.file);
      lines_.insert(lines_.end(), raw.lines.begin(), raw.lines.end());
      if (tables_.size() > 1)
        table.file_of.insert(table.file_of.end(), raw.rows(), static_cast<std::uint32_t>(i));
      storages->push_back(raw.storage);
    }
    storage_ = std::move(storages);
    table.file = tables_.size() == 1 ? tables_.front().file
                                     : fmt::format("{} files from {} to {}", tables_.size(),
                                                   tables_.front().file, tables_.back().file);
    table.lines.append(lines_);
    table.rows = table.lines.size();
    table.source_count = table.rows;
    table.source_rows = RowNumbers::counting(0, table.rows);
  }

  void stack_columns() {
    for (std::size_t i = 0; i < tables_.size(); ++i) {
      Headings headings = read_headings(sheet_, tables_[i], units_, diagnostics_);
      for (std::size_t k = 0; k < headings.columns.size(); ++k) stack(std::move(headings.columns[k]), i, k);
      result_.shared_symbols.merge(headings.shared_symbols);
      // A setting describes a derived column only if no table has it.
      if (i == 0) result_.unmatched = std::move(headings.unmatched);
      std::erase_if(result_.unmatched, [&](const ColumnSettings* settings) {
        return std::any_of(stacked_.begin(), stacked_.end(),
                           [&](const Stacked& s) { return s.heading.settings == settings; });
      });
    }
    for (const Stacked& column : stacked_) {
      for (std::size_t i = 0; i < tables_.size(); ++i) {
        if (column.in_table[i] != Stacked::kAbsent) continue;
        diagnostics_.add(Code::stacked_column_absent,
                         {column.heading.symbol, tables_[first_table(column)].file, tables_[i].file});
      }
    }
  }

  static std::size_t first_table(const Stacked& column) {
    std::size_t first = 0;
    while (column.in_table[first] == Stacked::kAbsent) ++first;
    return first;
  }

  void stack(Heading heading, std::size_t table, std::size_t place) {
    const auto known = std::find_if(stacked_.begin(), stacked_.end(), [&](const Stacked& s) {
      return s.heading.symbol == heading.symbol && s.in_table[table] == Stacked::kAbsent;
    });
    if (known == stacked_.end()) {
      Stacked column;
      column.heading = std::move(heading);
      column.in_table.assign(tables_.size(), Stacked::kAbsent);
      column.in_table[table] = place;
      stacked_.push_back(std::move(column));
      return;
    }
    known->in_table[table] = place;
    const Heading& first = known->heading;
    if (first.unit_stated == heading.unit_stated && same_scale(first.unit, heading.unit)) return;
    const auto words = [](const Heading& h) {
      return h.unit_stated ? "in " + h.unit.text() : std::string("without a unit");
    };
    diagnostics_.add(Code::stacked_units_differ, header_place(tables_[table], place),
                     {heading.symbol, words(heading), words(first), tables_[first_table(*known)].file});
  }

  // How the cells of a column are read. The column's unit is settled.
  CellRules rules_for(const Heading& heading, Column& column) {
    const ReadSettings& read = sheet_.read;
    const ColumnSettings* settings = heading.settings;
    CellRules rules;
    rules.missing = read.missing.value_or(default_missing());
    if (!read.missing) rules.missing_quantities = default_missing_quantities();
    rules.style = read.style;
    if (read.date_format) rules.date_format = format_of(*read.date_format);
    if (heading.metadata != nullptr) {
      if (heading.metadata->kind) rules.kind = heading.metadata->kind;
      if (heading.metadata->duration && column.unit.dimension == second().dimension)
        settle_duration({}, column, rules);
      if (heading.metadata->missing && !read.missing) {
        rules.missing = *heading.metadata->missing;
        rules.missing_quantities.clear();
      }
    }
    if (settings != nullptr) {
      if (settings->missing) {
        rules.missing = *settings->missing;
        rules.missing_quantities.clear();
      }
      if (settings->kind) rules.kind = settings->kind;
      if (settings->format) {
        rules.date_format = format_of(*settings->format);
        rules.kind = Kind::date;
      }
      if (settings->duration) settle_duration(settings->place, column, rules);
      column.digits = settings->digits.value_or(0);
    }
    rules.percent =
        column.unit.is_dimensionless() && column.unit.factor == Factor::integer(1) / Factor::integer(100);
    rules.missing.insert(rules.missing.end(), read.missing_also.begin(), read.missing_also.end());
    return rules;
  }

  // Where the cells of a column hold units of their own, they are read with them. Of a column without a unit
  // it is that of the first.
  void look_for_units(const std::vector<std::string_view>& cells, const Heading& heading, Column& column,
                      CellRules& rules) {
    constexpr std::size_t kLooked = 40;
    if (rules.kind && *rules.kind != Kind::number) return;
    std::vector<std::string_view> known;
    for (const std::string_view cell : cells) {
      const std::string_view text = trimmed(cell);
      const bool missing = std::find(rules.missing.begin(), rules.missing.end(), text) != rules.missing.end();
      if (!text.empty() && !missing) known.push_back(text);
      if (known.size() == kLooked) break;
    }
    const bool stated = column.unit_stated;
    const auto found = unit_of_cells(known, stated ? &column.unit : nullptr, rules.style, units_);
    if (!found) return;
    if (!stated) {
      column.unit = found->unit;
      column.unit_stated = true;
    }
    rules.cell_units = std::make_shared<const CellUnits>(units_, column.unit, stated);
    if (heading.settings != nullptr && heading.settings->unit) return;
    diagnostics_.add(
        Code::cells_hold_units,
        {column.symbol, column.unit.text(), found->example, result_.table.file,
         found->status.empty() ? "" : ", and " + found->status + " before the number is left out"});
  }

  // A format of dates; nothing after an error, which is reported once for all columns of a sheet.
  std::optional<DateFormat> format_of(const Passage& text) {
    DateFormatFault fault;
    auto format = DateFormat::parse(text.text(), fault);
    const bool is_new = reported_formats_.insert(text.text()).second;
    if (!format && is_new) {
      if (fault.code.empty()) {
        diagnostics_.add(Code::date_format_day, text.place(), {text.text()});
      } else {
        diagnostics_.add(fault.repeated ? Code::date_format_twice : Code::date_format_code, text.place(),
                         {fault.code, text.text()});
      }
    }
    return format;
  }

  // What is said once of the cells of a column.
  void report_cells(const Column& column) {
    if (column.in_utc) diagnostics_.add(Code::dates_in_utc, {column.symbol, result_.table.file});
    const bool told =
        std::any_of(sheet_.columns.begin(), sheet_.columns.end(), [&](const ColumnSettings& said) {
          return said.uncertainty && matches_pattern(column.symbol, said.symbol);
        });
    if (column.uncertain_cells == 0 || told) return;
    diagnostics_.add(Code::cell_uncertainties,
                     {column.symbol, result_.table.file, std::to_string(column.uncertain_cells),
                      column.first_uncertain.text, std::to_string(column.first_uncertain.line)});
  }

  void settle_duration(const Place& place, Column& column, CellRules& rules) {
    if (!column.unit_stated) {
      column.unit = second();
      column.unit_stated = true;
    }
    if (!(column.unit.dimension == second().dimension)) {
      diagnostics_.add(Code::duration_unit, place, {column.symbol, column.unit.text()});
      return;
    }
    column.holds_clocks = true;
    rules.second = conversion(second(), column.unit)(1);
  }

  Column column_of(const Heading& heading) {
    Column column;
    column.symbol = heading.symbol;
    column.header = heading.header;
    column.label = heading.label.empty() ? heading.symbol : heading.label;
    column.unit = heading.unit;
    column.unit_stated = heading.unit_stated;
    column.keeps_limits = true;
    column.origin = origins_.add(sheet_.name, column.symbol);
    return column;
  }

  // Columns without rows, which stay in their files.
  void leave_in_file() {
    left_ = std::make_shared<LeftInFile>();
    left_->name = result_.table.file;
    left_->files = result_.table.files;
    for (const RawTable& raw : tables_) left_tables_.push_back({raw.left_in_file, {}});
    for (const Stacked& stacked : stacked_) {
      Column column = column_of(stacked.heading);
      CellRules rules = rules_for(stacked.heading, column);
      look_for_units(first_cells(stacked), stacked.heading, column, rules);
      for (std::size_t i = 0; i < tables_.size(); ++i) {
        StackedCells cells;
        if (stacked.in_table[i] != Stacked::kAbsent) cells.place = stacked.in_table[i];
        left_tables_[i].columns.push_back(std::move(cells));
      }
      add_left_column(std::move(column), std::move(rules));
    }
  }

  void add_left_column(Column column, CellRules rules) {
    column.storage = storage_;
    column.in_source = left_->rules.size();
    left_->rules.push_back(std::move(rules));
    result_.table.columns.push_back(std::move(column));
  }

  // Some cells of a column that is left, in the first table that has it and rows.
  std::vector<std::string_view> first_cells(const Stacked& stacked) {
    first_rows_.resize(tables_.size());
    for (std::size_t i = 0; i < tables_.size(); ++i) {
      const auto& source = tables_[i].left_in_file;
      if (stacked.in_table[i] == Stacked::kAbsent || !source) continue;
      RawRows& rows = first_rows_[i];
      if (rows.columns.empty()) {
        const std::vector<std::size_t> cuts = source->cuts();
        source->read(cuts[0], cuts[1], 0, rows);
      }
      return rows.columns[stacked.in_table[i]];
    }
    return {};
  }

  // Finds out what the columns are whose cells stay in their files.
  void look_through_files() {
    Table& table = result_.table;
    const bool as_it_is = tables_.size() == 1 && left_->rules.size() == stacked_.size();
    left_->source = as_it_is ? tables_.front().left_in_file : stack_tables(std::move(left_tables_));
    std::vector<Column*> columns;
    for (Column& column : table.columns) columns.push_back(&column);
    result_.rows_are_plain = survey_rows(*left_, columns, look_);
    if (!result_.rows_are_plain) return;
    table.rows = table.source_count = left_->rows();
    for (Column& column : table.columns) {
      settle_unreadable(column);
      report_cells(column);
    }
    result_.left_in_file = std::move(left_);
  }

  // A column of cells that are the same in all rows of a table.
  void add_cells_of_tables(Column column, const CellRules& rules,
                           const std::shared_ptr<std::vector<std::string>>& texts) {
    if (left_) {
      for (std::size_t i = 0; i < tables_.size(); ++i)
        left_tables_[i].columns.push_back({std::nullopt, (*texts)[i]});
      return add_left_column(std::move(column), rules);
    }
    std::vector<std::string_view> cells;
    cells.reserve(result_.table.rows);
    for (std::size_t i = 0; i < tables_.size(); ++i)
      cells.insert(cells.end(), tables_[i].rows(), (*texts)[i]);
    type_cells(column, cells, lines_, rules);
    column.storage = texts;
    keep(std::move(column));
  }

  void add_column(const Stacked& stacked) {
    Column column = column_of(stacked.heading);
    column.storage = storage_;
    CellRules rules = rules_for(stacked.heading, column);
    const std::size_t first = first_table(stacked);
    look_for_units(tables_[first].columns[stacked.in_table[first]], stacked.heading, column, rules);
    if (tables_.size() == 1) {
      std::vector<std::string_view>& cells = tables_.front().columns[stacked.in_table.front()];
      type_cells(column, cells, lines_, rules);
      cells = {};
    } else {
      std::vector<std::string_view> cells;
      cells.reserve(result_.table.rows);
      for (std::size_t i = 0; i < tables_.size(); ++i) {
        const std::size_t place = stacked.in_table[i];
        if (place == Stacked::kAbsent) {
          cells.resize(cells.size() + tables_[i].rows());
        } else {
          std::vector<std::string_view>& own = tables_[i].columns[place];
          cells.insert(cells.end(), own.begin(), own.end());
          own = {};
        }
      }
      type_cells(column, cells, lines_, rules);
    }
    if (const auto& there = tables_.front().left_in_database) {
      column.in_source = stacked.in_table.front();
      column.clock = column.kind == Kind::date && there->columns[*column.in_source].type != kDateType;
    }
    keep(std::move(column));
  }

  // Says of each row from which file it comes.
  void add_source_column() {
    Heading heading;
    heading.symbol = kSourceColumn;
    Column column = column_of(heading);
    report_if_taken(column.symbol, {});
    CellRules rules;
    rules.kind = Kind::text;
    add_cells_of_tables(std::move(column), rules,
                        std::make_shared<std::vector<std::string>>(result_.table.files));
  }

  // A column from the lines before the tables: the same in all rows of a file.
  void add_preamble_column(const PreambleModel& model) {
    std::vector<PreambleLine> lines;
    for (const RawTable& raw : tables_) {
      const auto line = find_in_preamble(raw.before, model.line.text(), sheet_.read.style, units_);
      if (!line) {
        std::vector<std::string> names;
        for (const PreambleLine& other : preamble_lines(raw.before, sheet_.read.style, units_))
          names.push_back(other.name);
        diagnostics_.add(Code::preamble_missing, model.line.place(),
                         {model.line.text(), raw.file, nearest_name(model.line.text(), names)});
        return;
      }
      if (!line->unknown_unit.empty())
        diagnostics_.add(Code::preamble_unit, model.line.place(),
                         {model.symbol, raw.file, line->unknown_unit});
      lines.push_back(*line);
    }
    Heading heading;
    heading.symbol = model.symbol;
    heading.header = model.line.text();
    heading.label = model.line.text();
    const bool numbers = std::all_of(lines.begin(), lines.end(),
                                     [](const PreambleLine& line) { return line.number.has_value(); });
    if (numbers) {
      heading.unit = lines.front().unit.value_or(Unit());
      heading.unit_stated = lines.front().unit.has_value();
    }
    for (const ColumnSettings& settings : sheet_.columns) {
      if (matches_pattern(model.symbol, settings.symbol)) heading.settings = &settings;
    }
    if (heading.settings != nullptr && heading.settings->label) heading.label = *heading.settings->label;
    const Unit written = heading.unit;
    settle_unit(heading, units_, diagnostics_);
    auto values = std::make_shared<std::vector<std::string>>();
    for (std::size_t i = 0; i < lines.size(); ++i) {
      const Unit own = lines[i].unit.value_or(Unit());
      if (numbers && mismatch(own, written)) {
        diagnostics_.add(Code::preamble_differs, model.line.place(),
                         {model.symbol, written.text(), tables_.front().file, own.text(), tables_[i].file});
        return;
      }
      const bool as_written = !numbers || same_scale(own, written);
      values->push_back(as_written ? lines[i].value
                                   : number_text(conversion(own, written)(*lines[i].number), -1));
    }
    report_if_taken(model.symbol, model.place);
    Column column = column_of(heading);
    CellRules rules;
    rules.style = sheet_.read.style;
    if (!numbers && sheet_.read.date_format) rules.date_format = format_of(*sheet_.read.date_format);
    add_cells_of_tables(std::move(column), rules, values);
  }

  // A column whose cells stand in the study.
  void add_typed_column(const ColumnSettings& settings) {
    if (settings.values->size() != result_.table.rows) {
      diagnostics_.add(Code::values_length, settings.place,
                       {settings.symbol, std::to_string(settings.values->size()), result_.table.file,
                        std::to_string(result_.table.rows)});
      return;
    }
    Heading heading;
    heading.symbol = settings.symbol;
    heading.label = settings.label.value_or(settings.symbol);
    heading.settings = &settings;
    settle_unit(heading, units_, diagnostics_);
    Column column = column_of(heading);
    CellRules rules = rules_for(heading, column);
    rules.style = {};
    const std::vector<std::string_view> cells(settings.values->begin(), settings.values->end());
    type_cells(column, cells, lines_, rules);
    report_if_taken(column.symbol, settings.place);
    keep(std::move(column));
  }

  void settle_unreadable(Column& column) const {
    if (!sheet_.read.unreadable_is_null) return;
    column.unreadable_is_null = true;
    column.unreadable_count = 0;
  }

  void report_if_taken(const std::string& symbol, const Place& place) {
    if (result_.table.find(symbol) != nullptr) diagnostics_.add(Code::symbol_twice, place, {symbol});
  }

  void keep(Column column) {
    settle_unreadable(column);
    report_cells(column);
    for (UnreadableCell& cell : column.unreadable) cell.file = result_.table.source_of(cell.row);
    result_.table.columns.push_back(std::move(column));
  }

  const SheetModel& sheet_;
  std::vector<RawTable>& tables_;  ///< whose cells are let go as they are taken up
  const UnitSystem& units_;
  Origins& origins_;
  LookedAt look_;
  Diagnostics& diagnostics_;
  std::vector<Stacked> stacked_;
  std::set<std::string> reported_formats_;
  std::shared_ptr<const void> storage_;
  std::vector<std::size_t> lines_;  ///< of the source, per row
  SheetTable result_;
  /// Where rows are left in their files.
  std::shared_ptr<LeftInFile> left_;
  std::vector<StackedTable> left_tables_;
  std::vector<RawRows> first_rows_;  ///< by table, of those that were looked at
};

}  // namespace

SheetTable build_table(const SheetModel& sheet, std::vector<RawTable> tables, const UnitSystem& units,
                       Origins& origins, LookedAt look, Diagnostics& diagnostics) {
  return TableBuilder(sheet, tables, units, origins, look, diagnostics).run();
}

}  // namespace opensum
