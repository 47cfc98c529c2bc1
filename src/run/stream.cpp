// A sheet that is computed and written a block of rows at a time.
#include "run/stream.h"

#include <algorithm>
#include <map>
#include <set>

#include "base/parallel.h"
#include "base/progress.h"
#include "compute/evaluator.h"
#include "compute/fills.h"
#include "compute/grouping.h"
#include "compute/reduction.h"
#include "compute/sequences.h"
#include "files/output.h"
#include "run/compute.h"
#include "run/nulls.h"
#include "run/report.h"
#include "run/stream_plan.h"
#include "study/block_reader.h"

namespace opensum {
namespace {

// Numbers of all rows, without anything else of the column.
class NumberColumn {
 public:
  void append(const std::vector<Chunk>& more) {
    for (const Chunk& from : more) {
      for (std::size_t i = 0; i < from.numbers.size(); ++i, ++rows_) {
        if (rows_ % kChunkRows == 0) chunks_.emplace_back();
        Chunk& to = chunks_.back();
        const Null null = from.null_at(i);
        if (null && to.nulls.empty()) to.nulls.resize(to.numbers.size());
        if (null || !to.nulls.empty()) to.nulls.push_back(null);
        to.numbers.push_back(from.numbers[i]);
      }
    }
  }
  const std::vector<Chunk>& chunks() const { return chunks_; }

 private:
  std::vector<Chunk> chunks_;
  std::size_t rows_ = 0;
};

// Some rows of such numbers.
std::vector<Chunk> slice(const std::vector<Chunk>& whole, std::size_t first, std::size_t rows) {
  std::vector<Chunk> chunks((rows + kChunkRows - 1) / kChunkRows);
  for (std::size_t row = 0; row < rows; ++row) {
    const Chunk& from = whole[(first + row) / kChunkRows];
    const std::size_t i = (first + row) % kChunkRows;
    Chunk& to = chunks[row / kChunkRows];
    const Null null = from.null_at(i);
    if (null && to.nulls.empty()) to.nulls.resize(to.numbers.size());
    if (null || !to.nulls.empty()) to.nulls.push_back(null);
    to.numbers.push_back(from.numbers[i]);
  }
  return chunks;
}

// A function of whole columns of the sheet, on its way: a reduction, which keeps what its groups come to, or
// a sequence, which needs the numbers of all rows and gives one for each.
struct RunningStage {
  const Stage* stage = nullptr;
  std::unique_ptr<Reduction> reduction;
  GroupNumbers groups;
  std::vector<Outcome> outcomes;
  std::unique_ptr<NumberColumn> numbers;
  Grouping grouping;
  std::vector<Chunk> sequence;
  EvaluationNotes notes;
};

// What a block gives such a function.
struct StageInput {
  std::vector<Chunk> values;
  std::vector<Chunk> where;
  LocalGroups groups;
};

// Rows on their way through a pass, and what they came to.
struct Block {
  RawRows raw;
  Table table;
  std::size_t first_row = 0;
  std::vector<StageInput> inputs;
  std::vector<FillResult> fills;
  std::vector<RowMap> links;
  std::vector<ClaimResult> claims;
  std::map<std::string, std::pair<std::size_t, std::size_t>> left_out;
  /// By derived column: rows that the study takes for errors.
  std::vector<QuotedRows> divided_by_zero;
  std::vector<QuotedRows> out_of_domain;
  std::vector<std::vector<bool>> plotted;
  std::vector<NullCounts> null_counts;
  std::string csv;
  std::string nulls;
};

// The places that views look into, for texts that outlive their block.
class TextKeeper {
 public:
  std::string_view keep(std::string_view text) { return *texts_.emplace(text).first; }

 private:
  std::set<std::string, std::less<>> texts_;
};

}  // namespace

class SheetStream::Passes {
 public:
  Passes(PreparedStudy& prepared, std::size_t number)
      : prepared_(prepared),
        number_(number),
        sheet_(*prepared.sheets[number]),
        left_(*sheet_.source.left_in_file),
        reader_(left_, sheet_.table()),
        held_(held_columns(prepared, number)) {
    for_each_program(sheet_, [&](const Program& program, OriginId own) {
      for (const Stage& stage : program.stages) {
        places_[&stage] = stages_.size();
        RunningStage& running = stages_.emplace_back();
        running.stage = &stage;
        running.reduction = std::make_unique<Reduction>(stage, own);
        if (is_sequence(stage.op)) running.numbers = std::make_unique<NumberColumn>();
      }
    });
    for (const Task& task : prepared.order) {
      const bool here = task.sheet == number;
      if (here && task.kind != Task::Kind::fit) tasks_.push_back(task);
    }
  }

