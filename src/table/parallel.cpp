// Work on several threads.
#include "table/parallel.h"

#include <algorithm>
#include <atomic>
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

}  // namespace

void set_threads(std::size_t count) { wanted() = count; }

std::size_t threads() {
  const std::size_t count = wanted();
  return count > 0 ? count : std::max(1U, std::thread::hardware_concurrency());
}

void for_each_part_by(std::size_t parts, const std::function<void(std::size_t, std::size_t)>& work) {
  const std::size_t count = std::min(threads(), parts);
  if (count <= 1) {
    for (std::size_t part = 0; part < parts; ++part) work(0, part);
    return;
  }
  std::atomic<std::size_t> next{0};
  std::mutex guard;
  std::exception_ptr thrown;
  const auto run = [&](std::size_t thread) {
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

}  // namespace opensum
