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
/// What one of them throws is thrown here. Inside a part there is only its own thread.
void for_each_part(std::size_t parts, const std::function<void(std::size_t)>& work);

/// The same where each thread keeps something of its own, by its number below threads().
void for_each_part_by(std::size_t parts,
                      const std::function<void(std::size_t thread, std::size_t part)>& work);

/// Something done with a part in its slot.
using Step = std::function<void(std::size_t part, std::size_t slot)>;

/// Calls `make(part, slot)` for all parts, several at a time, and `take(part, slot)` for one after the other
/// in their order, each in the slot in which it was made. A slot is used again once its part was taken, so
/// that no more than `slots` parts exist at a time. Several threads call `take`, but never at the same time.
void for_each_in_order(std::size_t parts, std::size_t slots, const Step& make, const Step& take);

/// The same in four steps: several `read` at a time, then `place` one after the other in order, then again
/// several `make` at a time and `take` one after the other.
void for_each_in_order(std::size_t parts, std::size_t slots, const Step& read, const Step& place,
                       const Step& make, const Step& take);

/// The same in three steps for parts whose number is not known before: `give(part, slot)` prepares one after
/// the other and says whether there was one, several `make` at a time, and `take` is called one after the
/// other.
void for_each_given(std::size_t slots, const std::function<bool(std::size_t part, std::size_t slot)>& give,
                    const Step& make, const Step& take);

}  // namespace opensum
