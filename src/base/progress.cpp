// How far long work has come.
#include "base/progress.h"

#include <atomic>
#include <mutex>

namespace opensum {
namespace {

std::mutex guard;
std::function<void(const Progress&)> heard_by;
std::atomic<bool> heard{false};

}  // namespace

void listen_to_progress(std::function<void(const Progress&)> listener) {
  const std::lock_guard<std::mutex> lock(guard);
  heard = static_cast<bool>(listener);
  heard_by = std::move(listener);
}

void tell_progress(const std::string& work, std::size_t rows, double part) {
  if (!heard) return;
  const std::lock_guard<std::mutex> lock(guard);
  if (heard_by) heard_by({work, rows, part});
}

}  // namespace opensum