  int run(CsvSink* csv, int nulls, Diagnostics& diagnostics) {
    if (!prepare_links(diagnostics)) return 0;
    reduce();
    return write(csv, nulls, diagnostics);
  }

 private:
  std::vector<Block> new_blocks() const {
    std::vector<Block> blocks(2 * threads() + 2);
    for (Block& block : blocks) block.table = reader_.empty_table();
    return blocks;
  }

  // Makes the rows of other sheets ready to be found; false after a reported error.
  bool prepare_links(Diagnostics& diagnostics) {
    for (const LinkPlan& plan : sheet_.plan.links) {
      const Table& there = prepared_.sheets[static_cast<std::size_t>(plan.sheet)]->table();
      const std::vector<LinkKey> keys = link_keys(plan, sheet_.table(), there);
      finders_.emplace_back(keys, plan.how, plan.within, there.rows);
      report_repeated_keys(prepared_, plan, keys, finders_.back().repeated(), diagnostics);
    }
    for (const BorrowedColumn& borrowed : sheet_.plan.borrowed) {
      const LinkPlan& plan = sheet_.plan.links[borrowed.link];
      const Table& there = prepared_.sheets[static_cast<std::size_t>(plan.sheet)]->table();
      linked_.emplace_back(there.columns[borrowed.there], sheet_.table().columns[borrowed.index].origin,
                           prepared_.origins);
    }
    return !diagnostics.has_errors();
  }

  // Finds the rows of a link for a block and borrows their values.
  void link(std::size_t index, Block& block) const {
    std::vector<const Column*> here;
    for (const LinkPlan::Keys& key : sheet_.plan.links[index].keys)
      here.push_back(&block.table.columns[key.here]);
    block.links[index] = finders_[index].find(here, block.table.rows);
    for (std::size_t i = 0; i < sheet_.plan.borrowed.size(); ++i) {
      const BorrowedColumn& borrowed = sheet_.plan.borrowed[i];
      if (borrowed.link == index)
        block.table.columns[borrowed.index].chunks = linked_[i].of(block.links[index]);
    }
  }

  // Does one thing for the rows of a block.
  void compute(const Task& task, Block& block) const {
    if (task.kind == Task::Kind::link) {
      link(task.index, block);
    } else if (task.kind == Task::Kind::fill) {
      fill(sheet_.plan.fills[task.index], block, block.fills[task.index]);
    } else {
      derive(sheet_.plan.derived[task.index], block);
    }
  }

  // The columns to which it gives values.
  std::vector<std::size_t> results_of(const Task& task) const {
    if (task.kind == Task::Kind::derived) return {sheet_.plan.derived[task.index].index};
    if (task.kind == Task::Kind::fill) return {sheet_.plan.fills[task.index].filled};
    std::vector<std::size_t> results;
    for (const BorrowedColumn& borrowed : sheet_.plan.borrowed) {
      if (borrowed.link == task.index) results.push_back(borrowed.index);
    }
    return results;
  }

  bool is_needed(const Task& task, const std::vector<bool>& needed) const {
    const std::vector<std::size_t> results = results_of(task);
    return std::any_of(results.begin(), results.end(), [&](std::size_t i) { return needed[i]; });
  }

  // Reads the cells of a block: of those columns that are needed.
  void read(Block& block, const RowBlock& where, const std::vector<bool>& needed) const {
    block.left_out.clear();
    block.fills.assign(sheet_.plan.fills.size(), {});
    block.links.assign(sheet_.plan.links.size(), {});
    block.first_row = where.first_row;
    reader_.read(where, needed, block.raw, block.table);
  }

