// Work on several threads, by oneTBB.
#include "base/parallel.h"

#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_pipeline.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <thread>
#include <vector>

#include "base/handover.h"

namespace opensum {
namespace {

std::atomic<std::size_t>& wanted() {
  static std::atomic<std::size_t> count{0};
  return count;
}

// Whether this thread works on a part already: parts inside of it are its own.
thread_local bool inside = false;

// From the call that asks for work on parts to its end.
class Region {
 public:
  Region() { begun_.leave(); }
  ~Region() { done_.take_up(); }
  Region(const Region&) = delete;
  Region& operator=(const Region&) = delete;

 private:
  friend class Inside;
  Handover begun_;
  Handover done_;
};

// While it is in scope, this thread works on a part of a region, after those that had the same slot, and
// where there is an order after those that came before in it.
class Inside {
 public:
  explicit Inside(Region& region, Handover* slot = nullptr, Handover* order = nullptr)
      : before_(inside), region_(region), after_{slot, order} {
    inside = true;
    region_.begun_.take_up();
    for (Handover* one : after_) {
      if (one != nullptr) one->take_up();
    }
  }
  ~Inside() {
    for (Handover* one : after_) {
      if (one != nullptr) one->leave();
    }
    region_.done_.leave();
    inside = before_;
  }
  Inside(const Inside&) = delete;
  Inside& operator=(const Inside&) = delete;

 private:
  bool before_;
  Region& region_;
  std::array<Handover*, 2> after_;
};

// Calls `work` where as many threads as wanted may take part.
template <typename Work>
void with_threads(const Work& work) {
  const tbb::global_control allowed(tbb::global_control::max_allowed_parallelism, threads());
  tbb::task_arena arena(static_cast<int>(threads()));
  arena.execute(work);
}

}  // namespace

void set_threads(std::size_t count) { wanted() = count; }

std::size_t threads() {
  const std::size_t count = wanted();
  return count > 0 ? count : std::max(1U, std::thread::hardware_concurrency());
}

void for_each_part_by(std::size_t parts, const std::function<void(std::size_t, std::size_t)>& work) {
  if (inside || threads() == 1 || parts < 2) {
    for (std::size_t part = 0; part < parts; ++part) work(0, part);
    return;
  }
  Region region;
  with_threads([&] {
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, parts, 1),
        [&](const tbb::blocked_range<std::size_t>& some) {
          const Inside here(region);
          const auto thread = static_cast<std::size_t>(tbb::this_task_arena::current_thread_index());
          for (std::size_t part = some.begin(); part != some.end(); ++part) work(thread, part);
        },
        tbb::simple_partitioner());
  });
}

void for_each_part(std::size_t parts, const std::function<void(std::size_t)>& work) {
  for_each_part_by(parts, [&](std::size_t /*thread*/, std::size_t part) { work(part); });
}

void for_each_in_order(std::size_t parts, std::size_t slots, const Step& make, const Step& take) {
  const Step nothing = [](std::size_t, std::size_t) {};
  for_each_in_order(parts, slots, make, nothing, nothing, take);
}

void for_each_in_order(std::size_t parts, std::size_t slots, const Step& read, const Step& place,
                       const Step& make, const Step& take) {
  // A part is begun only when that which had its slot before was taken: both come in their order.
  const std::size_t at_once = std::max<std::size_t>(slots, 1);
  Region region;
  std::vector<Handover> of_slots(at_once);
  std::array<Handover, 3> orders;
  std::size_t next = 0;
  const auto begin = [&](tbb::flow_control& control) -> std::size_t {
    const Inside here(region, &of_slots[next % at_once], orders.data());
    if (next == parts) control.stop();
    return next == parts ? parts : next++;
  };
  const auto step = [&](const Step& work, Handover* order = nullptr) {
    return [&, order](std::size_t part) {
      const Inside here(region, &of_slots[part % at_once], order);
      work(part, part % at_once);
      return part;
    };
  };
  const auto last = step(take, &orders[2]);
  using Filter = tbb::filter_mode;
  with_threads([&] {
    tbb::parallel_pipeline(
        at_once,
        tbb::make_filter<void, std::size_t>(Filter::serial_in_order, begin) &
            tbb::make_filter<std::size_t, std::size_t>(Filter::parallel, step(read)) &
            tbb::make_filter<std::size_t, std::size_t>(Filter::serial_in_order, step(place, &orders[1])) &
            tbb::make_filter<std::size_t, std::size_t>(Filter::parallel, step(make)) &
            tbb::make_filter<std::size_t, void>(Filter::serial_in_order,
                                                [&](std::size_t part) { last(part); }));
  });
}

void for_each_given(std::size_t slots, const std::function<bool(std::size_t, std::size_t)>& give,
                    const Step& make, const Step& take) {
  const std::size_t at_once = std::max<std::size_t>(slots, 1);
  Region region;
  std::vector<Handover> of_slots(at_once);
  std::array<Handover, 2> orders;
  std::size_t next = 0;
  const auto begin = [&](tbb::flow_control& control) -> std::size_t {
    const Inside here(region, &of_slots[next % at_once], orders.data());
    if (!give(next, next % at_once)) control.stop();
    return next++;
  };
  const auto middle = [&](std::size_t part) {
    const Inside here(region, &of_slots[part % at_once]);
    make(part, part % at_once);
    return part;
  };
  const auto last = [&](std::size_t part) {
    const Inside here(region, &of_slots[part % at_once], &orders[1]);
    take(part, part % at_once);
  };
  using Filter = tbb::filter_mode;
  with_threads([&] {
    tbb::parallel_pipeline(at_once, tbb::make_filter<void, std::size_t>(Filter::serial_in_order, begin) &
                                        tbb::make_filter<std::size_t, std::size_t>(Filter::parallel, middle) &
                                        tbb::make_filter<std::size_t, void>(Filter::serial_in_order, last));
  });
}

}  // namespace opensum
