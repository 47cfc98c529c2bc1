// A pass over the rows of one sheet.
#include "engine/pass.h"

#include <algorithm>
#include <cmath>

#include "base/progress.h"
#include "engine/block_pass.h"
#include "engine/block_uncertainty.h"
#include "engine/last_pass.h"
#include "engine/pass_plan.h"

namespace opensum {
namespace {

class Pass {
 public:
  Pass(StudyRun& run, const Known& known, BlockSource& source, const PassWork& work)
      : run_(run),
        known_(known),
        source_(source),
        work_(work),
        sheet_(*run.sheets[work.sheet]),
        values_(run, known, work.sheet),
        uncertainty_(run, known, work.sheet),
        needed_(sheet_.table().columns.size(), work.last) {
    if (work.last) {
      carries_ = run.uncertainty->in_use();
    } else {
      find_needed();
    }
    // What is computed in its database is given.
    for (const Task& task : sheet_.in_database ? std::vector<Task>() : run.order) {
      const bool computed =
          task.kind == Task::Kind::derived || task.kind == Task::Kind::fill || task.kind == Task::Kind::link;
      if (task.sheet == work.sheet && computed && (work.last || gives_needed(task))) tasks_.push_back(task);
    }
    for (const Held held : work.held) {
      held_.emplace_back(held, sheet_.texts, [&](std::string_view text) { return source_.lives_on(text); });
    }
    for (const auto& [column, row] : work.only_row) held_[column].keep_only_chunk_of(row);
  }

  void go(Diagnostics& diagnostics) {
    std::optional<LastPass> last;
    if (work_.last) last.emplace(run_, known_, work_);
    go_over_blocks<PassBlock>(
        source_, sheet_.table(),
        [&](std::size_t part, PassBlock& block) {
          compute(part, block);
          if (last) last->judge(values_, block);
        },
        [&](std::size_t part, PassBlock& block) {
          take(block);
          if (last) last->take(block);
          tell(part, block);
        });
    count_rows(sheet_);
    for (std::size_t i = 0; i < held_.size(); ++i) {
      if (work_.held[i] != Held::nothing) sheet_.table().columns[i].chunks = held_[i].take();
    }
    for (Column& column : sheet_.table().columns) column.rows = sheet_.table().rows;
    if (last) last->finish(diagnostics);
  }

 private:
  void compute(std::size_t part, PassBlock& block) const {
    block.links.assign(sheet_.in_database ? 0 : sheet_.plan.links.size(), {});
    block.fills.assign(sheet_.plan.fills.size(), {});
    block.left_out.clear();
    source_.read(part, needed_, block);
    if (sheet_.in_database) give_fills(block);
    if (carries_) uncertainty_.begin(block);
    for (const Task& task : tasks_) {
      values_.compute(task, block);
      if (carries_) {
        for (const std::size_t column : results_of(task)) block.table.columns[column].rows = block.table.rows;
        uncertainty_.carry(task, values_, block);
      }
    }
    for (Column& column : block.table.columns) column.rows = block.table.rows;
    gather_forms(block);
    block.stages.clear();
    for (const KnownStage* stage : work_.stages) block.stages.push_back(values_.rows_for(stage->run, block));
    block.conditions.clear();
    for (const RowCondition& condition : work_.conditions)
      block.conditions.push_back(values_.holds(*condition.program, block));
  }

  // Which gaps of a block were filled in the database.
  void give_fills(PassBlock& block) const {
    for (std::size_t i = 0; i < block.fills.size(); ++i) {
      const std::vector<FilledCell>& all = sheet_.fills[i].cells;
      const auto from = [&](std::size_t row) {
        return std::lower_bound(all.begin(), all.end(), row,
                                [](const FilledCell& cell, std::size_t at) { return cell.row < at; });
      };
      block.fills[i].cells.assign(from(block.first_row), from(block.first_row + block.table.rows));
      for (FilledCell& cell : block.fills[i].cells) cell.row -= block.first_row;
    }
  }

