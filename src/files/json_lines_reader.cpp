// Reading JSON lines, and lists of objects: the members of each object are the cells of a row.
#include <algorithm>
#include <cerrno>
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "base/limits.h"
#include "base/result.h"
#include "files/array_reader.h"
#include "files/spooled_table.h"

namespace opensum {
namespace {

using Json = nlohmann::ordered_json;

// The next line of a text, which is taken off its begin.
std::string_view take_line(std::string_view& text) {
  const std::size_t end = text.find('\n');
  std::string_view line = text.substr(0, end);
  text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
  if (line.ends_with('\r')) line.remove_suffix(1);
  return line;
}

bool is_blank(std::string_view line) { return line.find_first_not_of(" \t") == std::string_view::npos; }

// The members of an object, those of an object inside by both names; false at a list.
template <typename Visit>
bool for_each_member(const Json& object, const std::string& begin, const Visit& visit) {
  if (begin.size() > kDeepestJson) return false;
  for (const auto& [key, value] : object.items()) {
    if (value.is_array()) return false;
    if (value.is_object()) {
      if (!for_each_member(value, begin + key + ".", visit)) return false;
    } else {
      visit(begin + key, value);
    }
  }
  return true;
}

std::string text_of(const Json& value) {
  if (value.is_null()) return {};
  return value.is_string() ? value.get<std::string>() : value.dump();
}

}  // namespace

bool is_json_lines(std::string_view bytes) {
  const std::size_t begin = bytes.find_first_not_of(" \t\r\n");
  if (begin == std::string_view::npos || bytes[begin] != '{') return false;
  bytes.remove_prefix(begin);
  return Json::parse(take_line(bytes), nullptr, false).is_object();
}

bool is_json_list(std::string_view bytes) {
  const std::size_t begin = bytes.find_first_not_of(" \t\r\n");
  if (begin == std::string_view::npos || bytes[begin] != '[') return false;
  const std::size_t next = bytes.find_first_not_of(" \t\r\n", begin + 1);
  return next != std::string_view::npos && bytes[next] == '{';
}

Result<RawTable> read_json_list(const std::shared_ptr<const InputFile>& file,
                                const std::optional<std::string>& part, const Place& place, Rows rows,
                                Diagnostics& diagnostics) {
  const Json list = Json::parse(file->text, nullptr, false);
  if (!list.is_array()) {
    diagnostics.add(Code::file_damaged, place, {file->path, "JSON", "it is damaged"});
    return std::nullopt;
  }
  // An object on each line is what is read; its number is that of the object.
  Spool lines;
  for (const Json& object : list) lines.write(object.dump() + '\n');
  const auto text = lines.finish(*file);
  if (!text) {
    diagnostics.add(Code::file_damaged, place, {file->path, "JSON", system_reason(errno)});
    return std::nullopt;
  }
  return read_json_lines(text, part, place, rows, diagnostics);
}

Result<RawTable> read_json_lines(const std::shared_ptr<const InputFile>& file,
                                 const std::optional<std::string>& part, const Place& place, Rows rows,
                                 Diagnostics& diagnostics) {
  if (part) {
    diagnostics.add(Code::part_of_text, place, {file->path, *part});
    return std::nullopt;
  }
  // Once for the names, which any line may add to, and once for the rows.
  std::vector<SpooledColumn> columns;
  std::unordered_map<std::string, std::size_t> places;
  std::string_view text = file->text;
  for (std::size_t number = 1; !text.empty(); ++number) {
    const std::string_view line = take_line(text);
    if (is_blank(line)) continue;
    const Json object = Json::parse(line, nullptr, false);
    const bool good =
        object.is_object() && for_each_member(object, "", [&](const std::string& name, const Json&) {
          if (places.try_emplace(name, columns.size()).second) columns.push_back({name, {}});
        });
    if (!good) {
      diagnostics.add(
          Code::file_damaged, place,
          {file->path, "JSON lines",
           "line " + std::to_string(number) + (object.is_object() ? " holds a list" : " is no object")});
      return std::nullopt;
    }
    if (columns.size() > kMostColumns) {
      diagnostics.add(Code::too_many_columns, place,
                      {file->path, std::to_string(columns.size()), std::to_string(kMostColumns)});
      return std::nullopt;
    }
  }
  SpooledTable table(columns);
  std::vector<std::string> cells(columns.size());
  text = file->text;
  while (!text.empty()) {
    const char* const begin = text.data();
    const std::string_view line = take_line(text);
    if (is_blank(line)) continue;
    std::fill(cells.begin(), cells.end(), std::string());
    for_each_member(Json::parse(line, nullptr, false), "", [&](const std::string& name, const Json& value) {
      cells[places.at(name)] = text_of(value);
    });
    for (const std::string& cell : cells) table.add(cell);
    table.end_row();
    const auto at = static_cast<std::size_t>(begin - file->text.data());
    file->forget(at, at + line.size());
  }
  return table.finish(*file, file->path, rows, diagnostics);
}

}  // namespace opensum
