// Quantiles of the distributions that intervals are made of.
#pragma once

#include "equation/op.h"

namespace opensum {

/// Whether an operation gives a quantile.
bool is_quantile(Op op);

/// The value that is not exceeded with probability p; `freedom` are the degrees of freedom, of the normal
/// distribution without meaning. NaN outside of 0 < p < 1 and without freedom above 0.
double quantile(Op op, double p, double freedom);

/// How fast it changes with p: 1 over the density there.
double slope_of_quantile(Op op, double value, double freedom);

}  // namespace opensum