  void take(const PassBlock& block) {
    for (std::size_t i = 0; i < work_.stages.size(); ++i) {
      work_.stages[i]->run.add(block.stages[i]);
      if (work_.stages[i]->elsewhere) quote_faults(*work_.stages[i], block);
    }
    for (std::size_t i = 0; i < work_.conditions.size(); ++i) {
      std::vector<bool>& rows = *work_.conditions[i].rows;
      rows.insert(rows.end(), block.conditions[i].begin(), block.conditions[i].end());
    }
    for (std::size_t i = 0; i < held_.size(); ++i) {
      if (work_.held[i] != Held::nothing) held_[i].append(block.table.columns[i].chunks);
    }
    for (std::size_t i = 0; i < work_.forms.size(); ++i) work_.forms[i].second->append(block.forms[i]);
    for (std::size_t i = 0; i < work_.operands.size(); ++i)
      take_operands(*work_.operands[i], block.operands[i]);
    if (work_.lines) {
      Table& table = sheet_.table();
      table.lines.append(block.table.lines);
      table.file_of.insert(table.file_of.end(), block.table.file_of.begin(), block.table.file_of.end());
    }
  }

  // What is wanted of deviations.
  void gather_forms(PassBlock& block) const {
    const std::size_t rows = block.table.rows;
    block.forms.clear();
    for (const auto& wanted : work_.forms) {
      const auto parts = block.parts.find(wanted.first);
      block.forms.push_back(run_.uncertainty->rows_of(
          parts == block.parts.end() ? UncertaintyParts() : parts->second, rows, block.first_row));
    }
    block.operands.clear();
    for (const OperandsWanted* wanted : work_.operands) {
      const StageRun& run = wanted->stage->run;
      const auto forms = [&](const Program& program) {
        return run_.uncertainty->rows_of(uncertainty_.parts_of(program, run.own(), values_, block), rows,
                                         block.first_row);
      };
      PassBlock::Operands& operands = block.operands.emplace_back();
      operands.rows = values_.rows_for(run, block);
      operands.value = forms(run.stage().value);
      if (!run.stage().beside.empty()) operands.beside = forms(run.stage().beside.front());
    }
  }

  // Of dates only differences count: they are seconds from the first known one.
  static void append(OperandRows& rows, const std::vector<Chunk>& chunks, bool of_dates) {
    const auto number = [&](const Chunk& chunk, std::size_t i) {
      if (!of_dates) return chunk.numbers[i];
      if (!rows.first) rows.first = chunk.instant_at(i);
      return seconds_between(*rows.first, chunk.instant_at(i));
    };
    for (const Chunk& chunk : chunks) {
      // Of texts it matters only whether they are null.
      const std::size_t size = std::max(chunk.numbers.size(), chunk.texts.size());
      for (std::size_t i = 0; i < size; ++i)
        rows.values.push_back(chunk.null_at(i) ? std::nan("") : chunk.numbers.empty() ? 0 : number(chunk, i));
    }
  }

  static void take_operands(OperandsWanted& wanted, const PassBlock::Operands& operands) {
    RowsOver& rows = wanted.rows;
    const StageRun& run = wanted.stage->run;
    const auto of_dates = [](const Program& program) { return program.kind == Kind::date; };
    append(rows.value, operands.rows.values, of_dates(run.stage().value));
    append(rows.beside, operands.rows.beside,
           !run.stage().beside.empty() && of_dates(run.stage().beside.front()));
    rows.value.forms.append(operands.value);
    rows.beside.forms.append(operands.beside);
    for (std::size_t row = 0; row < operands.rows.rows && !operands.rows.where.empty(); ++row) {
      const Chunk& where = operands.rows.where[row / kChunkRows];
      rows.where.push_back(!where.null_at(row % kChunkRows) && where.numbers[row % kChunkRows] != 0);
    }
    if (!run.has_groups()) return;
    for (const std::size_t group : run.group_numbers(operands.rows.groups)) {
      rows.group_of_row.push_back(group);
      rows.groups = std::max(rows.groups, group + 1);
    }
  }

  // Puts rows of which something is to be said into words while their values are here.
  void quote_faults(KnownStage& stage, const PassBlock& block) const {
    const auto quote = [&](const RowList& list) {
      for (const std::size_t row : list.rows) {
        if (row < block.first_row || row >= block.first_row + block.table.rows) continue;
        stage.quoted[row] =
            quoted_row(sheet_.plan, block.table, stage.run.stage().value, row - block.first_row);
      }
    };
    quote(stage.run.order_fault());
    for (const InnerNulls& inner : stage.run.inner_faults().found()) quote(inner.rows);
  }

