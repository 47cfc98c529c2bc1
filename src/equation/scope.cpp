// The names an equation can use.
#include "equation/scope.h"

#include <algorithm>
#include <cmath>

#include "equation/tree.h"

namespace opensum {

double ScopeConstant::uncertainty() const {
  double variance = 0;
  for (const NumberPart& part : parts) variance += part.by * part.by;
  return std::sqrt(variance);
}

std::optional<std::size_t> Scope::find_column(const Node& node) const {
  if (node.is<tree::Name>()) return find_column(node.as<tree::Name>().symbol, node.as<tree::Name>().quoted);
  if (node.is<tree::Member>())
    return find_column(node.as<tree::Member>().symbol, node.as<tree::Member>().quoted);
  return std::nullopt;
}

std::optional<std::size_t> Scope::find_column(const std::string& name, bool quoted) const {
  for (; indexed_ < columns.size(); ++indexed_) {
    by_symbol_.try_emplace(columns[indexed_].symbol, indexed_);
  }
  const auto by_symbol = by_symbol_.find(name);
  const auto symbol = by_symbol == by_symbol_.end() ? std::nullopt : std::optional(by_symbol->second);
  if (!quoted) return symbol;
  const auto index_of = [&](auto has_name) -> std::optional<std::size_t> {
    const auto found = std::find_if(columns.begin(), columns.end(), has_name);
    if (found == columns.end()) return std::nullopt;
    return static_cast<std::size_t>(found - columns.begin());
  };
  const auto by_header = index_of([&](const ScopeColumn& c) { return c.measured && c.header == name; });
  if (by_header) return by_header;
  const auto labelled = [&](const ScopeColumn& c) { return !c.linked && c.label == name; };
  if (std::count_if(columns.begin(), columns.end(), labelled) == 1) return index_of(labelled);
  return symbol;
}

const ScopeConstant* Scope::find_constant(const std::string& name) const {
  const auto found = std::find_if(constants.begin(), constants.end(),
                                  [&](const ScopeConstant& c) { return c.name == name; });
  return found == constants.end() ? nullptr : &*found;
}

const Formula* Scope::find_formula(const std::string& name) const {
  if (formulas == nullptr) return nullptr;
  const auto found =
      std::find_if(formulas->begin(), formulas->end(), [&](const Formula& f) { return f.name == name; });
  return found == formulas->end() ? nullptr : &*found;
}

std::vector<std::string> Scope::names() const {
  std::vector<std::string> all;
  for (const ScopeColumn& column : columns) all.push_back(column.symbol);
  for (const ScopeConstant& constant : constants) all.push_back(constant.name);
  return all;
}

std::vector<std::size_t> Scope::matching(const std::string& pattern) const {
  std::vector<std::size_t> found;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    const bool named = columns[i].measured && !columns[i].only_as_measured;
    if (named && matches_pattern(columns[i].symbol, pattern)) found.push_back(i);
  }
  return found;
}

bool matches_pattern(std::string_view text, std::string_view pattern) {
  std::size_t t = 0;
  std::size_t p = 0;
  std::size_t star = std::string_view::npos;
  std::size_t star_text = 0;
  while (t < text.size()) {
    if (p < pattern.size() && (pattern[p] == '?' || pattern[p] == text[t]) && pattern[p] != '*') {
      ++t;
      ++p;
    } else if (p < pattern.size() && pattern[p] == '*') {
      star = p++;
      star_text = t;
    } else if (star != std::string_view::npos) {
      // The last star takes one character more.
      p = star + 1;
      t = ++star_text;
    } else {
      return false;
    }
  }
  while (p < pattern.size() && pattern[p] == '*') ++p;
  return p == pattern.size();
}

}  // namespace opensum
