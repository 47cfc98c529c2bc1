// opensum look: what is in a file, and what was understood of it.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <memory>
#include <numeric>

#include "base/result.h"
#include "base/split.h"
#include "cli/command.h"
#include "cli/file_options.h"
#include "cli/text_table.h"
#include "engine/block_pass.h"
#include "engine/picked_rows.h"
#include "files/csv_writer.h"
#include "files/table_writer.h"
#include "message/nearest.h"
#include "run/prepare.h"
#include "starter/table_facts.h"
#include "table/date_text.h"
#include "table/like_names.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kRowsShown = 5;
constexpr std::size_t kLastRowsShown = 2;
constexpr int kDigitsShown = 6;

struct LookOptions {
  FileOptions file;
  std::string rows;
  std::vector<std::string> columns;
  bool values = false;
  std::string format = "table";
};

// Which rows are shown: all that are asked for, or else the first and the last.
struct ShownRows {
  std::vector<std::size_t> rows;
  /// Behind so many of them others are left out; none where it is 0.
  std::size_t gap = 0;
};

// `7` or `10..20`, from 1; nothing after a reported error.
Result<ShownRows> rows_of(const std::string& text, std::size_t rows, Diagnostics& diagnostics) {
  const std::size_t dots = text.find("..");
  const NumberReading first = read_number(text.substr(0, dots));
  const NumberReading last = dots == std::string::npos ? first : read_number(text.substr(dots + 2));
  const auto whole = [](const NumberReading& n) {
    return n.fault == NumberFault::none && n.value >= 1 && n.value == std::floor(n.value);
  };
  if (!whole(first) || !whole(last) || last.value < first.value) {
    diagnostics.add(Code::option_value, {"--rows", "a row or a range such as 10..20", text});
    return std::nullopt;
  }
  if (first.value > static_cast<double>(rows)) {
    diagnostics.add(Code::no_such_row, {number_text(first.value), "this table", std::to_string(rows)});
    return std::nullopt;
  }
  ShownRows shown;
  const auto end = static_cast<std::size_t>(std::min(last.value, static_cast<double>(rows)));
  for (auto row = static_cast<std::size_t>(first.value) - 1; row < end; ++row) shown.rows.push_back(row);
  return shown;
}

ShownRows first_and_last(std::size_t rows) {
  ShownRows shown;
  const bool all = rows <= 2 * kRowsShown;
  for (std::size_t row = 0; row < rows; ++row) {
    if (all || row < kRowsShown || row + kLastRowsShown >= rows) shown.rows.push_back(row);
  }
  if (!all) shown.gap = kRowsShown;
  return shown;
}

// `a`, `a..d` or `"t_*"`, in the file's order within each; false after a reported error.
bool add_columns(const Table& table, const std::string& wanted, std::vector<std::size_t>& columns,
                 Diagnostics& diagnostics) {
  std::vector<std::string> names;
  for (const Column& column : table.columns) names.push_back(column.symbol);
  const auto find = [&](const std::string& name) {
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end()) {
      diagnostics.add(Code::no_such_cell, {"column", name, nearest_name(name, names)});
    }
    return static_cast<std::size_t>(found - names.begin());
  };
  const std::size_t dots = wanted.find("..");
  if (dots == std::string::npos && is_pattern(wanted)) {
    const std::size_t before = columns.size();
    for (std::size_t i = 0; i < names.size(); ++i) {
      if (matches_pattern(names[i], wanted)) columns.push_back(i);
    }
    if (columns.size() == before) diagnostics.add(Code::no_such_cell, {"column", wanted, ""});
    return columns.size() > before;
  }
  const std::size_t first = find(wanted.substr(0, dots));
  const std::size_t last = dots == std::string::npos ? first : find(wanted.substr(dots + 2));
  if (first == names.size() || last == names.size()) return false;
  if (last < first) {
    diagnostics.add(Code::option_value, {"--show", "columns in the order of the file", wanted});
    return false;
  }
  for (std::size_t i = first; i <= last; ++i) columns.push_back(i);
  return true;
}

