// Watching a study while files change in all the ways in which editors and instruments write them.
#include <fcntl.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <filesystem>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>
#include <thread>

#include "program/browser.h"
#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kWatchStudy =
    "[sheet.run]\ndata = 't.csv'\nequations = '''\n  y = 2 * x\n'''\n[plot.p]\nx = 'x'\ny = 'y'\nformats = "
    "['svg']\n";

// The program at its watch, until this goes.
class Watching {
 public:
  explicit Watching(const TempFolder& folder) : folder_(folder) {
    child_ = ::fork();
    if (child_ != 0) return;
    if (::chdir(folder.path().c_str()) != 0) ::_exit(126);
    const int out = ::open("out", O_WRONLY | O_CREAT | O_TRUNC, 0600);
    const int err = ::open("err", O_WRONLY | O_CREAT | O_TRUNC, 0600);
    ::dup2(out, STDOUT_FILENO);
    ::dup2(err, STDERR_FILENO);
    ::execl(program_path().c_str(), "opensum", "watch", static_cast<char*>(nullptr));
    ::_exit(127);
  }
  ~Watching() {
    if (child_ > 0) stop();
  }
  Watching(const Watching&) = delete;
  Watching& operator=(const Watching&) = delete;

  // Ends it as Ctrl+C does; gives its exit code.
  int stop() {
    ::kill(child_, SIGINT);
    int status = 0;
    ::waitpid(child_, &status, 0);
    child_ = 0;
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  }
  std::string out() const { return folder_.has("out") ? folder_.read("out") : ""; }
  std::string err() const { return folder_.has("err") ? folder_.read("err") : ""; }

  bool until(const std::function<bool()>& true_now) const {
    for (int turn = 0; turn < 1500; ++turn) {
      if (true_now()) return true;
      std::this_thread::sleep_for(std::chrono::milliseconds(10));
    }
    return false;
  }
  bool until_said(const std::string& words) const {
    return until([&] { return out().find(words) != std::string::npos; });
  }
  // How often it was run again.
  std::size_t turns() const {
    const std::string text = out();
    std::size_t count = 0;
    for (std::size_t at = text.find("  changed:"); at != std::string::npos;
         at = text.find("  changed:", at + 1))
      ++count;
    return count;
  }

 private:
  const TempFolder& folder_;
  pid_t child_ = 0;
};

std::string derived(const TempFolder& folder) {
  return folder.has("results/run.csv") ? folder.read("results/run.csv") : "";
}

TEST(Watch, RunsAgainHoweverAFileIsWritten) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n");
  folder.write("study.toml", kWatchStudy);
  const Watching watching(folder);
  ASSERT_TRUE(watching.until_said("Ctrl+C ends it")) << watching.err();
  EXPECT_EQ(derived(folder), "x,y\n1,2\n");
  const auto comes = [&](const std::string& rows) {
    return watching.until([&] { return derived(folder) == rows; });
  };
  // In place.
  folder.write("t.csv", "x\n2\n");
  EXPECT_TRUE(comes("x,y\n2,4\n")) << "in place";
  // Another file that takes its name, as most editors do it.
  folder.write("t.csv.new", "x\n3\n");
  std::filesystem::rename(folder.path("t.csv.new"), folder.path("t.csv"));
  EXPECT_TRUE(comes("x,y\n3,6\n")) << "replaced";
  // The old one is moved away first, and a new one is made.
  std::filesystem::rename(folder.path("t.csv"), folder.path("t.csv~"));
  std::this_thread::sleep_for(std::chrono::milliseconds(400));
  folder.write("t.csv", "x\n4\n");
  EXPECT_TRUE(comes("x,y\n4,8\n")) << "moved away and made anew";
  // Removed and made.
  std::filesystem::remove(folder.path("t.csv"));
  folder.write("t.csv", "x\n5\n");
  EXPECT_TRUE(comes("x,y\n5,10\n")) << "removed and made";
  // A row more, as a logger appends it.
  {
    std::ofstream log(folder.path("t.csv"), std::ios::app);
    log << "6\n";
  }
  EXPECT_TRUE(comes("x,y\n5,10\n6,12\n")) << "appended";
  // Half of it, and the rest after a while: what is half is not taken.
  {
    const std::size_t before = watching.turns();
    std::ofstream slow(folder.path("t.csv"), std::ios::trunc);
    slow << "x\n7" << std::flush;
    std::this_thread::sleep_for(std::chrono::milliseconds(700));
    EXPECT_EQ(watching.turns(), before) << "it was not waited for";
    slow << "7\n";
  }
  EXPECT_TRUE(comes("x,y\n77,154\n")) << "in two halves";
  // The study.
  std::string study = kWatchStudy;
  study.replace(study.find("2 * x"), 5, "3 * x");
  folder.write("study.toml", study);
  EXPECT_TRUE(comes("x,y\n77,231\n")) << "the study";
  EXPECT_TRUE(watching.until_said("equation run.y: 2 * x → 3 * x\n")) << watching.out();
  EXPECT_EQ(watching.err(), "");
}

