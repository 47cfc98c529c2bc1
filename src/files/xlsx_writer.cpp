// Writing a workbook as Office Open XML.
#include <fmt/format.h>
#include <xlsxwriter.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <utility>

#include "base/unicode.h"
#include "files/column_spool.h"
#include "files/row_cells.h"
#include "files/serial_dates.h"
#include "files/table_writer.h"
#include "files/xlsx_check.h"
#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

/// 1900-03-01, before which serial numbers of days are a day off in this format.
// What a moment keeps of a second, in ns.
constexpr std::int32_t kFinestMoment = 10'000;
constexpr double kFirstSafeDate = -2203891200.0;
constexpr std::size_t kNameLength = 31;
/// The significant digits of a number that the library writes.
constexpr std::size_t kDigits = 16;

// Texts that look like an escape of the format, `_x000D_`, get their first sign escaped.
std::string escaped_text(const std::string& text) {
  std::string out;
  for (std::size_t at = 0; at < text.size(); ++at) {
    const auto hexadecimal = [&](std::size_t i) {
      return std::isxdigit(static_cast<unsigned char>(text[i])) != 0;
    };
    const bool escape = text[at] == '_' && at + 6 < text.size() && text[at + 1] == 'x' &&
                        text[at + 6] == '_' && hexadecimal(at + 2) && hexadecimal(at + 3) &&
                        hexadecimal(at + 4) && hexadecimal(at + 5);
    out += escape ? "_x005F_" : std::string(1, text[at]);
  }
  return out;
}

// A number with more digits than the library writes.
bool is_cut(const std::string& text, double number) {
  return text.size() > kDigits && read_number(fmt::format("{:.{}G}", number, kDigits)).value != number;
}

RowCell xlsx_cell(const Column& column, std::size_t row, const std::string& text) {
  if (!column.null(row)) {
    if (column.kind == Kind::truth) return {CellForm::truth, column.number(row) != 0 ? 1.0 : 0.0, {}};
    if (column.kind == Kind::number) {
      const double number = read_number(text).value;
      return {is_cut(text, number) ? CellForm::cut_number : CellForm::number, number, {}};
    }
    if (column.kind == Kind::date && column.number(row) >= kFirstSafeDate) {
      const double days = column.number(row) / kSecondsPerDay;
      const bool moment = column.clock || days != std::floor(days);
      if (!moment) return {CellForm::day, days + kEpochOf1900, {}};
      const bool cut = parts_of(column.instant(row)).nanoseconds % kFinestMoment != 0;
      return {cut ? CellForm::cut_moment : CellForm::moment, days + kEpochOf1900, {}};
    }
  }
  return text.empty() ? RowCell{} : RowCell{CellForm::text, 0, text};
}

// Texts of a workbook stand in a table of their own, which all readers know, and the library holds the cells.
// That of many cells is written row by row, and its texts stand in their cells.
lxw_workbook* new_workbook(const std::string& path, std::size_t cells) {
  constexpr std::size_t kMostHeld = 200'000;
  lxw_workbook_options options{};
  options.constant_memory = cells > kMostHeld ? LXW_TRUE : LXW_FALSE;
  return workbook_new_opt(path.c_str(), &options);
}

// A workbook whose number of cells is known. Ends writing at the first fault.
class XlsxWriter {
 public:
  XlsxWriter(const std::string& path, std::size_t cells) : path_(path), workbook_(new_workbook(path, cells)) {
    // The time of making would differ from run to run.
    lxw_doc_properties properties{};
    properties.created = 1;
    workbook_set_properties(workbook_, &properties);
    bold_ = workbook_add_format(workbook_);
    format_set_bold(bold_);
    day_ = workbook_add_format(workbook_);
    format_set_num_format(day_, "yyyy-mm-dd");
    moment_ = workbook_add_format(workbook_);
    format_set_num_format(moment_, "yyyy-mm-dd hh:mm:ss");
  }

  // Begins a sheet with its header.
  void begin(const std::string& name, const std::vector<std::string>& heads) {
    lxw_worksheet* const worksheet =
        workbook_add_worksheet(workbook_, unused_name(name, kNameLength, used_).c_str());
    sheets_.push_back({worksheet, heads.size()});
    if (worksheet != nullptr) {
      worksheet_freeze_panes(worksheet, 1, 0);
      for (std::size_t i = 0; i < heads.size(); ++i) head(sheets_.back(), i, heads[i]);
    } else if (fault_.empty()) {
      fault_ = std::string("no file could be made for the rows of a sheet") + kFullFolder;
    }
  }

  // Adds rows to the sheet that was begun last.
  void add(std::string_view rows) {
    Sheet& own = sheets_.back();
    while (!rows.empty() && fault_.empty()) {
      ++own.rows;
      for (std::size_t at = 0; at < own.columns; ++at) write(own, at, take_cell(rows));
    }
  }

  WrittenTables close() {
    const lxw_error error = workbook_close(workbook_);
    std::vector<std::size_t> cells;
    for (const Sheet& sheet : sheets_) cells.push_back(sheet.cells);
    WrittenTables written;
    written.shortened = shortened_;
    written.fault = !fault_.empty()         ? fault_
                    : error == LXW_NO_ERROR ? missing_of_xlsx(path_, cells)
                                            : lxw_strerror(error);
    return written;
  }

