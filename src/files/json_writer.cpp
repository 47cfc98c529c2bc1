// Writing sheets as JSON: by columns, or as lines.
#include <fcntl.h>

#include <cerrno>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>
#include <system_error>
#include <utility>

#include "files/column_spool.h"
#include "files/output.h"
#include "files/row_cells.h"
#include "files/table_writer.h"
#include "table/number_text.h"

namespace opensum {
namespace {

using Json = nlohmann::ordered_json;

std::string json_text_of(const Json& json, int indent) {
  return json.dump(indent, ' ', false, nlohmann::json::error_handler_t::replace);
}

Json value_of(const Column& column, std::size_t row) {
  const std::string text = cell_text(column, row);
  if (column.null(row)) return text.empty() ? Json() : Json(text);
  if (column.kind == Kind::number) return read_number(text).value;
  if (column.kind == Kind::truth) return text == "true";
  return text;
}

// A sheet by its columns: the values of rows are taken up as they come.
class JsonColumns {
 public:
  // What does not fit into memory waits beside the file at `path`.
  JsonColumns(WrittenSheet sheet, const std::string& path)
      : sheet_(std::move(sheet)),
        columns_(sheet_.table->written()),
        values_(columns_.size(), path),
        reasons_(columns_.size(), path) {}

  void put(std::string_view rows) {
    while (!rows.empty()) {
      const bool first = ++rows_ == 1;
      for (std::size_t i = 0; i < columns_.size(); ++i) {
        const auto reason = take_value<Reason>(rows);
        values_.add(i, first ? kValueBegin : kNextValue);
        values_.add(i, take_sized(rows));
        if (reason == Reason::none) continue;
        reasons_.add(i, reasons_.size(i) == 0 ? kValueBegin : kNextValue);
        reasons_.add(i, '"' + std::to_string(rows_) + "\": " + json_text_of(reason_name(reason), -1));
      }
    }
  }

  // Gives the whole text to `write`, which gives the number of an error, else 0.
  int write(const std::function<int(std::string_view)>& write) {
    const std::string frame = json_text_of(without_values(), 1) + "\n";
    std::size_t at = 0;
    int error = 0;
    const auto fill = [&](std::string_view empty, ColumnSpool& spool, std::size_t column) {
      if (spool.size(column) == 0 || error != 0) return;
      // No line in the frame begins like this within a text: there, line ends are escaped.
      const std::size_t end = frame.find(empty, at) + empty.size() - 1;
      error = write(std::string_view(frame).substr(at, end - at));
      for (std::size_t i = 0; i < spool.pieces(column) && error == 0; ++i)
        error = write(spool.piece(column, i));
      if (error == 0) error = write("\n   ");
      at = end;
    };
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      fill("\n   \"values\": []", values_, i);
      fill("\n   \"null_reasons\": {}", reasons_, i);
    }
    if (error == 0) error = write(std::string_view(frame).substr(at));
    if (error == 0) error = values_.error();
    return error != 0 ? error : reasons_.error();
  }

 private:
  static constexpr std::string_view kValueBegin = "\n    ";
  static constexpr std::string_view kNextValue = ",\n    ";

  Json without_values() const {
    Json whole;
    whole["sheet"] = sheet_.name;
    whole["rows"] = rows_;
    whole["columns"] = Json::array();
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      const Column& column = *columns_[i];
      Json entry;
      entry["symbol"] = column.symbol;
      entry["label"] = column.label;
      entry["kind"] = kind_name(column.kind);
      if (column.kind == Kind::number) entry["unit"] = column.unit.text();
      if (const DerivedNote* note = note_on(sheet_, column)) {
        entry["equation"] = note->equation;
        entry["nulls"] = note->null_rule;
      }
      entry["values"] = Json::array();
      if (reasons_.size(i) > 0) entry["null_reasons"] = Json::object();
      whole["columns"].push_back(std::move(entry));
    }
    return whole;
  }

  WrittenSheet sheet_;
  std::vector<const Column*> columns_;
  std::size_t rows_ = 0;
  ColumnSpool values_;
  ColumnSpool reasons_;
};

class JsonTable : public GrowingTables {
 public:
  JsonTable(std::string path, const WrittenSheet& sheet) : path_(std::move(path)), columns_(sheet, path_) {}

  bool put(std::size_t /*sheet*/, std::string_view rows) override {
    columns_.put(rows);
    return true;
  }

  WrittenTables finish() override {
    const OwnedDescriptor file(::open(path_.c_str(), O_WRONLY | O_TRUNC | O_NOFOLLOW | O_CLOEXEC));
    const auto write = [&](std::string_view text) { return write_all(file.number(), text); };
    const int error = file.is_open() ? columns_.write(write) : errno;
    WrittenTables written;
    if (error != 0) written.fault = system_reason(error);
    return written;
  }

 private:
  std::string path_;
  JsonColumns columns_;
};

}  // namespace

std::unique_ptr<GrowingTables> begin_json(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  return std::make_unique<JsonTable>(path, sheets.front());
}

void append_json_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  const std::vector<const Column*> columns = sheet.table->written();
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    const std::size_t row = sheet.table->row_at(place);
    for (const Column* column : columns) {
      append_value(out, column->null(row).reason());
      append_sized(out, json_text_of(value_of(*column, row), -1));
    }
    if (ends != nullptr) ends->push_back(out.size());
  }
}

std::string json_text(const WrittenSheet& sheet) {
  const std::string beside = std::filesystem::temp_directory_path() / "opensum";
  JsonColumns columns(sheet, beside);
  TextBuffer rows;
  append_json_rows(rows, sheet, nullptr);
  columns.put(rows.view());
  std::string text;
  const int error = columns.write([&](std::string_view part) {
    text += part;
    return 0;
  });
  if (error != 0) throw std::system_error(error, std::generic_category(), beside);
  return text;
}

void append_json_lines(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  std::vector<std::string> headers;
  const auto columns = sheet.table->written();
  headers.reserve(columns.size());
  for (const Column* column : columns) headers.push_back(header_text(*column, sheet.headers_are_symbols));
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    Json line = Json::object();
    for (std::size_t i = 0; i < columns.size(); ++i)
      line[headers[i]] = value_of(*columns[i], sheet.table->row_at(place));
    out.add(json_text_of(line, -1));
    out.add('\n');
    if (ends != nullptr) ends->push_back(out.size());
  }
}

}  // namespace opensum
