// Reading a study from its TOML file.
#include "files/study_reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <functional>
#include <map>
#include <set>

#include "base/result.h"
#include "files/database_address.h"
#include "files/formats.h"
#include "files/key_reader.h"
#include "files/line_form.h"
#include "files/plot_reader.h"
#include "files/shared_files.h"
#include "files/toml_text.h"
#include "message/nearest.h"
#include "plan/definitions.h"
#include "table/header.h"

namespace opensum {
namespace {

// The formats in which results can be written, as a sentence lists them.
std::string format_names() {
  std::vector<std::string> names;
  for (const WrittenFormat& format : written_formats()) {
    if (format.in_studies) names.push_back(fmt::format("\"{}\"", format.name));
  }
  const std::string last = names.back();
  names.pop_back();
  return fmt::format("{} or {}", fmt::join(names, ", "), last);
}

class StudyReader : private KeyReader {
 public:
  StudyReader(const TomlText& toml, const Library& library, Diagnostics& diagnostics)
      : KeyReader(toml, diagnostics), library_(library) {}

  Study run() {
    collect_names("template");
    collect_names("sheet");
    read_table(toml_.root(),
               {{"title", [&](const Entry& e) { read_string(e, study_.title); }},
                {"output", [&](const Entry& e) { read_output(e); }},
                {"use", [&](const Entry& e) { passages_of(e); }},
                {"constants", [&](const Entry& e) { read_passage(e, study_.constants); }},
                {"formulas", [&](const Entry& e) { read_passage(e, study_.formulas); }},
                {"units", [&](const Entry& e) { read_units(e); }},
                {"nulls", [&](const Entry& e) { read_nulls(e); }},
                {"headers", [&](const Entry& e) { study_.headers_are_symbols = read_headers(e); }},
                {"write", [&](const Entry& e) { study_.write = read_write(e); }},
                {"claims_are", [&](const Entry& e) { study_.claims_are_warnings = read_claims_are(e); }},
                {"nulls_of",
                 [&](const Entry& e) {
                   study_.nulls_of_all = word_of(e, {"used", "all"}) == 1;
                 }},
                {"budget", [&](const Entry& e) { study_.budgets = passages_of(e); }},
                {"coverage", [&](const Entry& e) { read_coverage(e); }},
                {"template", [&](const Entry& e) { read_named(e, [&](const Entry& t) { read_sheet(t); }); }},
                {"sheet", [&](const Entry& e) { read_named(e, [&](const Entry& s) { add_sheet(s); }); }},
                {"fit", [&](const Entry& e) { read_named(e, [&](const Entry& f) { read_fit(f); }); }},
                {"plot", [&](const Entry& e) {
                   read_named(e, [&](const Entry& p) {
                     if (auto plot = read_plot(p, toml_, diagnostics_))
                       study_.plots.push_back(std::move(*plot));
                   });
                 }}});
    return std::move(study_);
  }

  /// A file that other studies use: only what they can share.
  void read_library(Library& library) {
    collect_names("template");
    read_table(toml_.root(), {{"use", [&](const Entry& e) { passages_of(e); }},
                              {"constants", [&](const Entry& e) { read_passage(e, library.constants); }},
                              {"formulas", [&](const Entry& e) { read_passage(e, library.formulas); }},
                              {"units",
                               [&](const Entry& e) {
                                 read_units(e);
                                 library.units.insert(library.units.end(), study_.units.begin(),
                                                      study_.units.end());
                               }},
                              {"template", [&](const Entry& e) {
                                 read_named(e, [&](const Entry& t) {
                                   if (const SheetModel* model = read_sheet(t))
                                     library.templates[t.key] = *model;
                                 });
                               }}});
  }

 private:
  // Sheets and templates by their names, so that `like` may name later ones.
  void collect_names(const char* key) {
    const toml::node* node = toml_.root().get(key);
    if (node == nullptr || !node->is_table()) return;
    for (const Entry& named : toml_.entries(*node->as_table())) {
      const auto [found, is_new] = by_name_.try_emplace(named.key, named);
      if (!is_new) diagnostics_.add(Code::name_twice, named.place, {named.key});
    }
  }

  void read_output(const Entry& entry) {
    const auto folder = passage_of(entry);
    if (!folder) return;
    if (folder->text().empty()) {
      diagnostics_.add(Code::unknown_value, folder->place(),
                       {"", "a folder such as \"results\"; \".\" is that of the study"});
      return;
    }
    study_.output = folder->text();
  }

