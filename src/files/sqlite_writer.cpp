// Writing sheets as tables of an SQLite database.
#include <sqlite3.h>

#include "files/row_cells.h"
#include "files/table_writer.h"
#include "sql/name.h"
#include "table/number_text.h"

namespace opensum {
namespace {

RowCell stored_cell(const Column& column, std::size_t row, std::string_view text) {
  const bool null{column.null(row)};
  if (!null && column.kind == Kind::truth) return {CellForm::truth, column.number(row) != 0 ? 1.0 : 0.0, {}};
  // What cannot be read stands there as it was.
  if (null && text.empty()) return {};
  if (null || column.kind != Kind::number) return {CellForm::text, 0, text};
  return {CellForm::number, read_number(text).value, {}};
}

class SqliteTables : public GrowingTables {
 public:
  SqliteTables(const std::string& path, const std::vector<WrittenSheet>& sheets)
      : remarks_(column_remarks(sheets)) {
    if (sqlite3_open(path.c_str(), &database_) != SQLITE_OK) keep();
    // The file is whole or not at all anyway: it gets its name when it is complete.
    run("PRAGMA journal_mode = OFF");
    run("PRAGMA synchronous = OFF");
    run("BEGIN");
    for (const WrittenSheet& sheet : sheets) add(sheet);
  }
  ~SqliteTables() override {
    for (const Inserted& table : inserted_) sqlite3_finalize(table.insert);
    sqlite3_close(database_);
  }
  SqliteTables(const SqliteTables&) = delete;
  SqliteTables& operator=(const SqliteTables&) = delete;

  bool put(std::size_t sheet, std::string_view rows) override {
    const Inserted& table = inserted_[sheet];
    while (!rows.empty() && fault_.empty()) {
      for (int at = 1; at <= table.columns; ++at) bind_next(table.insert, at, rows);
      step(table.insert);
    }
    return fault_.empty();
  }

  WrittenTables finish() override {
    add_remarks();
    run("COMMIT");
    WrittenTables written;
    written.fault = fault_;
    return written;
  }

 private:
  struct Inserted {
    sqlite3_stmt* insert = nullptr;
    int columns = 0;
  };

  void add(const WrittenSheet& sheet) {
    std::vector<std::string> used;
    std::vector<std::string> types;
    std::vector<std::string> names;
    for (const Column* column : sheet.table->written()) {
      names.push_back(unused_name(header_text(*column, sheet.headers_are_symbols), std::string::npos, used));
      types.emplace_back(column->kind == Kind::number  ? "REAL"
                         : column->kind == Kind::truth ? "BOOLEAN"
                                                       : "TEXT");
    }
    inserted_.push_back({create(sheet.name, names, types), static_cast<int>(names.size())});
  }

  void add_remarks() {
    const std::vector<std::string> titles = remark_titles();
    sqlite3_stmt* insert = create("equations", titles, std::vector<std::string>(titles.size(), "TEXT"));
    for (const ColumnRemark& remark : remarks_) {
      if (insert == nullptr) break;
      int at = 0;
      for (const std::string& field : remark_fields(remark)) bind_text(insert, ++at, field);
      step(insert);
    }
    sqlite3_finalize(insert);
  }

  // Makes a table; gives the statement that adds a row, a null pointer when something is wrong.
  sqlite3_stmt* create(const std::string& name, const std::vector<std::string>& columns,
                       const std::vector<std::string>& types) {
    const std::string table = sql_quoted(unused_name(name, std::string::npos, tables_));
    std::string list;
    std::string signs;
    for (std::size_t i = 0; i < columns.size(); ++i) {
      list += (i == 0 ? "" : ", ") + sql_quoted(columns[i]) + ' ' + types[i];
      signs += i == 0 ? "?" : ", ?";
    }
    run("CREATE TABLE " + table + " (" + list + ")");
    sqlite3_stmt* insert = nullptr;
    const std::string sql = "INSERT INTO " + table + " VALUES (" + signs + ")";
    if (sqlite3_prepare_v2(database_, sql.c_str(), -1, &insert, nullptr) != SQLITE_OK) keep();
    return insert;
  }

  // Binds the first cell of some rows, and leaves those that follow it.
  void bind_next(sqlite3_stmt* insert, int at, std::string_view& rows) {
    const RowCell cell = take_cell(rows);
    switch (cell.form) {
      case CellForm::null:
        return keep_unless(sqlite3_bind_null(insert, at));
      case CellForm::truth:
        return keep_unless(sqlite3_bind_int(insert, at, cell.number != 0 ? 1 : 0));
      case CellForm::text:
        return bind_text(insert, at, cell.text);
      case CellForm::number:
      case CellForm::cut_number:
      case CellForm::day:
      case CellForm::moment:
      case CellForm::cut_moment:
        return keep_unless(sqlite3_bind_double(insert, at, cell.number));
    }
  }

  void bind_text(sqlite3_stmt* insert, int at, std::string_view text) {
    keep_unless(sqlite3_bind_text64(insert, at, text.data(), text.size(), SQLITE_TRANSIENT, SQLITE_UTF8));
  }

  void step(sqlite3_stmt* insert) {
    if (sqlite3_step(insert) != SQLITE_DONE) keep();
    sqlite3_reset(insert);
  }

  void run(const std::string& sql) {
    if (sqlite3_exec(database_, sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) keep();
  }

  // A value that could not be bound would be written as null.
  void keep_unless(int result) {
    if (result != SQLITE_OK) keep();
  }

  // Keeps the first thing that went wrong.
  void keep() {
    if (fault_.empty()) fault_ = sqlite3_errmsg(database_);
  }

  sqlite3* database_ = nullptr;
  std::vector<std::string> tables_;
  std::vector<Inserted> inserted_;  // by sheet
  std::vector<ColumnRemark> remarks_;
  std::string fault_;
};

}  // namespace

std::unique_ptr<GrowingTables> begin_sqlite(const std::string& path,
                                            const std::vector<WrittenSheet>& sheets) {
  return std::make_unique<SqliteTables>(path, sheets);
}

void append_sqlite_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  const std::vector<const Column*> columns = sheet.table->written();
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    for (const Column* column : columns) {
      const std::size_t row = sheet.table->row_at(place);
      append_cell(out, stored_cell(*column, row, cell_text(*column, row)));
    }
    if (ends != nullptr) ends->push_back(out.size());
  }
}

}  // namespace opensum
