// The syntax tree of an equation, and its printing.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "message/source.h"

namespace opensum {

enum class NodeKind : std::uint8_t {
  number,  ///< `text` holds the digits; may have a unit
  text,    ///< a literal in quotes; a pattern of columns where a list of columns is wanted
  truth,   ///< true, false
  null,
  self,
  pi,
  name,    ///< a column or constant
  member,  ///< owner.name: a column of another sheet, or codata.X
  unary,   ///< - or not
  binary,
  convert,  ///< in [unit]
  call,
  range,     ///< a..d
  unit,      ///< a unit standing as an argument
  argument,  ///< a word such as skip, after a named argument
  list,      ///< (a, b) after by:
};

enum class Operator : std::uint8_t {
  add,
  subtract,
  multiply,
  divide,
  power,
  equal,
  not_equal,
  less,
  less_equal,
  greater,
  greater_equal,
  logical_and,
  logical_or,
  logical_not,
  negate,
};

/// As written in an equation.
const char* operator_text(Operator op);

struct UnitText {
  std::string text;
  Span span;  ///< of the unit without its brackets
};

struct Node;
using NodePtr = std::unique_ptr<Node>;

struct NamedArgument {
  std::string name;
  Span span;
  NodePtr value;
};

struct Node {
  NodeKind kind{};
  Span span;
  Span mark;  ///< the operator or the function's name
  std::string text;
  std::string owner;
  bool quoted = false;
  Operator op{};
  std::optional<UnitText> unit;
  std::string uncertainty;  ///< of a number: the digits after ±
  std::vector<NodePtr> children;
  std::vector<NamedArgument> named;
  int depth = 1;
};

/// One line `NAME "Label" [UNIT] = EXPRESSION`.
struct Definition {
  std::string name;
  Span name_span;
  std::string label;
  std::optional<UnitText> unit;
  NodePtr expression;
  Span span;
  Passage passage;
  std::string turn;  ///< of a loop: `for ch = ch3`
};

/// One line `"what is claimed": CONDITION`.
struct Claim {
  std::string text;
  Span text_span;
  NodePtr condition;
  Passage passage;
};

/// One line `NAME(PARAMETER, …) = EXPRESSION`.
struct Formula {
  std::string name;
  Span name_span;
  std::vector<std::string> parameters;
  NodePtr body;
  Span span;
  Passage passage;
};

/// One line `for NAME in LIST as NAME: DEFINITION`, which stands for a definition for each of a list.
struct Loop {
  std::string variable;
  std::vector<NodePtr> list;  ///< names, ranges, patterns, and texts that are no column
  std::string made;           ///< the name of the list of what is defined; empty without
  Passage passage;
  Span body;
};

/// How tightly an expression binds: operands that bind less tightly than their operator need brackets.
int tightness(const Node& node);
constexpr int kTightest = 10;

/// The expression in one form: single blanks, the fewest brackets. Reading it again gives the same tree.
std::string print(const Node& node);

}  // namespace opensum
