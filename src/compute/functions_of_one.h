// The smooth functions of one number: value and derivative side by side.
#pragma once

#include <cmath>
#include <numbers>

#include "equation/operation.h"

namespace opensum {

/// Calls `use` with what an operation of one number gives at x, and with its derivative where that is y.
/// False for all other operations. Where a function is undefined is said in kernels.cpp.
template <typename Use>
bool with_function_of_one(Op op, const Use& use) {
  switch (op) {
    case Op::absolute:
      use([](double x) { return std::fabs(x); },
          [](double x, double /*y*/) { return x > 0   ? 1
                                              : x < 0 ? -1
                                                      : std::nan(""); });
      return true;
    case Op::square_root:
      use([](double x) { return std::sqrt(x); }, [](double /*x*/, double y) { return 0.5 / y; });
      return true;
    case Op::cube_root:
      use([](double x) { return std::cbrt(x); }, [](double /*x*/, double y) { return 1 / (3 * y * y); });
      return true;
    case Op::exponential:
      use([](double x) { return std::exp(x); }, [](double /*x*/, double y) { return y; });
      return true;
    case Op::exponential_less_1:
      use([](double x) { return std::expm1(x); }, [](double /*x*/, double y) { return y + 1; });
      return true;
    case Op::natural_log:
      use([](double x) { return std::log(x); }, [](double x, double /*y*/) { return 1 / x; });
      return true;
    case Op::decimal_log:
      use([](double x) { return std::log10(x); },
          [](double x, double /*y*/) { return std::numbers::log10e / x; });
      return true;
    case Op::binary_log:
      use([](double x) { return std::log2(x); },
          [](double x, double /*y*/) { return std::numbers::log2e / x; });
      return true;
    case Op::log_of_1_more:
      use([](double x) { return std::log1p(x); }, [](double x, double /*y*/) { return 1 / (1 + x); });
      return true;
    case Op::error_function:
      use([](double x) { return std::erf(x); },
          [](double x, double /*y*/) { return 2 * std::numbers::inv_sqrtpi * std::exp(-x * x); });
      return true;
    case Op::sine:
      use([](double x) { return std::sin(x); }, [](double x, double /*y*/) { return std::cos(x); });
      return true;
    case Op::cosine:
      use([](double x) { return std::cos(x); }, [](double x, double /*y*/) { return -std::sin(x); });
      return true;
    case Op::tangent:
      use([](double x) { return std::tan(x); }, [](double /*x*/, double y) { return 1 + y * y; });
      return true;
    case Op::arc_sine:
      use([](double x) { return std::asin(x); },
          [](double x, double /*y*/) { return 1 / std::sqrt((1 - x) * (1 + x)); });
      return true;
    case Op::arc_cosine:
      use([](double x) { return std::acos(x); },
          [](double x, double /*y*/) { return -1 / std::sqrt((1 - x) * (1 + x)); });
      return true;
    case Op::arc_tangent:
      use([](double x) { return std::atan(x); }, [](double x, double /*y*/) { return 1 / (1 + x * x); });
      return true;
    case Op::hyperbolic_sine:
      use([](double x) { return std::sinh(x); }, [](double x, double /*y*/) { return std::cosh(x); });
      return true;
    case Op::hyperbolic_cosine:
      use([](double x) { return std::cosh(x); }, [](double x, double /*y*/) { return std::sinh(x); });
      return true;
    case Op::hyperbolic_tangent:
      use([](double x) { return std::tanh(x); },
          [](double x, double /*y*/) { return 1 / (std::cosh(x) * std::cosh(x)); });
      return true;
    default:
      return false;
  }
}

}  // namespace opensum
