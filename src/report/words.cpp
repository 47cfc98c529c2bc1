// Equations in words.
#include "report/words.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <string_view>
#include <utility>

namespace opensum {
namespace {

using Word = std::pair<std::string_view, std::string_view>;

// What reductions are called, without `row_` or `col_`.
constexpr std::array kReductions = {
    Word{"mean", "mean"},
    Word{"median", "median"},
    Word{"min", "least"},
    Word{"max", "greatest"},
    Word{"range", "range"},
    Word{"sd", "standard deviation"},
    Word{"sem", "standard error of the mean"},
    Word{"mad", "median absolute deviation"},
    Word{"rms", "root mean square"},
    Word{"geometric_mean", "geometric mean"},
    Word{"sum", "sum"},
    Word{"product", "product"},
    Word{"count", "number of known values"},
    Word{"first", "first value"},
    Word{"last", "last value"},
    Word{"first_known", "first known value"},
    Word{"last_known", "last known value"},
};

// Functions along the rows of a sheet, with what stands before and after their operand.
struct Sequence {
  std::string_view name;
  std::string_view before;
};
constexpr std::array kSequences = {
    Sequence{"previous_known", "the known value before of"},
    Sequence{"next_known", "the known value after of"},
    Sequence{"interpolated", "linear interpolation of"},
    Sequence{"previous", "the value before of"},
    Sequence{"next", "the value after of"},
    Sequence{"change", "the change from row to row of"},
    Sequence{"sum_so_far", "the running sum of"},
    Sequence{"mean_so_far", "the running mean of"},
    Sequence{"moving_mean", "the moving mean of"},
    Sequence{"fallback", "the first known of"},
    Sequence{"log10", "the decimal logarithm of"},
    Sequence{"ln", "the natural logarithm of"},
    Sequence{"sqrt", "the square root of"},
    Sequence{"abs", "the size of"},
};

// How many levels of an equation are said in words; what lies deeper is read better as an equation.
constexpr int kDeepest = 2;

class Speaker {
 public:
  explicit Speaker(const Labels& labels) : labels_(labels) {}

  std::string say(const Node& node, int level) const {
    switch (node.kind()) {
      case NodeKind::name:
        return "the " + label(node.as<tree::Name>().symbol);
      case NodeKind::self:
        return "the values themselves";
      case NodeKind::member: {
        const auto& [owner, symbol, quoted] = node.as<tree::Member>();
        return owner == "codata" ? symbol : fmt::format("the {} from {}", plain(symbol), owner);
      }
      case NodeKind::number:
      case NodeKind::text:
        return print(node);
      case NodeKind::convert:
        return say(*node.children[0], level);
      case NodeKind::binary:
        return level < kDeepest ? say_binary(node, level) : "";
      case NodeKind::call:
        return level < kDeepest ? say_call(node, level) : "";
      default:
        return "";
    }
  }

 private:
  std::string label(const std::string& symbol) const {
    const auto found = labels_.find(symbol);
    return found == labels_.end() ? plain(symbol) : found->second;
  }

  // A symbol as words.
  static std::string plain(std::string symbol) {
    std::replace(symbol.begin(), symbol.end(), '_', ' ');
    return label_in_sentence(symbol);
  }

  static bool is_simple(const Node& node) {
    return node.kind() == NodeKind::name || node.kind() == NodeKind::member ||
           node.kind() == NodeKind::number || node.kind() == NodeKind::self;
  }

  // The factors of a product, in order; false where one is no simple thing.
  bool factors(const Node& node, std::vector<std::string>& items, int level) const {
    if (node.is(Operator::multiply))
      return factors(*node.children[0], items, level) && factors(*node.children[1], items, level);
    if (!is_simple(node)) return false;
    items.push_back(say(node, level));
    return true;
  }

  std::string say_binary(const Node& node, int level) const {
    if (node.is(Operator::multiply)) {
      std::vector<std::string> items;
      return factors(node, items, level + 1) ? "the product of " + enumerated(items) : "";
    }
    const Node& left = *node.children[0];
    const Node& right = *node.children[1];
    const std::string a = say(left, level + 1);
    const std::string b = say(right, level + 1);
    if (a.empty() || b.empty()) return "";
    if (node.is(Operator::subtract))
      return level == 0 ? fmt::format("{} less {}", a, b) : fmt::format("the difference of {} and {}", a, b);
    if (node.is(Operator::add)) return fmt::format("the sum of {} and {}", a, b);
    if (node.is(Operator::divide)) {
      if (right.is_plain_number() && right.as<tree::Number>().digits == "2") return "half of " + a;
      return fmt::format("{} divided by {}", a, b);
    }
    return "";
  }

