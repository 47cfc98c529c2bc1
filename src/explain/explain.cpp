// How a column or a cell came to be.
#include "explain/explain.h"

#include <fmt/format.h>

#include <algorithm>
#include <deque>
#include <set>

#include "base/unicode.h"
#include "compute/rows_used.h"
#include "compute/whole_column.h"
#include "equation/names_used.h"
#include "equation/operation.h"
#include "explain/budget.h"
#include "explain/substitute.h"
#include "fit/curve.h"
#include "table/cell_text.h"
#include "table/date_text.h"
#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kRowsListed = 6;
constexpr int kDigitsOfRange = 6;

std::string with_unit(const std::string& number, const Unit& unit) {
  return unit.parts.empty() ? number : number + " " + unit.text();
}

std::string counted(std::size_t count, const char* thing) {
  return fmt::format("{} {}{}", count, thing, count == 1 ? "" : "s");
}

std::string definition_text(const Definition& definition) {
  std::string text = definition.name;
  if (!definition.label.empty()) text += fmt::format(" \"{}\"", definition.label);
  if (definition.unit) text += fmt::format(" [{}]", definition.unit->text);
  return text + " = " + print(*definition.expression);
}

// Where a null of a cell began, as `day1.t_out_b row 16 (day1.csv line 17)`.
std::string origin_text(const PreparedStudy& prepared, Null null, std::size_t row) {
  const Origins::Origin& origin = prepared.origins[null.origin()];
  const std::size_t began = origin.row.value_or(row);
  std::string text;
  for (const auto& sheet : prepared.sheets) {
    if (sheet->model->name != origin.sheet) continue;
    text = fmt::format("{}.{} row {}", origin.sheet, origin.column, sheet->table().place_of(began) + 1);
    text += fmt::format(" ({})", sheet->table().line_text(began));
  }
  return text;
}

class CellExplainer {
 public:
  CellExplainer(PreparedStudy& prepared, const RunSheet& sheet, std::size_t row)
      : prepared_(prepared),
        study_columns_(prepared),
        others_(prepared, sheet),
        sheet_(sheet),
        table_(sheet.table()),
        row_(row) {}

  std::string run(std::size_t column) {
    const std::string group = sheet_.plan.grouped ? ", the first of its group" : "";
    out_ = fmt::format("{}.{} in row {} ({}{}) is {}\n", sheet_.model->name, symbol(column),
                       table_.place_of(row_) + 1, table_.line_text(row_), group, shown(column));
    asked_ = column;
    if (const Null null = table_.columns[column].null(row_); null && !table_.columns[column].measured)
      out_.insert(out_.size() - 1, ", which began in " + origin_text(prepared_, null, row_));
    const Column& asked = table_.columns[column];
    if (asked.measured || asked.linked || taken(column) != nullptr) {
      // A looked-up value may go by a derived key, which is explained below.
      out_ += "  " + remark_on(column) + '\n';
    } else {
      // Of a filled column first what was measured.
      if (!asked.fills.empty()) out_ += "  " + remark_on(column - 1) + '\n';
      want(column);
    }
    out_ += budget_text(prepared_, sheet_, column, row_);
    while (!open_.empty()) {
      const std::size_t next = open_.front();
      open_.pop_front();
      if (table_.columns[next].fills.empty()) {
        explain_derived(next);
      } else {
        explain_fill(next);
      }
    }
    return out_;
  }

 private:
  const std::string& symbol(std::size_t column) const { return sheet_.plan.scope.columns[column].symbol; }

  std::string shown(std::size_t index) const {
    const Column& column = table_.columns[index];
    if (const Null null = column.null(row_)) return fmt::format("null ({})", reason_name(null.reason()));
    return shown_value(column, row_);
  }

  static std::string shown_value(const Column& column, std::size_t row) {
    if (column.kind == Kind::text) return '"' + std::string(column.text(row)) + '"';
    if (column.kind != Kind::number) return cell_text(column, row);
    return with_unit(column.measured ? cell_text(column, row) : number_text(column.number(row)), column.unit);
  }

