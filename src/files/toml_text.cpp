// A TOML document whose strings know where each of their bytes stands.
#include "files/toml_text.h"

#include <algorithm>
#include <array>

#include "base/limits.h"
#include "base/result.h"
#include "base/unicode.h"
#include "message/quoting.h"

namespace opensum {
namespace {

// The decoded content of a string literal, with the offset of each decoded byte and of the end.
struct Decoded {
  std::string text;
  std::vector<std::size_t> offsets;
};

void append_utf8(Decoded& out, std::uint32_t code, std::size_t offset) {
  const std::size_t before = out.text.size();
  opensum::append_utf8(out.text, code);
  out.offsets.insert(out.offsets.end(), out.text.size() - before, offset);
}

// Decodes the string literal that begins at `at`; the document is known to be valid TOML.
class StringDecoder {
 public:
  StringDecoder(std::string_view raw, std::size_t at) : raw_(raw), at_(at) {}

  Decoded run() {
    const char quote = peek();
    const bool multiline = raw_.substr(at_, 3) == std::string(3, quote);
    at_ += multiline ? 3 : 1;
    if (multiline) skip_line_end();
    while (at_ < raw_.size() && !closes(quote, multiline)) {
      if (quote == '"' && peek() == '\\') {
        escape();
      } else if (peek() == '\r' && peek(1) == '\n') {
        ++at_;
      } else {
        out_.offsets.push_back(at_);
        out_.text += raw_[at_++];
      }
    }
    out_.offsets.push_back(at_);
    return std::move(out_);
  }

 private:
  char peek(std::size_t ahead = 0) const { return at_ + ahead < raw_.size() ? raw_[at_ + ahead] : '\0'; }

  // Up to two quotes before the closing three belong to the content.
  bool closes(char quote, bool multiline) const {
    if (peek() != quote) return false;
    if (!multiline) return true;
    return peek(1) == quote && peek(2) == quote && peek(3) != quote;
  }

  void skip_line_end() {
    if (peek() == '\r') ++at_;
    if (peek() == '\n') ++at_;
  }

  void escape() {
    const std::size_t begin = at_++;
    const char letter = peek();
    ++at_;
    static constexpr std::string_view kLetters = "btnfre\"\\";
    static constexpr std::string_view kMeanings = "\b\t\n\f\r\x1b\"\\";
    const std::size_t known = kLetters.find(letter);
    if (known != std::string_view::npos) {
      append_utf8(out_, static_cast<unsigned char>(kMeanings[known]), begin);
    } else if (letter == 'u' || letter == 'U') {
      const std::size_t digits = letter == 'u' ? 4 : 8;
      append_utf8(out_,
                  static_cast<std::uint32_t>(std::stoul(std::string(raw_.substr(at_, digits)), nullptr, 16)),
                  begin);
      at_ += digits;
    } else {
      // A backslash at the end of a line swallows all white space up to the next content.
      while (at_ < raw_.size() && (peek() == ' ' || peek() == '\t' || peek() == '\n' || peek() == '\r'))
        ++at_;
    }
  }

