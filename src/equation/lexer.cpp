// First stage of an equation: text to tokens.
#include "equation/lexer.h"

#include <array>

#include "base/unicode.h"
#include "message/other_words.h"
#include "table/header.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

struct Sign {
  std::string_view text;
  TokenKind kind;
};

// Longer signs stand before their beginnings. The typographic ones are what documents paste.
constexpr std::array kSigns = {
    Sign{"+/-", TokenKind::plus_minus},
    Sign{"\u00B1", TokenKind::plus_minus},
    Sign{"==", TokenKind::equal},
    Sign{"!=", TokenKind::not_equal},
    Sign{"\u2260", TokenKind::not_equal},
    Sign{"<=", TokenKind::less_equal},
    Sign{"\u2264", TokenKind::less_equal},
    Sign{">=", TokenKind::greater_equal},
    Sign{"\u2265", TokenKind::greater_equal},
    Sign{"<", TokenKind::less},
    Sign{">", TokenKind::greater},
    Sign{"=", TokenKind::assign},
    Sign{"+", TokenKind::plus},
    Sign{"-", TokenKind::minus},
    Sign{"\u2212", TokenKind::minus},
    Sign{"*", TokenKind::times},
    Sign{"\u00D7", TokenKind::times},
    Sign{"\u00B7", TokenKind::times},
    Sign{"\u22C5", TokenKind::times},
    Sign{"/", TokenKind::divide},
    Sign{"\u00F7", TokenKind::divide},
    Sign{"^", TokenKind::power},
    Sign{"(", TokenKind::open},
    Sign{")", TokenKind::close},
    Sign{",", TokenKind::comma},
    Sign{"..", TokenKind::range},
    Sign{".", TokenKind::dot},
    Sign{":", TokenKind::colon},
};

bool is_digit(char c) { return c >= '0' && c <= '9'; }

class Lexer {
 public:
  Lexer(const Passage& passage, Diagnostics& diagnostics)
      : passage_(passage), text_(passage.text()), diagnostics_(diagnostics) {}

  std::vector<Token> run() {
    while (at_ < text_.size()) next();
    emit(TokenKind::end, at_, "");
    return std::move(tokens_);
  }

 private:
  char peek(std::size_t ahead = 0) const { return at_ + ahead < text_.size() ? text_[at_ + ahead] : '\0'; }

  void emit(TokenKind kind, std::size_t begin, std::string text) {
    tokens_.push_back({kind, {begin, at_}, std::move(text), blank_});
    blank_ = false;
  }

  void fail(Code code, std::size_t begin, std::vector<std::string> args) {
    diagnostics_.add(code, passage_.place({begin, at_}), std::move(args));
    emit(TokenKind::broken, begin, "");
  }

  void next() {
    const char c = peek();
    if (c == '\n') {
      ++at_;
      // A name followed by = begins a definition: a bracket left open must not swallow what follows.
      if (depth_ > 0 && begins_definition()) depth_ = 0;
      if (depth_ == 0) emit(TokenKind::line_end, at_ - 1, "");
      blank_ = true;
    } else if (c == ' ' || c == '\t' || c == '\r' || text_.substr(at_, 2) == "\u00A0") {
      at_ += c == '\xC2' ? 2 : 1;
      blank_ = true;
    } else if (c == '#') {
      while (at_ < text_.size() && peek() != '\n') ++at_;
    } else if (c == '"') {
      quoted('"', TokenKind::text, Code::text_not_closed);
    } else if (c == '`') {
      quoted('`', TokenKind::quoted_name, Code::backtick_not_closed);
    } else if (c == '[') {
      unit();
    } else if (is_digit(c) || (c == '.' && is_digit(peek(1)) && !follows_operand())) {
      number();
    } else if (name_character(text_, at_, true) > 0) {
      name();
    } else {
      sign();
    }
  }

  bool follows_operand() const {
    if (tokens_.empty() || blank_) return false;
    const TokenKind last = tokens_.back().kind;
    return last == TokenKind::name || last == TokenKind::quoted_name || last == TokenKind::close;
  }

  // Whether NAME … = stands at the beginning of the line at hand, outside of any bracket.
  bool begins_definition() const {
    std::size_t i = at_;
    while (i < text_.size() && (text_[i] == ' ' || text_[i] == '\t')) ++i;
    const std::size_t first = i;
    for (std::size_t n = 0; (n = name_character(text_, i, i == first)) > 0;) i += n;
    if (i == first) return false;
    while (i < text_.size() && text_[i] == ' ') ++i;
    for (const char* pair : {"\"\"", "[]"}) {
      if (i < text_.size() && text_[i] == pair[0]) {
        i = text_.find(pair[1], i + 1);
        if (i == std::string_view::npos) return false;
        ++i;
        while (i < text_.size() && text_[i] == ' ') ++i;
      }
    }
    return i < text_.size() && text_[i] == '=' && (i + 1 >= text_.size() || text_[i + 1] != '=');
  }

