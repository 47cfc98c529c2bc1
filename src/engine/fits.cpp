// The fits of a study.
#include "engine/fits.h"

#include <fmt/format.h>

#include <algorithm>
#include <boost/math/tools/roots.hpp>
#include <cmath>

#include "base/limits.h"
#include "compute/statistics.h"
#include "compute/whole_column.h"
#include "equation/operation.h"
#include "fit/effective_variance.h"
#include "table/cell_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// Names of parameters as words: `a`, `a and b`.
std::string listed(const CurveModel& model, const std::vector<std::size_t>& places) {
  std::string list;
  for (std::size_t i = 0; i < places.size(); ++i) {
    list += (i == 0 ? "" : i + 1 == places.size() ? " and " : ", ") + model.names[places[i]];
  }
  return list;
}

// Why a curve could not be fitted, in words, with what to try.
std::string state_words(const CurveModel& model, const Curve& curve) {
  switch (curve.state) {
    case CurveState::too_few:
      return "there are no more points than parameters";
    case CurveState::undetermined:
      return curve.at_fault.size() == 1 ? "its points do not determine " + listed(model, curve.at_fault)
                                        : "its points do not tell " + listed(model, curve.at_fault) +
                                              " apart: other values of them give the same curve";
    case CurveState::unmoved:
      return "the search ended where the curve does not change with " + listed(model, curve.at_fault) +
             "; try a start nearer to it";
    case CurveState::not_converged:
      return "the search for its parameters found no end; try a start nearer to them, or fewer parameters";
    case CurveState::no_value:
      return model.kind == CurveKind::equation
                 ? "the model has no value for some x at the start of its parameters"
                 : "the model has no value for some x, as there is no logarithm or power of x ≤ 0";
    case CurveState::fitted:
      break;
  }
  return "";
}

// Only the ratios of weights count that are not from uncertainties: with a mean of 1 the residual sd is that
// of a point of mean weight, whatever their unit.
void take_mean_weight(CurveData& data) {
  if (data.absolute || data.weights.empty()) return;
  CompensatedSum sum;
  for (const double weight : data.weights) sum.add(weight);
  const double mean = sum.over(static_cast<double>(data.weights.size()));
  if (!std::isfinite(mean)) return;
  for (double& weight : data.weights) weight /= mean;
}

// Rows that are fitted are those where x, y and the weight are known and the condition is true.
class PointReader {
 public:
  PointReader(const RunSheet& sheet, const FitSheetPlan& plan) : table_(sheet.table()), plan_(plan) {}

  // Adds a row to the points of its group, if it is one.
  void read(std::size_t row, FitGroup& group) {
    CurveData& data = group.data;
    const Column& x = table_.columns[plan_.x];
    const Column& y = table_.columns[plan_.y];
    double weight = 1;
    bool known = !x.null(row) && !y.null(row);
    if (plan_.weights) {
      const Column& weights = table_.columns[*plan_.weights];
      known = known && !weights.null(row);
      if (known) weight = weights.number(row);
      // A weight of 0 leaves a point out; nothing is known without any uncertainty.
      if (known && (weight < 0 || (weight == 0 && plan_.from_uncertainty))) {
        not_positive_.add(row);
        return;
      }
      known = known && weight != 0;
      if (known && plan_.from_uncertainty) {
        const double u = (*plan_.from_uncertainty)(weight);
        weight = 1 / (u * u);
        data.absolute = true;
      }
    }
    if (plan_.x_error) known = known && !table_.columns[*plan_.x_error].null(row);
    if (!known) {
      ++group.left_out;
      return;
    }
    if (x.kind == Kind::date) {
      if (data.x.empty()) group.origin = x.instant(row);
      data.x.push_back(seconds_between(group.origin, x.instant(row)));
    } else {
      data.x.push_back(plan_.to_x(x.number(row)));
    }
    data.y.push_back(plan_.to_y(y.number(row)));
    group.rows.push_back(row);
    if (plan_.weights) data.weights.push_back(weight);
    if (plan_.x_error) data.x_errors.push_back(plan_.to_x_error(table_.columns[*plan_.x_error].number(row)));
  }

  // Rows whose weight or uncertainty is not above 0.
  const RowList& not_positive() const { return not_positive_; }

 private:
  const Table& table_;
  const FitSheetPlan& plan_;
  RowList not_positive_;
};

}  // namespace

namespace {

// The start that a study gives leads to a poor place; a better one was found from another.
void report_better_place(const FitPlan& fit, const std::string& sheet, const std::string& group,
                         const Curve& curve, Diagnostics& diagnostics) {
  std::string start;
  for (std::size_t p = 0; p < fit.curve.names.size(); ++p) {
    const std::string unit = fit.types[p].unit.text();
    start += fmt::format("{}{} = \"{}{}\"", p == 0 ? "" : ", ", fit.curve.names[p],
                         number_text(curve.parameters[p], 3), unit == "1" ? "" : " " + unit);
  }
  diagnostics.add(Code::fit_start_is_poor, fit.model->place,
                  {fit.model->name, sheet + (group.empty() ? "" : ", " + group),
                   number_text(*curve.better_elsewhere, 3), start});
}

}  // namespace

