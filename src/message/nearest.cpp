// The nearest right name for a misspelt one.
#include "message/nearest.h"

#include <algorithm>
#include <cctype>

namespace opensum {
namespace {

constexpr double kCaseCost = 0.3;
// Longer words are never a name someone meant to type; comparing them would cost time.
constexpr std::size_t kLongestWord = 200;

double replace_cost(char a, char b) {
  if (a == b) return 0;
  const bool same_letter =
      std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
  return same_letter ? kCaseCost : 1;
}

std::string lower(std::string_view word) {
  std::string text(word);
  std::transform(text.begin(), text.end(), text.begin(),
                 [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
  return text;
}

}  // namespace

double edit_distance(std::string_view a, std::string_view b) {
  // The rows of the table of costs for the last two characters of `a` and for the one at hand.
  std::vector<double> before_last(b.size() + 1);
  std::vector<double> last(b.size() + 1);
  std::vector<double> cost(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) cost[j] = static_cast<double>(j);
  for (std::size_t i = 1; i <= a.size(); ++i) {
    before_last.swap(last);
    last.swap(cost);
    cost[0] = static_cast<double>(i);
    for (std::size_t j = 1; j <= b.size(); ++j) {
      cost[j] = std::min({last[j] + 1, cost[j - 1] + 1, last[j - 1] + replace_cost(a[i - 1], b[j - 1])});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) {
        cost[j] = std::min(cost[j], before_last[j - 2] + 1);
      }
    }
  }
  return cost[b.size()];
}

std::string nearest_name(std::string_view word, const std::vector<std::string>& candidates) {
  if (word.size() > kLongestWord) return {};
  // A third of the word may be wrong, and in any case one letter of a word of two or more.
  const double allowed = std::max(word.size() >= 2 ? 1.0 : kCaseCost, static_cast<double>(word.size()) / 3);
  double best = allowed;
  const std::string* found = nullptr;
  for (const std::string& candidate : candidates) {
    const std::size_t longer = std::max(word.size(), candidate.size());
    const std::size_t shorter = std::min(word.size(), candidate.size());
    // So many characters have to be put in or taken out at least.
    if (candidate.size() > kLongestWord || static_cast<double>(longer - shorter) > best) continue;
    const double distance = edit_distance(word, candidate);
    // A distance as long as the candidate shares nothing with it.
    if (distance >= static_cast<double>(candidate.size())) continue;
    if (found == nullptr ? distance <= best : distance < best) {
      best = distance;
      found = &candidate;
    }
  }
  if (found != nullptr) return *found;
  // The only one that holds the word, whatever its capitals: `flow` for Coolant_flow.
  constexpr std::size_t kShortestPart = 3;
  if (word.size() < kShortestPart) return {};
  const std::string part = lower(word);
  for (const std::string& candidate : candidates) {
    if (lower(candidate).find(part) == std::string::npos || candidate == word) continue;
    if (found != nullptr) return {};
    found = &candidate;
  }
  return found == nullptr ? std::string() : *found;
}

}  // namespace opensum
