// Sheets that have the rows of other sheets, after those others.
#include <algorithm>

#include "message/nearest.h"
#include "plan/definitions.h"
#include "plan/plan.h"

namespace opensum {

std::vector<std::size_t> order_by_source(const std::vector<SheetInput>& sheets, Diagnostics& diagnostics) {
  std::vector<std::vector<std::size_t>> needs(sheets.size());
  std::vector<std::string> names;
  names.reserve(sheets.size());
  for (const SheetInput& sheet : sheets) names.push_back(sheet.model->name);
  bool good = true;
  for (std::size_t i = 0; i < sheets.size(); ++i) {
    const auto& source = sheets[i].model->rows_of;
    if (!source) continue;
    const auto found = std::find(names.begin(), names.end(), source->text());
    if (found == names.end()) {
      diagnostics.add(Code::unknown_sheet, source->place(),
                      {source->text(), nearest_name(source->text(), names)});
      good = false;
    } else {
      needs[i].push_back(static_cast<std::size_t>(found - names.begin()));
    }
  }
  std::vector<std::vector<std::size_t>> cycles;
  std::vector<std::size_t> order = dependency_order(needs, cycles);
  for (const std::vector<std::size_t>& cycle : cycles) {
    std::vector<std::string> cycle_names;
    cycle_names.reserve(cycle.size());
    for (const std::size_t i : cycle) cycle_names.push_back("rows of " + names[i]);
    diagnostics.add(Code::cycle, sheets[cycle.front()].model->place, {cycle_text(cycle_names)});
    good = false;
  }
  if (!good) order.clear();
  return order;
}

}  // namespace opensum
