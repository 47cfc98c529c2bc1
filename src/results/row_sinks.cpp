// Files that are written row by row while a sheet is computed.
#include "results/row_sinks.h"

#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <utility>

#include "files/output.h"
#include "files/row_cells.h"

namespace opensum {
namespace {

// A part of a file that is written at once.
constexpr std::size_t kWrittenBytes = std::size_t{1} << 20U;
// A part of the order of a sorted sheet has about so many bytes by the first rows, and places between these.
constexpr std::size_t kPartBytes = std::size_t{4} << 20U;
constexpr std::size_t kLeastRows = 256;
constexpr std::size_t kMostRows = std::size_t{1} << 17U;

}  // namespace

WriteText writes_to(int descriptor, Sha256* digest) {
  // What is written is handed on to the disk while more is computed, not all at once when the file takes the
  // place of an old one.
  constexpr std::size_t kHandedOn = std::size_t{8} << 20U;
  return
      [descriptor, digest, written = std::size_t{0}, begun = std::size_t{0}](std::string_view text) mutable {
        const int error = write_all(descriptor, text);
        if (digest != nullptr && error == 0) digest->add(text);
        written += text.size();
        if (written - begun >= kHandedOn) {
          // Where the file system cannot do so, nothing is lost.
          ::sync_file_range(descriptor, static_cast<off64_t>(begun), static_cast<off64_t>(written - begun),
                            SYNC_FILE_RANGE_WRITE);
          begun = written;
        }
        return error;
      };
}

void RowFile::write(std::string_view text) {
  if (error_ == 0) error_ = write_(text);
}

void RowFile::take(const RowTexts& texts, std::span<const std::size_t> places) {
  if (places.empty()) return write(texts.text.view());
  if (part_rows_ == 0)
    part_rows_ = std::clamp(kPartBytes * places.size() / (texts.text.size() + 1), kLeastRows, kMostRows);
  std::size_t begin = 0;
  TextBuffer entry;
  for (std::size_t row = 0; row < places.size(); ++row) {
    const std::string_view text = texts.text.view().substr(begin, texts.ends[row] - begin);
    begin = texts.ends[row];
    if (text.empty()) continue;
    entry.clear();
    append_value(entry, places[row]);
    append_sized(entry, text);
    waiting_.add(places[row] / part_rows_, entry.view());
  }
}

void RowFile::finish() {
  for (std::size_t part = 0; part < waiting_.columns(); ++part) {
    std::string entries;
    for (std::size_t i = 0; i < waiting_.pieces(part); ++i) entries += waiting_.piece(part, i);
    if (error_ == 0) error_ = waiting_.error();
    if (error_ != 0) return;
    write_part(entries);
  }
}

void RowFile::write_part(std::string_view entries) {
  std::vector<std::pair<std::size_t, std::string_view>> rows;
  while (!entries.empty()) {
    const auto place = take_value<std::size_t>(entries);
    rows.emplace_back(place, take_sized(entries));
  }
  std::sort(rows.begin(), rows.end());
  std::string text;
  for (const auto& [place, row] : rows) {
    text += row;
    if (text.size() < kWrittenBytes) continue;
    write(text);
    text.clear();
  }
  write(text);
}

CsvSink::CsvSink(WriteText write, std::string path, const Table& table, CsvOptions options)
    : FileSink(std::move(write), std::move(path)), options_(std::move(options)) {
  FileSink::write(csv_header(table, options_));
}

void CsvSink::make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const {
  append_csv_rows(texts.text, block.table, options_, with_ends ? &texts.ends : nullptr, &texts.notes);
}

void CsvSink::report_formulas(const std::string& sheet, Diagnostics& diagnostics) const {
  if (notes_.formulas > 0 && !options_.guard_formulas)
    diagnostics.add(Code::formulas_in_text, {sheet, std::to_string(notes_.formulas)});
}

DatabaseSink::DatabaseSink(std::unique_ptr<DatabaseTableWriter> writer, std::string path)
    : FileSink([&to = *writer](std::string_view text) { return to.put(text) ? 0 : EIO; }, std::move(path)),
      writer_(std::move(writer)) {}

void DatabaseSink::make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const {
  append_copied_rows(texts.text, block.table, with_ends ? &texts.ends : nullptr);
}

bool DatabaseSink::end(Diagnostics& diagnostics) {
  if (error() != 0 && error() != EIO) {
    diagnostics.add(Code::cannot_write, {writer_->shown(), system_reason(error())});
    return false;
  }
  if (error() == 0 && writer_->finish()) return true;
  diagnostics.add(Code::database_failed, {writer_->shown(), writer_->fault()});
  return false;
}

void FormatSink::make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const {
  WrittenSheet rows = sheet_;
  rows.table = &block.table;
  format_.append_rows(texts.text, rows, with_ends ? &texts.ends : nullptr);
}

WriteText puts_into(GrowingTables& tables, std::size_t sheet) {
  return [&tables, sheet](std::string_view rows) {
    tables.put(sheet, rows);
    return 0;
  };
}

void NullsSink::make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const {
  text_.append(texts.text, block, with_ends ? &texts.ends : nullptr);
}

}  // namespace opensum