  bool read_headers(const Entry& entry) { return word_of(entry, {"label", "symbol"}) == 1; }

  bool read_claims_are(const Entry& entry) { return word_of(entry, {"errors", "warnings"}) == 1; }

  void read_links(const Entry& entry, std::vector<LinkModel>& links) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    for (const Entry& named : toml_.entries(*table)) {
      std::erase_if(links, [&](const LinkModel& l) { return l.name.text() == named.key; });
      LinkModel link;
      link.name = toml_.key_passage(named);
      if (named.value->is_string()) {
        if (!word_of(named, {"row"})) continue;
        link.by_row = true;
        link.how = LinkHow::row;
        links.push_back(std::move(link));
        continue;
      }
      const toml::table* settings = table_of(named);
      if (settings == nullptr) continue;
      read_table(*settings,
                 {{"sheet", [&](const Entry& e) { link.sheet = passage_of(e); }},
                  {"match", [&](const Entry& e) { link.match = passages_of(e); }},
                  {"how",
                   [&](const Entry& e) {
                     const auto how = word_of(e, {"row", "equal", "nearest", "previous", "interpolate"});
                     if (how) link.how = static_cast<LinkHow>(*how);
                   }},
                  {"within", [&](const Entry& e) { link.within = passage_of(e); }}});
      link.by_row = link.how == LinkHow::row;
      if (link.match.empty() && !link.by_row) {
        diagnostics_.add(Code::key_missing, named.place, {"match"});
        continue;
      }
      links.push_back(std::move(link));
    }
  }

  void read_fills(const Entry& entry, std::vector<FillModel>& fills) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    for (const Entry& fill : toml_.entries(*table)) {
      std::vector<Passage> rules = passages_of(fill);
      if (rules.empty()) continue;
      std::erase_if(fills, [&](const FillModel& f) { return f.symbol.text() == fill.key; });
      fills.push_back({toml_.key_passage(fill), std::move(rules)});
    }
  }

