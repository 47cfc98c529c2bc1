// The syntax tree of an equation, and its printing.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "message/source.h"

namespace opensum {

/// In the order of what a node may be.
enum class NodeKind : std::uint8_t {
  number,
  text,
  truth,
  null,
  self,
  pi,
  name,
  member,
  unary,
  binary,
  convert,
  call,
  range,
  unit,
  argument,
  list,
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

/// What a node may be.
namespace tree {

struct Number {
  std::string digits;
  std::string uncertainty = {};  ///< the digits after ±
  std::optional<UnitText> unit = {};
};

/// In quotes; a pattern of columns where a list of columns is wanted.
struct Text {
  std::string text;
};

struct Truth {
  bool value = false;
};

struct Null {};

struct Self {};

struct Pi {};

/// A column or constant.
struct Name {
  std::string symbol;
  bool quoted = false;
};

/// `owner.name`: a column of another sheet, or `codata.X`.
struct Member {
  std::string owner;
  std::string symbol;
  bool quoted = false;
};

/// A minus or `not`.
struct Unary {
  Operator op{};
};

struct Binary {
  Operator op{};
};

/// `in [unit]`.
struct Convert {
  UnitText unit;
};

struct Call {
  std::string function;
  std::vector<NamedArgument> named = {};
};

/// `a..d`.
struct Range {};

/// A unit that stands as an argument.
struct UnitArgument {
  UnitText unit;
};

/// A word such as `skip`, after a named argument.
struct Word {
  std::string word;
};

/// `(a, b)` after `by:`.
struct List {};

using What = std::variant<Number, Text, Truth, Null, Self, Pi, Name, Member, Unary, Binary, Convert, Call,
                          Range, UnitArgument, Word, List>;

}  // namespace tree

/// A node of a tree: what it is, and the operands or arguments that are its children.
struct Node {
  tree::What what;
  Span span;
  Span mark;  ///< the operator or the function's name
  std::vector<NodePtr> children = {};
  int depth = 1;

  NodeKind kind() const { return static_cast<NodeKind>(what.index()); }
  /// What a node of this kind is; of any other it throws std::bad_variant_access.
  template <typename What>
  const What& as() const {
    return std::get<What>(what);
  }
  template <typename What>
  What& as() {
    return std::get<What>(what);
  }
  template <typename What>
  bool is() const {
    return std::holds_alternative<What>(what);
  }
  /// Whether it is this operation of two.
  bool is(Operator op) const { return is<tree::Binary>() && as<tree::Binary>().op == op; }
  /// A number without a unit.
  bool is_plain_number() const { return is<tree::Number>() && !as<tree::Number>().unit; }
  /// The name of the function that is called.
  const std::string& function() const { return as<tree::Call>().function; }
  const std::vector<NamedArgument>& named() const { return as<tree::Call>().named; }
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

/// The name of a column or constant, without its owner; empty for what is no name.
const std::string& symbol_in(const Node& node);

/// How tightly an expression binds: operands that bind less tightly than their operator need brackets.
int tightness(const Node& node);
constexpr int kTightest = 10;

/// Whether a node is a minus before something.
bool is_negation(const Node& node);

/// The expression in one form: single blanks, the fewest brackets. Reading it again gives the same tree.
std::string print(const Node& node);

}  // namespace opensum
