// What is replaced, what is not, and what programs that were killed leave behind.
#include <fcntl.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/file.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <random>
#include <thread>

#include "files/sha256.h"
#include "files/text_file.h"
#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kReplacingTable = "t [s],x [m]\n1,2\n2,3\n";
constexpr const char* kReplacingStudy = "[sheet.run]\ndata = 't.csv'\nequations = 'v = x / t'\n";

TEST(Replacing, IsOfFilesOnly) {
  const TempFolder folder;
  folder.write("t.csv", kReplacingTable);
  folder.write("target.csv", "what was there");
  std::filesystem::create_symlink("target.csv", folder.path("link.csv"));
  ASSERT_EQ(::mkfifo(folder.path("pipe.csv").c_str(), 0600), 0);
  folder.write("locked.csv", "what was there");
  ASSERT_EQ(::chmod(folder.path("locked.csv").c_str(), 0400), 0);
  const auto derive = [&](const std::string& name) {
    return run_program(folder, {"derive", "t.csv", "v = x / t", "--force", "--output", name});
  };
  const auto expect_refused = [&](const std::string& name, const std::string& words) {
    const Outcome outcome = derive(name);
    EXPECT_EQ(outcome.code, 2) << name;
    EXPECT_NE(outcome.err.find(words), std::string::npos) << outcome.err;
  };
  expect_refused("link.csv", "link.csv is a symbolic link, and is not replaced");
  expect_refused("pipe.csv", "pipe.csv is a pipe, and is not replaced");
  expect_refused("locked.csv", "locked.csv cannot be written: Permission denied");
  EXPECT_EQ(folder.read("target.csv"), "what was there");
  EXPECT_EQ(folder.read("locked.csv"), "what was there");
  EXPECT_TRUE(std::filesystem::is_symlink(folder.path("link.csv")));
  EXPECT_EQ(derive("target.csv").code, 0);
  EXPECT_EQ(folder.read("target.csv"), "t [s],x [m],v [m/s]\n1,2,2\n2,3,1.5\n");
  // In a study's own folder as well.
  folder.write("study.toml", kReplacingStudy);
  std::filesystem::create_directory(folder.path("results"));
  std::filesystem::create_symlink("../target.csv", folder.path("results/run.csv"));
  const Outcome outcome = run_program(folder, {"run"});
  EXPECT_EQ(outcome.code, 2);
  EXPECT_NE(outcome.err.find("run.csv is a symbolic link"), std::string::npos) << outcome.err;
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path("results")), {}), 1);
}

TEST(Replacing, SweepsWhatKilledProgramsLeft) {
  const TempFolder folder;
  folder.write("t.csv", kReplacingTable);
  folder.write("study.toml", kReplacingStudy);
  const std::string stale = "results/run.csv.part-0123456789abcdef";
  const std::string claimed = "results/run.csv.part-fedcba9876543210";
  const std::string other = "results/run.csv.part-of-my-own";
  for (const std::string& name : {stale, claimed, other}) folder.write(name, "half");
  // One that a program still writes.
  const int writer = ::open(folder.path(claimed).c_str(), O_RDWR);
  struct flock lock {};
  lock.l_type = F_WRLCK;
  lock.l_whence = SEEK_SET;
  lock.l_len = 1;
  ASSERT_EQ(::fcntl(writer, F_OFD_SETLK, &lock), 0);
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_FALSE(folder.has(stale));
  EXPECT_TRUE(folder.has(claimed));
  EXPECT_TRUE(folder.has(other)) << "a file of another name is nobody's business";
  ::close(writer);
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_FALSE(folder.has(claimed));
}

// Starts a run in a folder.
pid_t start(const TempFolder& folder, const std::string& messages) {
  const pid_t child = ::fork();
  if (child != 0) return child;
  if (::chdir(folder.path().c_str()) != 0) ::_exit(126);
  const int err = ::open(messages.c_str(), O_WRONLY | O_CREAT, 0600);
  ::dup2(err, STDERR_FILENO);
  ::dup2(err, STDOUT_FILENO);
  ::execl(program_path().c_str(), "opensum", "run", static_cast<char*>(nullptr));
  ::_exit(127);
}

