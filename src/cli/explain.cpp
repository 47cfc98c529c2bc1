// opensum explain: how a column or a cell came to be.
#include "explain/explain.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <memory>

#include "base/result.h"
#include "cli/command.h"
#include "explain/explained_columns.h"
#include "message/nearest.h"
#include "run/compute.h"
#include "run/prepare.h"

namespace opensum {
namespace {

struct ExplainOptions {
  std::vector<std::string> target;
  std::string study = "study.toml";
  std::optional<std::size_t> row;
  std::optional<std::size_t> line;
};

// What is to be explained: `day1.duty`, `duty`, or as nulls.csv prints a cell, `day1.duty row 5`.
struct Target {
  std::string sheet;  // empty where it is not said
  std::string column;
  std::optional<std::size_t> row;
};

// `5` as a row; nothing for what is no whole number.
std::optional<std::size_t> row_number(const std::string& text) {
  std::size_t row = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), row);
  if (error != std::errc() || end != text.data() + text.size()) return std::nullopt;
  return row;
}

Target read_target(const std::vector<std::string>& words, const std::vector<std::string>& sheets) {
  std::string text = fmt::format("{}", fmt::join(words, " "));
  Target target;
  // `day1.duty row 5`, or the number alone.
  if (const std::size_t at = text.rfind(' '); at != std::string::npos) {
    target.row = row_number(text.substr(at + 1));
    if (target.row) text.resize(at);
    if (target.row && text.ends_with(" row")) text.resize(text.size() - std::string(" row").size());
  }
  const std::size_t dot = text.find('.');
  // A column's own name may have a point, as `p.1` in backticks.
  const bool of_sheet = dot != std::string::npos && (text.front() != '`');
  target.sheet = of_sheet ? text.substr(0, dot) : sheets.size() == 1 ? sheets.front() : "";
  target.column = of_sheet ? text.substr(dot + 1) : text;
  return target;
}

// The sheet that has a column of its own by that name; nothing after a reported error.
const RunSheet* sheet_with(const PreparedStudy& prepared, const std::string& column,
                           Diagnostics& diagnostics) {
  std::vector<const RunSheet*> own;
  std::vector<std::string> cells;
  std::vector<std::string> names;
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    const Scope& scope = sheet->plan.scope;
    for (const std::string& name : scope.names()) {
      // Constants are among them.
      if (scope.find_column(name, true)) names.push_back(name);
    }
    const auto found = scope.find_column(column, true);
    if (!found) continue;
    cells.push_back(sheet->model->name + "." + scope.columns[*found].symbol);
    const auto& taken = sheet->plan.taken;
    const bool is_taken =
        std::any_of(taken.begin(), taken.end(), [&](const TakenColumn& t) { return t.index == *found; });
    if (!is_taken) own.push_back(sheet);
  }
  if (own.size() == 1) return own.front();
  if (cells.empty()) {
    diagnostics.add(Code::no_such_cell, {"column", column, nearest_name(column, names)});
  } else {
    diagnostics.add(Code::column_of_sheets,
                    {column, fmt::format("{}", fmt::join(cells, ", ")), cells.front()});
  }
  return nullptr;
}

const RunSheet* find_target(const PreparedStudy& prepared, const Target& target,
                            const std::vector<std::string>& sheets, std::size_t& column,
                            Diagnostics& diagnostics) {
  const RunSheet* sheet = nullptr;
  if (target.sheet.empty()) {
    sheet = sheet_with(prepared, target.column, diagnostics);
    if (sheet == nullptr) return nullptr;
  } else {
    const auto found = std::find(sheets.begin(), sheets.end(), target.sheet);
    if (found == sheets.end()) {
      diagnostics.add(Code::no_such_cell, {"sheet", target.sheet, nearest_name(target.sheet, sheets)});
      return nullptr;
    }
    sheet = prepared.shown_sheets()[static_cast<std::size_t>(found - sheets.begin())];
  }
  const auto index = sheet->plan.scope.find_column(target.column, true);
  if (!index) {
    diagnostics.add(Code::no_such_cell, {"column", sheet->model->name + "." + target.column,
                                         nearest_name(target.column, sheet->plan.scope.names())});
    return nullptr;
  }
  column = sheet->plan.scope.meant_by(*index);
  return sheet;
}

