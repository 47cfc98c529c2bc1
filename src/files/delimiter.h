// What separates the fields of a table of text, found by its first lines.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "files/line_form.h"

namespace opensum {

/// The separator that the first lines agree on most: tab, semicolon, comma or bar, but not the decimal sign;
/// kBlanks where all lines have as many words, or those from one on that are mostly numbers; a comma when
/// none does. Lines that are comments do not count.
char find_delimiter(std::string_view text, char decimal = '.', const std::string& comment = "");

/// The fields of a line divided by runs of blanks and tabs, those inside quotes left out.
std::vector<std::string_view> words_of(std::string_view line);
/// The same divided by tabs and by two or more blanks, as headers of several words are.
std::vector<std::string_view> wide_words_of(std::string_view line);

/// The fields of a line as far as they can be told without the lines around it.
std::size_t count_fields(std::string_view line, char delimiter);

/// The first lines that hold anything and are no comments, without their ends.
std::vector<std::string_view> first_lines(std::string_view text, std::size_t most,
                                          const std::string& comment);

}  // namespace opensum
