// The one line of a terminal that says how far long work has come.
#pragma once

#include <chrono>
#include <functional>
#include <ostream>
#include <string>

#include "base/progress.h"

namespace opensum {

class ProgressLine {
 public:
  using Clock = std::function<std::chrono::steady_clock::time_point()>;

  /// Nothing is shown in the first second; `width` is that of the terminal.
  ProgressLine(std::ostream& out, std::size_t width, Clock clock = std::chrono::steady_clock::now);
  ~ProgressLine();
  ProgressLine(const ProgressLine&) = delete;
  ProgressLine& operator=(const ProgressLine&) = delete;

  void show(const Progress& progress);
  /// Wipes the line.
  void wipe();

 private:
  std::ostream& out_;
  std::size_t width_;
  Clock clock_;
  std::chrono::steady_clock::time_point begin_;
  std::chrono::steady_clock::time_point shown_;
  std::chrono::steady_clock::time_point work_begin_;
  std::string work_;
  bool visible_ = false;
};

/// Such a line as text: `computing run  12,345,678 rows  ██████░░░░  61 %  about 8 s left`; `seconds` is how
/// long the work has taken so far.
std::string progress_text(const Progress& progress, double seconds, std::size_t width);

}  // namespace opensum
