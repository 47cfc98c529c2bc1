// Colours for a quantity: from dark to light, in even steps of lightness.
#pragma once

#include "figure/marks.h"

namespace opensum {

/// The colour of a share from 0 to 1 of the way along the scale of colours. Its lightness grows in proportion
/// to the share (Ottosson 2020, the perceptual space Oklab), so that it can be read without colours, too.
Color shade_color(double share);

}  // namespace opensum
