// The unknowns of a study and how they vary together: independent ones, sums of others such as the mean of a
// column, and sums that run along rows.
#pragma once

#include <deque>
#include <map>
#include <mutex>
#include <tuple>
#include <vector>

#include "compute/linear_form.h"

namespace opensum {

/// Families of unknowns. Independent ones have variance 1. All others are sums of unknowns of families that
/// were added before, so that no matrix of rows by rows is ever needed. Several threads may ask at a time.
class Unknowns {
 public:
  static constexpr std::size_t kNone = SIZE_MAX;

  std::size_t families() const { return families_.size(); }
  std::size_t add_independent();
  /// Each place is the sum that stands in its row.
  std::size_t add_sums(FormRows sums);
  /// Each place is the step in its row, added to the place before it; `before` says where that stands, kNone
  /// where there is none.
  std::size_t add_running(FormRows steps, const std::vector<std::size_t>& before);

  bool is_independent(Unknown unknown) const {
    return families_[family_of_unknown(unknown)].kind == Kind::independent;
  }
  bool family_is_independent(std::size_t family) const { return families_[family].kind == Kind::independent; }
  double covariance(Unknown a, Unknown b) const;
  /// Of a value by its gathered terms; NaN where one of them is.
  double variance(std::span<const Term> terms) const;
  /// Of two values by their gathered terms.
  double covariance(std::span<const Term> a, std::span<const Term> b) const;
  /// The same deviation by independent unknowns alone.
  std::vector<Term> resolved(std::span<const Term> terms) const;

 private:
  enum class Kind : std::uint8_t { independent, sums, running };

  // What a running sum has of an unknown from a row of a chain on.
  struct Part {
    Unknown unknown = 0;
    double so_far = 0;
    std::uint32_t chain = 0;
    std::uint32_t place = 0;  ///< in the chain
  };
  struct Family {
    Kind kind{};
    FormRows forms;  ///< sums, or steps of running ones
    /// The terms of sums that are not independent themselves; no rows where there are none.
    FormRows compound;
    // Of running sums: the chain of each row, and the place of the row there.
    std::vector<std::uint32_t> chain_of;
    std::vector<std::uint32_t> place_in;
    std::vector<Part> parts;  ///< sorted
    // Where the parts of an unknown begin, by its family and its place there, and where the last one's end.
    std::map<std::size_t, std::vector<std::size_t>> parts_from;
    // The unknowns in the steps of a chain that are not independent.
    std::map<std::size_t, std::vector<Unknown>> others;
  };

  const Family& family(Unknown unknown) const { return families_[family_of_unknown(unknown)]; }
  std::span<const Term> compound(Unknown sum) const;
  double part_of_sum(Unknown sum, Unknown independent) const;
  double part_of_running(Unknown running, Unknown part) const;
  double with_independent(Unknown independent, Unknown other) const;
  double of_sum(Unknown sum, Unknown other) const;
  double running_with_sum(Unknown running, Unknown sum) const;
  double running_with_running(Unknown a, Unknown b) const;
  double with_terms(Unknown unknown, std::span<const Term> terms) const;
  std::size_t chain_of(Unknown running) const { return family(running).chain_of[place_of_unknown(running)]; }
  std::uint32_t number_of_chain(std::vector<std::size_t> rows);
  static void index_parts(Family& family);

  std::deque<Family> families_;
  // Rows that follow one another, each chain once however many sums run along it; their numbers by first row.
  std::deque<std::vector<std::size_t>> chains_;
  std::multimap<std::size_t, std::uint32_t> chains_from_;
  // What was asked for before: of two sums; of two chains, or of a chain and a sum, row by row.
  mutable std::recursive_mutex known_;
  mutable std::map<std::pair<Unknown, Unknown>, double> of_sums_;
  mutable std::map<std::pair<Unknown, Unknown>, std::vector<double>> along_chains_;
};

}  // namespace opensum
