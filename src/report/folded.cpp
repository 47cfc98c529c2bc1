// Text on lines that are not too wide for a terminal.
#include "report/folded.h"

#include <algorithm>

#include "base/unicode.h"

namespace opensum {

std::string folded(const std::string& text, std::size_t indent) {
  std::string out;
  std::string line;
  for (std::size_t begin = 0; begin < text.size();) {
    const std::size_t end = std::min(text.find(' ', begin), text.size());
    const std::string word = text.substr(begin, end - begin);
    if (display_width(line) + 1 + display_width(word) > kLineWidth && display_width(line) > indent) {
      out += line + '\n';
      line = std::string(indent, ' ') + word;
    } else {
      line += (begin == 0 ? "" : " ") + word;
    }
    begin = end + 1;
  }
  return out + line + '\n';
}

}  // namespace opensum
