// What the work of one thread leaves to that of another, for the thread sanitizer.
#pragma once

#ifdef OPENSUM_THREAD_SANITIZER
#include <sanitizer/tsan_interface.h>
#endif

namespace opensum {

/// What a thread did before leave() is done when another takes it up. oneTBB sees to that by ways of its own,
/// which the thread sanitizer does not see: it is told here. In other builds this does nothing.
class alignas(8) Handover {
 public:
#ifdef OPENSUM_THREAD_SANITIZER
  void leave() { __tsan_release(this); }
  void take_up() { __tsan_acquire(this); }
#else
  void leave() {}
  void take_up() {}
#endif
};

}  // namespace opensum
