// Workbooks made by hand for tests, part by part.
#pragma once

#include <zip.h>

#include <string>
#include <utility>
#include <vector>

namespace opensum {

/// A zip file of these parts.
inline std::string zip_bytes(const std::vector<std::pair<std::string, std::string>>& parts) {
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* target = zip_source_buffer_create(nullptr, 0, 0, &error);
  zip_source_keep(target);
  zip_t* zip = zip_open_from_source(target, ZIP_TRUNCATE, &error);
  for (const auto& [name, text] : parts) {
    zip_file_add(zip, name.c_str(), zip_source_buffer(zip, text.data(), text.size(), 0), 0);
  }
  zip_close(zip);
  zip_source_open(target);
  std::string bytes;
  char block[4096];
  for (zip_int64_t got = 1; got > 0;) {
    got = zip_source_read(target, block, sizeof block);
    if (got > 0) bytes.append(block, static_cast<std::size_t>(got));
  }
  zip_source_close(target);
  zip_source_free(target);
  zip_error_fini(&error);
  return bytes;
}

/// An OpenDocument workbook; `tables` are its table:table elements.
inline std::string ods_bytes(const std::string& tables, const std::string& manifest = "<m/>") {
  return zip_bytes({{"mimetype", "application/vnd.oasis.opendocument.spreadsheet"},
                    {"content.xml", "<office:document-content><office:body><office:spreadsheet>" + tables +
                                        "</office:spreadsheet></office:body></office:document-content>"},
                    {"META-INF/manifest.xml", manifest}});
}

/// A row of an OpenDocument table with texts.
inline std::string ods_row(const std::vector<std::string>& texts) {
  std::string row = "<table:table-row>";
  for (const std::string& text : texts) {
    row += "<table:table-cell office:value-type=\"string\"><text:p>" + text + "</text:p></table:table-cell>";
  }
  return row + "</table:table-row>";
}

/// An Office Open XML workbook with sheets of these names, each with what stands inside its worksheet
/// element.
inline std::string xlsx_bytes(const std::vector<std::pair<std::string, std::string>>& sheets,
                              const std::string& strings = "", const std::string& styles = "",
                              const std::string& workbook_settings = "") {
  std::string list;
  std::string relations;
  std::vector<std::pair<std::string, std::string>> parts;
  for (std::size_t i = 0; i < sheets.size(); ++i) {
    const std::string number = std::to_string(i + 1);
    list += "<sheet name=\"" + sheets[i].first + "\" sheetId=\"" + number + "\" r:id=\"r" + number + "\"/>";
    relations += "<Relationship Id=\"r" + number + "\" Type=\"t/worksheet\" Target=\"worksheets/s" + number +
                 ".xml\"/>";
    parts.emplace_back("xl/worksheets/s" + number + ".xml",
                       "<worksheet>" + sheets[i].second + "</worksheet>");
  }
  relations +=
      "<Relationship Id=\"a\" Type=\"t/sharedStrings\" Target=\"sharedStrings.xml\"/>"
      "<Relationship Id=\"b\" Type=\"t/styles\" Target=\"/xl/styles.xml\"/>";
  parts.emplace_back("xl/workbook.xml",
                     "<workbook>" + workbook_settings + "<sheets>" + list + "</sheets></workbook>");
  parts.emplace_back("xl/_rels/workbook.xml.rels", "<Relationships>" + relations + "</Relationships>");
  parts.emplace_back("xl/sharedStrings.xml", "<sst>" + strings + "</sst>");
  parts.emplace_back("xl/styles.xml", "<styleSheet>" + styles + "</styleSheet>");
  return zip_bytes(parts);
}

}  // namespace opensum