  void want(std::size_t column) {
    if (wanted_.insert(column).second) open_.push_back(column);
  }

  CheckContext context(Standing standing = Standing::equation, std::optional<std::size_t> self = {}) {
    return {sheet_.plan.scope, prepared_.units, prepared_.study.policy, standing, self, &others_};
  }

  void explain_derived(std::size_t index) {
    const auto derived = std::find_if(sheet_.plan.derived.begin(), sheet_.plan.derived.end(),
                                      [&](const DerivedColumn& d) { return d.index == index; });
    const Definition& definition = derived->definition;
    out_ += '\n' + definition_text(definition) + '\n';
    explain_value(*definition.expression, definition.passage, context(), table_.columns[index]);
  }

  void explain_fill(std::size_t filled) {
    for (std::size_t i = 0; i < sheet_.plan.fills.size(); ++i) {
      const FillPlan& plan = sheet_.plan.fills[i];
      if (plan.filled != filled) continue;
      const auto& cells = sheet_.fills[i].cells;
      const auto cell =
          std::find_if(cells.begin(), cells.end(), [&](const FilledCell& c) { return c.row == row_; });
      if (cell == cells.end()) continue;
      const std::size_t last = cell->rule.value_or(plan.texts.size() - 1);
      for (std::size_t k = 0; k <= last; ++k) {
        Diagnostics none;
        const NodePtr expression = parse_expression(plan.texts[k], none);
        out_ += fmt::format("\nfill of {} = {}\n", symbol(filled), print(*expression));
        const CheckContext where = context(Standing::fill, plan.measured);
        if (k == cell->rule) {
          explain_value(*expression, plan.texts[k], where, table_.columns[filled]);
        } else {
          // A rule that gave nothing, so that the next one was tried or the gap stayed.
          explain_parts(*expression, plan.texts[k], where,
                        k < last ? "null, so the next rule is tried" : "null, so the gap stays");
        }
      }
    }
  }

  // The equation with the values put in, its result, and each value's source.
  void explain_value(const Node& expression, const Passage& passage, const CheckContext& where,
                     const Column& result) {
    const Null null = result.null(row_);
    std::string value = null ? fmt::format("null ({}), which began in {}", reason_name(null.reason()),
                                           origin_text(prepared_, null, row_))
                             : literal(result, row_);
    // What was asked for is said in the first line.
    if (&result == &table_.columns[asked_]) value.clear();
    explain_parts(expression, passage, where, value);
  }

  void explain_parts(const Node& expression, const Passage& passage, const CheckContext& where,
                     const std::string& result) {
    Substitution substitution(where, passage, table_, row_, prepared_.origins, &study_columns_);
    const NodePtr substituted = substitution.run(expression);
    const std::string put_in = print(*substituted);
    // A lone value stands below with where it comes from.
    const bool alone = substituted->children.empty();
    if (put_in != print(expression) && !alone) out_ += "  = " + put_in + '\n';
    if (put_in != result && !result.empty()) out_ += "  = " + result + '\n';
    std::vector<std::array<std::string, 3>> lines;
    for (const SubstitutedName& name : substitution.names()) {
      if (name.column) {
        lines.push_back({name.text, shown(*name.column), remark_on(*name.column)});
      } else {
        lines.push_back({name.text, name.value, "constant"});
      }
    }
    std::size_t widths[2] = {0, 0};
    for (const auto& line : lines) {
      for (std::size_t k = 0; k < 2; ++k) widths[k] = std::max(widths[k], display_width(line[k]));
    }
    for (const auto& line : lines) {
      out_ += "    ";
      for (std::size_t k = 0; k < 2; ++k) {
        out_ += line[k] + std::string(widths[k] - display_width(line[k]) + 2, ' ');
      }
      out_ += line[2] + '\n';
    }
    for (const SubstitutedCall& call : substitution.calls()) explain_call(call);
  }

