// All sheets of a study in one graph: what each fill, link and equation needs, wherever it stands, and the
// order that follows from it.
#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <memory>
#include <numeric>
#include <set>

#include "base/result.h"
#include "equation/checker.h"
#include "equation/names_used.h"
#include "equation/parser.h"
#include "message/nearest.h"
#include "plan/definitions.h"
#include "plan/fit_plan.h"
#include "plan/link_keys.h"
#include "plan/sheet_planner.h"
#include "plan/stated_uncertainty.h"
#include "plan/taken_columns.h"

namespace opensum {
namespace {

class StudyPlanner {
 public:
  StudyPlanner(const std::vector<SheetInput>& sheets, const PlanContext& context, Diagnostics& diagnostics)
      : sheets_(sheets), context_(context), diagnostics_(diagnostics), planners_(sheets.size()) {}

  StudyPlan run() {
    StudyPlan study;
    const std::vector<std::size_t> sources_first = order_by_source(sheets_, diagnostics_);
    if (sources_first.size() < sheets_.size()) return study;
    for (const std::size_t sheet : sources_first) open(sheet);
    for (std::size_t sheet = 0; sheet < planners_.size(); ++sheet) resolve_links(sheet);
    for (const FitModel& fit : context_.fits) resolve_fit(fit);
    add_nodes();
    study.order = ordered();
    for (const Task& task : study.order) check(task);
    for (std::size_t sheet = 0; sheet < planners_.size(); ++sheet) {
      Others others(*this, sheet);
      diagnostics_.set_sheet(name_of(sheet));
      planners_[sheet]->check_claims(&others);
    }
    for (const PlotModel& plot : context_.plots) study.plots.push_back(plot_keep(plot));
    for (const std::size_t sheet : sources_first) {
      diagnostics_.set_sheet(name_of(sheet));
      planners_[sheet]->close();
    }
    for (const auto& planner : planners_) study.sheets.push_back(std::move(planner->plan()));
    plan_uncertainties(sheets_, study.sheets, fits_, context_, diagnostics_);
    study.fits = std::move(fits_);
    diagnostics_.set_sheet("");
    for (const Task& task : study.order) {
      if (task.kind == Task::Kind::derived) study.sheets[task.sheet].order.push_back(task.index);
    }
    return study;
  }

 private:
  // What the equations of one sheet see of the others.
  class Others : public OtherSheets {
   public:
    Others(StudyPlanner& study, std::size_t sheet) : study_(study), sheet_(sheet) {}
    Result<std::size_t> linked(const Node& member, const Passage& passage,
                               Diagnostics& diagnostics) override {
      return study_.borrow(sheet_, member, passage, diagnostics);
    }
    std::optional<OtherScope> scope_of(const std::string& sheet) const override {
      const auto number = study_.number_of(sheet);
      if (!number) return std::nullopt;
      return OtherScope{&study_.scope(*number), {*number, std::nullopt}};
    }

    bool has_link(const std::string& name) const override {
      return study_.find_link(sheet_, name).has_value();
    }

    std::optional<OtherScope> grouped() const override {
      const SheetPlan& plan = study_.planners_[sheet_]->plan();
      if (!plan.grouped) return std::nullopt;
      const auto source = *plan.source;
      return OtherScope{&study_.scope(source), {source, sheet_}, study_.shown_name_of(source)};
    }

    std::size_t group_column(std::size_t column) override {
      const auto source = *study_.planners_[sheet_]->plan().source;
      return study_.borrowed_by(source, *study_.link_to_groups(sheet_), column, study_.name_of(sheet_));
    }

    std::vector<std::size_t> group_keys() const override { return study_.planners_[sheet_]->plan().keys; }

    bool is_first_whole_source() override { return study_.whole_source_said_.insert(sheet_).second; }

    std::size_t uncertainty_of(std::size_t column, const Place& place) override {
      return study_.ask_uncertainty(sheet_, column, place);
    }

    FitView fit(const std::string& name, const std::string& sheet) const override {
      std::vector<std::string> names;
      for (const auto& planner : study_.planners_) names.push_back(planner->model().name);
      return view_of_fit(study_.fits_, names, name, sheet, sheet_);
    }

   private:
    StudyPlanner& study_;
    std::size_t sheet_;
  };

  Scope& scope(std::size_t sheet) { return planners_[sheet]->plan().scope; }
  const std::string& name_of(std::size_t sheet) const { return planners_[sheet]->model().name; }

  std::optional<std::size_t> number_of(const std::string& sheet) const {
    const auto found = std::find_if(sheets_.begin(), sheets_.end(),
                                    [&](const SheetInput& input) { return input.model->name == sheet; });
    if (found == sheets_.end()) return std::nullopt;
    return static_cast<std::size_t>(found - sheets_.begin());
  }

