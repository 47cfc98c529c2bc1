// Work on several threads, by oneTBB.
#include "base/parallel.h"

#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_pipeline.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <atomic>
#include <thread>

namespace opensum {
namespace {

std::atomic<std::size_t>& wanted() {
  static std::atomic<std::size_t> count{0};
  return count;
}

// Whether this thread works on a part already: parts inside of it are its own.
thread_local bool inside = false;

// Says so while it is in scope.
class Inside {
 public:
  Inside() : before_(inside) { inside = true; }
  ~Inside() { inside = before_; }
  Inside(const Inside&) = delete;
  Inside& operator=(const Inside&) = delete;

 private:
  bool before_;
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
  with_threads([&] {
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, parts, 1),
        [&](const tbb::blocked_range<std::size_t>& some) {
          const Inside here;
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
  std::size_t next = 0;
  const auto begin = [&](tbb::flow_control& control) -> std::size_t {
    if (next == parts) control.stop();
    return next == parts ? parts : next++;
  };
  const auto step = [&](const Step& work) {
    return [&work, at_once](std::size_t part) {
      const Inside here;
      work(part, part % at_once);
      return part;
    };
  };
  const auto last = [&](std::size_t part) {
    const Inside here;
    take(part, part % at_once);
  };
  using Filter = tbb::filter_mode;
  with_threads([&] {
    tbb::parallel_pipeline(
        at_once, tbb::make_filter<void, std::size_t>(Filter::serial_in_order, begin) &
                     tbb::make_filter<std::size_t, std::size_t>(Filter::parallel, step(read)) &
                     tbb::make_filter<std::size_t, std::size_t>(Filter::serial_in_order, step(place)) &
                     tbb::make_filter<std::size_t, std::size_t>(Filter::parallel, step(make)) &
                     tbb::make_filter<std::size_t, void>(Filter::serial_in_order, last));
  });
}

void for_each_given(std::size_t slots, const std::function<bool(std::size_t, std::size_t)>& give,
                    const Step& make, const Step& take) {
  const std::size_t at_once = std::max<std::size_t>(slots, 1);
  std::size_t next = 0;
  const auto begin = [&](tbb::flow_control& control) -> std::size_t {
    const Inside here;
    if (!give(next, next % at_once)) control.stop();
    return next++;
  };
  const auto middle = [&](std::size_t part) {
    const Inside here;
    make(part, part % at_once);
    return part;
  };
  const auto last = [&](std::size_t part) {
    const Inside here;
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
