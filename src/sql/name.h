// Names and texts in SQL.
#pragma once

#include <string>

namespace opensum {

/// A name as SQL quotes it.
inline std::string sql_quoted(const std::string& name) {
  std::string text = "\"";
  for (const char c : name) text += c == '"' ? std::string("\"\"") : std::string(1, c);
  return text + '"';
}

/// A text as SQL quotes it.
inline std::string sql_text(const std::string& words) {
  std::string text = "'";
  for (const char c : words) text += c == '\'' ? std::string("''") : std::string(1, c);
  return text + "'";
}

}  // namespace opensum
