// opensum explain: how a column or a cell came to be.
#include "run/explain.h"

#include <CLI/CLI.hpp>
#include <memory>

#include "cli/command.h"
#include "message/nearest.h"
#include "run/compute.h"
#include "run/explained_columns.h"
#include "run/prepare.h"

namespace opensum {
namespace {

struct ExplainOptions {
  std::string target;
  std::string study = "study.toml";
  std::optional<std::size_t> row;
  std::optional<std::size_t> line;
};

// The sheet and the column that `SHEET.COLUMN` names; with a single sheet the column alone will do.
const RunSheet* find_target(const PreparedStudy& prepared, const std::string& target, std::size_t& column,
                            Diagnostics& diagnostics) {
  const std::size_t dot = target.find('.');
  std::vector<std::string> sheets;
  for (const RunSheet* sheet : prepared.shown_sheets()) sheets.push_back(sheet->model->name);
  const std::string sheet_name = dot == std::string::npos ? sheets.front() : target.substr(0, dot);
  const std::string name = dot == std::string::npos ? target : target.substr(dot + 1);
  const auto found = std::find(sheets.begin(), sheets.end(), sheet_name);
  if (found == sheets.end() || (dot == std::string::npos && sheets.size() > 1)) {
    diagnostics.add(Code::no_such_cell, {"sheet", sheet_name, nearest_name(sheet_name, sheets)});
    return nullptr;
  }
  const RunSheet& sheet = *prepared.sheets[static_cast<std::size_t>(found - sheets.begin())];
  const auto index = sheet.plan.scope.find_column(name, true);
  if (!index) {
    diagnostics.add(Code::no_such_cell,
                    {"column", sheet_name + "." + name, nearest_name(name, sheet.plan.scope.names())});
    return nullptr;
  }
  column = sheet.plan.scope.meant_by(*index);
  return &sheet;
}

// The row (from 0) that the options name; nothing for the whole column.
std::optional<std::size_t> find_row(const RunSheet& sheet, const ExplainOptions& options,
                                    Diagnostics& diagnostics) {
  const Table& table = sheet.table();
  if (options.row) {
    if (*options.row >= 1 && *options.row <= table.rows) return table.row_at(*options.row - 1);
    diagnostics.add(Code::no_such_row,
                    {std::to_string(*options.row), sheet.model->name, std::to_string(table.rows)});
  } else if (options.line) {
    const auto found = std::find(table.lines.begin(), table.lines.end(), *options.line);
    const auto row = static_cast<std::size_t>(found - table.lines.begin());
    const auto again =
        found == table.lines.end() ? found : std::find(found + 1, table.lines.end(), *options.line);
    if (again != table.lines.end()) {
      const auto other = static_cast<std::size_t>(again - table.lines.begin());
      diagnostics.add(Code::line_of_several_rows,
                      {std::to_string(*options.line), std::to_string(table.place_of(row) + 1),
                       std::to_string(table.place_of(other) + 1)});
      return std::nullopt;
    }
    if (found != table.lines.end()) return row;
    diagnostics.add(Code::no_such_line, {std::to_string(*options.line), table.file, sheet.model->name});
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
  const RunSheet* sheet = find_target(*prepared, options.target, column, own);
  if (sheet == nullptr) return report(own, streams);
  std::size_t number = 0;
  while (prepared->sheets[number].get() != sheet) ++number;
  compute(*prepared, wishes_of_explanation(*prepared, number, column), diagnostics);
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  const auto row = find_row(*sheet, options, own);
  if (const int code = report(own, streams)) return code;
  streams.out << (row ? explain_cell(*prepared, *sheet, column, *row)
                      : explain_column(*prepared, *sheet, column));
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_explain(CLI::App& app, Chosen& chosen) {
  auto options = std::make_shared<ExplainOptions>();
  CLI::App* command = add_command(app, "explain", "show how a column or a cell came to be",
                                  "  opensum explain day1.duty --row 3 --study opensum-demo/study.toml\n"
                                  "  opensum explain day1.share --study opensum-demo/study.toml");
  command
      ->add_option("SHEET.COLUMN", options->target,
                   "the column; its sheet may be left out if it is the only one")
      ->required();
  CLI::Option* row = command->add_option("--row", options->row, "a cell: the row as written, from 1");
  row->type_name("N");
  command->add_option("--line", options->line, "a cell: the line of the source")
      ->type_name("N")
      ->excludes(row);
  command->add_option("--study", options->study, "the study; default study.toml")
      ->check(not_empty())
      ->type_name("STUDY");
  command->callback([options, &chosen] {
    chosen = [options](Streams& streams) {
      return with_first_look([&](Rows rows) { return explain(*options, rows, streams); });
    };
  });
}

}  // namespace opensum