  std::optional<std::size_t> find_link(std::size_t sheet, const std::string& name) const {
    const auto& links = planners_[sheet]->plan().links;
    const auto found =
        std::find_if(links.begin(), links.end(), [&](const LinkPlan& link) { return link.name == name; });
    if (found == links.end()) return std::nullopt;
    return static_cast<std::size_t>(found - links.begin());
  }

  // Names the columns of a sheet; those of the sheet of which it has the rows are named.
  void open(std::size_t sheet) {
    const SheetInput& input = sheets_[sheet];
    diagnostics_.set_sheet(input.model->name);
    const auto source = input.model->rows_of ? number_of(input.model->rows_of->text()) : std::nullopt;
    TakenColumns taken;
    if (source) {
      taken = take_columns(*input.model, scope(*source), context_.units, *input.table, diagnostics_);
    }
    const Scope* grouped = source && input.model->one_row_per ? &scope(*source) : nullptr;
    planners_[sheet] = std::make_unique<SheetPlanner>(*input.model, *input.table, context_,
                                                      Standing::equation, grouped, diagnostics_);
    if (source) {
      planners_[sheet]->set_source(*source, *planners_[*source], std::move(taken));
    }
    planners_[sheet]->open();
  }

  // Finds the sheets that the links of a sheet lead to.
  void resolve_links(std::size_t sheet) {
    diagnostics_.set_sheet(name_of(sheet));
    for (const LinkModel& model : planners_[sheet]->model().links) {
      LinkPlan link;
      link.name = model.name.text();
      link.place = model.name.place();
      link.how = model.how;
      const Passage& target = model.sheet ? *model.sheet : model.name;
      link.sheet = number_of(target.text());
      if (!link.sheet) {
        diagnostics_.add(Code::unknown_sheet, target.place(),
                         {target.text(), nearest_name(target.text(), context_.sheets)});
      } else if (model.sheet && number_of(link.name).has_value() && link.name != target.text()) {
        // The name would mean one sheet in reductions and another in equations.
        diagnostics_.add(Code::link_named_as_sheet, link.place, {link.name, target.text()});
      }
      planners_[sheet]->plan().links.push_back(std::move(link));
    }
    const SheetPlan& plan = planners_[sheet]->plan();
    if (!plan.source) return;
    if (plan.grouped) return link_groups(sheet);
    // A row that is taken over finds its own in the source.
    LinkPlan own;
    own.name = name_of(*plan.source);
    own.sheet = plan.source;
    own.how = LinkHow::taken;
    own.good = true;
    if (!find_link(sheet, own.name)) planners_[sheet]->plan().links.push_back(std::move(own));
  }

  // A row of the source of groups finds the row of its group, for columns of the groups inside reductions.
  void link_groups(std::size_t sheet) {
    LinkPlan link;
    link.name = "the group in " + name_of(sheet);
    link.sheet = sheet;
    link.how = LinkHow::group;
    link.good = true;
    planners_[*planners_[sheet]->plan().source]->plan().links.push_back(std::move(link));
  }

  // The place of that link among those of the source.
  std::optional<std::size_t> link_to_groups(std::size_t sheet) const {
    const auto& links = planners_[*planners_[sheet]->plan().source]->plan().links;
    for (std::size_t i = 0; i < links.size(); ++i) {
      if (links[i].how == LinkHow::group && links[i].sheet == sheet) return i;
    }
    return std::nullopt;
  }

  // A sheet as its author names it: not one that is only there for others.
  const std::string& shown_name_of(std::size_t sheet) const {
    return planners_[sheet]->model().hidden ? name_of(*planners_[sheet]->plan().source) : name_of(sheet);
  }

  // Finds the sheets to whose points a curve is fitted.
  void resolve_fit(const FitModel& model) {
    diagnostics_.set_sheet("");
    FitPlan& fit = fits_.emplace_back();
    fit.model = &model;
    std::vector<std::string> names;
    for (const Passage& sheet : model.sheets) {
      const auto number = number_of(sheet.text());
      if (!number) {
        diagnostics_.add(Code::unknown_sheet, sheet.place(),
                         {sheet.text(), nearest_name(sheet.text(), context_.sheets)});
      } else {
        fit.sheets.emplace_back().sheet = *number;
      }
    }
    if (!model.sheets.empty()) return;
    // With a single sheet there is nothing to choose.
    if (context_.sheets.size() == 1) {
      fit.sheets.emplace_back().sheet = *number_of(context_.sheets.front());
    } else {
      diagnostics_.add(Code::key_missing, model.place, {"sheet"});
    }
  }

