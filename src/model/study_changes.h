// What the command line changes in a study for one run.
#pragma once

#include <vector>

#include "message/source.h"

namespace opensum {

struct StudyChanges {
  std::vector<Passage> constants;  ///< `NAME [UNIT] = EXPRESSION`, each in the place of the study's own
  std::vector<Passage> only;       ///< sheets, fits and plots: nothing but these and what they need
};

}  // namespace opensum
