// Writing a workbook as OpenDocument.
#include <zip.h>

#include <algorithm>
#include <memory>
#include <new>
#include <pugixml.hpp>
#include <utility>

#include "base/unicode.h"
#include "files/column_spool.h"
#include "files/row_cells.h"
#include "files/table_writer.h"
#include "files/text_file.h"
#include "files/xml_text.h"
#include "files/zip_target.h"

namespace opensum {
namespace {

const char* const kMimeType = "application/vnd.oasis.opendocument.spreadsheet";

void set(pugi::xml_node node, const char* name, const std::string& value) {
  node.append_attribute(name).set_value(value.c_str());
}

// A style that shows dates, with or without the time of day.
void add_date_style(pugi::xml_node styles, const std::string& name, bool clock) {
  pugi::xml_node format = styles.append_child("number:date-style");
  set(format, "style:name", name + "-format");
  const auto part = [&](const char* what) { set(format.append_child(what), "number:style", "long"); };
  const auto text = [&](const char* sign) { format.append_child("number:text").text().set(sign); };
  part("number:year");
  text("-");
  part("number:month");
  text("-");
  part("number:day");
  if (clock) {
    text(" ");
    part("number:hours");
    text(":");
    part("number:minutes");
    text(":");
    part("number:seconds");
  }
  pugi::xml_node style = styles.append_child("style:style");
  set(style, "style:name", name);
  set(style, "style:family", "table-cell");
  set(style, "style:data-style-name", name + "-format");
}

// Texts with characters that XML cannot hold, which were replaced.
using Replaced = std::size_t;

void add_text(pugi::xml_node row, const std::string& raw, Replaced& replaced, const char* style = nullptr) {
  const std::string text = as_xml_text(raw);
  if (text != raw) ++replaced;
  pugi::xml_node cell = row.append_child("table:table-cell");
  if (style != nullptr) set(cell, "table:style-name", style);
  set(cell, "office:value-type", "string");
  // The attribute holds the text as it is, blanks and line ends with it; the paragraph is what is shown.
  set(cell, "office:string-value", text);
  cell.append_child("text:p").text().set(text.c_str());
}

void add_cell(pugi::xml_node row, const Column& column, std::size_t index, Replaced& replaced) {
  const std::string text = cell_text(column, index);
  if (column.null(index)) {
    if (!text.empty()) return add_text(row, text, replaced);
    row.append_child("table:table-cell");
    return;
  }
  if (column.kind == Kind::text) return add_text(row, text, replaced);
  pugi::xml_node cell = row.append_child("table:table-cell");
  switch (column.kind) {
    case Kind::number:
      set(cell, "office:value-type", "float");
      set(cell, "office:value", text);
      break;
    case Kind::truth:
      set(cell, "office:value-type", "boolean");
      set(cell, "office:boolean-value", text);
      break;
    default: {
      const bool clock = text.size() > std::string_view("2031-04-02").size();
      std::string value = text;
      std::replace(value.begin(), value.end(), ' ', 'T');
      set(cell, "table:style-name", clock ? "moment" : "day");
      set(cell, "office:value-type", "date");
      set(cell, "office:date-value", value);
      break;
    }
  }
  cell.append_child("text:p").text().set(text.c_str());
}

// A sheet without its rows.
void add_sheet(pugi::xml_node book, const std::string& name, const WrittenSheet& sheet, Replaced& replaced) {
  pugi::xml_node table = book.append_child("table:table");
  set(table, "table:name", name);
  pugi::xml_node header = table.append_child("table:table-row");
  for (const Column* column : sheet.table->written())
    add_text(header, header_text(*column, sheet.headers_are_symbols), replaced, "head");
}

void add_remarks(pugi::xml_node book, const std::string& name, const std::vector<WrittenSheet>& sheets,
                 Replaced& replaced) {
  pugi::xml_node table = book.append_child("table:table");
  set(table, "table:name", name);
  pugi::xml_node header = table.append_child("table:table-row");
  for (const std::string& title : remark_titles()) add_text(header, title, replaced, "head");
  for (const ColumnRemark& remark : column_remarks(sheets)) {
    pugi::xml_node row = table.append_child("table:table-row");
    for (const std::string& field : remark_fields(remark)) add_text(row, field, replaced);
  }
}

// The content, but for the rows of the sheets.
std::string content_without_rows(const std::vector<WrittenSheet>& sheets, Replaced& replaced) {
  pugi::xml_document document;
  pugi::xml_node root = document.append_child("office:document-content");
  for (const char* space : {"office", "style", "text", "table"}) {
    set(root, (std::string("xmlns:") + space).c_str(),
        std::string("urn:oasis:names:tc:opendocument:xmlns:") + space + ":1.0");
  }
  set(root, "xmlns:number", "urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0");
  set(root, "xmlns:fo", "urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0");
  set(root, "office:version", "1.3");
  pugi::xml_node styles = root.append_child("office:automatic-styles");
  add_date_style(styles, "day", false);
  add_date_style(styles, "moment", true);
  pugi::xml_node head = styles.append_child("style:style");
  set(head, "style:name", "head");
  set(head, "style:family", "table-cell");
  set(head.append_child("style:text-properties"), "fo:font-weight", "bold");
  pugi::xml_node book = root.append_child("office:body").append_child("office:spreadsheet");
  std::vector<std::string> used;
  for (const WrittenSheet& sheet : sheets) {
    add_sheet(book, unused_name(sheet.name, std::string::npos, used), sheet, replaced);
  }
  add_remarks(book, unused_name("equations", std::string::npos, used), sheets, replaced);
  return xml_text(document, XmlDeclaration::first);
}

std::string manifest_xml() {
  pugi::xml_document document;
  pugi::xml_node root = document.append_child("manifest:manifest");
  set(root, "xmlns:manifest", "urn:oasis:names:tc:opendocument:xmlns:manifest:1.0");
  set(root, "manifest:version", "1.3");
  const auto entry = [&](const char* path, const char* type) {
    pugi::xml_node file = root.append_child("manifest:file-entry");
    set(file, "manifest:full-path", path);
    set(file, "manifest:media-type", type);
  };
  entry("/", kMimeType);
  entry("content.xml", "text/xml");
  return xml_text(document, XmlDeclaration::first);
}

// The content with the rows of the sheets, which are taken from where they wait one piece at a time.
class Content {
 public:
  // `without_rows` closes the table of each sheet of `rows` in turn.
  Content(const std::string& without_rows, ColumnSpool& rows, std::size_t sheets) : rows_(rows) {
    constexpr std::string_view kEnd = "</table:table>";
    std::size_t begin = 0;
    for (std::size_t sheet = 0; sheet < sheets; ++sheet) {
      const std::size_t end = without_rows.find(kEnd, begin + (sheet == 0 ? 0 : kEnd.size()));
      between_.push_back(without_rows.substr(begin, end - begin));
      begin = end;
      size_ += rows.size(sheet);
    }
    between_.push_back(without_rows.substr(begin));
    size_ += without_rows.size();
  }

