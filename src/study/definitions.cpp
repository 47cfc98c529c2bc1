// The definitions of a sheet or of a study's constants.
#include "study/definitions.h"

#include <algorithm>

#include "equation/parser.h"

namespace opensum {
namespace {

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

}  // namespace

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

std::string null_rule_of(const Checked& tree) {
  std::vector<std::string> rules;
  collect_null_rules(tree, rules);
  std::string text;
  for (const std::string& rule : rules) text += (text.empty() ? "" : "; ") + rule;
  return text.empty() ? "propagated" : text;
}

std::string ring_text(const std::vector<std::string>& names) {
  std::string text;
  for (const std::string& name : names) text += name + " → ";
  return text + names.front();
}

}  // namespace opensum
