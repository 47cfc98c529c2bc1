// How the lines of a table of text are divided into fields.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace opensum {

/// The delimiter that stands for any run of blanks and tabs.
constexpr char kBlanks = ' ';

/// The delimiter that a word names: `tab`, `blanks`, or one character. Nothing for anything else.
inline std::optional<char> delimiter_of(std::string_view word) {
  if (word == "tab" || word == "\\t") return '\t';
  if (word == "blanks") return kBlanks;
  const bool sign = word.size() == 1 && word[0] >= ' ' && word[0] < 0x7F && word[0] != '"';
  return sign || word == "\t" ? std::optional(word[0]) : std::nullopt;
}

/// The word for a delimiter.
inline std::string delimiter_word(char delimiter) {
  return delimiter == '\t' ? "tab" : delimiter == kBlanks ? "blanks" : std::string(1, delimiter);
}

struct LineForm {
  char delimiter = ',';
  /// What lines begin with that are comments; empty for none.
  std::string comment;
  /// A row of fewer fields than the header has nulls for the rest.
  bool pads_short_rows = false;
  /// Each row has a further delimiter at its end.
  bool trailing_delimiter = false;

  /// Whether each line is what its cells and the delimiters between them are.
  bool is_plain() const { return delimiter != kBlanks && comment.empty() && !trailing_delimiter; }
  /// How many blanks stand at the begin of a text that separate nothing, or nothing but words.
  std::size_t blanks_at(std::string_view text) const {
    const std::size_t end = text.find_first_not_of(delimiter == kBlanks ? " \t" : " ");
    return end == std::string_view::npos ? text.size() : end;
  }
  bool is_comment(std::string_view line) const { return !comment.empty() && line.starts_with(comment); }
};

inline bool is_blank_sign(char c) { return c == ' ' || c == '\t'; }

}  // namespace opensum
