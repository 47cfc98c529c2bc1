// Programs and functions of whole columns over columns that are held in memory.
#pragma once

#include <memory>
#include <vector>

#include "compute/whole_columns.h"

namespace opensum {

/// What functions of whole columns work on: the columns of the scope, all of `rows` rows; the origin of nulls
/// that begin in the column at hand; where nulls of other rows are recorded; where computed texts live.
struct WholeColumns {
  const std::vector<const Column*>& columns;
  std::size_t rows = 0;
  OriginId own = 0;
  Origins& origins;
  std::shared_ptr<MadeTexts> made;
  EvaluationNotes& notes;
  const StudyColumns* study = nullptr;
};

/// The values of a program in all rows. Functions of whole columns are computed first.
std::vector<Chunk> evaluate_column(const Program& program, const WholeColumns& whole);

Grouping group_rows(const std::vector<Program>& keys, const WholeColumns& whole);
/// The same by the values of columns of `rows` rows.
Grouping group_rows(const std::vector<const Column*>& keys, std::size_t rows);

/// The result of a reduction or sequence function for every row: of a reduction the same in all rows, or in
/// all rows of a group. A null that comes from a cell of another row keeps that cell as its origin. Rows for
/// which `where` is not true are left out.
std::vector<Chunk> whole_column(const Stage& stage, const WholeColumns& whole);

}  // namespace opensum