FitResult fit_points(const StudyRun& run, const FitPlan& fit, const FitSheetPlan& plan,
                     const std::vector<bool>* kept, Diagnostics& diagnostics) {
  const RunSheet& sheet = *run.sheets[plan.sheet];
  const Table& table = sheet.table();
  FitResult result;
  std::vector<const Column*> keys;
  if (plan.by) keys.push_back(&table.columns[*plan.by]);
  std::size_t groups = 0;
  {
    const Grouping grouping = group_rows(keys, table.rows);
    groups = grouping.groups;
    result.group_of_row.append(grouping.group_of_row);
  }
  if (groups > kMostGroups) {
    diagnostics.add(Code::too_many_groups, fit.model->by->place(),
                    {keys.front()->symbol, std::to_string(kMostGroups), "fit a curve to each"});
    result.group_of_row.clear();
    for (std::size_t row = 0; row < table.rows; ++row) result.group_of_row.push_back(0);
    result.groups.resize(1);
    return result;
  }
  result.groups.resize(groups);
  std::vector<bool> named(groups, false);
  PointReader reader(sheet, plan);
  for (std::size_t row = 0; row < table.rows; ++row) {
    const std::size_t group = result.group_of_row[row];
    if (plan.by && !named[group]) {
      named[group] = true;
      result.groups[group].group = keys.front()->null(row) ? "null" : cell_text(*keys.front(), row);
    }
    if (kept == nullptr || (*kept)[row]) reader.read(row, result.groups[group]);
  }
  if (const RowList& wrong = reader.not_positive(); wrong.count > 0) {
    const Column& weights = table.columns[*plan.weights];
    std::vector<std::string> details;
    for (const std::size_t row : wrong.rows)
      details.push_back(table.place_text(row) + ": " + weights.symbol + " = " + cell_text(weights, row));
    diagnostics
        .add(Code::fit_weight_not_positive, fit.model->weights->place(),
             {weights.symbol, std::to_string(wrong.count), sheet.model->name, wrong.count == 1 ? "" : "s"})
        .details = std::move(details);
  }
  for (FitGroup& group : result.groups) take_mean_weight(group.data);
  for (std::size_t group = 0; group < groups; ++group) {
    Curve& curve = result.groups[group].curve;
    curve = fit_by_effective_variance(fit.curve, result.groups[group].data);
    const std::string& name = result.groups[group].group;
    if (curve.state == CurveState::fitted) {
      if (curve.better_elsewhere) report_better_place(fit, sheet.model->name, name, curve, diagnostics);
      continue;
    }
    diagnostics.add(Code::fit_failed, fit.model->place,
                    {fit.model->name, sheet.model->name + (name.empty() ? "" : ", " + name),
                     std::to_string(curve.points), state_words(fit.curve, curve)});
  }
  return result;
}

namespace {

using Root = std::optional<double>;

// Where a function of x crosses zero between two places at which it has unlike signs.
template <typename Function>
double crossing(const Function& function, double left, double right, double at_left, double at_right) {
  boost::uintmax_t steps = 200;
  const auto root = boost::math::tools::toms748_solve(function, left, right, at_left, at_right,
                                                      boost::math::tools::eps_tolerance<double>(), steps);
  return (root.first + root.second) / 2;
}

// Beyond an end of the range: where the curve goes on to y, which is no further from its end than the points
// scatter; nothing where it does not within the length of the range.
template <typename Function>
Root beyond(const Function& difference, double end, double step, double scatter) {
  constexpr int kSteps = 512;
  double at = end;
  double before = difference(at);
  if (!std::isfinite(before) || std::fabs(before) > scatter) return std::nullopt;
  for (int i = 0; i < kSteps; ++i) {
    const double next = at + step;
    const double there = difference(next);
    if (!std::isfinite(there) || std::fabs(there) > std::fabs(before) + scatter) return std::nullopt;
    if (there == 0) return next;
    if (before * there < 0)
      return step > 0 ? crossing(difference, at, next, before, there)
                      : crossing(difference, next, at, there, before);
    at = next;
    before = there;
  }
  return std::nullopt;
}

}  // namespace

