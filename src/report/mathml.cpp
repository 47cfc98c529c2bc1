// Equations as mathematics.
#include "report/mathml.h"

#include <algorithm>
#include <array>
#include <string_view>
#include <utility>
#include <vector>

#include "files/markup.h"

namespace opensum {
namespace {

using Letter = std::pair<std::string_view, std::string_view>;
constexpr std::array kGreek = {
    Letter{"alpha", "α"},   Letter{"beta", "β"},   Letter{"gamma", "γ"}, Letter{"delta", "δ"},
    Letter{"epsilon", "ε"}, Letter{"zeta", "ζ"},   Letter{"eta", "η"},   Letter{"theta", "θ"},
    Letter{"kappa", "κ"},   Letter{"lambda", "λ"}, Letter{"mu", "μ"},    Letter{"nu", "ν"},
    Letter{"xi", "ξ"},      Letter{"rho", "ρ"},    Letter{"sigma", "σ"}, Letter{"tau", "τ"},
    Letter{"phi", "φ"},     Letter{"chi", "χ"},    Letter{"psi", "ψ"},   Letter{"omega", "ω"},
    Letter{"Gamma", "Γ"},   Letter{"Delta", "Δ"},  Letter{"Theta", "Θ"}, Letter{"Lambda", "Λ"},
    Letter{"Sigma", "Σ"},   Letter{"Phi", "Φ"},    Letter{"Psi", "Ψ"},   Letter{"Omega", "Ω"}};

std::string element(const char* tag, const std::string& content) {
  return std::string("<") + tag + ">" + content + "</" + tag + ">";
}

std::string sign(const char* text) { return element("mo", text); }

std::string identifier(const std::string& text) {
  for (const auto& [word, letter] : kGreek) {
    if (text == word) return element("mi", std::string(letter));
  }
  return element("mi", escaped(text));
}

// A name with what follows its first underscore as an index, and the sheet that it is of.
std::string indexed(const std::string& name, const std::string& owner) {
  const std::size_t split = name.find('_');
  const bool has_index = split != std::string::npos && split > 0 && split + 1 < name.size();
  std::string index = has_index ? name.substr(split + 1) : "";
  std::replace(index.begin(), index.end(), '_', ' ');
  if (!owner.empty() && owner != "codata") index += (index.empty() ? "" : ", ") + owner;
  const std::string base = identifier(has_index ? name.substr(0, split) : name);
  return index.empty() ? base : element("msub", base + element("mtext", escaped(index)));
}

std::string in_brackets(const std::string& content) {
  return element("mrow", sign("(") + content + sign(")"));
}

// How tightly a node binds where it is drawn: a fraction holds together by itself.
int drawn_tightness(const Node& node) {
  const bool fraction = node.kind == NodeKind::binary && node.op == Operator::divide;
  return fraction ? kTightest : tightness(node);
}

const char* operator_sign(Operator op) {
  static constexpr std::array<const char*, 15> signs = {"+", "−",    "⋅", "/", "^", "=", "≠", "&lt;",
                                                        "≤", "&gt;", "≥", "∧", "∨", "¬", "−"};
  return signs.at(static_cast<std::size_t>(op));
}

std::string drawn(const Node& node);

std::string operand(const Node& node, int least) {
  return drawn_tightness(node) < least ? in_brackets(drawn(node)) : drawn(node);
}

std::string unit_text(const std::string& unit) { return element("mtext", "\u00a0" + escaped(unit)); }

std::string drawn_binary(const Node& node) {
  const Node& left = *node.children[0];
  const Node& right = *node.children[1];
  if (node.op == Operator::divide) {
    return element("mfrac", element("mrow", drawn(left)) + element("mrow", drawn(right)));
  }
  if (node.op == Operator::power) {
    const bool plain = left.kind == NodeKind::name || left.kind == NodeKind::member ||
                       left.kind == NodeKind::call || left.kind == NodeKind::pi ||
                       (left.kind == NodeKind::number && !left.unit);
    return element("msup", (plain ? element("mrow", drawn(left)) : in_brackets(drawn(left))) +
                               element("mrow", drawn(right)));
  }
  const int own = tightness(node);
  // A sign does not follow another.
  const bool minus = right.kind == NodeKind::unary && right.op == Operator::negate;
  return operand(left, own) + sign(operator_sign(node.op)) + operand(right, minus ? kTightest : own + 1);
}

// The arguments of a function, with those that are named after the others.
std::string arguments(const Node& node) {
  std::string out;
  for (const NodePtr& child : node.children) out += (out.empty() ? "" : sign(",")) + drawn(*child);
  for (const NamedArgument& named : node.named) {
    out +=
        (out.empty() ? "" : sign(",")) + element("mtext", escaped(named.name + ": " + print(*named.value)));
  }
  return out;
}

std::string drawn_call(const Node& node) {
  const bool plain = node.named.empty();
  if (node.text == "sqrt" && plain && node.children.size() == 1)
    return element("msqrt", drawn(*node.children[0]));
  if (node.text == "exp" && plain && node.children.size() == 1)
    return element("msup", element("mi", "e") + element("mrow", drawn(*node.children[0])));
  if (node.text == "abs" && plain && node.children.size() == 1)
    return element("mrow", sign("|") + drawn(*node.children[0]) + sign("|"));
  if (node.text == "if" && plain && node.children.size() == 3) {
    const auto row = [](const std::string& value, const std::string& when) {
      return element("mtr", element("mtd", value) + element("mtd", when));
    };
    return element(
        "mrow",
        sign("{") + element("mtable", row(drawn(*node.children[1]),
                                          element("mtext", "if\u00a0") + drawn(*node.children[0])) +
                                          row(drawn(*node.children[2]), element("mtext", "otherwise"))));
  }
  return element("mi", escaped(node.text)) + in_brackets(arguments(node));
}

std::string drawn(const Node& node) {
  switch (node.kind) {
    case NodeKind::number:
      return element("mn", escaped(node.text)) + (node.unit ? unit_text(node.unit->text) : "");
    case NodeKind::pi:
      return element("mi", "π");
    case NodeKind::name:
      return node.quoted ? element("mtext", escaped(node.text)) : indexed(node.text, "");
    case NodeKind::member:
      return node.quoted ? element("mtext", escaped(node.owner + "." + node.text))
                         : indexed(node.text, node.owner);
    case NodeKind::unary:
      return sign(operator_sign(node.op)) + operand(*node.children[0], tightness(node));
    case NodeKind::binary:
      return drawn_binary(node);
    case NodeKind::convert:
      return operand(*node.children[0], 2) + element("mtext", "\u00a0in\u00a0" + escaped(node.unit->text));
    case NodeKind::call:
      return drawn_call(node);
    case NodeKind::range:
      return drawn(*node.children[0]) + sign("…") + drawn(*node.children[1]);
    default:
      return element("mtext", escaped(print(node)));
  }
}

}  // namespace

std::string mathml(const std::string& name, const Node& expression) {
  return "<math display=\"block\"><mrow>" + indexed(name, "") + sign("=") + drawn(expression) +
         "</mrow></math>";
}

}  // namespace opensum