  // The values of a program in the rows of a block.
  std::vector<Chunk> values(Evaluator& evaluator, const Program& program, const Block& block) const {
    std::vector<std::vector<Chunk>> stages;
    for (const Stage& stage : program.stages) stages.push_back(stage_values(stage, block));
    return evaluator.run_rows(columns_of(block), stages, block.table.rows);
  }

  std::vector<Chunk> values(const Program& program, OriginId own, const Block& block) const {
    Evaluator evaluator(program, own);
    return values(evaluator, program, block);
  }

  static std::vector<const Column*> columns_of(const Block& block) {
    std::vector<const Column*> columns;
    columns.reserve(block.table.columns.size());
    for (const Column& column : block.table.columns) columns.push_back(&column);
    return columns;
  }

  // The groups of the rows of a block among themselves.
  LocalGroups groups_of(const Stage& stage, OriginId own, const Block& block) const {
    std::vector<std::vector<Chunk>> keys;
    keys.reserve(stage.keys.size());
    for (const Program& key : stage.keys) keys.push_back(values(key, own, block));
    std::vector<GroupKey> by;
    by.reserve(keys.size());
    for (std::size_t k = 0; k < keys.size(); ++k) by.push_back({&keys[k], stage.keys[k].kind});
    return local_groups(by, 0, block.table.rows);
  }

  static std::vector<std::size_t> group_of_row(const LocalGroups& local,
                                               const std::vector<std::size_t>& numbers) {
    std::vector<std::size_t> groups(local.of_row.size());
    std::transform(local.of_row.begin(), local.of_row.end(), groups.begin(),
                   [&](std::uint32_t group) { return numbers[group]; });
    return groups;
  }

  // What a function of whole columns came to, for the rows of a block.
  std::vector<Chunk> stage_values(const Stage& stage, const Block& block) const {
    const RunningStage& running = stages_[places_.at(&stage)];
    if (is_sequence(stage.op)) return slice(running.sequence, block.first_row, block.table.rows);
    std::vector<std::size_t> groups;
    if (!stage.keys.empty()) {
      const LocalGroups local = groups_of(stage, running.reduction->own(), block);
      groups = group_of_row(local, running.groups.find(local));
    }
    return spread_out(stage.kind, running.outcomes, groups, block.table.rows);
  }

  void fill(const FillPlan& plan, Block& block, FillResult& result) const {
    Column& filled = block.table.columns[plan.filled];
    std::vector<std::vector<Chunk>> rules;
    rules.reserve(plan.rules.size());
    for (const Program& rule : plan.rules) rules.push_back(values(rule, filled.origin, block));
    result.cells = fill_gaps(block.table.columns[plan.measured], rules, filled);
    result.count_cells(plan.rules.size());
  }

  void derive(const DerivedColumn& derived, Block& block) const {
    Column& column = block.table.columns[derived.index];
    Evaluator evaluator(derived.program, column.origin);
    column.chunks = values(evaluator, derived.program, block);
    column.rows = block.table.rows;
    if (evaluator.left_out() > 0)
      block.left_out[column.symbol] = {evaluator.left_out(), evaluator.rows_left_out()};
  }

  // The columns that the operands of functions of whole columns follow from, measured ones among them.
  std::vector<bool> needed_by_stages() const {
    std::vector<bool> needed(sheet_.table().columns.size());
    const auto need = [&](const Program& program) {
      for (const std::size_t input : program.inputs) needed[input] = true;
    };
    for (const RunningStage& running : stages_) {
      need(running.stage->value);
      std::for_each(running.stage->where.begin(), running.stage->where.end(), need);
      std::for_each(running.stage->keys.begin(), running.stage->keys.end(), need);
    }
    for (auto task = tasks_.rbegin(); task != tasks_.rend(); ++task) {
      if (!is_needed(*task, needed)) continue;
      if (task->kind == Task::Kind::derived) {
        need(sheet_.plan.derived[task->index].program);
      } else if (task->kind == Task::Kind::link) {
        for (const LinkPlan::Keys& key : sheet_.plan.links[task->index].keys) needed[key.here] = true;
      } else {
        const FillPlan& plan = sheet_.plan.fills[task->index];
        needed[plan.measured] = true;
        std::for_each(plan.rules.begin(), plan.rules.end(), need);
      }
    }
    return needed;
  }

