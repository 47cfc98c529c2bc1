// Which sheets can be computed a block of rows at a time, without ever being held in memory.
#pragma once

#include <functional>
#include <vector>

#include "run/prepare.h"

namespace opensum {

/// Whether nothing needs the rows of a sheet as a whole: its rows are left in their file, it is written as
/// CSV in the order of its source, no other sheet looks into it, its own links lead by keys to sheets that
/// are held, and functions of whole columns in its equations go over what follows row by row from measured
/// columns.
bool can_stream(const PreparedStudy& prepared, std::size_t number);

/// Calls `visit` for each program of a sheet whose values belong to its rows, with the origin of nulls that
/// begin there: rules of fills, equations, claims.
void for_each_program(const RunSheet& sheet, const std::function<void(const Program&, OriginId)>& visit);

/// By column of the sheet, whether figures or fits need all of its values.
std::vector<bool> held_columns(PreparedStudy& prepared, std::size_t number);

}  // namespace opensum
