// Texts inside markup.
#include "files/markup.h"

#include "base/unicode.h"

namespace opensum {

void append_escaped(std::string& out, std::string_view raw) {
  for (const char c : as_xml_text(raw)) {
    switch (c) {
      case '&':
        out += "&amp;";
        break;
      case '<':
        out += "&lt;";
        break;
      case '>':
        out += "&gt;";
        break;
      case '"':
        out += "&quot;";
        break;
      default:
        out += c;
    }
  }
}

std::string escaped(std::string_view text) {
  std::string out;
  append_escaped(out, text);
  return out;
}

}  // namespace opensum
