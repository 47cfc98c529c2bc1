// What a study states of uncertainty, read and checked, and which columns it reaches.
#include "plan/stated_uncertainty.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "plan/quantity.h"
#include "plan/uncertain_programs.h"
#include "plan/uncertainty_column.h"
#include "table/like_names.h"

namespace opensum {

namespace {

// Whether settings of a column are those of this one.
bool is_of(const ColumnSettings& settings, const std::string& symbol) {
  return settings.is_pattern() ? matches_pattern(symbol, settings.symbol) : settings.symbol == symbol;
}

class UncertaintyPlanner {
 public:
  UncertaintyPlanner(const std::vector<SheetInput>& sheets, std::deque<SheetPlan>& plans,
                     std::deque<FitPlan>& fits, const PlanContext& context, Diagnostics& diagnostics)
      : sheets_(sheets),
        plans_(plans),
        fits_(fits),
        context_(context),
        diagnostics_(diagnostics),
        uncertain_(plans.size()),
        unknown_(plans.size()) {
    // There may be thousands of columns, of which few or none state those of others.
    for (const SheetPlan& plan : plans_)
      labels_tell_.push_back(
          std::any_of(plan.scope.columns.begin(), plan.scope.columns.end(),
                      [](const ScopeColumn& column) { return column.label.starts_with("u("); }));
  }

  void run() {
    for (std::size_t sheet = 0; sheet < plans_.size(); ++sheet) {
      name_sheet(sheet);
      read_stated(sheet);
      for (const StatedUncertainty& stated : plans_[sheet].uncertainty.stated)
        uncertain_[sheet].insert(stated.column);
    }
    in_use_ =
        context_.uncertain.size() > 0 || std::any_of(plans_.begin(), plans_.end(), [](const SheetPlan& plan) {
          return !plan.uncertainty.stated.empty() || !plan.uncertainty.asked.empty();
        });
    if (!in_use_) return;
    // Sheets look into one another in any order, and equations stand as written, so that it takes as many
    // rounds as they are deep.
    for (std::size_t before = SIZE_MAX; before != size();) {
      before = size();
      for (std::size_t sheet = 0; sheet < plans_.size(); ++sheet) reach(sheet);
    }
    for (std::size_t sheet = 0; sheet < plans_.size(); ++sheet) {
      name_sheet(sheet);
      report_not_carried(sheet);
      take_asked(sheet);
    }
    for (std::size_t sheet = 0; sheet < plans_.size(); ++sheet) add_columns(sheet);
    for (FitPlan& fit : fits_) ask_for_x(fit);
    for (const PlotModel& plot : context_.plots) ask_for_bars(plot);
    diagnostics_.set_sheet("");
  }

 private:
  void name_sheet(std::size_t sheet) {
    diagnostics_.set_sheet(sheets_[sheet].model->hidden ? "" : sheets_[sheet].model->name);
  }

  // How many columns are reached so far.
  std::size_t size() const {
    std::size_t sum = 0;
    for (std::size_t sheet = 0; sheet < plans_.size(); ++sheet)
      sum += uncertain_[sheet].size() + unknown_[sheet].size();
    return sum;
  }

  // Whether a column has an uncertainty, known or not.
  bool is_reached(std::size_t sheet, std::size_t column) const {
    return uncertain_[sheet].contains(column) || unknown_[sheet].contains(column);
  }

  Table& table(std::size_t sheet) const { return sheets_[sheet].table->table; }

  void read_stated(std::size_t sheet) {
    const Table& own = table(sheet);
    for (std::size_t i = 0; i < own.columns.size(); ++i) {
      const Column& column = own.columns[i];
      if (!column.measured || !column.fills.empty() || column.linked) continue;
      for (const bool shared : {false, true}) read_settings(sheet, i, shared);
    }
  }

