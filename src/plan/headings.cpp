// The headers of one table of text.
#include "plan/headings.h"

#include <algorithm>
#include <map>
#include <set>

#include "equation/checker.h"
#include "message/nearest.h"
#include "message/quoting.h"
#include "table/header.h"
#include "table/like_names.h"
#include "table/number_text.h"

namespace opensum {
namespace {

class HeadingReader {
 public:
  HeadingReader(const SheetModel& sheet, const RawTable& raw, const UnitSystem& units,
                Diagnostics& diagnostics)
      : sheet_(sheet), raw_(raw), units_(units), diagnostics_(diagnostics) {}

  Headings run() {
    read_headers();
    apply_settings();
    report_repeated();
    warn_of_doubts();
    warn_of_layout();
    settle_units();
    return std::move(result_);
  }

 private:
  void read_headers() {
    std::vector<std::string> symbols;
    readings_ = opensum::read_headers(raw_.headers, units_);
    for (std::size_t i = 0; i < raw_.headers.size(); ++i) {
      Heading heading;
      heading.header = raw_.headers[i];
      HeaderReading& reading = readings_[i];
      read_units_row(i, reading);
      heading.symbol = symbol_of(reading.label);
      heading.label = reading.label;
      heading.unit = reading.unit;
      heading.unit_stated = reading.unit_stated;
      if (i < raw_.metadata.size() && raw_.metadata[i]) describe(heading, *raw_.metadata[i], reading);
      if (heading.symbol.empty()) heading.symbol = "column_" + std::to_string(i + 1);
      symbols.push_back(heading.symbol);
      result_.columns.push_back(std::move(heading));
    }
    number_repeated(symbols);
    for (std::size_t i = 0; i < symbols.size(); ++i) {
      std::string& symbol = result_.columns[i].symbol;
      if (symbols[i] != symbol) result_.shared_symbols[symbol].push_back(symbols[i]);
      symbol = symbols[i];
    }
  }

  // What metadata say holds, whatever the header looks like.
  void describe(Heading& heading, const ColumnMetadata& metadata, HeaderReading& reading) {
    heading.metadata = &metadata;
    reading.doubt = HeaderDoubt::none;
    if (!metadata.symbol.empty()) heading.symbol = symbol_of(metadata.symbol);
    if (!metadata.label.empty()) heading.label = metadata.label;
    if (!metadata.unit) return;
    const UnitReading unit = units_.read(*metadata.unit);
    if (!unit.unit) {
      diagnostics_.add(Code::metadata_unit, {*metadata.unit, heading.symbol, raw_.file, unit.suggestion});
      return;
    }
    heading.unit = *unit.unit;
    heading.unit_stated = true;
  }

  // The unit that stands in the units row, with or without brackets. It wins over the header's.
  void read_units_row(std::size_t i, HeaderReading& reading) {
    if (i >= raw_.units.size()) return;
    std::string_view text = raw_.units[i];
    if (text.size() > 1 &&
        ((text.front() == '[' && text.back() == ']') || (text.front() == '(' && text.back() == ')'))) {
      text = trimmed(text.substr(1, text.size() - 2));
    }
    if (text.empty() || text == "-" || text == "--") return;
    const UnitReading unit = read_header_unit(text, units_);
    if (unit.unit) {
      if (reading.unit_stated && !same_scale(reading.unit, *unit.unit)) {
        diagnostics_.add(Code::units_row_wins, header_place(raw_, i),
                         {unit.unit->text(), raw_.headers[i], reading.bracketed});
        reading.label = std::string(trimmed(raw_.headers[i]));
      }
      reading.unit = *unit.unit;
      reading.unit_stated = true;
      reading.doubt = HeaderDoubt::none;
      return;
    }
    const std::string meant = units_.meant_by(text);
    diagnostics_.add(Code::units_row_unknown, Place{raw_.units_source, raw_.units_spans[i]},
                     {std::string(text), meant.empty() ? unit.suggestion : meant});
  }

  // What is said of a unit that a pattern states is said of the first column that it matches.
  void settle_units() {
    std::set<const ColumnSettings*> told;
    for (Heading& heading : result_.columns) {
      Diagnostics told_already;
      const bool pattern = heading.settings != nullptr && heading.settings->is_pattern();
      const bool first = !pattern || told.insert(heading.settings).second;
      settle_unit(heading, units_, first ? diagnostics_ : told_already);
    }
  }

  Heading* find(const ColumnSettings& settings) {
    std::vector<Heading>& headings = result_.columns;
    if (settings.number) {
      return *settings.number >= 1 && *settings.number <= headings.size() ? &headings[*settings.number - 1]
                                                                          : nullptr;
    }
    const std::string wanted = settings.header ? settings.header->text() : settings.symbol;
    for (const auto name : {&Heading::header, &Heading::symbol, &Heading::label}) {
      for (Heading& heading : headings) {
        if (heading.*name == wanted) return &heading;
      }
    }
    return nullptr;
  }

  void apply_settings() {
    for (const ColumnSettings& settings : sheet_.columns) {
      if (settings.values || settings.is_pattern()) continue;
      // Derived columns are described in the same place; they are found among the equations later.
      Heading* heading = find(settings);
      if (heading == nullptr) {
        unmatched(settings);
        continue;
      }
      heading->settings = &settings;
      heading->symbol = settings.symbol;
      if (settings.label) heading->label = *settings.label;
    }
    for (const ColumnSettings& settings : sheet_.columns) {
      if (settings.is_pattern()) apply_pattern(settings);
    }
  }

