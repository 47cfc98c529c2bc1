// The order of computing: a depth-first walk over what each definition needs.
#include <algorithm>

#include "plan/plan.h"

namespace opensum {

std::vector<std::size_t> dependency_order(const std::vector<std::vector<std::size_t>>& needs,
                                          std::vector<std::vector<std::size_t>>& cycles) {
  enum class State : std::uint8_t { untouched, open, done };
  struct Step {
    std::size_t node;
    std::size_t next;  // which need comes next
  };
  std::vector<State> states(needs.size(), State::untouched);
  std::vector<std::size_t> order;
  for (std::size_t root = 0; root < needs.size(); ++root) {
    if (states[root] != State::untouched) continue;
    // A list of open steps in place of recursion: chains may be thousands long.
    std::vector<Step> path = {{root, 0}};
    states[root] = State::open;
    while (!path.empty()) {
      const std::size_t node = path.back().node;
      if (path.back().next == needs[node].size()) {
        states[node] = State::done;
        order.push_back(node);
        path.pop_back();
        continue;
      }
      const std::size_t need = needs[node][path.back().next++];
      if (states[need] == State::untouched) {
        states[need] = State::open;
        path.push_back({need, 0});
      } else if (states[need] == State::open) {
        std::vector<std::size_t> cycle;
        const auto begin =
            std::find_if(path.begin(), path.end(), [&](const Step& s) { return s.node == need; });
        for (auto step = begin; step != path.end(); ++step) cycle.push_back(step->node);
        cycles.push_back(std::move(cycle));
      }
    }
  }
  return order;
}

}  // namespace opensum
