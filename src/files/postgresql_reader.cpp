// Reading a table, a view or a query of a server that speaks PostgreSQL's protocol.
#include "files/postgresql_reader.h"

#include <algorithm>
#include <array>

#include "base/limits.h"
#include "base/split.h"
#include "base/unicode.h"
#include "files/copied_rows.h"
#include "files/database_module.h"
#include "files/spooled_table.h"
#include "files/workbook_reader.h"
#include "sql/name.h"
#include "table/number_text.h"
#include "table/sql_source.h"

namespace opensum {
namespace {

// The numbers of the server's types, as in its catalogue pg_type.
constexpr const char* kFormat = "a database";
constexpr std::array kTypes = {
    DatabaseType{kBooleanType, Kind::truth},
    DatabaseType{20, Kind::number},
    DatabaseType{21, Kind::number},  // bigint, smallint
    DatabaseType{23, Kind::number},
    DatabaseType{700, Kind::number},  // integer, real
    DatabaseType{701, Kind::number},
    DatabaseType{1700, Kind::number},  // double precision, numeric
    DatabaseType{1082, Kind::date},
    DatabaseType{1114, Kind::date},  // date, timestamp
    DatabaseType{kTimestampWithZoneType, Kind::date},
    DatabaseType{kIntervalType, Kind::number},
    DatabaseType{25, Kind::text},
    DatabaseType{1043, Kind::text},  // text, character varying
    DatabaseType{1042, Kind::text},
    DatabaseType{19, Kind::text},  // character, name
    DatabaseType{18, Kind::text},
    DatabaseType{2950, Kind::text},  // "char", uuid
};

// What makes two readings of the same rows the same: no rows from the middle of what others look at just now,
// no parallel work whose pieces come as they are ready, and one form for each value.
constexpr std::array kSettings = {
    "BEGIN ISOLATION LEVEL REPEATABLE READ, READ ONLY",
    "SET LOCAL synchronize_seqscans = off",
    "SET LOCAL max_parallel_workers_per_gather = 0",
    "SET LOCAL extra_float_digits = 1",
    "SET LOCAL standard_conforming_strings = on",
    "SET LOCAL datestyle = 'ISO, YMD'",
    "SET LOCAL timezone = 'UTC'",
    "SET LOCAL bytea_output = 'hex'",
};

class TableReading {
 public:
  TableReading(DatabaseAddress address, const Place& place, Rows rows, Inputs& inputs,
               Diagnostics& diagnostics)
      : address_(std::move(address)),
        place_(place),
        rows_(rows),
        inputs_(inputs),
        diagnostics_(diagnostics) {}

  Result<RawTable> run() {
    connection_ = reading_connection(address_, place_, inputs_, diagnostics_);
    if (!connection_) return std::nullopt;
    std::string from = '(' + address_.query + "\n)";
    if (address_.query.empty()) {
      const auto table = find_database_table(*connection_, address_, place_, diagnostics_);
      if (!table) return std::nullopt;
      address_.table = table->schema + '.' + table->name;
      from = sql_quoted(table->schema) + '.' + sql_quoted(table->name);
      has_places_ = table->in_one_piece;
      is_in_parts_ = table->kind == 'p';
    }
    if (!describe("SELECT * FROM " + from + " AS q")) return fail();
    if (columns_.size() > kMostColumns) {
      diagnostics_.add(Code::too_many_columns, place_,
                       {address_.shown(), std::to_string(columns_.size()), std::to_string(kMostColumns)});
      return std::nullopt;
    }
    if (!find_comments()) return fail();
    note_unknown_types();
    if (rows_ == Rows::left_in_database) return left_there(from);
    return copy("COPY (SELECT " + selected() + " FROM " + from + " AS q) TO STDOUT");
  }

 private:
  std::nullopt_t fail() {
    diagnostics_.add(Code::database_failed, place_, {address_.shown(), connection_->fault()});
    return std::nullopt;
  }

  bool describe(const std::string& sql) { return connection_->describe(sql, columns_); }

  // The comments that columns have in their tables; those of a query keep the ones of the columns they are.
  bool find_comments() {
    for (const QueryColumn& column : columns_) {
      SpooledColumn& spooled = spooled_.emplace_back();
      spooled.header = column.name;
      if (column.relation == 0 || column.number <= 0) continue;
      QueryRows found;
      if (!connection_->ask("SELECT col_description($1::oid, $2::int)",
                            {std::to_string(column.relation), std::to_string(column.number)}, found))
        return false;
      spooled.metadata = comment_metadata(found.front().front().value_or(""));
    }
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      const auto type = database_type(columns_[i].type);
      ColumnMetadata& metadata = spooled_[i].metadata;
      metadata.kind = type ? type->kind : Kind::text;
      if (columns_[i].type == kIntervalType) metadata.unit = "s";
    }
    return true;
  }

