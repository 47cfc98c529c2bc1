// Names in SQL.
#pragma once

#include <string>

namespace opensum {

/// A name as SQL quotes it.
inline std::string sql_quoted(const std::string& name) {
  std::string text = "\"";
  for (const char c : name) text += c == '"' ? std::string("\"\"") : std::string(1, c);
  return text + '"';
}

}  // namespace opensum
