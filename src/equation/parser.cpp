// Second stage of an equation: tokens to tree, by recursive descent, one function per level of binding.
#include "equation/parser.h"

#include <algorithm>

#include "base/limits.h"
#include "base/result.h"
#include "equation/functions.h"
#include "equation/lexer.h"
#include "message/other_words.h"
#include "table/header.h"

namespace opensum {
namespace {

template <typename What>
NodePtr make(What what, Span span) {
  auto node = std::make_unique<Node>();
  node->what = std::move(what);
  node->span = node->mark = span;
  return node;
}

bool is_comparison(TokenKind kind) { return kind >= TokenKind::equal && kind <= TokenKind::greater_equal; }

Operator comparison(TokenKind kind) {
  return static_cast<Operator>(static_cast<int>(Operator::equal) + static_cast<int>(kind) -
                               static_cast<int>(TokenKind::equal));
}

bool begins_operand(TokenKind kind) {
  return kind == TokenKind::number || kind == TokenKind::name || kind == TokenKind::quoted_name ||
         kind == TokenKind::open || kind == TokenKind::text;
}

// Whether a definition or expression cannot be read further; what is wrong is reported before it is thrown
// and it never leaves this file.
struct Abandon {};

class Parser {
 public:
  Parser(const Passage& passage, Diagnostics& diagnostics)
      : passage_(passage), diagnostics_(diagnostics), tokens_(tokenize(passage, diagnostics)) {}

  std::vector<Definition> definitions() {
    return lines<Definition>([&] { return definition(); });
  }

  std::vector<Formula> formulas() {
    return lines<Formula>([&] { return formula(); });
  }

  std::optional<Loop> loop_header() {
    try {
      while (is(TokenKind::line_end)) ++at_;
      Loop loop;
      ++at_;  // for
      if (!is(TokenKind::name) || is_reserved(token().text))
        fail_expected("a name for the column of each turn");
      loop.variable = token().text;
      ++at_;
      if (!is_word("in")) fail_expected("`in`");
      do {
        ++at_;
        loop.list.push_back(atom());
        const NodeKind kind = loop.list.back()->kind();
        if (kind != NodeKind::name && kind != NodeKind::range && kind != NodeKind::text) {
          fail(Code::loop_list, loop.list.back()->span, {written(loop.list.back()->span)});
        }
      } while (is(TokenKind::comma));
      if (is_word("as")) {
        ++at_;
        if (!is(TokenKind::name) || is_reserved(token().text)) fail_expected("a name for the list");
        loop.made = token().text;
        ++at_;
      }
      if (!is(TokenKind::colon)) fail_expected("a comma, `as` or :");
      return loop;
    } catch (const Abandon&) {
      return std::nullopt;
    }
  }

  std::vector<Claim> claims() {
    return lines<Claim>([&] { return claim(); });
  }

  NodePtr whole_expression() {
    try {
      while (is(TokenKind::line_end)) ++at_;
      NodePtr node = expression();
      while (is(TokenKind::line_end)) ++at_;
      expect_end();
      return node;
    } catch (const Abandon&) {
      return nullptr;
    }
  }

 private:
  // Reads a thing a line; a faulty line is left out.
  template <typename Thing, typename Read>
  std::vector<Thing> lines(Read read) {
    std::vector<Thing> found;
    while (!is(TokenKind::end)) {
      if (is(TokenKind::line_end)) {
        ++at_;
        continue;
      }
      try {
        found.push_back(read());
      } catch (const Abandon&) {
        while (!is(TokenKind::line_end) && !is(TokenKind::end)) ++at_;
      }
      depth_ = 0;
    }
    return found;
  }

  Formula formula() {
    if (!is(TokenKind::name) || ahead().kind != TokenKind::open) {
      if (is(TokenKind::broken)) throw Abandon{};
      fail(Code::formula_shape, token().span);
    }
    Formula result;
    result.passage = passage_;
    result.name = token().text;
    result.name_span = result.span = token().span;
    at_ += 2;
    while (!is(TokenKind::close)) {
      if (!is(TokenKind::name)) fail_expected("the name of a parameter");
      if (is_reserved(token().text)) fail(Code::reserved_name, token().span, {token().text});
      result.parameters.push_back(token().text);
      ++at_;
      if (is(TokenKind::comma))
        ++at_;
      else if (!is(TokenKind::close))
        fail_expected("a comma or )");
    }
    ++at_;
    expect(TokenKind::assign, "=");
    result.body = expression();
    if (!is(TokenKind::line_end)) expect_end();
    result.span.end = result.body->span.end;
    return result;
  }

