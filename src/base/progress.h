// How far long work has come, for whoever wants to show it.
#pragma once

#include <cstddef>
#include <functional>
#include <string>

namespace opensum {

/// Where work stands.
struct Progress {
  std::string work;      ///< such as `computing run`
  std::size_t rows = 0;  ///< done; 0 where they are not counted
  double part = 0;       ///< of the work that is done, from 0 to 1
};

/// Has a listener called from time to time by whatever thread is at work, never by two at a time. An empty
/// one ends it.
void listen_to_progress(std::function<void(const Progress&)> listener);
/// Tells the listener; costs little where there is none.
void tell_progress(const std::string& work, std::size_t rows, double part);

}  // namespace opensum
