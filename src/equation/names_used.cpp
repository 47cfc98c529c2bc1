// What an expression depends on: the names in it.
#include "equation/names_used.h"

#include <algorithm>

#include "equation/functions.h"
#include "equation/operation.h"

namespace opensum {
namespace {

// Calls a function with each node of a tree, in written order; it says whether to go deeper.
template <typename Visit>
void walk(const Node& tree, Visit visit) {
  std::vector<const Node*> open = {&tree};
  while (!open.empty()) {
    const Node* node = open.back();
    open.pop_back();
    if (!visit(*node)) continue;
    if (node->is<tree::Call>()) {
      const std::vector<NamedArgument>& all = node->named();
      for (auto named = all.rbegin(); named != all.rend(); ++named) open.push_back(named->value.get());
    }
    for (auto child = node->children.rbegin(); child != node->children.rend(); ++child) {
      open.push_back(child->get());
    }
  }
}

bool is_reduction(const Node& node) {
  if (!node.is<tree::Call>()) return false;
  const Signature* signature = find_signature(node.function());
  return signature != nullptr && is_reduction(signature->op);
}

bool is_measured(const Node& node) { return node.is<tree::Call>() && node.function() == "measured"; }

// Adds the names that a node itself mentions.
void add_names(const Node& node, const Scope& scope, std::vector<std::string>& names) {
  const auto add = [&](const std::string& name) {
    if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
  };
  if (node.is<tree::Text>()) {
    for (const std::size_t index : scope.matching(node.as<tree::Text>().text))
      add(scope.columns[index].symbol);
  }
  if (node.kind() == NodeKind::range) {
    const auto first = scope.find_column(*node.children[0]);
    const auto last = scope.find_column(*node.children[1]);
    for (std::size_t i = first.value_or(0); first && last && i <= *last; ++i) {
      const ScopeColumn& column = scope.columns[i];
      if (column.measured) add(column.symbol);
    }
  }
  const bool own_member = node.is<tree::Member>() && node.as<tree::Member>().owner == scope.sheet;
  if (!node.is<tree::Name>() && !own_member) return;
  const std::string& name = own_member ? node.as<tree::Member>().symbol : node.as<tree::Name>().symbol;
  if (const auto list = scope.lists.find(name); list != scope.lists.end()) {
    for (const std::string& symbol : list->second) add(symbol);
    return;
  }
  const auto column = scope.find_column(node);
  add(column ? scope.columns[*column].symbol : name);
}

// Adds the column of another sheet that a node itself mentions.
void add_member(const Node& node, const Scope& scope, std::vector<MemberUse>& members) {
  if (!node.is<tree::Member>()) return;
  const auto& [owner, symbol, quoted] = node.as<tree::Member>();
  if (owner != scope.sheet && owner != "codata" && owner != "fit") members.push_back({owner, symbol});
}

}  // namespace

std::vector<std::string> names_used(const Node& expression, const Scope& scope) {
  std::vector<std::string> names;
  walk(expression, [&](const Node& node) {
    add_names(node, scope, names);
    return true;
  });
  return names;
}

std::vector<std::string> names_as_measured(const Node& expression, const Scope& scope) {
  std::vector<std::string> names;
  walk(expression, [&](const Node& node) {
    if (!is_measured(node)) return true;
    for (std::string& name : names_used(node, scope)) names.push_back(std::move(name));
    return false;
  });
  return names;
}

std::vector<std::string> names_as_filled(const Node& expression, const Scope& scope) {
  std::vector<std::string> names;
  walk(expression, [&](const Node& node) {
    if (is_measured(node)) return false;
    add_names(node, scope, names);
    return true;
  });
  return names;
}

std::vector<std::string> names_outside_reductions(const Node& expression, const Scope& scope) {
  std::vector<std::string> names;
  walk(expression, [&](const Node& node) {
    if (is_reduction(node)) return false;
    add_names(node, scope, names);
    return true;
  });
  return names;
}

std::vector<std::string> names_of_reduction(const Node& reduction, const Scope& scope) {
  std::vector<std::string> names;
  walk(reduction, [&](const Node& node) {
    if (&node != &reduction && is_reduction(node)) return false;
    add_names(node, scope, names);
    return true;
  });
  return names;
}

bool names_itself(const Node& reduction, const Scope& scope) {
  bool found = false;
  walk(reduction, [&](const Node& node) {
    if (&node != &reduction && is_reduction(node)) return false;
    found = found || (node.is<tree::Member>() && node.as<tree::Member>().owner == scope.sheet);
    return true;
  });
  return found;
}

std::vector<std::string> bare_columns(const Node& expression, const Scope& scope) {
  std::vector<std::string> names;
  walk(expression, [&](const Node& node) {
    if (!node.is<tree::Member>()) add_names(node, scope, names);
    return node.kind() != NodeKind::range;
  });
  std::erase_if(names, [&](const std::string& name) { return !scope.find_column(name, false); });
  return names;
}

std::vector<std::string> names_inside_reductions(const Node& expression, const Scope& source) {
  std::vector<std::string> names;
  walk(expression, [&](const Node& node) {
    if (!is_reduction(node)) return true;
    for (std::string& name : names_used(node, source)) {
      if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(std::move(name));
    }
    return false;
  });
  return names;
}

std::vector<std::string> groups_named_inside(const Node& expression, const Scope& scope,
                                             const Scope& source) {
  std::vector<std::string> names;
  const auto add = [&](const Node& node) {
    const bool own_member = node.is<tree::Member>() && node.as<tree::Member>().owner == scope.sheet;
    const bool meant = own_member || (node.is<tree::Name>() && !source.find_column(node).has_value());
    if (meant && scope.find_column(node)) add_names(node, scope, names);
  };
  walk(expression, [&](const Node& node) {
    if (!is_reduction(node)) return true;
    walk(node, [&](const Node& inside) {
      add(inside);
      return true;
    });
    return false;
  });
  return names;
}

std::vector<MemberUse> members_used(const Node& expression, const Scope& scope) {
  std::vector<MemberUse> members;
  walk(expression, [&](const Node& node) {
    add_member(node, scope, members);
    return true;
  });
  return members;
}

std::vector<MemberUse> members_of_reduction(const Node& reduction, const Scope& scope) {
  std::vector<MemberUse> members;
  walk(reduction, [&](const Node& node) {
    if (&node != &reduction && is_reduction(node)) return false;
    add_member(node, scope, members);
    return true;
  });
  return members;
}

std::vector<MemberUse> fits_used(const Node& expression) {
  std::vector<MemberUse> fits;
  walk(expression, [&](const Node& node) {
    if (node.is<tree::Member>() && node.as<tree::Member>().owner == "fit") {
      const std::string& symbol = node.as<tree::Member>().symbol;
      const std::size_t first = symbol.find('.');
      const std::size_t last = symbol.rfind('.');
      const bool sheet = last > first && last != std::string::npos;
      fits.push_back({symbol.substr(0, first), sheet ? symbol.substr(first + 1, last - first - 1) : ""});
    }
    const Signature* signature = node.is<tree::Call>() ? find_signature(node.function()) : nullptr;
    if (signature != nullptr && signature->family == Family::fits && !node.children.empty()) {
      const Node& fit = *node.children.front();
      if (fit.is<tree::Name>()) fits.push_back({fit.as<tree::Name>().symbol, ""});
      if (fit.is<tree::Member>())
        fits.push_back({fit.as<tree::Member>().owner, fit.as<tree::Member>().symbol});
    }
    return true;
  });
  return fits;
}

}  // namespace opensum
