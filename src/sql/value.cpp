// A value of the equation language as SQL.
#include "sql/value.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace opensum {

std::string sql_number(double number) {
  // The shortest text that is read as the same number; the server reads it by the same rules.
  const std::string text = fmt::format("{}", number);
  return number < 0 || std::signbit(number) ? "(" + text + ")" : text;
}

std::string sql_null(Reason reason, OriginId own) {
  return std::to_string((static_cast<std::uint64_t>(own) << 8U) | static_cast<std::uint64_t>(reason));
}

std::string in_brackets(const std::string& sql) {
  if (sql.empty()) return sql;
  const bool name = sql.front() == '"' && sql.find('"', 1) == sql.size() - 1;
  const bool word = std::all_of(sql.begin(), sql.end(), [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '.';
  });
  if (name || word) return sql;
  // A call or brackets that span all of it.
  if (sql.back() == ')') {
    int depth = 0;
    bool quoted = false;
    for (std::size_t i = 0; i < sql.size(); ++i) {
      if (sql[i] == '\'') quoted = !quoted;
      if (quoted) continue;
      if (sql[i] == '(') ++depth;
      if (sql[i] == ')' && --depth == 0 && i + 1 < sql.size()) return '(' + sql + ')';
      const bool of_word =
          (sql[i] >= 'a' && sql[i] <= 'z') || sql[i] == '_' || (sql[i] >= '0' && sql[i] <= '9');
      if (depth == 0 && sql[i] != ')' && !of_word) return '(' + sql + ')';
    }
    return sql;
  }
  return '(' + sql + ')';
}

std::string first_known(std::initializer_list<std::string> values) {
  std::string list;
  int count = 0;
  for (const std::string& value : values) {
    if (value.empty()) continue;
    list += (count++ == 0 ? "" : ", ") + value;
  }
  return count > 1 ? "coalesce(" + list + ')' : list;
}

}  // namespace opensum
