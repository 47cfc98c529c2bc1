// Which sheets can be computed a block of rows at a time.
#include "run/stream_plan.h"

#include <algorithm>

#include "run/plot_columns.h"

namespace opensum {
namespace {

// Whether a function of whole columns goes over numbers of its own sheet that follow row by row.
bool goes_over_rows(const Stage& stage) {
  const auto nested = [](const Program& program) { return !program.stages.empty(); };
  const bool reduction = is_reduction(stage.op);
  const bool sequence = is_sequence(stage.op) && stage.kind != Kind::text && stage.value.kind != Kind::text;
  return !stage.over && !stage.curve && (reduction || sequence) && stage.beside.empty() &&
         !nested(stage.value) && std::none_of(stage.where.begin(), stage.where.end(), nested) &&
         std::none_of(stage.keys.begin(), stage.keys.end(), nested);
}

// Whether a program looks into a sheet that is not its own, or at the curve of a fit to it.
bool looks_into(const Program& program, std::size_t sheet) {
  return std::any_of(program.stages.begin(), program.stages.end(), [&](const Stage& stage) {
    const auto deeper = [&](const Program& inner) { return looks_into(inner, sheet); };
    return (stage.over && stage.over->sheet == sheet) || (stage.curve && stage.curve->sheet == sheet) ||
           deeper(stage.value) || std::any_of(stage.where.begin(), stage.where.end(), deeper) ||
           std::any_of(stage.keys.begin(), stage.keys.end(), deeper) ||
           std::any_of(stage.beside.begin(), stage.beside.end(), deeper);
  });
}

bool is_needed_elsewhere(const PreparedStudy& prepared, std::size_t number) {
  const int wanted = static_cast<int>(number);
  return std::any_of(prepared.sheets.begin(), prepared.sheets.end(), [&](const auto& sheet) {
    if (sheet->plan.source == wanted) return true;
    if (std::any_of(sheet->plan.links.begin(), sheet->plan.links.end(),
                    [&](const LinkPlan& link) { return link.sheet == wanted; }))
      return true;
    bool looked = false;
    for_each_program(
        *sheet, [&](const Program& program, OriginId) { looked = looked || looks_into(program, number); });
    return looked;
  });
}

bool is_written_as_csv_alone(const PreparedStudy& prepared, const RunSheet& sheet) {
  const std::vector<std::string>& formats = sheet.model->write.value_or(prepared.study.write);
  return std::all_of(formats.begin(), formats.end(), [](const std::string& f) { return f == "csv"; });
}

// The columns whose values follow row by row from measured ones.
std::vector<bool> row_local_columns(const PreparedStudy& prepared, std::size_t number) {
  const RunSheet& sheet = *prepared.sheets[number];
  std::vector<bool> local(sheet.table().columns.size());
  for (std::size_t i = 0; i < local.size(); ++i) local[i] = sheet.table().columns[i].in_source.has_value();
  const auto is_local = [&](const Program& program) {
    const std::vector<std::size_t> inputs = all_inputs(program);
    return program.stages.empty() &&
           std::all_of(inputs.begin(), inputs.end(), [&](std::size_t i) { return local[i]; });
  };
  for (const Task& task : prepared.order) {
    if (task.sheet != number) continue;
    if (task.kind == Task::Kind::link) {
      const std::vector<LinkPlan::Keys>& keys = sheet.plan.links[task.index].keys;
      const bool found =
          std::all_of(keys.begin(), keys.end(), [&](const LinkPlan::Keys& key) { return local[key.here]; });
      for (const BorrowedColumn& borrowed : sheet.plan.borrowed) {
        if (borrowed.link == task.index) local[borrowed.index] = found;
      }
    }
    if (task.kind == Task::Kind::derived) {
      const DerivedColumn& derived = sheet.plan.derived[task.index];
      local[derived.index] = is_local(derived.program);
    } else if (task.kind == Task::Kind::fill) {
      const FillPlan& fill = sheet.plan.fills[task.index];
      local[fill.filled] = std::all_of(fill.rules.begin(), fill.rules.end(), is_local);
    }
  }
  return local;
}

bool needs_one_pass(const PreparedStudy& prepared, std::size_t number) {
  const RunSheet& sheet = *prepared.sheets[number];
  const std::vector<bool> local = row_local_columns(prepared, number);
  bool any = false;
  bool good = true;
  for_each_program(sheet, [&](const Program& program, OriginId) {
    for (const Stage& stage : program.stages) {
      any = true;
      good = good && goes_over_rows(stage);
      const auto reads_local = [&](const Program& inner) {
        return std::all_of(inner.inputs.begin(), inner.inputs.end(), [&](std::size_t i) { return local[i]; });
      };
      good = good && reads_local(stage.value) &&
             std::all_of(stage.where.begin(), stage.where.end(), reads_local) &&
             std::all_of(stage.keys.begin(), stage.keys.end(), reads_local);
    }
  });
  const NullPolicy& policy = prepared.study.policy;
  // Rows inside a reduction that are errors are quoted with their inputs, which are gone by then.
  return good && !(any && (policy.divide_by_zero_is_error || policy.domain_is_error));
}

}  // namespace

void for_each_program(const RunSheet& sheet, const std::function<void(const Program&, OriginId)>& visit) {
  const Table& table = sheet.table();
  for (const FillPlan& fill : sheet.plan.fills) {
    for (const Program& rule : fill.rules) visit(rule, table.columns[fill.filled].origin);
  }
  for (const DerivedColumn& derived : sheet.plan.derived)
    visit(derived.program, table.columns[derived.index].origin);
  for (const ClaimPlan& claim : sheet.plan.claims) visit(claim.program, 0);
}

bool can_stream(const PreparedStudy& prepared, std::size_t number) {
  const RunSheet& sheet = *prepared.sheets[number];
  const SheetPlan& plan = sheet.plan;
  const auto by_keys = [](const LinkPlan& link) {
    return link.good && link.how != LinkHow::row && link.how != LinkHow::taken;
  };
  if (!sheet.source.left_in_file || sheet.model->hidden || plan.source >= 0 || !plan.sort_by.empty() ||
      !std::all_of(plan.links.begin(), plan.links.end(), by_keys) ||
      !is_written_as_csv_alone(prepared, sheet))
    return false;
  const auto& columns = sheet.table().columns;
  const bool all_from_file = std::all_of(columns.begin(), columns.end(), [](const Column& column) {
    return column.in_source.has_value() || !column.measured || !column.fills.empty() || column.linked;
  });
  const auto good = [](const DerivedColumn& derived) { return derived.good; };
  const auto without_stages = [&](const PlotKeep& keeps) {
    const auto found = keeps.find(number);
    return found == keeps.end() || found->second.stages.empty();
  };
  return all_from_file && std::all_of(plan.derived.begin(), plan.derived.end(), good) &&
         std::all_of(prepared.plot_keeps.begin(), prepared.plot_keeps.end(), without_stages) &&
         !is_needed_elsewhere(prepared, number) && needs_one_pass(prepared, number);
}

std::vector<bool> held_columns(PreparedStudy& prepared, std::size_t number) {
  RunSheet& sheet = *prepared.sheets[number];
  auto& columns = sheet.table().columns;
  std::vector<bool> held(columns.size());
  const auto hold = [&](const Column* column) {
    for (std::size_t i = 0; i < columns.size(); ++i) {
      if (&columns[i] == column) held[i] = true;
    }
  };
  Diagnostics reported_before;
  for (const PlotModel& plot : prepared.study.plots) {
    if (!plot.panels.empty()) continue;
    for (const PlotPair& pair : plot_pairs(prepared, plot, reported_before)) {
      if (pair.sheet != &sheet) continue;
      for (const Column* column : {pair.x, pair.y, pair.y_error, pair.by}) hold(column);
    }
  }
  for (const FitPlan& fit : prepared.fits) {
    for (const FitSheetPlan& plan : fit.sheets) {
      if (plan.sheet != number) continue;
      held[plan.x] = held[plan.y] = true;
      if (plan.by) held[*plan.by] = true;
      if (plan.weights) held[*plan.weights] = true;
      if (!plan.keep) continue;
      for (const std::size_t input : all_inputs(*plan.keep)) held[input] = true;
    }
  }
  return held;
}

}  // namespace opensum
