// Reading CSV and TSV.
#include "files/csv_reader.h"

#include <algorithm>
#include <deque>
#include <map>

#include "base/limits.h"
#include "base/parallel.h"
#include "base/result.h"
#include "files/csv_rows.h"
#include "files/delimiter.h"
#include "files/encoding.h"
#include "files/table_layout.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kListedFaults = 5;
constexpr std::size_t kLinesLookedAt = 20;

// What the views of a table look into: the file, and fields whose doubled quotes were undone.
struct CsvStorage {
  std::shared_ptr<const InputFile> file;
  std::deque<std::string> unquoted;
  std::vector<std::deque<std::string>> parts;  // the same of parts that were read by themselves
};

class CsvParser {
 public:
  CsvParser(const std::shared_ptr<const InputFile>& file, const TableLayout& layout, LineForm form,
            Diagnostics& diagnostics)
      : storage_(std::make_shared<CsvStorage>()),
        layout_(layout),
        text_(std::string_view(file->text).substr(0, layout.end)),
        form_(std::move(form)),
        diagnostics_(diagnostics) {
    storage_->file = file;
  }

  std::optional<RawTable> run(bool leave_rows) {
    go_to(layout_.header ? *layout_.header : layout_.rows);
    if (layout_.header) {
      read_header();
    } else {
      count_columns();
    }
    LineStart rows = after(layout_.rows);
    if (layout_.units && faults_ == 0) {
      read_units();
      rows = after(rows);
    }
    go_to(rows);
    find_trailing_delimiters();
    if (faults_ == 0 && leave_rows && at_ < text_.size()) {
      table_.left_in_file = row_source();
    } else if (faults_ == 0) {
      read_rows();
    }
    diagnostics_.append(found_);
    if (faults_ > 0) return std::nullopt;
    table_.file = storage_->file->path;
    table_.storage = storage_;
    return std::move(table_);
  }

 private:
  struct Field {
    std::string_view text;
    std::size_t begin = 0;
    std::size_t end = 0;
  };

  void fail(Code code, std::size_t offset, std::size_t length, std::vector<std::string> args = {}) {
    if (++faults_ > kListedFaults) return;
    found_.add(code, line_place(*storage_->file, offset, length), std::move(args));
  }

  void go_to(const LineStart& line) {
    at_ = line.offset;
    line_ = line.number;
  }

  // Where the rows begin: at a line, or after the record at hand where that reaches over more lines.
  LineStart after(const LineStart& rows) const {
    const bool reaches_over = layout_.header && at_ > rows.offset;
    return reaches_over ? LineStart{line_, at_} : rows;
  }

  bool at_end() const { return at_ >= text_.size(); }

  // Whether the line at hand holds nothing at all.
  bool at_blank_line() const {
    const std::size_t first = form_.delimiter == kBlanks ? at_ + form_.blanks_at(text_.substr(at_)) : at_;
    if (first == text_.size()) return true;
    return text_[first] == '\n' ||
           (text_[first] == '\r' && (first + 1 == text_.size() || text_[first + 1] == '\n'));
  }

  void skip_line() {
    const std::size_t end = text_.find('\n', at_);
    at_ = end == std::string_view::npos ? text_.size() : end + 1;
    ++line_;
  }

  bool at_comment() const { return form_.is_comment(text_.substr(at_)); }

  void skip_blanks() { at_ += form_.blanks_at(text_.substr(at_)); }

  bool at_line_end() const {
    return at_end() || text_[at_] == '\n' ||
           (text_[at_] == '\r' && (at_ + 1 == text_.size() || text_[at_ + 1] == '\n'));
  }

  // Whether a quoted text follows, be it after blanks.
  bool quote_follows() const {
    const std::size_t first = at_ + form_.blanks_at(text_.substr(at_));
    return first < text_.size() && text_[first] == '"';
  }

  // The fields of the record at hand; false after a reported fault, from which the rest cannot be read.
  bool read_record(std::vector<Field>& fields) {
    return form_.delimiter == kBlanks ? read_words(fields) : read_fields(fields);
  }