Result<std::vector<std::size_t>> columns_of(const Table& table, const std::vector<std::string>& lists,
                                            Diagnostics& diagnostics) {
  std::vector<std::size_t> columns;
  bool good = true;
  for (const std::string& list : lists) {
    for (const std::string& name : split(list, ','))
      good = add_columns(table, std::string(trimmed(name)), columns, diagnostics) && good;
  }
  if (!good) return std::nullopt;
  if (columns.empty()) {
    columns.resize(table.columns.size());
    std::iota(columns.begin(), columns.end(), std::size_t{0});
  }
  return columns;
}

// The least, mean and greatest of a column's known values, as text.
struct ValueRange {
  std::string least;
  std::string mean;
  std::string greatest;
};

ValueRange spread_of(const Column& column, const ValueFacts& values) {
  if (values.known == 0) return {};
  if (column.kind == Kind::date)
    return {date_text(values.first, column.clock), "", date_text(values.last, column.clock)};
  const double mean = values.sum.value() / static_cast<double>(values.known);
  return {number_text(values.least, kDigitsShown), std::isfinite(mean) ? number_text(mean, kDigitsShown) : "",
          number_text(values.greatest, kDigitsShown)};
}

// A cell as it is shown: what cannot be read as it is, and nothing for what is missing.
std::string shown_cell(const Column& column, std::size_t row) {
  const Null null = column.null(row);
  const Chunk& chunk = column.chunks[row / kChunkRows];
  return null && null.reason() != Reason::missing ? std::string(chunk.source_at(row % kChunkRows))
                                                  : cell_text(column, row);
}

TextTable rows_table(const Table& table, const std::vector<std::size_t>& columns, std::size_t gap) {
  std::vector<TextTable::Heading> headings = {{"line", true}};
  for (const std::size_t i : columns) {
    headings.push_back({table.columns[i].symbol, table.columns[i].kind == Kind::number});
  }
  TextTable text(std::move(headings));
  for (std::size_t row = 0; row < table.rows; ++row) {
    if (gap > 0 && row == gap) text.add_gap();
    std::vector<std::string> cells = {table.file_of.empty() ? std::to_string(table.lines[row])
                                                            : table.place_text(row)};
    for (const std::size_t i : columns) cells.push_back(shown_cell(table.columns[i], row));
    text.add(std::move(cells));
  }
  return text;
}

// How the values of a column are spread from the least to the greatest.
std::string bars_of_column(const Column& column, const ValueFacts& values) {
  constexpr std::size_t kBars = 10;
  if (values.known < 2 || column.kind == Kind::text || column.kind == Kind::truth) return {};
  return bars_of(values.histogram.counts(kBars, values.least, values.greatest));
}

// By column whether it is one of many that are alike, and neither the first two of them nor the last.
std::vector<bool> told_by_others(const Table& table, const std::vector<std::size_t>& columns) {
  std::vector<std::string> forms;
  for (const std::size_t i : columns) {
    const Column& column = table.columns[i];
    forms.push_back(
        fmt::format("{} [{}] {}", form_of_name(column.symbol), column.unit.text(), kind_name(column.kind)));
  }
  std::vector<bool> told(columns.size(), false);
  for (std::size_t first = 0; first < forms.size();) {
    std::size_t end = first + 1;
    while (end < forms.size() && forms[end] == forms[first]) ++end;
    for (std::size_t k = first + 2; end - first >= kManyAlike && k + 1 < end; ++k) told[k] = true;
    first = end;
  }
  return told;
}

TextTable columns_table(const Table& table, const std::vector<std::size_t>& columns,
                        const TableFacts& facts) {
  TextTable text({{"symbol"},
                  {"label"},
                  {"unit"},
                  {"kind"},
                  {"known", true},
                  {"null", true},
                  {"least", true},
                  {"mean", true},
                  {"greatest", true},
                  {"spread", false, -1}});
  std::size_t left_out = 0;
  const std::vector<bool> told = told_by_others(table, columns);
  for (std::size_t k = 0; k < columns.size(); ++k) {
    const std::size_t i = columns[k];
    const Column& column = table.columns[i];
    const NullCounts& reasons = facts.nulls[i];
    const std::size_t nulls = std::accumulate(reasons.begin(), reasons.end(), std::size_t{0});
    const ValueRange spread = spread_of(column, facts.values[i]);
    if (told[k]) {
      ++left_out;
      continue;
    }
    if (left_out > 0) {
      text.add({fmt::format("… {} like it", left_out), "", "", "", "", "", "", "", "", ""});
      left_out = 0;
    }
    const std::string unit = column.kind != Kind::number ? "" : column.unit_stated ? column.unit.text() : "–";
    text.add({column.symbol, column.label, unit, kind_name(column.kind), std::to_string(column.rows - nulls),
              std::to_string(nulls), spread.least, spread.mean, spread.greatest,
              bars_of_column(column, facts.values[i])});
  }
  return text;
}

