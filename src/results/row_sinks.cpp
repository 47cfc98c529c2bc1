// Files that are written row by row while a sheet is computed.
#include "results/row_sinks.h"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstdlib>

#include "base/mapped_file.h"
#include "files/output.h"

namespace opensum {
namespace {

// A part of a file that is written at once.
constexpr std::size_t kWrittenBytes = std::size_t{1} << 20U;

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

RowFile::~RowFile() {
  if (waiting_) ::close(*waiting_);
}

void RowFile::write(std::string_view text) {
  if (error_ == 0) error_ = write_(text);
}

void RowFile::take(const RowTexts& texts) {
  if (texts.ends.empty()) return write(texts.text.view());
  if (error_ != 0) return;
  if (!waiting_) {
    std::string path = path_ + ".XXXXXX";
    const int opened = ::mkostemp(path.data(), O_CLOEXEC);
    if (opened < 0) {
      error_ = errno;
      return;
    }
    ::unlink(path.c_str());
    waiting_ = opened;
  }
  const std::uint64_t before = ends_.empty() ? 0 : ends_.back();
  for (const std::size_t end : texts.ends) ends_.push_back(before + end);
  error_ = write_all(*waiting_, texts.text.view());
}

void RowFile::finish(const std::vector<std::size_t>& order) {
  if (error_ != 0 || ends_.empty() || ends_.back() == 0) return;
  const std::size_t bytes = ends_.back();
  const MappedFile waiting(*waiting_, bytes);
  if (!waiting.good()) {
    error_ = errno;
    return;
  }
  write_in_order(order, waiting.text());
}

void RowFile::write_in_order(const std::vector<std::size_t>& order, std::string_view rows) {
  std::string text;
  for (const std::size_t row : order) {
    const std::size_t begin = row == 0 ? 0 : ends_[row - 1];
    text += rows.substr(begin, ends_[row] - begin);
    if (text.size() < kWrittenBytes) continue;
    write(text);
    text.clear();
  }
  write(text);
}

CsvSink::CsvSink(WriteText write, std::string path, const Table& table, CsvOptions options)
    : options_(std::move(options)), file_(std::move(write), std::move(path)) {
  file_.write(csv_header(table, options_));
}

void CsvSink::make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const {
  append_csv_rows(texts.text, block.table, options_, with_ends ? &texts.ends : nullptr, &texts.formulas);
}

void CsvSink::report_formulas(const std::string& sheet, Diagnostics& diagnostics) const {
  if (formulas_ > 0 && !options_.guard_formulas)
    diagnostics.add(Code::formulas_in_text, {sheet, std::to_string(formulas_)});
}

DatabaseSink::DatabaseSink(std::unique_ptr<DatabaseTableWriter> writer, std::string path)
    : writer_(std::move(writer)),
      file_([this](std::string_view text) { return writer_->put(text) ? 0 : EIO; }, std::move(path)) {}

void DatabaseSink::make(const ComputedBlock& block, bool with_ends, RowTexts& texts) const {
  append_copied_rows(texts.text, block.table, with_ends ? &texts.ends : nullptr);
}

bool DatabaseSink::end(Diagnostics& diagnostics) {
  if (file_.error() != 0 && file_.error() != EIO) {
    diagnostics.add(Code::cannot_write, {writer_->shown(), system_reason(file_.error())});
    return false;
  }
  if (file_.error() == 0 && writer_->finish()) return true;
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
