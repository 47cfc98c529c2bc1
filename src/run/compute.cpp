// Second step of a run without files.
#include "run/compute.h"

namespace opensum {

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
