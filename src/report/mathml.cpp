// Equations as mathematics.
#include "report/mathml.h"

#include <algorithm>
#include <array>
#include <string_view>
#include <utility>

#include "report/tightness.h"

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

// Everything is drawn into an element, whose last child it becomes.
using Element = pugi::xml_node;

Element element(Element in, const char* tag) { return in.append_child(tag); }

void leaf(Element in, const char* tag, const std::string& text) { element(in, tag).text().set(text.c_str()); }

void sign(Element in, const char* text) { leaf(in, "mo", text); }

void identifier(Element in, const std::string& text) {
  const auto* const letter =
      std::find_if(kGreek.begin(), kGreek.end(), [&](const Letter& l) { return l.first == text; });
  leaf(in, "mi", letter == kGreek.end() ? text : std::string(letter->second));
}

// A name with what follows its first underscore as an index, and the sheet that it is of.
void indexed(Element in, const std::string& name, const std::string& owner) {
  const std::size_t split = name.find('_');
  const bool has_index = split != std::string::npos && split > 0 && split + 1 < name.size();
  std::string index = has_index ? name.substr(split + 1) : "";
  std::replace(index.begin(), index.end(), '_', ' ');
  if (!owner.empty() && owner != "codata") index += (index.empty() ? "" : ", ") + owner;
  const std::string base = has_index ? name.substr(0, split) : name;
  if (index.empty()) return identifier(in, base);
  const Element both = element(in, "msub");
  identifier(both, base);
  leaf(both, "mtext", index);
}

const char* operator_sign(Operator op) {
  static constexpr std::array<const char*, 15> signs = {"+", "−", "⋅", "/", "^", "=", "≠", "<",
                                                        "≤", ">", "≥", "∧", "∨", "¬", "−"};
  return signs.at(static_cast<std::size_t>(op));
}

void draw(Element in, const Node& node);

void draw_in_brackets(Element in, const Node& node) {
  const Element row = element(in, "mrow");
  sign(row, "(");
  draw(row, node);
  sign(row, ")");
}

void draw_operand(Element in, const Node& node, int least) {
  if (drawn_tightness(node) < least) return draw_in_brackets(in, node);
  draw(in, node);
}

void draw_binary(Element in, const Node& node) {
  const Node& left = *node.children[0];
  const Node& right = *node.children[1];
  if (node.is(Operator::divide)) {
    const Element fraction = element(in, "mfrac");
    draw(element(fraction, "mrow"), left);
    draw(element(fraction, "mrow"), right);
    return;
  }
  if (node.is(Operator::power)) {
    const bool plain = left.kind() == NodeKind::name || left.kind() == NodeKind::member ||
                       left.kind() == NodeKind::call || left.kind() == NodeKind::pi || left.is_plain_number();
    const Element power = element(in, "msup");
    if (plain) {
      draw(element(power, "mrow"), left);
    } else {
      draw_in_brackets(power, left);
    }
    draw(element(power, "mrow"), right);
    return;
  }
  const int own = tightness(node);
  // A sign does not follow another.
  const bool minus = is_negation(right);
  draw_operand(in, left, own);
  sign(in, operator_sign(node.as<tree::Binary>().op));
  draw_operand(in, right, minus ? kTightest : own + 1);
}

// The arguments of a function, with those that are named after the others.
void draw_arguments(Element in, const Node& node) {
  bool first = true;
  const auto separate = [&] {
    if (!std::exchange(first, false)) sign(in, ",");
  };
  for (const NodePtr& child : node.children) {
    separate();
    draw(in, *child);
  }
  for (const NamedArgument& named : node.named()) {
    separate();
    leaf(in, "mtext", named.name + ": " + print(*named.value));
  }
}

// Two cases of which each has a row: a value, and when it is the one.
void draw_cases(Element in, const Node& node) {
  const Element row = element(in, "mrow");
  sign(row, "{");
  const Element table = element(row, "mtable");
  const Element first = element(table, "mtr");
  draw(element(first, "mtd"), *node.children[1]);
  const Element when = element(first, "mtd");
  leaf(when, "mtext", "if\u00a0");
  draw(when, *node.children[0]);
  const Element second = element(table, "mtr");
  draw(element(second, "mtd"), *node.children[2]);
  leaf(element(second, "mtd"), "mtext", "otherwise");
}

void draw_call(Element in, const Node& node) {
  const auto is = [&](const char* name, std::size_t arguments) {
    return node.named().empty() && node.function() == name && node.children.size() == arguments;
  };
  if (is("sqrt", 1)) return draw(element(in, "msqrt"), *node.children[0]);
  if (is("if", 3)) return draw_cases(in, node);
  if (is("exp", 1)) {
    const Element power = element(in, "msup");
    leaf(power, "mi", "e");
    return draw(element(power, "mrow"), *node.children[0]);
  }
  if (is("abs", 1)) {
    const Element row = element(in, "mrow");
    sign(row, "|");
    draw(row, *node.children[0]);
    return sign(row, "|");
  }
  leaf(in, "mi", node.function());
  const Element row = element(in, "mrow");
  sign(row, "(");
  draw_arguments(row, node);
  sign(row, ")");
}

void draw(Element in, const Node& node) {
  switch (node.kind()) {
    case NodeKind::number:
      leaf(in, "mn", node.as<tree::Number>().digits);
      if (!node.is_plain_number()) leaf(in, "mtext", "\u00a0" + node.as<tree::Number>().unit->text);
      return;
    case NodeKind::pi:
      return leaf(in, "mi", "π");
    case NodeKind::name: {
      const auto& [symbol, quoted] = node.as<tree::Name>();
      return quoted ? leaf(in, "mtext", symbol) : indexed(in, symbol, "");
    }
    case NodeKind::member: {
      const auto& [owner, symbol, quoted] = node.as<tree::Member>();
      return quoted ? leaf(in, "mtext", owner + "." + symbol) : indexed(in, symbol, owner);
    }
    case NodeKind::unary:
      sign(in, operator_sign(node.as<tree::Unary>().op));
      return draw_operand(in, *node.children[0], tightness(node));
    case NodeKind::binary:
      return draw_binary(in, node);
    case NodeKind::convert:
      draw_operand(in, *node.children[0], 2);
      return leaf(in, "mtext", "\u00a0in\u00a0" + node.as<tree::Convert>().unit.text);
    case NodeKind::call:
      return draw_call(in, node);
    case NodeKind::range:
      draw(in, *node.children[0]);
      sign(in, "…");
      return draw(in, *node.children[1]);
    default:
      return leaf(in, "mtext", print(node));
  }
}

}  // namespace

void add_mathml(pugi::xml_node in, const std::string& name, const Node& expression) {
  Element math = element(in, "math");
  math.append_attribute("display").set_value("block");
  const Element row = element(math, "mrow");
  indexed(row, name, "");
  sign(row, "=");
  draw(row, expression);
}

}  // namespace opensum
