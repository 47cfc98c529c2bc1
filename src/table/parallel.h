// Work on several threads. What each part gives stands in a place of its own, so that the number of threads
// changes nothing in any result.
#pragma once

#include <cstddef>
#include <functional>

namespace opensum {

/// How many threads work, the caller's among them. 0 for as many as the machine has; the default.
void set_threads(std::size_t count);
std::size_t threads();

/// Calls `work(part)` for all parts from 0 to `parts` - 1, several at a time, and returns when all are done.
/// What one of them throws is thrown here.
void for_each_part(std::size_t parts, const std::function<void(std::size_t)>& work);

/// The same where each thread keeps something of its own, by its number below threads().
void for_each_part_by(std::size_t parts,
                      const std::function<void(std::size_t thread, std::size_t part)>& work);

}  // namespace opensum