  // The condition of a plot, checked against each of its sheets. That a sheet is not there is said elsewhere.
  PlotKeep plot_keep(const PlotModel& plot) {
    PlotKeep keep;
    if (!plot.keep) return keep;
    std::vector<std::string> names;
    for (const Passage& sheet : plot.sheets) names.push_back(sheet.text());
    for (const SeriesModel& series : plot.series) {
      if (series.sheet) names.push_back(series.sheet->text());
    }
    if (names.empty() && context_.sheets.size() == 1) names = context_.sheets;
    for (const std::string& name : names) {
      const auto number = number_of(name);
      if (!number || keep.contains(*number)) continue;
      const auto sheet = *number;
      Others others(*this, sheet);
      diagnostics_.set_sheet(name);
      const CheckContext context{scope(sheet), context_.units, context_.policy, Standing::equation,
                                 std::nullopt, &others,        nullptr};
      const NodePtr condition = parse_expression(*plot.keep, diagnostics_);
      const CheckedPtr tree =
          condition ? check_condition(*condition, *plot.keep, context, diagnostics_) : nullptr;
      if (tree) keep.emplace(sheet, compile(*tree));
    }
    return keep;
  }

  // How many tasks of each kind a sheet has, in the order of the kinds.
  std::array<std::size_t, 5> task_counts(std::size_t sheet) const {
    const SheetPlan& plan = planners_[sheet]->plan();
    const std::size_t rows = planners_[sheet]->finds_rows() ? 1 : 0;
    return {plan.derived.size(), plan.fills.size(), plan.links.size(), rows, plan.taken.size()};
  }

  // The nodes of the graph are numbered sheet by sheet and kind by kind.
  void add_nodes() {
    for (std::size_t sheet = 0; sheet < planners_.size(); ++sheet) {
      first_.push_back(tasks_.size());
      const auto counts = task_counts(sheet);
      for (std::size_t kind = 0; kind < counts.size(); ++kind) {
        for (std::size_t i = 0; i < counts.at(kind); ++i) {
          tasks_.push_back({static_cast<Task::Kind>(kind), sheet, i});
        }
      }
    }
    for (std::size_t fit = 0; fit < fits_.size(); ++fit) {
      for (const FitSheetPlan& sheet : fits_[fit].sheets) {
        fit_nodes_[{fit, sheet.sheet}] = tasks_.size();
        tasks_.push_back({Task::Kind::fit, sheet.sheet, fit});
      }
    }
  }

  // The fits that an expression uses.
  void need_fits(std::size_t sheet, const Node& expression, std::vector<std::size_t>& needs) const {
    for (const MemberUse& used : fits_used(expression)) {
      for (std::size_t fit = 0; fit < fits_.size(); ++fit) {
        if (fits_[fit].model->name != used.owner) continue;
        for (const FitSheetPlan& plan : fits_[fit].sheets) {
          const bool meant = used.column.empty() ? plan.sheet == sheet || fits_[fit].sheets.size() == 1
                                                 : name_of(plan.sheet) == used.column;
          if (meant) needs.push_back(fit_nodes_.at({fit, plan.sheet}));
        }
      }
    }
  }

  // The columns of a sheet that an equation makes of a fit itself.
  std::set<std::string> columns_of_fit(const Task& task) const {
    std::set<std::string> names;
    for (const DerivedColumn& derived : planners_[task.sheet]->plan().derived) {
      for (const MemberUse& used : fits_used(*derived.definition.expression)) {
        if (used.owner == fits_[task.index].model->name) names.insert(derived.definition.name);
      }
    }
    return names;
  }

  // The columns that a fit needs.
  void need_points(const Task& task, std::vector<std::size_t>& needs) const {
    const FitModel& model = *fits_[task.index].model;
    need_rows(task.sheet, needs);
    for (const Passage* name : {&model.x, &model.y}) need_column(task.sheet, name->text(), false, needs);
    if (model.by) need_column(task.sheet, model.by->text(), false, needs);
    if (model.weights && !model.weighted_by_uncertainty()) {
      need_column(task.sheet, model.weights->text(), false, needs);
    }
    if (!model.keep) return;
    Diagnostics reported_later;
    const NodePtr condition = parse_expression(*model.keep, reported_later);
    if (!condition) return;
    need_names(task.sheet, *condition, needs);
    need_members(task.sheet, *condition, needs);
    need_fits(task.sheet, *condition, needs);
  }

  std::size_t node_of(Task::Kind kind, std::size_t sheet, std::size_t index) const {
    const auto counts = task_counts(sheet);
    const std::size_t before =
        std::accumulate(counts.begin(), counts.begin() + static_cast<std::ptrdiff_t>(kind), std::size_t{0});
    return first_[sheet] + before + index;
  }