// The row (from 0) that the options name; nothing for the whole column.
Result<std::size_t> find_row(const RunSheet& sheet, std::optional<std::size_t> by_row,
                             std::optional<std::size_t> by_line, Diagnostics& diagnostics) {
  const Table& table = sheet.table();
  if (by_row) {
    if (*by_row >= 1 && *by_row <= table.rows) return table.row_at(*by_row - 1);
    diagnostics.add(Code::no_such_row,
                    {std::to_string(*by_row), sheet.model->name, std::to_string(table.rows)});
  } else if (by_line) {
    const auto next_in_line = [&](std::size_t row) {
      while (row < table.lines.size() && table.lines[row] != *by_line) ++row;
      return row;
    };
    const std::size_t row = next_in_line(0);
    const std::size_t other = next_in_line(row + 1);
    if (other < table.lines.size()) {
      diagnostics.add(Code::line_of_several_rows,
                      {std::to_string(*by_line), std::to_string(table.place_of(row) + 1),
                       std::to_string(table.place_of(other) + 1)});
      return std::nullopt;
    }
    if (row < table.lines.size()) return row;
    diagnostics.add(Code::no_such_line, {std::to_string(*by_line), table.file, sheet.model->name});
  }
  return std::nullopt;
}

std::optional<int> explain(const ExplainOptions& options, Rows rows, Streams& streams) {
  Diagnostics diagnostics;
  const auto prepared = prepare_study_file(options.study, diagnostics, rows);
  if (!prepared || diagnostics.has_errors()) {
    if (prepared && is_guess(*prepared)) return std::nullopt;
    return report(diagnostics, streams);
  }
  // Warnings of the study are the business of run and check.
  Diagnostics own;
  std::size_t column = 0;
  std::vector<std::string> sheets;
  for (const RunSheet* shown : prepared->shown_sheets()) sheets.push_back(shown->model->name);
  const Target target = read_target(options.target, sheets);
  const RunSheet* sheet = find_target(*prepared, target, sheets, column, own);
  if (sheet == nullptr) return report(own, streams);
  std::size_t number = 0;
  while (prepared->sheets[number].get() != sheet) ++number;
  const auto by_row = options.row ? options.row : target.row;
  std::vector<LastWishes> wishes;
  if (by_row || options.line) {
    // Rows of a sorted sheet, and lines, are found only when all are known.
    const bool known = by_row && *by_row > 0 && sheet->plan.sort_by.empty();
    wishes = wishes_of_cell(*prepared, number, column, known ? std::optional(*by_row - 1) : std::nullopt);
  } else {
    wishes = wishes_of_column(*prepared, number, column);
  }
  compute(*prepared, wishes, diagnostics);
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  const auto row = find_row(*sheet, by_row, options.line, own);
  if (const int code = report(own, streams)) return code;
  streams.out << (row ? explain_cell(*prepared, *sheet, column, *row)
                      : explain_column(*prepared, *sheet, column));
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_explain(CommandLine& command_line) {
  auto options = std::make_shared<ExplainOptions>();
  Command command = command_line.add("explain", "show how a column or a cell came to be",
                                     "  opensum explain day1.duty --row 3 --study opensum-demo/study.toml\n"
                                     "  opensum explain day1.share --study opensum-demo/study.toml");
  command
      .argument("SHEET.COLUMN", options->target,
                "the column, alone where one sheet has it; or a cell as nulls.csv names it, day1.duty row 5")
      .needed();
  const Option row = command.option("--row", options->row, "a cell: the row as written, from 1")
                         .whole_number(1, SIZE_MAX)
                         .value("N");
  command.option("--line", options->line, "a cell: the line of the source")
      .whole_number(1, SIZE_MAX)
      .value("N")
      .excludes(row);
  command.option("--study", options->study, "the study; default study.toml").not_empty().value("STUDY");
  command.runs([options](Streams& streams) {
    return with_first_look([&](Rows rows) { return explain(*options, rows, streams); });
  });
}

}  // namespace opensum
