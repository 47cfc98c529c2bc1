// The units and constants of a study.
#include "plan/plan.h"

#include <algorithm>

#include "compute/derivatives.h"
#include "compute/evaluator.h"
#include "equation/checker.h"
#include "equation/functions.h"
#include "equation/names_used.h"
#include "equation/parser.h"
#include "message/nearest.h"
#include "plan/definitions.h"
#include "table/header.h"

namespace opensum {
namespace {

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

// Puts definitions in order; those in a cycle are reported and marked in `in_cycle`.
std::vector<std::size_t> order_of(const std::vector<const Definition*>& definitions, const Scope& scope,
                                  const std::vector<std::string>& names, std::vector<bool>& in_cycle,
                                  Diagnostics& diagnostics) {
  std::vector<std::vector<std::size_t>> cycles;
  auto order = dependency_order(needs_of(definitions, scope, names), cycles);
  in_cycle.assign(definitions.size(), false);
  for (const std::vector<std::size_t>& cycle : cycles) {
    const Definition& first = *definitions[cycle.front()];
    std::vector<std::string> cycle_names;
    cycle_names.reserve(cycle.size());
    for (const std::size_t i : cycle) cycle_names.push_back(names[i]);
    diagnostics.add(Code::cycle, first.passage.place(first.name_span), {cycle_text(cycle_names)});
    for (const std::size_t i : cycle) in_cycle[i] = true;
  }
  return order;
}

std::vector<Lines> as_lines(const std::vector<Passage>& passages, const std::vector<Passage>& others) {
  std::vector<Lines> lines;
  lines.reserve(passages.size() + others.size());
  for (const Passage& passage : passages) lines.push_back({passage, 0});
  for (const Passage& passage : others) lines.push_back({passage, 1});
  return lines;
}

// What the value of a program without columns moves by.
std::vector<NumberPart> parts_of(const Program& program) {
  std::vector<Operand> by;
  for (const UncertainNumber& number : program.uncertain)
    by.push_back({Operand::Source::number, number.index});
  if (by.empty()) return {};
  const Tangents tangents = TangentEvaluator(program, by).run(std::vector<const Chunk*>(), {}, 1);
  std::vector<NumberPart> parts;
  for (std::size_t k = 0; k < by.size(); ++k) {
    for (const NumberPart& part : program.uncertain[k].parts) {
      const auto same = std::find_if(parts.begin(), parts.end(),
                                     [&](const NumberPart& other) { return other.number == part.number; });
      NumberPart& sum = same == parts.end() ? parts.emplace_back(NumberPart{part.number, 0}) : *same;
      sum.by += part.by * tangents.derivatives[k].front();
    }
  }
  return parts;
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
    if (!units.may_define(symbol)) {
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

std::vector<Formula> plan_formulas(const std::vector<Passage>& passages, Diagnostics& diagnostics) {
  std::vector<Formula> all;
  for (const Passage& passage : passages) {
    for (Formula& formula : parse_formulas(passage, diagnostics)) {
      const Place place = passage.place(formula.name_span);
      const auto same =
          std::find_if(all.begin(), all.end(), [&](const Formula& f) { return f.name == formula.name; });
      if (find_signature(formula.name) != nullptr) {
        diagnostics.add(Code::formula_is_function, place, {formula.name});
      } else if (same != all.end()) {
        const Place first = same->passage.place(same->name_span);
        diagnostics.add(Code::definition_twice, place,
                        {formula.name, "it is first defined on line " +
                                           std::to_string(first.source->position(first.span.begin).line)});
      } else {
        all.push_back(std::move(formula));
      }
    }
  }
  return all;
}

std::vector<ScopeConstant> plan_constants(const std::vector<Passage>& passages,
                                          const std::vector<Passage>& others, const UnitSystem& units,
                                          const NullPolicy& policy, UncertainNumbers& uncertain,
                                          Diagnostics& diagnostics) {
  const std::vector<Definition> definitions =
      read_definitions(as_lines(passages, others), {}, nullptr, diagnostics);
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
  std::vector<bool> in_cycle;
  for (const std::size_t i : order_of(pointers, scope, names, in_cycle, diagnostics)) {
    if (in_cycle[i]) continue;
    const std::size_t before = uncertain.size();
    const CheckContext context{scope, units, policy, Standing::equation, std::nullopt, nullptr, &uncertain};
    const CheckedPtr tree = check_definition(definitions[i], context, diagnostics);
    if (!tree) continue;
    if (uncertain.size() == before + 1) uncertain.rename(before, definitions[i].name);
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
      constant.rest = value.rests.empty() ? 0 : value.rests[0];
      constant.parts = parts_of(program);
    }
  }
  return scope.constants;
}

}  // namespace opensum
