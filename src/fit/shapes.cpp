// Models of a shape that is known by its equation.
#include "fit/shapes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>

#include "equation/parser.h"
#include "message/diagnostic.h"

namespace opensum {
namespace {

using Role = ParameterRole;

// How the curve of a shape goes, but for its amplitude and offset; `p` are its other parameters.
using Course = double (*)(double x, const std::array<double, 2>& p);

double decay(double x, const std::array<double, 2>& p) { return std::exp(-x / p[0]); }
double decay_by_rate(double x, const std::array<double, 2>& p) { return std::exp(-x * p[0]); }
double growth_by_rate(double x, const std::array<double, 2>& p) { return std::exp(x * p[0]); }
double approach(double x, const std::array<double, 2>& p) { return 1 - std::exp(-x / p[0]); }
double approach_by_rate(double x, const std::array<double, 2>& p) { return 1 - std::exp(-x * p[0]); }
double saturation(double x, const std::array<double, 2>& p) { return x / (p[0] + x); }
double bell(double x, const std::array<double, 2>& p) {
  const double z = (x - p[0]) / p[1];
  return std::exp(-z * z / 2);
}
double bell_without_half(double x, const std::array<double, 2>& p) {
  const double z = (x - p[0]) / p[1];
  return std::exp(-z * z);
}
double step(double x, const std::array<double, 2>& p) { return 1 / (1 + std::exp(-(x - p[0]) / p[1])); }
double resonance(double x, const std::array<double, 2>& p) {
  const double z = (x - p[0]) / p[1];
  return 1 / (1 + z * z);
}

// A is the amplitude and C the offset; T and W are lengths, K is a rate, M a position.
struct Shape {
  const char* equation;
  Course course;
};
constexpr std::array kShapes = {
    Shape{"A * exp(-x / T)", decay},
    Shape{"A * exp(-K * x)", decay_by_rate},
    Shape{"A * exp(K * x)", growth_by_rate},
    Shape{"A * (1 - exp(-x / T))", approach},
    Shape{"A * (1 - exp(-K * x))", approach_by_rate},
    Shape{"A * x / (T + x)", saturation},
    Shape{"A * exp(-(x - M)^2 / (2 * W^2))", bell},
    Shape{"A * exp(-((x - M) / W)^2 / 2)", bell},
    Shape{"A * exp(-0.5 * ((x - M) / W)^2)", bell},
    Shape{"A * exp(-((x - M) / W)^2)", bell_without_half},
    Shape{"A * exp(-(x - M)^2 / W^2)", bell_without_half},
    Shape{"A / (1 + exp(-(x - M) / W))", step},
    Shape{"A / (1 + ((x - M) / W)^2)", resonance},
};

// Equations that are models with a name.
struct Named {
  const char* equation;
  const char* model;
};
constexpr std::array kNamed = {
    Named{"C + A * x", "line"},
    Named{"A * x", "proportional"},
    Named{"C + A * x + B * x^2", "polynomial 2"},
    Named{"C + A * x + B * x^2 + D * x^3", "polynomial 3"},
    Named{"A * x^B", "power"},
    Named{"C + A * ln(x)", "logarithm"},
};

Role role_of(char name) {
  switch (name) {
    case 'A':
      return Role::amplitude;
    case 'C':
      return Role::offset;
    case 'K':
      return Role::rate;
    case 'M':
      return Role::position;
    default:
      return Role::length;
  }
}

NodePtr parsed(const std::string& text) {
  Diagnostics none;
  return parse_expression(Passage::whole("shape", text), none);
}

// Whether a tree is a pattern with other names for its capital letters.
class Match {
 public:
  explicit Match(std::function<bool(const std::string&)> is_parameter)
      : is_parameter_(std::move(is_parameter)) {}

