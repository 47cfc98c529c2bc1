// The one way in which a study is computed.
#include "engine/executor.h"

#include <fmt/format.h>

#include <algorithm>

#include "compute/sorting.h"
#include "engine/drawn_values.h"
#include "engine/fits.h"
#include "engine/keep_links.h"
#include "engine/known_uncertainty.h"
#include "engine/pass.h"
#include "fit/curve_sensitivity.h"
#include "plan/uncertain_programs.h"
#include "table/cell_text.h"

namespace opensum {
namespace {

// The place of a row that is named after another: its line alone where the file is the same.
std::string second_place(const Table& table, std::size_t first, std::size_t second) {
  const bool same = table.source_of(first) == table.source_of(second);
  return same ? std::to_string(table.lines[second]) : table.place_text(second);
}

// Reports keys there that are not unique.
void report_repeated_keys(const RunSheet& other, const LinkPlan& plan, const std::vector<LinkKey>& keys,
                          const RepeatedKeys& repeated, Diagnostics& diagnostics) {
  if (repeated.count == 0) return;
  const Table& there = other.table();
  Diagnostic& diagnostic = diagnostics.add(Code::link_keys_repeat, plan.place,
                                           {plan.name, other.model->name, std::to_string(repeated.count)});
  for (const auto& [first, second] : repeated.pairs) {
    std::string values;
    for (const LinkKey& key : keys) {
      values += fmt::format("{}{} = {}", values.empty() ? "" : ", ", key.there->symbol,
                            cell_text(*key.there, first));
    }
    diagnostic.details.push_back(
        fmt::format("{} and {}: {}", there.place_text(first), second_place(there, first, second), values));
  }
  if (repeated.count > repeated.pairs.size())
    diagnostic.details.push_back(fmt::format("and {} more", repeated.count - repeated.pairs.size()));
}

}  // namespace

Executor::Executor(StudyRun& run, Diagnostics& diagnostics)
    : run_(run),
      diagnostics_(diagnostics),
      plan_(run),
      taken_(run.sheets.size()),
      sources_(run.sheets.size()) {
  for (const auto& sheet : run.sheets) {
    const SheetPlan& plan = sheet->plan;
    std::vector<bool>& computed = computed_.emplace_back(sheet->table().columns.size());
    known_.links.emplace_back(plan.links.size());
    known_.linked.emplace_back(plan.borrowed.size());
    if (sheet->in_database) continue;
    for (const DerivedColumn& derived : plan.derived) computed[derived.index] = true;
    for (const FillPlan& fill : plan.fills) computed[fill.filled] = true;
    for (const BorrowedColumn& borrowed : plan.borrowed) computed[borrowed.index] = true;
    for (const UncertainColumn& uncertain : plan.uncertainty.columns) computed[uncertain.index] = true;
  }
  for (const StageUse& use : plan_.stages()) {
    if (!use.stage->curve)
      known_.stages[use.stage] = std::make_unique<KnownStage>(*use.stage, use.own, use.elsewhere);
  }
  run.plot_rows.resize(run.plot_keeps.size());
  run.uncertainty = std::make_shared<KnownUncertainty>(run);
  if (run.uncertainty->in_use()) want_forms();
}

Executor::~Executor() = default;

void Executor::prepare() {
  if (run_.trial) draw_measured(run_);
  for (std::size_t round = 0; round <= plan_.rounds(); ++round) {
    begin_round(round);
    if (diagnostics_.has_errors()) return;
    for (std::size_t sheet = 0; sheet < run_.sheets.size(); ++sheet) pass(sheet, round);
    for (std::size_t sheet = 0; sheet < run_.sheets.size() && run_.uncertainty->in_use(); ++sheet)
      carry_uncertainty(sheet, round);
  }
  for (const auto& sheet : run_.sheets) sort(*sheet);
}

// What became known by the passes so far.
void Executor::begin_round(std::size_t round) {
  for (const Task& task : run_.order) {
    const RunSheet& sheet = *run_.sheets[task.sheet];
    if (sheet.in_database) continue;
    if (task.kind == Task::Kind::rows && plan_.round_of_rows(task.sheet) == round) find_rows(task.sheet);
    if (task.kind == Task::Kind::taken) {
      const TakenColumn& taken = sheet.plan.taken[task.index];
      if (plan_.round_of(task.sheet, taken.index) == round)
        taken_[task.sheet][taken.index] = taken_values(sheet, run_.source_of(sheet), taken, run_.origins);
    }
    if (task.kind == Task::Kind::link && plan_.round_of_finder(task.sheet, task.index) == round)
      make_finder(task.sheet, task.index);
  }
  for (std::size_t sheet = 0; sheet < run_.sheets.size(); ++sheet) {
    const SheetPlan& plan = run_.sheets[sheet]->plan;
    for (std::size_t i = 0; i < plan.borrowed.size(); ++i) {
      const auto other = *plan.links[plan.borrowed[i].link].sheet;
      if (plan_.round_of(other, plan.borrowed[i].there) + 1 == round) make_linked(sheet, i);
    }
  }
  for (const auto& [fit, known] : plan_.early_fits()) {
    if (known == round) make_fit(fit);
  }
}

void Executor::find_rows(std::size_t sheet) {
  RunSheet& own = *run_.sheets[sheet];
  if (!own.plan.source) return choose_rows(own, run_, diagnostics_);
  RunSheet& from = run_.source_of(own);
  sort(from);
  take_rows(own, from, run_, diagnostics_);
}

void Executor::sort(RunSheet& sheet) {
  Table& table = sheet.table();
  if (sheet.plan.sort_by.empty() || !table.order.empty()) return;
  std::vector<SortColumn> columns;
  for (const SortKey& key : sheet.plan.sort_by) columns.push_back({&table.columns[key.column], key.down});
  table.write_in_order(sorted_rows(columns, table.rows));
}

void Executor::make_finder(std::size_t sheet, std::size_t index) {
  const LinkPlan& plan = run_.sheets[sheet]->plan.links[index];
  if (!plan.good || !has_model(plan.how)) return;
  const Table& here = run_.sheets[sheet]->table();
  const RunSheet& other = *run_.sheets[*plan.sheet];
  const Table& there = other.table();
  LinkFinder& finder = known_.links[sheet][index];
  if (plan.how == LinkHow::row) {
    if (here.source_count != there.source_count) {
      diagnostics_.add(Code::link_unlike_lengths, plan.place,
                       {run_.sheets[sheet]->model->name, std::to_string(here.source_count), other.model->name,
                        std::to_string(there.source_count)});
    }
    finder.by_place.emplace(source_rows_of(other));
    return;
  }
  std::vector<LinkKey> keys;
  keys.reserve(plan.keys.size());
  for (const LinkPlan::Keys& key : plan.keys)
    keys.push_back({&here.columns[key.here], &there.columns[key.there], key.conversion});
  finder.by_keys.emplace(keys, plan.how, plan.within, there.rows);
  report_repeated_keys(other, plan, keys, finder.by_keys->repeated(), diagnostics_);
}

void Executor::make_linked(std::size_t sheet, std::size_t index) {
  const SheetPlan& plan = run_.sheets[sheet]->plan;
  const BorrowedColumn& borrowed = plan.borrowed[index];
  const Table& there = run_.sheets[*plan.links[borrowed.link].sheet]->table();
  known_.linked[sheet][index].emplace(there.columns[borrowed.there],
                                      run_.sheets[sheet]->table().columns[borrowed.index].origin,
                                      run_.origins);
}

void Executor::make_fit(const FitPlace& place) {
  const FitPlan& fit = run_.fits[place.first];
  const FitSheetPlan& plan = fit.sheets[place.second];
  if (!plan.good) return;
  const std::vector<bool>* rows = plan.keep ? &fit_rows_[place] : nullptr;
  FitResult& result = run_.fit_results[place.first][place.second];
  result = fit_points(run_, fit, plan, rows, diagnostics_);
  const bool early = plan_.early_fits().contains(place);
  if (early && run_.uncertainty->in_use()) run_.uncertainty->add_fit(run_, place.first, place.second, result);
  for (FitGroup& group : result.groups) {
    group.data = {};
    group.rows = {};
  }
  const SheetUncertainty& points = run_.sheets[plan.sheet]->plan.uncertainty;
  if (run_.trial && run_.uncertainty->in_use() && !points.reaches(plan.x) && !points.reaches(plan.y))
    scatter(place, result);
}

// In a trial: moves the curves of points without uncertainties by their scatter.
void Executor::scatter(const FitPlace& place, FitResult& result) const {
  constexpr std::uint64_t kKind = UINT64_MAX / 2;
  constexpr std::size_t kMost = 64;  // parameters
  const CurveModel& model = run_.fits[place.first].curve;
  for (std::size_t group = 0; group < result.groups.size(); ++group) {
    Curve& curve = result.groups[group].curve;
    if (curve.state != CurveState::fitted) continue;
    std::vector<double> unknowns;
    for (std::size_t k = 0; k < curve.parameters.size(); ++k)
      unknowns.push_back(
          run_.trial->normal(kKind + place.first * run_.sheets.size() + place.second, group * kMost + k));
    scatter_curve(model, curve, unknowns);
  }
}

bool Executor::is_held(std::size_t sheet, std::size_t column) const {
  return !run_.sheets[sheet]->table().columns[column].chunks.empty();
}

BlockSource& Executor::source(std::size_t number) {
  if (!sources_[number]) {
    std::vector<bool> given = computed_[number];
    given.flip();
    const RunSheet& sheet = *run_.sheets[number];
    if (sheet.plan.source && !sheet.in_database) {
      for (const TakenColumn& taken : sheet.plan.taken) given[taken.index] = false;
      sources_[number] = std::make_unique<TakenBlocks>(sheet.table(), std::move(given), sheet,
                                                       run_.source_of(sheet), taken_[number]);
    } else {
      sources_[number] = source_of_rows(sheet, std::move(given));
    }
  }
  return *sources_[number];
}

// The pass over a sheet in a round, if anything is to be found out in it.
void Executor::pass(std::size_t number, std::size_t round) {
  PassWork work;
  work.sheet = number;
  bool any = false;
  for (const StageUse& use : plan_.stages()) {
    if (use.sheet != number || use.round != round || use.stage->curve) continue;
    work.stages.push_back(known_.stages.at(use.stage).get());
    any = true;
  }
  const std::vector<Held>& held = plan_.held(number);
  work.held.assign(held.size(), Held::nothing);
  for (std::size_t i = 0; i < held.size(); ++i) {
    if (held[i] == Held::nothing || is_held(number, i) || plan_.round_of(number, i) != round) continue;
    work.held[i] = held[i];
    any = true;
  }
  for (const auto& [place, known] : plan_.early_fits()) {
    const FitSheetPlan& plan = run_.fits[place.first].sheets[place.second];
    if (plan.sheet != number || !plan.keep || plan_.round_of(*plan.keep, number) != round) continue;
    work.conditions.push_back({&*plan.keep, fit_rows(place)});
    any = true;
  }
  RunSheet& sheet = *run_.sheets[number];
  work.lines = plan_.holds_lines(number) && sheet.table().lines.empty();
  if (!any && !(work.lines && round == plan_.round_of_rows(number))) return;
  run_pass(run_, known_, source(number), work, diagnostics_);
  for (KnownStage* stage : work.stages) stage->run.finish(run_.origins);
}

// Which columns others look into, so that the deviations of all their rows are held.
void Executor::want_forms() {
  const auto want = [&](std::size_t sheet, std::size_t column) {
    if (run_.sheets[sheet]->plan.uncertainty.reaches(column)) wanted_forms_.emplace(sheet, column);
  };
  for (const auto& sheet : run_.sheets) {
    const SheetPlan& plan = sheet->plan;
    for (const BorrowedColumn& borrowed : plan.borrowed) {
      const LinkPlan& link = plan.links[borrowed.link];
      if (!plan.uncertainty.reaches(borrowed.index)) continue;
      want(*link.sheet, borrowed.there);
      if (link.how == LinkHow::interpolate && !link.keys.empty()) want(*link.sheet, link.keys.back().there);
    }
    for (const TakenColumn& taken : plan.taken) {
      want(*plan.source, taken.there);
      for (const std::size_t cell : taken.cells) want(*plan.source, cell);
    }
  }
  for (const auto& early : plan_.early_fits()) {
    const FitSheetPlan& plan = run_.fits[early.first.first].sheets[early.first.second];
    want(plan.sheet, plan.x);
    want(plan.sheet, plan.y);
  }
}

// The deviations of what became known in a round: of functions of whole columns, and of columns that others
// look into.
void Executor::carry_uncertainty(std::size_t number, std::size_t round) {
  const UncertainPrograms programs(
      [&](std::size_t sheet, std::size_t column) {
        return run_.sheets[sheet]->plan.uncertainty.reaches(column);
      },
      run_.fits, true);
  PassWork work;
  work.sheet = number;
  work.held.assign(run_.sheets[number]->table().columns.size(), Held::nothing);
  std::deque<OperandsWanted> operands;
  for (const StageUse& use : plan_.stages()) {
    if (use.sheet != number || use.round != round || use.stage->curve) continue;
    if (!programs.is_uncertain(*use.stage, number)) continue;
    operands.push_back({known_.stages.at(use.stage).get(), {}});
    work.operands.push_back(&operands.back());
  }
  for (const auto& [sheet, column] : wanted_forms_) {
    if (sheet != number || plan_.round_of(sheet, column) != round) continue;
    work.forms.emplace_back(column, &run_.uncertainty->hold_column(sheet, column));
  }
  if (work.operands.empty() && work.forms.empty()) return;
  run_pass(run_, known_, source(number), work, diagnostics_);
  for (const OperandsWanted& wanted : operands)
    run_.uncertainty->add_stage(wanted.stage->run.stage(), wanted.rows);
}

void Executor::finish(std::size_t number, const LastWishes& wishes) {
  // What stays in its database was counted there.
  if (run_.sheets[number]->stays_there) return;
  PassWork work;
  work.sheet = number;
  work.last = true;
  work.lines = (wishes.lines || fits_need_lines(number)) && run_.sheets[number]->table().lines.empty();
  work.row_maps = wishes.row_maps;
  work.sinks = wishes.sinks;
  for (const std::size_t column : wishes.budget_of)
    work.forms.emplace_back(column, &run_.sheets[number]->budget[column]);
  work.held = needed_by_fits(number);
  for (const auto& [column, row] : wishes.only_row) {
    if (work.held[column] == Held::nothing) work.only_row.emplace(column, row);
  }
  for (std::size_t i = 0; i < work.held.size(); ++i) {
    if (i < wishes.held.size()) work.held[i] = std::max(work.held[i], wishes.held[i]);
    if (is_held(number, i)) work.held[i] = Held::nothing;
  }
  for (std::size_t i = 0; i < run_.plot_keeps.size(); ++i) {
    const auto found = run_.plot_keeps[i].find(number);
    if (found != run_.plot_keeps[i].end())
      work.conditions.push_back({&found->second, &run_.plot_rows[i][number]});
  }
  for (std::size_t i = 0; i < run_.fits.size(); ++i) {
    for (std::size_t k = 0; k < run_.fits[i].sheets.size(); ++k) {
      const FitSheetPlan& plan = run_.fits[i].sheets[k];
      const bool here =
          plan.sheet == number && plan.good && plan.keep && !plan_.early_fits().contains({i, k});
      if (here) work.conditions.push_back({&*plan.keep, fit_rows({i, k})});
    }
  }
  run_pass(run_, known_, source(number), work, diagnostics_);
}

// A weight that is not above 0 is quoted with its line.
bool Executor::fits_need_lines(std::size_t sheet) const {
  return std::any_of(run_.fits.begin(), run_.fits.end(), [&](const FitPlan& fit) {
    return std::any_of(fit.sheets.begin(), fit.sheets.end(), [&](const FitSheetPlan& plan) {
      return plan.sheet == sheet && plan.weights.has_value();
    });
  });
}

// What the fits need of the columns of a sheet.
std::vector<Held> Executor::needed_by_fits(std::size_t sheet) const {
  std::vector<Held> needed(run_.sheets[sheet]->table().columns.size(), Held::nothing);
  const auto need = [&](std::size_t column, Held held) { needed[column] = std::max(needed[column], held); };
  for (const FitPlan& fit : run_.fits) {
    for (const FitSheetPlan& plan : fit.sheets) {
      if (plan.sheet != sheet || !plan.good) continue;
      need(plan.x, Held::values);
      need(plan.y, Held::values);
      if (plan.by) need(*plan.by, Held::with_source);
      if (plan.weights) need(*plan.weights, Held::with_source);
      if (plan.x_error) need(*plan.x_error, Held::values);
    }
  }
  return needed;
}

void Executor::fit_rest() {
  for (std::size_t i = 0; i < run_.fits.size(); ++i) {
    for (std::size_t k = 0; k < run_.fits[i].sheets.size(); ++k) {
      if (!plan_.early_fits().contains({i, k})) make_fit({i, k});
    }
  }
}

}  // namespace opensum
