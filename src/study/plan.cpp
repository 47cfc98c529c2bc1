// From definitions to an order of computing.
#include "study/plan.h"

#include <algorithm>

#include "compute/evaluator.h"
#include "equation/parser.h"
#include "message/nearest.h"
#include "table/header.h"

namespace opensum {
namespace {

// Definitions of several passages, later ones of a name reported.
std::vector<Definition> read_definitions(const std::vector<Passage>& passages, Diagnostics& diagnostics) {
  std::vector<Definition> all;
  for (const Passage& passage : passages) {
    for (Definition& definition : parse_definitions(passage, diagnostics)) {
      const auto same = std::find_if(all.begin(), all.end(),
                                     [&](const Definition& d) { return d.name == definition.name; });
      if (same == all.end()) {
        all.push_back(std::move(definition));
        continue;
      }
      const Place first = same->passage.place(same->name_span);
      diagnostics.add(Code::definition_twice, definition.passage.place(definition.name_span),
                      {definition.name, "it is first defined on line " +
                                            std::to_string(first.source->position(first.span.begin).line)});
    }
  }
  return all;
}

std::string ring_text(const std::vector<std::size_t>& ring, const std::vector<std::string>& names) {
  std::string text;
  for (const std::size_t i : ring) text += names[i] + " → ";
  return text + names[ring.front()];
}

// Which of `names` each expression needs, as indices.
std::vector<std::vector<std::size_t>> needs_of(const std::vector<const Definition*>& definitions,
                                               const Scope& scope, const std::vector<std::string>& names) {
  std::vector<std::vector<std::size_t>> needs(definitions.size());
  for (std::size_t i = 0; i < definitions.size(); ++i) {
    for (const std::string& used : names_used(*definitions[i]->expression, scope)) {
      const auto found = std::find(names.begin(), names.end(), used);
      if (found != names.end()) needs[i].push_back(static_cast<std::size_t>(found - names.begin()));
    }
  }
  return needs;
}

// Puts definitions in order; those in a ring are reported and marked in `in_ring`.
std::vector<std::size_t> order_of(const std::vector<const Definition*>& definitions, const Scope& scope,
                                  const std::vector<std::string>& names, std::vector<bool>& in_ring,
                                  Diagnostics& diagnostics) {
  std::vector<std::vector<std::size_t>> rings;
  const auto order = dependency_order(needs_of(definitions, scope, names), rings);
  in_ring.assign(definitions.size(), false);
  for (const std::vector<std::size_t>& ring : rings) {
    const Definition& first = *definitions[ring.front()];
    diagnostics.add(Code::cycle, first.passage.place(first.name_span), {ring_text(ring, names)});
    for (const std::size_t i : ring) in_ring[i] = true;
  }
  return order;
}

void collect_null_rules(const Checked& node, std::vector<std::string>& rules) {
  if (node.op >= Op::row_sum && node.op <= Op::row_max_name && node.op != Op::row_count) {
    std::string rule = node.nulls.skip ? "skipped along the row" : "propagated along the row";
    if (node.nulls.at_least > 1) rule += ", at least " + std::to_string(node.nulls.at_least);
    if (std::find(rules.begin(), rules.end(), rule) == rules.end()) rules.push_back(rule);
  }
  const bool down = needs_whole_column(node.op) && node.op <= Op::col_quantile && node.op != Op::col_count;
  if (down) {
    std::string rule = node.nulls.skip ? "left out down the column" : "propagated down the column";
    if (node.nulls.at_least > 1) rule += ", at least " + std::to_string(node.nulls.at_least);
    if (std::find(rules.begin(), rules.end(), rule) == rules.end()) rules.push_back(rule);
  }
  if (node.op >= Op::sum_so_far && node.op <= Op::moving_sd) {
    const std::string rule = node.nulls.skip ? "left out of the sequence" : "propagated along the sequence";
    if (std::find(rules.begin(), rules.end(), rule) == rules.end()) rules.push_back(rule);
  }
  for (const CheckedPtr& arg : node.args) collect_null_rules(*arg, rules);
}

std::string null_rule_of(const Checked& tree) {
  std::vector<std::string> rules;
  collect_null_rules(tree, rules);
  std::string text;
  for (const std::string& rule : rules) text += (text.empty() ? "" : "; ") + rule;
  return text.empty() ? "propagated" : text;
}

}  // namespace

UnitSystem plan_units(const std::vector<OwnUnit>& own, Diagnostics& diagnostics) {
  UnitSystem units;
  for (const OwnUnit& unit : own) {
    const std::string& symbol = unit.symbol.text();
    if (symbol_of(symbol) != symbol) {
      diagnostics.add(Code::bad_name, unit.symbol.place(), {symbol});
      continue;
    }
    if (units.knows(symbol)) {
      diagnostics.add(Code::unit_taken, unit.symbol.place(), {symbol});
      continue;
    }
    const UnitReading reading = units.define(symbol, unit.definition.text());
    if (!reading.unit) {
      report_unit_fault(reading, unit.definition, {0, unit.definition.text().size()}, diagnostics);
    }
  }
  return units;
}

std::vector<ScopeConstant> plan_constants(const std::vector<Passage>& passages, const UnitSystem& units,
                                          const NullPolicy& policy, Diagnostics& diagnostics) {
  const std::vector<Definition> definitions = read_definitions(passages, diagnostics);
  Scope scope;
  std::vector<std::string> names;
  std::vector<const Definition*> pointers;
  for (const Definition& definition : definitions) {
    ScopeConstant constant;
    constant.name = definition.name;
    constant.label = definition.label;
    constant.broken = true;
    scope.constants.push_back(constant);
    names.push_back(definition.name);
    pointers.push_back(&definition);
  }
  std::vector<bool> in_ring;
  for (const std::size_t i : order_of(pointers, scope, names, in_ring, diagnostics)) {
    if (in_ring[i]) continue;
    const CheckedPtr tree = check_definition(definitions[i], {scope, units, policy}, diagnostics);
    if (!tree) continue;
    ScopeConstant& constant = scope.constants[i];
    constant.type = tree->type;
    const Program program = compile(*tree);
    if (!program.stages.empty()) {
      diagnostics.add(Code::reduction_without_rows,
                      definitions[i].passage.place(definitions[i].expression->span),
                      {program.stages.front().name});
      continue;
    }
    const Chunk value = Evaluator(program, 0).run({}, 1);
    if (const Null null = value.null_at(0)) {
      diagnostics.add(Code::constant_is_null, definitions[i].passage.place(definitions[i].name_span),
                      {constant.name, reason_name(null.reason())});
      continue;
    }
    constant.broken = false;
    if (constant.type.kind == Kind::text) {
      constant.text = std::string(value.texts[0]);
    } else {
      constant.number = value.numbers[0];
    }
  }
  return scope.constants;
}

namespace {

// The plan of one sheet while it is made.
class SheetPlanner {
 public:
  SheetPlanner(const SheetModel& sheet, SheetTable& table, const PlanContext& context, Standing standing,
               Diagnostics& diagnostics)
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
    plan_.scope.shared_symbols = table.shared_symbols;
    definitions_ = read_definitions(sheet.equations, diagnostics);
  }

