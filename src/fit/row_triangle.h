// The triangle of a matrix whose rows come block by block.
#pragma once

#include <Eigen/Dense>

namespace opensum {

/// The upper triangle of an orthogonal decomposition of many rows of few columns. Each block of rows is taken
/// up below the triangle of those before it (as in Golub and Van Loan, Matrix Computations, 4th ed., 5.2 and
/// 12.5), so that no more is held than a block.
template <typename Number>
class RowTriangle {
 public:
  using Matrix = Eigen::Matrix<Number, Eigen::Dynamic, Eigen::Dynamic>;

  explicit RowTriangle(Eigen::Index columns) : upper_(Matrix::Zero(columns, columns)) {}

  void add(const Matrix& rows) {
    const Eigen::Index columns = upper_.cols();
    Matrix all(columns + rows.rows(), columns);
    all.topRows(columns) = upper_;
    all.bottomRows(rows.rows()) = rows;
    upper_ =
        Eigen::HouseholderQR<Matrix>(all).matrixQR().topRows(columns).template triangularView<Eigen::Upper>();
  }

  const Matrix& upper() const { return upper_; }

 private:
  Matrix upper_;
};

}  // namespace opensum