  // A source of an archive that reads it; `self` is one of these.
  static zip_int64_t read(void* self, void* data, zip_uint64_t size, zip_source_cmd_t command) {
    Content& own = *static_cast<Content*>(self);
    switch (command) {
      case ZIP_SOURCE_SUPPORTS:
        return zip_source_make_command_bitmap(ZIP_SOURCE_OPEN, ZIP_SOURCE_READ, ZIP_SOURCE_CLOSE,
                                              ZIP_SOURCE_STAT, ZIP_SOURCE_ERROR, ZIP_SOURCE_FREE, -1);
      case ZIP_SOURCE_OPEN:
        own.sheet_ = 0;
        own.piece_ = 0;
        own.at_ = 0;
        own.left_ = own.between_.front();
        return 0;
      case ZIP_SOURCE_READ:
        return own.take(static_cast<char*>(data), size);
      case ZIP_SOURCE_STAT: {
        auto* const facts = static_cast<zip_stat_t*>(data);
        zip_stat_init(facts);
        facts->size = own.size_;
        facts->valid = ZIP_STAT_SIZE;
        return sizeof *facts;
      }
      case ZIP_SOURCE_ERROR: {
        zip_error_t error;
        zip_error_init(&error);
        zip_error_set(&error, ZIP_ER_READ, own.rows_.error());
        return zip_error_to_data(&error, data, size);
      }
      default:
        return 0;
    }
  }