  // Those of a record that blanks divide.
  bool read_words(std::vector<Field>& fields) {
    fields.clear();
    for (skip_blanks(); !at_line_end(); skip_blanks()) {
      Field field;
      field.begin = at_;
      if (text_[at_] == '"') {
        if (!read_quoted(field)) return false;
      } else {
        while (!at_line_end() && !is_blank_sign(text_[at_])) ++at_;
        field.end = at_;
        field.text = text_.substr(field.begin, field.end - field.begin);
      }
      fields.push_back(field);
    }
    skip_line();
    return true;
  }

  bool read_fields(std::vector<Field>& fields) {
    fields.clear();
    for (;;) {
      Field field;
      field.begin = at_;
      if (quote_follows()) {
        skip_blanks();
        if (!read_quoted(field)) return false;
      } else {
        while (!at_end() && text_[at_] != form_.delimiter && text_[at_] != '\n') ++at_;
        field.end = at_;
        if (field.end > field.begin && (at_end() || text_[at_] == '\n') && text_[field.end - 1] == '\r')
          --field.end;
        field.text = text_.substr(field.begin, field.end - field.begin);
      }
      fields.push_back(field);
      if (at_end()) return true;
      if (text_[at_] == '\n') {
        ++at_;
        ++line_;
        return true;
      }
      ++at_;  // the delimiter
    }
  }

  bool read_quoted(Field& field) {
    const std::size_t begin = at_ + 1;
    std::size_t scan = begin;
    bool doubled = false;
    for (;;) {
      const std::size_t quote = text_.find('"', scan);
      if (quote == std::string_view::npos) {
        fail(Code::quote_not_closed, field.begin, 1);
        return false;
      }
      if (quote + 1 < text_.size() && text_[quote + 1] == '"') {
        doubled = true;
        scan = quote + 2;
        continue;
      }
      field.text = text_.substr(begin, quote - begin);
      at_ = quote + 1;
      break;
    }
    line_ += static_cast<std::size_t>(std::count(field.text.begin(), field.text.end(), '\n'));
    field.end = at_;
    const bool blank = !at_end() && is_blank_sign(text_[at_]);
    skip_blanks();
    if (!at_end() && text_[at_] == '\r' && (at_ + 1 == text_.size() || text_[at_ + 1] == '\n')) ++at_;
    const bool separated = form_.delimiter == kBlanks ? blank : !at_end() && text_[at_] == form_.delimiter;
    if (!at_end() && !separated && text_[at_] != '\n') {
      fail(Code::quote_misplaced, at_, 1);
      return false;
    }
    if (doubled) {
      std::string& plain = storage_->unquoted.emplace_back();
      for (std::size_t i = 0; i < field.text.size(); ++i) {
        plain += field.text[i];
        if (field.text[i] == '"') ++i;
      }
      field.text = plain;
    }
    return true;
  }

  // Whether so many columns can be read; reported if not.
  bool few_enough(std::size_t columns) {
    if (columns <= kMostColumns) return true;
    found_.add(Code::too_many_columns,
               {storage_->file->path, std::to_string(columns), std::to_string(kMostColumns)});
    ++faults_;
    return false;
  }

  // Without a header the first row says how many columns there are.
  void count_columns() {
    while (!at_end() && (at_comment() || at_blank_line())) skip_line();
    std::vector<Field> fields;
    if (!read_record(fields) || !few_enough(fields.size())) return;
    table_.headers.resize(fields.size());
    table_.columns.resize(fields.size());
  }

