// The unknowns of a study and how they vary together.
#include "compute/unknowns.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace opensum {

std::size_t Unknowns::add_independent() {
  families_.emplace_back().kind = Kind::independent;
  return families_.size() - 1;
}

std::size_t Unknowns::add_sums(FormRows sums) {
  Family& family = families_.emplace_back();
  family.kind = Kind::sums;
  family.forms = std::move(sums);
  std::vector<Term> compound;
  FormRows rows(family.forms.rows());
  for (std::size_t row = 0; row < family.forms.rows(); ++row) {
    compound.clear();
    for (const Term& term : family.forms.row(row)) {
      if (!is_independent(term.unknown)) compound.push_back(term);
    }
    rows.put(row, compound);
  }
  if (!rows.no_terms()) family.compound = std::move(rows);
  return families_.size() - 1;
}

std::span<const Term> Unknowns::compound(Unknown sum) const {
  const FormRows& rows = family(sum).compound;
  return rows.rows() == 0 ? std::span<const Term>() : rows.row(place_of_unknown(sum));
}

std::uint32_t Unknowns::number_of_chain(std::vector<std::size_t> rows) {
  const auto [begin, end] = chains_from_.equal_range(rows.front());
  const auto same =
      std::find_if(begin, end, [&](const auto& number) { return chains_[number.second] == rows; });
  if (same != end) return same->second;
  const auto number = static_cast<std::uint32_t>(chains_.size());
  chains_from_.emplace(rows.front(), number);
  chains_.push_back(std::move(rows));
  return number;
}

std::size_t Unknowns::add_running(FormRows steps, const std::vector<std::size_t>& before) {
  std::vector<std::vector<std::size_t>> chains;
  std::vector<std::size_t> chain_of(before.size());
  for (std::size_t row = 0; row < before.size(); ++row) {
    const bool first = before[row] == kNone;
    chain_of[row] = first ? chains.size() : chain_of[before[row]];
    if (first) chains.emplace_back();
    chains[chain_of[row]].push_back(row);
  }
  Family& family = families_.emplace_back();
  family.kind = Kind::running;
  family.forms = std::move(steps);
  family.chain_of.resize(before.size());
  family.place_in.resize(before.size());
  family.parts.reserve(before.size());
  for (std::vector<std::size_t>& rows : chains) {
    const std::uint32_t chain = number_of_chain(std::move(rows));
    for (std::uint32_t place = 0; place < chains_[chain].size(); ++place) {
      const std::size_t row = chains_[chain][place];
      family.chain_of[row] = chain;
      family.place_in[row] = place;
      for (const Term& term : family.forms.row(row))
        family.parts.push_back({term.unknown, term.by, chain, place});
    }
  }
  const auto key = [](const Part& part) { return std::tie(part.unknown, part.chain, part.place); };
  std::sort(family.parts.begin(), family.parts.end(),
            [&](const Part& a, const Part& b) { return key(a) < key(b); });
  for (std::size_t i = 0; i < family.parts.size(); ++i) {
    Part& part = family.parts[i];
    const bool goes_on =
        i > 0 && family.parts[i - 1].unknown == part.unknown && family.parts[i - 1].chain == part.chain;
    if (goes_on) part.so_far += family.parts[i - 1].so_far;
    if (!goes_on && !is_independent(part.unknown)) family.others[part.chain].push_back(part.unknown);
  }
  index_parts(family);
  return families_.size() - 1;
}

// Of a family of which few places occur, as where a sum runs over some rows of a large sheet, the index is a
// little longer than it need be.
void Unknowns::index_parts(Family& family) {
  for (std::size_t i = 0; i < family.parts.size(); ++i) {
    std::vector<std::size_t>& from = family.parts_from[family_of_unknown(family.parts[i].unknown)];
    if (from.empty()) from.push_back(i);
    const std::size_t place = place_of_unknown(family.parts[i].unknown);
    // Places that do not occur begin where the next one does.
    while (from.size() <= place) from.push_back(i);
    from.resize(place + 2, i);
    from.back() = i + 1;
  }
}

