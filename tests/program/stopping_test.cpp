// Long work on a terminal and its end before time.
#include <fcntl.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <filesystem>
#include <thread>

#include "program/program.h"
#include "report/progress_line.h"

namespace opensum {
namespace {

constexpr const char* kStoppingStudy =
    "[sheet.run]\ndata = 't.csv'\nequations = '''\n a = sin(x / (1 [m])) * t\n b = exp(-x / (9 [m])) * "
    "t\n'''\n";

std::string table_of(std::size_t rows) {
  std::string out = "x [m],t [s]\n";
  for (std::size_t row = 0; row < rows; ++row) out += fmt::format("{}.5,{}.25\n", row % 977, row % 89);
  return out;
}

// Starts the program in a folder with its messages in the file `err`.
pid_t start(const TempFolder& folder) {
  const pid_t child = ::fork();
  if (child != 0) return child;
  if (::chdir(folder.path().c_str()) != 0) ::_exit(126);
  const int messages = ::open("err", O_WRONLY | O_CREAT, 0600);
  ::dup2(messages, STDERR_FILENO);
  ::dup2(messages, STDOUT_FILENO);
  ::execl(program_path().c_str(), "opensum", "run", static_cast<char*>(nullptr));
  ::_exit(127);
}

bool has_partial_file(const TempFolder& folder) {
  std::error_code error;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder.path(), error)) {
    if (entry.path().filename().string().find(".part-") != std::string::npos) return true;
  }
  return false;
}

// Waits until the program has begun to write.
bool wait_for_partial_file(const TempFolder& folder) {
  for (int turn = 0; turn < 60000; ++turn) {
    if (has_partial_file(folder)) return true;
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  return false;
}

TEST(Stopping, LeavesWhatWasThereAndNothingElse) {
  const TempFolder folder;
  folder.write("study.toml", kStoppingStudy);
  folder.write("t.csv", table_of(10));
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const std::string before = folder.read("results/run.csv");
  folder.write("t.csv", table_of(3'000'000));
  for (const int signal : {SIGINT, SIGTERM}) {
    const pid_t child = start(folder);
    ASSERT_TRUE(wait_for_partial_file(folder));
    ::kill(child, signal);
    int status = 0;
    ::waitpid(child, &status, 0);
    ASSERT_TRUE(WIFSIGNALED(status));
    EXPECT_EQ(WTERMSIG(status), signal);
    EXPECT_FALSE(has_partial_file(folder));
    EXPECT_EQ(folder.read("results/run.csv"), before);
    EXPECT_EQ(folder.read("err"),
              "opensum: stopped; nothing was written, and files from before stand as they were\n");
    std::filesystem::remove(folder.path("err"));
  }
  std::filesystem::remove_all(folder.path("results"));
  const pid_t child = start(folder);
  ASSERT_TRUE(wait_for_partial_file(folder));
  ::kill(child, SIGINT);
  ::waitpid(child, nullptr, 0);
  EXPECT_FALSE(folder.has("results")) << "a folder that was made is gone again";
}

TEST(Stopping, SaysThatAFileWasCutOffWhileItWasRead) {
  const TempFolder folder;
  folder.write("study.toml", kStoppingStudy);
  folder.write("t.csv", table_of(3'000'000));
  const pid_t child = start(folder);
  ASSERT_TRUE(wait_for_partial_file(folder));
  std::filesystem::resize_file(folder.path("t.csv"), 100);
  int status = 0;
  ::waitpid(child, &status, 0);
  ASSERT_TRUE(WIFEXITED(status));
  EXPECT_EQ(WEXITSTATUS(status), 4);
  EXPECT_NE(folder.read("err").find("opensum: error: a file was cut off while it was read\n"),
            std::string::npos);
  EXPECT_FALSE(folder.has("results"));
}

TEST(ProgressLine, SaysRowsPartAndTimeLeft) {
  EXPECT_EQ(progress_text({"computing run", 12345678, 0.61}, 12.2, 100),
            "computing run  12,345,678 rows  ████████████░░░░░░░░  61 %  about 8 s left");
  EXPECT_EQ(progress_text({"computing run", 0, 0.5}, 3000, 100),
            "computing run  ██████████░░░░░░░░░░  50 %  about 50 min left");
  EXPECT_EQ(progress_text({"computing run", 999, 1}, 5, 50), "computing run  999 rows  ████████████████████")
      << "what has no room is left out";
}

TEST(ProgressLine, IsShownAfterASecondAndWiped) {
  std::ostringstream out;
  std::chrono::steady_clock::time_point now{};
  {
    ProgressLine line(out, 80, [&now] { return now; });
    line.show({"computing run", 5, 0.1});
    now += std::chrono::milliseconds(900);
    line.show({"computing run", 10, 0.2});
    EXPECT_EQ(out.str(), "") << "short work has no line";
    now += std::chrono::milliseconds(200);
    line.show({"computing run", 15, 0.25});
    EXPECT_EQ(out.str(), "\r\033[Kcomputing run  15 rows  █████░░░░░░░░░░░░░░░  25 %  about 4 s left");
    now += std::chrono::milliseconds(20);
    line.show({"computing run", 16, 0.26});
    EXPECT_EQ(out.str().find("26 %"), std::string::npos) << "not more often than can be read";
  }
  EXPECT_TRUE(out.str().ends_with("left\r\033[K"));
}

}  // namespace
}  // namespace opensum