  // A doubled quote inside stands for one.
  void quoted(char quote, TokenKind kind, Code unclosed) {
    const std::size_t begin = at_++;
    std::string content;
    while (at_ < text_.size() && peek() != '\n') {
      if (peek() == quote) {
        if (peek(1) != quote) {
          ++at_;
          // Text is compared in Unicode's normal form C.
          emit(kind, begin, kind == TokenKind::text ? normalised(content) : content);
          return;
        }
        ++at_;
      }
      content += text_[at_++];
    }
    fail(unclosed, begin, {});
  }

  void unit() {
    const std::size_t begin = at_;
    while (at_ < text_.size() && peek() != ']' && peek() != '\n') ++at_;
    if (peek() != ']') {
      fail(Code::unit_not_closed, begin, {});
      return;
    }
    ++at_;
    emit(TokenKind::unit, begin, std::string(text_.substr(begin + 1, at_ - begin - 2)));
  }

  void number() {
    const std::size_t begin = at_;
    while (is_digit(peek())) ++at_;
    if (peek() == '.' && peek(1) != '.') {
      ++at_;
      if (!is_digit(peek())) {
        const std::string digits(text_.substr(begin, at_ - begin - 1));
        fail(Code::point_without_digit, begin, {digits + ".", digits});
        return;
      }
      while (is_digit(peek())) ++at_;
    }
    if (peek() == 'e' || peek() == 'E') {
      const std::size_t sign = peek(1) == '-' || peek(1) == '+' ? 1 : 0;
      const bool more_letters = name_character(text_, at_ + 1, true) > 0;
      if (is_digit(peek(1 + sign))) {
        at_ += 1 + sign;
        while (is_digit(peek())) ++at_;
      } else if (!more_letters) {
        at_ += 1 + sign;
        const std::string written(text_.substr(begin, at_ - begin));
        fail(Code::exponent_without_digit, begin, {written, written.substr(0, written.size() - 1 - sign)});
        return;
      }
    }
    const std::string digits(text_.substr(begin, at_ - begin));
    if (name_character(text_, at_, true) > 0) {
      const std::size_t name_begin = at_;
      while (const std::size_t n = name_character(text_, at_, false)) at_ += n;
      const std::string letters(text_.substr(name_begin, at_ - name_begin));
      const std::string both = digits + letters;
      if (digits == "0" && (letters[0] == 'x' || letters[0] == 'X') && letters.size() > 1 &&
          letters.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string::npos) {
        fail(Code::hex_number, begin, {both});
        return;
      }
      fail(Code::number_meets_name, begin, {both, digits, letters});
      return;
    }
    emit(TokenKind::number, begin, digits);
  }

  void name() {
    const std::size_t begin = at_;
    while (const std::size_t n = name_character(text_, at_, at_ == begin)) at_ += n;
    emit(TokenKind::name, begin, normalised(unify_lookalikes(text_.substr(begin, at_ - begin))));
  }

  // A sign of other languages, or a text in single quotes; false where there is none.
  bool other_sign() {
    constexpr std::array<std::string_view, 14> kOthers = {"===", "!==", "&&", "||", "**", "<>", "=<",
                                                          "=>",  "&",   "|",  "!",  "%",  "²",  "³"};
    const std::size_t begin = at_;
    const std::string_view rest = text_.substr(at_);
    for (const std::string_view other : kOthers) {
      if (!rest.starts_with(other) || (other == "!" && rest.starts_with("!="))) continue;
      at_ += other.size();
      fail(Code::other_word, begin, {std::string(other), word_here(WordFor::sign, other)});
      return true;
    }
    const std::size_t close = rest.starts_with('\'') ? rest.find_first_of("'\n", 1) : std::string_view::npos;
    if (close == std::string_view::npos || rest[close] != '\'') return false;
    at_ += close + 1;
    const std::string inside(rest.substr(1, close - 1));
    fail(Code::other_word, begin, {"'" + inside + "'", '"' + inside + '"'});
    return true;
  }

  void sign() {
    if (other_sign()) return;
    const std::size_t begin = at_;
    for (const Sign& sign : kSigns) {
      if (text_.substr(at_, sign.text.size()) != sign.text) continue;
      at_ += sign.text.size();
      if (sign.kind == TokenKind::open) ++depth_;
      if (sign.kind == TokenKind::close && depth_ > 0) --depth_;
      emit(sign.kind, begin, std::string(sign.text));
      return;
    }
    ++at_;
    while (at_ < text_.size() && (static_cast<unsigned char>(peek()) & 0xC0U) == 0x80U) ++at_;
    fail(Code::unexpected_character, begin, {std::string(text_.substr(begin, at_ - begin))});
  }

  const Passage& passage_;
  std::string_view text_;
  Diagnostics& diagnostics_;
  std::size_t at_ = 0;
  int depth_ = 0;
  bool blank_ = false;
  std::vector<Token> tokens_;
};

}  // namespace

std::vector<Token> tokenize(const Passage& passage, Diagnostics& diagnostics) {
  return Lexer(passage, diagnostics).run();
}

}  // namespace opensum
