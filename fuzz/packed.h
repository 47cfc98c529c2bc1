// Workbooks around a part that is fuzzed.
#pragma once

#include "files/workbook_bytes.h"

namespace opensum {

/// A workbook of one sheet, whose XML is given, with some shared strings and styles.
inline std::string packed_xlsx(const std::string& sheet) {
  return zip_bytes(
      {{"xl/workbook.xml",
        "<workbook xmlns:r='r'><sheets><sheet name='S' sheetId='1' r:id='a'/></sheets></workbook>"},
       {"xl/_rels/workbook.xml.rels",
        "<R><Relationship Id='a' Type='t/worksheet' Target='worksheets/s.xml'/>"
        "<Relationship Id='b' Type='t/sharedStrings' Target='strings.xml'/>"
        "<Relationship Id='c' Type='t/styles' Target='styles.xml'/></R>"},
       {"xl/strings.xml", "<sst><si><t>x (m)</t></si><si><r><t>a</t></r><r><t>_x000D_</t></r></si></sst>"},
       {"xl/styles.xml",
        "<styleSheet><numFmts><numFmt numFmtId='164' formatCode='[h]:mm'/></numFmts><cellXfs><xf "
        "numFmtId='0'/><xf numFmtId='14'/><xf numFmtId='164'/><xf numFmtId='9'/></cellXfs></styleSheet>"},
       {"xl/worksheets/s.xml", sheet}});
}

/// A workbook whose content is given.
inline std::string packed_ods(const std::string& content) {
  return zip_bytes(
      {{"mimetype", "application/vnd.oasis.opendocument.spreadsheet"}, {"content.xml", content}});
}

}  // namespace opensum