  bool is(const Node& node, const Node& pattern) {
    if (pattern.is<tree::Name>() && pattern.as<tree::Name>().symbol != "x") {
      if (!node.is<tree::Name>()) return false;
      const std::string& name = node.as<tree::Name>().symbol;
      const char letter = pattern.as<tree::Name>().symbol.front();
      if (name == "x" || !is_parameter_(name)) return false;
      const auto bound = names_.find(letter);
      if (bound != names_.end()) return bound->second == name;
      const bool taken =
          std::any_of(names_.begin(), names_.end(), [&](const auto& n) { return n.second == name; });
      if (!taken) names_[letter] = name;
      return !taken;
    }
    if (!is_alike(node, pattern)) return false;
    if (node.is(Operator::add) || node.is(Operator::multiply)) return either_way(node, pattern);
    for (std::size_t i = 0; i < node.children.size(); ++i) {
      if (!is(*node.children[i], *pattern.children[i])) return false;
    }
    return true;
  }

  // By their letters.
  const std::map<char, std::string>& names() const { return names_; }

 private:
  // Whether two nodes are the same but for their children.
  static bool is_alike(const Node& node, const Node& pattern) {
    if (node.kind() != pattern.kind() || node.children.size() != pattern.children.size()) return false;
    switch (node.kind()) {
      case NodeKind::number:
        return node.is_plain_number() && node.as<tree::Number>().digits == pattern.as<tree::Number>().digits;
      case NodeKind::name:
        return node.as<tree::Name>().symbol == pattern.as<tree::Name>().symbol;
      case NodeKind::unary:
        return node.as<tree::Unary>().op == pattern.as<tree::Unary>().op;
      case NodeKind::binary:
        return node.as<tree::Binary>().op == pattern.as<tree::Binary>().op;
      case NodeKind::call:
        return node.named().empty() && node.function() == pattern.function();
      default:
        // There is nothing else in a pattern.
        return false;
    }
  }

  // Sums and products of several are matched in any order.
  bool either_way(const Node& node, const Node& pattern) {
    std::vector<const Node*> own;
    std::vector<const Node*> wanted;
    const Operator op = node.as<tree::Binary>().op;
    collect(node, op, own);
    collect(pattern, op, wanted);
    if (own.size() != wanted.size()) return false;
    std::sort(own.begin(), own.end());
    do {
      const auto before = names_;
      bool all = true;
      for (std::size_t i = 0; i < own.size() && all; ++i) all = is(*own[i], *wanted[i]);
      if (all) return true;
      names_ = before;
    } while (std::next_permutation(own.begin(), own.end()));
    return false;
  }

  static void collect(const Node& node, Operator op, std::vector<const Node*>& items) {
    if (node.is(op)) {
      for (const NodePtr& child : node.children) collect(*child, op, items);
    } else {
      items.push_back(&node);
    }
  }

