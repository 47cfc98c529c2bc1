// Files that are written row by row while a sheet is computed: CSV, and the lines of nulls.csv.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "engine/sink.h"
#include "files/csv_writer.h"
#include "run/nulls.h"

namespace opensum {

/// An open file for the text of rows. Those of a sorted sheet wait in a file without a name beside it until
/// their order is known.
class RowFile {
 public:
  /// `path` is that of the open file.
  RowFile(int descriptor, std::string path) : descriptor_(descriptor), path_(std::move(path)) {}
  ~RowFile();
  RowFile(const RowFile&) = delete;
  RowFile& operator=(const RowFile&) = delete;

  void write(std::string_view text);
  void take(const RowTexts& texts);
  void finish(const std::vector<std::size_t>& order);
  /// The number of the first error, else 0.
  int error() const { return error_; }

 private:
  void write_in_order(const std::vector<std::size_t>& order, std::string_view rows);

  int descriptor_;
  std::string path_;
  int error_ = 0;
  int waiting_ = -1;
  std::vector<std::uint64_t> ends_;  ///< of the rows that wait
};

/// The rows of a sheet as CSV.
class CsvSink : public RowSink {
 public:
  CsvSink(int descriptor, std::string path, const Table& table, CsvOptions options);
  void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const override;
  void take(const RowTexts& texts) override { file_.take(texts); }
  void finish(const std::vector<std::size_t>& order) override { file_.finish(order); }
  int error() const { return file_.error(); }

 private:
  CsvOptions options_;
  RowFile file_;
};

/// The nulls of a sheet.
class NullsSink : public RowSink {
 public:
  NullsSink(int descriptor, std::string path, const StudyRun& run, const RunSheet& sheet)
      : text_(run, sheet), file_(descriptor, std::move(path)) {}
  void make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const override;
  void take(const RowTexts& texts) override { file_.take(texts); }
  void finish(const std::vector<std::size_t>& order) override { file_.finish(order); }
  int error() const { return file_.error(); }

 private:
  NullsText text_;
  RowFile file_;
};

}  // namespace opensum
