// Where the sheets of a study are computed: here or in their database.
#pragma once

#include "study/prepared_study.h"

namespace opensum {

/// Whether anything of a study is computed in a database.
bool computes_in_database(const PreparedStudy& prepared);

/// Whether the rows of a sheet are to come here: it is written here, or has one row for each group of others.
bool comes_here(const PreparedStudy& prepared, const RunSheet& sheet);

}  // namespace opensum
