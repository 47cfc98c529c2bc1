// The definitions of a sheet or of a study's constants.
#include "plan/definitions.h"

#include <algorithm>
#include <functional>

#include "equation/loops.h"
#include "equation/operation.h"
#include "equation/parser.h"

namespace opensum {
namespace {

// What an operation by itself does with nulls, where that is no matter of course.
std::string own_null_rule(const Checked& node) {
  const bool skip = node.nulls.skip;
  std::string rule;
  switch (family_of(node.op)) {
    case OpFamily::along_row:
      if (node.op == Op::row_count) return "not counted";
      rule = skip ? "skipped along the row" : "propagated along the row";
      break;
    case OpFamily::down_column:
      if (node.op == Op::col_count) return "not counted";
      rule = skip ? "left out down the column" : "propagated down the column";
      break;
    case OpFamily::so_far:
    case OpFamily::moving:
    case OpFamily::along_column:
      return skip ? "left out of the sequence" : "propagated along the sequence";
    case OpFamily::leaf:
    case OpFamily::arithmetic:
    case OpFamily::comparison:
    case OpFamily::comparison_of_texts:
    case OpFamily::logic:
    case OpFamily::of_numbers:
    case OpFamily::choice:
    case OpFamily::of_dates:
    case OpFamily::of_texts:
    case OpFamily::cell_of_column:
    case OpFamily::neighbour:
    case OpFamily::ranking:
    case OpFamily::of_fit:
      return "";
  }
  if (node.nulls.at_least > 1) rule += ", at least " + std::to_string(node.nulls.at_least);
  return rule;
}

void collect_null_rules(const Checked& node, std::vector<std::string>& rules) {
  const std::string rule = own_null_rule(node);
  if (!rule.empty() && std::find(rules.begin(), rules.end(), rule) == rules.end()) rules.push_back(rule);
  for (const CheckedPtr& arg : node.args) collect_null_rules(*arg, rules);
}

}  // namespace

namespace {

// Puts a thing among others: in the place of one of its name that was written at an earlier step. Gives the
// other where both were written at one step.
template <typename Thing>
const Thing* place_by_name(std::vector<Thing>& all, std::vector<std::size_t>& steps, Thing thing,
                           std::size_t step, std::string Thing::*name) {
  const auto same =
      std::find_if(all.begin(), all.end(), [&](const Thing& t) { return t.*name == thing.*name; });
  if (same == all.end()) {
    all.push_back(std::move(thing));
    steps.push_back(step);
    return nullptr;
  }
  std::size_t& own = steps[static_cast<std::size_t>(same - all.begin())];
  if (own == step) return &*same;
  *same = std::move(thing);
  own = step;
  return nullptr;
}

// Leaves out what a later step does without.
template <typename Thing>
void leave_out(std::vector<Thing>& all, const std::vector<std::size_t>& steps,
               const std::vector<LeftOut>& without, std::string Thing::*name) {
  std::vector<Thing> kept;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool out = std::any_of(without.begin(), without.end(), [&](const LeftOut& left) {
      return left.name == all[i].*name && steps[i] < left.step;
    });
    if (!out) kept.push_back(std::move(all[i]));
  }
  all = std::move(kept);
}

Code twice_code(const Definition& /*definition*/) { return Code::definition_twice; }
Code twice_code(const Claim& /*claim*/) { return Code::claim_twice; }
Place place_of(const Definition& definition) { return definition.passage.place(definition.name_span); }
Place place_of(const Claim& claim) { return claim.passage.place(claim.text_span); }

template <typename Thing>
std::vector<Thing> read_things(const std::vector<Lines>& passages, const std::vector<LeftOut>& without,
                               const std::function<std::vector<Thing>(const Passage&)>& parse,
                               std::string Thing::*name, Diagnostics& diagnostics) {
  std::vector<Thing> all;
  std::vector<std::size_t> steps;
  for (const Lines& lines : passages) {
    for (Thing& thing : parse(lines.text)) {
      const Place place = place_of(thing);
      const std::string called = thing.*name;
      const Thing* other = place_by_name(all, steps, std::move(thing), lines.step, name);
      if (other == nullptr) continue;
      const Place first = place_of(*other);
      diagnostics.add(twice_code(*other), place,
                      {called, "it is first defined on line " +
                                   std::to_string(first.source->position(first.span.begin).line)});
    }
  }
  leave_out(all, steps, without, name);
  return all;
}

// The definitions that a loop writes.
void run_loop(const Loop& loop, Scope& scope, std::vector<Definition>& definitions,
              Diagnostics& diagnostics) {
  std::vector<std::string> made;
  for (const LoopTurn& turn : expand(loop, scope, diagnostics)) {
    Diagnostics of_turn;
    for (Definition& definition : parse_definitions(turn.text, of_turn)) {
      definition.turn = turn.words;
      made.push_back(definition.name);
      definitions.push_back(std::move(definition));
    }
    for (Diagnostic diagnostic : of_turn.all()) {
      diagnostic.context = turn.words;
      diagnostics.add(std::move(diagnostic));
    }
  }
  if (loop.made.empty()) return;
  if (scope.find_column(loop.made, false).has_value() || !scope.lists.emplace(loop.made, made).second) {
    diagnostics.add(Code::list_name_taken, loop.passage.place({loop.body.begin - 1, loop.body.begin}),
                    {loop.made});
  }
}

// All definitions of a passage in written order.
std::vector<Definition> definitions_of(const Passage& passage, Scope* scope, Diagnostics& diagnostics) {
  Passage rest;
  const std::vector<Loop> loops = parse_loops(passage, rest, diagnostics);
  std::vector<Definition> all = parse_definitions(rest, diagnostics);
  if (loops.empty() || scope == nullptr) return all;
  for (const Loop& loop : loops) run_loop(loop, *scope, all, diagnostics);
  const auto place = [](const Definition& d) { return d.passage.place(d.name_span).span.begin; };
  std::stable_sort(all.begin(), all.end(),
                   [&](const Definition& a, const Definition& b) { return place(a) < place(b); });
  return all;
}

}  // namespace

std::vector<Definition> read_definitions(const std::vector<Lines>& passages,
                                         const std::vector<LeftOut>& without, Scope* scope,
                                         Diagnostics& diagnostics) {
  return read_things<Definition>(
      passages, without, [&](const Passage& passage) { return definitions_of(passage, scope, diagnostics); },
      &Definition::name, diagnostics);
}

std::vector<Claim> read_claims(const std::vector<Lines>& passages, const std::vector<LeftOut>& without,
                               Diagnostics& diagnostics) {
  return read_things<Claim>(
      passages, without, [&](const Passage& passage) { return parse_claims(passage, diagnostics); },
      &Claim::text, diagnostics);
}

std::string null_rule_of(const Checked& tree) {
  std::vector<std::string> rules;
  collect_null_rules(tree, rules);
  std::string text;
  for (const std::string& rule : rules) text += (text.empty() ? "" : "; ") + rule;
  return text.empty() ? "propagated" : text;
}

std::string cycle_text(const std::vector<std::string>& names) {
  std::string text;
  for (const std::string& name : names) text += name + " → ";
  return text + names.front();
}

}  // namespace opensum
