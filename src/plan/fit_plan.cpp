// Fits checked against the columns of their sheets.
#include "plan/fit_plan.h"

#include <algorithm>
#include <cmath>

#include "base/result.h"
#include "equation/checker.h"
#include "equation/names_used.h"
#include "equation/parser.h"
#include "fit/shapes.h"
#include "message/nearest.h"
#include "message/other_words.h"
#include "plan/quantity.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A column that a fit names; nothing after a reported error, or in silence where the column has its own.
Result<std::size_t> find_column(const Scope& scope, const Passage& name, Diagnostics& diagnostics) {
  // A column that is filled may be fitted as it was measured.
  std::string text = name.text();
  constexpr std::string_view kMeasured = "measured(";
  const bool measured = text.starts_with(kMeasured) && text.ends_with(')');
  if (measured)
    text = std::string(
        trimmed(std::string_view(text).substr(kMeasured.size(), text.size() - kMeasured.size() - 1)));
  const auto found = scope.find_column(text, true);
  if (!found) {
    diagnostics.add(Code::unknown_column, name.place(),
                    {name.text(), scope.sheet, nearest_name(name.text(), scope.names())});
    return std::nullopt;
  }
  const std::size_t index = measured ? *found : scope.meant_by(*found);
  const ScopeColumn& column = scope.columns[index];
  if (column.broken) return std::nullopt;
  if (column.data != nullptr && column.data->unreadable_count > 0) {
    diagnostics.add(
        Code::linked_unreadable, name.place(),
        {scope.sheet + "." + column.symbol, std::to_string(column.data->unreadable_count),
         column.data->unreadable.front().text, std::to_string(column.data->unreadable.front().line)});
    return std::nullopt;
  }
  return index;
}

// The unit in which x enters the model: a date as a duration, a reading as a difference.
Unit length_unit(const Type& type) { return type.kind == Kind::date ? second() : step_unit(type.unit); }

Type of_unit(Unit unit) {
  Type type;
  type.unit = std::move(unit);
  return type;
}

// The kinds and units of the parameters of a model that has a name.
std::vector<Type> parameter_types(const CurveModel& curve, const Type& x, const Type& y) {
  const Unit run = length_unit(x);
  const Unit rise = step_unit(y.unit);
  const Unit slope = quotient(rise, run);
  switch (curve.kind) {
    case CurveKind::line:
      return {of_unit(y.unit), of_unit(slope)};
    case CurveKind::proportional:
      return {of_unit(slope)};
    case CurveKind::polynomial: {
      std::vector<Type> types = {of_unit(y.unit)};
      Unit unit = rise;
      for (std::size_t i = 1; i <= curve.degree; ++i) types.push_back(of_unit(unit = quotient(unit, run)));
      return types;
    }
    case CurveKind::power:
      return {of_unit(y.unit), Type()};
    case CurveKind::exponential:
      return {of_unit(y.unit), of_unit(quotient(Unit{}, run))};
    case CurveKind::logarithm:
      return {of_unit(y.unit), of_unit(rise)};
    case CurveKind::equation:
      break;
  }
  return {};
}

// `5 kW`: where the search for a parameter begins, and its unit.
bool read_start(const Passage& text, const UnitSystem& units, double& value, Type& type,
                Diagnostics& diagnostics) {
  const auto quantity = read_quantity(text.text(), units);
  if (!quantity) {
    diagnostics.add(Code::fit_start, text.place(), {text.text()});
    return false;
  }
  value = quantity->value;
  type = of_unit(quantity->unit);
  return true;
}

