// A text in pieces.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// The pieces of a text between the places where a sign stands. The end of the text ends a piece as the sign
/// does: `a,b` and `a,b,` have two, the empty text none.
inline std::vector<std::string> split(std::string_view text, char sign) {
  std::vector<std::string> pieces;
  while (!text.empty()) {
    const std::size_t end = text.find(sign);
    pieces.emplace_back(text.substr(0, end));
    if (end == std::string_view::npos) break;
    text.remove_prefix(end + 1);
  }
  return pieces;
}

}  // namespace opensum
