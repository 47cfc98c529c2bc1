// An equation with the values of one row put in for its names.
#include "explain/substitute.h"

#include <fmt/format.h>

#include <algorithm>

#include "compute/whole_column.h"
#include "equation/checker.h"
#include "equation/functions.h"
#include "equation/operation.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

template <typename What>
NodePtr node_of(What what) {
  auto node = std::make_unique<Node>();
  node->what = std::move(what);
  return node;
}

// A node that is the same but for its children and named arguments.
NodePtr without_children(const Node& node) {
  auto made = std::make_unique<Node>();
  if (node.is<tree::Call>()) {
    made->what = tree::Call{node.function()};
  } else {
    std::visit(
        [&](const auto& what) {
          if constexpr (!std::is_same_v<decltype(what), const tree::Call&>) made->what = what;
        },
        node.what);
  }
  return made;
}

NodePtr number_node(const std::string& number, const Unit& unit) {
  tree::Number made{number};
  if (!unit.parts.empty()) made.unit = UnitText{unit.text(), {}};
  return node_of(std::move(made));
}

NodePtr date_node(const Instant& date) {
  NodePtr node = node_of(tree::Call{"date"});
  node->children.push_back(node_of(tree::Text{date_text(date)}));
  return node;
}

NodePtr value_node(const Column& column, std::size_t row) {
  if (column.null(row)) return node_of(tree::Null{});
  switch (column.kind) {
    case Kind::text:
      return node_of(tree::Text{std::string(column.text(row))});
    case Kind::date:
      return date_node(column.instant(row));
    case Kind::truth:
      return node_of(tree::Truth{column.number(row) != 0});
    case Kind::number:
      break;
  }
  // What was measured in full, what was computed to as many digits as it is written with.
  const bool measured = column.measured || !column.fills.empty();
  return number_node(number_text(column.number(row), measured ? -1 : 0), column.unit);
}

NodePtr constant_node(const ScopeConstant& constant) {
  switch (constant.type.kind) {
    case Kind::text:
      return node_of(tree::Text{constant.text});
    case Kind::date:
      return date_node({constant.number, constant.rest});
    case Kind::truth:
      return node_of(tree::Truth{constant.number != 0});
    case Kind::number:
      break;
  }
  return number_node(number_text(constant.number, -1), constant.type.unit);
}

// The function or parameter of a fit that gives a value.
const std::string& what_gives(const Node& node) {
  return node.is<tree::Call>() ? node.function() : node.as<tree::Member>().symbol;
}

// The part of a checked tree that is the function of whole columns; conversions may stand around it.
const Checked& whole_part(const Checked& tree) {
  const Checked* node = &tree;
  while (!needs_whole_column(node->op) && !node->args.empty()) node = node->args.front().get();
  return *node;
}

}  // namespace

std::string literal(const Column& column, std::size_t row) { return print(*value_node(column, row)); }

NodePtr Substitution::column_value(std::size_t index, const std::string& name) {
  const auto known = std::find_if(names_.begin(), names_.end(), [&](const SubstitutedName& n) {
    return n.column == index && n.text == name;
  });
  if (known == names_.end()) names_.push_back({name, index, ""});
  return value_node(table_.columns[index], row_);
}

NodePtr Substitution::formula_value(const Node& call, const Formula& formula) {
  // What is passed is put in where it stands, before the formula's names mean anything.
  std::vector<NodePtr> arguments;
  for (const NodePtr& child : call.children) arguments.push_back(run(*child));
  std::map<std::string, const Node*> outer = std::move(parameters_);
  parameters_.clear();
  for (std::size_t i = 0; i < arguments.size(); ++i) parameters_[formula.parameters[i]] = arguments[i].get();
  NodePtr body = run(*formula.body);
  parameters_ = std::move(outer);
  return body;
}

NodePtr Substitution::duplicate(const Node& node) {
  NodePtr made = without_children(node);
  for (const NodePtr& child : node.children) made->children.push_back(duplicate(*child));
  if (!node.is<tree::Call>()) return made;
  for (const NamedArgument& named : node.named()) {
    made->as<tree::Call>().named.push_back({named.name, named.span, duplicate(*named.value)});
  }
  return made;
}