// A program of x and the parameters as a function that the search calls. In its scope x comes first.
CurveFunction function_of(Program program, const Conversion& to_y) {
  const auto shared = std::make_shared<const Program>(std::move(program));
  return [shared, to_y](const std::vector<double>& parameters, const std::vector<double>& x) {
    std::vector<std::vector<double>> inputs;
    std::vector<std::size_t> by(parameters.size(), SIZE_MAX);
    std::vector<std::size_t> of_parameters;
    for (std::size_t k = 0; k < shared->inputs.size(); ++k) {
      const std::size_t column = shared->inputs[k];
      if (column == 0) {
        inputs.push_back(x);
        continue;
      }
      inputs.push_back({parameters[column - 1]});
      by[column - 1] = of_parameters.size();
      of_parameters.push_back(k);
    }
    Tangents found = TangentEvaluator(*shared, of_parameters).run(inputs, x.size());
    for (double& value : found.values) value = to_y(value);
    const double scale = to_y.multiply / to_y.divide;
    Tangents tangents;
    tangents.values = std::move(found.values);
    for (const std::size_t place : by) {
      // A parameter that the model does not name changes nothing.
      if (place == SIZE_MAX) {
        tangents.derivatives.emplace_back(x.size(), 0);
        continue;
      }
      tangents.derivatives.push_back(std::move(found.derivatives[place]));
      for (double& value : tangents.derivatives.back()) value *= scale;
    }
    return tangents;
  };
}

// A name in a model: x or a parameter.
void add_name(Scope& scope, const std::string& name, Type type) {
  ScopeColumn entry;
  entry.symbol = name;
  entry.label = name;
  entry.measured = false;
  entry.type = std::move(type);
  scope.columns.push_back(std::move(entry));
}

// What x is in an expression: as in an equation, so that a temperature in °C is a reading on a scale; a date
// is the time since the first fitted row.
Type type_of_x(const Type& x) { return x.kind == Kind::date ? of_unit(second()) : x; }

// What an expression in x may name: x, constants and formulas.
Scope scope_of_x(const CheckContext& context, const Type& x) {
  Scope scope;
  scope.sheet = context.scope.sheet;
  scope.constants = context.scope.constants;
  scope.formulas = context.scope.formulas;
  add_name(scope, "x", type_of_x(x));
  return scope;
}

// The function that an expression of such names is, in the unit of y.
Result<CurveFunction> checked_function(const Passage& text, const Scope& scope, const Unit& y,
                                       const CheckContext& context, Diagnostics& diagnostics) {
  const NodePtr expression = parse_expression(text, diagnostics);
  if (!expression) return std::nullopt;
  const CheckContext inside{scope, context.units, context.policy, Standing::equation, std::nullopt, nullptr};
  const CheckedPtr tree = check_expression(*expression, text, inside, diagnostics);
  if (!tree) return std::nullopt;
  if (tree->type.kind != Kind::number || mismatch(tree->type.unit, y)) {
    diagnostics.add(Code::fit_model_unit, text.place(),
                    {tree->type.kind != Kind::number ? kind_name(tree->type.kind)
                     : tree->type.unit.is_one()      ? "a plain number"
                                                     : tree->type.unit.text(),
                     y.is_one() ? "a plain number" : y.text()});
    return std::nullopt;
  }
  if (y.is_reading() && tree->type.difference) {
    diagnostics.add(Code::difference_as_reading, text.place(), {y.text()});
    return std::nullopt;
  }
  return function_of(compile(*tree), conversion(tree->type.unit, y));
}

// Whether a name in a model may be a parameter: it is neither x nor a constant.
bool may_be_parameter(const std::string& name, const CheckContext& context) {
  return name != "x" && std::none_of(context.scope.constants.begin(), context.scope.constants.end(),
                                     [&](const ScopeConstant& c) { return c.name == name; });
}

// Where the search may begin, to be filled in: `start = { a = "1 UNIT", tau = "1 UNIT" }`, on the command
// line
// `--start 'a=1 UNIT' --start 'tau=1 UNIT'`.
std::string start_line(const std::string& names, bool as_options) {
  std::string line;
  for (std::size_t begin = 0; begin <= names.size();) {
    const std::size_t end = std::min(names.find(", ", begin), names.size());
    const std::string name = names.substr(begin, end - begin);
    line += as_options ? (begin == 0 ? "--start '" : " --start '") + name + "=1 UNIT'"
                       : (begin == 0 ? "" : ", ") + name + " = \"1 UNIT\"";
    begin = end + 2;
  }
  return as_options ? line : "start = { " + line + " }";
}