  // Adds the node that says which rows a sheet has, if they are not its own.
  void need_rows(std::size_t sheet, std::vector<std::size_t>& needs) const {
    if (planners_[sheet]->finds_rows()) needs.push_back(node_of(Task::Kind::rows, sheet, 0));
  }

  // Adds the node that gives a column its values; those that are read have none but their rows.
  void need_column(std::size_t sheet, const std::string& name, bool quoted,
                   std::vector<std::size_t>& needs) const {
    const SheetPlan& plan = planners_[sheet]->plan();
    if (!plan.source) need_rows(sheet, needs);
    const auto found = plan.scope.find_column(name, quoted);
    if (!found) return;
    const std::size_t index = plan.scope.meant_by(*found);
    // Derived columns stand one after the other, and so do those taken over but for filled ones between.
    if (!plan.derived.empty() && index >= plan.derived.front().index &&
        index - plan.derived.front().index < plan.derived.size()) {
      needs.push_back(node_of(Task::Kind::derived, sheet, index - plan.derived.front().index));
    }
    for (std::size_t i = 0; i < plan.fills.size(); ++i) {
      if (plan.fills[i].filled == index) needs.push_back(node_of(Task::Kind::fill, sheet, i));
    }
    need_taken(sheet, *found, needs);
    if (plan.scope.columns[*found].as_measured)
      need_taken(sheet, *plan.scope.columns[*found].as_measured, needs);
  }

  // What an expression of a sheet names.
  void need_names(std::size_t sheet, const Node& expression, std::vector<std::size_t>& needs) const {
    const SheetPlan& plan = planners_[sheet]->plan();
    if (!plan.grouped) {
      for (const std::string& name : names_as_filled(expression, plan.scope))
        need_column(sheet, name, false, needs);
      for (const std::string& name : names_as_measured(expression, plan.scope)) {
        const auto index = plan.scope.find_column(name, false);
        if (index && plan.scope.columns[*index].filled) {
          need_taken(sheet, *index, needs);
        } else {
          need_column(sheet, name, false, needs);
        }
      }
      return;
    }
    const auto source = *plan.source;
    for (const std::string& name : names_outside_reductions(expression, plan.scope)) {
      need_column(sheet, name, false, needs);
    }
    const Scope& there = planners_[source]->plan().scope;
    for (const std::string& name : names_inside_reductions(expression, there)) {
      need_column(source, name, false, needs);
    }
    for (const std::string& name : groups_named_inside(expression, plan.scope, there)) {
      needs.push_back(node_of(Task::Kind::link, source, *link_to_groups(sheet)));
      need_column(sheet, name, false, needs);
    }
  }

  void need_members(std::size_t sheet, const Node& expression, std::vector<std::size_t>& needs) const {
    for (const MemberUse& member : members_used(expression, planners_[sheet]->plan().scope)) {
      const auto link = find_link(sheet, member.owner);
      auto target = number_of(member.owner);
      if (link) {
        needs.push_back(node_of(Task::Kind::link, sheet, *link));
        target = planners_[sheet]->plan().links[*link].sheet;
      }
      if (target) need_column(*target, member.column, true, needs);
    }
  }

  std::vector<std::size_t> needs_of(const Task& task) const {
    std::vector<std::size_t> needs;
    const SheetPlanner& planner = *planners_[task.sheet];
    switch (task.kind) {
      case Task::Kind::derived: {
        const Node& expression = *planner.plan().derived[task.index].definition.expression;
        need_rows(task.sheet, needs);
        need_names(task.sheet, expression, needs);
        need_members(task.sheet, expression, needs);
        need_fits(task.sheet, expression, needs);
        break;
      }
      case Task::Kind::fit:
        need_points(task, needs);
        break;
      case Task::Kind::fill:
        need_rows(task.sheet, needs);
        need_taken(task.sheet, planner.plan().fills[task.index].measured, needs);
        for (const NodePtr& rule : planner.rules_of(task.index)) {
          if (!rule) continue;
          for (const std::string& name : names_used(*rule, planner.plan().scope)) {
            const auto index = planner.plan().scope.find_column(name, false);
            if (index) need_taken(task.sheet, *index, needs);
          }
          need_members(task.sheet, *rule, needs);
          need_fits(task.sheet, *rule, needs);
        }
        break;
      case Task::Kind::link: {
        const auto target = planner.plan().links[task.index].sheet;
        need_rows(task.sheet, needs);
        if (target) need_rows(*target, needs);
        if (!has_keys(planner.plan().links[task.index].how)) break;
        for (const Passage& pair : planner.model().links[task.index].match) {
          const auto [here, there] = split_keys(pair.text());
          need_column(task.sheet, here, true, needs);
          if (target) need_column(*target, there, true, needs);
        }
        break;
      }
      case Task::Kind::rows:
        need_for_rows(task.sheet, needs);
        break;
      case Task::Kind::taken: {
        need_rows(task.sheet, needs);
        const auto source = *planner.plan().source;
        need_cells(source, planner.plan().taken[task.index], needs);
        break;
      }
    }
    return needs;
  }