  // Where the value of a column in this row comes from; derived and filled ones are explained later.
  std::string remark_on(std::size_t index) {
    const Column& column = table_.columns[index];
    if (!column.fills.empty()) {
      const Column& measured = table_.columns[index - 1];
      if (!measured.null(row_)) return remark_on(index - 1);
      want(index);
      return fmt::format("{}; {}", remark_on(index - 1),
                         column.null(row_) ? "not filled, see below" : "filled, see below");
    }
    if (column.linked) return remark_on_link(index);
    if (taken(index) != nullptr) return remark_on_taken(index);
    if (!column.measured) {
      want(index);
      return "derived, see below";
    }
    return remark_on_measured(table_, column, row_);
  }

  static std::string remark_on_measured(const Table& table, const Column& column, std::size_t row) {
    const std::string place = table.line_text(row);
    const std::string_view cell = trimmed(column.chunks[row / kChunkRows].source_at(row % kChunkRows));
    if (column.header.empty()) {
      return column.symbol == kSourceColumn ? "the file of the row" : "typed into the study";
    }
    if (cell.empty()) return place + ": the cell is empty";
    if (column.null(row) || column.kind == Kind::number ? cell_text(column, row) != cell : false) {
      return fmt::format("measured, {}: the cell reads \"{}\"", place, cell);
    }
    return "measured, " + place;
  }

  const TakenColumn* taken(std::size_t index) const {
    const auto& all = sheet_.plan.taken;
    const auto found =
        std::find_if(all.begin(), all.end(), [&](const TakenColumn& t) { return t.index == index; });
    return found == all.end() ? nullptr : &*found;
  }

  // Where a value that is taken over stands in the sheet that has it of its own.
  std::string remark_on_taken(std::size_t index) const {
    const RunSheet* sheet = &sheet_;
    std::size_t row = row_;
    std::size_t column = index;
    for (;;) {
      const auto& all = sheet->plan.taken;
      const auto found =
          std::find_if(all.begin(), all.end(), [&](const TakenColumn& t) { return t.index == column; });
      if (found == all.end()) break;
      if (found->of_headers)
        return fmt::format("what the header of its cell in {} says",
                           prepared_.shown_source(*sheet).model->name);
      column = sheet->taken_cells.empty() ? found->there : found->there_of(sheet->taken_cells[row]);
      row = sheet->taken_rows[row];
      sheet = &prepared_.source_of(*sheet);
    }
    const Table& there = sheet->table();
    const std::string from =
        fmt::format("taken over from {} row {}", sheet->model->name, there.place_of(row) + 1);
    if (there.columns[column].measured) {
      return from + ": " + remark_on_measured(there, there.columns[column], row);
    }
    return fmt::format("{}; see opensum explain {}.{} --row {}", from, sheet->model->name,
                       sheet->plan.scope.columns[column].symbol, there.place_of(row) + 1);
  }

  // Where in another sheet a borrowed value stands.
  std::string remark_on_link(std::size_t index) {
    const auto& all = sheet_.plan.borrowed;
    const auto borrowed =
        std::find_if(all.begin(), all.end(), [&](const BorrowedColumn& b) { return b.index == index; });
    const LinkPlan& plan = sheet_.plan.links[borrowed->link];
    const RowMap& map = sheet_.links[borrowed->link];
    const RunSheet& other = *prepared_.sheets[*plan.sheet];
    const Table& there = other.table();
    const std::size_t first = map.first[row_];
    if (first == RowMap::kNone) {
      std::string why;
      for (const LinkPlan::Keys& key : plan.keys) {
        const Null null = table_.columns[key.here].null(row_);
        if (null && why.empty()) {
          keys_text(plan);
          why = fmt::format(", for {} is null ({})", symbol(key.here), reason_name(null.reason()));
        }
      }
      return fmt::format("no row of {} belongs here{}", other.model->name, why);
    }
    const Column& source = there.columns[borrowed->there];
    const auto cell = [&](std::size_t row) {
      return fmt::format("{} row {} ({})", other.model->name, there.place_of(row) + 1, there.line_text(row));
    };
    const std::string by = keys_text(plan);
    const std::string more = source.measured ? ""
                                             : fmt::format("; see opensum explain {}.{}", other.model->name,
                                                           other.plan.scope.columns[borrowed->there].symbol);
    if (map.second[row_] == RowMap::kNone) return fmt::format("linked{}, from {}{}", by, cell(first), more);
    const std::size_t second = map.second[row_];
    return fmt::format("linked{}: {} of the way from {} in {} to {} in row {} (line {}){}", by,
                       number_text(map.part[row_], 6), shown_value(source, first), cell(first),
                       shown_value(source, second), there.place_of(second) + 1, there.lines[second], more);
  }