  void read_named(const Entry& entry, const std::function<void(const Entry&)>& read_one) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    for (const Entry& named : toml_.entries(*table)) {
      if (symbol_of(named.key) != named.key) {
        diagnostics_.add(Code::bad_name, named.place, {named.key});
        continue;
      }
      read_one(named);
    }
  }

  void read_units(const Entry& entry) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    for (const Entry& unit : toml_.entries(*table)) {
      if (auto definition = passage_of(unit)) {
        study_.units.push_back({toml_.key_passage(unit), std::move(*definition)});
      }
    }
  }

  void read_nulls(const Entry& entry) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    NullPolicy& policy = study_.policy;
    read_table(*table, {{"row",
                         [&](const Entry& e) {
                           policy.row_skips = word_of(e, {"propagate", "skip"}) == 1;
                         }},
                        {"column",
                         [&](const Entry& e) {
                           policy.column_skips = word_of(e, {"propagate", "skip"}) != 0;
                         }},
                        {"sequence",
                         [&](const Entry& e) {
                           policy.sequence_skips = word_of(e, {"propagate", "skip"}) == 1;
                         }},
                        {"divide_by_zero",
                         [&](const Entry& e) {
                           policy.divide_by_zero_is_error = word_of(e, {"null", "error"}) == 1;
                         }},
                        {"domain", [&](const Entry& e) {
                           policy.domain_is_error = word_of(e, {"null", "error"}) == 1;
                         }}});
  }

  // A sheet or template: what it is like first, then its own keys over that.
  const SheetModel* read_sheet(const Entry& entry) {
    const auto known = resolved_.find(entry.value);
    if (known != resolved_.end()) return &known->second;
    const toml::table* table = table_of(entry);
    if (table == nullptr) return nullptr;
    if (std::find(open_.begin(), open_.end(), entry.value) != open_.end()) {
      diagnostics_.add(Code::like_ring, entry.place, {entry.key});
      return nullptr;
    }
    open_.push_back(entry.value);
    SheetModel sheet;
    if (const toml::node* like = table->get("like")) inherit(*like, sheet);
    open_.pop_back();
    sheet.name = entry.key;
    sheet.place = entry.place;
    read_table(
        *table,
        {{"like", [](const Entry&) {}},
         {"without", [&](const Entry& e) { read_without(e, sheet); }},
         {"data",
          [&](const Entry& e) {
            forget_source(sheet);
            read_data(e, sheet);
          }},
         {"table",
          [&](const Entry& e) {
            forget_source(sheet);
            sheet.table = passage_of(e);
          }},
         {"rows",
          [&](const Entry& e) {
            forget_source(sheet);
            read_count(e, 1, sheet.rows.emplace(), kMostMadeRows);
          }},
         {"rows_of",
          [&](const Entry& e) {
            const auto take = sheet.take;
            const auto one_row_per = sheet.one_row_per;
            const auto one_row_per_cell = sheet.one_row_per_cell;
            forget_source(sheet);
            sheet.take = take;
            sheet.one_row_per = one_row_per;
            sheet.one_row_per_cell = one_row_per_cell;
            sheet.rows_of = passage_of(e);
          }},
         {"take", [&](const Entry& e) { sheet.take = passages_of(e); }},
         {"one_row_per", [&](const Entry& e) { sheet.one_row_per = passages_of(e); }},
         {"one_row_per_cell", [&](const Entry& e) { sheet.one_row_per_cell = passages_of(e); }},
         {"cell", [&](const Entry& e) { sheet.cell = passages_of(e); }},
         {"from_header", [&](const Entry& e) { sheet.from_header = passage_of(e); }},
         {"preamble", [&](const Entry& e) { read_preamble(e, sheet.preamble); }},
         {"write", [&](const Entry& e) { sheet.write = read_write(e); }},
         {"compute", [&](const Entry& e) { sheet.compute_in_database = read_where(e); }},
         {"sort_by", [&](const Entry& e) { sheet.sort_by = passages_of(e); }},
         {"show", [&](const Entry& e) { sheet.show = passages_of(e); }},
         {"read", [&](const Entry& e) { read_read(e, sheet.read); }},
         {"columns", [&](const Entry& e) { read_columns(e, sheet.columns); }},
         {"keep", [&](const Entry& e) { sheet.keep = passage_of(e); }},
         {"link", [&](const Entry& e) { read_links(e, sheet.links); }},
         {"fill", [&](const Entry& e) { read_fills(e, sheet.fills); }},
         {"equations", [&](const Entry& e) { read_lines(e, sheet.step, sheet.equations); }},
         {"claims", [&](const Entry& e) { read_lines(e, sheet.step, sheet.claims); }},
         {"claims_are", [&](const Entry& e) { sheet.claims_are_warnings = read_claims_are(e); }},
         {"headers", [&](const Entry& e) { sheet.headers_are_symbols = read_headers(e); }},
         {"guard_formulas", [&](const Entry& e) { read_truth(e, sheet.guards_formulas.emplace(false)); }}});
    return &resolved_.emplace(entry.value, std::move(sheet)).first->second;
  }

  // Takes over everything of the sheet or template that `like` names.
  void inherit(const toml::node& like, SheetModel& sheet) {
    const auto* name = like.as_string();
    if (name == nullptr) {
      diagnostics_.add(Code::wrong_type, toml_.place(like), {"like", "the name of a sheet or template"});
      return;
    }
    const SheetModel* parent = nullptr;
    const auto own = by_name_.find(name->get());
    const auto foreign = library_.templates.find(name->get());
    if (own != by_name_.end()) {
      parent = read_sheet(own->second);
    } else if (foreign != library_.templates.end()) {
      parent = &foreign->second;
    } else {
      std::vector<std::string> known;
      for (const auto& [key, entry] : by_name_) known.push_back(key);
      for (const auto& [key, model] : library_.templates) known.push_back(key);
      diagnostics_.add(Code::unknown_sheet, toml_.passage(*name).place(),
                       {name->get(), nearest_name(name->get(), known)});
    }
    if (parent == nullptr) return;
    sheet = *parent;
    ++sheet.step;
  }

  // Things inherited that are left out: keys, fill.x, link.x, columns.x, equations, claims.
  void read_without(const Entry& entry, SheetModel& sheet) {
    for (const Passage& passage : passages_of(entry)) {
      const std::string& name = passage.text();
      const std::size_t dot = name.find('.');
      const std::string rest = dot == std::string::npos ? "" : name.substr(dot + 1);
      const auto drop = [&](auto& list, auto name_of) {
        return std::erase_if(list, [&](const auto& item) { return name_of(item) == rest; }) > 0;
      };
      bool found = false;
      if (name == "keep") {
        found = sheet.keep.has_value();
        sheet.keep.reset();
      } else if (name == "sort_by" || name == "show") {
        std::vector<Passage>& list = name == "show" ? sheet.show : sheet.sort_by;
        found = !list.empty();
        list.clear();
      } else if (name.starts_with("fill.")) {
        found = drop(sheet.fills, [](const FillModel& f) { return f.symbol.text(); });
      } else if (name.starts_with("link.")) {
        found = drop(sheet.links, [](const LinkModel& l) { return l.name.text(); });
      } else if (name.starts_with("columns.")) {
        found = drop(sheet.columns, [](const ColumnSettings& c) { return c.symbol; });
      } else {
        found = inherits_line(sheet, name);
        sheet.without.push_back({name, sheet.step});
      }
      if (!found) diagnostics_.add(Code::without_nothing, passage.place(), {name, nearest_line(sheet, name)});
    }
  }

  // The names of the equations and claims that a sheet has so far.
  static std::vector<std::string> line_names(const SheetModel& sheet) {
    std::vector<std::string> names;
    Diagnostics reported_later;
    for (const Definition& d : read_definitions(sheet.equations, sheet.without, nullptr, reported_later)) {
      names.push_back(d.name);
    }
    for (const Claim& c : read_claims(sheet.claims, sheet.without, reported_later)) names.push_back(c.text);
    return names;
  }

  static bool inherits_line(const SheetModel& sheet, const std::string& name) {
    const std::vector<std::string> names = line_names(sheet);
    return std::find(names.begin(), names.end(), name) != names.end();
  }

  static std::string nearest_line(const SheetModel& sheet, const std::string& name) {
    std::vector<std::string> known = line_names(sheet);
    if (sheet.keep) known.emplace_back("keep");
    for (const FillModel& fill : sheet.fills) known.push_back("fill." + fill.symbol.text());
    for (const LinkModel& link : sheet.links) known.push_back("link." + link.name.text());
    return nearest_name(name, known);
  }

  void read_lines(const Entry& entry, std::size_t step, std::vector<Lines>& into) {
    if (auto passage = passage_of(entry)) into.push_back({std::move(*passage), step});
  }

  // A file, a list of files, or patterns of them.
  void read_data(const Entry& entry, SheetModel& sheet) {
    sheet.data = passages_of(entry);
    sheet.data_is_list = entry.value->is_array() ||
                         (sheet.data.size() == 1 && !is_database_address(sheet.data.front().text()) &&
                          sheet.data.front().text().find_first_of("*?[") != std::string::npos);
    if (sheet.data.empty() && entry.value->is_array()) wrong_type(entry, "a file, or a list of at least one");
  }

  // Where a sheet is computed.
  std::optional<bool> read_where(const Entry& entry) {
    const auto where = passage_of(entry);
    if (!where) return std::nullopt;
    if (where->text() == "database") return true;
    if (where->text() == "here") return false;
    diagnostics_.add(Code::unknown_value, where->place(), {where->text(), "database or here"});
    return std::nullopt;
  }

  // The formats in which results are written.
  std::vector<std::string> read_write(const Entry& entry) {
    std::vector<std::string> formats;
    for (const Passage& format : passages_of(entry)) {
      if (is_database_address(format.text())) {
        const DatabaseAddress address = database_address(format.text());
        if (address.table.empty())
          diagnostics_.add(Code::address_without_table, format.place(), {without_password(address.server)});
        formats.push_back(format.text());
        continue;
      }
      const WrittenFormat* known = format_named(format.text());
      if (known == nullptr || !known->in_studies) {
        diagnostics_.add(Code::unknown_value, format.place(), {format.text(), format_names()});
      } else {
        formats.push_back(format.text());
      }
    }
    return formats;
  }

  // A source of its own replaces the one that was inherited.
  static void forget_source(SheetModel& sheet) {
    sheet.data.clear();
    sheet.data_is_list = false;
    sheet.table.reset();
    sheet.rows.reset();
    sheet.rows_of.reset();
    sheet.take.reset();
    sheet.one_row_per.reset();
    sheet.one_row_per_cell.reset();
  }

  void read_preamble(const Entry& entry, std::vector<PreambleModel>& preamble) {
    read_named(entry, [&](const Entry& named) {
      std::erase_if(preamble, [&](const PreambleModel& p) { return p.symbol == named.key; });
      if (const auto line = passage_of(named)) preamble.push_back({named.key, named.place, *line});
    });
  }

  void add_sheet(const Entry& entry) {
    const SheetModel* sheet = read_sheet(entry);
    if (sheet == nullptr) return;
    const toml::table& table = *entry.value->as_table();
    std::size_t sources = 0;
    for (const char* key : {"rows", "rows_of", "table", "data"}) sources += table.contains(key) ? 1 : 0;
    if (sources > 1) diagnostics_.add(Code::sheet_of_two_sources, entry.place, {sheet->name});
    const bool names_cells = !sheet->cell.empty() || sheet->from_header;
    if (!sheet->rows_of && (sheet->take || sheet->one_row_per || sheet->one_row_per_cell)) {
      diagnostics_.add(Code::needs_rows_of, entry.place,
                       {sheet->take          ? "take"
                        : sheet->one_row_per ? "one_row_per"
                                             : "one_row_per_cell"});
    } else if (sheet->one_row_per && sheet->one_row_per_cell) {
      diagnostics_.add(Code::two_kinds_of_rows, entry.place, {});
    } else if (names_cells && !sheet->one_row_per_cell) {
      diagnostics_.add(Code::needs_one_row_per_cell, entry.place,
                       {sheet->cell.empty() ? "from_header" : "cell"});
    } else if (sheet->take && sheet->one_row_per) {
      diagnostics_.add(Code::take_of_groups,
                       sheet->take->empty() ? entry.place : sheet->take->front().place(), {});
    }
    if (sheet->data.empty() && !sheet->table && !sheet->rows && !sheet->rows_of) {
      if (sources == 0) diagnostics_.add(Code::sheet_without_data, entry.place, {sheet->name});
      return;
    }
    study_.sheets.push_back(*sheet);
  }

  void read_read(const Entry& entry, ReadSettings& read) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    read_table(*table, {{"skip_rows", [&](const Entry& e) { read_count(e, 0, read.skip_rows); }},
                        {"skip_end", [&](const Entry& e) { read_count(e, 0, read.skip_end); }},
                        {"header", [&](const Entry& e) { read_header_line(e, read); }},
                        {"units_row", [&](const Entry& e) { read_count(e, 1, read.units_row.emplace()); }},
                        {"encoding", [&](const Entry& e) { read_string(e, read.encoding.emplace()); }},
                        {"delimiter", [&](const Entry& e) { read_delimiter(e, read); }},
                        {"comment",
                         [&](const Entry& e) {
                           read_string(e, read.comment.emplace());
                           if (read.comment == "none") read.comment->clear();
                         }},
                        {"short_rows",
                         [&](const Entry& e) {
                           read.short_rows_are_null = word_of(e, {"error", "null"}) == 1;
                         }},
                        {"decimal_char", [&](const Entry& e) { read_character(e, read.style.decimal); }},
                        {"group_char", [&](const Entry& e) { read_string(e, read.style.group); }},
                        {"date_format", [&](const Entry& e) { read.date_format = passage_of(e); }},
                        {"missing", [&](const Entry& e) { read.missing = strings_of(e); }},
                        {"missing_also", [&](const Entry& e) { read.missing_also = strings_of(e); }},
                        {"unreadable", [&](const Entry& e) {
                           read.unreadable_is_null = word_of(e, {"error", "null"}) == 1;
                         }}});
    if (!read.style.is_possible()) {
      diagnostics_.add(Code::group_sign, entry.place, {read.style.group, std::string(1, read.style.decimal)});
    }
  }

  void read_header_line(const Entry& entry, ReadSettings& read) {
    const auto* word = entry.value->as_string();
    const auto* number = entry.value->as_integer();
    if (word != nullptr && word->get() == "none") {
      read.no_header = true;
    } else if (number != nullptr && number->get() >= 1) {
      read.header_line = static_cast<std::size_t>(number->get());
      read.second_header_line.reset();
    } else if (!read_two_header_lines(entry, read)) {
      wrong_type(entry, "the number of a line, from 1, two of them in a list, or \"none\"");
    }
  }

  static bool read_two_header_lines(const Entry& entry, ReadSettings& read) {
    const toml::array* lines = entry.value->as_array();
    if (lines == nullptr || lines->size() != 2) return false;
    const auto* first = lines->get(0)->as_integer();
    const auto* second = lines->get(1)->as_integer();
    if (first == nullptr || second == nullptr || first->get() < 1 || second->get() <= first->get())
      return false;
    read.header_line = static_cast<std::size_t>(first->get());
    read.second_header_line = static_cast<std::size_t>(second->get());
    return true;
  }

  void read_delimiter(const Entry& entry, ReadSettings& read) {
    const auto text = passage_of(entry);
    if (!text) return;
    read.delimiter = delimiter_of(text->text());
    if (!read.delimiter) wrong_type(entry, "one character, tab or blanks");
  }

  void read_character(const Entry& entry, char& into) {
    const auto text = passage_of(entry);
    if (!text) return;
    if (text->text().size() == 1) {
      into = text->text()[0];
    } else {
      wrong_type(entry, "one character");
    }
  }

  void read_columns(const Entry& entry, std::vector<ColumnSettings>& columns) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    for (const Entry& named : toml_.entries(*table)) {
      const bool pattern = is_pattern(named.key);
      if (!pattern && symbol_of(named.key) != named.key) {
        diagnostics_.add(Code::bad_name, named.place, {named.key});
        continue;
      }
      const toml::table* settings = table_of(named);
      if (settings == nullptr) continue;
      for (const char* key : {"header", "values", "label"}) {
        if (pattern && settings->contains(key))
          diagnostics_.add(Code::pattern_setting, named.place, {named.key, key});
      }
      const auto inherited = std::find_if(columns.begin(), columns.end(),
                                          [&](const ColumnSettings& c) { return c.symbol == named.key; });
      ColumnSettings column;
      if (inherited != columns.end()) column = *inherited;
      column.symbol = named.key;
      column.place = named.place;
      read_table(
          *settings,
          {{"header", [&](const Entry& e) { read_header_choice(e, column); }},
           {"unit", [&](const Entry& e) { column.unit = passage_of(e); }},
           {"label",
            [&](const Entry& e) {
              column.label.emplace();
              read_string(e, *column.label);
            }},
           {"kind",
            [&](const Entry& e) {
              const auto kind = word_of(e, {"number", "date", "truth", "text", "duration"});
              column.duration = kind == 4;
              if (kind) column.kind = static_cast<Kind>(column.duration ? 0 : *kind);
            }},
           {"format", [&](const Entry& e) { column.format = passage_of(e); }},
           {"values", [&](const Entry& e) { read_values(e, column); }},
           {"missing", [&](const Entry& e) { column.missing = strings_of(e); }},
           {"uncertainty", [&](const Entry& e) { read_uncertainty(e, column.uncertainty); }},
           {"uncertainty_shared", [&](const Entry& e) { read_uncertainty(e, column.uncertainty_shared); }},
           {"instrument", [&](const Entry& e) { column.instrument = passage_of(e); }},
           {"digits", [&](const Entry& e) { read_digits(e, column); }}});
      if (inherited != columns.end()) {
        *inherited = std::move(column);
      } else {
        columns.push_back(std::move(column));
      }
    }
  }

  void read_header_choice(const Entry& entry, ColumnSettings& column) {
    if (const auto* number = entry.value->as_integer()) {
      if (number->get() >= 1) {
        column.number = static_cast<std::size_t>(number->get());
        return;
      }
    } else if (const auto* text = entry.value->as_string()) {
      column.header = toml_.passage(*text);
      return;
    }
    wrong_type(entry, "the text of a header or the number of a column, from 1");
  }

  // The cells of a column as a list of texts, numbers, dates and truths.
  void read_values(const Entry& entry, ColumnSettings& column) {
    const toml::array* list = entry.value->as_array();
    if (list == nullptr) return wrong_type(entry, "a list of values");
    std::vector<std::string>& values = column.values.emplace();
    for (const toml::node& item : *list) {
      if (const auto* text = item.as_string()) {
        values.push_back(text->get());
      } else if (item.is_array() || item.is_table()) {
        diagnostics_.add(Code::wrong_type, toml_.place(item), {entry.key, "a list of values"});
        return;
      } else {
        // As it is written, so that numbers keep their digits.
        const Place place = toml_.place(item);
        values.push_back(toml_.written(place));
      }
    }
  }

  void read_coverage(const Entry& entry) {
    const auto text = entry.value->is_number() ? std::optional(number_text(*entry.value->value<double>()))
                                               : entry.value->value<std::string>();
    study_.coverage = text ? share_of(*text) : std::nullopt;
    // A factor such as 2 is not a share, and `2` for 2 % nobody means.
    const bool bare = entry.value->is_number() && !(*entry.value->value<double>() < 1);
    if (!study_.coverage || bare) wrong_type(entry, "a share such as \"95 %\" or 0.95");
  }

  // `"0.1 K"`, `{ u = "0.2 K", k = 2 }` or `{ half_width = "0.5 K" }`.
  void read_uncertainty(const Entry& entry, std::optional<UncertaintyModel>& into) {
    UncertaintyModel model;
    if (entry.value->is_string()) {
      model.text = *passage_of(entry);
      into = std::move(model);
      return;
    }
    constexpr const char* kForm =
        "a text such as \"0.1 K\", { u = \"0.2 K\", k = 2 } or { half_width = \"0.5 K\" }";
    const toml::table* table = entry.value->as_table();
    if (table == nullptr) return wrong_type(entry, kForm);
    std::size_t given = 0;
    read_table(*table, {{"u",
                         [&](const Entry& e) {
                           ++given;
                           if (const auto text = passage_of(e)) model.text = *text;
                         }},
                        {"half_width",
                         [&](const Entry& e) {
                           ++given;
                           model.divide_by = std::sqrt(3.0);
                           model.rectangular = true;
                           if (const auto text = passage_of(e)) model.text = *text;
                         }},
                        {"k", [&](const Entry& e) {
                           const auto k = e.value->value<double>();
                           if (!k || !(*k > 0)) return wrong_type(e, "a coverage factor above 0, such as 2");
                           model.divide_by = *k;
                         }}});
    if (given != 1) return wrong_type(entry, kForm);
    if (!model.text.text().empty()) into = std::move(model);
  }

  void read_digits(const Entry& entry, ColumnSettings& column) {
    constexpr std::int64_t kMostDigits = 17;
    if (const auto* number = entry.value->as_integer()) {
      if (number->get() >= 1 && number->get() <= kMostDigits) {
        column.digits = static_cast<int>(number->get());
        return;
      }
    } else if (const auto* text = entry.value->as_string(); text != nullptr && text->get() == "full") {
      column.digits = -1;
      return;
    }
    wrong_type(entry, "a number of significant digits from 1 to 17, or \"full\"");
  }

  void read_fit(const Entry& entry) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    FitModel fit;
    fit.name = entry.key;
    fit.place = entry.place;
    fit.model = Passage::whole("model", "line");
    std::optional<Passage> x;
    std::optional<Passage> y;
    const auto sheets = [&](const Entry& e) { fit.sheets = passages_of(e); };
    const auto model = [&](const Entry& e) {
      if (auto passage = passage_of(e)) fit.model = std::move(*passage);
    };
    read_table(*table, {{"sheet", sheets},
                        {"sheets", sheets},
                        {"x", [&](const Entry& e) { x = passage_of(e); }},
                        {"y", [&](const Entry& e) { y = passage_of(e); }},
                        {"model", model},
                        {"keep", [&](const Entry& e) { fit.keep = passage_of(e); }},
                        {"by", [&](const Entry& e) { fit.by = passage_of(e); }},
                        {"weights", [&](const Entry& e) { fit.weights = passage_of(e); }},
                        {"start", [&](const Entry& e) { read_start(e, fit); }}});
    for (const auto& [key, given] : {std::pair("x", x.has_value()), std::pair("y", y.has_value())}) {
      if (!given && !table->contains(key)) diagnostics_.add(Code::key_missing, entry.place, {key});
    }
    if (!x || !y) return;
    fit.x = std::move(*x);
    fit.y = std::move(*y);
    study_.fits.push_back(std::move(fit));
  }

  void read_start(const Entry& entry, FitModel& fit) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return;
    for (const Entry& parameter : toml_.entries(*table)) {
      if (symbol_of(parameter.key) != parameter.key || parameter.key == "x") {
        diagnostics_.add(Code::bad_name, parameter.place, {parameter.key});
      } else if (parameter.value->is_number()) {
        const Place place = toml_.place(*parameter.value);
        fit.start.emplace_back(toml_.key_passage(parameter),
                               Passage(place.source, place.span.begin, toml_.written(place)));
      } else if (auto text = passage_of(parameter)) {
        fit.start.emplace_back(toml_.key_passage(parameter), std::move(*text));
      }
    }
  }

  const Library& library_;
  Study study_;
  std::map<std::string, Entry> by_name_;
  /// Sheets and templates that are read whole, and those that are being read.
  std::map<const toml::node*, SheetModel> resolved_;
  std::vector<const toml::node*> open_;
};

