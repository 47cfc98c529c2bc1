// What a condition for rows looks up in other sheets before anything is computed.
#include "engine/keep_links.h"

#include <algorithm>
#include <set>

#include "compute/row_store.h"
#include "engine/block_pass.h"
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
  const NodePtr condition = parse_expression(*sheet.keep, reported_later);
  if (!condition) return members;
  std::vector<Definition> definitions;
  for (const Lines& lines : sheet.equations) {
    for (Definition& definition : parse_definitions(lines.text, reported_later))
      definitions.push_back(std::move(definition));
  }
  std::set<std::string> named;
  std::vector<const Node*> needed = {condition.get()};
  for (std::size_t i = 0; i < needed.size(); ++i) {
    for (MemberUse& member : members_used(*needed[i], scope)) members.push_back(std::move(member));
    for (const std::string& name : names_used(*needed[i], scope)) {
      if (!named.insert(name).second) continue;
      for (const Definition& definition : definitions) {
        if (definition.name == name) needed.push_back(definition.expression.get());
      }
    }
  }
  return members;
}

std::optional<std::size_t> place_of(const Table& table, std::string_view symbol) {
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    if (table.columns[i].symbol == symbol) return i;
  }
  return std::nullopt;
}

// The values of a column whose rows are left in their file.
std::vector<Chunk> read_column(RunSheet& sheet, std::size_t index) {
  const Table& table = sheet.table();
  FileBlocks source(*sheet.source.left_in_file, table);
  std::vector<bool> needed(table.columns.size(), false);
  needed[index] = true;
  RowStore store(Held::values, sheet.texts, [&](std::string_view text) { return source.lives_on(text); });
  go_over_blocks<Block>(
      source, table, [&](std::size_t part, Block& block) { source.read(part, needed, block); },
      [&](std::size_t, const Block& block) { store.append(block.table.columns[index].chunks); });
  return store.take();
}

}  // namespace

bool keep_looks_through_links(const SheetModel& sheet) {
  if (!sheet.keep || sheet.links.empty()) return false;
  const std::vector<MemberUse> members = members_of(sheet);
  return std::any_of(members.begin(), members.end(), [&](const MemberUse& member) {
    return std::any_of(sheet.links.begin(), sheet.links.end(),
                       [&](const LinkModel& link) { return link.name.text() == member.owner; });
  });
}

KeepLinks::KeepLinks(const RunSheet& sheet, const Chosen& chosen, const PlanContext& context)
    : sheet_(sheet), context_(context) {
  const std::vector<LinkModel>& links = sheet.model->links;
  for (const MemberUse& member : members_of(*sheet.model)) {
    const std::string name = member.owner + "." + member.column;
    const auto link = std::find_if(links.begin(), links.end(),
                                   [&](const LinkModel& l) { return l.name.text() == member.owner; });
    const bool known = std::any_of(looked_.begin(), looked_.end(),
                                   [&](const Looked& looked) { return looked.name == name; });
    if (link == links.end() || known || sheet.source.table.find(name) != nullptr) continue;
    RunSheet* other = chosen(link->sheet ? link->sheet->text() : member.owner);
    if (other == nullptr) continue;
    if (const auto there = place_of(other->table(), member.column)) look_up(name, *link, *other, *there);
  }
}

void KeepLinks::look_up(const std::string& name, const LinkModel& link, RunSheet& other, std::size_t there) {
  const Kind kind = other.table().columns[there].kind;
  if (link.how == LinkHow::interpolate && kind != Kind::number && kind != Kind::date) return;
  const Link* found = find(link, other);
  if (found == nullptr) return;
  const OriginId origin = context_.origins.add(sheet_.model->name, name);
  const Column& values = whole_column(other, there);
  looked_.push_back({name, found, &values, origin, LinkedValues(values, origin, context_.origins)});
}

