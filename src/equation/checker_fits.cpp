// Third stage of an equation: what fitted curves give.
#include <algorithm>

#include "equation/checker.h"
#include "equation/checker_impl.h"
#include "equation/operation.h"
#include "message/nearest.h"

namespace opensum {
namespace {

std::string listed(const std::vector<std::string>& names) {
  std::string text;
  for (const std::string& name : names) text += (text.empty() ? "" : ", ") + name;
  return text;
}

}  // namespace

const char* statistic_name(FitStatistic statistic) {
  switch (statistic) {
    case FitStatistic::residual_sd:
      return "residual_sd";
    case FitStatistic::reduced_chi2:
      return "reduced_chi2";
    case FitStatistic::r2:
      return "r2";
    case FitStatistic::r:
      return "r";
    case FitStatistic::n:
      return "n";
    case FitStatistic::degrees_of_freedom:
      return "degrees_of_freedom";
  }
  return "";
}

// The fit of a name; nothing after a reported error, or in silence where its own errors are reported.
std::optional<FitView> Checker::find_fit(const std::string& name, const std::string& sheet, Span span,
                                         const std::string& written_with_sheet) {
  if (context_.standing == Standing::keep) {
    fail(Code::keep_row_by_row, span, {name});
    return std::nullopt;
  }
  FitView view;
  if (context_.others != nullptr) view = context_.others->fit(name, sheet);
  if (!view.fit) {
    const std::string near = nearest_name(name, view.known);
    fail(Code::unknown_fit, span, {name, near.empty() ? "" : "did you mean " + near + "?"});
  } else if (!view.sheet) {
    fail(Code::fit_elsewhere, span,
         {name, sheet.empty() ? context_.scope.sheet : sheet, listed(view.sheets), written_with_sheet});
  } else if (view.grouped && !view.own) {
    fail(Code::fit_of_groups, span, {name, view.sheets.front()});
  } else if (view.good) {
    return view;
  }
  return std::nullopt;
}

CheckedPtr Checker::check_fit_parameter(const Node& node) {
  const std::string& member = node.as<tree::Member>().symbol;
  const std::size_t first = member.find('.');
  const std::size_t last = member.rfind('.');
  const std::string name = member.substr(0, first);
  const std::string parameter = first == std::string::npos ? "" : member.substr(last + 1);
  const std::string sheet = last > first ? member.substr(first + 1, last - first - 1) : "";
  const auto view = find_fit(name, sheet, node.span, "fit." + name + ".SHEET." + parameter);
  if (!view) return nullptr;
  std::vector<CheckedPtr> args;
  args.push_back(constant_node(0, Type(), node.span));
  const auto found = std::find(view->parameters.begin(), view->parameters.end(), parameter);
  if (found != view->parameters.end()) {
    const auto index = static_cast<std::size_t>(found - view->parameters.begin());
    CheckedPtr result = fitted(Op::fit_parameter, view->types[index], node, *view, std::move(args));
    result->setting = ParameterIndex{index};
    return result;
  }
  std::vector<std::string> known = view->parameters;
  for (const FitStatistic statistic : view->statistics) {
    known.emplace_back(statistic_name(statistic));
    if (known.back() != parameter) continue;
    const bool in_unit_of_y = statistic == FitStatistic::residual_sd;
    Type type;
    if (in_unit_of_y) type.unit = step_unit(view->y.unit);
    CheckedPtr result = fitted(Op::fit_parameter, type, node, *view, std::move(args));
    result->setting = statistic;
    if (!in_unit_of_y) return result;
    result = converted(std::move(result), difference_unit(view->y.unit));
    result->type.difference = view->y.unit.is_reading();
    return result;
  }
  return fail(Code::unknown_parameter, node.span,
              {name, parameter, listed(known), nearest_name(parameter, known)});
}

CheckedPtr Checker::check_fit_call(const Node& node, const Signature& signature) {
  const Node& fit = *node.children[0];
  const bool member = fit.is<tree::Member>();
  if (!fit.is<tree::Name>() && !member) {
    return fail(Code::fit_call, fit.span, {node.function(), signature.usage});
  }
  const std::string name = member ? fit.as<tree::Member>().owner : fit.as<tree::Name>().symbol;
  const auto view = find_fit(name, member ? fit.as<tree::Member>().symbol : "", fit.span,
                             node.function() + "(" + name + ".SHEET, …)");
  CheckedPtr value = check(*node.children[1]);
  if (!view || !value) return nullptr;
  const bool solve = signature.op == Op::fit_solve;
  const Type& wanted = solve ? view->y : view->x;
  const bool same_kind = value->type.kind == wanted.kind;
  if (!same_kind || mismatch(value->type.unit, wanted.unit)) {
    return fail(
        Code::fit_argument, node.children[1]->span,
        {written(*node.children[1]), in_words(*node.children[1], value->type), name, solve ? "y" : "x",
         wanted.kind == Kind::date ? "a date"
         : wanted.unit.is_one()    ? "a plain number"
                                   : "in " + wanted.unit.text()});
  }
  if (wanted.kind == Kind::number) value = converted(settled(std::move(value)), wanted.unit);
  std::vector<CheckedPtr> args;
  args.push_back(std::move(value));
  return fitted(signature.op, solve ? view->x : view->y, node, *view, std::move(args));
}

CheckedPtr Checker::fitted(Op op, const Type& type, const Node& node, const FitView& view,
                           std::vector<CheckedPtr> args) {
  CheckedPtr result = operation(op, type, node.span, std::move(args));
  result->text = node.is<tree::Call>() ? node.function() : "fit." + node.as<tree::Member>().symbol;
  result->curve = CurveUsed{*view.fit, *view.sheet, view.own};
  return result;
}

}  // namespace opensum
