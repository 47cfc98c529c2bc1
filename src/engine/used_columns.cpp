// Which columns of a study something uses.
#include "engine/used_columns.h"

#include <algorithm>

#include "equation/names_used.h"

namespace opensum {
namespace {

class ColumnsUsed {
 public:
  ColumnsUsed(const StudyRun& run, UsedColumns of_figures) : run_(run), used_(std::move(of_figures)) {}

  UsedColumns find() {
    for (std::size_t i = 0; i < used_.size(); ++i) {
      const SheetPlan& plan = run_.sheets[i]->plan;
      use_equations(plan, i);
      use_links(plan, i);
      for (const SortKey& key : plan.sort_by) used_[i][key.column] = true;
      if (plan.source) use_source(plan);
      if (plan.keep) use_keep(*plan.keep, i);
    }
    for (const FitPlan& fit : run_.fits) use_fit(fit);
    for (std::size_t p = 0; p < run_.plot_keeps.size(); ++p) {
      for (const auto& [sheet, program] : run_.plot_keeps[p]) use(program, sheet);
    }
    // A sheet may take over what another one took over, in any order of the two.
    while (take_over()) {
    }
    return std::move(used_);
  }

 private:
  void use(const Program& program, std::size_t sheet) {
    for (const std::size_t input : program.inputs) used_[sheet][input] = true;
    for (const Stage& stage : program.stages) {
      const std::size_t over = stage.over ? stage.over->sheet : sheet;
      const auto operand = [&](const Program& each) { use(each, over); };
      operand(stage.value);
      for (const auto* operands : {&stage.where, &stage.beside, &stage.keys})
        std::for_each(operands->begin(), operands->end(), operand);
    }
  }

  void use_equations(const SheetPlan& plan, std::size_t sheet) {
    for (const DerivedColumn& derived : plan.derived) {
      use(derived.program, sheet);
      for (const std::string& name : names_used(*derived.definition.expression, plan.scope)) {
        if (const auto found = plan.scope.find_column(name, false)) used_[sheet][*found] = true;
      }
    }
    for (const FillPlan& fill : plan.fills) {
      used_[sheet][fill.measured] = true;
      for (const Program& rule : fill.rules) use(rule, sheet);
    }
    for (const ClaimPlan& claim : plan.claims) use(claim.program, sheet);
  }

  void use_links(const SheetPlan& plan, std::size_t sheet) {
    for (const LinkPlan& link : plan.links) {
      for (const LinkPlan::Keys& key : link.keys) {
        used_[sheet][key.here] = true;
        used_[*link.sheet][key.there] = true;
      }
    }
    for (const BorrowedColumn& borrowed : plan.borrowed)
      used_[*plan.links[borrowed.link].sheet][borrowed.there] = true;
  }

  void use_source(const SheetPlan& plan) {
    std::vector<bool>& there = used_[*plan.source];
    for (const std::size_t key : plan.keys) there[key] = true;
    for (const TakenColumn& taken : plan.taken) {
      for (const std::size_t cell : taken.cells) there[cell] = true;
    }
    for (const TakenColumn& taken : plan.keep_also) there[taken.there] = true;
  }

  // A condition for rows is planned over a table of its own, with columns of the same names.
  void use_keep(const KeepPlan& keep, std::size_t sheet) {
    std::vector<std::size_t> columns;
    for (const ClaimPlan& condition : keep.plan.claims) {
      columns.insert(columns.end(), condition.program.inputs.begin(), condition.program.inputs.end());
    }
    for (const auto& complete : keep.plan.complete)
      columns.insert(columns.end(), complete.begin(), complete.end());
    for (const std::size_t i : keep.plan.order) {
      const std::vector<std::size_t>& inputs = keep.plan.derived[i].program.inputs;
      columns.insert(columns.end(), inputs.begin(), inputs.end());
    }
    for (const LinkPlan& link : keep.plan.links) {
      for (const LinkPlan::Keys& key : link.keys) {
        columns.push_back(key.here);
        used_[*link.sheet][key.there] = true;
      }
    }
    for (const BorrowedColumn& borrowed : keep.plan.borrowed)
      used_[*keep.plan.links[borrowed.link].sheet][borrowed.there] = true;
    const Table& here = run_.sheets[sheet]->table();
    for (const std::size_t column : columns) {
      const auto same = std::find_if(here.columns.begin(), here.columns.end(), [&](const Column& other) {
        return other.symbol == keep.table.table.columns[column].symbol;
      });
      if (same != here.columns.end())
        used_[sheet][static_cast<std::size_t>(same - here.columns.begin())] = true;
    }
  }

  void use_fit(const FitPlan& fit) {
    for (const FitSheetPlan& sheet : fit.sheets) {
      if (!sheet.good) continue;
      std::vector<bool>& used = used_[sheet.sheet];
      used[sheet.x] = used[sheet.y] = true;
      if (sheet.by) used[*sheet.by] = true;
      if (sheet.weights) used[*sheet.weights] = true;
      if (sheet.x_error) used[*sheet.x_error] = true;
      if (sheet.keep) use(*sheet.keep, sheet.sheet);
    }
  }

  // Whether anything was found to be used that was not before.
  bool take_over() {
    bool more = false;
    const auto also = [&](std::vector<bool>& used, std::size_t column) {
      more = more || !used[column];
      used[column] = true;
    };
    for (std::size_t i = 0; i < used_.size(); ++i) {
      const RunSheet& sheet = *run_.sheets[i];
      if (!sheet.plan.source) continue;
      for (const TakenColumn& taken : sheet.plan.taken) {
        if (used_[i][taken.index] && taken.cells.empty() && !taken.of_headers)
          also(used_[*sheet.plan.source], taken.there);
      }
    }
    return more;
  }

  const StudyRun& run_;
  UsedColumns used_;
};

}  // namespace

UsedColumns used_columns(const StudyRun& run, UsedColumns of_figures) {
  return ColumnsUsed(run, std::move(of_figures)).find();
}

UsedColumns used_columns(const StudyRun& run) {
  UsedColumns none;
  for (const auto& sheet : run.sheets) none.emplace_back(sheet->table().columns.size(), false);
  return used_columns(run, std::move(none));
}

}  // namespace opensum