  // The keys of a link with their values here; derived ones are explained later.
  std::string keys_text(const LinkPlan& plan) {
    std::string text;
    for (const LinkPlan::Keys& key : plan.keys) {
      const Column& column = table_.columns[key.here];
      text += fmt::format("{}{} = {}", text.empty() ? " by " : ", ", symbol(key.here), shown(key.here));
      if (!column.measured && !column.linked && taken(key.here) == nullptr) want(key.here);
    }
    return text;
  }

  // Where a curve can be read backwards, and on which side of it a value lies for which it cannot.
  void explain_range(const Stage& stage) {
    const FitPlan& fit = prepared_.fits[stage.curve->fit];
    std::size_t place = 0;
    while (fit.sheets[place].sheet != stage.curve->sheet) ++place;
    const FitResult& result = prepared_.fit_results[stage.curve->fit][place];
    if (result.groups.empty()) return;
    const FitGroup& group = result.groups[stage.curve->own ? result.group_of_row[row_] : 0];
    const Curve& curve = group.curve;
    if (curve.state != CurveState::fitted) return;
    const auto x_text = [&](double x) {
      return fit.x.kind == Kind::date ? date_text(later(group.origin, x), true)
                                      : with_unit(number_text(x, kDigitsOfRange), fit.x.unit);
    };
    const auto y_text = [&](double y) { return with_unit(number_text(y, kDigitsOfRange), fit.y.unit); };
    const double ends[] = {curve_at(fit.curve, curve, curve.x_least),
                           curve_at(fit.curve, curve, curve.x_greatest)};
    const double low = std::min(ends[0], ends[1]);
    const double high = std::max(ends[0], ends[1]);
    out_ += fmt::format("      fitted from {} to {}, where the curve goes from {} to {}",
                        x_text(curve.x_least), x_text(curve.x_greatest), y_text(ends[0]), y_text(ends[1]));
    EvaluationNotes notes;
    const SheetColumns columns = HeldColumns::columns_of(sheet_);
    const std::vector<Chunk> values =
        evaluate_column(stage.value, {columns.columns, columns.rows, 0, prepared_.origins,
                                      std::make_shared<MadeTexts>(), notes, &study_columns_});
    const Chunk& chunk = values[row_ / kChunkRows];
    const std::size_t i = row_ % kChunkRows;
    if (!chunk.null_at(i) && (chunk.numbers[i] < low || chunk.numbers[i] > high))
      out_ += fmt::format("; {} is {} that", y_text(chunk.numbers[i]),
                          chunk.numbers[i] < low ? "below" : "above");
    out_ += '\n';
  }

