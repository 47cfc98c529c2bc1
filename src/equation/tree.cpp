// Printing of syntax trees.
#include "equation/tree.h"

#include <array>

namespace opensum {

int tightness(const Node& node) {
  switch (node.kind) {
    case NodeKind::convert:
      return 1;
    case NodeKind::unary:
      return node.op == Operator::logical_not ? 4 : 8;
    case NodeKind::number:
      return node.text[0] == '-' ? 8 : kTightest;
    case NodeKind::binary:
      switch (node.op) {
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
  if (node.op == Operator::power) {
    // 2^-1 needs no brackets, (-2)^2 does.
    const bool minus = (right.kind == NodeKind::unary && right.op == Operator::negate) ||
                       (right.kind == NodeKind::number && right.text[0] == '-');
    return bracketed(left, tightness(left) <= own) + "^" + bracketed(right, tightness(right) < own && !minus);
  }
  const bool comparison = own == 5;
  return bracketed(left, tightness(left) < own || (comparison && tightness(left) == own)) + " " +
         operator_text(node.op) + " " + bracketed(right, tightness(right) <= own);
}

std::string print_call(const Node& node) {
  std::string out = node.text + "(";
  bool first = true;
  for (const NodePtr& child : node.children) {
    out += (first ? "" : ", ") + print(*child);
    first = false;
  }
  for (const NamedArgument& named : node.named) {
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

std::string print(const Node& node) {
  const auto unit = [&] { return node.unit ? " [" + node.unit->text + "]" : std::string(); };
  switch (node.kind) {
    case NodeKind::number:
      return node.text + (node.uncertainty.empty() ? "" : " ± " + node.uncertainty) + unit();
    case NodeKind::text:
      return doubled(node.text, '"');
    case NodeKind::name:
      return node.quoted ? doubled(node.text, '`') : node.text;
    case NodeKind::member:
      return node.owner + "." + (node.quoted ? doubled(node.text, '`') : node.text);
    case NodeKind::unary: {
      const Node& operand = *node.children[0];
      const char* sign = node.op == Operator::logical_not ? "not " : "-";
      return sign + bracketed(operand, tightness(operand) < tightness(node));
    }
    case NodeKind::binary:
      return print_binary(node);
    case NodeKind::convert:
      return print(*node.children[0]) + " in [" + node.unit->text + "]";
    case NodeKind::call:
      return print_call(node);
    case NodeKind::range:
      return print(*node.children[0]) + ".." + print(*node.children[1]);
    case NodeKind::unit:
      return "[" + node.unit->text + "]";
    case NodeKind::list: {
      std::string out;
      for (const NodePtr& child : node.children) out += (out.empty() ? "(" : ", ") + print(*child);
      return out + ")";
    }
    default:
      return node.text;
  }
}

}  // namespace opensum