// A model that is an equation in x and the parameters of `start`.
bool check_equation(FitPlan& fit, const CheckContext& context, Diagnostics& diagnostics) {
  const FitModel& model = *fit.model;
  Scope scope = scope_of_x(context, fit.x);
  bool good = true;
  for (const auto& [name, text] : model.start) {
    double value = 0;
    Type type;
    good = read_start(text, context.units, value, type, diagnostics) && good;
    add_name(scope, name.text(), type);
    fit.curve.names.push_back(name.text());
    fit.curve.start.push_back(value);
    fit.types.push_back(type);
  }
  if (!good) return false;
  std::string missing;
  Diagnostics of_parsing;
  if (const NodePtr equation = parse_expression(model.model, of_parsing)) {
    for (const std::string& name : names_used(*equation, Scope())) {
      const bool started = std::any_of(model.start.begin(), model.start.end(),
                                       [&](const auto& start) { return start.first.text() == name; });
      if (!started && may_be_parameter(name, context)) missing += (missing.empty() ? "" : ", ") + name;
    }
  }
  if (!missing.empty()) {
    const bool as_options = model.model.place().source->name().starts_with("--");
    diagnostics.add(Code::model_without_start, model.model.place(),
                    {missing, start_line(missing, as_options)});
    return false;
  }
  auto function = checked_function(model.model, scope, fit.y.unit, context, diagnostics);
  if (!function) return false;
  fit.curve.kind = CurveKind::equation;
  fit.curve.function = std::move(*function);
  return true;
}

// The names in a model, in order, that are neither x nor constants: parameters, which need a start. Empty for
// a text that is a lone word or no expression.
std::string names_without_start(const Passage& text, const CheckContext& context) {
  Diagnostics of_parsing;
  const NodePtr expression = parse_expression(text, of_parsing);
  if (!expression || expression->kind() == NodeKind::name) return {};
  Scope scope;
  std::string names;
  for (const std::string& name : names_used(*expression, scope)) {
    if (may_be_parameter(name, context)) names += (names.empty() ? "" : ", ") + name;
  }
  return names;
}

// The unit of a parameter of a known shape; nothing where x or y is read on a scale whose zero the shape does
// not know.
std::optional<Type> type_of_role(ParameterRole role, const FitPlan& fit, bool with_offset) {
  const Unit run = length_unit(fit.x);
  if (fit.x.kind == Kind::number && fit.x.unit.is_reading()) return std::nullopt;
  if (fit.y.unit.is_reading() && !with_offset) return std::nullopt;
  switch (role) {
    case ParameterRole::amplitude:
      return of_unit(step_unit(fit.y.unit));
    case ParameterRole::offset:
      return of_unit(fit.y.unit);
    case ParameterRole::rate:
      return of_unit(quotient(Unit{}, run));
    case ParameterRole::length:
    case ParameterRole::position:
      return of_unit(run);
  }
  return std::nullopt;
}

// An equation without a start whose shape is known: its parameters, and how their start is guessed. Nothing
// for any other, false after a reported error.
Result<bool> take_known_shape(FitPlan& fit, const Node& equation, const CheckContext& context,
                              Diagnostics& diagnostics) {
  const auto shape =
      known_shape(equation, [&](const std::string& name) { return may_be_parameter(name, context); });
  if (!shape) return std::nullopt;
  const bool with_offset =
      std::find(shape->roles.begin(), shape->roles.end(), ParameterRole::offset) != shape->roles.end();
  std::vector<Type> types;
  Scope scope = scope_of_x(context, fit.x);
  for (std::size_t i = 0; i < shape->names.size(); ++i) {
    auto type = type_of_role(shape->roles[i], fit, with_offset);
    if (!type) return std::nullopt;
    add_name(scope, shape->names[i], *type);
    types.push_back(std::move(*type));
  }
  auto function = checked_function(fit.model->model, scope, fit.y.unit, context, diagnostics);
  if (!function) return false;
  fit.curve.kind = CurveKind::equation;
  fit.curve.names = shape->names;
  fit.curve.function = std::move(*function);
  fit.curve.guess = [shape = *shape](const CurveData& data) { return guessed_start(shape, data); };
  fit.types = std::move(types);
  return true;
}