// What a sum has of an unknown itself, not by way of others.
double Unknowns::part_of_sum(Unknown sum, Unknown independent) const {
  const std::span<const Term> terms = family(sum).forms.row(place_of_unknown(sum));
  const auto found = std::lower_bound(terms.begin(), terms.end(), independent,
                                      [](const Term& term, Unknown wanted) { return term.unknown < wanted; });
  return found == terms.end() || found->unknown != independent ? 0 : found->by;
}

double Unknowns::part_of_running(Unknown running, Unknown part) const {
  const Family& own = family(running);
  const std::size_t row = place_of_unknown(running);
  const auto index = own.parts_from.find(family_of_unknown(part));
  const std::size_t place = place_of_unknown(part);
  if (index == own.parts_from.end() || place + 1 >= index->second.size()) return 0;
  const auto begin = own.parts.begin() + static_cast<std::ptrdiff_t>(index->second[place]);
  const auto end = own.parts.begin() + static_cast<std::ptrdiff_t>(index->second[place + 1]);
  const auto wanted = std::make_pair(own.chain_of[row], own.place_in[row]);
  const auto after = std::upper_bound(begin, end, wanted, [](const auto& key, const Part& each) {
    return key < std::make_pair(each.chain, each.place);
  });
  return after != begin && std::prev(after)->chain == wanted.first ? std::prev(after)->so_far : 0;
}

double Unknowns::with_independent(Unknown independent, Unknown other) const {
  const Family& of = family(other);
  double sum = 0;
  switch (of.kind) {
    case Kind::independent:
      return independent == other ? 1 : 0;
    case Kind::sums:
      sum = part_of_sum(other, independent);
      for (const Term& term : compound(other)) sum += term.by * with_independent(independent, term.unknown);
      return sum;
    case Kind::running:
      sum = part_of_running(other, independent);
      if (const auto others = of.others.find(chain_of(other)); others != of.others.end()) {
        for (const Unknown inner : others->second) {
          const double part = part_of_running(other, inner);
          if (part != 0) sum += part * with_independent(independent, inner);
        }
      }
      return sum;
  }
  return sum;
}

double Unknowns::with_terms(Unknown unknown, std::span<const Term> terms) const {
  double sum = 0;
  for (const Term& term : terms) sum += term.by * covariance(unknown, term.unknown);
  return sum;
}

// The covariance of a sum and another sum or an earlier unknown.
double Unknowns::of_sum(Unknown sum, Unknown other) const {
  const std::scoped_lock lock(known_);
  const auto key = std::make_pair(sum, other);
  if (const auto found = of_sums_.find(key); found != of_sums_.end()) return found->second;
  const double value = with_terms(other, family(sum).forms.row(place_of_unknown(sum)));
  of_sums_.emplace(key, value);
  return value;
}

double Unknowns::running_with_sum(Unknown running, Unknown sum) const {
  const Family& own = family(running);
  const std::size_t row = place_of_unknown(running);
  const std::vector<std::size_t>& chain = chains_[own.chain_of[row]];
  const std::scoped_lock lock(known_);
  std::vector<double>& known = along_chains_[{unknown_of(family_of_unknown(running), chain.front()), sum}];
  while (known.size() <= own.place_in[row]) {
    const double before = known.empty() ? 0 : known.back();
    // The sums below may ask for others, and the list may move.
    const double more = with_terms(sum, own.forms.row(chain[known.size()]));
    known.push_back(before + more);
  }
  return known[own.place_in[row]];
}

