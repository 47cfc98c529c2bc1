// The points of plots of a sheet that stays in its database: thinned there to what can be told apart on a
// page.
#pragma once

#include <cstddef>

#include "files/database.h"
#include "sql/study.h"
#include "study/prepared_study.h"

namespace opensum {

/// Gets the points of each plot of a sheet that has more rows than are drawn one by one, and keeps them with
/// the study. Points that are drawn as a density come as one for each spot of a grid with their number; of
/// lines along an x that goes one way come, for each step along it, the first, the last, the least and the
/// greatest. Others, such as points with bars of uncertainty, are left to come whole. False where the
/// connection failed.
bool thin_points(PreparedStudy& prepared, std::size_t sheet, const SqlSheet& query, const std::string& with,
                 DatabaseConnection& connection);

}  // namespace opensum
