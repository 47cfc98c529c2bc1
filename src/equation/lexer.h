// First stage of an equation: text to tokens. Sole entry point: tokenize.
#pragma once

#include <string>
#include <vector>

#include "message/diagnostic.h"
#include "message/source.h"

namespace opensum {

enum class TokenKind : std::uint8_t {
  number,
  name,
  quoted_name,  ///< in backticks
  text,         ///< in double quotes
  unit,         ///< in square brackets
  plus,
  minus,
  times,
  divide,
  power,
  plus_minus,
  equal,  ///< ==
  not_equal,
  less,
  less_equal,
  greater,
  greater_equal,
  assign,  ///< =
  open,
  close,
  comma,
  dot,
  range,  ///< ..
  colon,
  line_end,
  end,
  broken,  ///< reported already
};

struct Token {
  TokenKind kind = TokenKind::end;
  Span span;
  /// The content: digits of a number, a name, a text without its quotes, a unit without its brackets.
  std::string text;
  bool blank_before = false;
};

/// Tokens of a passage, always closed by `end`. What is no token is reported and becomes `broken`. Comments
/// are left out; line ends inside round brackets are left out too, so that a definition can go on.
std::vector<Token> tokenize(const Passage& passage, Diagnostics& diagnostics);

}  // namespace opensum
