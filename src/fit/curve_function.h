// A model as a function of its parameters and x.
#pragma once

#include <functional>
#include <vector>

#include "compute/derivatives.h"

namespace opensum {

/// The values of a model at some parameters for all x, NaN where it has none, and their derivatives by the
/// parameters.
using CurveFunction =
    std::function<Tangents(const std::vector<double>& parameters, const std::vector<double>& x)>;

}  // namespace opensum