 private:
  struct Sheet {
    lxw_worksheet* worksheet = nullptr;
    std::size_t columns = 0;
    std::size_t rows = 0;   // below the header
    std::size_t cells = 0;  // written
  };

  void head(Sheet& sheet, std::size_t column, const std::string& text) {
    constexpr double kLeastWidth = 10;
    constexpr double kMostWidth = 40;
    const auto at = static_cast<lxw_col_t>(column);
    keep(sheet, worksheet_write_string(sheet.worksheet, 0, at, escaped_text(text).c_str(), bold_));
    const double width = std::clamp(static_cast<double>(display_width(text)) + 2, kLeastWidth, kMostWidth);
    worksheet_set_column(sheet.worksheet, at, at, width, nullptr);
  }

  // A cell of the last row of a sheet.
  void write(Sheet& sheet, std::size_t column, const RowCell& cell) {
    lxw_worksheet* const to = sheet.worksheet;
    const auto row = static_cast<lxw_row_t>(sheet.rows);
    const auto at = static_cast<lxw_col_t>(column);
    switch (cell.form) {
      case CellForm::null:
        return;
      case CellForm::truth:
        return keep(sheet, worksheet_write_boolean(to, row, at, cell.number != 0 ? 1 : 0, nullptr));
      case CellForm::cut_number:
        ++shortened_;
        [[fallthrough]];
      case CellForm::number:
        return keep(sheet, worksheet_write_number(to, row, at, cell.number, nullptr));
      case CellForm::day:
        return keep(sheet, worksheet_write_number(to, row, at, cell.number, day_));
      case CellForm::cut_moment:
        ++shortened_;
        [[fallthrough]];
      case CellForm::moment:
        return keep(sheet, worksheet_write_number(to, row, at, cell.number, moment_));
      case CellForm::text:
        const std::string text = escaped_text(std::string(cell.text));
        return keep(sheet, worksheet_write_string(to, row, at, text.c_str(), nullptr));
    }
  }

  // Counts a cell, and keeps the first thing that went wrong.
  void keep(Sheet& sheet, lxw_error error) {
    ++sheet.cells;
    if (error != LXW_NO_ERROR && fault_.empty()) fault_ = lxw_strerror(error);
  }

  std::string path_;
  lxw_workbook* workbook_;
  lxw_format* bold_ = nullptr;
  lxw_format* day_ = nullptr;
  lxw_format* moment_ = nullptr;
  std::vector<std::string> used_;
  std::vector<Sheet> sheets_;
  std::size_t shortened_ = 0;
  std::string fault_;
};

class XlsxTables : public GrowingTables {
 public:
  XlsxTables(std::string path, const std::vector<WrittenSheet>& sheets)
      : path_(std::move(path)), rows_(sheets.size(), path_), remarks_(column_remarks(sheets)) {
    for (const WrittenSheet& sheet : sheets) {
      Waiting& own = sheets_.emplace_back();
      own.name = sheet.name;
      for (const Column* column : sheet.table->written())
        own.heads.push_back(header_text(*column, sheet.headers_are_symbols));
    }
  }

  bool put(std::size_t sheet, std::string_view rows) override {
    Waiting& own = sheets_[sheet];
    // A longer one is refused when all rows are counted.
    if (own.rows > kWorkbookRows) return true;
    rows_.add(sheet, rows);
    while (!rows.empty()) {
      ++own.rows;
      for (std::size_t at = 0; at < own.heads.size(); ++at) take_cell(rows);
    }
    return rows_.error() == 0;
  }

  WrittenTables finish() override {
    std::size_t cells = 0;
    for (const Waiting& sheet : sheets_) cells += sheet.rows * sheet.heads.size();
    XlsxWriter writer(path_, cells);
    for (std::size_t i = 0; i < sheets_.size(); ++i) {
      writer.begin(sheets_[i].name, sheets_[i].heads);
      for (std::size_t piece = 0; piece < rows_.pieces(i); ++piece) writer.add(rows_.piece(i, piece));
    }
    writer.begin("equations", remark_titles());
    for (const ColumnRemark& remark : remarks_) {
      TextBuffer row;
      for (const std::string& field : remark_fields(remark))
        append_cell(row, field.empty() ? RowCell{} : RowCell{CellForm::text, 0, field});
      writer.add(row.view());
    }
    WrittenTables written = writer.close();
    if (rows_.error() != 0) written.fault = system_reason(rows_.error());
    return written;
  }

 private:
  struct Waiting {
    std::string name;
    std::vector<std::string> heads;
    std::size_t rows = 0;
  };

  std::string path_;
  ColumnSpool rows_;  // by sheet
  std::vector<Waiting> sheets_;
  std::vector<ColumnRemark> remarks_;
};

}  // namespace

std::unique_ptr<GrowingTables> begin_xlsx(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  return std::make_unique<XlsxTables>(path, sheets);
}

void append_xlsx_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  const std::vector<const Column*> columns = sheet.table->written();
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    const std::size_t row = sheet.table->row_at(place);
    for (const Column* column : columns) append_cell(out, xlsx_cell(*column, row, cell_text(*column, row)));
    if (ends != nullptr) ends->push_back(out.size());
  }
}

}  // namespace opensum
