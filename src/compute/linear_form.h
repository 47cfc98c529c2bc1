// Deviations to first order: how much a value is off by what each unknown is off, for the rows of a column.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace opensum {

/// An unknown of which values are wrong, such as the error of one cell: its family and its place in that.
using Unknown = std::uint64_t;

constexpr unsigned kPlaceBits = 40;
constexpr Unknown unknown_of(std::size_t family, std::size_t place) {
  return (static_cast<Unknown>(family) << kPlaceBits) | place;
}
constexpr std::size_t family_of_unknown(Unknown unknown) { return unknown >> kPlaceBits; }
constexpr std::size_t place_of_unknown(Unknown unknown) {
  return unknown & ((static_cast<Unknown>(1) << kPlaceBits) - 1);
}

/// An unknown, and how much a value moves with it; NaN where that is not known.
struct Term {
  Unknown unknown = 0;
  double by = 0;
};

/// Sorts terms by their unknowns, each of which then stands once; those without effect go.
void gather_terms(std::vector<Term>& terms);

/// The deviations of rows.
class FormRows {
 public:
  FormRows() = default;
  /// Of so many rows without terms.
  explicit FormRows(std::size_t rows) : begins_(rows, 0), counts_(rows, 0) {}

  std::size_t rows() const { return begins_.size(); }
  /// Whether no row has a term.
  bool no_terms() const { return terms_.empty(); }
  std::span<const Term> row(std::size_t row) const { return {terms_.data() + begins_[row], counts_[row]}; }
  /// Appends a row of gathered terms.
  void add(std::span<const Term> terms) {
    begins_.push_back(0);
    counts_.push_back(0);
    put(begins_.size() - 1, terms);
  }
  /// Gives gathered terms to a row that has none yet.
  void put(std::size_t row, std::span<const Term> terms) {
    begins_[row] = terms_.size();
    counts_[row] = static_cast<std::uint32_t>(terms.size());
    terms_.insert(terms_.end(), terms.begin(), terms.end());
  }
  void append(const FormRows& more);

 private:
  std::vector<std::size_t> begins_;
  std::vector<std::uint32_t> counts_;
  std::vector<Term> terms_;
};

/// Appends `by` times the terms of a row to others, which are not gathered then.
void add_times(std::vector<Term>& terms, std::span<const Term> more, double by);

}  // namespace opensum