  void read_units() {
    go_to(*layout_.units);
    const std::size_t begin = at_;
    std::vector<Field> fields;
    if (!read_record(fields)) return;
    const std::size_t end = std::min(text_.find('\n', begin), text_.size());
    if (fields.size() == table_.headers.size() + 1 && trimmed(fields.back().text).empty()) fields.pop_back();
    if (fields.size() != table_.headers.size()) {
      fail(Code::ragged_row, begin, std::max<std::size_t>(end - begin, 1),
           {std::to_string(fields.size()), std::to_string(table_.headers.size())});
      return;
    }
    table_.units_source = std::make_shared<const Source>(
        storage_->file->path, std::string(text_.substr(begin, end - begin)), layout_.units->number);
    for (const Field& field : fields) {
      table_.units.emplace_back(trimmed(field.text));
      table_.units_spans.push_back({field.begin - begin, std::max(field.end, field.begin + 1) - begin});
    }
  }

  // The fields of a line of headers. Where blanks divide the rows, headers of several words have two or more
  // between them.
  bool read_header_line(std::vector<Field>& fields) {
    const std::size_t begin = at_;
    if (!read_record(fields)) return false;
    if (form_.delimiter != kBlanks) return true;
    const std::vector<std::string_view> rows = first_lines(text_.substr(at_), 1, form_.comment);
    const std::size_t end = std::min(text_.find_first_of("\r\n", begin), text_.size());
    const std::vector<std::string_view> wide = wide_words_of(text_.substr(begin, end - begin));
    if (rows.empty() || words_of(rows[0]).size() == fields.size() || words_of(rows[0]).size() != wide.size())
      return true;
    fields.clear();
    for (const std::string_view word : wide) {
      const auto place = static_cast<std::size_t>(word.data() - text_.data());
      fields.push_back({word, place, place + word.size()});
    }
    return true;
  }

  void read_header() {
    const std::size_t begin = at_;
    const std::size_t line = line_;
    std::vector<Field> fields;
    if (!read_header_line(fields) || !few_enough(fields.size())) return;
    const std::size_t before = begin == 0 ? std::string_view::npos : text_.rfind('\n', begin - 1);
    const std::size_t first = before == std::string_view::npos ? 0 : before + 1;
    const std::size_t end = std::min(text_.find('\n', begin), text_.size());
    table_.header_source = std::make_shared<const Source>(
        storage_->file->path, std::string(text_.substr(first, end - first)), line);
    for (const Field& field : fields) {
      table_.headers.emplace_back(field.text);
      table_.header_spans.push_back({field.begin - first, std::max(field.end, field.begin + 1) - first});
    }
    if (layout_.second_header) join_second_header();
    table_.columns.resize(table_.headers.size());
  }

  // Headers over two lines: what stands below one another is one header.
  void join_second_header() {
    go_to(*layout_.second_header);
    const std::size_t begin = at_;
    std::vector<Field> fields;
    if (!read_record(fields)) return;
    if (fields.size() != table_.headers.size()) {
      const std::size_t end = std::min(text_.find('\n', begin), text_.size());
      fail(Code::ragged_row, begin, std::max<std::size_t>(end - begin, 1),
           {std::to_string(fields.size()), std::to_string(table_.headers.size())});
      return;
    }
    for (std::size_t i = 0; i < fields.size(); ++i) {
      std::string& header = table_.headers[i];
      const std::string_view below = trimmed(fields[i].text);
      header = trimmed(header);
      if (!header.empty() && !below.empty()) header += ' ';
      header += below;
    }
  }

  // Rows that all end with a delimiter have no further field there.
  void find_trailing_delimiters() {
    if (faults_ > 0 || form_.delimiter == kBlanks) return;
    const std::vector<std::string_view> lines =
        first_lines(text_.substr(std::min(at_, text_.size())), kLinesLookedAt, form_.comment);
    if (lines.empty() || !std::all_of(lines.begin(), lines.end(),
                                      [&](std::string_view line) { return line.ends_with(form_.delimiter); }))
      return;
    const std::size_t fields = count_fields(lines[0], form_.delimiter);
    const bool in_header = layout_.header && fields == table_.headers.size() && fields > 1 &&
                           trimmed(table_.headers.back()).empty();
    if (in_header) {
      table_.headers.pop_back();
      table_.header_spans.pop_back();
      table_.columns.pop_back();
      if (!table_.units.empty()) {
        table_.units.pop_back();
        table_.units_spans.pop_back();
      }
    }
    const bool without_header = !layout_.header && fields > 1;
    if (without_header) {
      table_.headers.pop_back();
      table_.columns.pop_back();
    }
    form_.trailing_delimiter = in_header || without_header || fields == table_.headers.size() + 1;
  }