  Claim claim() {
    if (!is(TokenKind::text) || ahead().kind != TokenKind::colon) {
      if (is(TokenKind::broken)) throw Abandon{};
      fail(Code::claim_shape, token().span);
    }
    Claim result;
    result.passage = passage_;
    result.text = token().text;
    result.text_span = token().span;
    at_ += 2;
    result.condition = expression();
    if (!is(TokenKind::line_end)) expect_end();
    return result;
  }

  // The last one, `end`, is never gone beyond.
  const Token& token() const { return tokens_[std::min(at_, tokens_.size() - 1)]; }
  const Token& ahead(std::size_t n = 1) const { return tokens_[std::min(at_ + n, tokens_.size() - 1)]; }
  bool is(TokenKind kind) const { return token().kind == kind; }
  bool is_word(const char* word) const { return is(TokenKind::name) && token().text == word; }

  [[noreturn]] void fail(Code code, Span span, std::vector<std::string> args = {}) {
    diagnostics_.add(code, passage_.place(span), std::move(args));
    throw Abandon{};
  }

  std::string written(Span span) const { return passage_.text().substr(span.begin, span.end - span.begin); }

  [[noreturn]] void fail_expected(const char* what) {
    if (is(TokenKind::broken)) throw Abandon{};
    if (is(TokenKind::end) || is(TokenKind::line_end)) {
      // Point after the last thing that was read, not at the next line.
      const std::size_t end = at_ == 0 ? 0 : tokens_[at_ - 1].span.end;
      fail(Code::expected_at_end, {end, end}, {what});
    }
    fail(Code::expected, token().span, {what, written(token().span)});
  }

  void expect(TokenKind kind, const char* what) {
    if (!is(kind)) fail_expected(what);
    ++at_;
  }

  // Counts a level of nesting while it lives.
  class Level {
   public:
    explicit Level(Parser& parser) : parser_(parser) {
      if (++parser_.depth_ > kDeepestTree) {
        parser_.fail(Code::nested_too_deep, parser_.token().span, {std::to_string(kDeepestTree)});
      }
    }
    ~Level() { --parser_.depth_; }
    Level(const Level&) = delete;
    Level& operator=(const Level&) = delete;

   private:
    Parser& parser_;
  };

  void adopt(Node& parent, NodePtr child) {
    parent.depth = std::max(parent.depth, child->depth + 1);
    if (parent.depth > kDeepestTree) {
      fail(Code::nested_too_deep, parent.mark, {std::to_string(kDeepestTree)});
    }
    parent.children.push_back(std::move(child));
  }

  NodePtr binary(Operator op, Span mark, NodePtr left, NodePtr right) {
    NodePtr node = make(tree::Binary{op}, {left->span.begin, right->span.end});
    node->mark = mark;
    adopt(*node, std::move(left));
    adopt(*node, std::move(right));
    return node;
  }

  Definition definition() {
    Definition result;
    result.passage = passage_;
    result.span = token().span;
    if (!is(TokenKind::name)) {
      if (is(TokenKind::broken)) throw Abandon{};
      fail(Code::definition_shape, token().span, {written(token().span)});
    }
    result.name = token().text;
    result.name_span = token().span;
    if (is_reserved(result.name)) fail(Code::reserved_name, token().span, {result.name});
    ++at_;
    if (is(TokenKind::text)) {
      result.label = token().text;
      ++at_;
    }
    if (is(TokenKind::unit)) {
      result.unit = unit_text();
    }
    if (!is(TokenKind::assign)) {
      if (is(TokenKind::broken)) throw Abandon{};
      fail(Code::definition_shape, result.name_span, {result.name});
    }
    ++at_;
    result.expression = expression();
    if (!is(TokenKind::line_end)) expect_end();
    result.span.end = result.expression->span.end;
    return result;
  }

  // Says what is wrong with a token where an expression ought to be over.
  void expect_end() {
    if (is(TokenKind::end)) return;
    if (is(TokenKind::broken)) throw Abandon{};
    const Token& last = tokens_[at_ - 1];
    if (is(TokenKind::comma) && last.kind == TokenKind::number && ahead().kind == TokenKind::number) {
      const Span span{last.span.begin, ahead().span.end};
      fail(Code::decimal_comma, span, {written(span), last.text + "." + ahead().text});
    }
    if (is(TokenKind::close)) fail(Code::bracket_not_opened, token().span);
    if (is(TokenKind::assign)) fail(Code::single_equals, token().span);
    if (begins_operand(token().kind)) fail_missing_operator(last);
    fail_expected("an operator or the end of the line");
  }

