// Tables on servers to which a run writes its sheets.
#include "files/database_tables.h"

#include <fmt/format.h>

#include <algorithm>

#include "files/database_module.h"
#include "sql/name.h"
#include "table/cell_text.h"
#include "table/date_text.h"

namespace opensum {
namespace {

// What a name may have of bytes.
constexpr std::size_t kNameBytes = 63;

// Whoever waits for a table that this run itself reads would wait for ever.
constexpr const char* kWait = "SET LOCAL lock_timeout = '10s'";
constexpr const char* kLockNotAvailable = "55P03";

// Measured cells that cannot be read are written as they stand.
bool holds_other_cells(const Column& column) {
  return column.unreadable_count > 0 && !column.unreadable_is_null;
}

std::string type_of(const Column& column) {
  if (holds_other_cells(column)) return "text";
  switch (column.kind) {
    case Kind::number:
      return "double precision";
    case Kind::date:
      return "timestamp";
    case Kind::truth:
      return "boolean";
    case Kind::text:
      break;
  }
  return "text";
}

void append_copied_text(TextBuffer& out, std::string_view text) {
  for (const char c : text) {
    const std::string_view escaped = c == '\\'   ? "\\\\"
                                     : c == '\t' ? "\\t"
                                     : c == '\n' ? "\\n"
                                     : c == '\r' ? "\\r"
                                                 : "";
    if (escaped.empty()) {
      out.add(c);
    } else {
      out.add(escaped);
    }
  }
}

void append_cell(TextBuffer& out, const Column& column, std::size_t row, std::string& cell) {
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (chunk.null_at(i)) {
    const std::string_view unread = column.unread(row);
    if (unread.empty()) return out.add("\\N");
    return append_copied_text(out, unread);
  }
  if (column.kind == Kind::text) return append_copied_text(out, text_as_read(chunk, i));
  cell.clear();
  if (column.kind == Kind::date && !holds_other_cells(column)) {
    // What the clock shows: the type has no zone, and would pass over one that is written.
    cell = date_text(chunk.instant_at(i), true);
  } else {
    append_value(cell, column, chunk, i);
  }
  append_copied_text(out, cell);
}

std::string comment_of(const Column& column, const std::vector<DerivedNote>& notes) {
  std::string comment = "label: " + column.label;
  if (column.kind == Kind::number && column.unit_stated)
    comment += "; unit: " + (column.unit.is_one() ? std::string("1") : column.unit.text());
  for (const DerivedNote& note : notes) {
    if (note.symbol == column.symbol) comment += "; equation: " + note.equation;
  }
  return comment;
}

// A statement that is carried out where nothing failed before.
class Statements {
 public:
  Statements(DatabaseConnection& connection, const std::string& shown, Diagnostics& diagnostics)
      : connection_(connection), shown_(shown), diagnostics_(diagnostics) {}
  Statements& run(const std::string& sql) {
    if (good_ && !connection_.run(sql)) fail();
    return *this;
  }
  Statements& begin_copy(const std::string& sql) {
    if (good_ && !connection_.begin_copy_in(sql)) fail();
    return *this;
  }
  QueryRows ask(const std::string& sql, const std::vector<std::string>& values) {
    QueryRows rows;
    if (good_ && !connection_.ask(sql, values, rows)) fail();
    return rows;
  }
  bool good() const { return good_; }

 private:
  void fail() {
    good_ = false;
    const bool waits = connection_.state() == kLockNotAvailable;
    diagnostics_.add(
        Code::database_failed,
        {shown_, waits ? "the table is in use; does this very run read it?" : connection_.fault()});
  }
  DatabaseConnection& connection_;
  const std::string& shown_;
  Diagnostics& diagnostics_;
  bool good_ = true;
};

}  // namespace

void append_copied_rows(TextBuffer& out, const Table& table, std::vector<std::size_t>* ends) {
  const std::vector<const Column*> columns = table.written();
  std::string cell;
  for (std::size_t place = 0; place < table.rows; ++place) {
    const std::size_t row = table.row_at(place);
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (c > 0) out.add('\t');
      append_cell(out, *columns[c], row, cell);
    }
    out.add('\n');
    if (ends != nullptr) ends->push_back(out.size());
  }
}