  // The pass of the functions of whole columns.
  void reduce() {
    if (stages_.empty()) return;
    const std::vector<bool> needed = needed_by_stages();
    std::vector<Block> blocks = new_blocks();
    for_each_in_order(
        left_.blocks.size(), blocks.size(),
        [&](std::size_t part, std::size_t slot) {
          Block& block = blocks[slot];
          read(block, left_.blocks[part], needed);
          for (const Task& task : tasks_) {
            if (is_needed(task, needed)) compute(task, block);
          }
          block.inputs.clear();
          for (const RunningStage& running : stages_) block.inputs.push_back(input_of(running, block));
        },
        [&](std::size_t part, std::size_t slot) { take_inputs(blocks[slot], left_.blocks[part]); });
    for (RunningStage& running : stages_) finish(running);
    note_left_out();
  }

  StageInput input_of(const RunningStage& running, const Block& block) const {
    const Stage& stage = *running.stage;
    const OriginId own = running.reduction->own();
    StageInput input;
    input.values = values(stage.value, own, block);
    if (!stage.where.empty()) input.where = values(stage.where.front(), own, block);
    if (!stage.keys.empty()) input.groups = groups_of(stage, own, block);
    return input;
  }

  void take_inputs(Block& block, const RowBlock& where) {
    for (std::size_t i = 0; i < stages_.size(); ++i) {
      RunningStage& running = stages_[i];
      StageInput& input = block.inputs[i];
      std::vector<std::size_t> groups;
      if (!running.stage->keys.empty()) {
        groups = group_of_row(input.groups, running.groups.add(input.groups));
        running.reduction->make_groups(running.groups.count());
      }
      if (running.numbers) {
        running.numbers->append(input.values);
        std::vector<std::size_t>& all = running.grouping.group_of_row;
        all.insert(all.end(), groups.begin(), groups.end());
        continue;
      }
      running.reduction->add({input.values, {}, input.where, groups, where.rows, where.first_row});
    }
    left_.source->forget(where.begin, where.end);
    tell("gathering ", where);
  }

  // What a function came to, after the last row.
  void finish(RunningStage& running) {
    if (!running.numbers) {
      running.outcomes = running.reduction->outcomes(prepared_.origins);
      return;
    }
    const std::size_t rows = sheet_.table().rows;
    if (running.stage->keys.empty()) {
      running.grouping.group_of_row.assign(rows, 0);
    } else {
      running.grouping.groups = running.groups.count();
    }
    const std::vector<const Column*> no_columns;
    const WholeColumns whole{no_columns,    rows,   running.reduction->own(), prepared_.origins, nullptr,
                             running.notes, nullptr};
    running.sequence =
        sequence_values(*running.stage, running.numbers->chunks(), {}, running.grouping, whole);
    running.numbers.reset();
    running.grouping = {};
  }

  void tell(const char* what, const RowBlock& where) const {
    const std::size_t rows = where.first_row + where.rows;
    tell_progress(what + sheet_.model->name, rows,
                  static_cast<double>(rows) / static_cast<double>(left_.rows()));
  }

  // The reductions that left nulls out, for the summary.
  void note_left_out() {
    const auto note = [&](const Program& program, std::vector<ReductionTally>& tallies) {
      for (const Stage& stage : program.stages) {
        const RunningStage& running = stages_[places_.at(&stage)];
        const ReductionTally tally = running.reduction->tally();
        if (running.reduction->leaves_out() && tally.used < tally.met) tallies.push_back(tally);
        tallies.insert(tallies.end(), running.notes.tallies.begin(), running.notes.tallies.end());
      }
    };
    for (std::size_t i = 0; i < sheet_.plan.fills.size(); ++i) {
      for (const Program& rule : sheet_.plan.fills[i].rules) note(rule, sheet_.fills[i].notes.tallies);
    }
    for (const DerivedColumn& derived : sheet_.plan.derived) {
      std::vector<ReductionTally> tallies;
      note(derived.program, tallies);
      if (!tallies.empty()) sheet_.tallies[derived.definition.name] = std::move(tallies);
    }
  }