  [[noreturn]] void fail_missing_operator(const Token& last) {
    const Span gap{last.span.begin, token().span.end};
    if (is(TokenKind::name) && (token().text == "x" || token().text == "X") && begins_operand(ahead().kind)) {
      fail(Code::x_for_times, token().span,
           {token().text, written(last.span) + " * " + written(ahead().span)});
    }
    if (last.kind == TokenKind::number && is(TokenKind::name)) {
      const std::string unit = written({token().span.begin, end_of_unit()});
      fail(Code::unit_or_times, gap, {last.text, unit, written(token().span)});
    }
    const std::string before = written(last.span);
    const std::string after = written(token().span);
    std::string meant = before + " * " + after;
    const std::string word = is(TokenKind::name) ? word_here(WordFor::name, token().text) : "";
    if (word == "and" || word == "or" || word == "not") {
      meant = word;
    } else if (last.kind == TokenKind::name && !call_here(last.text, {}).empty() &&
               find_signature(last.text) == nullptr && is(TokenKind::name)) {
      // `case when …` and the like.
      meant = call_here(last.text, {});
    } else if (last.kind == TokenKind::number && is(TokenKind::number) && after.front() == '.') {
      std::string whole = before + after;
      std::erase(whole, '.');
      meant = whole + ": equations have no sign between thousands";
    } else if (last.kind == TokenKind::name && find_signature(last.text) != nullptr) {
      meant = before + "(" + after + ")";
    } else if (last.kind == TokenKind::name && is(TokenKind::name)) {
      meant =
          "`" + written({last.span.begin, end_of_names()}) + "` in backticks if it is one name, or " + meant;
    }
    fail(Code::missing_operator, gap, {before, after, meant});
  }

  // Where what stands at the token at hand ends, if it is a unit such as L/min.
  std::size_t end_of_unit() const {
    std::size_t i = at_;
    while (i + 2 < tokens_.size() &&
           (tokens_[i + 1].kind == TokenKind::divide || tokens_[i + 1].kind == TokenKind::power) &&
           (tokens_[i + 2].kind == TokenKind::name || tokens_[i + 2].kind == TokenKind::number))
      i += 2;
    return tokens_[i].span.end;
  }

  std::size_t end_of_names() const {
    std::size_t i = at_;
    while (i + 1 < tokens_.size() && tokens_[i + 1].kind == TokenKind::name && tokens_[i + 1].text != "in" &&
           tokens_[i + 1].text != "and" && tokens_[i + 1].text != "or")
      ++i;
    return tokens_[i].span.end;
  }

  UnitText unit_text() {
    UnitText unit{token().text, {token().span.begin + 1, token().span.end - 1}};
    ++at_;
    return unit;
  }

  NodePtr expression() {
    NodePtr node = disjunction();
    while (is_word("in")) {
      const Span mark = token().span;
      ++at_;
      if (!is(TokenKind::unit)) fail_expected("a unit in square brackets, such as [kJ]");
      const Span span{node->span.begin, token().span.end};
      NodePtr convert = make(tree::Convert{unit_text()}, span);
      convert->mark = mark;
      adopt(*convert, std::move(node));
      node = std::move(convert);
    }
    return node;
  }

  NodePtr disjunction() {
    NodePtr node = conjunction();
    while (is_word("or")) {
      const Span mark = token().span;
      ++at_;
      node = binary(Operator::logical_or, mark, std::move(node), conjunction());
    }
    return node;
  }

  NodePtr conjunction() {
    NodePtr node = negation();
    while (is_word("and")) {
      const Span mark = token().span;
      ++at_;
      node = binary(Operator::logical_and, mark, std::move(node), negation());
    }
    return node;
  }

  NodePtr negation() {
    if (!is_word("not")) return relation();
    const Level level(*this);
    const Span mark = token().span;
    ++at_;
    NodePtr operand = negation();
    NodePtr node = make(tree::Unary{Operator::logical_not}, {mark.begin, operand->span.end});
    node->mark = mark;
    adopt(*node, std::move(operand));
    return node;
  }

  NodePtr relation() {
    NodePtr left = sum();
    if (!is_comparison(token().kind)) return left;
    const Token sign = token();
    ++at_;
    NodePtr right = sum();
    if (is_comparison(token().kind)) {
      const Token second = token();
      ++at_;
      const NodePtr last = sum();
      fail(Code::chained_comparison, second.span,
           {print(*left) + " " + sign.text + " " + print(*right) + " and " + print(*right) + " " +
            second.text + " " + print(*last)});
    }
    return binary(comparison(sign.kind), sign.span, std::move(left), std::move(right));
  }