  void read_rows() {
    if (read_plain_rows()) return;
    std::vector<Field> fields;
    const std::size_t width = table_.headers.size();
    while (!at_end()) {
      if (at_comment() || (at_blank_line() && (width > 1 || only_blank_lines_follow()))) {
        skip_line();
        continue;
      }
      const std::size_t begin = at_;
      const std::size_t line = line_;
      if (!read_record(fields)) return;
      if (form_.trailing_delimiter && fields.size() == width + 1 && fields.back().text.empty())
        fields.pop_back();
      if (form_.pads_short_rows && fields.size() < width) fields.resize(width);
      if (fields.size() != width) {
        Ragged& ragged = ragged_.try_emplace(fields.size(), Ragged{0, line}).first->second;
        ++ragged.count;
        const std::size_t end = std::min(text_.find('\n', begin), text_.size());
        fail(Code::ragged_row, begin, std::max<std::size_t>(end - begin, 1),
             {std::to_string(fields.size()), std::to_string(width)});
        continue;
      }
      for (std::size_t i = 0; i < width; ++i) table_.columns[i].push_back(fields[i].text);
      table_.lines.push_back(line);
    }
    if (!ragged_.empty()) explain_ragged_rows();
  }

  std::shared_ptr<const RowSource> row_source() const {
    return csv_row_source({storage_->file, at_, text_.size(), line_, table_.headers.size(), form_});
  }

  // The rows of a long table by several threads. False, and nothing read, where they are not plain.
  bool read_plain_rows() {
    constexpr std::size_t kLongTable = 1U << 20U;
    if (text_.size() - std::min(at_, text_.size()) < kLongTable) return false;
    const auto source = row_source();
    const std::vector<std::size_t> cuts = source->cuts();
    const std::size_t parts = cuts.size() - 1;
    std::vector<RawRows> rows(parts);
    std::vector<RowSource::Reading> readings(parts);
    for_each_part(parts, [&](std::size_t part) {
      readings[part] = source->read(cuts[part], cuts[part + 1], 0, rows[part]);
    });
    std::vector<std::size_t> first(parts + 1, 0);
    for (std::size_t part = 0; part < parts; ++part) {
      // A part that was begun inside a row would not begin where the one before ends.
      if (!readings[part].clean || readings[part].end != cuts[part + 1]) return false;
      first[part + 1] = first[part] + rows[part].rows();
    }
    const std::size_t width = table_.headers.size();
    std::vector<std::size_t> lines(parts, line_);
    for (std::size_t part = 1; part < parts; ++part) lines[part] = lines[part - 1] + readings[part - 1].lines;
    line_ = lines.back() + readings.back().lines;
    for (std::vector<std::string_view>& column : table_.columns) column.resize(first.back());
    table_.lines.resize(first.back());
    for_each_part(parts, [&](std::size_t part) {
      const auto begin = static_cast<std::ptrdiff_t>(first[part]);
      for (std::size_t i = 0; i < width; ++i)
        std::copy(rows[part].columns[i].begin(), rows[part].columns[i].end(),
                  table_.columns[i].begin() + begin);
      std::transform(rows[part].lines.begin(), rows[part].lines.end(), table_.lines.begin() + begin,
                     [&](std::size_t line) { return line + lines[part]; });
      rows[part].columns = {};
    });
    for (RawRows& part : rows) storage_->parts.push_back(std::move(part.unquoted));
    at_ = text_.size();
    return true;
  }

