// Writing sheets as tables of an SQLite database.
#include <sqlite3.h>

#include "files/table_writer.h"
#include "sql/name.h"
#include "table/number_text.h"

namespace opensum {
namespace {

class SqliteWriter {
 public:
  explicit SqliteWriter(const std::string& path) {
    if (sqlite3_open(path.c_str(), &database_) != SQLITE_OK) keep();
    // The file is whole or not at all anyway: it gets its name when it is complete.
    run("PRAGMA journal_mode = OFF");
    run("PRAGMA synchronous = OFF");
    run("BEGIN");
  }
  ~SqliteWriter() { sqlite3_close(database_); }
  SqliteWriter(const SqliteWriter&) = delete;
  SqliteWriter& operator=(const SqliteWriter&) = delete;

  void add(const WrittenSheet& sheet) {
    const std::vector<const Column*> columns = sheet.table->written();
    std::vector<std::string> used;
    std::vector<std::string> types;
    std::vector<std::string> names;
    for (const Column* column : columns) {
      names.push_back(unused_name(header_text(*column, sheet.headers_are_symbols), std::string::npos, used));
      types.emplace_back(column->kind == Kind::number  ? "REAL"
                         : column->kind == Kind::truth ? "BOOLEAN"
                                                       : "TEXT");
    }
    sqlite3_stmt* insert = create(sheet.name, names, types);
    for (std::size_t place = 0; insert != nullptr && place < sheet.table->rows; ++place) {
      for (std::size_t i = 0; i < columns.size(); ++i) {
        bind(insert, static_cast<int>(i) + 1, *columns[i], sheet.table->row_at(place));
      }
      step(insert);
    }
    sqlite3_finalize(insert);
  }

  void add_remarks(const std::vector<WrittenSheet>& sheets) {
    const std::vector<std::string> titles = remark_titles();
    sqlite3_stmt* insert = create("equations", titles, std::vector<std::string>(titles.size(), "TEXT"));
    for (const ColumnRemark& remark : column_remarks(sheets)) {
      if (insert == nullptr) break;
      int at = 0;
      for (const std::string& field : remark_fields(remark)) bind_text(insert, ++at, field);
      step(insert);
    }
    sqlite3_finalize(insert);
  }

  std::string close() {
    run("COMMIT");
    return fault_;
  }

 private:
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

  void bind(sqlite3_stmt* insert, int at, const Column& column, std::size_t row) {
    if (column.null(row)) {
      const std::string unread = cell_text(column, row);
      if (unread.empty()) {
        keep_unless(sqlite3_bind_null(insert, at));
      } else {
        bind_text(insert, at, unread);
      }
    } else if (column.kind == Kind::number) {
      keep_unless(sqlite3_bind_double(insert, at, read_number(cell_text(column, row)).value));
    } else if (column.kind == Kind::truth) {
      keep_unless(sqlite3_bind_int(insert, at, column.number(row) != 0 ? 1 : 0));
    } else {
      bind_text(insert, at, cell_text(column, row));
    }
  }

  void bind_text(sqlite3_stmt* insert, int at, const std::string& text) {
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
  std::string fault_;
};

}  // namespace

WrittenTables write_sqlite(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  SqliteWriter writer(path);
  for (const WrittenSheet& sheet : sheets) writer.add(sheet);
  writer.add_remarks(sheets);
  WrittenTables written;
  written.fault = writer.close();
  return written;
}

}  // namespace opensum
