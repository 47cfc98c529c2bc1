// Words in sentences.
#pragma once

#include <string>

namespace opensum {

/// With a capital letter at its begin, if that is one of a to z.
inline std::string sentence_case(std::string text) {
  if (!text.empty() && text[0] >= 'a' && text[0] <= 'z') text[0] = static_cast<char>(text[0] - 'a' + 'A');
  return text;
}

/// The same with a full stop at its end; empty for nothing.
inline std::string full_sentence(const std::string& text) {
  const std::string sentence = sentence_case(text);
  return sentence.empty() || sentence.back() == '.' ? sentence : sentence + ".";
}

}  // namespace opensum
