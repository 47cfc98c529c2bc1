// From a table of text to typed, named columns with units.
#include "study/sheet_table.h"

#include <algorithm>
#include <numeric>

#include "equation/checker.h"
#include "message/nearest.h"
#include "table/header.h"
#include "table/number_text.h"
#include "table/typing.h"

namespace opensum {
namespace {

// A column while its names and unit are being settled.
struct Heading {
  std::string header;
  HeaderReading reading;
  std::string symbol;
  const ColumnSettings* settings = nullptr;
};

class TableBuilder {
 public:
  TableBuilder(const SheetModel& sheet, const RawTable& raw, const UnitSystem& units, Origins& origins,
               Diagnostics& diagnostics)
      : sheet_(sheet), raw_(raw), units_(units), origins_(origins), diagnostics_(diagnostics) {}

  SheetTable run() {
    read_headings();
    apply_settings();
    name_columns();
    warn_of_doubts();
    result_.table.name = sheet_.name;
    result_.table.file = raw_.file;
    result_.table.rows = raw_.rows();
    result_.table.lines = raw_.lines;
    result_.table.source_count = raw_.rows();
    result_.table.source_rows.resize(raw_.rows());
    std::iota(result_.table.source_rows.begin(), result_.table.source_rows.end(), std::size_t{0});
    for (std::size_t i = 0; i < headings_.size(); ++i) add_column(i);
    for (const ColumnSettings& settings : sheet_.columns) {
      if (settings.values) add_typed_column(settings);
    }
    return std::move(result_);
  }

 private:
  void read_headings() {
    for (const std::string& header : raw_.headers) {
      Heading heading;
      heading.header = header;
      heading.reading = read_header(header, units_);
      if (!heading.reading.unit_stated) read_units_row(headings_.size(), heading.reading);
      heading.symbol = symbol_of(heading.reading.label);
      headings_.push_back(std::move(heading));
    }
    std::vector<std::string> symbols;
    for (std::size_t i = 0; i < headings_.size(); ++i) {
      std::string& symbol = headings_[i].symbol;
      if (symbol.empty()) symbol = "column_" + std::to_string(i + 1);
      symbols.push_back(symbol);
    }
    number_repeated(symbols);
    for (std::size_t i = 0; i < headings_.size(); ++i) {
      if (symbols[i] != headings_[i].symbol)
        result_.shared_symbols[headings_[i].symbol].push_back(symbols[i]);
      headings_[i].symbol = symbols[i];
    }
  }

  // The unit that stands in the units row, with or without brackets.
  void read_units_row(std::size_t i, HeaderReading& reading) {
    if (i >= raw_.units.size()) return;
    std::string_view text = raw_.units[i];
    if (text.size() > 1 &&
        ((text.front() == '[' && text.back() == ']') || (text.front() == '(' && text.back() == ')'))) {
      text = trimmed(text.substr(1, text.size() - 2));
    }
    if (text.empty() || text == "-" || text == "--") return;
    const UnitReading unit = units_.read(text);
    if (unit.unit) {
      reading.unit = *unit.unit;
      reading.unit_stated = true;
      reading.doubt = HeaderDoubt::none;
      return;
    }
    const std::string meant = units_.meant_by(text);
    diagnostics_.add(Code::units_row_unknown, Place{raw_.units_source, raw_.units_spans[i]},
                     {std::string(text), meant.empty() ? unit.suggestion : meant});
  }

  Heading* find(const ColumnSettings& settings) {
    if (settings.number) {
      return *settings.number >= 1 && *settings.number <= headings_.size() ? &headings_[*settings.number - 1]
                                                                           : nullptr;
    }
    const std::string wanted = settings.header ? settings.header->text() : settings.symbol;
    for (const auto name : {&Heading::header, &Heading::symbol}) {
      for (Heading& heading : headings_) {
        if (heading.*name == wanted) return &heading;
      }
    }
    for (Heading& heading : headings_) {
      if (heading.reading.label == wanted) return &heading;
    }
    return nullptr;
  }

  void apply_settings() {
    for (const ColumnSettings& settings : sheet_.columns) {
      if (settings.values) continue;
      // Derived columns are described in the same place; they are found among the equations later.
      Heading* heading = find(settings);
      if (heading == nullptr) {
        unmatched(settings);
        continue;
      }
      heading->settings = &settings;
      heading->symbol = settings.symbol;
      if (settings.label) heading->reading.label = *settings.label;
    }
  }

  void unmatched(const ColumnSettings& settings) {
    if (settings.number) {
      diagnostics_.add(Code::header_not_found, settings.place,
                       {std::to_string(*settings.number), raw_.file, ""});
      return;
    }
    std::vector<std::string> known;
    for (const Heading& heading : headings_) {
      known.push_back(heading.reading.label);
      known.push_back(heading.header);
      known.push_back(heading.symbol);
    }
    if (settings.header) {
      diagnostics_.add(Code::header_not_found, settings.header->place(),
                       {settings.header->text(), raw_.file, nearest_name(settings.header->text(), known)});
      return;
    }
    result_.unmatched.push_back(&settings);
  }

  void name_columns() {
    for (std::size_t i = 0; i < headings_.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) {
        if (headings_[i].symbol != headings_[j].symbol) continue;
        const ColumnSettings* settings =
            headings_[i].settings != nullptr ? headings_[i].settings : headings_[j].settings;
        diagnostics_.add(Code::symbol_twice, settings != nullptr ? settings->place : Place{},
                         {headings_[i].symbol});
      }
    }
  }

  Place header_place(std::size_t i) const {
    if (!raw_.header_source || i >= raw_.header_spans.size()) return {};
    return {raw_.header_source, raw_.header_spans[i]};
  }

