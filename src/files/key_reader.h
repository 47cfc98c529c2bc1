// Reading the keys of tables in a study: what every table does alike.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/limits.h"
#include "files/toml_text.h"
#include "message/diagnostic.h"

namespace opensum {

using Entry = TomlText::Entry;

/// What to do with the value of each key of a table.
using Handlers = std::vector<std::pair<std::string, std::function<void(const Entry&)>>>;

/// Reads values of the types that keys take; other types are reported. The text and the diagnostics must
/// outlive it.
class KeyReader {
 public:
  KeyReader(const TomlText& toml, Diagnostics& diagnostics) : toml_(toml), diagnostics_(diagnostics) {}

 protected:
  /// Reports a value that is not what its key takes.
  void wrong_type(const Entry& entry, const std::string& wanted);
  /// Calls the handler of each key; a key without one is reported with the nearest that has one.
  void read_table(const toml::table& table, const Handlers& handlers);
  /// A table; a null pointer after a reported error.
  const toml::table* table_of(const Entry& entry);
  std::optional<Passage> passage_of(const Entry& entry);
  void read_string(const Entry& entry, std::string& into);
  void read_passage(const Entry& entry, std::vector<Passage>& into);
  /// One text, or a list of texts.
  std::vector<Passage> passages_of(const Entry& entry);
  std::vector<std::string> strings_of(const Entry& entry);
  /// One of a few words; gives its index, or nothing after a reported error.
  std::optional<std::size_t> word_of(const Entry& entry, const std::vector<std::string>& words);
  /// A whole number of at least 0 or 1.
  void read_truth(const Entry& entry, bool& into);
  void read_count(const Entry& entry, std::int64_t least, std::size_t& into, std::size_t most = kMostLines);

  const TomlText& toml_;
  Diagnostics& diagnostics_;
};

}  // namespace opensum