  // What explains lines of unlike width, when it can be told: lines before the table or below it.
  void explain_ragged_rows() {
    const auto usual = std::max_element(ragged_.begin(), ragged_.end(), [](const auto& a, const auto& b) {
      return a.second.count < b.second.count;
    });
    const std::size_t first =
        std::min_element(ragged_.begin(), ragged_.end(), [](const auto& a, const auto& b) {
          return a.second.first_line < b.second.first_line;
        })->second.first_line;
    const std::size_t good = table_.lines.size();
    if (layout_.header && usual->first > table_.headers.size() &&
        usual->second.count > std::max<std::size_t>(good, 1)) {
      const std::size_t begins = usual->second.first_line;
      // The lines in question are rows; what is wrong is the header.
      found_ = {};
      found_.add(Code::lines_before_header,
                 {storage_->file->path, std::to_string(layout_.header->number),
                  std::to_string(table_.headers.size()), std::to_string(usual->first), std::to_string(begins),
                  std::to_string(begins - 1)});
    } else if (std::all_of(ragged_.begin(), ragged_.end(),
                           [&](const auto& r) { return r.first < table_.headers.size(); }) &&
               good > 0 && table_.lines.back() > first) {
      found_.add(Code::rows_are_short, {storage_->file->path});
    } else if (good > 0 && first > table_.lines.back()) {
      const std::size_t below = line_ - first + layout_.skipped_end;
      found_.add(Code::lines_below_table,
                 {storage_->file->path, std::to_string(first), std::to_string(below)});
    }
  }

  bool only_blank_lines_follow() const {
    return text_.find_first_not_of("\r\n", at_) == std::string_view::npos;
  }

  std::shared_ptr<CsvStorage> storage_;
  const TableLayout& layout_;
  std::string_view text_;
  std::size_t at_ = 0;
  std::size_t line_ = 1;
  LineForm form_;
  Diagnostics& diagnostics_;
  std::size_t faults_ = 0;
  Diagnostics found_;
  // Records by their number of fields, where that is not the header's.
  struct Ragged {
    std::size_t count;
    std::size_t first_line;
  };
  std::map<std::size_t, Ragged> ragged_;
  RawTable table_;
};

// The lines before the header, or before the rows where there is none, without the signs of comments.
std::vector<std::string> lines_before(const InputFile& file, const TableLayout& layout) {
  constexpr std::size_t kMostLines = 500;
  const std::size_t end = layout.header ? layout.header->number : layout.rows.number;
  std::vector<std::string> lines;
  std::size_t at = 0;
  for (std::size_t number = 1; number < std::min(end, kMostLines) && at < file.text.size(); ++number) {
    const std::size_t stop = std::min(file.text.find('\n', at), file.text.size());
    std::string_view line = file.text.substr(at, stop - at);
    if (line.ends_with('\r')) line.remove_suffix(1);
    while (!layout.comment.empty() && line.starts_with(layout.comment))
      line.remove_prefix(layout.comment.size());
    // That the first line says the delimiter is no news of the table.
    const bool is_said = number == 1 && line.size() == 5 && line.substr(1).starts_with("ep=");
    const bool is_blank = line.find_first_not_of(" \t,;|") == std::string_view::npos;
    if (!is_blank && !is_said) lines.emplace_back(line);
    at = stop + 1;
  }
  return lines;
}

