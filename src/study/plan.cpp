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

SheetPlan plan_sheet(const SheetModel& sheet, SheetTable& table, const std::vector<ScopeConstant>& constants,
                     const std::vector<std::string>& sheets, const UnitSystem& units,
                     const NullPolicy& policy, Origins& origins, Diagnostics& diagnostics) {
  SheetPlan plan;
  Scope& scope = plan.scope;
  scope.sheet = sheet.name;
  scope.file = table.table.file;
  scope.sheets = sheets;
  scope.constants = constants;
  scope.shared_symbols = table.shared_symbols;
  // Room for all columns, so that the scope's pointers stay good while derived ones are appended.
  std::vector<Definition> definitions = read_definitions(sheet.equations, diagnostics);
  table.table.columns.reserve(table.table.columns.size() + definitions.size());
  for (const Column& column : table.table.columns) {
    ScopeColumn entry;
    entry.symbol = column.symbol;
    entry.label = column.label;
    entry.header = column.header;
    entry.type.kind = column.kind;
    entry.type.unit = column.unit;
    entry.data = &column;
    scope.columns.push_back(std::move(entry));
    if (scope.find_constant(column.symbol) != nullptr) {
      diagnostics.add(Code::column_is_constant, sheet.place, {column.symbol});
    }
  }
  const std::size_t measured = scope.columns.size();
  std::vector<std::string> names;
  for (Definition& definition : definitions) {
    const Place place = definition.passage.place(definition.name_span);
    if (scope.find_column(definition.name, false) >= 0) {
      diagnostics.add(Code::definition_of_column, place, {definition.name});
      continue;
    }
    if (scope.find_constant(definition.name) != nullptr) {
      diagnostics.add(Code::definition_of_constant, place, {definition.name});
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
    names.push_back(entry.symbol);
    scope.columns.push_back(std::move(entry));
    plan.derived.push_back(std::move(derived));
  }
  for (const ColumnSettings* settings : table.unmatched) {
    const int index = scope.find_column(settings->symbol, false);
    if (index < 0) {
      diagnostics.add(Code::symbol_not_found, settings->place,
                      {settings->symbol, table.table.file, nearest_name(settings->symbol, scope.names())});
    } else if (settings->label) {
      scope.columns[static_cast<std::size_t>(index)].label = *settings->label;
    }
  }
  std::vector<const Definition*> pointers;
  for (const DerivedColumn& derived : plan.derived) pointers.push_back(&derived.definition);
  std::vector<bool> in_ring;
  plan.order = order_of(pointers, scope, names, in_ring, diagnostics);
  for (const std::size_t i : plan.order) {
    DerivedColumn& derived = plan.derived[i];
    if (in_ring[i]) continue;
    const CheckedPtr tree = check_definition(derived.definition, {scope, units, policy}, diagnostics);
    if (!tree) continue;
    derived.type = tree->type;
    derived.program = compile(*tree);
    derived.null_rule = null_rule_of(*tree);
    for (const std::size_t input : all_inputs(derived.program))
      derived.inputs.push_back(scope.columns[input].symbol);
    derived.good = true;
    ScopeColumn& entry = scope.columns[derived.index];
    entry.type = derived.type;
    entry.broken = false;
  }
  for (const DerivedColumn& derived : plan.derived) {
    const ScopeColumn& entry = scope.columns[derived.index];
    Column column;
    column.symbol = entry.symbol;
    column.label = entry.label;
    column.kind = derived.type.kind;
    column.unit = derived.type.unit;
    column.unit_stated = derived.definition.unit.has_value();
    column.measured = false;
    column.origin = origins.add(sheet.name, entry.symbol);
    for (const ColumnSettings* settings : table.unmatched) {
      if (settings->symbol == entry.symbol) column.digits = settings->digits.value_or(0);
    }
    table.table.columns.push_back(std::move(column));
  }
  for (std::size_t i = 0; i < measured; ++i) {
    const Column& column = table.table.columns[i];
    scope.columns[i].data = &column;
  }
  return plan;
}

}  // namespace opensum
