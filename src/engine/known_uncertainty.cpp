// What is known of the uncertainties of a study beyond single rows.
#include "engine/known_uncertainty.h"

#include <algorithm>
#include <cmath>

#include "fit/curve_sensitivity.h"

namespace opensum {

KnownUncertainty::KnownUncertainty(const StudyRun& run) {
  std::map<std::string, std::size_t> instruments;
  for (std::size_t sheet = 0; sheet < run.sheets.size(); ++sheet) {
    const SheetUncertainty& plan = run.sheets[sheet]->plan.uncertainty;
    in_use_ = in_use_ || plan.in_use;
    std::vector<std::size_t>& own = sources_.emplace_back();
    for (std::size_t i = 0; i < plan.sources.size(); ++i) {
      const UncertainSource& source = plan.sources[i];
      if (const auto found = instruments.find(source.name); source.instrument && found != instruments.end()) {
        own.push_back(found->second);
        continue;
      }
      UnknownOrigin origin{source.name, {}, {}, {}};
      if (!source.shared) origin.cells = {sheet, source.column};
      for (std::size_t k = 0; k < plan.stated.size(); ++k) {
        if (plan.stated[k].source == i) origin.stated = k;
      }
      own.push_back(add_family(source.shared, std::move(origin)));
      if (source.instrument) instruments.emplace(source.name, own.back());
    }
  }
  for (std::size_t number = 0; number < run.uncertain.size(); ++number)
    numbers_.push_back(add_family(true, {run.uncertain.name(number), {}, {}, {}}));
}

std::size_t KnownUncertainty::add_family(bool scalar, UnknownOrigin origin) {
  const std::size_t family = unknowns_.add_independent();
  scalar_.push_back(scalar);
  origins_.emplace(family, std::move(origin));
  return family;
}

void KnownUncertainty::add_stage(const Stage& stage, const RowsOver& rows) {
  WholeForms forms = whole_forms(stage, rows, unknowns_);
  // A family was added, or none.
  if (forms.sums) scalar_.push_back(true);
  while (scalar_.size() < unknowns_.families()) scalar_.push_back(false);
  stages_.emplace(&stage, std::move(forms));
}

const WholeForms* KnownUncertainty::stage(const Stage& stage) const {
  const auto found = stages_.find(&stage);
  return found == stages_.end() ? nullptr : &found->second;
}

const FormRows* KnownUncertainty::column(std::size_t sheet, std::size_t column) const {
  const auto found = columns_.find({sheet, column});
  return found == columns_.end() ? nullptr : &found->second;
}

const FitForms* KnownUncertainty::fit(std::size_t fit, std::size_t place) const {
  const auto found = fits_.find({fit, place});
  return found == fits_.end() ? nullptr : &found->second;
}

void KnownUncertainty::add_fit(const StudyRun& run, std::size_t number, std::size_t place,
                               FitResult& result) {
  const FitPlan& fit = run.fits[number];
  const FitSheetPlan& plan = fit.sheets[place];
  const SheetUncertainty& own = run.sheets[plan.sheet]->plan.uncertainty;
  const bool by_points = own.reaches(plan.x) || own.reaches(plan.y);
  const FormRows* x = column(plan.sheet, plan.x);
  const FormRows* y = column(plan.sheet, plan.y);
  FitForms forms;
  FormRows sums;
  std::vector<Term> terms;
  std::optional<std::size_t> scatter;
  const auto factor = [](const Conversion& change) { return change.multiply / change.divide; };
  for (const FitGroup& group : result.groups) {
    if (group.curve.state == CurveState::fitted) forms.count = group.curve.unscaled_covariance.size();
  }
  std::size_t at = 0;
  for (const FitGroup& group : result.groups) {
    if (group.curve.state != CurveState::fitted) {
      for (std::size_t k = 0; k < forms.count; ++k, ++at) sums.add({});
      continue;
    }
    std::vector<std::vector<double>> spread;
    CurveSensitivity moves;
    if (by_points) {
      moves = sensitivity_of(fit.curve, group.curve, group.data);
    } else {
      spread = scatter_of(fit.curve, group.curve);
      if (!scatter)
        scatter = add_family(
            false, {"fit " + fit.model->name, {}, {}, static_cast<double>(group.curve.degrees_of_freedom)});
    }
    const std::size_t first = at;
    for (std::size_t k = 0; k < forms.count; ++k, ++at) {
      terms.clear();
      for (std::size_t i = 0; by_points && i < group.rows.size(); ++i) {
        if (y != nullptr) add_times(terms, y->row(group.rows[i]), moves.by_y[k][i] * factor(plan.to_y));
        if (x != nullptr) add_times(terms, x->row(group.rows[i]), moves.by_x[k][i] * factor(plan.to_x));
      }
      for (std::size_t q = 0; !by_points && q < forms.count; ++q)
        terms.push_back({unknown_of(*scatter, first + q), spread[k][q]});
      gather_terms(terms);
      sums.add(terms);
    }
  }
  forms.family = unknowns_.add_sums(std::move(sums));
  scalar_.push_back(false);
  fits_[{number, place}] = forms;
  at = 0;
  for (FitGroup& group : result.groups) {
    const std::size_t first = at;
    at += forms.count;
    if (!by_points || group.curve.state != CurveState::fitted) continue;
    for (const std::vector<double>& parameter : parameters_by_numbers(fit.curve, group.curve)) {
      terms.clear();
      for (std::size_t k = 0; k < forms.count; ++k)
        terms.push_back({unknown_of(forms.family, first + k), parameter[k]});
      group.curve.stated_errors.push_back(std::sqrt(unknowns_.variance(terms)));
    }
  }
}

void KnownUncertainty::add_row(const UncertaintyParts& parts, std::size_t row, std::size_t first_row,
                               std::vector<Term>& terms) const {
  for (const auto& [family, by] : parts.own) {
    if (by[row] != 0) terms.push_back({unknown_of(family, is_scalar(family) ? 0 : first_row + row), by[row]});
  }
  if (parts.rest.rows() > 0) add_times(terms, parts.rest.row(row), 1);
  gather_terms(terms);
}

FormRows KnownUncertainty::rows_of(const UncertaintyParts& parts, std::size_t rows,
                                   std::size_t first_row) const {
  FormRows forms;
  std::vector<Term> terms;
  for (std::size_t row = 0; row < rows; ++row) {
    terms.clear();
    add_row(parts, row, first_row, terms);
    forms.add(terms);
  }
  return forms;
}

std::vector<double> KnownUncertainty::sizes_of(const UncertaintyParts& parts, std::size_t rows,
                                               std::size_t first_row) const {
  std::vector<double> sizes(rows, 0);
  const bool simple =
      parts.rest.no_terms() && std::all_of(parts.own.begin(), parts.own.end(), [&](const auto& part) {
        return unknowns_.family_is_independent(part.first);
      });
  if (simple) {
    for (const auto& part : parts.own) {
      // Squares of large ones would be beyond what doubles hold.
      for (std::size_t row = 0; row < rows; ++row) sizes[row] = std::hypot(sizes[row], part.second[row]);
    }
    return sizes;
  }
  std::vector<Term> terms;
  for (std::size_t row = 0; row < rows; ++row) {
    terms.clear();
    add_row(parts, row, first_row, terms);
    sizes[row] = std::sqrt(unknowns_.variance(terms));
  }
  return sizes;
}

}  // namespace opensum
