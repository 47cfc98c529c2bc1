// Where a table of a database server is.
#include "files/database_address.h"

#include <algorithm>
#include <array>

namespace opensum {
namespace {

constexpr std::array<std::string_view, 2> kSchemes = {"postgresql://", "postgres://"};

std::string_view scheme_of(std::string_view path) {
  for (const std::string_view scheme : kSchemes) {
    if (path.starts_with(scheme)) return scheme;
  }
  return {};
}

// Where the password begins and ends between `user:` and `@`; both the end of the text where there is none.
std::pair<std::size_t, std::size_t> password_of_user(std::string_view server) {
  const std::size_t begin = scheme_of(server).size();
  const std::size_t end = std::min(server.find_first_of("/?#", begin), server.size());
  const std::size_t at = server.substr(0, end).rfind('@');
  const std::size_t colon = server.find(':', begin);
  if (at == std::string_view::npos || at < begin || colon >= at) return {server.size(), server.size()};
  return {colon + 1, at};
}

// Where the value of a parameter `password=` begins and ends.
std::pair<std::size_t, std::size_t> password_parameter(std::string_view server) {
  constexpr std::string_view kName = "password=";
  for (std::size_t at = server.find('?'); at != std::string_view::npos; at = server.find('&', at + 1)) {
    const std::size_t begin = at + 1;
    // `sslpassword` is one, too.
    const std::size_t value = server.substr(begin).starts_with("ssl") ? begin + 3 : begin;
    if (!server.substr(value).starts_with(kName)) continue;
    return {value + kName.size(), std::min(server.find_first_of("&#", value), server.size())};
  }
  return {server.size(), server.size()};
}

}  // namespace

bool is_database_address(std::string_view path) { return !scheme_of(path).empty(); }

DatabaseAddress database_address(const std::string& path) {
  DatabaseAddress address;
  const std::size_t sign = path.find('#');
  address.server = path.substr(0, sign);
  if (sign == std::string::npos) return address;
  const std::string part = path.substr(sign + 1);
  if (part.starts_with('(') && part.ends_with(')')) {
    address.query = part.substr(1, part.size() - 2);
  } else {
    address.table = part;
  }
  return address;
}

std::string DatabaseAddress::shown() const {
  std::string text = without_password(server);
  if (!query.empty()) return text + "#(" + query + ')';
  return table.empty() ? text : text + '#' + table;
}

std::string table_for_sheet(const std::string& address, const std::string& sheet) {
  constexpr std::string_view kSheet = "{sheet}";
  std::string text = address;
  const std::size_t at = text.find(kSheet);
  if (at != std::string::npos) text.replace(at, kSheet.size(), sheet);
  return text;
}

std::string table_name(const std::string& address) {
  const std::string& table = database_address(address).table;
  return table.substr(table.find('.') == std::string::npos ? 0 : table.find('.') + 1);
}

bool has_password(std::string_view server) {
  return password_of_user(server).first < server.size() || password_parameter(server).first < server.size();
}

std::string without_password(std::string_view path) {
  std::string text(path);
  const auto hide = [&](const std::pair<std::size_t, std::size_t>& place) {
    if (place.first < text.size()) text.replace(place.first, place.second - place.first, "…");
  };
  hide(password_parameter(text));
  hide(password_of_user(text));
  return text;
}

}  // namespace opensum
