// A function of whole columns on its way over the rows of a sheet.
#include "compute/stage_run.h"

#include <algorithm>
#include <numeric>

#include "compute/sequences.h"
#include "equation/operation.h"

namespace opensum {

StageRun::StageRun(const Stage& stage, OriginId own)
    : stage_(stage), own_(own), order_fault_{stage.name, {}} {
  if (is_sequence(stage.op)) {
    numbers_ = std::make_unique<RowStore>(Held::values, texts_);
    along_ = std::make_unique<RowStore>(Held::values, texts_);
  } else {
    reduction_ = std::make_unique<Reduction>(stage, own);
  }
}

std::vector<std::size_t> StageRun::group_of_row(const LocalGroups& local,
                                                const std::vector<std::size_t>& numbers) const {
  std::vector<std::size_t> groups(local.of_row.size());
  std::transform(local.of_row.begin(), local.of_row.end(), groups.begin(),
                 [&](std::uint32_t group) { return numbers[group]; });
  return groups;
}

void StageRun::add(const StageRows& rows) {
  std::vector<std::size_t> groups;
  if (has_groups()) groups = group_of_row(rows.groups, groups_.add(rows.groups));
  if (reduction_) {
    if (has_groups()) reduction_->make_groups(groups_.count());
    reduction_->add({rows.values, rows.beside, rows.where, groups, rows.rows, rows.first_row});
    inner_ = reduction_->inner_faults();
    order_fault_.rows = reduction_->order_fault();
    return;
  }
  inner_.note(rows.values, own_, rows.first_row);
  numbers_->append(rows.values);
  along_->append(rows.beside);
  groups_of_rows_.insert(groups_of_rows_.end(), groups.begin(), groups.end());
}

void StageRun::finish(Origins& origins) {
  if (reduction_) {
    outcomes_ = reduction_->outcomes(origins);
    if (reduction_->leaves_out()) tallies_.push_back(reduction_->tally());
    return;
  }
  Grouping grouping;
  if (has_groups()) {
    grouping.groups = groups_.count();
    grouping.group_of_row = std::move(groups_of_rows_);
  }
  SequenceNotes notes;
  sequence_ = sequence_values(stage_, numbers_->chunks(), along_->chunks(), grouping, own_, origins, notes);
  if (notes.left_out) tallies_.push_back(*notes.left_out);
  order_fault_.rows = notes.order_fault;
  numbers_.reset();
  along_.reset();
}

std::vector<Chunk> StageRun::values(std::size_t first_row, std::size_t rows,
                                    const LocalGroups* groups) const {
  if (is_sequence(stage_.op)) return slice(sequence_, first_row, rows);
  std::vector<std::size_t> group_of;
  if (stage_.over && stage_.over->groups_of) {
    // Each row stands for a group.
    group_of.resize(rows);
    std::iota(group_of.begin(), group_of.end(), first_row);
  } else if (groups != nullptr && has_groups()) {
    group_of = group_of_row(*groups, groups_.find(*groups));
  }
  return spread_out(stage_.kind, outcomes_, group_of, rows);
}

void StageRun::tell(EvaluationNotes& notes) const {
  if (order_fault_.rows.count > 0) notes.order_faults.push_back(order_fault_);
  notes.tallies.insert(notes.tallies.end(), tallies_.begin(), tallies_.end());
  for (InnerNulls& inner : inner_.found()) notes.inner_nulls.push_back(std::move(inner));
}

}  // namespace opensum