int code_of(pid_t child) {
  int status = 0;
  ::waitpid(child, &status, 0);
  return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

bool has_partial_file(const TempFolder& folder) {
  for (const std::string& name : folder.names()) {
    if (name.find(".part-") != std::string::npos) return true;
  }
  return false;
}

TEST(Replacing, BySeveralRunsAtOnceGivesTheSetOfOne) {
  const TempFolder folder;
  folder.write("study.toml", kReplacingStudy);
  for (int turn = 0; turn < 12; ++turn) {
    // The second run sees other data than the first.
    std::string table = "t [s],x [m]\n";
    for (int row = 1; row < 20000; ++row) table += fmt::format("{},{}\n", row, row * turn);
    folder.write("t.csv", table);
    const pid_t first = start(folder, "one");
    folder.write("t2.csv", table + "7,7\n");
    std::filesystem::rename(folder.path("t2.csv"), folder.path("t.csv"));
    const pid_t second = start(folder, "two");
    EXPECT_EQ(code_of(first), 0);
    EXPECT_EQ(code_of(second), 0);
    const auto record = nlohmann::json::parse(folder.read("results/record.json"));
    const std::string input = record.at("inputs").at(1).at("sha256");
    const std::string rows = folder.read("results/run.csv");
    const bool longer = rows.ends_with("7,7,1\n");
    EXPECT_EQ(input, sha256(longer ? table + "7,7\n" : table))
        << "the record is of the run that made the table";
    EXPECT_FALSE(has_partial_file(folder));
  }
}

TEST(Replacing, WaitsForAnotherRunAndSaysSo) {
  const TempFolder folder;
  folder.write("t.csv", kReplacingTable);
  folder.write("study.toml", kReplacingStudy);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const int other = ::open(folder.path("results").c_str(), O_RDONLY | O_DIRECTORY);
  ASSERT_EQ(::flock(other, LOCK_EX), 0);
  const Outcome told = run_program(folder, {"run"});
  EXPECT_EQ(told.code, 2);
  EXPECT_NE(told.err.find("another run is writing into results"), std::string::npos) << told.err;
  ::close(other);
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
}

TEST(Replacing, IsGivenUpCleanlyWheneverItIsStopped) {
  const TempFolder folder;
  folder.write("study.toml",
               std::string("write = ['ods', 'xlsx', 'sqlite', 'nc', 'csv']\n") + kReplacingStudy);
  std::string table = "t [s],x [m]\n";
  for (int row = 1; row < 30000; ++row) table += fmt::format("{},{}\n", row, row % 97);
  folder.write("t.csv", table);
  const auto begin = std::chrono::steady_clock::now();
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const auto whole =
      std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::steady_clock::now() - begin);
  std::mt19937 random(7);
  int stopped = 0;
  constexpr int kSignals[] = {SIGINT, SIGTERM, SIGHUP};
  for (int turn = 0; turn < 42; ++turn) {
    const pid_t child = start(folder, "messages");
    std::this_thread::sleep_for(
        std::chrono::milliseconds(random() % static_cast<unsigned>(whole.count() + 20)));
    ::kill(child, kSignals[turn % 3]);
    stopped += code_of(child) == 0 ? 0 : 1;
    EXPECT_FALSE(has_partial_file(folder)) << "in turn " << turn;
  }
  EXPECT_GT(stopped, 10);
}

TEST(Replacing, FailsWholeWhereAFileMayNotGrow) {
  const TempFolder folder;
  folder.write("study.toml", kReplacingStudy);
  folder.write("t.csv", kReplacingTable);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const std::string before = folder.read("results/run.csv");
  std::string table = "t [s],x [m]\n";
  for (int row = 1; row < 30000; ++row) table += fmt::format("{},{}\n", row, row % 97);
  folder.write("t.csv", table);
  rlimit limit{};
  ASSERT_EQ(::getrlimit(RLIMIT_FSIZE, &limit), 0);
  const rlimit small{200'000, limit.rlim_max};
  const auto was = ::signal(SIGXFSZ, SIG_DFL);
  ASSERT_EQ(::setrlimit(RLIMIT_FSIZE, &small), 0);
  const Outcome outcome = run_program(folder, {"run"});
  ::setrlimit(RLIMIT_FSIZE, &limit);
  ::signal(SIGXFSZ, was);
  EXPECT_EQ(outcome.code, 2) << outcome.err;
  EXPECT_NE(outcome.err.find("results/run.csv cannot be written: File too large"), std::string::npos)
      << outcome.err;
  EXPECT_EQ(folder.read("results/run.csv"), before);
  EXPECT_FALSE(has_partial_file(folder));
}

}  // namespace
}  // namespace opensum
