// How a column or a cell came to be, down to measured data: in words and numbers that can be followed on
// paper.
#pragma once

#include <string>

#include "study/prepared_study.h"

namespace opensum {

/// A column of a computed study: its equation, unit, inputs, null rule, counts, and what uses it.
std::string explain_column(const PreparedStudy& prepared, const RunSheet& sheet, std::size_t column);

/// The cell in a row (from 0) of a computed study: its equation, the equation with the values put in, each
/// input with its unit and source, the causes of nulls, the rules of fills, the rows that functions of whole
/// columns used; then the same for each derived input. Equations with their values are in the equation
/// language.
std::string explain_cell(PreparedStudy& prepared, const RunSheet& sheet, std::size_t column, std::size_t row);

}  // namespace opensum
