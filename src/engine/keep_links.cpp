// What a condition for rows looks up in other sheets before anything is computed.
#include "engine/keep_links.h"

#include <algorithm>

#include "compute/links.h"
#include "equation/names_used.h"
#include "equation/parser.h"
#include "plan/link_keys.h"

namespace opensum {
namespace {

// The columns of other sheets that the condition and the equations it needs name.
std::vector<MemberUse> members_of(const SheetModel& sheet) {
  Diagnostics reported_later;
  Scope scope;
  scope.sheet = sheet.name;
  std::vector<MemberUse> members;
  if (const NodePtr condition = parse_expression(*sheet.keep, reported_later)) {
    members = members_used(*condition, scope);
  }
  for (const Lines& lines : sheet.equations) {
    for (const Definition& definition : parse_definitions(lines.text, reported_later)) {
      for (MemberUse& member : members_used(*definition.expression, scope))
        members.push_back(std::move(member));
    }
  }
  return members;
}

// The rows that a link leads to; nothing where its keys are not measured ones that fit.
std::optional<RowMap> matched(const LinkModel& link, const Table& here, const Table& there,
                              const UnitSystem& units) {
  if (link.by_row) {
    if (here.source_count != there.source_count) return std::nullopt;
    return PlaceFinder(there.source_rows).find(here.source_rows);
  }
  std::vector<LinkKey> keys;
  for (const Passage& pair : link.match) {
    const auto [here_name, there_name] = split_keys(pair.text());
    const Column* own = here.find(here_name);
    const Column* other = there.find(there_name);
    if (own == nullptr || other == nullptr || own->kind != other->kind || mismatch(own->unit, other->unit)) {
      return std::nullopt;
    }
    keys.push_back({own, other, conversion(other->unit, own->unit)});
  }
  std::optional<double> within;
  if (link.how != LinkHow::equal) {
    const Column& last = *keys.back().here;
    Type type;
    type.kind = last.kind;
    type.unit = last.unit;
    Diagnostics reported_later;
    if (last.kind != Kind::number && last.kind != Kind::date) return std::nullopt;
    if (link.within && !read_within(*link.within, type, units, within, reported_later)) return std::nullopt;
  }
  // Keys that repeat are reported when the link itself is computed.
  RepeatedKeys repeated;
  return match_rows(keys, link.how, within, here.rows, there.rows, repeated);
}

}  // namespace

void add_linked_columns(const SheetModel& sheet, SheetTable& table,
                        const std::function<const RunSheet*(const std::string&)>& chosen,
                        const PlanContext& context) {
  for (const MemberUse& member : members_of(sheet)) {
    const std::string name = member.owner + "." + member.column;
    const auto link = std::find_if(sheet.links.begin(), sheet.links.end(),
                                   [&](const LinkModel& l) { return l.name.text() == member.owner; });
    if (link == sheet.links.end() || table.table.find(name) != nullptr) continue;
    const RunSheet* other = chosen(link->sheet ? link->sheet->text() : member.owner);
    const Column* there = other == nullptr ? nullptr : other->table().find(member.column);
    const bool line = there != nullptr && (there->kind == Kind::number || there->kind == Kind::date);
    if (there == nullptr || (link->how == LinkHow::interpolate && !line)) continue;
    const auto map = matched(*link, table.table, other->table(), context.units);
    if (!map) continue;
    Column column;
    column.symbol = name;
    column.linked = true;
    column.kind = there->kind;
    column.unit = there->unit;
    column.origin = context.origins.add(sheet.name, name);
    column.rows = table.table.rows;
    column.storage = there->storage;
    column.unreadable_count = there->unreadable_count;
    column.unreadable = there->unreadable;
    column.chunks = LinkedValues(*there, column.origin, context.origins).of(*map);
    table.table.columns.push_back(std::move(column));
  }
}

}  // namespace opensum
