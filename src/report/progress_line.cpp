// The one line of a terminal that says how far long work has come.
#include "report/progress_line.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/unicode.h"
#include "table/header.h"

namespace opensum {
namespace {

using namespace std::chrono_literals;

std::string grouped(std::size_t number) {
  std::string text = std::to_string(number);
  for (std::size_t place = text.size(); place > 3;) text.insert(place -= 3, ",");
  return text;
}

std::string duration_text(double seconds) {
  constexpr double kMinute = 60;
  constexpr double kHour = 3600;
  if (seconds < 1) return "less than 1 s left";
  if (seconds < 2 * kMinute) return fmt::format("about {:.0f} s left", std::ceil(seconds));
  if (seconds < 2 * kHour) return fmt::format("about {:.0f} min left", std::ceil(seconds / kMinute));
  return fmt::format("about {:.0f} h left", std::ceil(seconds / kHour));
}

}  // namespace

std::string progress_text(const Progress& progress, double seconds, std::size_t width) {
  constexpr int kCells = 20;
  const double part = std::clamp(progress.part, 0.0, 1.0);
  const int done = static_cast<int>(std::lround(part * kCells));
  std::string bar;
  for (int cell = 0; cell < kCells; ++cell) bar += cell < done ? "█" : "░";
  std::vector<std::string> pieces = {progress.work};
  if (progress.rows > 0) pieces.push_back(grouped(progress.rows) + " rows");
  pieces.push_back(bar);
  pieces.push_back(fmt::format("{:.0f} %", std::floor(100 * part)));
  if (part > 0 && seconds > 0) pieces.push_back(duration_text(seconds * (1 - part) / part));
  std::string text;
  for (const std::string& piece : pieces) {
    const std::string longer = text.empty() ? piece : fmt::format("{}  {}", text, piece);
    // What has no room is left out; the line must not break.
    if (display_width(longer) < width) text = longer;
  }
  return text;
}

ProgressLine::ProgressLine(std::ostream& out, std::size_t width, Clock clock)
    : out_(out),
      width_(width),
      clock_(std::move(clock)),
      begin_(clock_()),
      shown_(begin_),
      work_begin_(begin_) {}

ProgressLine::~ProgressLine() { wipe(); }

void ProgressLine::show(const Progress& progress) {
  const auto now = clock_();
  if (progress.work != work_) {
    work_ = progress.work;
    work_begin_ = now;
  }
  if (now - begin_ < 1s || (visible_ && now - shown_ < 100ms)) return;
  shown_ = now;
  visible_ = true;
  const std::chrono::duration<double> seconds = now - work_begin_;
  out_ << "\r\033[K" << progress_text(progress, seconds.count(), width_) << std::flush;
}

void ProgressLine::wipe() {
  if (visible_) out_ << "\r\033[K" << std::flush;
  visible_ = false;
}

}  // namespace opensum