  void explain_call(const SubstitutedCall& call) {
    out_ += fmt::format("    {} is {}\n", call.text, call.value);
    const Stage& stage = call.program.stages.front();
    if (stage.curve) {
      const FitPlan& fit = prepared_.fits[stage.curve->fit];
      out_ += fmt::format("      from the fit {} of {} to {} in {}\n", fit.model->model.text(),
                          fit.model->y.text(), fit.model->x.text(),
                          prepared_.sheets[stage.curve->sheet]->model->name);
      if (stage.op == Op::fit_solve) explain_range(stage);
      return;
    }
    EvaluationNotes notes;
    // A reduction of another sheet goes over its rows, whichever is the row here.
    const bool foreign = stage.over.has_value();
    const RunSheet& over = foreign ? *prepared_.sheets[stage.over->sheet] : sheet_;
    const SheetColumns columns = HeldColumns::columns_of(over);
    const WholeColumns whole{
        columns.columns, columns.rows,   0, prepared_.origins, std::make_shared<MadeTexts>(),
        notes,           &study_columns_};
    if (over.table().rows == 0) return;
    const bool in_groups = foreign && stage.over->groups_of;
    const std::size_t group_row = in_groups ? sheet_.taken_rows[row_] : 0;
    const RowsUsed used = rows_used(stage, foreign ? group_row : row_, whole);
    if (used.rows.empty() && used.nulls == 0) return;
    const RunSheet& named = over.model->hidden ? prepared_.source_of(over) : over;
    std::string line = fmt::format("      from {}{}", counted(used.rows.size(), "value"),
                                   foreign ? " of " + named.model->name : "");
    if (used.nulls > 0) line += fmt::format(" and {}", counted(used.nulls, "null"));
    Column operand;
    operand.kind = call.operand.kind;
    operand.unit = call.operand.unit;
    operand.measured = false;
    operand.chunks = used.values;
    const char* separator = ": ";
    for (std::size_t i = 0; i < std::min(used.rows.size(), kRowsListed); ++i) {
      const std::size_t row = used.rows[i];
      const std::size_t place = named.table().place_of(over.model->hidden ? over.taken_rows[row] : row);
      line += fmt::format("{}{} (row {}, {})", separator, shown_value(operand, row), place + 1,
                          over.table().file_of.empty() ? fmt::format("line {}", over.table().lines[row])
                                                       : over.table().line_text(row));
      separator = ", ";
    }
    if (used.rows.size() > kRowsListed) line += fmt::format(", and {} more", used.rows.size() - kRowsListed);
    out_ += line + '\n';
  }

  PreparedStudy& prepared_;
  HeldColumns study_columns_;
  PlannedOthers others_;
  const RunSheet& sheet_;
  const Table& table_;
  std::size_t row_;
  std::deque<std::size_t> open_;
  std::set<std::size_t> wanted_;
  std::size_t asked_ = 0;  // the column
  std::string out_;
};

// The derived columns, fills and plots that use a column.
std::vector<std::string> users_of(const PreparedStudy& prepared, const RunSheet& sheet, std::size_t column) {
  std::vector<std::string> users;
  const auto uses = [&](const Program& program) {
    const auto inputs = all_inputs(program);
    return std::find(inputs.begin(), inputs.end(), column) != inputs.end();
  };
  for (const FillPlan& fill : sheet.plan.fills) {
    if (std::any_of(fill.rules.begin(), fill.rules.end(), uses)) {
      users.push_back("fill of " + sheet.table().columns[fill.measured].symbol);
    }
  }
  for (const DerivedColumn& derived : sheet.plan.derived) {
    if (derived.good && uses(derived.program)) users.push_back(derived.definition.name);
  }
  for (const ClaimPlan& claim : sheet.plan.claims) {
    if (uses(claim.program)) users.push_back("claim \"" + claim.claim.text + '"');
  }
  for (const PlotModel& plot : prepared.study.plots) {
    const auto names = [&](const Passage& name) {
      const auto index = sheet.plan.scope.find_column(name.text(), false);
      return index && sheet.plan.scope.meant_by(*index) == column;
    };
    const std::vector<const Passage*> named = columns_named(plot);
    if (std::any_of(named.begin(), named.end(), [&](const Passage* name) { return names(*name); }))
      users.push_back("plot " + plot.name);
  }
  return users;
}

// How a column came to a sheet that has rows of another.
const char* words_for(const TakenColumn& taken) {
  if (taken.of_headers) return "what the headers of the cells say in sheet";
  return taken.cells.empty() ? "taken over from sheet" : "the cells of sheet";
}

