// Words that people bring from elsewhere, and what they are called here.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// What a word names where it was written.
enum class WordFor : unsigned char { constants, name, sign, key, option, model, command };

/// What to write instead of a word that is none here; empty where nothing is known to be meant.
std::string word_here(WordFor what, std::string_view word);

/// What to write instead of a call of a function that is none here, with the arguments of the call put in
/// where their number is that of ours; empty where nothing is known to be meant.
std::string call_here(std::string_view function, const std::vector<std::string>& arguments);

/// Whether a function of elsewhere has none here that is like it, so that a name of near spelling means
/// another thing.
bool has_nothing_like(std::string_view function);

/// All such words of functions, for what goes over them.
std::vector<std::string> other_functions();

}  // namespace opensum
