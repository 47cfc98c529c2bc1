// Work on several threads.
#include "table/parallel.h"

#include <algorithm>
#include <atomic>
#include <condition_variable>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

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

}  // namespace

void set_threads(std::size_t count) { wanted() = count; }

std::size_t threads() {
  const std::size_t count = wanted();
  return count > 0 ? count : std::max(1U, std::thread::hardware_concurrency());
}

void for_each_part_by(std::size_t parts, const std::function<void(std::size_t, std::size_t)>& work) {
  const std::size_t count = inside ? 1 : std::min(threads(), parts);
  if (count <= 1) {
    for (std::size_t part = 0; part < parts; ++part) work(0, part);
    return;
  }
  std::atomic<std::size_t> next{0};
  std::mutex guard;
  std::exception_ptr thrown;
  const auto run = [&](std::size_t thread) {
    const Inside here;
    try {
      for (std::size_t part = next++; part < parts; part = next++) work(thread, part);
    } catch (...) {
      const std::lock_guard<std::mutex> lock(guard);
      thrown = std::current_exception();
      next = parts;
    }
  };
  std::vector<std::thread> others;
  others.reserve(count - 1);
  for (std::size_t thread = 1; thread < count; ++thread) others.emplace_back(run, thread);
  run(0);
  for (std::thread& other : others) other.join();
  if (thrown) std::rethrow_exception(thrown);
}

void for_each_part(std::size_t parts, const std::function<void(std::size_t)>& work) {
  for_each_part_by(parts, [&](std::size_t /*thread*/, std::size_t part) { work(part); });
}

namespace {

// Parts that are made in any order and taken in their own.
class OrderedParts {
 public:
  using Step = std::function<void(std::size_t, std::size_t)>;
  OrderedParts(std::size_t parts, std::size_t slots, const Step& make, const Step& take)
      : parts_(parts), ready_(slots, false), make_(make), take_(take) {}

  void run() {
    const Inside here;
    std::unique_lock<std::mutex> lock(guard_);
    try {
      while (next_ < parts_) {
        if (next_ >= taken_ + ready_.size()) {
          changed_.wait(lock);
          continue;
        }
        const std::size_t part = next_++;
        lock.unlock();
        make_(part, part % ready_.size());
        lock.lock();
        ready_[part % ready_.size()] = true;
        take_ready(lock);
      }
    } catch (...) {
      if (!lock.owns_lock()) lock.lock();
      thrown_ = std::current_exception();
      next_ = parts_;
      changed_.notify_all();
    }
  }

  void rethrow() const {
    if (thrown_) std::rethrow_exception(thrown_);
  }

 private:
  // Takes what is ready, unless another thread is at it.
  void take_ready(std::unique_lock<std::mutex>& lock) {
    if (taking_) return;
    taking_ = true;
    while (taken_ < parts_ && ready_[taken_ % ready_.size()] && !thrown_) {
      const std::size_t slot = taken_ % ready_.size();
      lock.unlock();
      take_(taken_, slot);
      lock.lock();
      ready_[slot] = false;
      ++taken_;
      changed_.notify_all();
    }
    taking_ = false;
  }

  std::size_t parts_;
  std::vector<bool> ready_;  // by slot
  const Step& make_;
  const Step& take_;
  std::mutex guard_;
  std::condition_variable changed_;
  std::size_t next_ = 0;
  std::size_t taken_ = 0;  // changed by the thread that takes, read under the lock
  bool taking_ = false;
  std::exception_ptr thrown_;
};

}  // namespace

void for_each_in_order(std::size_t parts, std::size_t slots,
                       const std::function<void(std::size_t, std::size_t)>& make,
                       const std::function<void(std::size_t, std::size_t)>& take) {
  OrderedParts ordered(parts, std::max<std::size_t>(slots, 1), make, take);
  std::vector<std::thread> others;
  for (std::size_t thread = 1; thread < std::min(threads(), parts); ++thread)
    others.emplace_back([&ordered] { ordered.run(); });
  ordered.run();
  for (std::thread& other : others) other.join();
  ordered.rethrow();
}

}  // namespace opensum