std::string counts_text(const PreparedStudy& prepared, const RunSheet& sheet, const Column& column) {
  std::string text = fmt::format("  {} of {} known\n", column.rows - column.null_count(), column.rows);
  std::set<Reason> seen;
  for (std::size_t row = 0; row < column.rows; ++row) {
    const Null null = column.null(row);
    if (!null || !seen.insert(null.reason()).second) continue;
    std::size_t count = 0;
    for (std::size_t other = row; other < column.rows; ++other) {
      if (column.null(other).reason() == null.reason()) ++count;
    }
    text += fmt::format("  {} null: {}; first in row {}, began in {}\n", count, reason_name(null.reason()),
                        sheet.table().place_of(row) + 1, origin_text(prepared, null, row));
  }
  return text;
}

}  // namespace

std::string explain_column(const PreparedStudy& prepared, const RunSheet& sheet, std::size_t index) {
  const Table& table = sheet.table();
  const Column& column = table.columns[index];
  const Scope& scope = sheet.plan.scope;
  const std::string unit =
      column.kind == Kind::number ? '[' + column.unit.text() + ']' : kind_name(column.kind);
  std::string out = fmt::format("{}.{} \"{}\" {}: ", sheet.model->name, scope.columns[index].symbol,
                                table.columns[index].label, unit);
  const auto& taken = sheet.plan.taken;
  const auto found =
      std::find_if(taken.begin(), taken.end(), [&](const TakenColumn& t) { return t.index == index; });
  if (found != taken.end()) {
    out += fmt::format("{} {}\n", words_for(*found), prepared.shown_source(sheet).model->name);
  } else if (column.measured) {
    out += column.header.empty() ? "typed into the study\n"
                                 : fmt::format("measured, from {}, header `{}`\n", table.file, column.header);
  } else if (column.linked) {
    for (const BorrowedColumn& borrowed : sheet.plan.borrowed) {
      if (borrowed.index != index) continue;
      const LinkPlan& link = sheet.plan.links[borrowed.link];
      const RunSheet& there = *prepared.sheets[*link.sheet];
      out += fmt::format("looked up in {}, column {}\n", there.model->name,
                         there.plan.scope.columns[borrowed.there].symbol);
    }
  } else if (!column.fills.empty()) {
    out += "measured, with its gaps filled\n";
    for (const FillPlan& fill : sheet.plan.fills) {
      if (fill.filled != index) continue;
      for (const Passage& text : fill.texts) out += "  rule: " + text.text() + '\n';
    }
  } else {
    out += "derived\n";
    for (const DerivedColumn& derived : sheet.plan.derived) {
      if (derived.index != index) continue;
      out += "  " + definition_text(derived.definition) + '\n';
      std::vector<std::string> inputs;
      if (sheet.plan.grouped) inputs = derived.inputs;
      for (const std::size_t input : all_inputs(derived.program)) {
        if (sheet.plan.grouped) break;
        const Column& from = table.columns[input];
        inputs.push_back(fmt::format("{} [{}]{}", scope.columns[input].symbol,
                                     from.kind == Kind::number ? from.unit.text() : kind_name(from.kind),
                                     from.measured        ? ""
                                     : from.fills.empty() ? " (derived)"
                                                          : " (filled)"));
      }
      for (const std::string& used : names_used(*derived.definition.expression, scope)) {
        const ScopeConstant* constant = scope.find_constant(used);
        if (constant == nullptr || scope.find_column(used, false).has_value()) continue;
        inputs.push_back(
            fmt::format("{} = {} (constant)", used,
                        constant->type.kind == Kind::text
                            ? constant->text
                            : with_unit(number_text(constant->number, -1), constant->type.unit)));
      }
      out += fmt::format("  from {}\n  nulls {}\n", fmt::join(inputs, ", "), derived.null_rule);
    }
  }
  out += counts_text(prepared, sheet, column);
  const std::vector<std::string> users = users_of(prepared, sheet, index);
  if (!users.empty()) out += fmt::format("  used by {}\n", fmt::join(users, ", "));
  return out;
}

std::string explain_cell(PreparedStudy& prepared, const RunSheet& sheet, std::size_t column,
                         std::size_t row) {
  return CellExplainer(prepared, sheet, row).run(column);
}

}  // namespace opensum
