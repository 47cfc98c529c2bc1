// Equations as LaTeX.
#include "report/latex.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <string_view>

#include "report/tightness.h"
#include "table/latex_text.h"

namespace opensum {
namespace {

constexpr std::array<std::string_view, 28> kGreekCommands = {
    "alpha", "beta",  "gamma", "delta",  "epsilon", "zeta", "eta", "theta", "kappa", "lambda",
    "mu",    "nu",    "xi",    "rho",    "sigma",   "tau",  "phi", "chi",   "psi",   "omega",
    "Gamma", "Delta", "Theta", "Lambda", "Sigma",   "Phi",  "Psi", "Omega"};

std::string letters(const std::string& name) {
  if (std::find(kGreekCommands.begin(), kGreekCommands.end(), name) != kGreekCommands.end())
    return "\\" + name;
  return name.size() == 1 ? name : fmt::format("\\mathit{{{}}}", latex_escaped(name));
}

std::string indexed(const std::string& name, const std::string& owner) {
  const std::size_t split = name.find('_');
  const bool has_index = split != std::string::npos && split > 0 && split + 1 < name.size();
  std::string index = has_index ? name.substr(split + 1) : "";
  std::replace(index.begin(), index.end(), '_', ' ');
  if (!owner.empty() && owner != "codata") index += (index.empty() ? "" : ", ") + owner;
  const std::string base = letters(has_index ? name.substr(0, split) : name);
  return index.empty() ? base : fmt::format("{}_{{\\text{{{}}}}}", base, latex_escaped(index));
}

const char* operator_command(Operator op) {
  static constexpr std::array<const char*, 15> signs = {"+",     "-",      "\\cdot", "/",      "^",
                                                        "=",     "\\neq",  "<",      "\\leq",  ">",
                                                        "\\geq", "\\land", "\\lor",  "\\lnot", "-"};
  return signs.at(static_cast<std::size_t>(op));
}

std::string draw(const Node& node);

std::string in_brackets(const Node& node) { return fmt::format("\\left( {} \\right)", draw(node)); }

std::string operand(const Node& node, int least) {
  return drawn_tightness(node) < least ? in_brackets(node) : draw(node);
}

std::string binary(const Node& node) {
  const Node& left = *node.children[0];
  const Node& right = *node.children[1];
  if (node.is(Operator::divide)) return fmt::format("\\frac{{{}}}{{{}}}", draw(left), draw(right));
  if (node.is(Operator::power)) {
    const bool plain = left.kind() == NodeKind::name || left.kind() == NodeKind::pi || left.is_plain_number();
    return fmt::format("{}^{{{}}}", plain ? "{" + draw(left) + "}" : in_brackets(left), draw(right));
  }
  const int own = tightness(node);
  const bool minus = is_negation(right);
  return fmt::format("{} {} {}", operand(left, own), operator_command(node.as<tree::Binary>().op),
                     operand(right, minus ? kTightest : own + 1));
}

std::string arguments(const Node& node) {
  std::vector<std::string> items;
  for (const NodePtr& child : node.children) items.push_back(draw(*child));
  for (const NamedArgument& named : node.named())
    items.push_back(fmt::format("\\text{{{}}}", latex_escaped(named.name + ": " + print(*named.value))));
  return fmt::format("{}", fmt::join(items, ", "));
}

std::string call(const Node& node) {
  const auto is = [&](const char* name, std::size_t count) {
    return node.named().empty() && node.function() == name && node.children.size() == count;
  };
  if (is("sqrt", 1)) return fmt::format("\\sqrt{{{}}}", draw(*node.children[0]));
  if (is("exp", 1)) return fmt::format("\\mathrm{{e}}^{{{}}}", draw(*node.children[0]));
  if (is("abs", 1)) return fmt::format("\\left| {} \\right|", draw(*node.children[0]));
  if (is("if", 3))
    return fmt::format("\\begin{{cases}} {} & \\text{{if }} {} \\\\ {} & \\text{{otherwise}} \\end{{cases}}",
                       draw(*node.children[1]), draw(*node.children[0]), draw(*node.children[2]));
  for (const char* known : {"ln", "sin", "cos", "tan"}) {
    if (is(known, 1)) return fmt::format("\\{} {}", known, in_brackets(*node.children[0]));
  }
  return fmt::format("\\operatorname{{{}}}\\left( {} \\right)", latex_escaped(node.function()),
                     arguments(node));
}

std::string draw(const Node& node) {
  switch (node.kind()) {
    case NodeKind::number: {
      const auto& number = node.as<tree::Number>();
      return number.unit ? fmt::format("\\qty{{{}}}{{{}}}", number.digits, latex_unit(number.unit->text))
                         : fmt::format("\\num{{{}}}", number.digits);
    }
    case NodeKind::pi:
      return "\\pi";
    case NodeKind::name: {
      const auto& [symbol, quoted] = node.as<tree::Name>();
      return quoted ? fmt::format("\\text{{{}}}", latex_escaped(symbol)) : indexed(symbol, "");
    }
    case NodeKind::member: {
      const auto& [owner, symbol, quoted] = node.as<tree::Member>();
      return quoted ? fmt::format("\\text{{{}}}", latex_escaped(owner + "." + symbol))
                    : indexed(symbol, owner);
    }
    case NodeKind::unary:
      return std::string(operator_command(node.as<tree::Unary>().op)) + " " +
             operand(*node.children[0], tightness(node));
    case NodeKind::binary:
      return binary(node);
    case NodeKind::convert:
      return operand(*node.children[0], 2) +
             fmt::format("\\ \\text{{in }}\\unit{{{}}}", latex_unit(node.as<tree::Convert>().unit.text));
    case NodeKind::call:
      return call(node);
    case NodeKind::range:
      return draw(*node.children[0]) + ", \\dots, " + draw(*node.children[1]);
    default:
      return fmt::format("\\text{{{}}}", latex_escaped(print(node)));
  }
}

}  // namespace

std::string latex_name(const std::string& name) { return indexed(name, ""); }

std::string latex_symbol(const std::string& name) { return "$" + indexed(name, "") + "$"; }

std::string latex_equation(const Node& expression) { return draw(expression); }

}  // namespace opensum
