// Reading a table from a path, whatever its format.
#include "files/table_reader.h"

#include <filesystem>

#include "base/result.h"
#include "files/compressed.h"
#include "files/csv_reader.h"
#include "files/csvw_reader.h"
#include "files/database_address.h"
#include "files/formats.h"
#include "files/postgresql_reader.h"
#include "files/workbook_reader.h"

namespace opensum {
namespace {

struct Target {
  std::string path;
  std::optional<std::string> part;
};

// Divides `file#part`, unless there is a file of the whole name.
Target target_of(const std::string& path) {
  std::error_code error;
  const std::size_t sign = path.rfind('#');
  if (sign == std::string::npos || std::filesystem::exists(path, error)) return {path, std::nullopt};
  return {path.substr(0, sign), path.substr(sign + 1)};
}

// Divides `Sheet!B4:F40`; a range alone is one of the only sheet.
std::pair<std::optional<std::string>, std::optional<MergedCells>> range_in(
    const std::optional<std::string>& part) {
  if (!part) return {};
  const std::size_t sign = part->rfind('!');
  const auto range =
      range_of(std::string_view(*part).substr(sign == std::string::npos ? part->size() : sign + 1));
  if (!range) return {part, std::nullopt};
  return {sign == 0 ? std::nullopt : std::optional(part->substr(0, sign)), range};
}

}  // namespace

Result<RawTable> read_text_table(const std::shared_ptr<const InputFile>& file, const ReadSettings& settings,
                                 Diagnostics& diagnostics, Rows rows, std::size_t long_from) {
  return read_csv(file, settings, diagnostics, rows, long_from);
}

Result<RawTable> read_table(const std::string& path, const Place& place, const ReadSettings& settings,
                            Inputs& inputs, Diagnostics& diagnostics, Rows rows, std::size_t long_from) {
  if (is_database_address(path)) return read_postgresql(path, place, rows, inputs, diagnostics);
  const Target target = target_of(path);
  auto file = inputs.read(target.path, place, diagnostics, Code::cannot_open, rows != Rows::read);
  if (file && is_compressed(file->text)) file = decompressed(file, place, diagnostics);
  if (!file) return std::nullopt;
  if (is_locked_workbook(file->text)) {
    diagnostics.add(Code::workbook_locked, place, {file->path});
    return std::nullopt;
  }
  for (const GridFormat& format : grid_formats()) {
    if (!format.is(file->text)) continue;
    const auto [part, range] = range_in(target.part);
    const std::shared_ptr<CellGrid> grid = format.read(file, part, place, diagnostics);
    if (!grid) return std::nullopt;
    make_valid(*grid, diagnostics);
    if (range) {
      const std::size_t last = grid->rows.empty() ? 0 : grid->rows.back().number;
      crop(*grid, *range);
      grid->name += target.part->substr(target.part->rfind('!'));
      if (grid->rows.empty()) {
        diagnostics.add(Code::no_such_range, place, {grid->name, cells_name(*range), std::to_string(last)});
        return std::nullopt;
      }
    }
    auto table = grid_table(*grid, settings, diagnostics);
    if (table) table->format = format.words;
    return table;
  }
  for (const SpooledFormat& format : spooled_formats()) {
    if (!format.is(file->text)) continue;
    auto table = format.read(file, target.part, place, rows, diagnostics);
    if (table) table->format = format.words;
    return table;
  }
  if (target.part) {
    diagnostics.add(Code::part_of_text, place, {file->path, *target.part});
    return std::nullopt;
  }
  const auto metadata = read_metadata(target.path, inputs, diagnostics);
  ReadSettings used = settings;
  if (metadata && !used.delimiter) used.delimiter = metadata->delimiter;
  auto table = read_text_table(file, used, diagnostics, rows, long_from);
  if (table && metadata) apply_metadata(*metadata, *table);
  return table;
}

}  // namespace opensum