  std::string_view raw_;
  std::size_t at_;
  Decoded out_;
};

// What the parser found, in our words, by a part of its own.
std::string fault_in_words(std::string_view description) {
  struct Fault {
    std::string_view part;
    const char* words;
  };
  constexpr std::array kFaults = {
      Fault{"expected '='", "a = is expected after the key"},
      Fault{"redefin", "this key or table stands here a second time"},
      Fault{"escape",
            "this \\ begins nothing that is known; write \\\\, or put the text between single quotes"},
      Fault{"parsing inline table", "a table in braces stands on one line, { a = 1, b = 2 }"},
      Fault{"parsing array", "the list is not closed, or a comma is missing in it"},
      Fault{"parsing string", "the text is not closed, or goes on over the end of its line"},
      Fault{"parsing table header", "a table begins with its name in brackets, [sheet.NAME]"},
      Fault{"parsing table", "a table begins with its name in brackets, [sheet.NAME]"},
      Fault{"parsing key", "a key is expected: letters, digits, _ and -, or a text in quotes"},
      Fault{"date", "this is no date"},
      Fault{"time", "this is no time"},
      Fault{"parsing boolean", "this is neither true nor false"},
      Fault{"parsing integer", "this is no number"},
      Fault{"parsing float", "this is no number"},
      Fault{"parsing decimal", "this is no number"},
      Fault{"UTF-8", "these bytes are no UTF-8"},
      Fault{"parsing comment", "a comment holds what no text may"},
      Fault{"parsing value",
            "a value is expected: a number, a text in quotes, true, false, a list or a table"},
      Fault{"end-of-file", "it ends too early"},
  };
  for (const Fault& fault : kFaults) {
    if (description.find(fault.part) != std::string_view::npos) return fault.words;
  }
  return "this is not understood";
}

// What to do with a file that is likely no study.
std::string of_other_form(const std::string& name) {
  return name.ends_with(".toml")
             ? ""
             : "a study is a text like study.toml; a table is shown by opensum look " + shell_word(name);
}

}  // namespace

namespace {

// The last quote of the text in quotes that begins at a place; of one over several lines that has three.
std::size_t end_of_quotes(std::string_view text, std::size_t at) {
  const char quote = text[at];
  const std::string three(3, quote);
  const bool lines = text.substr(at).starts_with(three);
  const std::string_view close = lines ? std::string_view(three) : std::string_view(three).substr(2);
  for (at += close.size(); at < text.size(); ++at) {
    if (text.substr(at).starts_with(close)) return at + close.size() - 1;
    if (text[at] == '\\' && quote == '"')
      ++at;
    else if (text[at] == '\n' && !lines)
      return at - 1;
  }
  return at;
}

// The first place where a key or a heading names more tables inside one another than any study has; npos
// without one. Texts in quotes are passed over.
std::size_t find_deep_key(const std::string& text) {
  std::size_t parts = 1;
  bool value = false;
  for (std::size_t at = 0; at < text.size(); ++at) {
    switch (text[at]) {
      case '"':
      case '\'':
        at = end_of_quotes(text, at);
        break;
      case '\n':
      case ',':
      case '{':
        parts = 1;
        value = false;
        break;
      case '=':
      case '#':
        value = true;
        break;
      case '.':
        if (!value && ++parts > kDeepestTable) return at;
        break;
      default:
        break;
    }
  }
  return std::string::npos;
}

}  // namespace

Result<TomlText> TomlText::parse(std::shared_ptr<const Source> source, Diagnostics& diagnostics) {
  // The parser and whoever takes its tables down go as deep as they are.
  if (const std::size_t deep = find_deep_key(source->text()); deep != std::string::npos) {
    diagnostics.add(Code::toml_too_deep, Place{source, {deep, deep + 1}}, {std::to_string(kDeepestTable)});
    return std::nullopt;
  }
  try {
    toml::table root = toml::parse(source->text(), source->name());
    return TomlText(std::move(source), std::move(root));
  } catch (const toml::parse_error& error) {
    TomlText empty(source, {});
    const std::size_t begin = empty.offset(error.source().begin);
    diagnostics.add(Code::toml_syntax, Place{source, {begin, begin + 1}},
                    {fault_in_words(error.description()), of_other_form(source->name())});
    return std::nullopt;
  }
}

std::size_t TomlText::offset(const toml::source_position& position) const {
  // The parser counts columns in characters.
  std::size_t at = source_->line_begin(position.line);
  const std::string& raw = source_->text();
  for (toml::source_index column = 1; column < position.column && at < raw.size(); ++column) {
    ++at;
    while (at < raw.size() && (static_cast<unsigned char>(raw[at]) & 0xC0U) == 0x80U) ++at;
  }
  return std::min(at, raw.size());
}

std::vector<TomlText::Entry> TomlText::entries(const toml::table& table) const {
  std::vector<Entry> entries;
  for (const auto& [key, value] : table) {
    const std::size_t begin = offset(key.source().begin);
    const std::size_t end = std::max(offset(key.source().end), begin + 1);
    entries.push_back({std::string(key.str()), {source_, {begin, end}}, &value});
  }
  std::sort(entries.begin(), entries.end(),
            [](const Entry& a, const Entry& b) { return a.place.span.begin < b.place.span.begin; });
  return entries;
}

Passage TomlText::passage(const toml::value<std::string>& value) const {
  const std::size_t begin = offset(value.source().begin);
  Decoded decoded = StringDecoder(source_->text(), begin).run();
  if (decoded.text != value.get()) {
    // Never seen; but a wrong place is better than a wrong text.
    return {source_, std::vector<std::size_t>(value.get().size() + 1, begin), value.get()};
  }
  return {source_, std::move(decoded.offsets), std::move(decoded.text)};
}

Passage TomlText::key_passage(const Entry& entry) const {
  const std::string& raw = source_->text();
  const std::size_t begin = entry.place.span.begin;
  const bool quoted = begin < raw.size() && (raw[begin] == '"' || raw[begin] == '\'');
  return {source_, begin + (quoted ? 1 : 0), entry.key};
}

Place TomlText::place(const toml::node& node) const {
  const std::size_t begin = offset(node.source().begin);
  std::size_t end = std::max(offset(node.source().end), begin + 1);
  const std::size_t line_end = std::min(source_->text().find('\n', begin), source_->text().size());
  end = std::max(std::min(end, line_end), begin + 1);
  return {source_, {begin, end}};
}

std::string TomlText::written(const Place& place) const {
  return source_->text().substr(place.span.begin, place.span.end - place.span.begin);
}

}  // namespace opensum