  void note_unknown_types() {
    for (const QueryColumn& column : columns_) {
      if (database_type(column.type)) continue;
      QueryRows name;
      const bool known =
          connection_->ask("SELECT format_type($1::oid, NULL)", {std::to_string(column.type)}, name);
      diagnostics_.add(Code::database_type_as_text, place_,
                       {column.name, address_.shown(),
                        known ? name.front().front().value_or("") : std::to_string(column.type)});
    }
  }

  // All columns as they are, but spans of time, which are counted in seconds. They are named by their places,
  // since a query may give two of them one name.
  std::string selected() const {
    std::string list;
    for (const QueryColumn& column : columns_) {
      const auto same = [&](const QueryColumn& other) { return other.name == column.name; };
      if (std::count_if(columns_.begin(), columns_.end(), same) > 1) return "*";
      if (!list.empty()) list += ", ";
      list += column.type == kIntervalType ? "extract(epoch FROM q." + sql_quoted(column.name) + ")"
                                           : "q." + sql_quoted(column.name);
    }
    return list.empty() ? "*" : list;
  }

  // The partitions of a table, where some are on other servers and all may be read for themselves.
  bool find_parts(const std::string& from, std::vector<std::string>& parts) {
    constexpr std::size_t kMost = 1000;
    constexpr const char* kPartitions =
        "SELECT n.nspname, c.relname, c.relkind = 'f', has_table_privilege(c.oid, 'SELECT') AND "
        "has_schema_privilege(n.oid, 'USAGE') AND NOT row_security_active(c.oid) AND NOT "
        "row_security_active($1::regclass) FROM pg_catalog.pg_partition_tree($1::regclass) t JOIN "
        "pg_catalog.pg_class c ON c.oid = t.relid JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace "
        "WHERE "
        "t.isleaf ORDER BY n.nspname, c.relname";
    QueryRows found;
    if (!connection_->ask(kPartitions, {from}, found)) return false;
    const bool some_elsewhere =
        std::any_of(found.begin(), found.end(), [](const auto& row) { return row[2] == "t"; });
    const bool all_readable =
        std::all_of(found.begin(), found.end(), [](const auto& row) { return row[3] == "t"; });
    if (found.size() > kMost || !some_elsewhere || !all_readable) return true;
    for (const auto& row : found) parts.push_back(sql_quoted(*row[0]) + '.' + sql_quoted(*row[1]));
    return true;
  }

  // The table without its rows.
  Result<RawTable> left_there(const std::string& from) {
    auto source = std::make_shared<SqlSource>();
    source->server = address_.server;
    source->from = from;
    source->has_places = has_places_;
    if (is_in_parts_ && !find_parts(from, source->parts)) return fail();
    RawTable table;
    table.file = address_.shown();
    table.format = kFormat;
    table.columns.resize(columns_.size());
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      source->columns.push_back({columns_[i].name, columns_[i].type});
      table.headers.push_back(columns_[i].name);
      table.metadata.emplace_back(spooled_[i].metadata);
    }
    table.left_in_database = std::move(source);
    return table;
  }

  Result<RawTable> copy(const std::string& sql) {
    SpooledTable table(spooled_);
    const bool copied = connection_->copy_out(sql, [&](std::string_view line) {
      std::size_t column = 0;
      for (const std::string& field : columns_.empty() ? std::vector<std::string>() : split(line, '\t')) {
        table.add(cell_text(field, columns_[column]));
        ++column;
      }
      // A last field that is empty ends no piece.
      for (; column < columns_.size(); ++column) table.add("");
      table.end_row();
      return true;
    });
    if (!copied) return fail();
    InputFile shown;
    shown.path = address_.shown();
    auto read = table.finish(shown, shown.path, rows_, diagnostics_);
    if (!read) return std::nullopt;
    read->format = kFormat;
    if (!inputs_.added(shown.path)) {
      auto input = std::make_shared<InputFile>(shown);
      if (table.text()) *input = *table.text();
      inputs_.add(std::move(input));
    }
    return read;
  }