  NodePtr sum() {
    NodePtr node = term();
    for (;;) {
      if (is(TokenKind::plus_minus)) fail(Code::uncertainty_of_expression, token().span, {print(*node)});
      if (!is(TokenKind::plus) && !is(TokenKind::minus)) return node;
      const Token sign = token();
      ++at_;
      const Operator op = sign.kind == TokenKind::plus ? Operator::add : Operator::subtract;
      node = binary(op, sign.span, std::move(node), term());
    }
  }

  NodePtr term() {
    NodePtr node = signed_factor();
    while (is(TokenKind::times) || is(TokenKind::divide)) {
      const Token sign = token();
      ++at_;
      const Operator op = sign.kind == TokenKind::times ? Operator::multiply : Operator::divide;
      node = binary(op, sign.span, std::move(node), signed_factor());
    }
    return node;
  }

  NodePtr signed_factor() {
    if (is(TokenKind::plus)) {
      const Level level(*this);
      ++at_;
      return signed_factor();
    }
    if (!is(TokenKind::minus)) return factor();
    const Level level(*this);
    const Span mark = token().span;
    ++at_;
    NodePtr operand = signed_factor();
    // A minus before a literal is part of it: -5 [degC] is a reading below zero, not a negated one.
    if (operand->is<tree::Number>() && operand->as<tree::Number>().digits[0] != '-') {
      operand->as<tree::Number>().digits.insert(0, 1, '-');
      operand->span.begin = mark.begin;
      return operand;
    }
    NodePtr node = make(tree::Unary{Operator::negate}, {mark.begin, operand->span.end});
    node->mark = mark;
    adopt(*node, std::move(operand));
    return node;
  }

  NodePtr factor() {
    NodePtr base = atom();
    if (!is(TokenKind::power)) return base;
    const Level level(*this);
    const Span mark = token().span;
    ++at_;
    // To the right: 2^3^2 is 2^(3^2), and 2^-1 needs no brackets.
    NodePtr exponent = is(TokenKind::minus) || is(TokenKind::plus) ? signed_factor() : factor();
    return binary(Operator::power, mark, std::move(base), std::move(exponent));
  }

  NodePtr atom() {
    const Token first = token();
    switch (first.kind) {
      case TokenKind::number: {
        ++at_;
        tree::Number number{first.text};
        Span span = first.span;
        if (is(TokenKind::plus_minus)) {
          ++at_;
          if (!is(TokenKind::number)) fail(Code::uncertainty_number, token().span, {first.text});
          number.uncertainty = token().text;
          span.end = token().span.end;
          ++at_;
        }
        if (is(TokenKind::unit)) {
          span.end = token().span.end;
          number.unit = unit_text();
        }
        NodePtr node = make(std::move(number), span);
        node->mark = first.span;
        return node;
      }
      case TokenKind::text: {
        ++at_;
        return make(tree::Text{first.text}, first.span);
      }
      case TokenKind::unit: {
        return make(tree::UnitArgument{unit_text()}, first.span);
      }
      case TokenKind::open: {
        const Level level(*this);
        ++at_;
        NodePtr node = expression();
        if (!is(TokenKind::close)) {
          if (is(TokenKind::end) || is(TokenKind::line_end)) fail(Code::bracket_not_closed, first.span);
          expect_end();
        }
        ++at_;
        node->span = {first.span.begin, tokens_[at_ - 1].span.end};
        return node;
      }
      case TokenKind::name:
      case TokenKind::quoted_name:
        return named();
      default:
        fail_expected("a number, a column or a function");
    }
  }

