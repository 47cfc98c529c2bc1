// Writing a workbook as Office Open XML.
#include <fmt/format.h>
#include <xlsxwriter.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "base/unicode.h"
#include "files/serial_dates.h"
#include "files/table_writer.h"
#include "files/xlsx_check.h"
#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

/// 1900-03-01, before which serial numbers of days are a day off in this format.
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

class XlsxWriter {
 public:
  explicit XlsxWriter(const std::string& path) : path_(path), workbook_(workbook_new(path.c_str())) {
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

  void add(const WrittenSheet& sheet) {
    begin(sheet.name);
    const std::vector<const Column*> columns = sheet.table->written();
    for (std::size_t i = 0; i < columns.size(); ++i) {
      head(i, header_text(*columns[i], sheet.headers_are_symbols));
      for (std::size_t place = 0; place < sheet.table->rows; ++place) {
        write(place + 1, i, *columns[i], sheet.table->row_at(place));
      }
    }
  }

  void add_remarks(const std::vector<WrittenSheet>& sheets) {
    begin("equations");
    const std::vector<std::string> titles = remark_titles();
    for (std::size_t i = 0; i < titles.size(); ++i) head(i, titles[i]);
    std::size_t row = 1;
    for (const ColumnRemark& remark : column_remarks(sheets)) {
      const std::vector<std::string> fields = remark_fields(remark);
      for (std::size_t i = 0; i < fields.size(); ++i) write_text(row, i, fields[i]);
      ++row;
    }
  }

  // What went wrong; empty when all is well.
  std::string close() {
    const lxw_error error = workbook_close(workbook_);
    if (!fault_.empty()) return fault_;
    return error == LXW_NO_ERROR ? missing_of_xlsx(path_, cells_) : lxw_strerror(error);
  }

  // How many numbers have more digits than could be written.
  std::size_t shortened() const { return shortened_; }

 private:
  void begin(const std::string& name) {
    worksheet_ = workbook_add_worksheet(workbook_, unused_name(name, kNameLength, used_).c_str());
    worksheet_freeze_panes(worksheet_, 1, 0);
    cells_.push_back(0);
  }

  void head(std::size_t column, const std::string& text) {
    constexpr double kLeastWidth = 10;
    constexpr double kMostWidth = 40;
    const auto at = static_cast<lxw_col_t>(column);
    keep(worksheet_write_string(worksheet_, 0, at, escaped_text(text).c_str(), bold_));
    const double width = std::clamp(static_cast<double>(display_width(text)) + 2, kLeastWidth, kMostWidth);
    worksheet_set_column(worksheet_, at, at, width, nullptr);
  }

  void write(std::size_t place, std::size_t at, const Column& column, std::size_t row) {
    if (column.null(row)) return write_text(place, at, cell_text(column, row));
    const auto line = static_cast<lxw_row_t>(place);
    const auto field = static_cast<lxw_col_t>(at);
    switch (column.kind) {
      case Kind::number: {
        const std::string text = cell_text(column, row);
        const double number = read_number(text).value;
        if (text.size() > kDigits && read_number(fmt::format("{:.{}G}", number, kDigits)).value != number)
          ++shortened_;
        return keep(worksheet_write_number(worksheet_, line, field, number, nullptr));
      }
      case Kind::truth:
        return keep(
            worksheet_write_boolean(worksheet_, line, field, column.number(row) != 0 ? 1 : 0, nullptr));
      case Kind::date: {
        const double seconds = column.number(row);
        if (seconds < kFirstSafeDate) break;
        const double days = seconds / kSecondsPerDay;
        return keep(worksheet_write_number(worksheet_, line, field, days + kEpochOf1900,
                                           column.clock || days != std::floor(days) ? moment_ : day_));
      }
      case Kind::text:
        break;
    }
    write_text(place, at, cell_text(column, row));
  }

  void write_text(std::size_t row, std::size_t column, const std::string& text) {
    if (text.empty()) return;
    keep(worksheet_write_string(worksheet_, static_cast<lxw_row_t>(row), static_cast<lxw_col_t>(column),
                                escaped_text(text).c_str(), nullptr));
  }

  // Counts a cell, and keeps the first thing that went wrong.
  void keep(lxw_error error) {
    ++cells_.back();
    if (error != LXW_NO_ERROR && fault_.empty()) fault_ = lxw_strerror(error);
  }

  std::string path_;
  lxw_workbook* workbook_;
  lxw_worksheet* worksheet_ = nullptr;
  lxw_format* bold_ = nullptr;
  lxw_format* day_ = nullptr;
  lxw_format* moment_ = nullptr;
  std::vector<std::string> used_;
  std::vector<std::size_t> cells_;  // of each sheet
  std::size_t shortened_ = 0;
  std::string fault_;
};

}  // namespace

WrittenTables write_xlsx(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  XlsxWriter writer(path);
  for (const WrittenSheet& sheet : sheets) writer.add(sheet);
  writer.add_remarks(sheets);
  WrittenTables written;
  written.fault = writer.close();
  written.shortened = writer.shortened();
  return written;
}

}  // namespace opensum
