// A browser without a window.
#include "program/browser.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cstdlib>
#include <nlohmann/json.hpp>

namespace opensum {
namespace {

using nlohmann::json;

constexpr int kPatience = 20'000;  // milliseconds for an answer

}  // namespace

bool Browser::is_installed() { return std::system("command -v chromium >/dev/null 2>&1") == 0; }

Browser::Browser(const std::string& file) {
  std::array<int, 2> commands{};
  std::array<int, 2> answers{};
  if (::pipe(commands.data()) != 0 || ::pipe(answers.data()) != 0) return;
  process_ = ::fork();
  if (process_ == 0) {
    // It reads from descriptor 3 and writes to descriptor 4; first out of the way of one another.
    const int in = ::fcntl(commands[0], F_DUPFD, 10);
    const int out = ::fcntl(answers[1], F_DUPFD, 10);
    ::dup2(in, 3);
    ::dup2(out, 4);
    for (const int descriptor : {in, out}) ::close(descriptor);
    const int nowhere = ::open("/dev/null", O_RDWR);
    for (const int descriptor : {0, 1, 2}) ::dup2(nowhere, descriptor);
    ::execlp("chromium", "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--remote-debugging-pipe",
             static_cast<char*>(nullptr));
    ::_exit(127);
  }
  ::close(commands[0]);
  ::close(answers[1]);
  to_ = commands[1];
  from_ = answers[0];
  const auto target = call("Target.createTarget", json{{"url", "file://" + file}}.dump());
  if (!target) return;
  const json of_target = json::parse(*target);
  const auto attached = call("Target.attachToTarget",
                             json{{"targetId", of_target.value("targetId", "")}, {"flatten", true}}.dump());
  if (attached) session_ = json::parse(*attached).value("sessionId", "");
}

Browser::~Browser() {
  if (to_ >= 0) ::close(to_);
  if (from_ >= 0) ::close(from_);
  if (process_ <= 0) return;
  ::kill(process_, SIGTERM);
  ::waitpid(process_, nullptr, 0);
}

std::optional<std::string> Browser::next_message() {
  for (;;) {
    const std::size_t end = received_.find('\0');
    if (end != std::string::npos) {
      std::string message = received_.substr(0, end);
      received_.erase(0, end + 1);
      return message;
    }
    pollfd waiting{from_, POLLIN, 0};
    if (::poll(&waiting, 1, kPatience) <= 0) return std::nullopt;
    std::array<char, 65536> buffer{};
    const ssize_t size = ::read(from_, buffer.data(), buffer.size());
    if (size <= 0) return std::nullopt;
    received_.append(buffer.data(), static_cast<std::size_t>(size));
  }
}

std::optional<std::string> Browser::call(const std::string& method, const std::string& parameters) {
  const int number = ++calls_;
  json command = {{"id", number}, {"method", method}, {"params", json::parse(parameters)}};
  if (!session_.empty()) command["sessionId"] = session_;
  const std::string text = command.dump() + '\0';
  if (::write(to_, text.data(), text.size()) != static_cast<ssize_t>(text.size())) return std::nullopt;
  // Between the answers it tells of events that nobody asked for.
  while (const auto message = next_message()) {
    const json answer = json::parse(*message);
    if (answer.value("id", 0) == number)
      return answer.contains("result") ? std::optional(answer["result"].dump()) : std::nullopt;
  }
  return std::nullopt;
}

std::optional<std::string> Browser::ask(const std::string& expression) {
  const auto answer =
      call("Runtime.evaluate", json{{"expression", expression}, {"returnByValue", true}}.dump());
  if (!answer) return std::nullopt;
  const json value = json::parse(*answer).value("result", json()).value("value", json());
  return value.is_string() ? value.get<std::string>() : value.dump();
}

}  // namespace opensum