  // The last settings that speak of the column: an exact name beats a pattern.
  const ColumnSettings* settings_of(std::size_t sheet, const std::string& symbol, bool shared) const {
    const ColumnSettings* found = nullptr;
    for (const ColumnSettings& settings : sheets_[sheet].model->columns) {
      const auto& said = shared ? settings.uncertainty_shared : settings.uncertainty;
      if (!said || !is_of(settings, symbol)) continue;
      if (found == nullptr || found->is_pattern() || !settings.is_pattern()) found = &settings;
    }
    return found;
  }

  // The measured column whose header says that it is the uncertainty of this one; none that equations ask
  // for.
  const Column* column_of_uncertainty(std::size_t sheet, std::size_t index) const {
    const Scope& scope = plans_[sheet].scope;
    if (!labels_tell_[sheet]) return nullptr;
    const auto found = uncertainty_column(scope, index);
    return found && scope.columns[*found].measured ? &table(sheet).columns[*found] : nullptr;
  }

  void read_settings(std::size_t sheet, std::size_t index, bool shared) {
    const Column& column = table(sheet).columns[index];
    SheetPlan& plan = plans_[sheet];
    const ColumnSettings* settings = settings_of(sheet, column.symbol, shared);
    const Column* const by_header = shared ? nullptr : column_of_uncertainty(sheet, index);
    const bool in_cells = !shared && column.kind == Kind::number && column.uncertain_cells > 0;
    if (settings == nullptr) {
      if (in_cells && by_header == nullptr) {
        StatedUncertainty stated;
        stated.cells_divided_by = 1;
        add(sheet, index, stated, "");
      }
      if (by_header != nullptr && by_header->kind == Kind::number && has_differences(column.kind))
        add(sheet, index, stated_by_column(column, *by_header, *uncertainty_column(plan.scope, index)), "");
      return;
    }
    const UncertaintyModel& model = shared ? *settings->uncertainty_shared : *settings->uncertainty;
    if (by_header != nullptr) {
      diagnostics_.add(Code::uncertainty_twice, model.text.place(), {column.symbol, by_header->label});
      return;
    }
    if (!has_differences(column.kind)) {
      diagnostics_.add(Code::uncertainty_of_kind, model.text.place(),
                       {column.symbol, kind_name(column.kind)});
      return;
    }
    if (model.text.text() == "cells" && !shared && !plan.scope.find_column("cells", false)) {
      StatedUncertainty stated;
      stated.cells_divided_by = model.divide_by;
      if (in_cells) return add(sheet, index, stated, "");
      diagnostics_.add(Code::uncertainty_not_in_cells, model.text.place(), {column.symbol});
      return;
    }
    auto stated = read(sheet, index, model);
    if (!stated) return;
    stated->divide_by = model.divide_by;
    stated->rectangular = model.rectangular;
    if (in_cells) stated->cells_divided_by = 1;
    const std::string unknown = !shared                ? ""
                                : settings->instrument ? "instrument " + settings->instrument->text()
                                                       : column.symbol + ", shared";
    add(sheet, index, *stated, unknown, settings->instrument.has_value());
  }

  StatedUncertainty stated_by_column(const Column& column, const Column& said, std::size_t index) const {
    StatedUncertainty stated;
    stated.from = index;
    stated.to_own = conversion(step_unit(said), step_unit(column));
    return stated;
  }

  // `0.1 K`, `2 %`, `2 % + 0.1 K`, or the name of a column; nothing after a reported error.
  std::optional<StatedUncertainty> read(std::size_t sheet, std::size_t index, const UncertaintyModel& model) {
    const Column& column = table(sheet).columns[index];
    const std::string& text = model.text.text();
    if (const auto named = plans_[sheet].scope.find_column(text, false)) {
      const Column& said = table(sheet).columns[*named];
      if (said.kind == Kind::number && said.measured &&
          !mismatch(difference_unit(said), difference_unit(column)))
        return stated_by_column(column, said, *named);
      report_form(model, column);
      return std::nullopt;
    }
    StatedUncertainty stated;
    for (std::size_t begin = 0; begin <= text.size();) {
      const std::size_t end = std::min(text.find(" + ", begin), text.size());
      const auto term = read_quantity(text.substr(begin, end - begin), context_.units);
      if (!term || !add_term(*term, column, stated)) {
        report_form(model, column);
        return std::nullopt;
      }
      begin = end + std::string(" + ").size();
    }
    if (!(stated.relative + stated.absolute > 0)) {
      diagnostics_.add(Code::uncertainty_not_positive, model.text.place(), {text});
      return std::nullopt;
    }
    return stated;
  }

