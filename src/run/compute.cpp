// Second step of a run: the derived columns of every sheet.
#include "run/compute.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/progress.h"
#include "compute/evaluator.h"
#include "compute/links.h"
#include "compute/sorting.h"
#include "files/csv_writer.h"
#include "report/summary.h"
#include "run/fits.h"
#include "run/stream_plan.h"
#include "run/taken_rows.h"

namespace opensum {
namespace {

Place place_of(const DerivedColumn& derived) {
  return derived.definition.passage.place(derived.definition.name_span);
}

void report_order(const RunSheet& sheet, const Place& place, const Program& program,
                  const EvaluationNotes& notes, Diagnostics& diagnostics) {
  for (const OrderFault& fault : notes.order_faults) {
    Diagnostic& diagnostic = diagnostics.add(Code::along_not_increasing, place,
                                             {fault.function, std::to_string(fault.rows.count)});
    diagnostic.details = quoted(sheet.plan, sheet.table(), program, fault.rows).details();
  }
}

// The place of a row that is named after another: its line alone where the file is the same.
std::string second_place(const Table& table, std::size_t first, std::size_t second) {
  const bool same = table.source_of(first) == table.source_of(second);
  return same ? std::to_string(table.lines[second]) : table.place_text(second);
}

// Reports the rows whose null of a reason began in the column, or inside a function of whole columns in it.
void report_own_nulls(const RunSheet& sheet, const DerivedColumn& derived, const EvaluationNotes& notes,
                      Reason reason, Code code, Diagnostics& diagnostics) {
  RowList rows = own_nulls(sheet.table().columns[derived.index], reason);
  for (const InnerNulls& inner : notes.inner_nulls) {
    if (inner.reason == reason && rows.count == 0) rows = inner.rows;
  }
  report_rows(derived, quoted(sheet.plan, sheet.table(), derived.program, std::move(rows)), code,
              diagnostics);
}

// Computes one thing after the other over all sheets.
class Computation {
 public:
  Computation(PreparedStudy& prepared, Memory memory, Diagnostics& diagnostics)
      : prepared_(prepared),
        memory_(memory),
        columns_(prepared),
        policy_(prepared.study.policy),
        diagnostics_(diagnostics) {
    for (const auto& sheet : prepared.sheets) {
      sheet->links.resize(sheet->plan.links.size());
      sheet->fills.resize(sheet->plan.fills.size());
    }
  }

  void run() {
    for (std::size_t i = 0; i < prepared_.sheets.size(); ++i) {
      const bool streams = memory_ == Memory::streamed && can_stream(prepared_, i);
      if (!streams) load_rows(prepared_.sheets[i]->source);
    }
    if (memory_ != Memory::all) count_uses();
    for (const Task& task : prepared_.order) {
      RunSheet& sheet = *prepared_.sheets[task.sheet];
      if (sheet.is_streamed()) continue;
      const auto done = static_cast<double>(&task - prepared_.order.data());
      tell_progress("computing " + sheet.model->name, 0, done / static_cast<double>(prepared_.order.size()));
      switch (task.kind) {
        case Task::Kind::fill:
          fill(sheet, task.index);
          break;
        case Task::Kind::link:
          link(sheet, task.index);
          break;
        case Task::Kind::derived:
          derive(sheet, sheet.plan.derived[task.index]);
          break;
        case Task::Kind::rows:
          sort(source_of(sheet));
          take_rows(sheet, source_of(sheet), prepared_.origins, diagnostics_);
          break;
        case Task::Kind::fit:
          fit_points_of(task);
          break;
        case Task::Kind::taken:
          take_column(sheet, source_of(sheet), sheet.plan.taken[task.index], prepared_.origins);
          break;
      }
    }
    for (const auto& sheet : prepared_.sheets) {
      if (sheet->is_streamed()) continue;
      test_claims(*sheet);
      sort(*sheet);
    }
    choose_plotted_rows();
    if (memory_ == Memory::all) return;
    for (const auto& sheet : prepared_.sheets) {
      if (!sheet->model->hidden) continue;
      for (Column& column : sheet->table().columns) column.chunks = {};
    }
  }

 private:
  // How many programs are still to read each column that a link borrows.
  void count_uses() {
    for (const auto& sheet : prepared_.sheets) {
      uses_[sheet.get()].assign(sheet->table().columns.size(), 0);
      const auto count = [&](const Program& program) {
        for (const std::size_t input : all_inputs(program)) ++uses_[sheet.get()][input];
      };
      for (const FillPlan& fill : sheet->plan.fills)
        std::for_each(fill.rules.begin(), fill.rules.end(), count);
      for (const DerivedColumn& derived : sheet->plan.derived) count(derived.program);
      // What a claim reads is quoted where it is broken.
      for (const ClaimPlan& claim : sheet->plan.claims) count(claim.program);
      for (const FitPlan& fit : prepared_.fits) {
        for (const FitSheetPlan& plan : fit.sheets) {
          if (plan.keep && prepared_.sheets[plan.sheet] == sheet) count(*plan.keep);
        }
      }
    }
  }

