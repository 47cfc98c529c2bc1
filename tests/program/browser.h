// A browser without a window, that shows a page as long as a test needs it.
#pragma once

#include <sys/types.h>

#include <optional>
#include <string>

namespace opensum {

/// Speaks to the browser through a pair of pipes, in the protocol of its developers' tools.
class Browser {
 public:
  /// Opens a page of a file.
  explicit Browser(const std::string& file);
  ~Browser();
  Browser(const Browser&) = delete;
  Browser& operator=(const Browser&) = delete;

  static bool is_installed();

  /// What an expression of the page's own language gives, as text; nothing where there is no answer in time.
  std::optional<std::string> ask(const std::string& expression);

 private:
  std::optional<std::string> call(const std::string& method, const std::string& parameters);
  std::optional<std::string> next_message();

  pid_t process_ = 0;
  int to_ = -1;
  int from_ = -1;
  int calls_ = 0;
  std::string session_;
  std::string received_;
};

}  // namespace opensum
