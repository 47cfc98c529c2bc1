// SQL in the words that a server sends on to the servers of its foreign tables.
#include "sql/sent_on.h"

#include <fmt/format.h>

#include <algorithm>
#include <string_view>
#include <vector>

namespace opensum {
namespace {

// Where what begins at a place ends: a quoted name or text, a remark, or one character.
std::size_t after_piece(std::string_view sql, std::size_t at) {
  if (sql.substr(at).starts_with("--")) return std::min(sql.find('\n', at), sql.size());
  if (sql[at] != '\'' && sql[at] != '"') return at + 1;
  // A doubled quote ends one piece and begins the next.
  return std::min(sql.find(sql[at], at + 1), sql.size() - 1) + 1;
}

// The arguments of a call whose bracket opens at a place, and the place behind the one that closes it.
struct Arguments {
  std::vector<std::string_view> each;
  std::size_t end = 0;
};

Arguments arguments_at(std::string_view sql, std::size_t bracket) {
  Arguments found;
  int depth = 0;
  std::size_t begin = bracket + 1;
  for (std::size_t at = bracket; at < sql.size(); at = after_piece(sql, at)) {
    if (sql[at] == '(' || sql[at] == '[') ++depth;
    if (sql[at] == ')' || sql[at] == ']') --depth;
    if (depth > 1 || (depth == 1 && sql[at] != ',')) continue;
    found.each.push_back(sql.substr(begin, at - begin));
    begin = at + 1;
    found.end = begin;
    if (depth == 0) break;
  }
  return found;
}

bool is_of_word(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '"';
}

}  // namespace

std::string in_words_sent_on(const std::string& sql) {
  const std::string_view all = sql;
  std::string out;
  for (std::size_t at = 0; at < all.size();) {
    const bool begins = at == 0 || !is_of_word(all[at - 1]);
    const std::string_view rest = all.substr(at);
    const bool first = begins && rest.starts_with("coalesce(");
    if (!first && !(begins && rest.starts_with("nullif("))) {
      const std::size_t next = after_piece(all, at);
      out += all.substr(at, next - at);
      at = next;
      continue;
    }
    const Arguments arguments = arguments_at(all, rest.find('(') + at);
    std::vector<std::string> each;
    for (const std::string_view argument : arguments.each)
      each.push_back(in_words_sent_on(std::string(argument)));
    // Each argument stands there once, so that nested ones do not grow.
    if (first) {
      out += fmt::format("(array_remove(ARRAY[{}], NULL))[1]", fmt::join(each, ","));
    } else if (each.front().find('(') == std::string::npos) {
      out += fmt::format("CASE WHEN {0} <>{1} THEN {0} END", each[0], each[1]);
    } else {
      out += fmt::format("(array_remove(ARRAY[{}],{}))[1]", each[0], each[1]);
    }
    at = arguments.end;
  }
  return out;
}

}  // namespace opensum
