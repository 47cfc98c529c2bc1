// The plan of one sheet while it is made: its names first, then its fills, equations and claims one by one.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "equation/check_context.h"
#include "equation/names_used.h"
#include "plan/keep_needs.h"
#include "plan/plan.h"
#include "plan/taken_columns.h"

namespace opensum {

/// The column of a key such as `flow` or `flow down`.
std::string sort_name(const Passage& key);

class SheetPlanner {
 public:
  /// `source` has the columns over which loops may go, too: those of the sheet whose rows are grouped. It may
  /// be a null pointer.
  SheetPlanner(const SheetModel& sheet, SheetTable& table, const PlanContext& context, Standing standing,
               const Scope* source, Diagnostics& diagnostics);

  /// Says of which sheet this one has the rows, and which of its columns: in step with those of the table.
  void set_source(std::size_t number, const SheetPlanner& source, TakenColumns taken);
  /// Names all columns: measured, filled and derived. Equations are read, not yet checked.
  void open();
  /// Checks one fill, one equation, all claims. What they need must have been checked before.
  void check_fill(std::size_t fill, OtherSheets* others);
  void check_derived(std::size_t derived, OtherSheets* others);
  void check_claims(OtherSheets* others);
  /// Gives a column that is taken over the kind and unit that it has in the source.
  void settle_taken(std::size_t taken);
  /// The measured columns over which the condition for rows goes, with those of the source that it names;
  /// nothing where one of them is broken, which is reported elsewhere.
  std::optional<SheetTable> table_of_keep();
  /// Plans the condition over that table, to which columns of other sheets were added: those of `links`.
  struct KeepLinkPlans {
    std::vector<LinkPlan> links;
    std::vector<BorrowedColumn> borrowed;
  };
  void check_rows(SheetTable table, KeepLinkPlans links);
  /// Whether its rows are found while the study is computed: those of another sheet, or by a condition that
  /// looks through links.
  bool finds_rows() const { return plan_.source.has_value() || looks_through_links_; }
  /// Adds to the table the columns that the plan made; the last thing, after that of the source.
  void close();

  /// The plan of `keep`, instead of all of the above.
  void plan_keep();

  const SheetModel& model() const { return sheet_; }
  SheetPlan& plan() { return plan_; }
  const SheetPlan& plan() const { return plan_; }
  /// The expressions of a fill's rules; null for those that cannot be read.
  const std::vector<NodePtr>& rules_of(std::size_t fill) const { return rules_[fill]; }
  /// What `keep` needs.
  const KeepNeeds& needs_of_keep() const { return needs_of_keep_; }

 private:
  CheckContext context(OtherSheets* others) const;
  /// The kind and unit of a column that is taken over, and its measured data; nothing where one of its source
  /// is broken or cells are unlike, which is reported.
  struct TakenType {
    Type type;
    const Column* data = nullptr;
    bool keeps_limits = false;
  };
  std::optional<TakenType> type_of(TakenColumn& taken, bool report);
  std::vector<const FillModel*> match_fills();
  void report_unmatched(const FillModel& fill);
  void add_filled_columns(const std::vector<const FillModel*>& fills);
  void add_measured();
  void only_needed_by(const Node& expression);
  void add_derived();
  void report_taken_names();
  void describe_derived();
  /// Adds the column of the scope at `index` to the table.
  Column& add_column(std::size_t index);
  void close_taken();
  void plan_sorting();
  void plan_showing();
  void read_rules(const std::vector<const FillModel*>& fills);
  void collect_conditions(const Checked& node);

  const SheetModel& sheet_;
  Table& table_;
  const std::vector<const ColumnSettings*>& settings_;
  const PlanContext& context_;
  Standing standing_;
  Diagnostics& diagnostics_;
  std::vector<Definition> definitions_;
  /// In step with the plan's fills.
  std::vector<const FillModel*> fill_models_;
  std::vector<std::vector<NodePtr>> rules_;
  /// Of which this sheet has the rows; a null pointer for rows of its own.
  const SheetPlanner* source_ = nullptr;
  KeepNeeds needs_of_keep_;
  bool looks_through_links_ = false;
  SheetPlan plan_;
};

/// The plan of a sheet's `keep` over its measured columns, with those equations that it needs; null after a
/// reported error.
[[nodiscard]] std::shared_ptr<KeepPlan> plan_keep(const SheetModel& sheet, SheetTable table,
                                                  const PlanContext& context, Diagnostics& diagnostics);

}  // namespace opensum
