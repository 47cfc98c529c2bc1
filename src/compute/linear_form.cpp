// Deviations to first order.
#include "compute/linear_form.h"

#include <algorithm>

namespace opensum {

void gather_terms(std::vector<Term>& terms) {
  const auto before = [](const Term& a, const Term& b) { return a.unknown < b.unknown; };
  if (!std::is_sorted(terms.begin(), terms.end(), before)) std::sort(terms.begin(), terms.end(), before);
  std::size_t kept = 0;
  for (std::size_t i = 0; i < terms.size();) {
    Term sum = terms[i];
    for (++i; i < terms.size() && terms[i].unknown == sum.unknown; ++i) sum.by += terms[i].by;
    if (sum.by != 0) terms[kept++] = sum;
  }
  terms.resize(kept);
}

void FormRows::append(const FormRows& more) {
  const std::size_t before = terms_.size();
  terms_.insert(terms_.end(), more.terms_.begin(), more.terms_.end());
  counts_.insert(counts_.end(), more.counts_.begin(), more.counts_.end());
  for (const std::size_t begin : more.begins_) begins_.push_back(before + begin);
}

void add_times(std::vector<Term>& terms, std::span<const Term> more, double by) {
  // What does not matter has no effect, known or not.
  if (by == 0) return;
  for (const Term& term : more) terms.push_back({term.unknown, by * term.by});
}

}  // namespace opensum
