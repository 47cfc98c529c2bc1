// The files of a study's sheets.
#include "results/sheet_files.h"

#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <map>
#include <memory>
#include <optional>
#include <utility>

#include "engine/used_columns.h"
#include "files/csv_writer.h"
#include "files/database_address.h"
#include "files/file_names.h"
#include "plot/figures.h"
#include "results/nulls.h"
#include "results/row_sinks.h"
#include "results/written_sheets.h"
#include "table/sql_source.h"

namespace opensum {
namespace {

// What a budget tells of: the value, its uncertainty, and all that states one.
void wish_for_budgets(const PreparedStudy& prepared, std::vector<LastWishes>& wishes) {
  if (prepared.budgets.empty()) return;
  const auto hold = [&](std::size_t sheet, std::size_t column) {
    wishes[sheet].held[column] = std::max(wishes[sheet].held[column], Held::with_source);
  };
  for (const BudgetWish& wish : prepared.budgets) {
    wishes[wish.sheet].budget_of.push_back(wish.column);
    hold(wish.sheet, wish.column);
    for (const UncertainColumn& each : prepared.sheets[wish.sheet]->plan.uncertainty.columns) {
      if (each.column == wish.column) hold(wish.sheet, each.index);
    }
  }
  for (std::size_t i = 0; i < wishes.size(); ++i) {
    for (const StatedUncertainty& stated : prepared.sheets[i]->plan.uncertainty.stated) {
      hold(i, stated.column);
      if (stated.from) hold(i, *stated.from);
    }
  }
}

// The files of a study's sheets: their paths are taken in the order in which the summary names them, then the
// sheets are computed and written row by row, and what needs whole tables is written at last.
class SheetFiles {
 public:
  SheetFiles(PreparedStudy& prepared, OutputFiles& files, DatabaseTables& databases, Diagnostics& diagnostics)
      : prepared_(prepared),
        files_(files),
        databases_(databases),
        diagnostics_(diagnostics),
        folder_(prepared.output + "/") {}

  // False after a reported error.
  bool write(Executor& executor) {
    if (!stage()) return false;
    std::vector<LastWishes> wishes = wishes_of_figures(prepared_);
    wish_for_budgets(prepared_, wishes);
    find_used_columns(wishes);
    for (std::size_t i = 0; i < prepared_.sheets.size(); ++i) {
      if (prepared_.sheets[i]->stays_there) continue;
      if (!prepared_.sheets[i]->model->hidden && !compute(executor, i, wishes[i])) return false;
    }
    if (nulls_.descriptor >= 0 && !close(nulls_)) return false;
    executor.fit_rest();
    return !diagnostics_.has_errors() && write_whole_tables();
  }

 private:
  // Marks in each sheet which columns are used.
  void find_used_columns(const std::vector<LastWishes>& of_figures) {
    UsedColumns drawn;
    for (std::size_t i = 0; i < of_figures.size(); ++i) {
      std::vector<bool>& used = drawn.emplace_back(prepared_.sheets[i]->table().columns.size(), false);
      for (std::size_t c = 0; c < of_figures[i].held.size(); ++c)
        used[c] = of_figures[i].held[c] != Held::nothing;
    }
    UsedColumns used = used_columns(prepared_, std::move(drawn));
    for (std::size_t i = 0; i < used.size(); ++i) prepared_.sheets[i]->used = std::move(used[i]);
  }

  // A file that is being written.
  struct Open {
    std::string path;
    std::string temporary;
    int descriptor = -1;
    Sha256 digest{};  // of what was written so far
  };

  // A file that is complete when all of its sheets are computed.
  struct Workbook {
    const WrittenFormat* format = nullptr;
    std::string path;
    std::string temporary;
    std::vector<WrittenSheet> sheets;
    std::unique_ptr<GrowingTables> growing;
  };

  bool stage() {
    for (const WrittenSheet& sheet : sheets_in(prepared_, "csv")) {
      const std::string path = folder_ + sheet.name + ".csv";
      if (!open(path, csv_[sheet.name])) return false;
      if (!open(path + "-metadata.json", metadata_[sheet.name])) return false;
    }
    for (const WrittenFormat& format : written_formats()) {
      if (format.holds != FileHolds::sheet) continue;
      for (const WrittenSheet& sheet : sheets_in(prepared_, std::string(format.name))) {
        const std::string file = sheet.name + "." + std::string(format.name);
        if (format.begin == nullptr ? !open(folder_ + file, texts_[file])
                                    : !begin(folder_ + file, format, {sheet}))
          return false;
      }
    }
    for (const WrittenFormat& format : written_formats()) {
      const std::string name(format.name);
      if (format.holds != FileHolds::sheets) continue;
      std::vector<WrittenSheet> sheets = sheets_in(prepared_, name);
      if (sheets.empty()) continue;
      if (!begin(folder_ + "tables." + name, format, std::move(sheets))) return false;
    }
    // The nulls are those of a whole run.
    if (prepared_.part) return true;
    if (!open(folder_ + kNullsFile, nulls_)) return false;
    return check(nulls_, writes_into(nulls_)(kNullsHeader));
  }