// Reads the files that a study uses, and those that these use.
class LibraryReader {
 public:
  LibraryReader(Inputs& inputs, Diagnostics& diagnostics) : inputs_(inputs), diagnostics_(diagnostics) {}

  // Adds what the files named by `use` hold.
  void read(const TomlText& toml, const std::string& path, Library& library) {
    open_.push_back(path);
    for (const Passage& used : uses_of(toml)) {
      const std::size_t solidus = path.rfind('/');
      const std::string folder = solidus == std::string::npos ? "" : path.substr(0, solidus + 1);
      const auto found = find(folder, used);
      if (!found) continue;
      const std::string& file_path = *found;
      if (std::find(open_.begin(), open_.end(), file_path) != open_.end()) {
        diagnostics_.add(Code::use_ring, used.place(), {used.text()});
        continue;
      }
      // What two files use is read once.
      if (!done_.insert(file_path).second) continue;
      const auto file = inputs_.read(file_path, used.place(), diagnostics_);
      if (!file) continue;
      const auto text =
          TomlText::parse(std::make_shared<const Source>(file->path, std::string(file->text)), diagnostics_);
      if (!text) continue;
      read(*text, file_path, library);
      StudyReader(*text, library, diagnostics_).read_library(library);
    }
    open_.pop_back();
  }