Solution solve_curve(const CurveModel& model, const Curve& curve, double y) {
  const double low = curve.x_least;
  const double high = curve.x_greatest;
  const auto difference = [&](double x) { return curve_at(model, curve, x) - y; };
  // Between two neighbours of these places a curve crosses a value once at the most; finer waves are no
  // calibration.
  constexpr int kSteps = 512;
  // The ends belong to the range though a sum may round beyond them.
  const double slack = (high - low) * 1e-12;
  std::vector<double> roots;
  double left = low - slack;
  double at_left = difference(left);
  for (int i = 1; i <= kSteps; ++i) {
    const double right = i == kSteps ? high + slack : low + (high - low) * i / kSteps;
    const double at_right = difference(right);
    if (at_left == 0) {
      roots.push_back(left);
    } else if (std::isfinite(at_left) && std::isfinite(at_right) && at_left * at_right < 0) {
      roots.push_back(crossing(difference, left, right, at_left, at_right));
    }
    left = right;
    at_left = at_right;
  }
  if (at_left == 0) roots.push_back(left);
  if (!roots.empty()) {
    if (roots.size() > 1) return {0, Reason::ambiguous};
    return {std::clamp(roots.front(), low, high), std::nullopt};
  }
  // A standard at an end of the range scatters about the curve like any other point.
  constexpr double kWidened = 3;
  const double scatter = kWidened * curve.scatter;
  const double step = (high - low) / kSteps;
  const Root below = beyond(difference, low, -step, scatter);
  const Root above = beyond(difference, high, step, scatter);
  if (below && above) return {0, Reason::ambiguous};
  if (!below && !above) return {0, Reason::out_of_range};
  return {below ? *below : *above, std::nullopt};
}

namespace {

// A parameter by its place, or a statistic by its own; nothing for one that the curve has not.
std::optional<double> parameter_or_statistic(const Curve& curve, const OpSetting& setting) {
  if (const auto* parameter = std::get_if<ParameterIndex>(&setting))
    return curve.parameters[parameter->index];
  switch (std::get<FitStatistic>(setting)) {
    case FitStatistic::residual_sd:
      return curve.residual_sd;
    case FitStatistic::reduced_chi2:
      return curve.residual_sd * curve.residual_sd;
    case FitStatistic::r2:
      return curve.r2;
    case FitStatistic::r:
      return curve.r;
    case FitStatistic::n:
      return static_cast<double>(curve.points);
    case FitStatistic::degrees_of_freedom:
      return static_cast<double>(curve.degrees_of_freedom);
  }
  return std::nullopt;
}

}  // namespace

std::vector<Chunk> HeldColumns::fitted_values(const Stage& stage, const std::vector<Chunk>& values,
                                              OriginId own, std::size_t first_row) const {
  const std::size_t number = stage.curve->fit;
  const FitPlan& fit = run_.fits[number];
  std::size_t place = 0;
  while (fit.sheets[place].sheet != stage.curve->sheet) ++place;
  const FitResult& result = run_.fit_results[number][place];
  const bool dated = fit.x.kind == Kind::date;
  std::vector<Chunk> chunks = values;
  std::size_t row = first_row;
  for (Chunk& chunk : chunks) {
    for (std::size_t i = 0; i < chunk.numbers.size(); ++i, ++row) {
      if (chunk.null_at(i)) continue;
      const FitGroup* group = nullptr;
      if (!result.groups.empty()) {
        group = &result.groups[stage.curve->own ? result.group_of_row[row] : 0];
      }
      std::optional<Reason> why_not;
      double& value = chunk.numbers[i];
      if (group == nullptr || group->curve.state == CurveState::too_few) {
        why_not = Reason::too_few;
      } else if (group->curve.state != CurveState::fitted) {
        why_not = Reason::failed_fit;
      } else if (stage.op == Op::fit_parameter) {
        const auto found = parameter_or_statistic(group->curve, stage.setting);
        value = found.value_or(0);
        if (!found) why_not = Reason::domain;
      } else if (stage.op == Op::fit_parameter_error) {
        const Curve& curve = group->curve;
        const auto& errors = curve.stated_errors.empty() ? curve.standard_errors : curve.stated_errors;
        value = errors[std::get<ParameterIndex>(stage.setting).index];
        if (!std::isfinite(value)) why_not = Reason::missing;
      } else if (stage.op == Op::fit_value) {
        const double x = dated ? seconds_between(group->origin, chunk.instant_at(i)) : value;
        value = curve_at(fit.curve, group->curve, x);
        if (!std::isfinite(value)) why_not = Reason::domain;
      } else {
        const Solution solution = solve_curve(fit.curve, group->curve, value);
        value = solution.x;
        if (dated) chunk.set_instant(i, later(group->origin, solution.x));
        why_not = solution.why_not;
      }
      if (!why_not) continue;
      value = 0;
      if (chunk.nulls.empty()) chunk.nulls.resize(chunk.numbers.size());
      chunk.nulls[i] = Null(*why_not, own);
    }
  }
  return chunks;
}

}  // namespace opensum
