// What is to be said of the cells of a table once they are written as text.
#pragma once

#include <cstddef>
#include <map>
#include <set>
#include <string>

namespace opensum {

struct WrittenNotes {
  std::size_t formulas = 0;  ///< derived texts that look like one
  std::map<std::string, std::set<std::string>>
      limits;  ///< by column: nulls written as they were read, as `<0.05`

  void add(const WrittenNotes& more) {
    formulas += more.formulas;
    for (const auto& [column, texts] : more.limits) limits[column].insert(texts.begin(), texts.end());
  }
};

}  // namespace opensum