  // The pass that computes every row.
  int write(CsvSink* csv, int nulls, Diagnostics& diagnostics) {
    const std::vector<bool> all(sheet_.table().columns.size(), true);
    const NullsText nulls_text(prepared_, sheet_);
    std::vector<Block> blocks = new_blocks();
    begin_facts();
    int error = 0;
    if (csv != nullptr) csv->error = write_all(csv->descriptor, csv_header(sheet_.table(), csv->options));
    for_each_in_order(
        left_.blocks.size(), blocks.size(),
        [&](std::size_t part, std::size_t slot) {
          Block& block = blocks[slot];
          const RowBlock& where = left_.blocks[part];
          read(block, where, all);
          for (const Task& task : tasks_) compute(task, block);
          judge(block);
          block.csv.clear();
          block.nulls.clear();
          if (csv != nullptr) append_csv_rows(block.csv, block.table, csv->options);
          nulls_text.append(block.nulls, block.table, block.fills, 0, block.table.rows, where.first_row);
        },
        [&](std::size_t part, std::size_t slot) {
          Block& block = blocks[slot];
          if (csv != nullptr && csv->error == 0) csv->error = write_all(csv->descriptor, block.csv);
          if (error == 0) error = write_all(nulls, block.nulls);
          take_facts(block, left_.blocks[part]);
          left_.source->forget(left_.blocks[part].begin, left_.blocks[part].end);
          tell("computing ", left_.blocks[part]);
        });
    for (std::size_t i = 0; i < sheet_.fills.size(); ++i) report_useless_fill(sheet_, i, diagnostics);
    report_errors(diagnostics);
    return error;
  }

  // Counts nulls, tests claims and finds the rows that are errors.
  void judge(Block& block) const {
    const Table& table = block.table;
    block.null_counts.clear();
    for (const Column& column : table.columns) block.null_counts.push_back(null_counts(column));
    block.claims.clear();
    for (const ClaimPlan& claim : sheet_.plan.claims) {
      block.claims.push_back(claim_result(values(claim.program, 0, block), table.rows));
      quote_rows(sheet_.plan, table, claim.program, block.claims.back());
    }
    const NullPolicy& policy = prepared_.study.policy;
    block.divided_by_zero.clear();
    block.out_of_domain.clear();
    for (const DerivedColumn& derived : sheet_.plan.derived) {
      const auto find = [&](bool wanted, Reason reason) {
        if (!wanted) return QuotedRows();
        return quoted(sheet_.plan, table, derived.program, own_nulls(table.columns[derived.index], reason));
      };
      block.divided_by_zero.push_back(find(policy.divide_by_zero_is_error, Reason::divide_by_zero));
      block.out_of_domain.push_back(find(policy.domain_is_error, Reason::domain));
    }
    block.plotted.clear();
    for (const PlotKeep& keeps : prepared_.plot_keeps) {
      const auto found = keeps.find(number_);
      block.plotted.emplace_back();
      if (found == keeps.end()) continue;
      const std::vector<Chunk> chunks = values(found->second, 0, block);
      for (std::size_t row = 0; row < table.rows; ++row) {
        const Chunk& chunk = chunks[row / kChunkRows];
        block.plotted.back().push_back(!chunk.null_at(row % kChunkRows) &&
                                       chunk.numbers[row % kChunkRows] != 0);
      }
    }
  }

  void begin_facts() {
    StreamedFacts& facts = sheet_.streamed.emplace();
    facts.null_counts.resize(sheet_.table().columns.size());
    facts.links.resize(sheet_.plan.links.size());
    facts.first_rows = table_head(sheet_);
    for (Column& column : sheet_.table().columns) column.rows = sheet_.table().rows;
    facts.texts = texts_;
    sheet_.claims.clear();
    sheet_.claims.resize(sheet_.plan.claims.size());
    divided_by_zero_.resize(sheet_.plan.derived.size());
    out_of_domain_.resize(sheet_.plan.derived.size());
    for (std::size_t i = 0; i < sheet_.plan.fills.size(); ++i)
      sheet_.fills[i].count_cells(sheet_.plan.fills[i].rules.size());
  }