  // What a column is taken over from.
  void need_cells(std::size_t source, const TakenColumn& taken, std::vector<std::size_t>& needs) const {
    const Scope& there = planners_[source]->plan().scope;
    need_column(source, there.columns[taken.there].symbol, false, needs);
    for (const std::size_t cell : taken.cells) need_column(source, there.columns[cell].symbol, false, needs);
  }

  // The value of a column as measured, where it is taken over.
  void need_taken(std::size_t sheet, std::size_t index, std::vector<std::size_t>& needs) const {
    const std::vector<TakenColumn>& taken = planners_[sheet]->plan().taken;
    const auto found = std::lower_bound(taken.begin(), taken.end(), index,
                                        [](const TakenColumn& t, std::size_t i) { return t.index < i; });
    if (found == taken.end() || found->index != index) return;
    needs.push_back(node_of(Task::Kind::taken, sheet, static_cast<std::size_t>(found - taken.begin())));
  }

  // What must be known before it is known which rows a sheet has.
  void need_for_rows(std::size_t sheet, std::vector<std::size_t>& needs) const {
    const SheetPlanner& planner = *planners_[sheet];
    for (const MemberUse& member : planner.needs_of_keep().members) {
      const auto link = keep_link(sheet, member.owner);
      if (!link || !planner.plan().links[*link].sheet) continue;
      const auto target = *planner.plan().links[*link].sheet;
      need_rows(target, needs);
      need_column(target, member.column, true, needs);
      for (const Passage& pair : planner.model().links[*link].match)
        need_column(target, split_keys(pair.text()).second, true, needs);
    }
    if (!planner.plan().source) return;
    const auto source = *planner.plan().source;
    const Scope& there = planners_[source]->plan().scope;
    need_rows(source, needs);
    for (const Passage& key : planners_[source]->model().sort_by) {
      need_column(source, sort_name(key), true, needs);
    }
    for (const std::size_t key : planner.plan().keys)
      need_column(source, there.columns[key].symbol, false, needs);
    std::vector<std::string> names = planner.needs_of_keep().names;
    for (const MemberUse& member : planner.needs_of_keep().members) {
      if (member.owner == there.sheet) need_column(source, member.column, true, needs);
      const auto link = keep_link(sheet, member.owner);
      for (std::size_t i = 0; link && i < planner.model().links[*link].match.size(); ++i)
        names.push_back(split_keys(planner.model().links[*link].match[i].text()).first);
    }
    for (const std::string& name : names) {
      for (const TakenColumn& taken : planner.plan().taken) {
        const Column& column = sheets_[sheet].table->table.columns[taken.index];
        if (column.symbol == name || column.measured_of == name) need_cells(source, taken, needs);
      }
    }
  }

  // A key here: its place in a table, and its type.
  struct KeyHere {
    std::size_t index = 0;
    Type type;
  };
  // Finds a key here by its name; nothing after a reported error or in silence when it is broken.
  using Keys = std::function<std::optional<KeyHere>(const std::string&, const Place&)>;

  // The link of a sheet through which its condition for rows looks, where the study says it.
  std::optional<std::size_t> keep_link(std::size_t sheet, const std::string& name) const {
    const auto link = find_link(sheet, name);
    return link && has_model(planners_[sheet]->plan().links[*link].how) ? link : std::nullopt;
  }

  // Plans which rows a sheet has.
  void check_rows(std::size_t sheet) {
    SheetPlanner& planner = *planners_[sheet];
    if (!planner.model().keep) return;
    auto table = planner.table_of_keep();
    if (!table) return;
    SheetPlanner::KeepLinkPlans links;
    std::map<std::size_t, std::size_t> planned;  // by place among the links of the sheet
    for (const MemberUse& member : planner.needs_of_keep().members) {
      const auto number = keep_link(sheet, member.owner);
      const std::string name = member.owner + "." + member.column;
      if (!number || table->table.find(name) != nullptr) continue;
      const auto [place, is_new] = planned.try_emplace(*number, links.links.size());
      if (is_new) {
        LinkPlan link = planner.plan().links[*number];
        if (!link.sheet) return;
        const Keys here = [&](const std::string& key, const Place& at) {
          return measured_key(planner, table->table, key, at);
        };
        if (!plan_link(planner.model().links[*number], here, link)) return;
        links.links.push_back(std::move(link));
      }
      const LinkPlan& link = links.links[place->second];
      const auto there =
          target_of(link, member.owner, {member.column, true}, planner.model().keep->place(), diagnostics_);
      if (!there) return;
      const Type& type = scope(*link.sheet).columns[*there].type;
      Column column;
      column.symbol = name;
      column.linked = true;
      column.kind = type.kind;
      column.clock = type.clock;
      column.unit = type.unit;
      column.keeps_limits =
          scope(*link.sheet).columns[*there].keeps_limits && link.how != LinkHow::interpolate;
      column.origin = context_.origins.add(name_of(sheet), name);
      links.borrowed.push_back({table->table.columns.size(), place->second, *there});
      table->table.columns.push_back(std::move(column));
    }
    planner.check_rows(std::move(*table), std::move(links));
  }