// How a model is named where one was written: `model = "power"`, on the command line `--model power`.
std::string model_setting(const Passage& written, const std::string& model) {
  const std::string& source = written.place().source->name();
  const bool blank = model.find(' ') != std::string::npos;
  return source.starts_with("--") ? source + " " + (blank ? "'" + model + "'" : model)
                                  : "model = \"" + model + "\"";
}

bool check_equation_without_start(FitPlan& fit, const CheckContext& context, Diagnostics& diagnostics) {
  const Passage& words = fit.model->model;
  Diagnostics of_parsing;
  const NodePtr equation = parse_expression(words, of_parsing);
  const std::string names = names_without_start(words, context);
  if (!equation || names.empty()) return false;
  const auto parameter = [&](const std::string& name) { return may_be_parameter(name, context); };
  if (const std::string named = named_as(*equation, parameter); !named.empty()) {
    diagnostics.add(Code::model_has_name, words.place(), {words.text(), named, model_setting(words, named)});
    return false;
  }
  if (const auto known = take_known_shape(fit, *equation, context, diagnostics)) return *known;
  const bool as_options = words.place().source->name().starts_with("--");
  diagnostics.add(Code::model_without_start, words.place(), {names, start_line(names, as_options)});
  return false;
}

// Whether a model names a column of a sheet, where a name is taken for a parameter; it is reported.
bool names_a_column(const FitModel& model, const Scope& scope, const std::set<std::string>& of_fit,
                    Diagnostics& diagnostics) {
  Diagnostics of_parsing;
  const NodePtr equation = parse_expression(model.model, of_parsing);
  if (!equation || equation->kind() == NodeKind::name) return false;
  for (const std::string& name : names_used(*equation, Scope())) {
    const auto column = scope.find_column(name, false);
    // What the fit gives is no column for its own model: `tau = fit.rise.tau`.
    if (name == "x" || !column || of_fit.contains(name)) continue;
    const bool of_x = scope.find_column(model.x.text(), true) == column;
    diagnostics.add(Code::model_names_column, model.model.place(),
                    {name, scope.sheet,
                     of_x ? "write x for it"
                          : "a model knows x, its parameters and constants: "
                            "call a parameter something else, and bring what another column "
                            "does to y into y beforehand"});
    return true;
  }
  return false;
}

bool check_model(FitPlan& fit, const CheckContext& context, Diagnostics& diagnostics) {
  const Passage& words = fit.model->model;
  if (!fit.model->start.empty()) return check_equation(fit, context, diagnostics);
  if (const auto named = named_model(words.text())) {
    fit.curve = *named;
    fit.types = parameter_types(fit.curve, fit.x, fit.y);
    return true;
  }
  if (word_here(WordFor::model, words.text()).empty() && !names_without_start(words, context).empty())
    return check_equation_without_start(fit, context, diagnostics);
  diagnostics.add(Code::unknown_model, words.place(), {words.text(), models_in_words(words.text())});
  return false;
}

}  // namespace

Result<CurveFunction> function_of_x(const Passage& expression, const Type& x, const Unit& y,
                                    const CheckContext& context, Diagnostics& diagnostics) {
  return checked_function(expression, scope_of_x(context, x), y, context, diagnostics);
}

