// A field of cells: a quantity as colour over x and y.
#pragma once

#include <string>
#include <vector>

#include "figure/chart.h"
#include "figure/frame.h"

namespace opensum {

/// The borders of cells around some values, half-way between neighbours; those of a single value are one
/// apart.
std::vector<double> cell_edges(std::vector<double> values);

/// The cells of all series of a chart. Where several stand at one place the last one is seen, which `remarks`
/// says.
std::vector<Mark> cell_marks(const Chart& chart, const Frame& frame, std::vector<std::string>& remarks);

/// How many steps of colour are drawn.
constexpr std::size_t kShadeSteps = 64;

/// The step of colour of a value.
std::size_t shade_step(const Scale& shade, double value);
/// The colour of a step.
Color color_of_step(std::size_t step);

}  // namespace opensum
