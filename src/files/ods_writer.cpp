// Writing a workbook as OpenDocument.
#include <zip.h>

#include <algorithm>
#include <pugixml.hpp>
#include <sstream>

#include "files/table_writer.h"

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

void add_text(pugi::xml_node row, const std::string& text, const char* style = nullptr) {
  pugi::xml_node cell = row.append_child("table:table-cell");
  if (style != nullptr) set(cell, "table:style-name", style);
  set(cell, "office:value-type", "string");
  // The attribute holds the text as it is, blanks and line ends with it; the paragraph is what is shown.
  set(cell, "office:string-value", text);
  cell.append_child("text:p").text().set(text.c_str());
}

void add_cell(pugi::xml_node row, const Column& column, std::size_t index) {
  const std::string text = cell_text(column, index);
  if (column.null(index)) {
    if (!text.empty()) return add_text(row, text);
    row.append_child("table:table-cell");
    return;
  }
  if (column.kind == Kind::text) return add_text(row, text);
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

void add_sheet(pugi::xml_node book, const std::string& name, const WrittenSheet& sheet) {
  pugi::xml_node table = book.append_child("table:table");
  set(table, "table:name", name);
  const std::vector<const Column*> columns = sheet.table->written();
  pugi::xml_node header = table.append_child("table:table-row");
  for (const Column* column : columns)
    add_text(header, header_text(*column, sheet.headers_are_symbols), "head");
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    pugi::xml_node row = table.append_child("table:table-row");
    for (const Column* column : columns) add_cell(row, *column, sheet.table->row_at(place));
  }
}

void add_remarks(pugi::xml_node book, const std::string& name, const std::vector<WrittenSheet>& sheets) {
  pugi::xml_node table = book.append_child("table:table");
  set(table, "table:name", name);
  pugi::xml_node header = table.append_child("table:table-row");
  for (const std::string& title : remark_titles()) add_text(header, title, "head");
  for (const ColumnRemark& remark : column_remarks(sheets)) {
    pugi::xml_node row = table.append_child("table:table-row");
    for (const std::string& field : remark_fields(remark)) add_text(row, field);
  }
}

std::string content_xml(const std::vector<WrittenSheet>& sheets) {
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
    add_sheet(book, unused_name(sheet.name, std::string::npos, used), sheet);
  }
  add_remarks(book, unused_name("equations", std::string::npos, used), sheets);
  std::ostringstream text;
  document.save(text, "", pugi::format_raw, pugi::encoding_utf8);
  return text.str();
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
  std::ostringstream text;
  document.save(text, "", pugi::format_raw, pugi::encoding_utf8);
  return text.str();
}

bool add_part(zip_t* zip, const char* name, const std::string& text, bool packed) {
  zip_source_t* source = zip_source_buffer(zip, text.data(), text.size(), 0);
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

}  // namespace

WrittenTables write_ods(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  const std::string mime_type = kMimeType;
  const std::string content = content_xml(sheets);
  const std::string manifest = manifest_xml();
  int error = 0;
  zip_t* zip = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
  if (zip == nullptr) {
    zip_error_t words;
    zip_error_init_with_code(&words, error);
    WrittenTables written;
    written.fault = zip_error_strerror(&words);
    zip_error_fini(&words);
    return written;
  }
  const bool added = add_part(zip, "mimetype", mime_type, false) &&
                     add_part(zip, "content.xml", content, true) &&
                     add_part(zip, "META-INF/manifest.xml", manifest, true);
  if (added && zip_close(zip) == 0) return {};
  WrittenTables written;
  written.fault = zip_strerror(zip);
  zip_discard(zip);
  return written;
}

}  // namespace opensum