void check_fit(FitPlan& fit, std::size_t sheet, const std::string& sheet_name, const Scope& scope,
               const CheckContext& context, const std::set<std::string>& of_fit, Diagnostics& diagnostics) {
  FitSheetPlan& plan = *std::find_if(fit.sheets.begin(), fit.sheets.end(),
                                     [&](const FitSheetPlan& s) { return s.sheet == sheet; });
  const FitModel& model = *fit.model;
  const auto x = find_column(scope, model.x, diagnostics);
  const auto y = find_column(scope, model.y, diagnostics);
  const auto by = model.by ? find_column(scope, *model.by, diagnostics) : std::nullopt;
  const bool by_column = model.weights && !model.weighted_by_uncertainty();
  auto weights = by_column ? find_column(scope, *model.weights, diagnostics) : std::nullopt;
  if (!x || !y || (model.by && !by) || (by_column && !weights)) return;
  const Type& x_type = scope.columns[*x].type;
  const Type& y_type = scope.columns[*y].type;
  const auto number = [&](const Passage& name, const Type& type, bool or_date) {
    if (type.kind == Kind::number || (or_date && type.kind == Kind::date)) return true;
    diagnostics.add(Code::fit_needs_number, name.place(), {name.text(), kind_name(type.kind)});
    return false;
  };
  bool good = number(model.x, x_type, true);
  good = number(model.y, y_type, false) && good;
  if (by_column) {
    good = number(*model.weights, scope.columns[*weights].type, false) && good;
  }
  if (!good || names_a_column(model, scope, of_fit, diagnostics)) return;
  if (!fit.known && fit.types.empty()) {
    fit.x = x_type;
    fit.y = y_type;
    fit.known = check_model(fit, context, diagnostics);
  }
  if (!fit.known) return;
  for (const auto& [name, type, first] :
       {std::tuple(&model.x, &x_type, &fit.x), std::tuple(&model.y, &y_type, &fit.y)}) {
    if (type->kind == first->kind && !mismatch(type->unit, first->unit)) continue;
    diagnostics.add(Code::fit_units_differ, name->place(),
                    {sheet_name + "." + name->text() + " in " + type->unit.text(), first->unit.text()});
    return;
  }
  plan.x = *x;
  plan.y = *y;
  plan.to_x = conversion(x_type.unit, fit.x.unit);
  plan.to_y = conversion(y_type.unit, fit.y.unit);
  plan.by = by;
  if (model.weighted_by_uncertainty()) {
    weights = context.others->uncertainty_of(*y, model.weights->place());
    plan.from_uncertainty = conversion(step_unit(scope.columns[*weights].type.unit), step_unit(fit.y.unit));
  }
  plan.weights = weights;
  if (model.keep) {
    const NodePtr condition = parse_expression(*model.keep, diagnostics);
    const CheckedPtr tree =
        condition ? check_condition(*condition, *model.keep, context, diagnostics) : nullptr;
    if (!tree) return;
    plan.keep = compile(*tree);
  }
  plan.good = true;
}

FitView view_of_fit(const std::deque<FitPlan>& fits, const std::vector<std::string>& sheets,
                    const std::string& name, const std::string& sheet, std::size_t own) {
  FitView view;
  for (std::size_t i = 0; i < fits.size(); ++i) {
    const FitPlan& fit = fits[i];
    view.known.push_back(fit.model->name);
    if (fit.model->name != name) continue;
    view.fit = i;
    view.grouped = fit.model->by.has_value();
    view.parameters = fit.curve.names;
    view.statistics = {
        fit.model->weighted_by_uncertainty() ? FitStatistic::reduced_chi2 : FitStatistic::residual_sd,
        FitStatistic::n, FitStatistic::degrees_of_freedom};
    if (fit.curve.kind != CurveKind::proportional) view.statistics.push_back(FitStatistic::r2);
    if (fit.curve.kind == CurveKind::line) view.statistics.push_back(FitStatistic::r);
    view.types = fit.types;
    view.x = fit.x;
    view.y = fit.y;
    for (const FitSheetPlan& plan : fit.sheets) {
      view.sheets.push_back(sheets[plan.sheet]);
      const bool meant = sheet.empty() ? plan.sheet == own : sheets[plan.sheet] == sheet;
      if (!meant) continue;
      view.sheet = plan.sheet;
      view.own = plan.sheet == own;
      view.good = fit.known && plan.good;
    }
    // With a single sheet there is no other that could be meant.
    if (!view.sheet && sheet.empty() && fit.sheets.size() == 1) {
      view.sheet = fit.sheets.front().sheet;
      view.good = fit.known && fit.sheets.front().good;
    }
    // That the sheet is missing is reported with the fit.
    if (fit.sheets.empty()) {
      view.sheet = own;
      view.own = true;
    }
  }
  return view;
}

}  // namespace opensum
