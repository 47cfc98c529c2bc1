// Printing of syntax trees.
#include "equation/tree.h"

#include <array>
#include <type_traits>

namespace opensum {
namespace {

// The kinds have the order of what a node may be.
template <NodeKind kKind, typename What>
constexpr bool kIs =
    std::is_same_v<std::variant_alternative_t<static_cast<std::size_t>(kKind), tree::What>, What>;
static_assert(kIs<NodeKind::number, tree::Number> && kIs<NodeKind::text, tree::Text> &&
              kIs<NodeKind::truth, tree::Truth> && kIs<NodeKind::null, tree::Null> &&
              kIs<NodeKind::self, tree::Self> && kIs<NodeKind::pi, tree::Pi> &&
              kIs<NodeKind::name, tree::Name> && kIs<NodeKind::member, tree::Member> &&
              kIs<NodeKind::unary, tree::Unary> && kIs<NodeKind::binary, tree::Binary> &&
              kIs<NodeKind::convert, tree::Convert> && kIs<NodeKind::call, tree::Call> &&
              kIs<NodeKind::range, tree::Range> && kIs<NodeKind::unit, tree::UnitArgument> &&
              kIs<NodeKind::argument, tree::Word> && kIs<NodeKind::list, tree::List>);

}  // namespace

int tightness(const Node& node) {
  switch (node.kind()) {
    case NodeKind::convert:
      return 1;
    case NodeKind::unary:
      return node.as<tree::Unary>().op == Operator::logical_not ? 4 : 8;
    case NodeKind::number:
      return node.as<tree::Number>().digits[0] == '-' ? 8 : kTightest;
    case NodeKind::binary:
      switch (node.as<tree::Binary>().op) {
        case Operator::logical_or:
          return 2;
        case Operator::logical_and:
          return 3;
        case Operator::add:
        case Operator::subtract:
          return 6;
        case Operator::multiply:
        case Operator::divide:
          return 7;
        case Operator::power:
          return 9;
        default:
          return 5;
      }
    default:
      return kTightest;
  }
}

namespace {

std::string bracketed(const Node& node, bool brackets) {
  return brackets ? "(" + print(node) + ")" : print(node);
}

std::string doubled(const std::string& text, char quote) {
  std::string out(1, quote);
  for (const char c : text) {
    if (c == quote) out += quote;
    out += c;
  }
  return out + quote;
}

std::string print_binary(const Node& node) {
  const int own = tightness(node);
  const Node& left = *node.children[0];
  const Node& right = *node.children[1];
  if (node.is(Operator::power)) {
    // 2^-1 needs no brackets, (-2)^2 does.
    const bool minus =
        is_negation(right) || (right.is<tree::Number>() && right.as<tree::Number>().digits[0] == '-');
    return bracketed(left, tightness(left) <= own) + "^" + bracketed(right, tightness(right) < own && !minus);
  }
  const bool comparison = own == 5;
  return bracketed(left, tightness(left) < own || (comparison && tightness(left) == own)) + " " +
         operator_text(node.as<tree::Binary>().op) + " " + bracketed(right, tightness(right) <= own);
}

std::string print_call(const Node& node) {
  std::string out = node.function() + "(";
  bool first = true;
  for (const NodePtr& child : node.children) {
    out += (first ? "" : ", ") + print(*child);
    first = false;
  }
  for (const NamedArgument& named : node.named()) {
    out += (first ? "" : ", ") + named.name + ": " + print(*named.value);
    first = false;
  }
  return out + ")";
}

}  // namespace

const char* operator_text(Operator op) {
  static constexpr std::array<const char*, 15> texts = {"+",  "-", "*",  "/",   "^",  "==",  "!=", "<",
                                                        "<=", ">", ">=", "and", "or", "not", "-"};
  return texts.at(static_cast<std::size_t>(op));
}

const std::string& symbol_in(const Node& node) {
  static const std::string kNone;
  if (node.is<tree::Name>()) return node.as<tree::Name>().symbol;
  return node.is<tree::Member>() ? node.as<tree::Member>().symbol : kNone;
}

bool is_negation(const Node& node) {
  return node.is<tree::Unary>() && node.as<tree::Unary>().op == Operator::negate;
}

std::string print(const Node& node) {
  const auto name = [](const std::string& symbol, bool quoted) {
    return quoted ? doubled(symbol, '`') : symbol;
  };
  switch (node.kind()) {
    case NodeKind::number: {
      const auto& number = node.as<tree::Number>();
      return number.digits + (number.uncertainty.empty() ? "" : " ± " + number.uncertainty) +
             (number.unit ? " [" + number.unit->text + "]" : "");
    }
    case NodeKind::text:
      return doubled(node.as<tree::Text>().text, '"');
    case NodeKind::truth:
      return node.as<tree::Truth>().value ? "true" : "false";
    case NodeKind::null:
      return "null";
    case NodeKind::self:
      return "self";
    case NodeKind::pi:
      return "pi";
    case NodeKind::name:
      return name(node.as<tree::Name>().symbol, node.as<tree::Name>().quoted);
    case NodeKind::member: {
      const auto& member = node.as<tree::Member>();
      return member.owner + "." + name(member.symbol, member.quoted);
    }
    case NodeKind::unary: {
      const Node& operand = *node.children[0];
      const char* sign = is_negation(node) ? "-" : "not ";
      return sign + bracketed(operand, tightness(operand) < tightness(node));
    }
    case NodeKind::binary:
      return print_binary(node);
    case NodeKind::convert:
      return print(*node.children[0]) + " in [" + node.as<tree::Convert>().unit.text + "]";
    case NodeKind::call:
      return print_call(node);
    case NodeKind::range:
      return print(*node.children[0]) + ".." + print(*node.children[1]);
    case NodeKind::unit:
      return "[" + node.as<tree::UnitArgument>().unit.text + "]";
    case NodeKind::argument:
      return node.as<tree::Word>().word;
    case NodeKind::list: {
      std::string out;
      for (const NodePtr& child : node.children) out += (out.empty() ? "(" : ", ") + print(*child);
      return out + ")";
    }
  }
  return "";
}

}  // namespace opensum