  // Frees those borrowed columns that no further program reads.
  void release(RunSheet& sheet, const Program& program) {
    if (memory_ == Memory::all) return;
    std::vector<std::size_t>& uses = uses_[&sheet];
    for (const std::size_t input : all_inputs(program)) {
      Column& column = sheet.table().columns[input];
      if (--uses[input] == 0 && column.linked) column.chunks = {};
    }
  }

  // The sheet of which this one has the rows.
  RunSheet& source_of(const RunSheet& sheet) {
    return *prepared_.sheets[static_cast<std::size_t>(sheet.plan.source)];
  }

  // Makes sure that the columns that links borrow for a program have their values.
  void borrow(RunSheet& sheet, const Program& program) {
    const std::vector<std::size_t> inputs = all_inputs(program);
    for (const BorrowedColumn& borrowed : sheet.plan.borrowed) {
      Column& column = sheet.table().columns[borrowed.index];
      if (!column.chunks.empty() || std::find(inputs.begin(), inputs.end(), borrowed.index) == inputs.end())
        continue;
      const LinkPlan& plan = sheet.plan.links[borrowed.link];
      const Table& there = prepared_.sheets[static_cast<std::size_t>(plan.sheet)]->table();
      column.chunks = LinkedValues(there.columns[borrowed.there], column.origin, prepared_.origins)
                          .of(sheet.links[borrowed.link]);
      column.rows = sheet.table().rows;
    }
  }

  void fill(RunSheet& sheet, std::size_t index) {
    const FillPlan& plan = sheet.plan.fills[index];
    Table& table = sheet.table();
    for (const Program& rule : plan.rules) borrow(sheet, rule);
    const Column& measured = table.columns[plan.measured];
    FillResult& result = sheet.fills[index];
    result.cells = fill_column(measured, plan.rules, PreparedColumns::columns_of(sheet).columns,
                               table.columns[plan.filled], prepared_.origins, result.notes, &columns_);
    result.count_cells(plan.rules.size());
    for (const Program& rule : plan.rules) release(sheet, rule);
    if (plan.rules.empty()) return;
    const Place place = plan.texts.front().place();
    report_order(sheet, place, plan.rules.front(), result.notes, diagnostics_);
    report_useless_fill(sheet, index, diagnostics_);
  }

  void link(RunSheet& sheet, std::size_t index) {
    const LinkPlan& plan = sheet.plan.links[index];
    if (!plan.good) return;
    const RunSheet& other = *prepared_.sheets[static_cast<std::size_t>(plan.sheet)];
    const Table& here = sheet.table();
    const Table& there = other.table();
    if (plan.how == LinkHow::taken) {
      sheet.links[index] = given_rows(sheet.taken_rows);
      return;
    }
    if (plan.how == LinkHow::row) {
      if (here.source_count != there.source_count) {
        diagnostics_.add(Code::link_unlike_lengths, plan.place,
                         {sheet.model->name, std::to_string(here.source_count), other.model->name,
                          std::to_string(there.source_count)});
      }
      sheet.links[index] = match_places(here.source_rows, there.source_rows);
      return;
    }
    RepeatedKeys repeated;
    const std::vector<LinkKey> keys = link_keys(plan, here, there);
    sheet.links[index] = match_rows(keys, plan.how, plan.within, here.rows, there.rows, repeated);
    report_repeated_keys(prepared_, plan, keys, repeated, diagnostics_);
  }

  void fit_points_of(const Task& task) {
    for (const FitSheetPlan& plan : prepared_.fits[task.index].sheets) {
      if (plan.sheet == task.sheet && plan.good && plan.keep)
        borrow(*prepared_.sheets[plan.sheet], *plan.keep);
    }
    compute_fit(prepared_, task, diagnostics_);
  }

  void derive(RunSheet& sheet, const DerivedColumn& derived) {
    if (!derived.good) return;
    Table& table = sheet.table();
    borrow(sheet, derived.program);
    Column& column = table.columns[derived.index];
    Evaluator evaluator(derived.program, column.origin);
    column.chunks = evaluator.run_column(PreparedColumns::columns_of(sheet).columns, table.rows,
                                         prepared_.origins, &columns_);
    column.rows = table.rows;
    const EvaluationNotes& notes = evaluator.notes();
    for (const ReductionTally& tally : notes.tallies) {
      if (tally.used < tally.met) sheet.tallies[column.symbol].push_back(tally);
    }
    if (evaluator.left_out() > 0) {
      sheet.left_out[column.symbol] = {evaluator.left_out(), evaluator.rows_left_out()};
    }
    report_order(sheet, place_of(derived), derived.program, notes, diagnostics_);
    if (policy_.divide_by_zero_is_error) {
      report_own_nulls(sheet, derived, notes, Reason::divide_by_zero, Code::divided_by_zero, diagnostics_);
    }
    if (policy_.domain_is_error) {
      report_own_nulls(sheet, derived, notes, Reason::domain, Code::out_of_domain, diagnostics_);
    }
    release(sheet, derived.program);
  }

