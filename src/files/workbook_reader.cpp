// Reading a sheet of a workbook.
#include "files/workbook_reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/result.h"
#include "files/table_writer.h"
#include "message/nearest.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::unique_ptr<Workbook> open_workbook(ZipParts& parts, ReadFault& fault) {
  if (parts.has("xl/workbook.xml")) return open_xlsx(parts, fault);
  if (parts.has("content.xml")) return open_ods(parts, fault);
  fault = parts.fault();
  if (fault.words.empty()) fault.words = "it holds no sheets";
  return nullptr;
}

std::string listed(const std::vector<std::string>& names) {
  constexpr std::size_t kListed = 12;
  std::string text;
  for (std::size_t i = 0; i < std::min(names.size(), kListed); ++i) text += (i == 0 ? "" : ", ") + names[i];
  if (names.size() > kListed) text += fmt::format(" and {} more", names.size() - kListed);
  return text;
}

}  // namespace

bool is_zip(std::string_view bytes) {
  return bytes.starts_with("PK\x03\x04") || bytes.starts_with("PK\x05\x06");
}

bool is_locked_workbook(std::string_view bytes) {
  return bytes.starts_with("\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1");
}

Result<std::size_t> find_part(const std::string& file, const char* what,
                              const std::vector<std::string>& names, const std::optional<std::string>& wanted,
                              const Place& place, Diagnostics& diagnostics) {
  if (!wanted) {
    if (names.size() == 1) return 0;
    const std::string plural = std::string(what) + 's';
    if (names.empty()) {
      diagnostics.add(Code::workbook_damaged, place, {file, "a table", "it holds no " + plural});
    } else {
      diagnostics.add(Code::part_needed, place, {file, plural, listed(names), names.front()});
    }
    return std::nullopt;
  }
  const auto found = std::find(names.begin(), names.end(), *wanted);
  if (found != names.end()) return static_cast<std::size_t>(found - names.begin());
  report_no_part(file, what, names, *wanted, place, diagnostics);
  return std::nullopt;
}

void report_no_part(const std::string& file, const char* what, const std::vector<std::string>& names,
                    const std::string& wanted, const Place& place, Diagnostics& diagnostics) {
  diagnostics.add(Code::part_not_found, place,
                  {file, what, wanted, nearest_name(wanted, names), listed(names)});
}

namespace {

// The sheet in which a workbook of our own says what its columns are: the last one; null in others.
std::shared_ptr<CellGrid> remarks_in(Workbook& workbook) {
  const std::vector<std::string>& names = workbook.sheets();
  if (names.size() < 2 || !names.back().starts_with("equations")) return nullptr;
  ReadFault unimportant;
  std::shared_ptr<CellGrid> grid = workbook.read(names.size() - 1, unimportant);
  const std::vector<std::string> titles = remark_titles();
  const bool ours = grid && !grid->rows.empty() &&
                    std::equal(titles.begin(), titles.end(), grid->rows.front().cells.begin(),
                               grid->rows.front().cells.end());
  return ours ? grid : nullptr;
}

// The symbols of a sheet's columns by their headers.
std::map<std::string, std::string> symbols_in(const CellGrid& remarks, const std::string& sheet) {
  constexpr std::size_t kSheet = 0;
  constexpr std::size_t kHeader = 1;
  constexpr std::size_t kSymbol = 2;
  std::map<std::string, std::string> symbols;
  for (const GridRow& row : remarks.rows) {
    if (row.cells.size() > kSymbol && row.cells[kSheet] == sheet)
      symbols.try_emplace(std::string(row.cells[kHeader]), row.cells[kSymbol]);
  }
  return symbols;
}

}  // namespace

std::shared_ptr<CellGrid> read_workbook(const std::shared_ptr<const InputFile>& file,
                                        const std::optional<std::string>& sheet, const Place& place,
                                        Diagnostics& diagnostics) {
  ZipParts parts(file);
  ReadFault fault;
  const auto report = [&]() -> std::shared_ptr<CellGrid> {
    std::vector<std::string> words = {file->path, fault.words};
    if (fault.code == Code::workbook_damaged) words.insert(words.begin() + 1, "a workbook");
    diagnostics.add(fault.code, place, std::move(words));
    return nullptr;
  };
  const std::unique_ptr<Workbook> workbook = open_workbook(parts, fault);
  if (!workbook) return report();
  // The sheet of remarks of a workbook of our own is no table that could be meant.
  std::vector<std::string> names = workbook->sheets();
  const std::shared_ptr<CellGrid> remarks = remarks_in(*workbook);
  if (remarks && !sheet) names.pop_back();
  const auto number = find_part(file->path, "sheet", names, sheet, place, diagnostics);
  if (!number) return nullptr;
  std::shared_ptr<CellGrid> grid = workbook->read(*number, fault);
  if (!grid) return report();
  if (remarks) grid->symbols = symbols_in(*remarks, workbook->sheets()[*number]);
  grid->name = file->path + '#' + workbook->sheets()[*number];
  return grid;
}

bool is_short_decimal(std::string_view stored) {
  constexpr std::size_t kShortDigits = 15;
  const auto digits = static_cast<std::size_t>(
      std::count_if(stored.begin(), stored.end(), [](char c) { return c >= '0' && c <= '9'; }));
  return digits <= kShortDigits && is_plain_decimal(stored);
}

std::string stored_number_text(std::string_view stored) {
  if (is_short_decimal(stored)) return std::string(stored);
  const NumberReading reading = read_number(stored);
  return reading.fault == NumberFault::none ? number_text(reading.value, -1) : std::string(stored);
}

std::string clock_text(double seconds) {
  constexpr double kMostSeconds = 1e15;
  if (!(std::fabs(seconds) < kMostSeconds)) return number_text(seconds, -1);
  const auto whole = static_cast<long long>(std::floor(seconds));
  std::string text = fmt::format("{:02}:{:02}:{:02}", whole / 3600, whole / 60 % 60, whole % 60);
  const double rest = seconds - static_cast<double>(whole);
  if (rest > 0) text += number_text(rest, 9).substr(1);
  return text;
}

}  // namespace opensum
