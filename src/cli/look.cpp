// opensum look: what is in a file, and what was understood of it.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "cli/command.h"
#include "cli/file_options.h"
#include "cli/text_table.h"
#include "compute/statistics.h"
#include "files/csv_writer.h"
#include "run/prepare.h"
#include "study/reading_hints.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kRowsShown = 5;
constexpr int kDigitsShown = 6;

// The least, mean and greatest of a column's known values, as text.
struct Spread {
  std::string least;
  std::string mean;
  std::string greatest;
};

Spread spread_of(const Column& column) {
  if (column.kind != Kind::number && column.kind != Kind::date) return {};
  CompensatedSum sum;
  double least = 0;
  double greatest = 0;
  std::size_t known = 0;
  for (std::size_t row = 0; row < column.rows; ++row) {
    if (column.null(row)) continue;
    const double value = column.number(row);
    least = known == 0 ? value : std::min(least, value);
    greatest = known == 0 ? value : std::max(greatest, value);
    sum.add(value);
    ++known;
  }
  if (known == 0) return {};
  if (column.kind == Kind::date) return {date_text(least), "", date_text(greatest)};
  const double mean = sum.value() / static_cast<double>(known);
  return {number_text(least, kDigitsShown), std::isfinite(mean) ? number_text(mean, kDigitsShown) : "",
          number_text(greatest, kDigitsShown)};
}

void print_rows(const Table& table, Streams& streams) {
  std::vector<TextTable::Heading> headings = {{"line", true}};
  for (const Column& column : table.columns) {
    headings.push_back({column.symbol, column.kind == Kind::number});
  }
  TextTable text(std::move(headings));
  const auto add = [&](std::size_t row) {
    std::vector<std::string> cells = {std::to_string(table.lines[row])};
    for (const Column& column : table.columns) {
      const Null null = column.null(row);
      const Chunk& chunk = column.chunks[row / kChunkRows];
      // What cannot be read is shown as it is; what is missing shows nothing.
      cells.push_back(null && null.reason() != Reason::missing ? std::string(chunk.source[row % kChunkRows])
                                                               : cell_text(column, row));
    }
    text.add(std::move(cells));
  };
  const std::size_t first = std::min(table.rows, table.rows <= 2 * kRowsShown ? table.rows : kRowsShown);
  for (std::size_t row = 0; row < first; ++row) add(row);
  if (first < table.rows) {
    text.add_gap();
    for (std::size_t row = table.rows - 2; row < table.rows; ++row) add(row);
  }
  streams.out << text.text(streams.out_is_terminal ? streams.width : SIZE_MAX);
}

void print_columns(const Table& table, Streams& streams) {
  TextTable text({{"symbol"},
                  {"label"},
                  {"unit"},
                  {"kind"},
                  {"known", true},
                  {"null", true},
                  {"least", true},
                  {"mean", true},
                  {"greatest", true}});
  for (const Column& column : table.columns) {
    const std::size_t nulls = column.null_count();
    const Spread spread = spread_of(column);
    const std::string unit = column.kind != Kind::number ? "" : column.unit_stated ? column.unit.text() : "–";
    text.add({column.symbol, column.label, unit, kind_name(column.kind), std::to_string(column.rows - nulls),
              std::to_string(nulls), spread.least, spread.mean, spread.greatest});
  }
  streams.out << text.text(streams.out_is_terminal ? streams.width : SIZE_MAX);
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
    default:
      return "another sign";
  }
}

void print_remarks(const PreparedStudy& prepared, Streams& streams) {
  const Table& table = prepared.sheets.front()->table();
  for (const ReadingHint& hint : reading_hints(table, prepared.units)) {
    streams.out << fmt::format("{}{}: {}\n", hint.column.empty() ? "" : hint.column + ": ", hint.words,
                               hint.option);
  }
}

int look(const FileOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  auto sheet = sheet_of(options, diagnostics);
  if (!sheet) return report(diagnostics, streams);
  Study study;
  study.sheets.push_back(std::move(*sheet));
  const auto prepared = prepare(std::move(study), "", {}, diagnostics);
  const int code = report(diagnostics, streams);
  if (code != 0) return code;
  const Table& table = prepared->sheets.front()->table();
  const RunSheet& run = *prepared->sheets.front();
  streams.out << fmt::format(
      "{}: {} rows, {} columns, {}; {}, fields separated by {}\n", table.file, table.rows,
      table.columns.size(),
      run.header_line > 0 ? fmt::format("header on line {}", run.header_line) : std::string("no header"),
      run.encoding, sign_name(run.delimiter));
  print_rows(table, streams);
  print_columns(table, streams);
  print_remarks(*prepared, streams);
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_look(CLI::App& app, Chosen& chosen) {
  auto options = std::make_shared<FileOptions>();
  CLI::App* command =
      add_command(app, "look", "show what is in a table: rows, columns, units, kinds, nulls",
                  "  opensum look opensum-demo/day1.csv\n"
                  "  opensum look opensum-demo/day1.csv --missing-also=err --unit Coolant_flow=L/h");
  add_file_options(*command, *options);
  command->callback(
      [options, &chosen] { chosen = [options](Streams& streams) { return look(*options, streams); }; });
}

}  // namespace opensum