  // Gives the settings to all columns that have none of their own.
  void apply_pattern(const ColumnSettings& settings) {
    bool used = false;
    for (Heading& heading : result_.columns) {
      if (!matches_pattern(heading.symbol, settings.symbol)) continue;
      used = true;
      if (heading.settings == nullptr) heading.settings = &settings;
    }
    if (!used) result_.unmatched.push_back(&settings);
  }

  void unmatched(const ColumnSettings& settings) {
    if (settings.number) {
      diagnostics_.add(Code::header_not_found, settings.place,
                       {std::to_string(*settings.number), raw_.file, ""});
      return;
    }
    std::vector<std::string> known;
    for (const Heading& heading : result_.columns) {
      known.push_back(heading.label);
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

  void report_repeated() {
    std::map<std::string, const Heading*> known;
    for (const Heading& heading : result_.columns) {
      const auto [first, is_new] = known.emplace(heading.symbol, &heading);
      if (is_new) continue;
      const ColumnSettings* settings =
          heading.settings != nullptr ? heading.settings : first->second->settings;
      diagnostics_.add(Code::symbol_twice, settings != nullptr ? settings->place : Place{}, {heading.symbol});
    }
  }

  void warn_of_doubts() {
    const std::vector<Heading>& headings = result_.columns;
    for (const auto& [symbol, numbered] : result_.shared_symbols) {
      std::size_t first = 0;
      while (first + 1 < headings.size() && headings[first].symbol != numbered.front()) ++first;
      diagnostics_.add(Code::shared_header, header_place(raw_, first),
                       {std::to_string(numbered.size()), symbol, listed_names(numbered)});
    }
    std::string told_apart;
    for (std::size_t i = 0; i < headings.size(); ++i) {
      const Heading& heading = headings[i];
      if (heading.settings != nullptr && heading.settings->unit) continue;
      const HeaderReading& reading = readings_[i];
      const Place place = header_place(raw_, i);
      switch (reading.doubt) {
        case HeaderDoubt::none:
          break;
        case HeaderDoubt::nearly_unit:
          diagnostics_.add(Code::header_nearly_unit, place,
                           {reading.bracketed, heading.header, reading.meant, heading.symbol});
          break;
        case HeaderDoubt::either:
          diagnostics_.add(Code::header_either, place,
                           {reading.bracketed, heading.header, reading.meant, heading.symbol});
          break;
        case HeaderDoubt::unknown_unit:
          diagnostics_.add(Code::header_unit_unknown, place,
                           {reading.bracketed, heading.header, advice(reading, heading.symbol)});
          break;
        case HeaderDoubt::label:
          told_apart += (told_apart.empty() ? "`" : ", `") + heading.header + '`';
          break;
        case HeaderDoubt::plain_number:
          diagnostics_.add(Code::header_plain_number, place, {reading.bracketed, heading.header});
          break;
      }
    }
    for (std::size_t i = 0; !told_apart.empty() && i < headings.size(); ++i) {
      if (readings_[i].doubt != HeaderDoubt::label) continue;
      diagnostics_.add(Code::header_is_label, header_place(raw_, i),
                       {told_apart, readings_[i].meant, headings[i].symbol});
      break;
    }
  }

  // Headers that are likely a row.
  void warn_of_layout() {
    const ReadSettings& read = sheet_.read;
    const bool found_header = !read.header_line && !read.no_header && raw_.header_line > 0;
    const auto is_number = [&](std::string_view text) {
      return read_number(trimmed(text), read.style).fault == NumberFault::none;
    };
    if (found_header && !raw_.headers.empty() && raw_.metadata.empty() &&
        std::all_of(raw_.headers.begin(), raw_.headers.end(), is_number)) {
      diagnostics_.add(Code::header_of_numbers, header_place(raw_, 0),
                       {raw_.file, std::to_string(raw_.header_line)});
    }
  }

  // What to say about a unit that is none that is known.
  static std::string advice(const HeaderReading& reading, const std::string& symbol) {
    if (!reading.meant.empty())
      return "say unit = " + toml_quoted(reading.meant) + " for the column " + symbol;
    if (!reading.choices.empty()) return "say its unit for the column " + symbol + ": " + reading.choices;
    return "say unit = \"…\" for the column " + symbol + ", or define it under [units]";
  }

  const SheetModel& sheet_;
  const RawTable& raw_;
  const UnitSystem& units_;
  Diagnostics& diagnostics_;
  std::vector<HeaderReading> readings_;
  Headings result_;
};

}  // namespace

Place header_place(const RawTable& raw, std::size_t column) {
  if (!raw.header_source || column >= raw.header_spans.size()) return {};
  return {raw.header_source, raw.header_spans[column]};
}

void settle_unit(Heading& heading, const UnitSystem& units, Diagnostics& diagnostics) {
  if (heading.settings == nullptr || !heading.settings->unit) return;
  const Passage& text = *heading.settings->unit;
  const UnitReading reading = units.read(text.text());
  if (!reading.unit) {
    report_unit_fault(reading, text, {0, text.text().size()}, diagnostics);
    return;
  }
  if (heading.unit_stated && !same_scale(heading.unit, *reading.unit)) {
    const std::string& name = heading.settings->is_pattern() ? heading.settings->symbol : heading.symbol;
    diagnostics.add(Code::header_unit_replaced, text.place(),
                    {name, heading.unit.text(), reading.unit->text()});
  }
  heading.unit = *reading.unit;
  heading.unit_stated = true;
}

Headings read_headings(const SheetModel& sheet, const RawTable& raw, const UnitSystem& units,
                       Diagnostics& diagnostics) {
  return HeadingReader(sheet, raw, units, diagnostics).run();
}

}  // namespace opensum