  std::string say_call(const Node& node, int level) const {
    const std::string& function = node.function();
    const bool row = function.starts_with("row_");
    if (row || function.starts_with("col_")) {
      const std::string_view name = std::string_view(function).substr(4);
      const auto* const word = std::find_if(kReductions.begin(), kReductions.end(),
                                            [&](const Word& w) { return w.first == name; });
      if (word == kReductions.end()) return "";
      const std::string operands = operands_of(node, level);
      return operands.empty() ? ""
                              : fmt::format("the {} of {}{}", word->second, operands, details(node, row));
    }
    if (function == "round" && !node.children.empty()) {
      const std::string what = say(*node.children[0], level + 1);
      for (const NamedArgument& named : node.named()) {
        if (named.name == "to" && !what.empty())
          return fmt::format("{} rounded to {}", what, print(*named.value));
      }
      return "";
    }
    if (function == "limit") return "the limit of detection";
    const auto* const sequence = std::find_if(kSequences.begin(), kSequences.end(),
                                              [&](const Sequence& s) { return s.name == function; });
    if (sequence == kSequences.end()) return "";
    const std::string operands = operands_of(node, level);
    return operands.empty() ? "" : fmt::format("{} {}{}", sequence->before, operands, details(node, false));
  }

  std::string operands_of(const Node& node, int level) const {
    std::vector<std::string> items;
    for (const NodePtr& child : node.children) {
      if (child->kind() == NodeKind::range) {
        items.push_back(say(*child->children[0], level + 1) + " to " + say(*child->children[1], level + 1));
      } else if (child->kind() == NodeKind::text) {
        items.push_back("the columns named " + child->as<tree::Text>().text);
      } else {
        items.push_back(say(*child, level + 1));
      }
      if (items.back().empty()) return "";
    }
    return enumerated(items);
  }

  // What the named arguments say: of what, for each of what, where.
  std::string details(const Node& node, bool row) const {
    std::string out;
    const auto argument = [&](const char* name) -> const Node* {
      for (const NamedArgument& named : node.named()) {
        if (named.name == name) return named.value.get();
      }
      return nullptr;
    };
    const Node* nulls = argument("nulls");
    const Node* least = argument("at_least");
    if (row && nulls != nullptr && print(*nulls) == "skip") out += ", of those that were known";
    if (least != nullptr) out += fmt::format(", at least {}", print(*least));
    if (const Node* along = argument("along")) out += " along " + say(*along, 1);
    if (const Node* by = argument("by")) {
      std::vector<std::string> keys;
      if (by->kind() == NodeKind::list) {
        for (const NodePtr& key : by->children) keys.push_back(say(*key, 1));
      } else {
        keys.push_back(say(*by, 1));
      }
      out += " for each " + enumerated(keys);
    }
    if (const Node* where = argument("where")) out += fmt::format(" where {}", print(*where));
    return out;
  }

  const Labels& labels_;
};

}  // namespace

std::string counted(std::size_t count, const char* what) {
  return fmt::format("{} {}{}", count, what, count == 1 ? "" : "s");
}

std::string with_unit(const std::string& number, const std::string& unit) {
  return unit.empty() || unit == "1" ? number : number + " " + unit;
}

std::string label_in_sentence(const std::string& label) {
  const auto is = [&](std::size_t i, char from, char to) {
    return i < label.size() && label[i] >= from && label[i] <= to;
  };
  if (!is(0, 'A', 'Z') || !is(1, 'a', 'z')) return label;
  std::string text = label;
  text[0] = static_cast<char>(text[0] - 'A' + 'a');
  return text;
}

std::string enumerated(const std::vector<std::string>& items) {
  std::string out;
  for (std::size_t i = 0; i < items.size(); ++i) {
    if (i > 0) out += i + 1 == items.size() ? " and " : ", ";
    out += items[i];
  }
  return out;
}

std::string in_words(const Node& expression, const Labels& labels) {
  return Speaker(labels).say(expression, 0);
}

}  // namespace opensum
