// Reading a table of an SQLite database.
#include "files/sqlite_reader.h"

#include <fmt/format.h>
#include <sqlite3.h>

#include <algorithm>
#include <new>

#include "base/limits.h"
#include "files/workbook_reader.h"
#include "sql/name.h"
#include "table/number_text.h"

namespace opensum {
namespace {

struct CloseDatabase {
  void operator()(sqlite3* database) const { sqlite3_close(database); }
};
struct EndStatement {
  void operator()(sqlite3_stmt* statement) const { sqlite3_finalize(statement); }
};
using Database = std::unique_ptr<sqlite3, CloseDatabase>;
using Statement = std::unique_ptr<sqlite3_stmt, EndStatement>;

Statement prepare(sqlite3* database, const std::string& sql) {
  sqlite3_stmt* statement = nullptr;
  sqlite3_prepare_v2(database, sql.c_str(), static_cast<int>(sql.size()), &statement, nullptr);
  return Statement(statement);
}

std::string text_of(sqlite3_stmt* statement, int column) {
  const bool is_null = sqlite3_column_type(statement, column) == SQLITE_NULL;
  const auto* bytes = reinterpret_cast<const char*>(sqlite3_column_text(statement, column));
  // What is no null has a text, unless there is no room for it.
  if (bytes == nullptr && !is_null) throw std::bad_alloc();
  return bytes == nullptr
             ? std::string()
             : std::string(bytes, static_cast<std::size_t>(sqlite3_column_bytes(statement, column)));
}

std::string cell_of(sqlite3_stmt* statement, int column, bool truth) {
  switch (sqlite3_column_type(statement, column)) {
    case SQLITE_NULL:
      return {};
    case SQLITE_FLOAT:
      return number_text(sqlite3_column_double(statement, column), -1);
    case SQLITE_INTEGER:
      if (truth) return sqlite3_column_int64(statement, column) != 0 ? "true" : "false";
      return text_of(statement, column);
    case SQLITE_BLOB:
      return fmt::format("({} bytes)", sqlite3_column_bytes(statement, column));
    default:
      return text_of(statement, column);
  }
}

// Ends what takes more steps than any table or view of its size: one that never ends does.
class StepLimit {
 public:
  StepLimit(sqlite3* database, std::size_t bytes)
      : most_(kFreeDatabaseSteps + kDatabaseStepsPerByte * bytes) {
    sqlite3_progress_handler(database, kEvery, &StepLimit::count, this);
  }
  bool exceeded() const { return steps_ > most_; }
  std::uint64_t most() const { return most_; }

 private:
  static constexpr int kEvery = 10'000;
  static int count(void* limit) {
    auto* const self = static_cast<StepLimit*>(limit);
    self->steps_ += kEvery;
    return self->exceeded() ? 1 : 0;
  }
  std::uint64_t most_;
  std::uint64_t steps_ = 0;
};

}  // namespace

bool is_sqlite(std::string_view bytes) {
  return bytes.starts_with(std::string_view("SQLite format 3\0", 16));
}

std::shared_ptr<CellGrid> read_sqlite(const std::shared_ptr<const InputFile>& file,
                                      const std::optional<std::string>& name, const Place& place,
                                      Diagnostics& diagnostics) {
  sqlite3* opened = nullptr;
  // The bytes that were read, so that the database is not touched and nothing is written beside it.
  sqlite3_open_v2(":memory:", &opened, SQLITE_OPEN_READWRITE, nullptr);
  const Database database(opened);
  const StepLimit steps(database.get(), file->text.size());
  GridRoom room(file->text.size());
  const auto too_large = [&](const std::string& reason) -> std::shared_ptr<CellGrid> {
    diagnostics.add(Code::workbook_too_large, place, {file->path, reason});
    return nullptr;
  };
  const auto fail = [&]() -> std::shared_ptr<CellGrid> {
    if (steps.exceeded()) {
      return too_large(
          fmt::format("its tables and views take more than {} steps to look through; does a view never end?",
                      steps.most()));
    }
    diagnostics.add(Code::workbook_damaged, place,
                    {file->path, "a database", sqlite3_errmsg(database.get())});
    return nullptr;
  };
  const auto size = static_cast<sqlite3_int64>(file->text.size());
  auto* bytes = static_cast<unsigned char*>(sqlite3_malloc64(file->text.size()));
  if (bytes == nullptr) return fail();
  std::copy(file->text.begin(), file->text.end(), bytes);
  if (sqlite3_deserialize(database.get(), "main", bytes, size, size,
                          SQLITE_DESERIALIZE_FREEONCLOSE | SQLITE_DESERIALIZE_READONLY) != SQLITE_OK) {
    return fail();
  }
  const Statement list = prepare(database.get(),
                                 "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name "
                                 "NOT LIKE 'sqlite_%' ORDER BY rowid");
  if (!list) return fail();
  std::vector<std::string> names;
  int state = sqlite3_step(list.get());
  for (; state == SQLITE_ROW; state = sqlite3_step(list.get())) names.push_back(text_of(list.get(), 0));
  if (state != SQLITE_DONE) return fail();
  const auto number = find_part(file->path, "table", names, name, place, diagnostics);
  if (!number) return nullptr;
  const std::string& table = names[*number];
  const Statement select = prepare(database.get(), "SELECT * FROM " + sql_quoted(table));
  if (!select) return fail();
  auto grid = std::make_shared<CellGrid>();
  grid->name = file->path + '#' + table;
  grid->empty_rows_count = true;
  sqlite3_limit(database.get(), SQLITE_LIMIT_LENGTH, static_cast<int>(kFreeGridBytes));
  const int columns = sqlite3_column_count(select.get());
  GridRow header = grid->new_row(1);
  std::vector<bool> truths;
  for (int i = 0; i < columns; ++i) {
    const char* const title = sqlite3_column_name(select.get(), i);
    if (title == nullptr) throw std::bad_alloc();
    header.cells.push_back(grid->texts->keep(title));
    const char* declared = sqlite3_column_decltype(select.get(), i);
    truths.push_back(declared != nullptr && sqlite3_strnicmp(declared, "BOOL", 4) == 0);
  }
  grid->rows.push_back(std::move(header));
  for (state = sqlite3_step(select.get()); state == SQLITE_ROW; state = sqlite3_step(select.get())) {
    GridRow row = grid->new_row(grid->rows.size() + 1);
    row.cells.reserve(static_cast<std::size_t>(columns));
    for (int i = 0; i < columns; ++i) {
      row.cells.push_back(grid->texts->keep(cell_of(select.get(), i, truths[static_cast<std::size_t>(i)])));
      if (!room.take(1, row.cells.back().size())) return too_large(room.reason());
    }
    grid->rows.push_back(std::move(row));
  }
  if (state != SQLITE_DONE) return fail();
  return grid;
}

}  // namespace opensum
