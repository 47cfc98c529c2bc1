// Words that people bring from elsewhere, and what they are called here.
#pragma once

#include <string>
#include <string_view>

namespace opensum {

/// What a word names where it was written.
enum class WordFor : unsigned char { function, constants, key, option };

/// What to write instead of a word that is none here; empty where nothing is known to be meant.
std::string word_here(WordFor what, std::string_view word);

}  // namespace opensum
