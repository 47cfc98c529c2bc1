// What must not stay behind when the program is stopped.
#include "files/leftovers.h"

#include <signal.h>
#include <time.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <cstring>
#include <string_view>
#include <vector>

namespace opensum {
namespace {

constexpr std::size_t kMost = 4096;
constexpr int kFault = 1;      // the exit codes of a fault of the program
constexpr int kDataFault = 4;  // and of unreadable data

// Handlers may use nothing that locks or allocates: the paths lie ready, folders before what is in them.
struct Leftover {
  std::atomic<const char*> path{nullptr};
  bool is_folder = false;
};
std::array<Leftover, kMost> leftovers;
std::atomic<std::size_t> noted{0};
std::atomic<bool> unstoppable{false};
std::atomic<int> waiting{0};
std::atomic<bool> any_written{false};
std::atomic<bool> ending{false};
std::atomic<pid_t> making{0};  // the thread that does

// Libraries under the drawing end the program where memory runs out.
bool is_fault(int signal) { return signal == SIGABRT || signal == SIGTRAP || signal == SIGSEGV; }

std::vector<int> handled_signals() {
  std::vector<int> signals = {SIGINT, SIGTERM, SIGHUP, SIGBUS};
#ifndef OPENSUM_SANITIZED
  // Sanitizers tell more of a fault.
  signals.insert(signals.end(), {SIGABRT, SIGTRAP, SIGSEGV});
#endif
  return signals;
}

void say(std::string_view text) {
  while (!text.empty()) {
    const ssize_t written = ::write(STDERR_FILENO, text.data(), text.size());
    if (written <= 0) return;
    text.remove_prefix(static_cast<std::size_t>(written));
  }
}

// Waits until no other thread makes a file. One that was interrupted here does not go on anyway.
void wait_for_making() {
  constexpr int kMostTurns = 1000;
  constexpr timespec kTurn{0, 1'000'000};
  for (int turn = 0; turn < kMostTurns && making != 0 && making != ::gettid(); ++turn)
    ::nanosleep(&kTurn, nullptr);
}

[[noreturn]] void end(int signal, std::string_view message) {
  ending = true;
  wait_for_making();
  for (std::size_t i = noted; i-- > 0;) {
    const char* const path = leftovers.at(i).path;
    if (path == nullptr) continue;
    if (leftovers.at(i).is_folder) {
      ::rmdir(path);
    } else {
      ::unlink(path);
    }
  }
  // The line of a progress display is wiped first.
  if (::isatty(STDERR_FILENO) != 0) say("\r\033[K");
  if (signal == SIGBUS) {
    say("opensum: error: a file was cut off while it was read\n"
        "      hint: nothing was written; run again once it is complete\n");
    ::_exit(kDataFault);
  }
  if (is_fault(signal)) {
    say(any_written ? "opensum: a fault of the program, or too little memory, after everything was written\n"
                    : "opensum: a fault of the program, or too little memory; nothing was written\n");
    ::_exit(kFault);
  }
  say(message);
  // Whoever started the program is to see that it was stopped.
  ::signal(signal, SIG_DFL);
  ::raise(signal);
  ::_exit(128 + signal);
}

constexpr std::string_view kNothingWritten =
    "opensum: stopped; nothing was written, and files from before stand as they were\n";

void on_signal(int signal) {
  if (unstoppable && signal != SIGBUS && !is_fault(signal)) {
    waiting = signal;
    return;
  }
  end(signal, kNothingWritten);
}

}  // namespace

void clean_up_when_stopped() {
  struct sigaction action {};
  action.sa_handler = on_signal;
  // raise() is to take effect inside of the handler.
  action.sa_flags = SA_NODEFER | SA_ONSTACK;
  ::sigemptyset(&action.sa_mask);
  // A file that may not grow any more is reported by the write that fails.
  ::signal(SIGXFSZ, SIG_IGN);
  // Handlers need a stack also where there is no more of it.
  static std::array<char, std::size_t{64} << 10U> own_stack;
  const stack_t stack{own_stack.data(), 0, own_stack.size()};
  ::sigaltstack(&stack, nullptr);
  for (const int signal : handled_signals()) {
    struct sigaction before {};
    ::sigaction(signal, nullptr, &before);
    // One that is ignored from outside (nohup) stays so.
    if (before.sa_handler != SIG_IGN) ::sigaction(signal, &action, nullptr);
  }
}

Making::Making() {
  making = ::gettid();
  if (!ending) return;
  making = 0;
  for (;;) ::pause();
}

Making::~Making() { making = 0; }

void note_leftover(const std::string& path, bool is_folder) {
  const std::size_t place = noted;
  if (place == kMost) return;
  leftovers.at(place).is_folder = is_folder;
  leftovers.at(place).path = ::strdup(path.c_str());
  noted = place + 1;
}

void forget_leftovers() {
  const std::size_t count = noted.exchange(0);
  for (std::size_t i = 0; i < count; ++i) ::free(const_cast<char*>(leftovers.at(i).path.exchange(nullptr)));
}

void note_written() { any_written = true; }

bool is_anything_written() { return any_written; }

Unstoppable::Unstoppable() { unstoppable = true; }

Unstoppable::~Unstoppable() {
  unstoppable = false;
  // Files that are still noted did not get their names.
  if (waiting != 0) end(waiting, noted == 0 ? "opensum: stopped; everything was written\n" : kNothingWritten);
}

}  // namespace opensum