  static std::string cell_text(const std::string& field, const QueryColumn& column) {
    std::string text = copied_cell(field).value_or("");
    if (column.type == kBooleanType && !text.empty()) return text == "t" ? "true" : "false";
    // The zone is UTC, as was asked for.
    if (column.type == kTimestampWithZoneType && text.ends_with("+00")) text.replace(text.size() - 3, 3, "Z");
    if (column.type == kIntervalType && text.find('.') != std::string::npos) {
      text.erase(text.find_last_not_of('0') + 1);
      if (text.ends_with('.')) text.pop_back();
    }
    return text;
  }

  DatabaseAddress address_;
  const Place& place_;
  Rows rows_;
  Inputs& inputs_;
  Diagnostics& diagnostics_;
  std::shared_ptr<DatabaseConnection> connection_;
  std::vector<QueryColumn> columns_;
  std::vector<SpooledColumn> spooled_;
  bool has_places_ = false;
  bool is_in_parts_ = false;
};

}  // namespace

std::optional<DatabaseType> database_type(std::uint32_t number) {
  const auto* const found = std::find_if(kTypes.begin(), kTypes.end(),
                                         [&](const DatabaseType& type) { return type.number == number; });
  return found == kTypes.end() ? std::nullopt : std::optional(*found);
}

ColumnMetadata comment_metadata(const std::string& comment) {
  ColumnMetadata metadata;
  std::string parts = comment;
  std::replace(parts.begin(), parts.end(), '\n', ';');
  for (const std::string& part : split(parts, ';')) {
    const std::size_t colon = part.find(':');
    if (colon == std::string::npos) continue;
    const std::string name = lower_case(trimmed(std::string_view(part).substr(0, colon)));
    const std::string value(trimmed(std::string_view(part).substr(colon + 1)));
    if (value.empty()) continue;
    if (name == "unit") metadata.unit = value;
    if (name == "label") metadata.label = value;
  }
  return metadata;
}

std::shared_ptr<DatabaseConnection> reading_connection(const DatabaseAddress& address, const Place& place,
                                                       Inputs& inputs, Diagnostics& diagnostics) {
  auto& connection = inputs.databases()[address.server];
  if (connection) return connection;
  connection = connect_database(address, place, diagnostics);
  if (!connection) return nullptr;
  for (const char* const setting : kSettings) {
    if (connection->run(setting)) continue;
    diagnostics.add(Code::database_failed, place, {address.shown(), connection->fault()});
    connection.reset();
    return nullptr;
  }
  return connection;
}

Result<DatabaseTable> find_database_table(DatabaseConnection& connection, const DatabaseAddress& address,
                                          const Place& place, Diagnostics& diagnostics) {
  // All that may be read from, the nearest first.
  constexpr const char* kAll =
      "SELECT n.nspname, c.relname, c.relkind, pg_table_is_visible(c.oid), c.relkind IN ('r', 'm') AND NOT "
      "c.relhassubclass "
      "FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace "
      "WHERE c.relkind IN ('r', 'v', 'm', 'f', 'p') AND n.nspname NOT LIKE 'pg\\_%' "
      "AND n.nspname <> 'information_schema' ORDER BY n.nspname, c.relname";
  const auto table_of = [](const auto& row) {
    return DatabaseTable{*row[0], *row[1], row[2]->front(), *row[4] == "t"};
  };
  QueryRows all;
  if (!connection.ask(kAll, {}, all)) {
    diagnostics.add(Code::database_failed, place, {address.shown(), connection.fault()});
    return std::nullopt;
  }
  std::vector<std::string> names;
  std::vector<DatabaseTable> exact;
  std::vector<DatabaseTable> alike;
  const std::string folded = lower_case(address.table);
  for (const auto& row : all) {
    const DatabaseTable table = table_of(row);
    const std::string whole = table.schema + '.' + table.name;
    const bool visible = *row[3] == "t";
    names.push_back(visible ? table.name : whole);
    if (whole == address.table || (visible && table.name == address.table)) exact.push_back(table);
    if (lower_case(whole) == folded || (visible && lower_case(table.name) == folded)) alike.push_back(table);
  }
  if (!exact.empty()) return exact.front();
  if (alike.size() == 1) return alike.front();
  const std::optional<std::string> wanted =
      address.table.empty() ? std::nullopt : std::optional(address.table);
  const auto found = find_part(without_password(address.server), "table", names, wanted, place, diagnostics);
  // Without a name, the only one.
  return found ? Result<DatabaseTable>(table_of(all[*found])) : std::nullopt;
}

Result<RawTable> read_postgresql(const std::string& path, const Place& place, Rows rows, Inputs& inputs,
                                 Diagnostics& diagnostics) {
  return TableReading(database_address(path), place, rows, inputs, diagnostics).run();
}

}  // namespace opensum