  static void sort(RunSheet& sheet) {
    if (sheet.is_sorted) return;
    sheet.is_sorted = true;
    Table& table = sheet.table();
    std::vector<SortColumn> columns;
    for (const SortKey& key : sheet.plan.sort_by) columns.push_back({&table.columns[key.column], key.down});
    if (!columns.empty()) table.write_in_order(sorted_rows(columns, table.rows));
  }

  // The rows that plots are to show.
  void choose_plotted_rows() {
    for (const PlotKeep& keeps : prepared_.plot_keeps) {
      auto& rows = prepared_.plot_rows.emplace_back();
      for (const auto& [number, program] : keeps) {
        RunSheet& sheet = *prepared_.sheets[number];
        if (sheet.is_streamed()) continue;
        borrow(sheet, program);
        rows.emplace(number, kept_rows(sheet, program, prepared_.origins, columns_));
      }
    }
  }

  void test_claims(RunSheet& sheet) {
    for (const ClaimPlan& claim : sheet.plan.claims) {
      borrow(sheet, claim.program);
      const std::size_t rows = sheet.table().rows;
      const std::vector<Chunk> chunks =
          Evaluator(claim.program, 0)
              .run_column(PreparedColumns::columns_of(sheet).columns, rows, prepared_.origins, &columns_);
      ClaimResult result = claim_result(chunks, rows);
      quote_rows(sheet.plan, sheet.table(), claim.program, result);
      sheet.claims.push_back(std::move(result));
    }
  }

  PreparedStudy& prepared_;
  Memory memory_;
  std::map<const RunSheet*, std::vector<std::size_t>> uses_;
  PreparedColumns columns_;
  const NullPolicy& policy_;
  Diagnostics& diagnostics_;
};

}  // namespace

ClaimResult claim_result(const std::vector<Chunk>& condition, std::size_t rows) {
  ClaimResult result;
  for (std::size_t row = 0; row < rows; ++row) {
    const Chunk& chunk = condition[row / kChunkRows];
    if (chunk.null_at(row % kChunkRows)) {
      result.undecided.rows.add(row);
    } else if (chunk.numbers[row % kChunkRows] == 0) {
      result.broken.rows.add(row);
    } else {
      ++result.held;
    }
  }
  return result;
}

void quote_rows(const SheetPlan& plan, const Table& table, const Program& condition, ClaimResult& result) {
  for (QuotedRows* rows : {&result.broken, &result.undecided})
    *rows = quoted(plan, table, condition, std::move(rows->rows));
}

std::vector<LinkKey> link_keys(const LinkPlan& plan, const Table& here, const Table& there) {
  std::vector<LinkKey> keys;
  keys.reserve(plan.keys.size());
  for (const LinkPlan::Keys& key : plan.keys)
    keys.push_back({&here.columns[key.here], &there.columns[key.there], key.conversion});
  return keys;
}

void report_repeated_keys(const PreparedStudy& prepared, const LinkPlan& plan,
                          const std::vector<LinkKey>& keys, const RepeatedKeys& repeated,
                          Diagnostics& diagnostics) {
  if (repeated.count == 0) return;
  const RunSheet& other = *prepared.sheets[static_cast<std::size_t>(plan.sheet)];
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

void report_useless_fill(const RunSheet& sheet, std::size_t index, Diagnostics& diagnostics) {
  const FillPlan& plan = sheet.plan.fills[index];
  const FillResult& result = sheet.fills[index];
  const bool any =
      std::any_of(result.closed.begin(), result.closed.end(), [](std::size_t n) { return n > 0; });
  if (result.gaps == 0 || any || plan.texts.empty()) return;
  diagnostics.add(Code::fill_gives_nothing, plan.texts.front().place(),
                  {sheet.table().columns[plan.measured].symbol, std::to_string(result.gaps),
                   null_counts_text(result.left)});
}

void compute_fit(PreparedStudy& prepared, const Task& task, Diagnostics& diagnostics) {
  const PreparedColumns columns(prepared);
  const FitPlan& fit = prepared.fits[task.index];
  for (std::size_t i = 0; i < fit.sheets.size(); ++i) {
    const FitSheetPlan& plan = fit.sheets[i];
    if (plan.sheet != task.sheet || !plan.good) continue;
    prepared.fit_results[task.index][i] =
        fit_points(prepared, fit, plan, prepared.origins, columns, diagnostics);
  }
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

void compute(PreparedStudy& prepared, Memory memory, Diagnostics& diagnostics) {
  Computation(prepared, memory, diagnostics).run();
}

}  // namespace opensum
