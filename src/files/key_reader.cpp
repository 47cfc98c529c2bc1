// Reading the keys of tables in a study.
#include "files/key_reader.h"

#include <fmt/format.h>

#include <algorithm>

#include "message/nearest.h"
#include "message/other_words.h"

namespace opensum {

void KeyReader::wrong_type(const Entry& entry, const std::string& wanted) {
  diagnostics_.add(Code::wrong_type, toml_.place(*entry.value), {entry.key, wanted});
}

void KeyReader::read_table(const toml::table& table, const Handlers& handlers) {
  for (const Entry& entry : toml_.entries(table)) {
    const auto found = std::find_if(handlers.begin(), handlers.end(),
                                    [&](const auto& handler) { return handler.first == entry.key; });
    if (found != handlers.end()) {
      found->second(entry);
      continue;
    }
    if (const std::string here = word_here(WordFor::key, entry.key); !here.empty()) {
      diagnostics_.add(Code::other_word, entry.place, {entry.key, here});
      continue;
    }
    std::vector<std::string> known;
    for (const auto& handler : handlers) known.push_back(handler.first);
    diagnostics_.add(Code::unknown_key, entry.place, {entry.key, nearest_name(entry.key, known)});
  }
}

const toml::table* KeyReader::table_of(const Entry& entry) {
  if (const toml::table* table = entry.value->as_table()) return table;
  wrong_type(entry, "a table");
  return nullptr;
}

std::optional<Passage> KeyReader::passage_of(const Entry& entry) {
  if (const auto* text = entry.value->as_string()) return toml_.passage(*text);
  wrong_type(entry, "a text in quotes");
  return std::nullopt;
}

void KeyReader::read_string(const Entry& entry, std::string& into) {
  if (const auto passage = passage_of(entry)) into = passage->text();
}

void KeyReader::read_passage(const Entry& entry, std::vector<Passage>& into) {
  if (auto passage = passage_of(entry)) into.push_back(std::move(*passage));
}

std::vector<Passage> KeyReader::passages_of(const Entry& entry) {
  std::vector<Passage> passages;
  if (const auto* text = entry.value->as_string()) {
    passages.push_back(toml_.passage(*text));
    return passages;
  }
  const toml::array* list = entry.value->as_array();
  if (list == nullptr) {
    wrong_type(entry, "a text in quotes or a list of them");
    return passages;
  }
  for (const toml::node& item : *list) {
    if (const auto* text = item.as_string()) {
      passages.push_back(toml_.passage(*text));
    } else {
      diagnostics_.add(Code::wrong_type, toml_.place(item), {entry.key, "a list of texts in quotes"});
    }
  }
  return passages;
}

std::vector<std::string> KeyReader::strings_of(const Entry& entry) {
  std::vector<std::string> strings;
  for (const Passage& passage : passages_of(entry)) strings.push_back(passage.text());
  return strings;
}

std::optional<std::size_t> KeyReader::word_of(const Entry& entry, const std::vector<std::string>& words) {
  const auto passage = passage_of(entry);
  if (!passage) return std::nullopt;
  const auto found = std::find(words.begin(), words.end(), passage->text());
  if (found != words.end()) return static_cast<std::size_t>(found - words.begin());
  std::string list;
  for (const std::string& word : words) list += (list.empty() ? "\"" : " or \"") + word + "\"";
  diagnostics_.add(Code::unknown_value, passage->place(), {passage->text(), list});
  return std::nullopt;
}

void KeyReader::read_truth(const Entry& entry, bool& into) {
  const auto* truth = entry.value->as_boolean();
  if (truth == nullptr) return wrong_type(entry, "true or false");
  into = truth->get();
}

void KeyReader::read_count(const Entry& entry, std::int64_t least, std::size_t& into, std::size_t most) {
  const auto* number = entry.value->as_integer();
  if (number != nullptr && number->get() >= least && static_cast<std::size_t>(number->get()) <= most) {
    into = static_cast<std::size_t>(number->get());
  } else if (most < kMostLines) {
    wrong_type(entry, fmt::format("a whole number from {} to {}", least, most));
  } else {
    wrong_type(entry, least == 0 ? "a number of 0 or more" : "a number of 1 or more");
  }
}

}  // namespace opensum
