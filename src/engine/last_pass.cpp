// What is found out about the rows of a sheet in the last pass over them.
#include "engine/last_pass.h"

#include <algorithm>
#include <span>

namespace opensum {
namespace {

Place place_of(const DerivedColumn& derived) {
  return derived.definition.passage.place(derived.definition.name_span);
}

// What a claim came to in some rows, by the values of its condition.
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

void add_counts(const NullCounts& more, NullCounts& all) {
  for (std::size_t reason = 0; reason < kReasons; ++reason) all[reason] += more[reason];
}

}  // namespace

LastPass::LastPass(StudyRun& run, const Known& known, const PassWork& work)
    : run_(run), known_(known), work_(work), sheet_(*run.sheets[work.sheet]) {
  const SheetPlan& plan = sheet_.plan;
  const Table& table = sheet_.table();
  RowFacts& facts = sheet_.facts;
  facts.null_counts.assign(table.columns.size(), {});
  facts.first_rows = table.without_rows();
  for (std::size_t i = 0; i < table.columns.size(); ++i)
    first_rows_.emplace_back(Held::with_source, sheet_.texts);
  // Claims, fills and links of a sheet that is computed in its database were counted there.
  if (sheet_.in_database) return;
  fills_.resize(plan.fills.size());
  sheet_.fills.assign(plan.fills.size(), {});
  for (std::size_t i = 0; i < plan.fills.size(); ++i) {
    fills_[i].resize(plan.fills[i].rules.size());
    for (std::size_t rule = 0; rule < fills_[i].size(); ++rule)
      note(plan.fills[i].rules[rule], table.columns[plan.fills[i].filled].origin, fills_[i][rule]);
    sheet_.fills[i].count_cells(plan.fills[i].rules.size());
  }
  derived_.resize(plan.derived.size());
  for (std::size_t i = 0; i < plan.derived.size(); ++i)
    note(plan.derived[i].program, table.columns[plan.derived[i].index].origin, derived_[i]);
  divided_by_zero_.resize(plan.derived.size());
  out_of_domain_.resize(plan.derived.size());
  facts.links.assign(plan.links.size(), {});
  sheet_.claims.assign(plan.claims.size(), {});
  if (work.row_maps) sheet_.links.assign(plan.links.size(), {});
}

void LastPass::note(const Program& program, OriginId own, Noted& noted) {
  noted.program = &program;
  note_stages(program, own, noted);
}

void LastPass::note_stages(const Program& program, OriginId own, Noted& noted) {
  for (const Stage& stage : program.stages) {
    note_stages(stage.value, own, noted);
    for (const Program& key : stage.keys) note_stages(key, own, noted);
    for (const Program& where : stage.where) note_stages(where, own, noted);
    for (const Program& beside : stage.beside) note_stages(beside, own, noted);
    if (stage.curve) {
      curves_.push_back({&stage, own, &noted});
      continue;
    }
    const auto known = known_.stages.find(&stage);
    if (known == known_.stages.end()) continue;
    known->second->run.tell(noted.notes);
    noted.quoted.insert(known->second->quoted.begin(), known->second->quoted.end());
  }
}

void LastPass::judge(const BlockValues& values, PassBlock& block) const {
  const Table& table = block.table;
  block.null_counts.clear();
  for (const Column& column : table.columns) block.null_counts.push_back(null_counts(column));
  block.claims.clear();
  block.divided_by_zero.clear();
  block.out_of_domain.clear();
  block.curve_faults.clear();
  if (!sheet_.in_database) judge_equations(values, block);
  block.texts.resize(work_.sinks.size());
  for (std::size_t i = 0; i < work_.sinks.size(); ++i) {
    work_.sinks[i]->make(block, !sheet_.table().order.empty(), block.texts[i]);
  }
}

// What claims come to in a block, and what the study takes for an error.
void LastPass::judge_equations(const BlockValues& values, PassBlock& block) const {
  const Table& table = block.table;
  const SheetPlan& plan = sheet_.plan;
  for (const ClaimPlan& claim : plan.claims) {
    ClaimResult& result =
        block.claims.emplace_back(claim_result(values.values(claim.program, 0, block), table.rows));
    for (QuotedRows* rows : {&result.broken, &result.undecided})
      *rows = quoted(plan, table, claim.program, std::move(rows->rows));
  }
  const NullPolicy& policy = run_.study.policy;
  for (const DerivedColumn& derived : plan.derived) {
    const auto find = [&](bool wanted, Reason reason) {
      if (!wanted) return QuotedRows();
      return quoted(plan, table, derived.program, own_nulls(table.columns[derived.index], reason));
    };
    block.divided_by_zero.push_back(find(policy.divide_by_zero_is_error, Reason::divide_by_zero));
    block.out_of_domain.push_back(find(policy.domain_is_error, Reason::domain));
  }
  block.curve_faults.assign(curves_.size(), {});
  for (std::size_t i = 0; i < curves_.size() && (policy.divide_by_zero_is_error || policy.domain_is_error);
       ++i) {
    const CurveUse& curve = curves_[i];
    block.curve_faults[i].note(values.values(curve.stage->value, curve.own, block), curve.own,
                               block.first_row);
  }
}

void LastPass::take(PassBlock& block) {
  RowFacts& facts = sheet_.facts;
  for (std::size_t i = 0; i < facts.null_counts.size(); ++i)
    add_counts(block.null_counts[i], facts.null_counts[i]);
  for (std::size_t i = 0; i < block.links.size(); ++i) facts.links[i].add(block.links[i]);
  for (std::size_t i = 0; i < block.fills.size() && !sheet_.in_database; ++i)
    sheet_.fills[i].add_counts(block.fills[i]);
  for (const auto& [symbol, counts] : block.left_out) {
    auto& all = sheet_.left_out[symbol];
    all.first += counts.first;
    all.second += counts.second;
  }
  for (std::size_t i = 0; i < block.claims.size(); ++i) {
    ClaimResult& all = sheet_.claims[i];
    all.held += block.claims[i].held;
    all.broken.add(block.claims[i].broken, block.first_row);
    all.undecided.add(block.claims[i].undecided, block.first_row);
  }
  for (std::size_t i = 0; i < derived_.size(); ++i) {
    divided_by_zero_[i].add(block.divided_by_zero[i], block.first_row);
    out_of_domain_[i].add(block.out_of_domain[i], block.first_row);
  }
  for (std::size_t i = 0; i < curves_.size(); ++i) {
    std::vector<InnerNulls>& all = curves_[i].noted->notes.inner_nulls;
    for (InnerNulls& inner : block.curve_faults[i].found()) all.push_back(std::move(inner));
  }
  quote(block);
  keep_first_rows(block);
  if (work_.row_maps) keep_rows_of_links_and_fills(block);
  std::span<const std::size_t> places = sheet_.table().places;
  if (!places.empty()) places = places.subspan(block.first_row, block.table.rows);
  for (std::size_t i = 0; i < work_.sinks.size(); ++i) {
    work_.sinks[i]->take(block.texts[i], places);
    block.texts[i].clear();
  }
}

// Puts rows of which something is to be said into words while their values are here.
void LastPass::quote(const PassBlock& block) {
  const auto quote = [&](Noted& noted, const RowList& list) {
    for (const std::size_t row : list.rows) {
      const bool here = row >= block.first_row && row < block.first_row + block.table.rows;
      if (here && !noted.quoted.contains(row))
        noted.quoted[row] = quoted_row(sheet_.plan, block.table, *noted.program, row - block.first_row);
    }
  };
  const auto quote_all = [&](Noted& noted) {
    for (const OrderFault& fault : noted.notes.order_faults) quote(noted, fault.rows);
    for (const InnerNulls& inner : noted.notes.inner_nulls) quote(noted, inner.rows);
  };
  for (std::vector<Noted>& rules : fills_) std::for_each(rules.begin(), rules.end(), quote_all);
  std::for_each(derived_.begin(), derived_.end(), quote_all);
}

void LastPass::keep_first_rows(const PassBlock& block) {
  const Table& whole = sheet_.table();
  Table& first = sheet_.facts.first_rows;
  for (std::size_t row = 0; row < block.table.rows; ++row) {
    const std::size_t place = whole.place_of(block.first_row + row);
    if (whole.order.empty() && place >= kFirstRows) return;
    if (place >= kFirstRows) continue;
    for (std::size_t i = 0; i < first_rows_.size(); ++i) {
      const std::vector<Chunk>& chunks = block.table.columns[i].chunks;
      if (!chunks.empty()) first_rows_[i].append_row(chunks, row);
    }
    first.order.push_back(place);
  }
}

void LastPass::keep_rows_of_links_and_fills(const PassBlock& block) {
  for (std::size_t i = 0; i < block.links.size(); ++i) sheet_.links[i].append(block.links[i]);
  for (std::size_t i = 0; i < block.fills.size(); ++i) {
    for (FilledCell cell : block.fills[i].cells) {
      cell.row += block.first_row;
      sheet_.fills[i].cells.push_back(cell);
    }
  }
}

QuotedRows LastPass::in_words(const Noted& noted, RowList rows) const {
  QuotedRows words;
  for (const std::size_t row : rows.rows) {
    if (const auto found = noted.quoted.find(row); found != noted.quoted.end())
      words.lines.push_back(found->second);
  }
  words.rows = std::move(rows);
  return words;
}

void LastPass::report_order(const Noted& noted, const Place& place, Diagnostics& diagnostics) const {
  for (const OrderFault& fault : noted.notes.order_faults) {
    diagnostics.add(Code::along_not_increasing, place, {fault.function, std::to_string(fault.rows.count)})
        .details = in_words(noted, fault.rows).details();
  }
}

void LastPass::report_useless_fill(std::size_t index, Diagnostics& diagnostics) const {
  const FillPlan& plan = sheet_.plan.fills[index];
  const FillResult& result = sheet_.fills[index];
  const bool any =
      std::any_of(result.closed.begin(), result.closed.end(), [](std::size_t n) { return n > 0; });
  if (result.gaps == 0 || any || plan.texts.empty()) return;
  diagnostics.add(Code::fill_gives_nothing, plan.texts.front().place(),
                  {sheet_.table().columns[plan.measured].symbol, std::to_string(result.gaps),
                   null_counts_text(result.left)});
}

// Reports the rows whose null of a reason began in the column, or inside a function of whole columns in it.
void LastPass::report_errors(std::size_t derived, Reason reason, const std::vector<QuotedRows>& own,
                             Code code, Diagnostics& diagnostics) const {
  QuotedRows rows = own[derived];
  for (const InnerNulls& inner : derived_[derived].notes.inner_nulls) {
    if (inner.reason == reason && rows.rows.count == 0) rows = in_words(derived_[derived], inner.rows);
  }
  report_rows(sheet_.plan.derived[derived], rows, code, diagnostics);
}

void LastPass::finish(Diagnostics& diagnostics) {
  Table& first = sheet_.facts.first_rows;
  first.rows = first.order.size();
  for (std::size_t i = 0; i < first_rows_.size(); ++i) {
    first.columns[i].chunks = first_rows_[i].take();
    first.columns[i].rows = first.rows;
  }
  // The rows came in the order of the source; `order` so far says at which place each is written.
  std::vector<std::size_t> rows_in_order(first.rows);
  for (std::size_t row = 0; row < first.rows; ++row) rows_in_order[first.order[row]] = row;
  first.order = std::move(rows_in_order);
  const SheetPlan& plan = sheet_.plan;
  for (std::size_t i = 0; i < fills_.size(); ++i) {
    for (const Noted& noted : fills_[i]) {
      std::vector<ReductionTally>& tallies = sheet_.fills[i].notes.tallies;
      tallies.insert(tallies.end(), noted.notes.tallies.begin(), noted.notes.tallies.end());
      report_order(noted, plan.fills[i].texts.front().place(), diagnostics);
    }
    report_useless_fill(i, diagnostics);
  }
  const NullPolicy& policy = run_.study.policy;
  for (std::size_t i = 0; i < derived_.size(); ++i) {
    for (const ReductionTally& tally : derived_[i].notes.tallies) {
      if (tally.used < tally.met) sheet_.tallies[plan.derived[i].definition.name].push_back(tally);
    }
    report_order(derived_[i], place_of(plan.derived[i]), diagnostics);
    if (policy.divide_by_zero_is_error)
      report_errors(i, Reason::divide_by_zero, divided_by_zero_, Code::divided_by_zero, diagnostics);
    if (policy.domain_is_error)
      report_errors(i, Reason::domain, out_of_domain_, Code::out_of_domain, diagnostics);
  }
  for (RowSink* sink : work_.sinks) sink->finish();
}

}  // namespace opensum