  // A key that a condition for rows can use: a column as measured.
  std::optional<KeyHere> measured_key(const SheetPlanner& planner, const Table& table,
                                      const std::string& name, const Place& place) {
    const Scope& names = planner.plan().scope;
    const auto found = names.find_column(name, true);
    if (!found) {
      diagnostics_.add(Code::unknown_column, place, {name, names.sheet, nearest_name(name, names.names())});
      return std::nullopt;
    }
    const std::string& symbol = names.columns[*found].symbol;
    if (names.columns[*found].filled) {
      diagnostics_.add(Code::keep_before_fill, place, {symbol});
      return std::nullopt;
    }
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const Column& column = table.columns[i];
      if (column.symbol != symbol || column.linked) continue;
      Type type;
      type.kind = column.kind;
      type.unit = column.unit;
      return KeyHere{i, type};
    }
    diagnostics_.add(Code::keep_row_by_row, place, {symbol});
    return std::nullopt;
  }

  std::string name_of(const Task& task, bool with_sheet) const {
    const SheetPlan& plan = planners_[task.sheet]->plan();
    std::string name;
    if (task.kind == Task::Kind::derived) name = plan.derived[task.index].definition.name;
    if (task.kind == Task::Kind::fill) name = plan.scope.columns[plan.fills[task.index].measured].symbol;
    if (task.kind == Task::Kind::link) name = plan.links[task.index].name;
    if (task.kind == Task::Kind::rows) return "rows of " + name_of(task.sheet);
    if (task.kind == Task::Kind::fit) return "fit " + fits_[task.index].model->name;
    if (task.kind == Task::Kind::taken) name = plan.scope.columns[plan.taken[task.index].index].symbol;
    if (with_sheet) name = name_of(task.sheet) + "." + name;
    if (task.kind == Task::Kind::fill) return "fill of " + name;
    return task.kind == Task::Kind::link ? "link " + name : name;
  }

  Place place_of(const Task& task) const {
    const SheetPlanner& planner = *planners_[task.sheet];
    switch (task.kind) {
      case Task::Kind::derived: {
        const Definition& definition = planner.plan().derived[task.index].definition;
        return definition.passage.place(definition.name_span);
      }
      case Task::Kind::fill:
        return planner.model().place;
      case Task::Kind::link:
        return planner.plan().links[task.index].place;
      case Task::Kind::rows:
      case Task::Kind::taken:
        return planner.model().place;
      case Task::Kind::fit:
        return fits_[task.index].model->place;
    }
    return {};
  }

  // Everything after what it needs; cycles are reported, and what stands in one is left out.
  std::vector<Task> ordered() {
    diagnostics_.set_sheet("");
    std::vector<std::vector<std::size_t>> needs;
    for (const Task& task : tasks_) needs.push_back(needs_of(task));
    std::vector<std::vector<std::size_t>> cycles;
    const std::vector<std::size_t> order = dependency_order(needs, cycles);
    std::vector<bool> in_cycle(tasks_.size(), false);
    for (const std::vector<std::size_t>& cycle : cycles) {
      const bool one_sheet = std::all_of(cycle.begin(), cycle.end(), [&](std::size_t node) {
        return tasks_[node].sheet == tasks_[cycle.front()].sheet;
      });
      std::vector<std::string> names;
      for (const std::size_t node : cycle) {
        names.push_back(name_of(tasks_[node], !one_sheet));
        in_cycle[node] = true;
      }
      diagnostics_.add(Code::cycle, place_of(tasks_[cycle.front()]), {cycle_text(names)});
    }
    std::vector<Task> tasks;
    for (const std::size_t node : order) {
      if (!in_cycle[node]) tasks.push_back(tasks_[node]);
    }
    return tasks;
  }

