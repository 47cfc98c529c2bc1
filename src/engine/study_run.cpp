// A study on its way through a run.
#include "engine/study_run.h"

#include <algorithm>

namespace opensum {

void LinkCounts::add(const RowMap& map) {
  matched += map.matched;
  if (map.unmatched == 0) return;
  NullCounts counts{};
  for (std::size_t row = 0; row < map.first.size(); ++row) {
    if (map.first[row] == RowMap::kNone) ++counts[static_cast<std::size_t>(map.why[row])];
  }
  for (std::size_t reason = 0; reason < counts.size(); ++reason) {
    if (counts[reason] > 0) unmatched[reason_name(static_cast<Reason>(reason))] += counts[reason];
  }
}

void FillResult::count_cells(std::size_t rules) {
  gaps = cells.size();
  closed.assign(rules, 0);
  left.clear();
  for (const FilledCell& cell : cells) {
    if (cell.rule) {
      ++closed[*cell.rule];
    } else {
      ++left[reason_name(cell.left.reason())];
    }
  }
}

void FillResult::add_counts(const FillResult& other) {
  gaps += other.gaps;
  for (std::size_t rule = 0; rule < closed.size(); ++rule) closed[rule] += other.closed[rule];
  for (const auto& [reason, count] : other.left) left[reason] += count;
}

std::unique_ptr<BlockSource> source_of_rows(const RunSheet& sheet, std::vector<bool> given) {
  if (!sheet.source.left_in_file) return std::make_unique<HeldBlocks>(sheet.table(), std::move(given));
  auto file = std::make_unique<FileBlocks>(*sheet.source.left_in_file, sheet.table());
  const auto by_row = [](const LinkPlan& link) { return link.how == LinkHow::row; };
  if (std::any_of(sheet.plan.links.begin(), sheet.plan.links.end(), by_row)) file->give_places();
  return file;
}

void count_rows(RunSheet& sheet) {
  if (!sheet.source.left_in_file) return;
  sheet.table().rows = sheet.source.left_in_file->rows();
  sheet.table().source_count = sheet.source.left_in_file->source_rows();
  for (Column& column : sheet.table().columns) column.rows = sheet.table().rows;
}

RunSheet* StudyRun::find_sheet(const std::string& name) const {
  for (const auto& sheet : sheets) {
    if (sheet->model->name == name) return sheet.get();
  }
  return nullptr;
}

std::vector<RunSheet*> StudyRun::shown_sheets() const {
  std::vector<RunSheet*> shown;
  for (const auto& sheet : sheets) {
    if (!sheet->model->hidden) shown.push_back(sheet.get());
  }
  return shown;
}

RunSheet& StudyRun::source_of(const RunSheet& sheet) const { return *sheets[*sheet.plan.source]; }

const RunSheet& StudyRun::shown_source(const RunSheet& sheet) const {
  const RunSheet& source = source_of(sheet);
  return source.model->hidden ? source_of(source) : source;
}

SheetColumns HeldColumns::columns_of(std::size_t sheet) const { return columns_of(*run_.sheets[sheet]); }

const Grouping& HeldColumns::groups_of(std::size_t sheet) const { return *run_.sheets[sheet]->grouping; }

SheetColumns HeldColumns::columns_of(const RunSheet& sheet) {
  SheetColumns columns;
  for (const Column& column : sheet.table().columns) columns.columns.push_back(&column);
  columns.rows = sheet.table().rows;
  return columns;
}

RowNumbers source_rows_of(const RunSheet& sheet) {
  if (!sheet.source.left_in_file) return sheet.table().source_rows;
  const std::vector<bool>& kept = sheet.source.left_in_file->kept;
  RowNumbers rows;
  for (std::size_t row = 0; row < sheet.table().source_count; ++row) {
    if (kept.empty() || kept[row]) rows.push_back(row);
  }
  return rows;
}

}  // namespace opensum
