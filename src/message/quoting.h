// Texts as a study and a shell read them, so that hints can be pasted.
#pragma once

#include <string>
#include <string_view>

namespace opensum {

/// A text in quotes as TOML writes it.
std::string toml_quoted(std::string_view text);

/// A text as one word of a command line: as it is where a shell leaves it alone, else in single quotes.
std::string shell_word(std::string_view text);

}  // namespace opensum