  void check(const Task& task) {
    diagnostics_.set_sheet(name_of(task.sheet));
    Others others(*this, task.sheet);
    switch (task.kind) {
      case Task::Kind::derived:
        return planners_[task.sheet]->check_derived(task.index, &others);
      case Task::Kind::fill:
        return planners_[task.sheet]->check_fill(task.index, &others);
      case Task::Kind::link:
        return check_link(task);
      case Task::Kind::rows:
        return check_rows(task.sheet);
      case Task::Kind::taken:
        return planners_[task.sheet]->settle_taken(task.index);
      case Task::Kind::fit:
        return check_fit(
            fits_[task.index], task.sheet, name_of(task.sheet), scope(task.sheet),
            {scope(task.sheet), context_.units, context_.policy, Standing::equation, std::nullopt, &others},
            columns_of_fit(task), diagnostics_);
    }
  }

  // A key of a link as a column in use; nothing after a reported error or in silence when it is broken.
  std::optional<std::size_t> key_column(std::size_t sheet, const std::string& name, const Place& place) {
    const Scope& names = scope(sheet);
    const auto found = names.find_column(name, true);
    if (!found) {
      diagnostics_.add(Code::unknown_column, place,
                       {name, name_of(sheet), nearest_name(name, names.names())});
      return std::nullopt;
    }
    const std::size_t index = names.meant_by(*found);
    return names.columns[index].broken ? std::nullopt : std::optional(index);
  }

  static std::string words(const Type& type) {
    if (type.kind != Kind::number) return kind_name(type.kind);
    return type.unit.is_one() ? "a plain number" : type.unit.text();
  }

  void check_link(const Task& task) {
    LinkPlan& link = planners_[task.sheet]->plan().links[task.index];
    if (!has_model(link.how) || !link.sheet) return;
    const Keys here = [&](const std::string& name, const Place& place) -> std::optional<KeyHere> {
      const auto index = key_column(task.sheet, name, place);
      if (!index) return std::nullopt;
      return KeyHere{*index, scope(task.sheet).columns[*index].type};
    };
    link.good = plan_link(planners_[task.sheet]->model().links[task.index], here, link);
  }

  // Plans the keys of a link, and how near they must be; false after a reported error.
  bool plan_link(const LinkModel& model, const Keys& keys_here, LinkPlan& link) {
    const auto target = *link.sheet;
    bool good = true;
    Type last;
    for (const Passage& pair : model.match) {
      const auto [here_name, there_name] = split_keys(pair.text());
      const auto here = keys_here(here_name, pair.place());
      const auto there = key_column(target, there_name, pair.place());
      if (!here || !there) {
        good = false;
        continue;
      }
      const Type& there_type = scope(target).columns[*there].type;
      if (here->type.kind != there_type.kind || mismatch(there_type.unit, here->type.unit)) {
        diagnostics_.add(
            Code::link_keys_differ, pair.place(),
            {here_name, words(here->type), name_of(target) + "." + there_name, words(there_type)});
        good = false;
        continue;
      }
      link.keys.push_back({here->index, *there, conversion(there_type.unit, here->type.unit)});
      last = here->type;
    }
    if (!good) return false;
    const bool ordered = link.how != LinkHow::equal && link.how != LinkHow::row;
    if (ordered) {
      if (last.kind != Kind::number && last.kind != Kind::date) {
        diagnostics_.add(Code::link_key_order, model.match.back().place(),
                         {model.match.back().text(), words(last)});
        return false;
      }
      if (model.within && !read_within(*model.within, last, context_.units, link.within, diagnostics_))
        return false;
    } else if (model.within) {
      diagnostics_.add(Code::link_within_equal, model.within->place(), {});
      return false;
    }
    return true;
  }

  // A column that two sheets have under one name, for the suggestion of a link.
  std::string common_key(std::size_t sheet, std::size_t target) {
    for (const ScopeColumn& here : scope(sheet).columns) {
      const auto there = scope(target).find_column(here.symbol, false);
      if (here.measured && there && scope(target).columns[*there].measured) {
        return here.symbol;
      }
    }
    return "KEY";
  }

  Result<std::size_t> borrow(std::size_t sheet, const Node& member, const Passage& passage,
                             Diagnostics& diagnostics) {
    const auto& [owner, symbol, quoted] = member.as<tree::Member>();
    SheetPlan& plan = planners_[sheet]->plan();
    const auto number = find_link(sheet, owner);
    if (!number) {
      const auto target = number_of(owner);
      if (target) {
        diagnostics.add(Code::link_missing, passage.place(member.span),
                        {owner, symbol, common_key(sheet, *target)});
        return std::nullopt;
      }
      std::vector<std::string> known = context_.sheets;
      for (const LinkPlan& link : plan.links) known.push_back(link.name);
      diagnostics.add(Code::unknown_sheet, passage.place(member.mark), {owner, nearest_name(owner, known)});
      return std::nullopt;
    }
    const LinkPlan& link = plan.links[*number];
    if (!link.good) return std::nullopt;
    const auto there = target_of(link, owner, {symbol, quoted}, passage.place(member.span), diagnostics);
    if (!there) return std::nullopt;
    return borrowed_by(sheet, *number, *there, owner);
  }