  SheetPlan run() {
    const std::vector<const FillModel*> fills = match_fills();
    add_filled_columns(fills);
    add_measured();
    add_derived();
    describe_derived();
    check_fills(fills);
    check_derived();
    append_columns();
    check_claims();
    return std::move(plan_);
  }

  SheetPlan run_keep() {
    const std::vector<const FillModel*> fills = match_fills();
    add_measured();
    // That they are filled is all that matters here: a condition cannot use them.
    for (std::size_t i = 0; i < fills.size(); ++i) {
      if (fills[i] != nullptr) plan_.scope.columns[i].filled = static_cast<int>(i);
    }
    const NodePtr condition = parse_expression(*sheet_.keep, diagnostics_);
    if (!condition) return std::move(plan_);
    only_needed_by(*condition);
    add_derived();
    check_derived();
    append_columns();
    const CheckedPtr tree = check_condition(*condition, *sheet_.keep, check_context(), diagnostics_);
    if (!tree) return std::move(plan_);
    ClaimPlan claim;
    claim.claim.text = print(*condition);
    claim.claim.passage = *sheet_.keep;
    claim.program = compile(*tree);
    collect_conditions(*tree);
    plan_.claims.push_back(std::move(claim));
    return std::move(plan_);
  }

 private:
  CheckContext check_context() const { return {plan_.scope, context_.units, context_.policy, standing_, -1}; }