  void warn_of_doubts() {
    for (const auto& [symbol, numbered] : result_.shared_symbols) {
      std::string list;
      std::size_t first = 0;
      for (const std::string& name : numbered) list += (list.empty() ? "" : ", ") + name;
      while (first + 1 < headings_.size() && headings_[first].symbol != numbered.front()) ++first;
      diagnostics_.add(Code::shared_header, header_place(first),
                       {std::to_string(numbered.size()), symbol, list});
    }
    for (std::size_t i = 0; i < headings_.size(); ++i) {
      const Heading& heading = headings_[i];
      if (heading.settings != nullptr && heading.settings->unit) continue;
      const HeaderReading& reading = heading.reading;
      switch (reading.doubt) {
        case HeaderDoubt::none:
          break;
        case HeaderDoubt::nearly_unit:
          diagnostics_.add(Code::header_nearly_unit, header_place(i),
                           {reading.bracketed, heading.header, reading.meant, heading.symbol});
          break;
        case HeaderDoubt::single_letter:
          diagnostics_.add(Code::header_single_letter, header_place(i),
                           {reading.bracketed, heading.header, reading.meant, heading.symbol});
          break;
        case HeaderDoubt::plain_number:
          diagnostics_.add(Code::header_plain_number, header_place(i), {reading.bracketed, heading.header});
          break;
      }
    }
  }

  void settle_unit(Column& column, const Heading& heading) {
    column.unit = heading.reading.unit;
    column.unit_stated = heading.reading.unit_stated;
    if (heading.settings == nullptr || !heading.settings->unit) return;
    const Passage& text = *heading.settings->unit;
    const UnitReading reading = units_.read(text.text());
    if (!reading.unit) {
      report_unit_fault(reading, text, {0, text.text().size()}, diagnostics_);
      return;
    }
    if (column.unit_stated && !same_scale(column.unit, *reading.unit)) {
      diagnostics_.add(Code::header_unit_replaced, text.place(),
                       {heading.symbol, column.unit.text(), reading.unit->text()});
    }
    column.unit = *reading.unit;
    column.unit_stated = true;
  }

  // How the cells of a column are read; `settings` may be a null pointer. The column's unit is settled.
  CellRules rules_for(const ColumnSettings* settings, Column& column) {
    CellRules rules;
    const ReadSettings& read = sheet_.read;
    rules.missing = read.missing.value_or(default_missing());
    rules.style = read.style;
    rules.date_format = read.date_format.value_or("");
    if (settings != nullptr) {
      if (settings->missing) rules.missing = *settings->missing;
      rules.kind = settings->kind;
      if (settings->format) {
        rules.date_format = *settings->format;
        rules.kind = Kind::date;
      }
      if (settings->duration) settle_duration(*settings, column, rules);
      column.digits = settings->digits.value_or(0);
    }
    rules.missing.insert(rules.missing.end(), read.missing_also.begin(), read.missing_also.end());
    return rules;
  }

  void settle_duration(const ColumnSettings& settings, Column& column, CellRules& rules) {
    if (!column.unit_stated) {
      column.unit = second();
      column.unit_stated = true;
    }
    if (!(column.unit.dimension == second().dimension)) {
      diagnostics_.add(Code::duration_unit, settings.place, {column.symbol, column.unit.text()});
      return;
    }
    rules.second = conversion(second(), column.unit)(1);
  }

  void add_column(std::size_t i) {
    const Heading& heading = headings_[i];
    Column column;
    column.symbol = heading.symbol;
    column.header = heading.header;
    column.label = heading.reading.label.empty() ? heading.symbol : heading.reading.label;
    column.storage = raw_.storage;
    column.origin = origins_.add(sheet_.name, column.symbol);
    settle_unit(column, heading);
    const CellRules rules = rules_for(heading.settings, column);
    type_cells(column, raw_.columns[i], raw_.lines, rules);
    keep(std::move(column));
  }

  // A column whose cells stand in the study.
  void add_typed_column(const ColumnSettings& settings) {
    if (settings.values->size() != raw_.rows()) {
      diagnostics_.add(
          Code::values_length, settings.place,
          {settings.symbol, std::to_string(settings.values->size()), raw_.file, std::to_string(raw_.rows())});
      return;
    }
    Heading heading;
    heading.symbol = settings.symbol;
    heading.settings = &settings;
    Column column;
    column.symbol = settings.symbol;
    column.label = settings.label.value_or(settings.symbol);
    column.origin = origins_.add(sheet_.name, column.symbol);
    settle_unit(column, heading);
    CellRules rules = rules_for(&settings, column);
    rules.style = {};
    const std::vector<std::string_view> cells(settings.values->begin(), settings.values->end());
    type_cells(column, cells, raw_.lines, rules);
    for (const Column& other : result_.table.columns) {
      if (other.symbol == column.symbol)
        diagnostics_.add(Code::symbol_twice, settings.place, {column.symbol});
    }
    keep(std::move(column));
  }

  void keep(Column column) {
    if (sheet_.read.unreadable_is_null) column.unreadable_count = 0;
    result_.table.columns.push_back(std::move(column));
  }

  const SheetModel& sheet_;
  const RawTable& raw_;
  const UnitSystem& units_;
  Origins& origins_;
  Diagnostics& diagnostics_;
  std::vector<Heading> headings_;
  SheetTable result_;
};

}  // namespace

SheetTable build_table(const SheetModel& sheet, const RawTable& raw, const UnitSystem& units,
                       Origins& origins, Diagnostics& diagnostics) {
  return TableBuilder(sheet, raw, units, origins, diagnostics).run();
}

}  // namespace opensum