  // Adds what a block came to.
  void take_facts(Block& block, const RowBlock& where) {
    StreamedFacts& facts = *sheet_.streamed;
    for (std::size_t i = 0; i < facts.null_counts.size(); ++i) {
      for (std::size_t reason = 0; reason < kReasons; ++reason)
        facts.null_counts[i][reason] += block.null_counts[i][reason];
    }
    append_first_rows(facts.first_rows, block.table);
    for (const auto& [symbol, counts] : block.left_out) {
      auto& all = sheet_.left_out[symbol];
      all.first += counts.first;
      all.second += counts.second;
    }
    for (std::size_t i = 0; i < block.links.size(); ++i) facts.links[i].add(block.links[i]);
    for (std::size_t i = 0; i < block.fills.size(); ++i) sheet_.fills[i].add_counts(block.fills[i]);
    for (std::size_t i = 0; i < block.claims.size(); ++i) {
      ClaimResult& all = sheet_.claims[i];
      all.held += block.claims[i].held;
      all.broken.add(block.claims[i].broken, where.first_row);
      all.undecided.add(block.claims[i].undecided, where.first_row);
    }
    for (std::size_t i = 0; i < block.divided_by_zero.size(); ++i) {
      divided_by_zero_[i].add(block.divided_by_zero[i], where.first_row);
      out_of_domain_[i].add(block.out_of_domain[i], where.first_row);
    }
    for (std::size_t i = 0; i < block.plotted.size(); ++i) {
      if (!prepared_.plot_keeps[i].contains(number_)) continue;
      std::vector<bool>& all = prepared_.plot_rows[i][number_];
      all.insert(all.end(), block.plotted[i].begin(), block.plotted[i].end());
    }
    hold(block);
  }

  // Keeps the columns that figures and fits need.
  void hold(const Block& block) {
    for (std::size_t i = 0; i < held_.size(); ++i) {
      if (!held_[i]) continue;
      Column& column = sheet_.table().columns[i];
      for (const Chunk& from : block.table.columns[i].chunks) append_chunk(column, from);
    }
  }

  void append_chunk(Column& column, const Chunk& from) {
    const bool text = column.kind == Kind::text;
    const std::size_t size = text ? from.texts.size() : from.numbers.size();
    for (std::size_t i = 0; i < size; ++i) {
      if (held_rows_[&column]++ % kChunkRows == 0) column.chunks.emplace_back();
      Chunk& to = column.chunks.back();
      const Null null = from.null_at(i);
      if (null && to.nulls.empty()) to.nulls.resize(text ? to.texts.size() : to.numbers.size());
      if (null || !to.nulls.empty()) to.nulls.push_back(null);
      if (text) {
        to.texts.push_back(null ? std::string_view() : texts_->keep(from.texts[i]));
      } else {
        to.numbers.push_back(from.numbers[i]);
      }
      if (text || from.source.empty()) continue;
      // A known cell that is no text stands in the file as it is.
      to.source.push_back(null ? std::string_view() : from.source[i]);
    }
  }

  void report_errors(Diagnostics& diagnostics) const {
    for (std::size_t i = 0; i < sheet_.plan.derived.size(); ++i) {
      report_rows(sheet_.plan.derived[i], divided_by_zero_[i], Code::divided_by_zero, diagnostics);
      report_rows(sheet_.plan.derived[i], out_of_domain_[i], Code::out_of_domain, diagnostics);
    }
  }

  PreparedStudy& prepared_;
  std::size_t number_;
  RunSheet& sheet_;
  const LeftInFile& left_;
  BlockReader reader_;
  std::vector<bool> held_;
  std::vector<Task> tasks_;
  std::vector<RowFinder> finders_;    // by link
  std::vector<LinkedValues> linked_;  // by borrowed column
  std::vector<RunningStage> stages_;
  std::map<const Stage*, std::size_t> places_;
  std::vector<QuotedRows> divided_by_zero_;
  std::vector<QuotedRows> out_of_domain_;
  std::map<const Column*, std::size_t> held_rows_;
  std::shared_ptr<TextKeeper> texts_ = std::make_shared<TextKeeper>();
};

SheetStream::SheetStream(PreparedStudy& prepared, std::size_t number)
    : passes_(std::make_unique<Passes>(prepared, number)) {}

SheetStream::~SheetStream() = default;

int SheetStream::run(CsvSink* csv, int nulls, Diagnostics& diagnostics) {
  return passes_->run(csv, nulls, diagnostics);
}

}  // namespace opensum