  // The column that a link leads to, by its name; nothing after a reported error or in silence when it is
  // broken.
  std::optional<std::size_t> target_of(const LinkPlan& link, const std::string& owner,
                                       const std::pair<std::string, bool>& named, const Place& place,
                                       Diagnostics& diagnostics) {
    const auto& [symbol, quoted] = named;
    const auto target = *link.sheet;
    const auto found = scope(target).find_column(symbol, quoted);
    if (!found) {
      diagnostics.add(Code::unknown_column, place,
                      {symbol, name_of(target), nearest_name(symbol, scope(target).names())});
      return std::nullopt;
    }
    const std::size_t there = scope(target).meant_by(*found);
    const ScopeColumn& column = scope(target).columns[there];
    if (column.broken) return std::nullopt;
    if (column.data != nullptr && column.data->unreadable_count > 0) {
      diagnostics.add(
          Code::linked_unreadable, place,
          {name_of(target) + "." + column.symbol, std::to_string(column.data->unreadable_count),
           column.data->unreadable.front().text, std::to_string(column.data->unreadable.front().line)});
      return std::nullopt;
    }
    const bool lines = column.type.kind == Kind::number || column.type.kind == Kind::date;
    if (link.how == LinkHow::interpolate && !lines) {
      diagnostics.add(Code::link_interpolates, place, {owner + "." + symbol, kind_name(column.type.kind)});
      return std::nullopt;
    }
    return there;
  }

  // The column of a sheet that holds what a link leads to, which is made where it is first asked for.
  std::size_t borrowed_by(std::size_t sheet, std::size_t number, std::size_t there,
                          const std::string& owner) {
    SheetPlan& plan = planners_[sheet]->plan();
    const LinkPlan& link = plan.links[number];
    for (const BorrowedColumn& borrowed : plan.borrowed) {
      if (borrowed.link == number && borrowed.there == there) return borrowed.index;
    }
    const ScopeColumn& column = scope(*link.sheet).columns[there];
    ScopeColumn entry;
    entry.symbol = owner + "." + column.symbol;
    entry.label = column.label;
    entry.type = column.type;
    entry.keeps_limits = column.keeps_limits && link.how != LinkHow::interpolate;
    if (link.how == LinkHow::interpolate) entry.type.clock = true;
    entry.measured = false;
    entry.linked = true;
    plan.borrowed.push_back({plan.scope.columns.size(), number, there});
    plan.scope.columns.push_back(std::move(entry));
    return plan.borrowed.back().index;
  }

  // The column that holds the uncertainty of another, which is made where it is first asked for.
  std::size_t ask_uncertainty(std::size_t sheet, std::size_t column, const Place& place) {
    SheetPlan& plan = planners_[sheet]->plan();
    for (const AskedUncertainty& asked : plan.uncertainty.asked) {
      if (asked.of.column == column) return asked.of.index;
    }
    ScopeColumn entry;
    entry.symbol = "u(" + plan.scope.columns[column].symbol + ")";
    entry.label = "u(" + plan.scope.columns[column].label + ")";
    const Type& of = plan.scope.columns[column].type;
    entry.type.unit = of.kind == Kind::date ? second() : difference_unit(of.unit);
    entry.type.difference = plan.scope.columns[column].type.unit.is_reading();
    entry.measured = false;
    entry.linked = true;
    plan.uncertainty.asked.push_back({{column, plan.scope.columns.size()}, place});
    plan.scope.columns.push_back(std::move(entry));
    return plan.uncertainty.asked.back().of.index;
  }

  const std::vector<SheetInput>& sheets_;
  const PlanContext& context_;
  Diagnostics& diagnostics_;
  std::vector<std::unique_ptr<SheetPlanner>> planners_;
  std::deque<FitPlan> fits_;
  std::map<std::pair<std::size_t, std::size_t>, std::size_t> fit_nodes_;
  std::vector<Task> tasks_;
  std::vector<std::size_t> first_;
  /// Sheets of groups of which it was said that a reduction goes over their whole source.
  std::set<std::size_t> whole_source_said_;
};

}  // namespace

StudyPlan plan_study(const std::vector<SheetInput>& sheets, const PlanContext& context,
                     Diagnostics& diagnostics) {
  return StudyPlanner(sheets, context, diagnostics).run();
}

}  // namespace opensum
