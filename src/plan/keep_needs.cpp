// What the condition for the rows of a sheet needs.
#include "plan/keep_needs.h"

#include <algorithm>

#include "equation/parser.h"
#include "equation/scope.h"
#include "plan/definitions.h"

namespace opensum {

KeepNeeds needs_of_keep(const SheetModel& sheet, const Table& table) {
  KeepNeeds needs;
  Diagnostics reported_later;
  const NodePtr condition = sheet.keep ? parse_expression(*sheet.keep, reported_later) : nullptr;
  if (!condition) return needs;
  Scope scope;
  scope.sheet = sheet.name;
  for (const Column& column : table.columns) {
    if (!column.fills.empty() || column.linked) continue;
    ScopeColumn& entry = scope.columns.emplace_back();
    entry.symbol = column.symbol;
    entry.label = column.label;
    entry.header = column.header;
  }
  const std::vector<Definition> definitions =
      read_definitions(sheet.equations, sheet.without, &scope, reported_later);
  std::vector<const Node*> open = {condition.get()};
  for (std::size_t i = 0; i < open.size(); ++i) {
    for (MemberUse& member : members_used(*open[i], scope)) needs.members.push_back(std::move(member));
    for (std::string& name : names_used(*open[i], scope)) {
      if (std::find(needs.names.begin(), needs.names.end(), name) != needs.names.end()) continue;
      for (const Definition& definition : definitions) {
        if (definition.name == name) open.push_back(definition.expression.get());
      }
      needs.names.push_back(std::move(name));
    }
  }
  return needs;
}

bool keep_looks_through_links(const SheetModel& sheet, const Table& table) {
  if (!sheet.keep || sheet.links.empty()) return false;
  const KeepNeeds needs = needs_of_keep(sheet, table);
  return std::any_of(needs.members.begin(), needs.members.end(), [&](const MemberUse& member) {
    return std::any_of(sheet.links.begin(), sheet.links.end(),
                       [&](const LinkModel& link) { return link.name.text() == member.owner; });
  });
}

}  // namespace opensum