  std::function<bool(const std::string&)> is_parameter_;
  std::map<char, std::string> names_;
};

// The names of a tree, in order of first use.
void collect_names(const Node& node, std::vector<std::string>& names) {
  if (node.is<tree::Name>()) {
    const std::string& name = node.as<tree::Name>().symbol;
    if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
  }
  for (const NodePtr& child : node.children) collect_names(*child, names);
}

// No shape has so many terms that trying all their orders takes long.
constexpr int kDeepest = 12;

// The letters of a shape's other parameters, in the order in which its course takes them.
std::string inner_letters(const std::map<char, std::string>& names) {
  std::string letters;
  for (const char letter : {'M', 'T', 'K', 'W'}) {
    if (names.contains(letter)) letters += letter;
  }
  return letters;
}

// Least squares of y by amplitude and offset for a course that is given; what is left over.
struct Amplitude {
  double amplitude = 0;
  double offset = 0;
  double left_over = std::numeric_limits<double>::infinity();
};

Amplitude amplitude_of(const std::vector<double>& course, const CurveData& data, bool with_offset) {
  double mean_course = 0;
  double mean_y = 0;
  const auto count = static_cast<double>(course.size());
  for (std::size_t i = 0; i < course.size(); ++i) {
    if (!std::isfinite(course[i])) return {};
    mean_course += with_offset ? course[i] / count : 0;
    mean_y += with_offset ? data.y[i] / count : 0;
  }
  double square = 0;
  double product = 0;
  for (std::size_t i = 0; i < course.size(); ++i) {
    square += (course[i] - mean_course) * (course[i] - mean_course);
    product += (course[i] - mean_course) * (data.y[i] - mean_y);
  }
  if (!(square > 0)) return {};
  Amplitude found;
  found.amplitude = product / square;
  found.offset = mean_y - found.amplitude * mean_course;
  found.left_over = 0;
  for (std::size_t i = 0; i < course.size(); ++i) {
    const double rest = data.y[i] - found.offset - found.amplitude * course[i];
    found.left_over += rest * rest;
  }
  return found;
}

// Values to try for a parameter inside the curve.
std::vector<double> tried_values(char letter, double least, double greatest) {
  std::vector<double> values;
  const double span = greatest > least ? greatest - least : 1;
  if (letter == 'M') {
    constexpr int kPlaces = 40;
    for (int i = 0; i <= kPlaces; ++i) values.push_back(least + span * i / kPlaces);
    return values;
  }
  // From a hundredth of the range to ten of them.
  constexpr int kSizes = 36;
  for (int i = 0; i <= kSizes; ++i) {
    const double size = span * std::pow(10, -2 + 3.0 * i / kSizes);
    values.push_back(letter == 'K' ? 1 / size : size);
    if (letter == 'K') values.push_back(-1 / size);
  }
  return values;
}

// The equation of a shape, without or with an offset.
std::string equation_of(std::size_t number) {
  const std::string equation = kShapes.at(number / 2).equation;
  return number % 2 == 0 ? equation : equation + " + C";
}

}  // namespace

std::optional<KnownShape> known_shape(const Node& equation,
                                      const std::function<bool(const std::string&)>& is_parameter) {
  if (equation.depth > kDeepest) return std::nullopt;
  for (std::size_t number = 0; number < 2 * kShapes.size(); ++number) {
    Match match(is_parameter);
    if (!match.is(equation, *parsed(equation_of(number)))) continue;
    KnownShape shape;
    shape.number = number;
    std::vector<std::string> names;
    collect_names(equation, names);
    const std::string letters = inner_letters(match.names());
    for (const std::string& name : names) {
      for (const auto& [letter, bound] : match.names()) {
        if (bound != name) continue;
        shape.names.push_back(name);
        shape.roles.push_back(role_of(letter));
        shape.own_order.push_back(letter == 'A' ? 0 : letter == 'C' ? 1 : 2 + letters.find(letter));
      }
    }
    return shape;
  }
  return std::nullopt;
}

std::string named_as(const Node& equation, const std::function<bool(const std::string&)>& is_parameter) {
  if (equation.depth > kDeepest) return {};
  for (const Named& named : kNamed) {
    if (Match(is_parameter).is(equation, *parsed(named.equation))) return named.model;
  }
  return {};
}

std::vector<double> guessed_start(const KnownShape& shape, const CurveData& data) {
  const bool with_offset = shape.number % 2 == 1;
  const Course course = kShapes.at(shape.number / 2).course;
  Match match([](const std::string&) { return true; });
  const NodePtr pattern = parsed(equation_of(shape.number));
  match.is(*pattern, *pattern);
  const std::string letters = inner_letters(match.names());
  // So many points show where to begin.
  constexpr std::size_t kMost = 500;
  CurveData some;
  const std::size_t every = (data.x.size() + kMost - 1) / kMost;
  for (std::size_t i = 0; i < data.x.size(); i += every) {
    some.x.push_back(data.x[i]);
    some.y.push_back(data.y[i]);
  }
  const auto [least, greatest] = std::minmax_element(data.x.begin(), data.x.end());
  const std::vector<double> first = tried_values(letters.front(), *least, *greatest);
  const std::vector<double> second =
      letters.size() > 1 ? tried_values(letters.back(), *least, *greatest) : std::vector<double>{0};
  Amplitude best;
  std::array<double, 2> at = {first.front(), second.front()};
  std::vector<double> values(some.x.size());
  for (const double one : first) {
    for (const double other : second) {
      const std::array<double, 2> inner = {one, other};
      for (std::size_t i = 0; i < values.size(); ++i) values[i] = course(some.x[i], inner);
      const Amplitude found = amplitude_of(values, some, with_offset);
      if (!(found.left_over < best.left_over)) continue;
      best = found;
      at = inner;
    }
  }
  const std::array<double, 4> own = {best.amplitude, best.offset, at[0], at[1]};
  std::vector<double> start;
  for (const std::size_t place : shape.own_order) start.push_back(own.at(place));
  return start;
}

}  // namespace opensum