double Unknowns::running_with_running(Unknown a, Unknown b) const {
  const Family& first = family(a);
  const Family& second = family(b);
  const std::size_t row_a = place_of_unknown(a);
  const std::size_t row_b = place_of_unknown(b);
  const std::vector<std::size_t>& chain = chains_[first.chain_of[row_a]];
  if (chain_of(a) != chain_of(b)) {
    double sum = 0;
    for (std::size_t k = 0; k <= first.place_in[row_a]; ++k) sum += with_terms(b, first.forms.row(chain[k]));
    return sum;
  }
  const std::size_t family_a = family_of_unknown(a);
  const std::size_t family_b = family_of_unknown(b);
  const std::size_t common = std::min(first.place_in[row_a], second.place_in[row_b]);
  double sum = 0;
  {
    const std::scoped_lock lock(known_);
    std::vector<double>& known =
        along_chains_[{unknown_of(family_a, chain.front()), unknown_of(family_b, chain.front())}];
    while (known.size() <= common) {
      const std::size_t k = known.size();
      const std::span<const Term> step_a = first.forms.row(chain[k]);
      const std::span<const Term> step_b = second.forms.row(chain[k]);
      double next = covariance(step_a, step_b);
      if (k > 0) {
        next += known[k - 1] + with_terms(unknown_of(family_b, chain[k - 1]), step_a) +
                with_terms(unknown_of(family_a, chain[k - 1]), step_b);
      }
      known.push_back(next);
    }
    sum = known[common];
  }
  // The one that runs further brings the steps that the other has not.
  for (std::size_t k = common + 1; k <= first.place_in[row_a]; ++k)
    sum += with_terms(b, first.forms.row(chain[k]));
  for (std::size_t k = common + 1; k <= second.place_in[row_b]; ++k)
    sum += with_terms(a, second.forms.row(chain[k]));
  return sum;
}

double Unknowns::covariance(Unknown a, Unknown b) const {
  // The later one is made of earlier ones.
  if (family_of_unknown(a) < family_of_unknown(b) || (family_of_unknown(a) == family_of_unknown(b) && a < b))
    std::swap(a, b);
  if (is_independent(b)) return with_independent(b, a);
  if (is_independent(a)) return with_independent(a, b);
  if (family(a).kind == Kind::sums) return of_sum(a, b);
  if (family(b).kind == Kind::sums) return running_with_sum(a, b);
  return running_with_running(a, b);
}

double Unknowns::covariance(std::span<const Term> a, std::span<const Term> b) const {
  double sum = 0;
  for (const Term& term : a) sum += term.by * with_terms(term.unknown, b);
  return sum;
}

double Unknowns::variance(std::span<const Term> terms) const {
  double sum = 0;
  double size = 0;
  const auto add = [&](double part) {
    sum += part;
    size += std::fabs(part);
  };
  for (std::size_t i = 0; i < terms.size(); ++i) {
    const bool independent = is_independent(terms[i].unknown);
    add(terms[i].by * terms[i].by * (independent ? 1 : covariance(terms[i].unknown, terms[i].unknown)));
    for (std::size_t k = i + 1; k < terms.size(); ++k) {
      if (independent && is_independent(terms[k].unknown)) continue;
      add(2 * terms[i].by * terms[k].by * covariance(terms[i].unknown, terms[k].unknown));
    }
  }
  // Where all cancels, rounding leaves a little, or a little below nothing.
  constexpr double kRounding = 16 * std::numeric_limits<double>::epsilon();
  return sum < kRounding * size ? 0 : sum;
}

std::vector<Term> Unknowns::resolved(std::span<const Term> terms) const {
  std::vector<Term> simple;
  std::vector<Term> open(terms.begin(), terms.end());
  while (!open.empty()) {
    // The latest first, so that what it brings of one unknown comes together before that is resolved.
    gather_terms(open);
    std::vector<Term> next;
    const bool any_other = std::any_of(open.begin(), open.end(),
                                       [&](const Term& term) { return !is_independent(term.unknown); });
    const std::size_t last =
        any_other
            ? family_of_unknown(std::find_if(open.rbegin(), open.rend(),
                                             [&](const Term& term) { return !is_independent(term.unknown); })
                                    ->unknown)
            : kNone;
    for (const Term& term : open) {
      if (is_independent(term.unknown)) {
        simple.push_back(term);
      } else if (family_of_unknown(term.unknown) != last) {
        next.push_back(term);
      } else {
        const Family& of = family(term.unknown);
        const std::size_t row = place_of_unknown(term.unknown);
        if (of.kind == Kind::sums) {
          add_times(next, of.forms.row(row), term.by);
        } else {
          const std::vector<std::size_t>& chain = chains_[of.chain_of[row]];
          for (std::size_t k = 0; k <= of.place_in[row]; ++k)
            add_times(next, of.forms.row(chain[k]), term.by);
        }
      }
    }
    open = std::move(next);
  }
  gather_terms(simple);
  return simple;
}

}  // namespace opensum
