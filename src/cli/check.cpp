// opensum check: everything that can be known about a study without computing.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "base/unicode.h"
#include "cli/command.h"
#include "equation/tree.h"
#include "run/prepare.h"
#include "server/in_database.h"
#include "study/where_computed.h"
#include "table/header.h"
#include "table/like_names.h"
#include "table/number_text.h"
#include "table/value_with_error.h"

namespace opensum {
namespace {

std::string joined(const std::vector<std::string>& words) {
  return words.empty() ? "constants alone" : fmt::format("{}", fmt::join(words, ", "));
}

void print_constants(const std::vector<ScopeConstant>& constants, std::ostream& out) {
  if (constants.empty()) return;
  out << "constants\n";
  for (const ScopeConstant& constant : constants) {
    const bool text = constant.type.kind == Kind::text;
    out << fmt::format("  {} = {}{}\n", constant.name,
                       text                     ? constant.text
                       : constant.parts.empty() ? number_text(constant.number)
                                                : value_with_error(constant.number, constant.uncertainty()),
                       text || constant.type.unit.parts.empty() ? "" : " " + constant.type.unit.text());
  }
}

// Where the rows come from; how many there are of another sheet shows only when it is computed.
std::string rows_text(const PreparedStudy& prepared, const RunSheet& sheet) {
  if (sheet.there) return "computed in " + sheet.table().file;
  if (!sheet.plan.source) {
    return fmt::format("{} rows from {}{}", sheet.table().rows, sheet.table().file,
                       sheet.plan.keep ? ", those where " + sheet.model->keep->text() : "");
  }
  const RunSheet& source = prepared.source_of(sheet);
  const RunSheet& shown = prepared.shown_source(sheet);
  const auto& keep = source.model->hidden ? source.model->keep : sheet.model->keep;
  std::string text = "rows of " + shown.model->name;
  if (keep) text += " where " + keep->text();
  if (sheet.plan.cell_headers) {
    std::vector<std::string> cells;
    for (const Passage& name : *sheet.model->one_row_per_cell) cells.push_back(name.text());
    return fmt::format("one row per cell of {} in the {}", fmt::join(cells, ", "), text);
  }
  if (!sheet.plan.grouped) return text;
  std::vector<std::string> keys;
  for (const Passage& key : *sheet.model->one_row_per) keys.push_back(key.text());
  return keys.empty() ? "one row of all " + text
                      : fmt::format("one row per {} of the {}", fmt::join(keys, ", "), text);
}

void print_sheet(const PreparedStudy& prepared, const RunSheet& sheet, std::ostream& out) {
  const Table& table = sheet.table();
  out << fmt::format("{}: {}\n", sheet.model->name, rows_text(prepared, sheet));
  std::vector<std::string> without_unit;
  std::vector<std::string> with_unit;
  for (const Column& column : table.columns) {
    if (!column.measured || column.kind != Kind::number) continue;
    if (!column.unit_stated) {
      without_unit.push_back(column.symbol);
    } else if (!sheet.plan.source) {
      with_unit.push_back(column.symbol + " " + column.unit.text());
    }
  }
  if (!with_unit.empty()) out << "  in units: " << listed_names(with_unit) << '\n';
  if (!without_unit.empty())
    out << "  plain numbers (no unit stated): " << listed_names(without_unit) << '\n';
  std::vector<std::string> uncertain;
  for (const ToldUncertainty& told : told_uncertainties(sheet.plan.uncertainty, table)) {
    std::vector<std::string> symbols;
    for (const std::size_t column : told.columns) symbols.push_back(table.columns[column].symbol);
    uncertain.push_back(fmt::format("{} {}", listed_names(symbols), told.text));
  }
  if (!uncertain.empty())
    out << "  standard uncertainty: " << fmt::format("{}", fmt::join(uncertain, "; ")) << '\n';
  if (sheet.selection) {
    out << fmt::format("  keep: {} ({} of {} rows)\n", sheet.selection->condition, sheet.selection->kept(),
                       sheet.selection->read);
  }
  for (const LinkModel& link : sheet.model->links) {
    std::vector<std::string> match;
    for (const Passage& pair : link.match) match.push_back(pair.text());
    out << fmt::format("  link {}{}: {}\n", link.name.text(), link.sheet ? " to " + link.sheet->text() : "",
                       link.by_row ? "row by row" : fmt::format("by {}", fmt::join(match, ", ")));
  }
  for (const FillPlan& fill : sheet.plan.fills) {
    std::vector<std::string> rules;
    for (const Passage& text : fill.texts) rules.push_back(text.text());
    out << fmt::format("  fill of {}: {}\n", table.columns[fill.measured].symbol,
                       fmt::join(rules, "; else "));
  }
  const auto unit_text = [](const Type& type) {
    return fmt::format("[{}]", type.kind != Kind::number ? kind_name(type.kind) : type.unit.text());
  };
  std::size_t name_width = 0;
  std::size_t unit_width = 0;
  for (const DerivedColumn& derived : sheet.plan.derived) {
    name_width = std::max(name_width, display_width(derived.definition.name));
    unit_width = std::max(unit_width, display_width(unit_text(derived.type)));
  }
  for (const std::size_t i : sheet.plan.order) {
    const DerivedColumn& derived = sheet.plan.derived[i];
    const std::string unit = unit_text(derived.type);
    out << "  " << derived.definition.name
        << std::string(name_width - display_width(derived.definition.name), ' ') << "  " << unit
        << std::string(unit_width - display_width(unit), ' ')
        << fmt::format("  from {}; nulls {}\n", joined(derived.inputs), derived.null_rule);
  }
  for (const ClaimPlan& claim : sheet.plan.claims) {
    out << fmt::format("  claim \"{}\": {}\n", claim.claim.text, print(*claim.claim.condition));
  }
}

struct CheckOptions {
  std::string study = "study.toml";
  bool sql = false;
  bool in_database = false;
};

int check_study(const CheckOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  StudyChanges changes;
  changes.in_database = options.in_database ? InDatabase::always : InDatabase::as_written;
  const auto prepared =
      prepare_study_file(options.study, diagnostics, Rows::left_if_long, std::nullopt, changes);
  if (prepared && options.sql && !diagnostics.has_errors()) {
    if (!computes_in_database(*prepared)) diagnostics.add(Code::nothing_in_database, {options.study});
    const std::string sql = diagnostics.has_errors() ? "" : sql_of_study(*prepared, diagnostics);
    streams.out << sql;
    return report(diagnostics, streams);
  }
  const int code = report(diagnostics, streams);
  if (!prepared || code != 0) return code;
  print_constants(prepared->constants, streams.out);
  for (const RunSheet* sheet : prepared->shown_sheets()) print_sheet(*prepared, *sheet, streams.out);
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_check(CommandLine& command_line) {
  auto options = std::make_shared<CheckOptions>();
  Command command = command_line.add("check", "check a study without computing: names, kinds, units, cycles",
                                     "  opensum check opensum-demo/study.toml\n"
                                     "  cd opensum-demo && opensum check");
  command.argument("STUDY", options->study, "the study; default study.toml").not_empty();
  command.flag("--sql", options->sql, "print the SQL by which sheets are computed in their database");
  command.flag("--in-database", options->in_database, "as if `run` were told so");
  command.runs([options](Streams& streams) { return check_study(*options, streams); });
}

}  // namespace opensum