TEST(Watch, RunsOnceForSeveralChangesAndTellsWhatIsOtherwise) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n2\n");
  folder.write("study.toml", kWatchStudy);
  Watching watching(folder);
  ASSERT_TRUE(watching.until_said("Ctrl+C ends it")) << watching.err();
  folder.write("t.csv", "x\n1\n3\n");
  folder.write("study.toml", std::string(kWatchStudy) + "# a remark\n");
  folder.write("other.txt", "no business of the study");
  EXPECT_TRUE(watching.until_said("y  1 of 2 differ, at most by 2 (33.3 %) in row 2: 4 → 6"))
      << watching.out();
  std::this_thread::sleep_for(std::chrono::milliseconds(500));
  EXPECT_EQ(watching.turns(), 1U) << watching.out();
  // Touched, but the same.
  folder.write("t.csv", "x\n1\n3\n");
  EXPECT_TRUE(watching.until_said("nothing in the results is otherwise")) << watching.out();
  EXPECT_EQ(watching.stop(), 0);
}

TEST(Watch, KeepsTheLastGoodResults) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n2\n");
  folder.write("study.toml", kWatchStudy);
  Watching watching(folder);
  ASSERT_TRUE(watching.until_said("Ctrl+C ends it")) << watching.err();
  const std::string page = folder.read("results/report.html");
  EXPECT_NE(page.find("<meta http-equiv=\"refresh\" content=\"2\""), std::string::npos);
  EXPECT_EQ(page.find("<script"), std::string::npos);
  const std::string good = derived(folder);
  folder.write("study.toml", "[sheet.run]\ndata = 't.csv'\nequations = 'y = 2 * z'\n");
  EXPECT_TRUE(watching.until_said("the results are still those of")) << watching.out();
  EXPECT_NE(watching.err().find("there is no column or constant `z`"), std::string::npos) << watching.err();
  EXPECT_EQ(derived(folder), good);
  folder.write("study.toml", kWatchStudy);
  EXPECT_TRUE(watching.until([&] { return watching.turns() == 2; }));
  EXPECT_EQ(watching.stop(), 0);
  // Nobody watches any more, and the record is of the page as it is.
  EXPECT_EQ(folder.read("results/report.html").find("http-equiv"), std::string::npos);
  EXPECT_EQ(run_program(folder, {"verify"}).code, 0);
  for (const std::string& name : folder.names()) EXPECT_EQ(name.find(".part-"), std::string::npos) << name;
}

TEST(Watch, WaitsForAStudyThatIsNotThereYet) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n");
  const Watching watching(folder);
  ASSERT_TRUE(watching.until_said("Ctrl+C ends it"));
  EXPECT_NE(watching.err().find("study.toml"), std::string::npos);
  folder.write("study.toml", kWatchStudy);
  EXPECT_TRUE(watching.until([&] { return derived(folder) == "x,y\n1,2\n"; })) << watching.err();
}

TEST(Watch, SeesNewFilesOfAPattern) {
  const TempFolder folder;
  folder.write("log-1.csv", "x\n1\n");
  folder.write("study.toml", "[sheet.run]\ndata = 'log-*.csv'\nequations = 'y = 2 * x'\n");
  const Watching watching(folder);
  ASSERT_TRUE(watching.until_said("Ctrl+C ends it")) << watching.err();
  folder.write("log-2.csv", "x\n2\n");
  EXPECT_TRUE(watching.until([&] { return derived(folder).find("2,log-2.csv,4") != std::string::npos; }))
      << derived(folder) << watching.err();
}

TEST(Watch, ShowsAChangeInABrowserThatLooksAtThePage) {
  if (!Browser::is_installed()) GTEST_SKIP() << "there is no browser";
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n2\n");
  folder.write("study.toml", kWatchStudy);
  Watching watching(folder);
  ASSERT_TRUE(watching.until_said("Ctrl+C ends it")) << watching.err();
  Browser browser(folder.path("results/report.html"));
  const auto seen = [&](const std::string& words) {
    return watching.until(
        [&] { return browser.ask("document.body.innerText").value_or("").find(words) != std::string::npos; });
  };
  const std::string figure = "document.querySelector('svg, img').outerHTML";
  ASSERT_TRUE(seen("2 * x")) << browser.ask("document.body.innerText").value_or("no answer");
  const auto before = browser.ask(figure);
  std::string study = kWatchStudy;
  study.replace(study.find("2 * x"), 5, "7 * x");
  folder.write("study.toml", study);
  EXPECT_TRUE(seen("7 * x")) << "the page was not loaded again";
  EXPECT_NE(browser.ask(figure), before) << "nor was its figure";
  // The next time it is loaded nothing asks for one more.
  EXPECT_EQ(watching.stop(), 0);
  EXPECT_TRUE(watching.until(
      [&] { return browser.ask("document.querySelector('meta[http-equiv=refresh]') === null") == "true"; }));
}

}  // namespace
}  // namespace opensum