  // False where it is of another dimension.
  bool add_term(const Quantity& term, const Column& column, StatedUncertainty& stated) const {
    const Unit wanted = step_unit(column);
    // A percentage is one of the value, unless the column itself is in percent.
    const bool share = term.unit.is_dimensionless() && term.unit_stated && !wanted.is_dimensionless();
    if (share) {
      if (column.kind == Kind::date) return false;
      stated.relative += conversion(term.unit, Unit())(term.value);
      return true;
    }
    if (term.unit.is_reading() || mismatch(term.unit, wanted)) return false;
    stated.absolute += conversion(term.unit, wanted)(term.value);
    return true;
  }

  void report_form(const UncertaintyModel& model, const Column& column) {
    const std::string unit = difference_unit(column).text();
    diagnostics_.add(Code::uncertainty_form, model.text.place(),
                     {model.text.text(), column.symbol, unit == "1" ? "0.1" : "0.1 " + unit});
  }

  void add(std::size_t sheet, std::size_t index, StatedUncertainty stated, const std::string& unknown,
           bool instrument = false) {
    SheetUncertainty& own = plans_[sheet].uncertainty;
    stated.column = index;
    stated.source = own.sources.size();
    for (std::size_t i = 0; i < own.sources.size() && !unknown.empty(); ++i) {
      if (own.sources[i].name == unknown) stated.source = i;
    }
    if (stated.source == own.sources.size())
      own.sources.push_back({unknown.empty() ? table(sheet).columns[index].symbol : unknown, index,
                             !unknown.empty(), instrument});
    own.stated.push_back(stated);
  }

  UncertainPrograms programs() const {
    return {[this](std::size_t sheet, std::size_t column) { return is_reached(sheet, column); }, fits_,
            in_use_};
  }

  // Which columns of a sheet have an uncertainty, and which one that is not known.
  void reach(std::size_t sheet) {
    const SheetPlan& plan = plans_[sheet];
    reach_taken(sheet);
    for (const FillPlan& fill : plan.fills) {
      const bool uncertain = uncertain_[sheet].contains(fill.measured) ||
                             std::any_of(fill.rules.begin(), fill.rules.end(), [&](const Program& rule) {
                               return programs().is_uncertain(rule, sheet);
                             });
      if (uncertain && has_differences(table(sheet).columns[fill.filled].kind))
        uncertain_[sheet].insert(fill.filled);
    }
    for (const BorrowedColumn& borrowed : plan.borrowed) reach_linked(sheet, borrowed);
    for (const DerivedColumn& derived : plan.derived) reach_derived(sheet, derived);
  }

  void reach_taken(std::size_t sheet) {
    const SheetPlan& plan = plans_[sheet];
    if (!plan.source) return;
    for (const TakenColumn& taken : plan.taken) {
      if (taken.of_headers) continue;
      const auto reached = [&](std::size_t column) { return is_reached(*plan.source, column); };
      if (reached(taken.there) || std::any_of(taken.cells.begin(), taken.cells.end(), reached))
        uncertain_[sheet].insert(taken.index);
    }
  }