  std::vector<std::string> notes;

 private:
  // The path of a file that is used: beside the file that uses it, or else along the path of shared files.
  // Nothing after a reported error.
  std::optional<std::string> find(const std::string& folder, const Passage& used) {
    const std::string& name = used.text();
    if (name.starts_with('/')) return name;
    const std::string here = std::filesystem::path(folder + name).lexically_normal().string();
    const bool says_where = name.starts_with("./") || name.starts_with("../");
    std::error_code error;
    if (says_where || std::filesystem::exists(here, error)) return here;
    std::string shared = find_shared(name);
    if (!shared.empty()) {
      notes.push_back(name + " is " + shared);
      return shared;
    }
    std::string looked = here;
    bool any = false;
    for (const std::string& other : shared_folders()) {
      looked += ", " + other;
      any = any || std::filesystem::is_directory(other, error);
    }
    // Where nobody shares files it is only not beside the study.
    if (!any) return here;
    diagnostics_.add(Code::use_not_found, used.place(), {name, looked});
    return std::nullopt;
  }

  std::vector<Passage> uses_of(const TomlText& toml) {
    std::vector<Passage> uses;
    const toml::node* node = toml.root().get("use");
    if (node == nullptr) return uses;
    if (const auto* text = node->as_string()) uses.push_back(toml.passage(*text));
    if (const toml::array* list = node->as_array()) {
      for (const toml::node& item : *list) {
        if (const auto* text = item.as_string()) uses.push_back(toml.passage(*text));
      }
    }
    return uses;
  }