const char* sign_name(char sign) {
  switch (sign) {
    case '\t':
      return "tabs";
    case ';':
      return "semicolons";
    case ',':
      return "commas";
    case '|':
      return "bars";
    case ' ':
      return "blanks";
    default:
      return "another sign";
  }
}

void print_remarks(const std::vector<ReadingHint>& hints, Streams& streams) {
  for (const ReadingHint& hint : hints) {
    std::string columns = hint.column;
    if (hint.more > 0) columns += fmt::format(" and {} more", hint.more);
    streams.out << fmt::format("{}{}: {}\n", columns.empty() ? "" : columns + ": ", hint.words, hint.option);
  }
}

// A line without its control characters.
std::string printable(std::string line) {
  std::replace_if(
      line.begin(), line.end(), [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7F; },
      ' ');
  return std::string(trimmed(line));
}

// The lines before the table, some of which may be quantities of it.
void print_lines_before(const RunSheet& run, Streams& streams) {
  constexpr std::size_t kMostShown = 12;
  for (std::size_t i = 0; i < std::min(run.before.size(), kMostShown); ++i)
    streams.out << "  before it: " << printable(run.before[i]) << '\n';
  if (run.before.size() > kMostShown)
    streams.out << fmt::format("  and {} more lines before it\n", run.before.size() - kMostShown);
}

std::string format_words(const RunSheet& run) {
  if (!run.format.empty()) return run.format;
  return fmt::format("{}, fields separated by {}{}", run.encoding, sign_name(run.delimiter),
                     run.comment.empty() ? "" : "; lines that begin with " + run.comment + " are comments");
}

// Appends cells alone, as they are copied into other programs.
void append_bare_values(TextBuffer& out, const Table& table, const std::vector<std::size_t>& columns) {
  for (std::size_t row = 0; row < table.rows; ++row) {
    for (std::size_t k = 0; k < columns.size(); ++k) {
      if (k > 0) out.add('\t');
      out.add(cell_text(table.columns[columns[k]], row));
    }
    out.add('\n');
  }
}

// Prints every row, block after block, as `append` writes them.
void print_rows(const RunSheet& run, const std::vector<std::size_t>& columns, Streams& streams,
                const std::function<void(TextBuffer&, const Table&)>& append) {
  struct TextBlock : Block {
    TextBuffer text;
  };
  const Table& whole = run.table();
  std::vector<bool> needed(whole.columns.size());
  for (const std::size_t i : columns) needed[i] = true;
  const auto source = source_of_rows(run, std::vector<bool>(whole.columns.size(), true));
  Table printed = whole.without_rows();
  printed.shown = columns;
  go_over_blocks<TextBlock>(
      *source, printed,
      [&](std::size_t part, TextBlock& block) {
        source->read(part, needed, block);
        block.text.clear();
        append(block.text, block.table);
      },
      [&](std::size_t, const TextBlock& block) { streams.out << block.text.view(); });
}

// Whether all rows are asked for.
bool is_all(const ShownRows& shown, const Table& table) { return shown.rows.size() == table.rows; }

Table chosen_rows(const RunSheet& run, const ShownRows& shown) {
  const auto source = source_of_rows(run, std::vector<bool>(run.table().columns.size(), true));
  return picked_rows(*source, run.table(), shown.rows);
}

void print_bare_values(const RunSheet& run, const std::vector<std::size_t>& columns, const ShownRows& shown,
                       Streams& streams) {
  const auto append = [&](TextBuffer& out, const Table& table) { append_bare_values(out, table, columns); };
  if (is_all(shown, run.table())) return print_rows(run, columns, streams, append);
  TextBuffer out;
  append(out, chosen_rows(run, shown));
  streams.out << out.view();
}

