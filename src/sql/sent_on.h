// SQL in the words that a server sends on to the servers of its foreign tables.
#pragma once

#include <string>

namespace opensum {

/// The same SQL without what the wrapper of foreign tables computes itself, for which all rows that it needs
/// would travel: `coalesce` and `nullif` are said by functions and CASE. `sql` is well-formed.
std::string in_words_sent_on(const std::string& sql);

}  // namespace opensum
