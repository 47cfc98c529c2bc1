// What the command line changes in a study for one run.
#pragma once

#include <cstdint>
#include <vector>

#include "message/source.h"

namespace opensum {

/// Whether sheets whose rows are in a database are computed there.
enum class InDatabase : std::uint8_t { never, as_written, always };

struct StudyChanges {
  std::vector<Passage> constants;  ///< `NAME [UNIT] = EXPRESSION`, each in the place of the study's own
  std::vector<Passage> only;       ///< sheets, fits and plots: nothing but these and what they need
  InDatabase in_database = InDatabase::never;
};

}  // namespace opensum
