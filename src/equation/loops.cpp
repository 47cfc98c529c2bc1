// Lines that write one definition for each column of a list.
#include "equation/loops.h"

#include <algorithm>

#include "equation/parser.h"
#include "message/nearest.h"
#include "table/header.h"

namespace opensum {
namespace {

// Walks over the text of equations, outside of quotes, backticks and comments.
class Scanner {
 public:
  explicit Scanner(const std::string& text) : text_(text) {}

  // The end of a definition that begins at `at`: a line end outside of round brackets.
  std::size_t end_of_definition(std::size_t at) const {
    int depth = 0;
    while (at < text_.size()) {
      const char c = text_[at];
      if (c == '(') ++depth;
      if (c == ')') --depth;
      if (c == '\n' && depth <= 0) return at;
      at = after(at);
    }
    return at;
  }

  // The first colon from `at` to `end`, or npos.
  std::size_t colon(std::size_t at, std::size_t end) const {
    for (; at < end; at = after(at)) {
      if (text_[at] == ':') return at;
    }
    return std::string::npos;
  }

 private:
  // After the character at `at`, or after what it opens.
  std::size_t after(std::size_t at) const {
    const char c = text_[at];
    if (c == '#') return std::min(text_.find('\n', at), text_.size());
    if (c != '"' && c != '`') return at + 1;
    const std::size_t close = text_.find_first_of(std::string(1, c) + "\n", at + 1);
    if (close == std::string::npos) return text_.size();
    return text_[close] == '\n' ? close : close + 1;
  }

  const std::string& text_;
};

bool begins_loop(const std::string& text, std::size_t at) {
  return text.compare(at, 3, "for") == 0 && at + 3 < text.size() &&
         (text[at + 3] == ' ' || text[at + 3] == '\t');
}

// A passage in which only one span is left and everything else is blank.
Passage only(const Passage& passage, Span span) {
  std::string text = passage.text();
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (i < span.begin || i >= span.end) text[i] = ' ';
  }
  return passage.with_text(std::move(text));
}

}  // namespace

std::vector<Loop> parse_loops(const Passage& passage, Passage& rest, Diagnostics& diagnostics) {
  const std::string& text = passage.text();
  const Scanner scanner(text);
  std::string left = text;
  std::vector<Loop> loops;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t begin = std::min(text.find_first_not_of(" \t\r\n", at), text.size());
    const std::size_t end = scanner.end_of_definition(begin);
    if (begin < text.size() && begins_loop(text, begin)) {
      std::fill(left.begin() + static_cast<std::ptrdiff_t>(begin),
                left.begin() + static_cast<std::ptrdiff_t>(end), ' ');
      const std::size_t colon = scanner.colon(begin, end);
      if (colon == std::string::npos) {
        diagnostics.add(Code::loop_shape, passage.place({begin, begin + 3}));
      } else if (auto loop = parse_loop_header(only(passage, {begin, colon + 1}), diagnostics)) {
        loop->passage = passage;
        loop->body = {colon + 1, end};
        loops.push_back(std::move(*loop));
      }
    }
    at = end + 1;
  }
  rest = passage.with_text(std::move(left));
  return loops;
}

namespace {

// What stands for the variable in one turn.
struct TurnOf {
  std::string symbol;
  std::string label;
  std::string quoted;  // inside of a text
};

TurnOf turn_of(const ScopeColumn& column) { return {column.symbol, column.label, column.symbol}; }

// A text as it stands inside of quotes: no quote in it ends it, and no line.
std::string in_quotes(const std::string& text) {
  std::string out;
  for (const char c : text) {
    out += c == '\n' || c == '\r' ? ' ' : c;
    if (c == '"') out += c;
  }
  return out;
}

// A text stands in names with what names consist of, and in texts as it is.
TurnOf turn_of(const std::string& text) { return {symbol_of("x" + text).substr(1), text, text}; }

}  // namespace

std::vector<LoopTurn> expand(const Loop& loop, const Scope& scope, Diagnostics& diagnostics) {
  std::vector<TurnOf> items;
  for (const NodePtr& item : loop.list) {
    const Place place = loop.passage.place(item->span);
    const auto find = [&](const Node& node) {
      const auto index = scope.find_column(node);
      const std::string& name = symbol_in(node);
      if (!index) diagnostics.add(Code::unknown_name, place, {name, nearest_name(name, scope.names())});
      return index;
    };
    if (item->kind() == NodeKind::text) {
      const std::string& text = item->as<tree::Text>().text;
      const auto found = scope.matching(text);
      const bool pattern = text.find_first_of("*?") != std::string::npos;
      if (found.empty() && pattern) diagnostics.add(Code::pattern_matches_nothing, place, {text});
      if (found.empty() && !pattern) items.push_back(turn_of(text));
      for (const std::size_t index : found) items.push_back(turn_of(scope.columns[index]));
    } else if (item->kind() == NodeKind::range) {
      const auto first = find(*item->children[0]);
      const auto last = find(*item->children[1]);
      for (std::size_t i = first.value_or(0); first && last && i <= *last; ++i) {
        if (scope.columns[i].measured) items.push_back(turn_of(scope.columns[i]));
      }
    } else if (const auto index = find(*item); index) {
      items.push_back(turn_of(scope.columns[*index]));
    }
  }
  std::vector<LoopTurn> turns;
  const std::string& text = loop.passage.text();
  const std::string symbol_mark = "{" + loop.variable + "}";
  const std::string label_mark = "{" + loop.variable + ".label}";
  for (const TurnOf& item : items) {
    std::string made;
    bool inside = false;  // of a text
    std::vector<std::size_t> offsets;
    for (std::size_t at = loop.body.begin; at < loop.body.end;) {
      const std::string_view here = std::string_view(text).substr(at);
      const bool symbol = here.starts_with(symbol_mark);
      const bool label = here.starts_with(label_mark);
      if (text[at] == '"') inside = !inside;
      const std::string& name = inside ? item.quoted : item.symbol;
      if (label && !inside) {
        if (turns.empty())
          diagnostics.add(Code::loop_label, loop.passage.place({at, at + label_mark.size()}), {label_mark});
        return {};
      }
      const std::string put = symbol  ? (inside ? in_quotes(name) : name)
                              : label ? in_quotes(item.label)
                                      : std::string(1, text[at]);
      offsets.insert(offsets.end(), put.size(), loop.passage.place({at, at + 1}).span.begin);
      made += put;
      at += symbol ? symbol_mark.size() : label ? label_mark.size() : 1;
    }
    offsets.push_back(loop.passage.place({loop.body.end, loop.body.end}).span.begin);
    turns.push_back({Passage(loop.passage.source(), std::move(offsets), std::move(made)),
                     "for " + loop.variable + " = " + item.symbol});
  }
  return turns;
}

}  // namespace opensum