std::shared_ptr<DatabaseConnection> DatabaseTables::connection_to(const DatabaseAddress& address,
                                                                  const std::string& snapshot,
                                                                  Diagnostics& diagnostics) {
  auto& connection = connections_[address.server];
  if (connection) return connection;
  connection = connect_database(address, {}, diagnostics);
  if (!connection) return nullptr;
  if (!Statements(*connection, address.shown(), diagnostics)
           .run("BEGIN ISOLATION LEVEL REPEATABLE READ")
           .run(snapshot.empty() ? "SET LOCAL extra_float_digits = 1"
                                 : "SET TRANSACTION SNAPSHOT " + sql_text(snapshot))
           .run(kWait)
           .run("SET LOCAL datestyle = 'ISO, YMD'")
           .run("SET LOCAL standard_conforming_strings = on")
           .good())
    connection.reset();
  return connection;
}

std::string DatabaseTables::create_empty(DatabaseConnection& connection, const DatabaseAddress& address,
                                         const WrittenSheet& sheet, Diagnostics& diagnostics) {
  const std::string shown = address.shown();
  Statements statements(connection, shown, diagnostics);
  const std::size_t dot = address.table.find('.');
  const std::string name = dot == std::string::npos ? address.table : address.table.substr(dot + 1);
  std::string schema = dot == std::string::npos ? "" : address.table.substr(0, dot);
  if (schema.empty()) {
    const QueryRows current = statements.ask("SELECT coalesce(current_schema(), 'public')", {});
    if (!statements.good()) return "";
    schema = *current.front().front();
  }
  std::string table = sql_quoted(schema) + '.' + sql_quoted(name);
  const std::string comment = fmt::format("opensum: {}, sheet {}", made_by_, sheet.name);
  const QueryRows there = statements.ask(
      "SELECT c.relkind, coalesce(pg_catalog.obj_description(c.oid, 'pg_class'), '') FROM "
      "pg_catalog.pg_class c "
      "JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relname = $2",
      {schema, name});
  if (!there.empty() && (there.front()[0] != "r" || there.front()[1] != comment)) {
    const std::string& others = *there.front()[1];
    diagnostics.add(Code::database_table_of_others,
                    {shown, others.empty() ? "" : fmt::format("its comment is: {}", others)});
    return "";
  }
  if (!there.empty()) statements.run("DROP TABLE " + table);
  std::vector<std::string> used;
  std::string list;
  std::vector<std::pair<std::string, std::string>> comments;
  for (const Column* column : sheet.table->written()) {
    const std::string quoted =
        sql_quoted(unused_name(header_text(*column, sheet.headers_are_symbols), kNameBytes, used));
    list += fmt::format("{}\n  {} {}", list.empty() ? "" : ",", quoted, type_of(*column));
    comments.emplace_back(quoted, comment_of(*column, sheet.notes));
  }
  statements.run(fmt::format("CREATE TABLE {} ({}\n)", table, list));
  statements.run(fmt::format("COMMENT ON TABLE {} IS {}", table, sql_text(comment)));
  for (const auto& [column, words] : comments)
    statements.run(fmt::format("COMMENT ON COLUMN {}.{} IS {}", table, column, sql_text(words)));
  if (!statements.good()) return "";
  written_.push_back(shown);
  return table;
}

std::unique_ptr<DatabaseTableWriter> DatabaseTables::create(const DatabaseAddress& address,
                                                            const WrittenSheet& sheet,
                                                            Diagnostics& diagnostics) {
  const auto connection = connection_to(address, "", diagnostics);
  if (!connection) return nullptr;
  const std::string table = create_empty(*connection, address, sheet, diagnostics);
  const std::string shown = address.shown();
  Statements statements(*connection, shown, diagnostics);
  if (table.empty() || !statements.begin_copy(fmt::format("COPY {} FROM STDIN", table)).good())
    return nullptr;
  return std::make_unique<DatabaseTableWriter>(connection, shown);
}

bool DatabaseTables::create_from(const DatabaseAddress& address, const WrittenSheet& sheet,
                                 const std::string& select, const std::string& snapshot,
                                 Diagnostics& diagnostics) {
  const auto connection = connection_to(address, snapshot, diagnostics);
  if (!connection) return false;
  const std::string table = create_empty(*connection, address, sheet, diagnostics);
  const std::string shown = address.shown();
  Statements statements(*connection, shown, diagnostics);
  return !table.empty() && statements.run(fmt::format("INSERT INTO {}\n{}", table, select)).good();
}

bool DatabaseTables::commit(Diagnostics& diagnostics) {
  return std::all_of(connections_.begin(), connections_.end(), [&](const auto& server) {
    return Statements(*server.second, without_password(server.first), diagnostics).run("COMMIT").good();
  });
}

}  // namespace opensum
