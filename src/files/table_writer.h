// Writing sheets in formats other than CSV: workbooks, databases, JSON.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/text_buffer.h"
#include "files/csv_writer.h"
#include "table/column.h"

namespace opensum {

/// A sheet as it is written.
struct WrittenSheet {
  std::string name;
  const Table* table = nullptr;
  bool headers_are_symbols = false;
  std::vector<DerivedNote> notes;
};

/// The rows that a sheet of a workbook holds below its header, as spreadsheet programs have it.
constexpr std::size_t kWorkbookRows = 1'048'575;

/// What is said of one written column, for the sheet of equations in a workbook and the like.
struct ColumnRemark {
  std::string sheet;
  std::string header;
  std::string symbol;
  std::string unit;
  std::string kind;
  std::string equation;  ///< empty for measured columns
  std::string null_rule;
};
/// The names of its fields, in order, and their values.
std::vector<std::string> remark_titles();
std::vector<std::string> remark_fields(const ColumnRemark& remark);
std::vector<ColumnRemark> column_remarks(const std::vector<WrittenSheet>& sheets);

/// A name that none of those in `used` has, whatever their case, in at most `length` bytes; it is added.
std::string unused_name(const std::string& name, std::size_t length, std::vector<std::string>& used);

/// What is said of a column; a null pointer for nothing.
const DerivedNote* note_on(const WrittenSheet& sheet, const Column& column);

/// A sheet as JSON: its columns with symbol, label, unit, kind, equation, values and the reasons of its
/// nulls.
std::string json_text(const WrittenSheet& sheet);
/// Appends the rows of a sheet as JSON lines: an object for each row, its members named by the headers.
/// `ends`, where given, takes up where each row ends.
void append_json_lines(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends);

/// A sheet as a table of LaTeX.
std::string tex_text(const WrittenSheet& sheet);

/// What became of a file of tables.
struct WrittenTables {
  std::string fault;  ///< what went wrong; empty when all is well
  /// Numbers of 17 significant digits, of which a workbook in Office Open XML has 16.
  std::size_t shortened = 0;
  /// Texts with control characters that the format cannot hold.
  std::size_t replaced = 0;
};

/// A file of one or several sheets that takes up their rows as they come.
class GrowingTables {
 public:
  GrowingTables() = default;
  virtual ~GrowingTables() = default;
  GrowingTables(const GrowingTables&) = delete;
  GrowingTables& operator=(const GrowingTables&) = delete;

  /// Takes up whole rows of a sheet, by its place among those that the file was begun with, in the form that
  /// the format gives them. False when something went wrong, which finish() tells.
  virtual bool put(std::size_t sheet, std::string_view rows) = 0;
  /// Says that there are no more rows.
  virtual WrittenTables finish() = 0;
};

/// Workbooks and databases with a sheet or table for each sheet and one of remarks on the columns, and netCDF
/// with a group for each: the file at the path exists. The bytes depend on the sheets alone.
std::unique_ptr<GrowingTables> begin_ods(const std::string& path, const std::vector<WrittenSheet>& sheets);
std::unique_ptr<GrowingTables> begin_xlsx(const std::string& path, const std::vector<WrittenSheet>& sheets);
std::unique_ptr<GrowingTables> begin_sqlite(const std::string& path, const std::vector<WrittenSheet>& sheets);
std::unique_ptr<GrowingTables> begin_netcdf(const std::string& path, const std::vector<WrittenSheet>& sheets);
/// A single sheet as JSON.
std::unique_ptr<GrowingTables> begin_json(const std::string& path, const std::vector<WrittenSheet>& sheets);

/// Append the rows of a sheet as such a file takes them up. `ends`, where given, takes up where each row
/// ends.
void append_ods_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends);
void append_xlsx_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends);
void append_sqlite_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends);
void append_netcdf_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends);
void append_json_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends);

}  // namespace opensum
