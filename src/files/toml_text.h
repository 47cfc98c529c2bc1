// A TOML document whose strings know where each of their bytes stands, and whose tables keep the written
// order; both are lost in parsing and rebuilt here from the raw bytes.
#pragma once

#include <toml++/toml.h>

#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/result.h"
#include "message/diagnostic.h"
#include "message/source.h"

namespace opensum {

class TomlText {
 public:
  /// Parses a document; nothing after a reported error.
  static Result<TomlText> parse(std::shared_ptr<const Source> source, Diagnostics& diagnostics);

  const toml::table& root() const { return root_; }

  struct Entry {
    std::string key;
    Place place;  ///< of the key
    const toml::node* value;
  };
  /// The entries of a table in the order in which they are written.
  std::vector<Entry> entries(const toml::table& table) const;

  /// The content of a string value as a passage.
  Passage passage(const toml::value<std::string>& value) const;
  /// A key as a passage.
  Passage key_passage(const Entry& entry) const;
  /// Where a value begins, to the end of its line at most.
  Place place(const toml::node& node) const;

  /// What stands at a place.
  std::string written(const Place& place) const;

 private:
  TomlText(std::shared_ptr<const Source> source, toml::table root)
      : source_(std::move(source)), root_(std::move(root)) {}
  std::size_t offset(const toml::source_position& position) const;

  std::shared_ptr<const Source> source_;
  toml::table root_;
};

}  // namespace opensum