  bool begin(const std::string& path, const WrittenFormat& format, std::vector<WrittenSheet> sheets) {
    const std::string temporary = files_.stage(path, diagnostics_);
    if (temporary.empty()) return false;
    auto growing = format.begin(temporary, sheets);
    workbooks_.push_back({&format, path, temporary, std::move(sheets), std::move(growing)});
    return true;
  }

  bool open(const std::string& path, Open& file) {
    file.path = path;
    file.temporary = files_.stage(path, diagnostics_);
    if (file.temporary.empty()) return false;
    file.descriptor = ::open(file.temporary.c_str(), O_WRONLY | O_TRUNC | O_CLOEXEC);
    return check(file, file.descriptor < 0 ? errno : 0);
  }

  static WriteText writes_into(Open& file) { return writes_to(file.descriptor, &file.digest); }

  bool close(Open& file) {
    const int closed = ::close(std::exchange(file.descriptor, -1));
    const std::size_t bytes = file.digest.bytes();
    files_.set_digest({file.path, bytes, file.digest.hexadecimal()});
    return check(file, closed == 0 ? 0 : errno);
  }

  bool check(const Open& file, int error) { return check(file.path, error); }
  bool check(const std::string& path, int error) {
    if (error != 0) diagnostics_.add(Code::cannot_write, {path, system_reason(error)});
    return error == 0;
  }

  // The last pass over a sheet, with its rows as CSV and its nulls.
  bool compute(Executor& executor, std::size_t number, LastWishes wishes) {
    const RunSheet& sheet = *prepared_.sheets[number];
    const std::vector<std::string>& formats = formats_of(*sheet.model, prepared_.study);
    const bool whole = std::any_of(formats.begin(), formats.end(), [](const std::string& f) {
      const WrittenFormat* const known = format_named(f);
      return known != nullptr && known->text != nullptr;
    });
    const std::vector<Held> written = all_written(sheet);
    for (std::size_t i = 0; i < written.size() && whole; ++i)
      wishes.held[i] = std::max(wishes.held[i], written[i]);
    std::optional<CsvSink> csv;
    const auto file = csv_.find(sheet.model->name);
    if (file != csv_.end()) {
      CsvOptions options;
      options.headers_are_symbols =
          sheet.model->headers_are_symbols.value_or(prepared_.study.headers_are_symbols);
      options.guard_formulas = sheet.model->guards_formulas.value_or(false);
      csv.emplace(writes_into(file->second), file->second.temporary, sheet.table(), options);
      wishes.sinks.push_back(&*csv);
    }
    std::vector<std::unique_ptr<DatabaseSink>> tables;
    if (!create_tables(sheet, tables)) return false;
    for (const auto& table : tables) wishes.sinks.push_back(table.get());
    std::vector<GrowingFile> growing = growing_files(sheet);
    for (const GrowingFile& file_of_rows : growing) wishes.sinks.push_back(file_of_rows.sink.get());
    std::optional<NullsSink> nulls;
    if (!prepared_.part) {
      nulls.emplace(writes_into(nulls_), nulls_.temporary, NullsText(prepared_, sheet));
      wishes.sinks.push_back(&*nulls);
    }
    executor.finish(number, wishes);
    if (nulls && !check(nulls_, nulls->error())) return false;
    for (const auto& table : tables) {
      if (!table->end(diagnostics_)) return false;
    }
    for (const GrowingFile& file_of_rows : growing) {
      if (!check(file_of_rows.path, file_of_rows.sink->error())) return false;
      if (file_of_rows.own != nullptr && !close(*file_of_rows.own)) return false;
    }
    if (!csv) return true;
    csv->report_formulas(sheet.model->name, diagnostics_);
    return check(file->second, csv->error()) && close(file->second) && write_metadata(sheet, csv->notes());
  }

  // The metadata beside a CSV file, which list what stands in the cells of nulls.
  bool write_metadata(const RunSheet& sheet, const WrittenNotes& notes) {
    const auto sheets = sheets_in(prepared_, "csv");
    const auto written = std::find_if(sheets.begin(), sheets.end(),
                                      [&](const WrittenSheet& s) { return s.name == sheet.model->name; });
    CsvOptions options;
    options.headers_are_symbols = written->headers_are_symbols;
    options.changes = prepared_.changes;
    Open& file = metadata_.at(written->name);
    const std::string text =
        csvw_text(*written->table, written->name + ".csv", written->notes, options, notes);
    return check(file, writes_into(file)(text)) && close(file);
  }

