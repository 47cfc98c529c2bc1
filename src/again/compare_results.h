// Two folders of results compared, and results with those computed anew.
#pragma once

#include <optional>
#include <string>

#include "again/compare_tables.h"
#include "base/result.h"
#include "message/diagnostic.h"
#include "report/comparison.h"

namespace opensum {

/// What two folders of results have unlike: their records, the tables of both, which files there are. With
/// `only` no other tables than these, and no files that one of them lacks.
Result<Comparison> compare_results(const std::string& before, const std::string& after, const CompareHow& how,
                                   Diagnostics& diagnostics, const std::vector<std::string>& only = {});

}  // namespace opensum
