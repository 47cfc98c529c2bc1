// What must not stay behind when the program is stopped in the middle of writing.
#pragma once

#include <string>

namespace opensum {

/// Has the program clean up and end when it is stopped (SIGINT, SIGTERM, SIGHUP), or when a file that it
/// looks at where it lies is cut off (SIGBUS): files and folders that were noted are removed, and it is said
/// on standard error that nothing was written.
void clean_up_when_stopped();

/// While this is in scope a file or folder is noted and made: whoever cleans up on another thread waits for
/// it, and nothing is made any more once that has begun.
class Making {
 public:
  Making();
  ~Making();
  Making(const Making&) = delete;
  Making& operator=(const Making&) = delete;
};

/// Notes a file, or a folder (removed if it is empty), that is to be removed.
void note_leftover(const std::string& path, bool is_folder);
/// What was noted is complete or gone.
void forget_leftovers();

/// Notes that results took their names, and whether any have: what is said of an end before its time.
void note_written();
bool is_anything_written();

/// While this is in scope the program cannot be stopped; if it was, it ends after that.
class Unstoppable {
 public:
  Unstoppable();
  ~Unstoppable();
  Unstoppable(const Unstoppable&) = delete;
  Unstoppable& operator=(const Unstoppable&) = delete;
};

}  // namespace opensum