// The rows and columns chosen, in a form for other programs.
void print_exported(const RunSheet& run, const std::vector<std::size_t>& columns, const ShownRows& shown,
                    TableForm form, Streams& streams) {
  if (form == TableForm::csv && is_all(shown, run.table())) {
    Table head = run.table().without_rows();
    head.shown = columns;
    streams.out << csv_header(head, {});
    return print_rows(run, columns, streams,
                      [](TextBuffer& out, const Table& table) { append_csv_rows(out, table, {}); });
  }
  Table table = chosen_rows(run, shown);
  table.shown = columns;
  streams.out << (form == TableForm::csv ? csv_text(table, {})
                                         : json_text({run.table().name, &table, false, {}}));
}

void print_all(const PreparedStudy& prepared, const std::vector<std::size_t>& columns, const ShownRows& shown,
               TableForm form, Streams& streams) {
  const RunSheet& run = *prepared.sheets.front();
  const Table& table = run.table();
  const std::size_t width = streams.out_is_terminal ? streams.width : SIZE_MAX;
  const auto print = [&](const TextTable& text, bool in_pages) {
    streams.out << (form == TableForm::markdown ? text.markdown() + '\n'
                    : in_pages                  ? text.pages(width)
                                                : text.text(width));
  };
  streams.out << fmt::format("{}: {} rows, {} columns, {}{}\n", table.file, table.rows, table.columns.size(),
                             run.header_line > 0 ? fmt::format("header on line {}; ", run.header_line)
                             : run.format.empty() || run.format == "a workbook" ? "no header; "
                                                                                : "",
                             format_words(run));
  print_lines_before(run, streams);
  if (form == TableForm::markdown) streams.out << '\n';
  const TableFacts facts = table_facts(run, prepared.units);
  print(rows_table(chosen_rows(run, shown), columns, shown.gap), true);
  print(columns_table(table, columns, facts), false);
  for (const ToldUncertainty& told : told_uncertainties(run.plan.uncertainty, table)) {
    for (const std::size_t column : told.columns)
      streams.out << fmt::format("standard uncertainty of {}: {}\n", table.columns[column].symbol, told.text);
  }
  print_remarks(facts.hints, streams);
}

int look(const LookOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  const auto form = form_of(options.format, diagnostics);
  auto sheet = sheet_of(options.file, diagnostics);
  if (!sheet || !form) return report(diagnostics, streams);
  Study study;
  study.sheets.push_back(std::move(*sheet));
  const auto prepared = prepare(std::move(study), "", {}, diagnostics, Rows::left_if_long);
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  // What cells say of their uncertainty would be a column of its own only where it is computed.
  prepared->sheets.front()->table().keep_measured();
  const RunSheet& run = *prepared->sheets.front();
  const Table& table = run.table();
  const auto columns = columns_of(table, options.columns, diagnostics);
  const bool every_row = options.values || *form == TableForm::csv || *form == TableForm::json;
  std::optional<ShownRows> shown = first_and_last(table.rows);
  if (every_row) shown = ShownRows{std::vector<std::size_t>(table.rows), 0};
  if (every_row) std::iota(shown->rows.begin(), shown->rows.end(), std::size_t{0});
  if (!options.rows.empty()) shown = rows_of(options.rows, table.rows, diagnostics);
  if (const int code = report(diagnostics, streams); code != 0 || !columns || !shown) return code;
  if (options.values) {
    print_bare_values(run, *columns, *shown, streams);
  } else if (every_row) {
    print_exported(run, *columns, *shown, *form, streams);
  } else {
    print_all(*prepared, *columns, *shown, *form, streams);
  }
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_look(CommandLine& command_line) {
  auto options = std::make_shared<LookOptions>();
  Command command = command_line.add(
      "look", "show what is in a table: rows, columns, units, kinds, nulls",
      "  opensum look opensum-demo/day1.csv\n"
      "  opensum look opensum-demo/day1.csv --rows 10..14 --show Coolant_flow,Pressure_drop");
  add_file_options(command, options->file);
  command.option("--rows", options->rows, "these rows: 7 or 10..20").value("ROWS");
  command.option("--show", options->columns, "these columns: a,b..d or 't_*'; default: all")
      .one_value_each()
      .value("SYMBOLS");
  command.flag("--values", options->values, "bare cells, for copying");
  add_format_option(command, options->format);
  command.runs([options](Streams& streams) { return look(*options, streams); });
}

}  // namespace opensum