// How the rows of a link are found; a null pointer where its keys are not measured ones that fit.
const KeepLinks::Link* KeepLinks::find(const LinkModel& model, RunSheet& other) {
  const auto [place, is_new] = links_.try_emplace(&model);
  std::optional<Link>& link = place->second;
  const auto found = [&]() { return link ? &*link : nullptr; };
  if (!is_new) return found();
  const Table& here = sheet_.source.table;
  const Table& there = other.table();
  if (model.by_row) {
    if (here.source_count == there.source_count) link.emplace().by_place.emplace(source_rows_of(other));
    return found();
  }
  std::vector<LinkKey> keys;
  Link by_keys;
  for (const Passage& pair : model.match) {
    const auto [here_name, there_name] = split_keys(pair.text());
    const auto own = place_of(here, here_name);
    const auto its = place_of(there, there_name);
    if (!own || !its) return nullptr;
    const Column& key = here.columns[*own];
    const Column& other_key = there.columns[*its];
    if (key.kind != other_key.kind || mismatch(key.unit, other_key.unit)) return nullptr;
    keys.push_back({&key, &whole_column(other, *its), conversion(other_key.unit, key.unit)});
    by_keys.keys.push_back(*own);
  }
  std::optional<double> within;
  if (model.how != LinkHow::equal) {
    const Column& last = *keys.back().here;
    Type type;
    type.kind = last.kind;
    type.unit = last.unit;
    Diagnostics reported_later;
    if (last.kind != Kind::number && last.kind != Kind::date) return nullptr;
    if (model.within && !read_within(*model.within, type, context_.units, within, reported_later))
      return nullptr;
  }
  // Keys that repeat are reported when the link itself is computed.
  by_keys.by_keys.emplace(keys, model.how, within, there.rows);
  link.emplace(std::move(by_keys));
  return found();
}

const Column& KeepLinks::whole_column(RunSheet& sheet, std::size_t index) {
  const Column& column = sheet.table().columns[index];
  if (!sheet.source.left_in_file) return column;
  const auto [place, is_new] = held_.try_emplace({&sheet, index}, Column(column));
  if (is_new) {
    place->second.chunks = read_column(sheet, index);
    place->second.rows = sheet.table().rows;
  }
  return place->second;
}

void KeepLinks::add_columns(Table& table) {
  for (Looked& looked : looked_) {
    Column column;
    column.symbol = looked.name;
    column.linked = true;
    column.kind = looked.there->kind;
    column.unit = looked.there->unit;
    column.origin = looked.origin;
    column.rows = table.rows;
    column.unreadable_count = looked.there->unreadable_count;
    column.unreadable = looked.there->unreadable;
    looked.index = table.columns.size();
    table.columns.push_back(std::move(column));
  }
}

std::vector<bool> KeepLinks::with_keys(std::vector<bool> needed) const {
  for (const Looked& looked : looked_) {
    for (const std::size_t key : looked.link->keys) needed[key] = needed[key] || needed[looked.index];
  }
  return needed;
}

void KeepLinks::give_values(const std::vector<bool>& needed, Block& to) const {
  std::map<const Link*, RowMap> maps;
  for (const Looked& looked : looked_) {
    if (!needed[looked.index]) continue;
    const auto [map, is_new] = maps.try_emplace(looked.link);
    if (is_new && looked.link->by_place) {
      map->second = looked.link->by_place->find(to.table.source_rows);
    } else if (is_new) {
      std::vector<const Column*> keys;
      for (const std::size_t key : looked.link->keys) keys.push_back(&to.table.columns[key]);
      map->second = looked.link->by_keys->find(keys, to.table.rows);
    }
    Column& column = to.table.columns[looked.index];
    column.rows = to.table.rows;
    column.chunks = looked.values.of(map->second);
  }
}

void LinkedBlocks::read(std::size_t block, const std::vector<bool>& needed, Block& to) const {
  rows_.read(block, links_.with_keys(needed), to);
  links_.give_values(needed, to);
}

}  // namespace opensum
