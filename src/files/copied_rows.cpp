// Cells as a database server copies them.
#include "files/copied_rows.h"

namespace opensum {

std::optional<std::string> copied_cell(std::string_view field) {
  if (field == "\\N") return std::nullopt;
  std::string text;
  text.reserve(field.size());
  for (std::size_t i = 0; i < field.size(); ++i) {
    if (field[i] != '\\' || i + 1 == field.size()) {
      text += field[i];
      continue;
    }
    constexpr std::string_view kLetters = "bfnrtv";
    constexpr std::string_view kMeant = "\b\f\n\r\t\v";
    const std::size_t letter = kLetters.find(field[++i]);
    text += letter == std::string_view::npos ? field[i] : kMeant[letter];
  }
  return text;
}

}  // namespace opensum
