// Where a curve must be calculated so that straight lines between the places look like it.
#pragma once

#include <functional>
#include <vector>

namespace opensum {

/// Heights of some curves at places along an axis, both from 0 to 1 over the part that is drawn; NaN where a
/// curve has none. One list for each curve, in step with the places.
using CurveHeights = std::function<std::vector<std::vector<double>>(const std::vector<double>& places)>;

/// Places from 0 to 1 at which the curves are joined by straight lines without being farther from themselves
/// than half a pixel of a large figure; only as many as that takes.
std::vector<double> places_to_join(const CurveHeights& heights);

}  // namespace opensum