  Inputs& inputs_;
  Diagnostics& diagnostics_;
  std::vector<std::string> open_;
  std::set<std::string> done_;
};

}  // namespace

Result<Study> read_study(const std::shared_ptr<const Source>& source, Inputs& inputs,
                         Diagnostics& diagnostics) {
  const auto toml = TomlText::parse(source, diagnostics);
  if (!toml) return std::nullopt;
  Library library;
  LibraryReader libraries(inputs, diagnostics);
  libraries.read(*toml, std::filesystem::path(source->name()).lexically_normal().string(), library);
  Study study = StudyReader(*toml, library, diagnostics).run();
  study.notes = std::move(libraries.notes);
  const auto add_before = [](auto& own, auto& used) { own.insert(own.begin(), used.begin(), used.end()); };
  add_before(study.constants, library.constants);
  add_before(study.formulas, library.formulas);
  add_before(study.units, library.units);
  if (study.sheets.empty() && !diagnostics.has_errors()) {
    diagnostics.add(Code::no_sheets, Place{source, {0, 1}});
  }
  return study;
}

Library read_shared(const std::string& path, Inputs& inputs, Diagnostics& diagnostics) {
  Library library;
  const auto file = inputs.read(path, {}, diagnostics);
  if (!file) return library;
  const auto text =
      TomlText::parse(std::make_shared<const Source>(file->path, std::string(file->text)), diagnostics);
  if (!text) return library;
  LibraryReader(inputs, diagnostics).read(*text, path, library);
  StudyReader(*text, library, diagnostics).read_library(library);
  return library;
}

}  // namespace opensum
