// The plain evaluator: walks a checked tree for one row at a time.
#include "reference/plain_evaluator.h"

#include <algorithm>
#include <cmath>

namespace opensum::reference {
namespace {

Value null_value(Null null) {
  Value value;
  value.null = null;
  return value;
}

Value number(double x, OriginId own) {
  if (!std::isfinite(x)) return null_value(Null(Reason::overflow, own));
  Value value;
  value.number = x;
  return value;
}

Value truth(bool is) {
  Value value;
  value.number = is ? 1 : 0;
  return value;
}

double rounded(Op op, double x, double step) {
  const double inverse = std::round(1 / step);
  const bool by_inverse = step < 1 && inverse > 0 && 1 / inverse == step;
  double scaled = by_inverse ? x * inverse : x / step;
  if (op == Op::round_to) scaled = std::nearbyint(scaled);
  if (op == Op::floor_to) scaled = std::floor(scaled);
  if (op == Op::ceil_to) scaled = std::ceil(scaled);
  if (op == Op::trunc_to) scaled = std::trunc(scaled);
  return by_inverse ? scaled / inverse : scaled * step;
}

// Neumaier's sum, written anew.
double sum(const std::vector<double>& values) {
  double total = 0;
  double lost = 0;
  for (const double v : values) {
    const double t = total + v;
    lost += std::fabs(total) >= std::fabs(v) ? (total - t) + v : (v - t) + total;
    total = t;
  }
  return total + lost;
}

Value row_reduction(const Checked& node, const std::vector<Value>& args, OriginId own) {
  std::vector<double> known;
  std::vector<std::size_t> indices;
  Null first;
  for (std::size_t i = 0; i < args.size(); ++i) {
    if (!args[i].null) {
      known.push_back(args[i].number);
      indices.push_back(i);
    } else if (!first) {
      first = args[i].null;
    }
  }
  if (node.op == Op::row_count) return number(static_cast<double>(known.size()), own);
  if (first && !node.nulls.skip) return null_value(first);
  const std::size_t least =
      std::max<std::size_t>(node.op == Op::row_sd ? 2 : 1, static_cast<std::size_t>(node.nulls.at_least));
  if (known.size() < least) return null_value(Null(Reason::too_few, own));
  const double n = static_cast<double>(known.size());
  // The first of equal ones, which 0 and -0 are.
  const auto low = std::min_element(known.begin(), known.end());
  const auto high = std::max_element(known.begin(), known.end());
  switch (node.op) {
    case Op::row_sum:
      return number(sum(known), own);
    case Op::row_mean:
      return number(sum(known) / n, own);
    case Op::row_min:
      return number(*low, own);
    case Op::row_max:
      return number(*high, own);
    case Op::row_range:
      return number(*high - *low, own);
    case Op::row_product: {
      double product = 1;
      for (const double v : known) product *= v;
      return number(product, own);
    }
    case Op::row_median: {
      std::sort(known.begin(), known.end());
      const std::size_t m = known.size() / 2;
      return number(known.size() % 2 == 1 ? known[m] : known[m - 1] / 2 + known[m] / 2, own);
    }
    case Op::row_sd: {
      const double mean = sum(known) / n;
      std::vector<double> squares;
      for (const double v : known) squares.push_back((v - mean) * (v - mean));
      return number(std::sqrt(sum(squares) / (n - 1)), own);
    }
    default: {
      // The first of equal extremes.
      std::size_t best = 0;
      for (std::size_t i = 1; i < known.size(); ++i) {
        if (node.op == Op::row_min_name ? known[i] < known[best] : known[i] > known[best]) best = i;
      }
      Value value;
      value.text = node.names[indices[best]];
      return value;
    }
  }
}

Value function(const Checked& node, const std::vector<Value>& args, OriginId own) {
  const double x = args[0].number;
  const Value domain = null_value(Null(Reason::domain, own));
  switch (node.op) {
    case Op::convert:
      // Adding zero would turn -0 into 0.
      if (node.conversion.add == 0) return number(x * node.conversion.multiply / node.conversion.divide, own);
      return number(x * node.conversion.multiply / node.conversion.divide + node.conversion.add, own);
    case Op::negate:
      return number(-x, own);
    case Op::logical_not:
      return truth(x == 0);
    case Op::absolute:
      return number(std::fabs(x), own);
    case Op::sign:
      return number(x > 0 ? 1 : x < 0 ? -1 : 0, own);
    case Op::square_root:
      return x < 0 ? domain : number(std::sqrt(x), own);
    case Op::cube_root:
      return number(std::cbrt(x), own);
    case Op::exponential:
      return number(std::exp(x), own);
    case Op::natural_log:
      return x <= 0 ? domain : number(std::log(x), own);
    case Op::decimal_log:
      return x <= 0 ? domain : number(std::log10(x), own);
    case Op::binary_log:
      return x <= 0 ? domain : number(std::log2(x), own);
    case Op::sine:
      return number(std::sin(x), own);
    case Op::cosine:
      return number(std::cos(x), own);
    case Op::tangent:
      return number(std::tan(x), own);
    case Op::arc_sine:
      return std::fabs(x) > 1 ? domain : number(std::asin(x), own);
    case Op::arc_cosine:
      return std::fabs(x) > 1 ? domain : number(std::acos(x), own);
    case Op::arc_tangent:
      return number(std::atan(x), own);
    case Op::hyperbolic_sine:
      return number(std::sinh(x), own);
    case Op::hyperbolic_cosine:
      return number(std::cosh(x), own);
    case Op::hyperbolic_tangent:
      return number(std::tanh(x), own);
    default:
      return number(rounded(node.op, x, node.number), own);
  }
}

Value two(const Checked& node, const Value& left, const Value& right, OriginId own) {
  const double a = left.number;
  const double b = right.number;
  const Value by_zero = null_value(Null(Reason::divide_by_zero, own));
  switch (node.op) {
    case Op::add:
      return number(a + b, own);
    case Op::subtract:
      return number(a - b, own);
    case Op::multiply:
      return number(a * b, own);
    case Op::divide:
      return b == 0 ? by_zero : number(a / b, own);
    case Op::power:
      if (a == 0 && b < 0) return by_zero;
      if (a < 0 && b != std::floor(b)) return null_value(Null(Reason::domain, own));
      return number(b == 2 ? a * a : b == 0.5 ? std::sqrt(a) : std::pow(a, b), own);
    case Op::modulo: {
      if (b == 0) return by_zero;
      double rest = std::fmod(a, b);
      if (rest != 0 && (rest < 0) != (b < 0)) rest += b;
      return number(rest, own);
    }
    case Op::equal:
      return truth(a == b);
    case Op::not_equal:
      return truth(a != b);
    case Op::less:
      return truth(a < b);
    case Op::less_equal:
      return truth(a <= b);
    case Op::greater:
      return truth(a > b);
    case Op::greater_equal:
      return truth(a >= b);
    case Op::text_equal:
      return truth(left.text == right.text);
    case Op::text_not_equal:
      return truth(left.text != right.text);
    case Op::arc_tangent2:
      return number(std::atan2(a, b), own);
    default:
      return number(std::hypot(a, b), own);
  }
}

}  // namespace

Value evaluate(const Checked& node, const std::vector<const Column*>& columns, std::size_t row,
               OriginId own) {
  std::vector<Value> args;
  for (const CheckedPtr& arg : node.args) args.push_back(evaluate(*arg, columns, row, own));
  switch (node.op) {
    case Op::constant:
      return number(node.number, own);
    case Op::text_constant: {
      Value value;
      value.text = node.text;
      return value;
    }
    case Op::null_constant:
      return null_value(Null(Reason::excluded, own));
    case Op::column: {
      const Column& column = *columns[node.column];
      Value value;
      value.null = column.null(row);
      if (column.kind == Kind::text) {
        value.text = std::string(column.text(row));
      } else {
        value.number = column.number(row);
      }
      return value;
    }
    case Op::logical_and:
    case Op::logical_or: {
      const double decides = node.op == Op::logical_or ? 1 : 0;
      for (const Value& arg : args) {
        if (!arg.null && arg.number == decides) return truth(decides == 1);
      }
      for (const Value& arg : args) {
        if (arg.null) return arg;
      }
      return truth(decides != 1);
    }
    case Op::select:
      if (args[0].null) return null_value(args[0].null);
      return args[0].number != 0 ? args[1] : args[2];
    case Op::is_any: {
      if (args[0].null) return null_value(args[0].null);
      Null unknown;
      for (std::size_t i = 1; i < args.size(); ++i) {
        if (args[i].null) {
          if (!unknown) unknown = args[i].null;
        } else if (args[i].number == args[0].number && args[i].text == args[0].text) {
          return truth(true);
        }
      }
      return unknown ? null_value(unknown) : truth(false);
    }
    case Op::is_null:
      return truth(static_cast<bool>(args[0].null));
    case Op::fallback:
      for (const Value& arg : args) {
        if (!arg.null) return arg;
      }
      return args[0];
    case Op::complete:
      return truth(std::none_of(args.begin(), args.end(), [](const Value& v) { return bool(v.null); }));
    case Op::exclude:
      if (args[0].null) return args[0];
      if (args[1].null) return null_value(args[1].null);
      return args[1].number != 0 ? null_value(Null(Reason::excluded, own)) : args[0];
    case Op::ratio:
      if (args[0].null) return args[0];
      if (args[1].null) return args[1];
      return args[1].number == 0 ? args[2] : number(args[0].number / args[1].number, own);
    default:
      break;
  }
  if (node.op >= Op::row_sum && node.op <= Op::row_max_name) return row_reduction(node, args, own);
  for (const Value& arg : args) {
    if (arg.null) return null_value(arg.null);
  }
  if (node.op == Op::clamp) {
    return number(std::min(std::max(args[0].number, args[1].number), args[2].number), own);
  }
  if (node.op == Op::near) return truth(std::fabs(args[0].number - args[1].number) <= args[2].number);
  return args.size() == 2 ? two(node, args[0], args[1], own) : function(node, args, own);
}

}  // namespace opensum::reference
