// Files that are written row by row while a sheet is computed.
#pragma once

#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "engine/sink.h"
#include "files/column_spool.h"
#include "files/csv_writer.h"
#include "files/database_tables.h"
#include "files/formats.h"
#include "files/sha256.h"
#include "message/diagnostic.h"
#include "results/nulls.h"

namespace opensum {

/// Writes some text; gives the number of an error, else 0.
using WriteText = std::function<int(std::string_view)>;

/// Writes to an open file; where asked for, its digest is made on the way.
WriteText writes_to(int descriptor, Sha256* digest = nullptr);

/// Takes up the text of rows and writes it. That of a sorted sheet waits beside the file, by parts of the
/// order that fit into memory.
class RowFile {
 public:
  RowFile(WriteText write, std::string path) : write_(std::move(write)), waiting_(0, std::move(path)) {}

  void write(std::string_view text);
  void take(const RowTexts& texts, std::span<const std::size_t> places);
  void finish();
  /// The number of the first error, else 0.
  int error() const { return error_; }

 private:
  void write_part(std::string_view entries);

  WriteText write_;
  int error_ = 0;
  ColumnSpool waiting_;        ///< by part: places of rows, and their texts
  std::size_t part_rows_ = 0;  ///< places in a part; 0 before the first row
};

/// Rows that go into a file as they come.
class FileSink : public RowSink {
 public:
  /// Where text has to wait, it does so beside the file at `path`.
  FileSink(WriteText write, std::string path) : file_(std::move(write), std::move(path)) {}
  void take(const RowTexts& texts, std::span<const std::size_t> places) override {
    file_.take(texts, places);
  }
  void finish() override { file_.finish(); }
  int error() const { return file_.error(); }

 protected:
  void write(std::string_view text) { file_.write(text); }

 private:
  RowFile file_;
};

/// The rows of a sheet as CSV.
class CsvSink : public FileSink {
 public:
  CsvSink(WriteText write, std::string path, const Table& table, CsvOptions options);
  void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const override;
  void take(const RowTexts& texts, std::span<const std::size_t> places) override {
    notes_.add(texts.notes);
    FileSink::take(texts, places);
  }
  /// What is to be said of the cells that were written.
  const WrittenNotes& notes() const { return notes_; }
  /// Warns of derived texts of a sheet that look like formulas and are not guarded.
  void report_formulas(const std::string& sheet, Diagnostics& diagnostics) const;

 private:
  CsvOptions options_;
  WrittenNotes notes_;
};

/// The rows of a sheet as a table of a database takes them.
class DatabaseSink : public FileSink {
 public:
  DatabaseSink(std::unique_ptr<DatabaseTableWriter> writer, std::string path);
  void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const override;
  /// Ends the table; false after a reported error.
  bool end(Diagnostics& diagnostics);

 private:
  std::unique_ptr<DatabaseTableWriter> writer_;
};

/// The rows of a sheet in a format that takes them up as they come.
class FormatSink : public FileSink {
 public:
  FormatSink(const WrittenFormat& format, WrittenSheet sheet, WriteText write, std::string path)
      : FileSink(std::move(write), std::move(path)), format_(format), sheet_(std::move(sheet)) {}
  void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const override;

 private:
  const WrittenFormat& format_;
  WrittenSheet sheet_;
};

/// Gives rows to a file of several sheets; what goes wrong there it tells itself.
WriteText puts_into(GrowingTables& tables, std::size_t sheet);

/// The nulls of a sheet.
class NullsSink : public FileSink {
 public:
  NullsSink(WriteText write, std::string path, NullsText text)
      : FileSink(std::move(write), std::move(path)), text_(std::move(text)) {}
  void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const override;

 private:
  NullsText text_;
};

}  // namespace opensum
