// What is said of a table that nothing is computed from: counts and extremes of its columns, and doubts.
#pragma once

#include <vector>

#include "compute/rough_histogram.h"
#include "compute/statistics.h"
#include "study/prepared_study.h"
#include "table/reading_hints.h"

namespace opensum {

/// The known values of a column, if they are numbers or dates.
struct ValueFacts {
  std::size_t known = 0;
  double least = 0;
  double greatest = 0;
  Instant first;  ///< of dates
  Instant last;
  CompensatedSum sum;
  RoughHistogram histogram;
};

struct TableFacts {
  std::vector<NullCounts> nulls;   ///< by column
  std::vector<ValueFacts> values;  ///< by column
  std::vector<ReadingHint> hints;
};

/// Goes over the rows of a sheet as they were read, once.
TableFacts table_facts(const RunSheet& sheet, const UnitSystem& units);

}  // namespace opensum
