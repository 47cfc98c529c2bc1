// Models of a shape that is known by its equation: what their parameters are, and where the search for them
// may begin.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "equation/tree.h"
#include "fit/curve.h"

namespace opensum {

/// What a parameter is, from which its unit follows.
enum class ParameterRole : std::uint8_t {
  amplitude,  ///< a difference of y
  offset,     ///< a value of y
  length,     ///< a difference of x, above 0
  rate,       ///< one over a difference of x, of either sign
  position,   ///< a value of x
};

struct KnownShape {
  std::size_t number = 0;  ///< in the list of shapes
  /// The parameters as the equation names them, in order of first use.
  std::vector<std::string> names;
  std::vector<ParameterRole> roles;
  /// The places of these in the shape's own order.
  std::vector<std::size_t> own_order;
};

/// The shape of an equation in x, such as `a * exp(-x / tau) + c` with any names; nothing for others.
/// `is_parameter` says which names may be parameters.
std::optional<KnownShape> known_shape(const Node& equation,
                                      const std::function<bool(const std::string&)>& is_parameter);

/// The model that has a name and is what such an equation writes out, as `line` for `m * x + b`; empty for
/// others.
std::string named_as(const Node& equation, const std::function<bool(const std::string&)>& is_parameter);

/// Where the search for the parameters of such a shape may begin, by its names: of the parameters that stand
/// inside the curve the best on a coarse grid over the range of x, of those that multiply and are added the
/// least squares.
std::vector<double> guessed_start(const KnownShape& shape, const CurveData& data);

}  // namespace opensum
