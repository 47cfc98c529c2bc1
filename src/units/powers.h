// Products of powers with exact exponents: the shared form of dimensions and of exact factors.
#pragma once

#include <algorithm>
#include <utility>
#include <vector>

#include "units/rational.h"

namespace opensum {

/// A product of powers of bases, such as m^1 s^-2. Invariant: sorted by base, no exponent is zero; so
/// two products are the same if and only if they compare equal.
template <typename Base>
class Powers {
 public:
  Powers() = default;
  explicit Powers(Base base, Rational exponent = 1) {
    if (!exponent.is_zero()) terms_.emplace_back(std::move(base), exponent);
  }

  const std::vector<std::pair<Base, Rational>>& terms() const { return terms_; }
  bool is_one() const { return terms_.empty(); }

  Powers power(const Rational& exponent) const {
    Powers result;
    if (exponent.is_zero()) return result;
    for (const auto& [base, own] : terms_) result.terms_.emplace_back(base, own * exponent);
    return result;
  }

  friend Powers operator*(const Powers& a, const Powers& b) {
    Powers result;
    auto i = a.terms_.begin();
    auto j = b.terms_.begin();
    while (i != a.terms_.end() || j != b.terms_.end()) {
      if (j == b.terms_.end() || (i != a.terms_.end() && i->first < j->first)) {
        result.terms_.push_back(*i++);
      } else if (i == a.terms_.end() || j->first < i->first) {
        result.terms_.push_back(*j++);
      } else {
        const Rational sum = i->second + j->second;
        if (!sum.is_zero()) result.terms_.emplace_back(i->first, sum);
        ++i;
        ++j;
      }
    }
    return result;
  }
  friend Powers operator/(const Powers& a, const Powers& b) { return a * b.power(-1); }
  friend bool operator==(const Powers& a, const Powers& b) { return a.terms_ == b.terms_; }

 private:
  std::vector<std::pair<Base, Rational>> terms_;
};

}  // namespace opensum