  NodePtr named() {
    const Token first = token();
    ++at_;
    const bool plain = first.kind == TokenKind::name;
    if (plain && is(TokenKind::open)) return call(first);
    if (plain) {
      if (first.text == "null") return make(tree::Null{}, first.span);
      if (first.text == "self") return make(tree::Self{}, first.span);
      if (first.text == "pi") return make(tree::Pi{}, first.span);
      if (first.text == "true" || first.text == "false")
        return make(tree::Truth{first.text == "true"}, first.span);
      if (is_reserved(first.text) && !is(TokenKind::dot)) {
        --at_;
        fail_expected("a number, a column or a function");
      }
    }
    NodePtr node = is(TokenKind::dot) ? member(first) : make(tree::Name{first.text, !plain}, first.span);
    if (is(TokenKind::unit)) {
      const bool is_member = node->is<tree::Member>();
      fail(Code::unit_behind_name, token().span,
           {written(token().span),
            is_member ? node->as<tree::Member>().symbol : node->as<tree::Name>().symbol});
    }
    if (!is(TokenKind::range)) return node;
    ++at_;
    if (!is(TokenKind::name) && !is(TokenKind::quoted_name)) fail_expected("the last column of the range");
    NodePtr last = make(tree::Name{token().text, is(TokenKind::quoted_name)}, token().span);
    ++at_;
    NodePtr range = make(tree::Range{}, {node->span.begin, last->span.end});
    adopt(*range, std::move(node));
    adopt(*range, std::move(last));
    return range;
  }

  // What follows the name of a sheet, from the point on.
  NodePtr member(const Token& owner) {
    ++at_;
    if (!is(TokenKind::name) && !is(TokenKind::quoted_name)) fail_expected("the name of a column");
    tree::Member member{owner.text, token().text, is(TokenKind::quoted_name)};
    Span span{owner.span.begin, token().span.end};
    ++at_;
    // fit.NAME.PARAMETER and fit.NAME.SHEET.PARAMETER.
    while (member.owner == "fit" && is(TokenKind::dot)) {
      ++at_;
      if (!is(TokenKind::name)) fail_expected("the name of a parameter");
      member.symbol += "." + token().text;
      span.end = token().span.end;
      ++at_;
    }
    NodePtr node = make(std::move(member), span);
    node->mark = owner.span;
    return node;
  }

  NodePtr call(const Token& name) {
    const Level level(*this);
    NodePtr node = make(tree::Call{name.text}, name.span);
    const Span open = token().span;
    ++at_;
    while (!is(TokenKind::close)) {
      if (is(TokenKind::end) || is(TokenKind::line_end)) fail(Code::bracket_not_closed, open);
      if (is(TokenKind::name) && ahead().kind == TokenKind::colon) {
        NamedArgument named;
        named.name = token().text;
        named.span = token().span;
        at_ += 2;
        named.value = named_value(named.name);
        node->depth = std::max(node->depth, named.value->depth + 1);
        node->as<tree::Call>().named.push_back(std::move(named));
      } else {
        adopt(*node, expression());
      }
      if (is(TokenKind::comma)) {
        ++at_;
        if (is(TokenKind::close)) fail_expected("another argument");
      } else if (!is(TokenKind::close) && !is(TokenKind::end) && !is(TokenKind::line_end)) {
        expect_end();
      }
    }
    node->span.end = token().span.end;
    ++at_;
    return node;
  }

  // `nulls: skip` takes a word; everything else an expression.
  NodePtr named_value(const std::string& name) {
    if (name == "nulls" && is(TokenKind::name)) {
      NodePtr word = make(tree::Word{token().text}, token().span);
      ++at_;
      return word;
    }
    if (name == "by" && is(TokenKind::open)) return key_list();
    return expression();
  }

  // `by: (site, day)`; a single key in brackets is a list of one.
  NodePtr key_list() {
    const Span open = token().span;
    ++at_;
    NodePtr list = make(tree::List{}, open);
    for (;;) {
      adopt(*list, expression());
      if (is(TokenKind::close)) break;
      if (is(TokenKind::end) || is(TokenKind::line_end)) fail(Code::bracket_not_closed, open);
      expect(TokenKind::comma, "a comma or )");
    }
    list->span.end = token().span.end;
    ++at_;
    return list;
  }

  const Passage& passage_;
  Diagnostics& diagnostics_;
  std::vector<Token> tokens_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace

std::vector<Definition> parse_definitions(const Passage& passage, Diagnostics& diagnostics) {
  return Parser(passage, diagnostics).definitions();
}

std::vector<Formula> parse_formulas(const Passage& passage, Diagnostics& diagnostics) {
  return Parser(passage, diagnostics).formulas();
}

Result<Loop> parse_loop_header(const Passage& passage, Diagnostics& diagnostics) {
  return Parser(passage, diagnostics).loop_header();
}

std::vector<Claim> parse_claims(const Passage& passage, Diagnostics& diagnostics) {
  return Parser(passage, diagnostics).claims();
}

NodePtr parse_expression(const Passage& passage, Diagnostics& diagnostics) {
  return Parser(passage, diagnostics).whole_expression();
}

}  // namespace opensum
