// Second step of a run without files.
#include "run/compute.h"

#include <algorithm>

#include "run/plot_columns.h"

namespace opensum {

std::vector<LastWishes> wishes_of_figures(PreparedStudy& prepared) {
  std::vector<LastWishes> wishes(prepared.sheets.size());
  for (std::size_t i = 0; i < wishes.size(); ++i)
    wishes[i].held.assign(prepared.sheets[i]->table().columns.size(), Held::nothing);
  Diagnostics reported_before;
  for (std::size_t number = 0; number < prepared.study.plots.size(); ++number) {
    const PlotModel& plot = prepared.study.plots[number];
    if (!plot.panels.empty()) continue;
    const std::vector<PlotPair> pairs = plot_pairs(prepared, plot, reported_before);
    for (std::size_t i = 0; i < pairs.size(); ++i) {
      const PlotPair& pair = pairs[i];
      if (prepared.thinned.contains({number, i})) continue;
      const Table& table = pair.sheet->table();
      std::vector<Held>& held = wishes[pair.sheet_number].held;
      const auto hold = [&](const Column* column, Held what) {
        for (std::size_t at = 0; at < held.size(); ++at) {
          if (&table.columns[at] == column) held[at] = std::max(held[at], what);
        }
      };
      for (const Column* column : {pair.x, pair.y, pair.y_error, pair.x_error, pair.shade}) {
        hold(column, Held::values);
        // Which of its values were filled is shown, too.
        if (column != nullptr) hold(measured_of(table, *column), Held::values);
      }
      // Names of groups are shown as they were read.
      hold(pair.by, Held::with_source);
    }
  }
  return wishes;
}

std::vector<Held> all_written(const RunSheet& sheet) {
  const Table& table = sheet.table();
  std::vector<Held> held(table.columns.size(), Held::nothing);
  const std::vector<const Column*> written = table.written();
  for (std::size_t i = 0; i < held.size(); ++i) {
    if (std::find(written.begin(), written.end(), &table.columns[i]) != written.end())
      held[i] = Held::with_source;
  }
  return held;
}

void compute(PreparedStudy& prepared, const std::vector<LastWishes>& wishes, Diagnostics& diagnostics) {
  Executor executor(prepared, diagnostics);
  executor.prepare();
  if (diagnostics.has_errors()) return;
  for (std::size_t i = 0; i < prepared.sheets.size(); ++i) executor.finish(i, wishes[i]);
  executor.fit_rest();
}

void report_claims(const PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const auto& sheet : prepared.sheets) {
    const bool warn = sheet->model->claims_are_warnings.value_or(prepared.study.claims_are_warnings);
    for (std::size_t i = 0; i < sheet->claims.size(); ++i) {
      const ClaimPlan& plan = sheet->plan.claims[i];
      const ClaimResult& result = sheet->claims[i];
      const auto add = [&](Code code, const QuotedRows& rows) {
        if (rows.rows.count == 0) return;
        Diagnostic& diagnostic = diagnostics.add(
            code, plan.claim.passage.place(plan.claim.condition->span),
            {plan.claim.text, std::to_string(rows.rows.count), std::to_string(sheet->table().rows)});
        diagnostic.details = rows.details();
      };
      add(warn ? Code::claim_not_held : Code::claim_broken, result.broken);
      add(Code::claim_undecided, result.undecided);
    }
  }
}

}  // namespace opensum