  // A file that takes up the rows of a sheet, alone or with those of others.
  struct GrowingFile {
    std::string path;
    Open* own = nullptr;
    std::unique_ptr<FormatSink> sink;
  };

  std::vector<GrowingFile> growing_files(const RunSheet& sheet) {
    std::vector<GrowingFile> growing;
    const auto is_it = [&](const WrittenSheet& s) { return s.table == &sheet.table(); };
    for (const WrittenFormat& format : written_formats()) {
      if (format.append_rows == nullptr || format.begin != nullptr) continue;
      const auto sheets = sheets_in(prepared_, std::string(format.name));
      const auto written = std::find_if(sheets.begin(), sheets.end(), is_it);
      if (written == sheets.end()) continue;
      Open& file = texts_.at(written->name + "." + std::string(format.name));
      growing.push_back({file.path, &file,
                         std::make_unique<FormatSink>(format, *written, writes_into(file), file.temporary)});
    }
    for (const Workbook& file : workbooks_) {
      const auto written = std::find_if(file.sheets.begin(), file.sheets.end(), is_it);
      if (written == file.sheets.end()) continue;
      const auto number = static_cast<std::size_t>(written - file.sheets.begin());
      growing.push_back({file.path, nullptr,
                         std::make_unique<FormatSink>(*file.format, *written,
                                                      puts_into(*file.growing, number), file.temporary)});
    }
    return growing;
  }

  // Whether an address is on the server where sheets are computed.
  bool is_on_its_server(const std::string& address) const {
    return std::any_of(prepared_.sheets.begin(), prepared_.sheets.end(), [&](const auto& sheet) {
      return sheet->there && sheet->there->server == database_address(address).server;
    });
  }

  // The tables of databases for a sheet; false after a reported error.
  bool create_tables(const RunSheet& sheet, std::vector<std::unique_ptr<DatabaseSink>>& sinks) {
    for (const std::string& format : formats_of(*sheet.model, prepared_.study)) {
      if (!is_database_address(format) || !prepared_.writes_databases) continue;
      // Its rows are there already, unless they go to another server.
      if (sheet.in_database && is_on_its_server(format)) continue;
      const auto sheets = sheets_in(prepared_, format);
      const auto written = std::find_if(sheets.begin(), sheets.end(),
                                        [&](const WrittenSheet& s) { return s.table == &sheet.table(); });
      if (written == sheets.end()) continue;
      auto writer = databases_.create(database_address(table_for_sheet(format, sheet.model->name)), *written,
                                      diagnostics_);
      if (!writer) return false;
      sinks.push_back(std::make_unique<DatabaseSink>(std::move(writer), folder_ + kNullsFile));
    }
    return true;
  }

  bool write_whole_tables() {
    for (const WrittenFormat& format : written_formats()) {
      if (format.text == nullptr) continue;
      for (const WrittenSheet& sheet : sheets_in(prepared_, std::string(format.name))) {
        Open& file = texts_.at(sheet.name + "." + std::string(format.name));
        if (!check(file, writes_into(file)(format.text(sheet))) || !close(file)) return false;
      }
    }
    return std::all_of(workbooks_.begin(), workbooks_.end(), [&](const Workbook& file) {
      return finish_tables(*file.growing, *file.format, file.sheets, file.path, diagnostics_);
    });
  }

  PreparedStudy& prepared_;
  OutputFiles& files_;
  DatabaseTables& databases_;
  Diagnostics& diagnostics_;
  std::string folder_;
  std::map<std::string, Open> csv_;  // by sheet
  std::map<std::string, Open> metadata_;
  std::map<std::string, Open> texts_;  // of other files of one sheet, by file
  std::vector<Workbook> workbooks_;
  Open nulls_;
};

}  // namespace

bool write_sheets(PreparedStudy& prepared, Executor& executor, OutputFiles& files, DatabaseTables& databases,
                  Diagnostics& diagnostics) {
  return SheetFiles(prepared, files, databases, diagnostics).write(executor);
}

bool finish_tables(GrowingTables& tables, const WrittenFormat& format,
                   const std::vector<WrittenSheet>& sheets, const std::string& path,
                   Diagnostics& diagnostics) {
  for (const WrittenSheet& sheet : sheets) {
    if (sheet.table->rows <= format.most_rows) continue;
    diagnostics.add(Code::workbook_too_long,
                    {sheet.name, std::to_string(sheet.table->rows), std::to_string(format.most_rows)});
    return false;
  }
  const WrittenTables written = tables.finish();
  if (written.shortened > 0) diagnostics.add(Code::xlsx_digits, {std::to_string(written.shortened), path});
  if (written.replaced > 0) diagnostics.add(Code::control_replaced, {path, std::to_string(written.replaced)});
  if (written.fault.empty()) return true;
  diagnostics.add(Code::cannot_write, {path, written.fault});
  return false;
}

}  // namespace opensum
