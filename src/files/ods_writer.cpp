// Writing a workbook as OpenDocument.
#include <zip.h>

#include <algorithm>
#include <cstdio>
#include <memory>
#include <new>
#include <pugixml.hpp>

#include "base/unicode.h"
#include "files/output.h"
#include "files/table_writer.h"
#include "files/text_file.h"
#include "files/xml_text.h"

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

void add_sheet(pugi::xml_node book, const std::string& name, const WrittenSheet& sheet, Replaced& replaced) {
  pugi::xml_node table = book.append_child("table:table");
  set(table, "table:name", name);
  const std::vector<const Column*> columns = sheet.table->written();
  pugi::xml_node header = table.append_child("table:table-row");
  for (const Column* column : columns)
    add_text(header, header_text(*column, sheet.headers_are_symbols), replaced, "head");
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    pugi::xml_node row = table.append_child("table:table-row");
    for (const Column* column : columns) add_cell(row, *column, sheet.table->row_at(place), replaced);
  }
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

std::string content_xml(const std::vector<WrittenSheet>& sheets, Replaced& replaced) {
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

// All that was written into a source in memory.
std::string bytes_of(zip_source_t* source) {
  std::string bytes;
  if (zip_source_open(source) != 0) throw std::bad_alloc();
  zip_source_seek(source, 0, SEEK_END);
  bytes.resize(static_cast<std::size_t>(zip_source_tell(source)));
  zip_source_seek(source, 0, SEEK_SET);
  const zip_int64_t got = zip_source_read(source, bytes.data(), bytes.size());
  zip_source_close(source);
  if (got != static_cast<zip_int64_t>(bytes.size())) throw std::bad_alloc();
  return bytes;
}

}  // namespace

WrittenTables write_ods(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  WrittenTables written;
  const std::string mime_type = kMimeType;
  const std::string content = content_xml(sheets, written.replaced);
  const std::string manifest = manifest_xml();
  // Packed in memory: into a file, the library would write by way of one of a name of its own.
  zip_source_t* packed = zip_source_buffer_create(nullptr, 0, 0, nullptr);
  const std::unique_ptr<zip_source_t, void (*)(zip_source_t*)> kept(packed, zip_source_free);
  if (packed != nullptr) zip_source_keep(packed);
  zip_t* zip = packed == nullptr ? nullptr : zip_open_from_source(packed, ZIP_TRUNCATE, nullptr);
  if (zip == nullptr) throw std::bad_alloc();
  const bool added = add_part(zip, "mimetype", mime_type, false) &&
                     add_part(zip, "content.xml", content, true) &&
                     add_part(zip, "META-INF/manifest.xml", manifest, true);
  if (!added || zip_close(zip) != 0) {
    written.fault = zip_strerror(zip);
    zip_discard(zip);
    return written;
  }
  if (const int error = write_file(path, bytes_of(packed))) written.fault = system_reason(error);
  return written;
}

}  // namespace opensum