 private:
  zip_int64_t take(char* to, std::size_t room) {
    std::size_t taken = 0;
    while (taken < room && (at_ < left_.size() || next())) {
      const std::size_t part = std::min(room - taken, left_.size() - at_);
      std::copy_n(left_.data() + at_, part, to + taken);
      at_ += part;
      taken += part;
    }
    return rows_.error() == 0 ? static_cast<zip_int64_t>(taken) : -1;
  }

  // The next piece: the rows of a sheet, then what stands behind them; false at the end.
  bool next() {
    if (sheet_ + 1 == between_.size()) return false;
    at_ = 0;
    if (piece_ < rows_.pieces(sheet_)) {
      left_ = rows_.piece(sheet_, piece_++);
      return true;
    }
    piece_ = 0;
    left_ = between_[++sheet_];
    return true;
  }

  ColumnSpool& rows_;
  std::vector<std::string> between_;
  std::size_t size_ = 0;
  std::size_t sheet_ = 0;
  std::size_t piece_ = 0;
  std::string left_;
  std::size_t at_ = 0;
};

bool add_part(zip_t* zip, const char* name, zip_source_t* source, bool packed) {
  if (source == nullptr) return false;
  const zip_int64_t index = zip_file_add(zip, name, source, ZIP_FL_ENC_UTF_8);
  if (index < 0) {
    zip_source_free(source);
    return false;
  }
  const auto part = static_cast<zip_uint64_t>(index);
  // The first day that the format knows: the time of making would differ from run to run.
  constexpr zip_uint16_t kFirstDay = 0x21;
  zip_set_file_compression(zip, part, packed ? ZIP_CM_DEFLATE : ZIP_CM_STORE, 0);
  zip_file_set_dostime(zip, part, 0, kFirstDay, 0);
  return true;
}

zip_source_t* text_source(zip_t* zip, const std::string& text) {
  return zip_source_buffer(zip, text.data(), text.size(), 0);
}

class OdsTables : public GrowingTables {
 public:
  OdsTables(std::string path, const std::vector<WrittenSheet>& sheets)
      : path_(std::move(path)),
        sheets_(sheets.size()),
        rows_(sheets.size(), path_),
        counts_(sheets.size()),
        content_(content_without_rows(sheets, replaced_)) {}

  bool put(std::size_t sheet, std::string_view rows) override {
    // A longer one is refused when all rows are counted.
    while (!rows.empty() && counts_[sheet] < kWorkbookRows) {
      ++counts_[sheet];
      replaced_ += take_value<Replaced>(rows);
      rows_.add(sheet, take_sized(rows));
    }
    return rows_.error() == 0;
  }

  WrittenTables finish() override {
    WrittenTables written;
    written.replaced = replaced_;
    written.fault = fault();
    return written;
  }

 private:
  // Writes the file; what went wrong, empty when all is well.
  std::string fault() {
    if (rows_.error() != 0) return system_reason(rows_.error());
    const std::string mime_type = kMimeType;
    const std::string manifest = manifest_xml();
    Content content(content_, rows_, sheets_);
    ZipTarget target(path_);
    zip_t* zip = target.archive();
    if (target.error() != 0) return system_reason(target.error());
    if (zip == nullptr) throw std::bad_alloc();
    const bool added =
        add_part(zip, "mimetype", text_source(zip, mime_type), false) &&
        add_part(zip, "content.xml", zip_source_function(zip, Content::read, &content), true) &&
        add_part(zip, "META-INF/manifest.xml", text_source(zip, manifest), true);
    if (added && zip_close(zip) == 0) return "";
    const std::string why = target.error() != 0 ? system_reason(target.error()) : zip_strerror(zip);
    zip_discard(zip);
    return why;
  }

  std::string path_;
  std::size_t sheets_;
  ColumnSpool rows_;  // by sheet
  std::vector<std::size_t> counts_;
  Replaced replaced_ = 0;
  std::string content_;
};

}  // namespace

std::unique_ptr<GrowingTables> begin_ods(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  return std::make_unique<OdsTables>(path, sheets);
}

void append_ods_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  const std::vector<const Column*> columns = sheet.table->written();
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    pugi::xml_document document;
    pugi::xml_node row = document.append_child("table:table-row");
    Replaced replaced = 0;
    for (const Column* column : columns) add_cell(row, *column, sheet.table->row_at(place), replaced);
    append_value(out, replaced);
    append_sized(out, xml_text(row));
    if (ends != nullptr) ends->push_back(out.size());
  }
}

}  // namespace opensum
