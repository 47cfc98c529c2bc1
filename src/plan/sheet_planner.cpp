// The plan of one sheet while it is made.
#include "plan/sheet_planner.h"

#include <algorithm>

#include "equation/checker.h"
#include "equation/names_used.h"
#include "equation/operation.h"
#include "equation/parser.h"
#include "message/nearest.h"
#include "plan/definitions.h"

namespace opensum {

std::string sort_name(const Passage& key) {
  constexpr std::string_view kDown = " down";
  const std::string& text = key.text();
  return text.ends_with(kDown) ? text.substr(0, text.size() - kDown.size()) : text;
}

SheetPlanner::SheetPlanner(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                           Standing standing, const Scope* source, Diagnostics& diagnostics)
    : sheet_(sheet),
      table_(table.table),
      settings_(table.unmatched),
      context_(context),
      standing_(standing),
      diagnostics_(diagnostics) {
  plan_.scope.sheet = sheet.name;
  plan_.scope.file = table_.file;
  plan_.scope.sheets = context.sheets;
  plan_.scope.constants = context.constants;
  plan_.scope.formulas = &context.formulas;
  plan_.scope.shared_symbols = table.shared_symbols;
  // Loops go over the measured columns, which are all that there is yet.
  Scope measured;
  for (const Column& column : table_.columns) {
    ScopeColumn entry;
    entry.symbol = column.symbol;
    entry.label = column.label;
    entry.header = column.header;
    measured.columns.push_back(std::move(entry));
  }
  for (std::size_t i = 0; source != nullptr && i < source->columns.size(); ++i) {
    const ScopeColumn& column = source->columns[i];
    const bool known = measured.find_column(column.symbol, false).has_value();
    if (!known && !column.linked) measured.columns.push_back(column);
  }
  definitions_ = read_definitions(sheet.equations, sheet.without, &measured, diagnostics);
  plan_.scope.lists = std::move(measured.lists);
}

void SheetPlanner::set_source(std::size_t number, const SheetPlanner& source, TakenColumns taken) {
  source_ = &source;
  plan_.source = number;
  plan_.scope.shared_symbols = source.plan_.scope.shared_symbols;
  plan_.grouped = sheet_.one_row_per.has_value();
  if (plan_.grouped) {
    for (const TakenColumn& key : taken.columns) plan_.keys.push_back(key.there);
  }
  plan_.taken = std::move(taken.columns);
  plan_.cell_headers = std::move(taken.cell_headers);
}

void SheetPlanner::open() {
  needs_of_keep_ = opensum::needs_of_keep(sheet_, table_);
  looks_through_links_ = keep_looks_through_links(sheet_, table_);
  const std::vector<const FillModel*> fills = match_fills();
  add_filled_columns(fills);
  add_measured();
  std::size_t taken = 0;
  for (std::size_t i = 0; i < table_.columns.size() && source_ != nullptr; ++i) {
    // Their kinds are known once the source is checked.
    plan_.scope.columns[i].broken = true;
    if (table_.columns[i].fills.empty()) plan_.taken[taken++].index = i;
  }
  add_derived();
  describe_derived();
  read_rules(fills);
}

std::optional<SheetPlanner::TakenType> SheetPlanner::type_of(TakenColumn& taken, bool report) {
  const Scope& there = source_->plan_.scope;
  if (taken.of_headers) return TakenType{plan_.cell_headers->type, nullptr, false};
  const ScopeColumn& first = there.columns[taken.there];
  if (first.broken) return std::nullopt;
  TakenType found{first.type, first.data, first.keeps_limits};
  taken.to_first.clear();
  const auto words = [](const Type& type) {
    return type.kind == Kind::number ? "in " + type.unit.text() : std::string(kind_name(type.kind));
  };
  for (const std::size_t cell : taken.cells) {
    const ScopeColumn& column = there.columns[cell];
    if (column.broken) return std::nullopt;
    if (column.type.kind != first.type.kind || mismatch(column.type.unit, first.type.unit)) {
      if (report) {
        diagnostics_.add(Code::cells_differ, sheet_.one_row_per_cell->front().place(),
                         {first.symbol, column.symbol, words(first.type), words(column.type)});
      }
      return std::nullopt;
    }
    found.type.clock = found.type.clock || column.type.clock;
    const bool unreadable = column.data != nullptr && column.data->unreadable_count > 0;
    if (unreadable && (found.data == nullptr || found.data->unreadable_count == 0)) found.data = column.data;
    taken.to_first.push_back(conversion(column.type.unit, first.type.unit));
  }
  return found;
}

void SheetPlanner::settle_taken(std::size_t taken) {
  const auto type = type_of(plan_.taken[taken], true);
  if (!type) return;
  ScopeColumn& entry = plan_.scope.columns[plan_.taken[taken].index];
  entry.type = type->type;
  entry.data = type->data;
  entry.measured = true;
  entry.keeps_limits = type->keeps_limits;
  table_.columns[plan_.taken[taken].index].keeps_limits = type->keeps_limits;
  entry.broken = false;
  if (!entry.filled) return;
  ScopeColumn& filled = plan_.scope.columns[*entry.filled];
  filled.type = type->type;
  filled.broken = false;
}

std::optional<SheetTable> SheetPlanner::table_of_keep() {
  SheetTable measured;
  measured.table.name = table_.name;
  if (source_ == nullptr) {
    measured.table.file = table_.file;
    for (const Column& column : table_.columns) {
      if (column.measured && !column.linked)
        measured.table.columns.emplace_back(static_cast<const ColumnHead&>(column));
    }
    return measured;
  }
  const Scope& there = source_->plan_.scope;
  const std::vector<std::string>& needs = needs_of_keep_.names;
  measured.table.file = source_->table_.file;
  for (TakenColumn& taken : plan_.taken) {
    Column column = table_.columns[taken.index];
    const bool needed = std::find(needs.begin(), needs.end(), column.symbol) != needs.end();
    const auto type = type_of(taken, false);
    // Its own error is reported where it stands.
    if (needed && !type) return std::nullopt;
    if (type) {
      column.kind = type->type.kind;
      column.clock = type->type.clock;
      column.unit = type->type.unit;
    }
    column.measured = true;
    column.keeps_limits = type && type->keeps_limits;
    if (type && type->data != nullptr) {
      column.unreadable = type->data->unreadable;
      column.unreadable_count = type->data->unreadable_count;
    }
    measured.table.columns.push_back(std::move(column));
  }
  // Columns that are not taken over are known by the name of their sheet.
  for (const MemberUse& member : needs_of_keep_.members) {
    if (member.owner != there.sheet) continue;
    const auto found = there.find_column(member.column, true);
    if (!found) continue;
    const std::size_t index = there.meant_by(*found);
    if (there.columns[index].broken) return std::nullopt;
    Column column;
    column.symbol = member.owner + "." + member.column;
    if (measured.table.find(column.symbol) != nullptr) continue;
    column.linked = true;
    column.kind = there.columns[index].type.kind;
    column.clock = there.columns[index].type.clock;
    column.unit = there.columns[index].type.unit;
    column.keeps_limits = there.columns[index].keeps_limits;
    plan_.keep_also.push_back({measured.table.columns.size(), index});
    measured.table.columns.push_back(std::move(column));
  }
  return measured;
}

void SheetPlanner::check_rows(SheetTable table, KeepLinkPlans links) {
  plan_.keep = opensum::plan_keep(sheet_, std::move(table), context_, diagnostics_);
  if (plan_.keep) {
    plan_.keep->plan.links = std::move(links.links);
    plan_.keep->plan.borrowed = std::move(links.borrowed);
  }
  if (source_ != nullptr) return;
  // Which cells that cannot be read count is known with the rows.
  for (Column& column : table_.columns) {
    column.unreadable.clear();
    column.unreadable_count = 0;
  }
}

void SheetPlanner::plan_keep() {
  const std::vector<const FillModel*> fills = match_fills();
  add_measured();
  // That they are filled is all that matters here: a condition cannot use them.
  for (std::size_t i = 0; i < fills.size(); ++i) {
    if (fills[i] != nullptr) plan_.scope.columns[i].filled = i;
  }
  const NodePtr condition = parse_expression(*sheet_.keep, diagnostics_);
  if (!condition) return;
  only_needed_by(*condition);
  add_derived();
  std::vector<std::vector<std::size_t>> needs(plan_.derived.size());
  for (std::size_t i = 0; i < needs.size(); ++i) {
    const auto names = names_used(*plan_.derived[i].definition.expression, plan_.scope);
    for (std::size_t k = 0; k < needs.size(); ++k) {
      const std::string& name = plan_.derived[k].definition.name;
      if (std::find(names.begin(), names.end(), name) != names.end()) needs[i].push_back(k);
    }
  }
  // A cycle is reported with the equations; those in one stay broken here.
  std::vector<std::vector<std::size_t>> cycles;
  plan_.order = dependency_order(needs, cycles);
  if (!cycles.empty()) return;
  for (const std::size_t i : plan_.order) check_derived(i, nullptr);
  close();
  CheckContext where = context(nullptr);
  where.uncertain = nullptr;
  const CheckedPtr tree = check_condition(*condition, *sheet_.keep, where, diagnostics_);
  if (!tree) return;
  ClaimPlan claim;
  claim.claim.text = print(*condition);
  claim.claim.passage = *sheet_.keep;
  claim.program = compile(*tree);
  collect_conditions(*tree);
  plan_.claims.push_back(std::move(claim));
}

CheckContext SheetPlanner::context(OtherSheets* others) const {
  return {plan_.scope, context_.units, context_.policy, standing_, std::nullopt, others, &context_.uncertain};
}

// The fill of each column, by its exact symbol or else by the one pattern that matches.
std::vector<const FillModel*> SheetPlanner::match_fills() {
  std::vector<const FillModel*> found(table_.columns.size(), nullptr);
  for (const FillModel& fill : sheet_.fills) {
    bool used = false;
    for (std::size_t i = 0; i < found.size(); ++i) {
      if (table_.columns[i].linked || !matches_pattern(table_.columns[i].symbol, fill.symbol.text()))
        continue;
      used = true;
      if (found[i] != nullptr && found[i]->is_pattern() && fill.is_pattern()) {
        diagnostics_.add(Code::fill_two_patterns, fill.symbol.place(),
                         {table_.columns[i].symbol, found[i]->symbol.text(), fill.symbol.text()});
      } else if (found[i] == nullptr || found[i]->is_pattern()) {
        found[i] = &fill;
      }
    }
    if (!used && standing_ == Standing::equation) report_unmatched(fill);
  }
  return found;
}

void SheetPlanner::report_unmatched(const FillModel& fill) {
  const std::string& symbol = fill.symbol.text();
  const bool derived = std::any_of(definitions_.begin(), definitions_.end(),
                                   [&](const Definition& d) { return d.name == symbol; });
  if (derived) {
    diagnostics_.add(Code::fill_of_derived, fill.symbol.place(), {symbol});
    return;
  }
  std::vector<std::string> symbols;
  for (const Column& column : table_.columns) symbols.push_back(column.symbol);
  diagnostics_.add(Code::fill_of_nothing, fill.symbol.place(), {symbol, nearest_name(symbol, symbols)});
}

// Puts a column after each one that has a fill; `fills` keeps step.
void SheetPlanner::add_filled_columns(const std::vector<const FillModel*>& fills) {
  std::deque<Column> columns;
  for (std::size_t i = 0; i < fills.size(); ++i) {
    columns.push_back(std::move(table_.columns[i]));
    if (fills[i] == nullptr) continue;
    const Column& measured = columns.back();
    Column filled;
    filled.symbol = measured.symbol + "_filled";
    filled.label = measured.label + " (filled)";
    filled.fills = measured.symbol;
    filled.kind = measured.kind;
    filled.unit = measured.unit;
    filled.unit_stated = measured.unit_stated;
    filled.measured = false;
    filled.style = measured.style;
    filled.digits = measured.digits;
    filled.storage = measured.storage;
    filled.origin = context_.origins.add(sheet_.name, filled.symbol);
    columns.push_back(std::move(filled));
  }
  table_.columns = std::move(columns);
}

void SheetPlanner::add_measured() {
  Scope& scope = plan_.scope;
  for (std::size_t i = 0; i < table_.columns.size(); ++i) {
    const Column& column = table_.columns[i];
    ScopeColumn entry;
    entry.symbol = column.fills.empty() ? column.symbol : column.fills;
    entry.label = column.label;
    entry.header = column.header;
    entry.type.kind = column.kind;
    entry.type.clock = column.clock;
    entry.type.unit = column.unit;
    // What is taken over from another sheet counts as measured here.
    entry.measured = column.fills.empty() && !column.linked;
    entry.linked = column.linked;
    entry.keeps_limits = column.keeps_limits;
    if (column.fills.empty()) {
      entry.data = &column;
    } else {
      scope.columns.back().filled = i;
      FillPlan fill;
      fill.measured = i - 1;
      fill.filled = i;
      plan_.fills.push_back(std::move(fill));
    }
    scope.columns.push_back(std::move(entry));
    if (!column.measured_of.empty()) {
      scope.columns.back().only_as_measured = true;
      scope.columns[*scope.find_column(column.measured_of, false)].as_measured = i;
    }
    if (scope.find_constant(column.symbol) != nullptr && standing_ == Standing::equation) {
      diagnostics_.add(Code::column_is_constant, sheet_.place, {column.symbol});
    }
  }
}

// Keeps those definitions that an expression needs, directly or not.
void SheetPlanner::only_needed_by(const Node& expression) {
  std::vector<std::string> open = names_used(expression, plan_.scope);
  std::vector<bool> needed(definitions_.size(), false);
  while (!open.empty()) {
    const std::string name = open.back();
    open.pop_back();
    for (std::size_t i = 0; i < definitions_.size(); ++i) {
      if (needed[i] || definitions_[i].name != name) continue;
      needed[i] = true;
      for (std::string& used : names_used(*definitions_[i].expression, plan_.scope)) {
        open.push_back(std::move(used));
      }
    }
  }
  std::vector<Definition> kept;
  for (std::size_t i = 0; i < definitions_.size(); ++i) {
    if (needed[i]) kept.push_back(std::move(definitions_[i]));
  }
  definitions_ = std::move(kept);
}

void SheetPlanner::add_derived() {
  Scope& scope = plan_.scope;
  for (Definition& definition : definitions_) {
    const Place place = definition.passage.place(definition.name_span);
    if (scope.find_column(definition.name, false).has_value()) {
      diagnostics_.add(Code::definition_of_column, place, {definition.name});
      continue;
    }
    if (scope.find_constant(definition.name) != nullptr) {
      diagnostics_.add(Code::definition_of_constant, place, {definition.name});
      continue;
    }
    ScopeColumn entry;
    entry.symbol = definition.name;
    entry.label = definition.label.empty() ? definition.name : definition.label;
    entry.measured = false;
    entry.broken = true;
    DerivedColumn derived;
    derived.index = scope.columns.size();
    derived.definition = std::move(definition);
    scope.columns.push_back(std::move(entry));
    plan_.derived.push_back(std::move(derived));
  }
  report_taken_names();
}

// Names of filled columns are for output only, but there they must be the only ones.
void SheetPlanner::report_taken_names() {
  for (const FillPlan& fill : plan_.fills) {
    const Column& filled = table_.columns[fill.filled];
    for (std::size_t i = 0; i < plan_.scope.columns.size(); ++i) {
      const ScopeColumn& other = plan_.scope.columns[i];
      if (i == fill.filled || (other.symbol != filled.symbol && other.label != filled.label)) continue;
      diagnostics_.add(Code::fill_name_taken, sheet_.place,
                       {filled.fills, other.symbol == filled.symbol ? filled.symbol : filled.label});
    }
  }
}

void SheetPlanner::describe_derived() {
  Scope& scope = plan_.scope;
  for (const ColumnSettings* settings : settings_) {
    const bool known = settings->is_pattern() &&
                       std::any_of(scope.columns.begin(), scope.columns.end(), [&](const ScopeColumn& c) {
                         return matches_pattern(c.symbol, settings->symbol);
                       });
    if (known) continue;
    const auto index = scope.find_column(settings->symbol, false);
    if (!index) {
      diagnostics_.add(Code::symbol_not_found, settings->place,
                       {settings->symbol, table_.file, nearest_name(settings->symbol, scope.names())});
    } else if (settings->label) {
      scope.columns[*index].label = *settings->label;
    }
  }
}

void SheetPlanner::read_rules(const std::vector<const FillModel*>& fills) {
  for (const FillModel* model : fills) {
    if (model == nullptr) continue;
    fill_models_.push_back(model);
    std::vector<NodePtr>& rules = rules_.emplace_back();
    for (const Passage& rule : model->rules) rules.push_back(parse_expression(rule, diagnostics_));
  }
}

void SheetPlanner::check_fill(std::size_t index, OtherSheets* others) {
  FillPlan& fill = plan_.fills[index];
  for (std::size_t k = 0; k < rules_[index].size(); ++k) {
    const Node* expression = rules_[index][k].get();
    if (expression == nullptr) continue;
    const Passage& rule = fill_models_[index]->rules[k];
    CheckContext where = context(others);
    where.standing = Standing::fill;
    where.uncertain = nullptr;
    where.self = fill.measured;
    const CheckedPtr tree = opensum::check_fill(*expression, rule, where, diagnostics_);
    if (!tree) continue;
    if (tree->type.clock)
      plan_.scope.columns[fill.filled].type.clock = table_.columns[fill.filled].clock = true;
    fill.texts.push_back(rule);
    fill.rules.push_back(compile(*tree));
  }
}

void SheetPlanner::check_derived(std::size_t index, OtherSheets* others) {
  DerivedColumn& derived = plan_.derived[index];
  Diagnostics found;
  const CheckedPtr tree = check_definition(derived.definition, context(others), found);
  for (Diagnostic diagnostic : found.all()) {
    if (diagnostic.context.empty()) diagnostic.context = derived.definition.turn;
    diagnostics_.add(std::move(diagnostic));
  }
  if (!tree) return;
  derived.type = tree->type;
  derived.program = compile(*tree);
  derived.null_rule = null_rule_of(*tree);
  for (const std::size_t input : all_inputs(derived.program)) {
    const ScopeColumn& column = plan_.scope.columns[input];
    derived.inputs.push_back(!column.filled ? column.symbol : "measured(" + column.symbol + ")");
  }
  // Columns of other sheets over which it reduces are no columns here.
  if (plan_.grouped) {
    const SheetPlanner& shown = source_->model().hidden ? *source_->source_ : *source_;
    for (const std::string& name :
         names_inside_reductions(*derived.definition.expression, source_->plan_.scope)) {
      if (!source_->plan_.scope.find_column(name, true)) continue;
      derived.inputs.push_back(shown.model().name + "." + name);
    }
    for (std::string& name :
         groups_named_inside(*derived.definition.expression, plan_.scope, source_->plan_.scope)) {
      if (std::find(derived.inputs.begin(), derived.inputs.end(), name) == derived.inputs.end())
        derived.inputs.push_back(std::move(name));
    }
  }
  for (const MemberUse& member : members_used(*derived.definition.expression, plan_.scope)) {
    const std::string name = member.owner + "." + member.column;
    if (std::find(derived.inputs.begin(), derived.inputs.end(), name) == derived.inputs.end()) {
      derived.inputs.push_back(name);
    }
  }
  derived.good = true;
  ScopeColumn& entry = plan_.scope.columns[derived.index];
  entry.type = derived.type;
  entry.broken = false;
}

void SheetPlanner::check_claims(OtherSheets* others) {
  for (Claim& claim : read_claims(sheet_.claims, sheet_.without, diagnostics_)) {
    const CheckedPtr tree = check_condition(*claim.condition, claim.passage, context(others), diagnostics_);
    if (!tree) continue;
    ClaimPlan plan;
    plan.claim = std::move(claim);
    plan.program = compile(*tree);
    plan_.claims.push_back(std::move(plan));
  }
}

void SheetPlanner::plan_sorting() {
  for (const Passage& key : sheet_.sort_by) {
    const std::string name = sort_name(key);
    const bool down = key.text() != name;
    const auto index = plan_.scope.find_column(name, true);
    if (!index) {
      // `x desc` as others write it.
      const std::size_t blank = name.rfind(' ');
      const std::string last = blank == std::string::npos ? "" : name.substr(blank + 1);
      const std::string before = name.substr(0, std::min(blank, name.size()));
      const bool falls = last == "desc" || last == "DESC" || last == "descending";
      const bool rises = last == "asc" || last == "ASC" || last == "ascending" || last == "up";
      if ((falls || rises) && plan_.scope.find_column(before, true)) {
        diagnostics_.add(Code::other_word, key.place(), {last, "\"" + before + (falls ? " down\"" : "\"")});
      } else {
        diagnostics_.add(Code::unknown_column, key.place(),
                         {name, sheet_.name, nearest_name(name, plan_.scope.names())});
      }
      continue;
    }
    plan_.sort_by.push_back({plan_.scope.meant_by(*index), down});
  }
}

void SheetPlanner::plan_showing() {
  for (const Passage& name : sheet_.show) {
    const auto index = plan_.scope.find_column(name.text(), true);
    if (!index) {
      diagnostics_.add(Code::unknown_column, name.place(),
                       {name.text(), sheet_.name, nearest_name(name.text(), plan_.scope.names())});
      continue;
    }
    const auto measured = *index;
    table_.shown.push_back(measured);
    // What was filled is shown beside what was measured.
    const std::size_t meant = plan_.scope.meant_by(measured);
    if (meant != measured) table_.shown.push_back(meant);
  }
}

Column& SheetPlanner::add_column(std::size_t index) {
  const ScopeColumn& entry = plan_.scope.columns[index];
  Column& column = table_.columns.emplace_back();
  column.symbol = entry.symbol;
  column.label = entry.label;
  column.kind = entry.type.kind;
  column.clock = entry.type.clock;
  column.unit = entry.type.unit;
  column.measured = false;
  column.origin = context_.origins.add(sheet_.name, entry.symbol);
  return column;
}

// What only the source's table says of a column that is taken over.
void SheetPlanner::close_taken() {
  for (const TakenColumn& taken : plan_.taken) {
    const Column& from = source_->table_.columns[taken.there];
    for (std::size_t i = taken.index; i < std::min(taken.index + 2, table_.columns.size()); ++i) {
      Column& column = table_.columns[i];
      // The column after it may hold the values with gaps filled.
      const bool twin = i > taken.index;
      if (twin && column.fills != table_.columns[taken.index].symbol) break;
      if (taken.of_headers) {
        column.kind = plan_.cell_headers->type.kind;
        column.unit = plan_.cell_headers->type.unit;
        column.unit_stated = !column.unit.is_one();
        continue;
      }
      column.kind = from.kind;
      column.unit = from.unit;
      column.unit_stated = from.unit_stated;
      column.clock = column.clock || from.clock;
      column.in_utc = from.in_utc;
      column.style = from.style;
      column.holds_clocks = from.holds_clocks;
      column.storage = from.storage;
      if (column.digits == 0) column.digits = from.digits;
      if (!twin) column.measured = from.measured;
    }
  }
  table_.file = source_->table_.file;
}

void SheetPlanner::close() {
  if (source_ != nullptr) close_taken();
  if (standing_ == Standing::equation) {
    plan_sorting();
    plan_showing();
  }
  for (const DerivedColumn& derived : plan_.derived) {
    Column& column = add_column(derived.index);
    column.unit_stated = derived.definition.unit.has_value();
    for (const ColumnSettings* settings : settings_) {
      if (matches_pattern(column.symbol, settings->symbol)) column.digits = settings->digits.value_or(0);
    }
  }
  // What links lead to, and uncertainties that were asked for, as they came.
  while (table_.columns.size() < plan_.scope.columns.size()) add_column(table_.columns.size()).linked = true;
}

// The lists of complete(…) and the texts that columns are compared with, for what is said of a selection.
void SheetPlanner::collect_conditions(const Checked& node) {
  if (node.op == Op::complete) {
    std::vector<std::size_t>& columns = plan_.complete.emplace_back();
    for (const CheckedPtr& arg : node.args) {
      if (arg->op == Op::column) columns.push_back(arg->column);
    }
  }
  const bool compares = node.op == Op::text_equal || node.op == Op::text_not_equal || node.op == Op::is_any;
  for (const CheckedPtr& arg : node.args) {
    if (!compares || arg->op != Op::text_constant) continue;
    for (const CheckedPtr& other : node.args) {
      if (other->op == Op::column) plan_.compared.push_back({other->column, arg->text, arg->span});
    }
  }
  for (const CheckedPtr& arg : node.args) collect_conditions(*arg);
}

std::shared_ptr<KeepPlan> plan_keep(const SheetModel& sheet, SheetTable table, const PlanContext& context,
                                    Diagnostics& diagnostics) {
  auto keep = std::make_shared<KeepPlan>();
  keep->table = std::move(table);
  SheetPlanner planner(sheet, keep->table, context, Standing::keep, nullptr, diagnostics);
  planner.plan_keep();
  keep->plan = std::move(planner.plan());
  if (keep->plan.claims.empty()) return nullptr;
  for (const std::size_t i : keep->plan.order) {
    if (!keep->plan.derived[i].good) return nullptr;
  }
  return keep;
}

}  // namespace opensum