// Warns of a title line that a spreadsheet filled up with delimiters: a later line has all headers, and
// numbers stand below it.
void warn_of_title(const RawTable& table, const TableLayout& layout, const LineForm& form,
                   Diagnostics& diagnostics) {
  const auto is_empty = [](const std::string& header) { return trimmed(header).empty(); };
  const auto empty = std::count_if(table.headers.begin(), table.headers.end(), is_empty);
  if (static_cast<std::size_t>(empty) * 2 <= table.headers.size()) return;
  const InputFile& file = *std::static_pointer_cast<const CsvStorage>(table.storage)->file;
  const std::string_view text = file.text.substr(0, layout.end);
  const std::vector<std::string_view> lines =
      first_lines(text.substr(std::min(layout.rows.offset, text.size())), kLinesLookedAt, form.comment);
  const auto fields = [&](std::string_view line, bool numbers) {
    std::size_t count = 0;
    for (std::size_t at = 0; at <= line.size();) {
      const std::size_t end = std::min(line.find(form.delimiter, at), line.size());
      const std::string_view field = trimmed(line.substr(at, end - at));
      count += !field.empty() && (!numbers || read_number(field).fault == NumberFault::none) ? 1 : 0;
      at = end + 1;
    }
    return count;
  };
  const std::size_t width = table.headers.size();
  for (std::size_t i = 0; i + 1 < lines.size(); ++i) {
    if (fields(lines[i], false) < width || fields(lines[i + 1], true) * 2 < width) continue;
    const auto line = static_cast<std::size_t>(std::count(text.data(), lines[i].data(), '\n') + 1);
    diagnostics.add(
        Code::header_is_title, Place{table.header_source, table.header_spans[0]},
        {table.file, std::to_string(layout.header->number), std::to_string(line), std::to_string(line - 1)});
    return;
  }
}

// Where a line longer than any of a table begins; npos without one. Such a line covers one of the windows of
// half its length into which the text is divided.
std::size_t find_long_line(std::string_view text) {
  constexpr std::size_t kWindow = kLongestLine / 2;
  for (std::size_t begin = 0; begin + kWindow <= text.size(); begin += kWindow) {
    if (text.substr(begin, kWindow).find('\n') != std::string_view::npos) continue;
    const std::size_t before = text.substr(0, begin).rfind('\n');
    const std::size_t line = before == std::string_view::npos ? 0 : before + 1;
    if (std::min(text.find('\n', begin), text.size()) - line > kLongestLine) return line;
  }
  return std::string_view::npos;
}

}  // namespace

Result<RawTable> read_csv(const std::shared_ptr<const InputFile>& file, const ReadSettings& settings,
                          Diagnostics& diagnostics, Rows rows, std::size_t long_from) {
  if (file->text.find_first_not_of(" \t\r\n") == std::string::npos || file->text == "\xEF\xBB\xBF") {
    diagnostics.add(Code::empty_file, {file->path});
    return std::nullopt;
  }
  if (const std::size_t line = find_long_line(file->text); line != std::string_view::npos) {
    const auto number = std::count(file->text.data(), file->text.data() + line, '\n') + 1;
    diagnostics.add(Code::line_too_long,
                    {file->path, std::to_string(number), std::to_string(kLongestLine >> 20U)});
    return std::nullopt;
  }
  const bool leave_rows = rows != Rows::read && file->text.size() >= long_from;
  const bool unchecked = leave_rows && is_utf8(*file, settings.encoding);
  const auto decoded = unchecked ? without_mark(file) : decode(file, settings.encoding, diagnostics);
  if (!decoded) return std::nullopt;
  const auto layout = find_layout(*decoded->file, settings, diagnostics);
  if (!layout) return std::nullopt;
  if (layout->header && layout->header->offset >= layout->end) {
    diagnostics.add(Code::empty_file, {file->path});
    return std::nullopt;
  }
  LineForm form;
  form.comment = layout->comment;
  form.pads_short_rows = settings.short_rows_are_null;
  form.delimiter = settings.delimiter.value_or(layout->delimiter);
  auto table = CsvParser(decoded->file, *layout, form, diagnostics).run(leave_rows);
  if (!table) return std::nullopt;
  table->encoding = decoded->encoding;
  table->delimiter = form.delimiter;
  table->comment = form.comment;
  table->before = lines_before(*decoded->file, *layout);
  if (layout->header) table->header_line = layout->header->number;
  if (layout->header && !settings.header_line) warn_of_title(*table, *layout, form, diagnostics);
  if (table->rows() == 0 && !table->left_in_file) diagnostics.add(Code::no_rows, {file->path});
  return table;
}

}  // namespace opensum
