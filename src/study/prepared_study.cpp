// A study with its files, ready to be computed.
#include "study/prepared_study.h"

#include <algorithm>

#include "base/result.h"
#include "plan/fit_plan.h"

namespace opensum {

Result<std::size_t> PlannedOthers::linked(const Node& member, const Passage& /*passage*/,
                                          Diagnostics& /*diagnostics*/) {
  const auto& [owner, symbol, quoted] = member.as<tree::Member>();
  for (const BorrowedColumn& borrowed : sheet_.plan.borrowed) {
    const std::string& name = sheet_.plan.scope.columns[borrowed.index].symbol;
    if (name == owner + "." + symbol) return borrowed.index;
  }
  return std::nullopt;
}

std::optional<OtherScope> PlannedOthers::scope_of(const std::string& sheet) const {
  for (std::size_t i = 0; i < prepared_.sheets.size(); ++i) {
    if (prepared_.sheets[i]->model->name == sheet)
      return OtherScope{&prepared_.sheets[i]->plan.scope, {i, std::nullopt}};
  }
  return std::nullopt;
}

bool PlannedOthers::has_link(const std::string& name) const {
  return std::any_of(sheet_.plan.links.begin(), sheet_.plan.links.end(),
                     [&](const LinkPlan& link) { return link.name == name; });
}

std::optional<OtherScope> PlannedOthers::grouped() const {
  if (!sheet_.plan.grouped) return std::nullopt;
  const auto source = *sheet_.plan.source;
  const auto own = std::find_if(prepared_.sheets.begin(), prepared_.sheets.end(),
                                [&](const auto& sheet) { return sheet.get() == &sheet_; });
  return OtherScope{&prepared_.sheets[source]->plan.scope,
                    {source, static_cast<std::size_t>(own - prepared_.sheets.begin())},
                    prepared_.shown_source(sheet_).model->name};
}

std::size_t PlannedOthers::group_column(std::size_t column) {
  const SheetPlan& source = prepared_.source_of(sheet_).plan;
  for (const BorrowedColumn& borrowed : source.borrowed) {
    const LinkPlan& link = source.links[borrowed.link];
    if (link.how == LinkHow::group && prepared_.sheets[*link.sheet].get() == &sheet_ &&
        borrowed.there == column)
      return borrowed.index;
  }
  return column;
}

FitView PlannedOthers::fit(const std::string& name, const std::string& sheet) const {
  std::vector<std::string> names;
  std::size_t own = 0;
  for (const auto& other : prepared_.sheets) {
    if (other.get() == &sheet_) own = names.size();
    names.push_back(other->model->name);
  }
  return view_of_fit(prepared_.fits, names, name, sheet, own);
}

std::size_t PlannedOthers::uncertainty_of(std::size_t column, const Place& /*place*/) {
  const auto& columns = sheet_.plan.uncertainty.columns;
  const auto found = std::find_if(columns.begin(), columns.end(),
                                  [&](const UncertainColumn& u) { return u.column == column; });
  return found == columns.end() ? column : found->index;
}

}  // namespace opensum