  // The fill of each column, by its exact symbol or else by the one pattern that matches.
  std::vector<const FillModel*> match_fills() {
    std::vector<const FillModel*> found(table_.columns.size(), nullptr);
    for (const FillModel& fill : sheet_.fills) {
      bool used = false;
      for (std::size_t i = 0; i < found.size(); ++i) {
        if (!matches_pattern(table_.columns[i].symbol, fill.symbol.text())) continue;
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

  void report_unmatched(const FillModel& fill) {
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

  // Puts a column behind each one that has a fill; `fills` keeps step.
  void add_filled_columns(std::vector<const FillModel*> fills) {
    std::vector<Column> columns;
    columns.reserve(table_.columns.size() + definitions_.size() + fills.size());
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

  void add_measured() {
    table_.columns.reserve(table_.columns.size() + definitions_.size());
    Scope& scope = plan_.scope;
    for (std::size_t i = 0; i < table_.columns.size(); ++i) {
      const Column& column = table_.columns[i];
      ScopeColumn entry;
      entry.symbol = column.fills.empty() ? column.symbol : column.fills;
      entry.label = column.label;
      entry.header = column.header;
      entry.type.kind = column.kind;
      entry.type.unit = column.unit;
      entry.measured = column.measured;
      if (column.measured) {
        entry.data = &column;
      } else {
        scope.columns.back().filled = static_cast<int>(i);
        FillPlan fill;
        fill.measured = i - 1;
        fill.filled = i;
        plan_.fills.push_back(std::move(fill));
      }
      scope.columns.push_back(std::move(entry));
      if (scope.find_constant(column.symbol) != nullptr && standing_ == Standing::equation) {
        diagnostics_.add(Code::column_is_constant, sheet_.place, {column.symbol});
      }
    }
  }

  // Keeps those definitions that an expression needs, directly or not.
  void only_needed_by(const Node& expression) {
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

  void add_derived() {
    Scope& scope = plan_.scope;
    for (Definition& definition : definitions_) {
      const Place place = definition.passage.place(definition.name_span);
      if (scope.find_column(definition.name, false) >= 0) {
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
  void report_taken_names() {
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

  void describe_derived() {
    Scope& scope = plan_.scope;
    for (const ColumnSettings* settings : settings_) {
      const int index = scope.find_column(settings->symbol, false);
      if (index < 0) {
        diagnostics_.add(Code::symbol_not_found, settings->place,
                         {settings->symbol, table_.file, nearest_name(settings->symbol, scope.names())});
      } else if (settings->label) {
        scope.columns[static_cast<std::size_t>(index)].label = *settings->label;
      }
    }
  }

  void check_fills(const std::vector<const FillModel*>& models) {
    std::size_t next = 0;
    for (const FillModel* model : models) {
      if (model == nullptr) continue;
      FillPlan& fill = plan_.fills[next++];
      for (const Passage& rule : model->rules) {
        const NodePtr expression = parse_expression(rule, diagnostics_);
        if (!expression) continue;
        CheckContext context = check_context();
        context.standing = Standing::fill;
        context.self = static_cast<int>(fill.measured);
        const CheckedPtr tree = check_fill(*expression, rule, context, diagnostics_);
        if (!tree) continue;
        fill.texts.push_back(rule);
        fill.rules.push_back(compile(*tree));
      }
    }
  }

  void check_derived() {
    std::vector<const Definition*> pointers;
    std::vector<std::string> names;
    for (const DerivedColumn& derived : plan_.derived) {
      pointers.push_back(&derived.definition);
      names.push_back(derived.definition.name);
    }
    std::vector<bool> in_ring;
    plan_.order = order_of(pointers, plan_.scope, names, in_ring, diagnostics_);
    for (const std::size_t i : plan_.order) {
      DerivedColumn& derived = plan_.derived[i];
      if (in_ring[i]) continue;
      const CheckedPtr tree = check_definition(derived.definition, check_context(), diagnostics_);
      if (!tree) continue;
      derived.type = tree->type;
      derived.program = compile(*tree);
      derived.null_rule = null_rule_of(*tree);
      for (const std::size_t input : all_inputs(derived.program)) {
        const ScopeColumn& column = plan_.scope.columns[input];
        derived.inputs.push_back(column.filled < 0 ? column.symbol : "measured(" + column.symbol + ")");
      }
      derived.good = true;
      ScopeColumn& entry = plan_.scope.columns[derived.index];
      entry.type = derived.type;
      entry.broken = false;
    }
  }

  void append_columns() {
    for (const DerivedColumn& derived : plan_.derived) {
      const ScopeColumn& entry = plan_.scope.columns[derived.index];
      Column column;
      column.symbol = entry.symbol;
      column.label = entry.label;
      column.kind = derived.type.kind;
      column.unit = derived.type.unit;
      column.unit_stated = derived.definition.unit.has_value();
      column.measured = false;
      column.origin = context_.origins.add(sheet_.name, entry.symbol);
      for (const ColumnSettings* settings : settings_) {
        if (settings->symbol == entry.symbol) column.digits = settings->digits.value_or(0);
      }
      table_.columns.push_back(std::move(column));
    }
  }

  void check_claims() {
    for (const Passage& passage : sheet_.claims) {
      for (Claim& claim : parse_claims(passage, diagnostics_)) {
        const CheckedPtr tree = check_condition(*claim.condition, passage, check_context(), diagnostics_);
        if (!tree) continue;
        ClaimPlan plan;
        plan.claim = std::move(claim);
        plan.program = compile(*tree);
        plan_.claims.push_back(std::move(plan));
      }
    }
  }

  // The lists of complete(…) and the texts that columns are compared with, for what is said of a selection.
  void collect_conditions(const Checked& node) {
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

  const SheetModel& sheet_;
  Table& table_;
  const std::vector<const ColumnSettings*>& settings_;
  const PlanContext& context_;
  Standing standing_;
  Diagnostics& diagnostics_;
  std::vector<Definition> definitions_;
  SheetPlan plan_;
};

}  // namespace

SheetPlan plan_sheet(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                     Diagnostics& diagnostics) {
  return SheetPlanner(sheet, table, context, Standing::equation, diagnostics).run();
}

SheetPlan plan_keep(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                    Diagnostics& diagnostics) {
  return SheetPlanner(sheet, table, context, Standing::keep, diagnostics).run_keep();
}

}  // namespace opensum