  void reach_linked(std::size_t sheet, const BorrowedColumn& borrowed) {
    const LinkPlan& link = plans_[sheet].links[borrowed.link];
    if (!link.sheet || !has_differences(table(sheet).columns[borrowed.index].kind)) return;
    bool reached = is_reached(*link.sheet, borrowed.there);
    if (link.how == LinkHow::interpolate && !link.keys.empty()) {
      reached = reached || is_reached(sheet, link.keys.back().here) ||
                is_reached(*link.sheet, link.keys.back().there);
    }
    if (reached) uncertain_[sheet].insert(borrowed.index);
  }

  void reach_derived(std::size_t sheet, const DerivedColumn& derived) {
    if (!has_differences(derived.type.kind)) return;
    const std::vector<std::size_t>& inputs = derived.program.inputs;
    const bool unknown = programs().is_unknown(derived.program) ||
                         std::any_of(inputs.begin(), inputs.end(),
                                     [&](std::size_t input) { return unknown_[sheet].contains(input); });
    if (unknown) {
      unknown_[sheet].insert(derived.index);
    } else if (programs().is_uncertain(derived.program, sheet)) {
      uncertain_[sheet].insert(derived.index);
    }
  }

  // Those that equations ask for must be there.
  void take_asked(std::size_t sheet) {
    SheetUncertainty& own = plans_[sheet].uncertainty;
    for (const AskedUncertainty& asked : own.asked) {
      if (!is_reached(sheet, asked.of.column))
        diagnostics_.add(Code::uncertainty_none, asked.place, {table(sheet).columns[asked.of.column].symbol});
      own.columns.push_back(asked.of);
    }
  }

  // Said once of a sheet, of the columns that it begins with.
  void report_not_carried(std::size_t sheet) {
    const SheetPlan& plan = plans_[sheet];
    if (unknown_[sheet].empty() || sheets_[sheet].model->hidden) return;
    std::vector<std::string> names;
    std::optional<Place> first;
    for (const DerivedColumn& derived : plan.derived) {
      if (!unknown_[sheet].contains(derived.index)) continue;
      names.push_back(derived.definition.name);
      if (!first) first = derived.definition.passage.place(derived.definition.name_span);
    }
    if (first) diagnostics_.add(Code::uncertainty_not_carried, *first, {listed_names(names)});
  }

  // Where columns are chosen to be written, the uncertainties of the chosen ones follow them.
  static void place_beside(Table& table, std::size_t column, std::size_t uncertainty) {
    const auto shown = std::find(table.shown.begin(), table.shown.end(), column);
    if (shown != table.shown.end()) table.shown.insert(shown + 1, uncertainty);
  }

  // A column for each uncertainty that is written, after all others.
  void add_columns(std::size_t sheet) {
    SheetPlan& plan = plans_[sheet];
    Table& own = table(sheet);
    plan.uncertainty.in_use = true;
    plan.uncertainty.unknown.assign(unknown_[sheet].begin(), unknown_[sheet].end());
    plan.uncertainty.reached.assign(own.columns.size(), false);
    for (std::size_t i = 0; i < own.columns.size(); ++i) plan.uncertainty.reached[i] = is_reached(sheet, i);
    // Numbers are written without what their cells say of them.
    for (const StatedUncertainty& stated : plan.uncertainty.stated) {
      if (stated.cells_divided_by) add_column(sheet, stated.column);
    }
    for (const DerivedColumn& derived : plan.derived) {
      if (is_reached(sheet, derived.index) && has_differences(own.columns[derived.index].kind))
        add_column(sheet, derived.index);
    }
  }

  // A fit that goes by uncertainties goes by those of x, too, where it has one.
  void ask_for_x(FitPlan& fit) {
    for (FitSheetPlan& points : fit.sheets) {
      if (!points.good || !points.from_uncertainty || !is_reached(points.sheet, points.x)) continue;
      points.x_error = hidden_column(points.sheet, points.x);
      points.to_x_error = conversion(step_unit(table(points.sheet).columns[*points.x_error]),
                                     fit.x.kind == Kind::date ? second() : step_unit(fit.x.unit));
    }
  }