  void tell(std::size_t part, const Block& block) const {
    tell_progress((work_.last ? "computing " : "gathering ") + sheet_.model->name,
                  block.first_row + block.table.rows,
                  static_cast<double>(part + 1) / static_cast<double>(source_.count()));
  }

  // The columns to which a task gives values.
  std::vector<std::size_t> results_of(const Task& task) const {
    std::vector<std::size_t> results;
    if (task.kind == Task::Kind::derived) results = {sheet_.plan.derived[task.index].index};
    if (task.kind == Task::Kind::fill) results = {sheet_.plan.fills[task.index].filled};
    for (const BorrowedColumn& borrowed : sheet_.plan.borrowed) {
      if (task.kind == Task::Kind::link && borrowed.link == task.index) results.push_back(borrowed.index);
    }
    return results;
  }

  // What an uncertainty is known from: its column, and what states the uncertainties of measured ones.
  void need_for_uncertainty() {
    const SheetUncertainty& plan = sheet_.plan.uncertainty;
    for (const UncertainColumn& uncertain : plan.columns) {
      if (!needed_[uncertain.index]) continue;
      carries_ = true;
      needed_[uncertain.column] = true;
    }
  }

  bool gives_needed(const Task& task) const {
    const std::vector<std::size_t> results = results_of(task);
    return std::any_of(results.begin(), results.end(), [&](std::size_t i) { return needed_[i]; });
  }

  // The columns from which everything follows that this pass is to find out.
  void find_needed() {
    const auto need = [&](const Program& program) {
      for (const std::size_t input : block_inputs(program)) needed_[input] = true;
    };
    const auto need_stage = [&](const Stage& stage) {
      need(stage.value);
      std::for_each(stage.where.begin(), stage.where.end(), need);
      std::for_each(stage.beside.begin(), stage.beside.end(), need);
      if (!stage.over) std::for_each(stage.keys.begin(), stage.keys.end(), need);
      if (!stage.over || !stage.over->groups_of) return;
      for (const std::size_t key : run_.sheets[*stage.over->groups_of]->plan.keys) needed_[key] = true;
    };
    for (const KnownStage* known : work_.stages) need_stage(known->run.stage());
    for (const RowCondition& condition : work_.conditions) need(*condition.program);
    for (std::size_t i = 0; i < work_.held.size(); ++i) {
      if (work_.held[i] != Held::nothing) needed_[i] = true;
    }
    for (const OperandsWanted* wanted : work_.operands) need_stage(wanted->stage->run.stage());
    for (const auto& wanted : work_.forms) needed_[wanted.first] = true;
    carries_ = !work_.operands.empty() || !work_.forms.empty();
    need_for_uncertainty();
    for (auto task = run_.order.rbegin(); task != run_.order.rend(); ++task) {
      if (task->sheet != work_.sheet || !gives_needed(*task)) continue;
      if (task->kind == Task::Kind::derived) {
        need(sheet_.plan.derived[task->index].program);
      } else if (task->kind == Task::Kind::link) {
        for (const LinkPlan::Keys& key : sheet_.plan.links[task->index].keys) needed_[key.here] = true;
      } else {
        const FillPlan& fill = sheet_.plan.fills[task->index];
        needed_[fill.measured] = true;
        std::for_each(fill.rules.begin(), fill.rules.end(), need);
      }
      need_for_uncertainty();
    }
    for (const StatedUncertainty& stated : sheet_.plan.uncertainty.stated) {
      if (carries_ && stated.from && needed_[stated.column]) needed_[*stated.from] = true;
    }
  }

  StudyRun& run_;
  const Known& known_;
  BlockSource& source_;
  const PassWork& work_;
  RunSheet& sheet_;
  BlockValues values_;
  BlockUncertainty uncertainty_;
  std::vector<bool> needed_;
  bool carries_ = false;  // whether uncertainties are carried along
  std::vector<Task> tasks_;
  std::vector<RowStore> held_;
};

}  // namespace

void run_pass(StudyRun& run, const Known& known, BlockSource& source, const PassWork& work,
              Diagnostics& diagnostics) {
  Pass(run, known, source, work).go(diagnostics);
}

}  // namespace opensum