NodePtr Substitution::name_value(const Node& node) {
  const std::string& name = symbol_in(node);
  if (const auto parameter = parameters_.find(name); parameter != parameters_.end()) {
    return duplicate(*parameter->second);
  }
  const Scope& scope = context_.scope;
  const auto found = scope.find_column(node);
  if (found) {
    auto index = *found;
    const std::string& symbol = scope.columns[index].symbol;
    if (context_.standing == Standing::equation) index = scope.meant_by(index);
    return column_value(index, symbol);
  }
  const ScopeConstant* constant = scope.find_constant(name);
  if (constant == nullptr) return copy(node);
  NodePtr value = constant_node(*constant);
  std::string shown = print(*value);
  if (constant->type.kind == Kind::number && !constant->type.unit.parts.empty()) {
    shown = value->as<tree::Number>().digits + " " + constant->type.unit.text();
  }
  const auto known = std::find_if(names_.begin(), names_.end(),
                                  [&](const SubstitutedName& n) { return !n.column && n.text == name; });
  if (known == names_.end()) names_.push_back({name, std::nullopt, shown});
  return value;
}

// The value of a call in the row, by evaluating it for the whole column.
NodePtr Substitution::call_value(const Node& node) {
  Diagnostics none;
  const CheckedPtr tree = check_expression(node, passage_, context_, none);
  if (!tree) return copy(node);
  Program program = compile(*tree);
  std::vector<const Column*> columns;
  for (const Column& column : table_.columns) columns.push_back(&column);
  Column result;
  result.kind = tree->type.kind;
  result.unit = tree->type.unit;
  result.measured = false;
  result.rows = table_.rows;
  EvaluationNotes notes;
  result.chunks =
      evaluate_column(program, {columns, table_.rows, origins_.add(context_.scope.sheet, what_gives(node)),
                                origins_, std::make_shared<MadeTexts>(), notes, study_});
  NodePtr value = value_node(result, row_);
  if (!program.stages.empty()) {
    const Checked& whole = whole_part(*tree);
    const Null null = result.null(row_);
    const std::string shown = null ? fmt::format("null ({})", reason_name(null.reason())) : print(*value);
    calls_.push_back({print(node), shown, std::move(program), whole.args.front()->type});
  }
  return value;
}

std::vector<std::size_t> Substitution::listed(const Node& node) const {
  const Scope& scope = context_.scope;
  if (node.is<tree::Text>()) return scope.matching(node.as<tree::Text>().text);
  std::vector<std::size_t> columns;
  const auto first = scope.find_column(*node.children[0]);
  const auto last = scope.find_column(*node.children[1]);
  for (std::size_t i = first.value_or(0); first && last && i <= *last; ++i) {
    if (scope.columns[i].measured) columns.push_back(i);
  }
  return columns;
}

NodePtr Substitution::copy(const Node& node) {
  NodePtr made = without_children(node);
  const Signature* signature = node.is<tree::Call>() ? find_signature(node.function()) : nullptr;
  const bool lists =
      signature != nullptr && (signature->family == Family::row || node.function() == "complete");
  for (const NodePtr& child : node.children) {
    const bool list = child->kind() == NodeKind::range || (lists && child->kind() == NodeKind::text);
    if (!list) {
      made->children.push_back(run(*child));
      continue;
    }
    for (const std::size_t index : listed(*child)) {
      const std::size_t meant =
          context_.standing == Standing::equation ? context_.scope.meant_by(index) : index;
      made->children.push_back(column_value(meant, context_.scope.columns[index].symbol));
    }
  }
  if (!node.is<tree::Call>()) return made;
  for (const NamedArgument& named : node.named()) {
    made->as<tree::Call>().named.push_back({named.name, named.span, run(*named.value)});
  }
  return made;
}

NodePtr Substitution::run(const Node& node) {
  switch (node.kind()) {
    case NodeKind::name:
      return name_value(node);
    case NodeKind::member: {
      const auto& [owner, member, quoted] = node.as<tree::Member>();
      if (owner == context_.scope.sheet) return name_value(node);
      if (owner == "fit") return call_value(node);
      const std::string linked = fmt::format("{}.{}", owner, member);
      for (std::size_t i = 0; i < table_.columns.size(); ++i) {
        const ScopeColumn& column = context_.scope.columns[i];
        if (column.linked && column.symbol == linked) return column_value(i, column.symbol);
      }
      return copy(node);
    }
    case NodeKind::self:
      return column_value(*context_.self, context_.scope.columns[*context_.self].symbol);
    case NodeKind::call: {
      if (const Formula* formula = context_.scope.find_formula(node.function()))
        return formula_value(node, *formula);
      const Signature* signature = find_signature(node.function());
      if (signature == nullptr) return copy(node);
      if (needs_whole_column(signature->op)) return call_value(node);
      if (signature->rule == Rule::limit) {
        // The column is listed with the cell that holds the limit; the call is given as its value.
        run(*node.children[0]);
        return call_value(node);
      }
      if (signature->rule != Rule::measured) return copy(node);
      const auto index = context_.scope.find_column(*node.children[0]);
      return !index ? copy(node) : column_value(*index, print(node));
    }
    default:
      return copy(node);
  }
}

}  // namespace opensum