  // Points are drawn with the uncertainties of what was measured, too.
  void ask_for_bars(const PlotModel& plot) {
    std::vector<std::string> names;
    if (plot.x) names.push_back(plot.x->text());
    for (const Passage& y : plot.y) names.push_back(y.text());
    for (const SeriesModel& series : plot.series) {
      if (series.x) names.push_back(series.x->text());
      if (series.y) names.push_back(series.y->text());
    }
    for (std::size_t sheet = 0; sheet < plans_.size(); ++sheet) {
      const Scope& scope = plans_[sheet].scope;
      for (const std::string& name : names) {
        const auto found = scope.find_column(name, false);
        if (!found || !is_of_plot(plot, sheet)) continue;
        const std::size_t column = scope.meant_by(*found);
        if (is_reached(sheet, column) && table(sheet).columns[column].kind == Kind::number)
          hidden_column(sheet, column);
      }
    }
  }

  bool is_of_plot(const PlotModel& plot, std::size_t sheet) const {
    const std::string& own = sheets_[sheet].model->name;
    const auto named = [&](const Passage& name) { return name.text() == own; };
    return plot.sheets.empty() || std::any_of(plot.sheets.begin(), plot.sheets.end(), named) ||
           std::any_of(plot.series.begin(), plot.series.end(),
                       [&](const SeriesModel& series) { return series.sheet && named(*series.sheet); });
  }

  // The column of an uncertainty, which is not written where it is made for this.
  std::size_t hidden_column(std::size_t sheet, std::size_t index) {
    const auto& known = plans_[sheet].uncertainty.columns;
    const auto found = std::find_if(known.begin(), known.end(),
                                    [&](const UncertainColumn& each) { return each.column == index; });
    if (found != known.end()) return found->index;
    add_new_column(sheet, index);
    table(sheet).columns[known.back().index].linked = true;
    return known.back().index;
  }

  void add_column(std::size_t sheet, std::size_t index) {
    Table& own = table(sheet);
    for (const AskedUncertainty& asked : plans_[sheet].uncertainty.asked) {
      if (asked.of.column != index) continue;
      own.columns[asked.of.index].linked = false;
      return place_beside(own, index, asked.of.index);
    }
    add_new_column(sheet, index);
    place_beside(own, index, own.columns.size() - 1);
  }

  void add_new_column(std::size_t sheet, std::size_t index) {
    SheetPlan& plan = plans_[sheet];
    Table& own = table(sheet);
    const Column& of = own.columns[index];
    plan.uncertainty.columns.push_back({index, own.columns.size()});
    ScopeColumn entry;
    entry.symbol = "u(" + of.symbol + ")";
    entry.label = "u(" + of.label + ")";
    entry.measured = false;
    entry.type.unit = difference_unit(of);
    Column column;
    column.symbol = entry.symbol;
    column.label = entry.label;
    column.unit = entry.type.unit;
    column.measured = false;
    column.origin = context_.origins.add(sheets_[sheet].model->name, entry.symbol);
    plan.scope.columns.push_back(std::move(entry));
    own.columns.push_back(std::move(column));
  }

  const std::vector<SheetInput>& sheets_;
  std::deque<SheetPlan>& plans_;
  std::deque<FitPlan>& fits_;
  const PlanContext& context_;
  Diagnostics& diagnostics_;
  std::vector<std::set<std::size_t>> uncertain_;  // columns, by sheet
  std::vector<std::set<std::size_t>> unknown_;
  std::vector<bool> labels_tell_;  ///< whether some label of a sheet says that its column is an uncertainty
  bool in_use_ = false;
};

}  // namespace

void plan_uncertainties(const std::vector<SheetInput>& sheets, std::deque<SheetPlan>& plans,
                        std::deque<FitPlan>& fits, const PlanContext& context, Diagnostics& diagnostics) {
  UncertaintyPlanner(sheets, plans, fits, context, diagnostics).run();
}

}  // namespace opensum
