// Little memory, no fonts, other languages: the same bytes, or a message and files as they were.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sys/wait.h>

#include <cstdlib>
#include <map>

#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kSurroundingsTable = "t [s],x [m],name\n1,2.5,Ivan\n2,,ivan\n3,7.25,I\xC4\xB0\n";
constexpr const char* kSurroundingsStudy =
    "write = ['csv', 'ods', 'xlsx', 'json']\n[sheet.run]\ndata = 't.csv'\nequations = '''\n  v = x / t\n  w "
    "= lower(name)\n'''\n"
    "[plot.p]\nx = 't'\ny = 'x'\nformats = ['png', 'svg', 'pdf']\n[fit.f]\nx = 't'\ny = 'x'\n";

std::map<std::string, std::string> results_in(const TempFolder& folder) {
  std::map<std::string, std::string> files;
  for (const std::string& name : folder.names()) {
    if (name.starts_with("results/") && !std::filesystem::is_directory(folder.path(name)))
      files[name] = folder.read(name);
  }
  return files;
}

TEST(Language, ChangesNoByte) {
  if (std::system("command -v localedef > /dev/null 2>&1") != 0) GTEST_SKIP() << "localedef is not installed";
  const TempFolder folder;
  folder.write("t.csv", kSurroundingsTable);
  folder.write("study.toml", kSurroundingsStudy);
  const TempFolder locales;
  const Outcome plain = run_program(folder, {"run"});
  ASSERT_EQ(plain.code, 0) << plain.err;
  const auto expected = results_in(folder);
  // Decimal commas and dots between thousands; the letters I that Turkish has two of.
  for (const std::string language : {"de_DE", "tr_TR"}) {
    const std::string make =
        fmt::format("localedef -i {} -f UTF-8 '{}/{}.UTF-8'", language, locales.path(), language);
    ASSERT_EQ(std::system((make + " > /dev/null 2>&1").c_str()), 0) << make;
    ::setenv("LOCPATH", locales.path().c_str(), 1);
    ::setenv("LC_ALL", (language + ".UTF-8").c_str(), 1);
    ::setenv("LANGUAGE", language.substr(0, 2).c_str(), 1);
    const Outcome outcome = run_program(folder, {"run"});
    const Outcome calc = run_program(folder, {"calc", "1.5 [km] in [m]"});
    const Outcome missing = run_program(folder, {"look", "nosuch.csv"});
    ::unsetenv("LOCPATH");
    ::unsetenv("LC_ALL");
    ::unsetenv("LANGUAGE");
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    EXPECT_EQ(outcome.out, plain.out) << language;
    EXPECT_EQ(results_in(folder), expected) << language;
    EXPECT_EQ(calc.out, "1500 m\n") << language;
    EXPECT_NE(missing.err.find("No such file or directory"), std::string::npos) << missing.err;
  }
}

TEST(Fonts, ThatAreNotThereAreSaid) {
  const TempFolder folder;
  folder.write("t.csv", kSurroundingsTable);
  folder.write("study.toml", kSurroundingsStudy);
  folder.write("fonts.conf", "<?xml version='1.0'?><fontconfig></fontconfig>");
  ::setenv("FONTCONFIG_FILE", folder.path("fonts.conf").c_str(), 1);
  const Outcome outcome = run_program(folder, {"run"});
  const Outcome plot = run_program(folder, {"plot", "t.csv", "--x", "t", "--y", "x"});
  ::unsetenv("FONTCONFIG_FILE");
  EXPECT_EQ(outcome.code, 2) << outcome.err;
  EXPECT_NE(outcome.err.find("no font here has letters of the figure p"), std::string::npos) << outcome.err;
  EXPECT_FALSE(folder.has("results"));
  EXPECT_EQ(plot.code, 2);
  EXPECT_FALSE(folder.has("figure.png"));
}

TEST(LittleMemory, GivesAMessageAndWholeFiles) {
  const TempFolder folder;
  std::string table = "t [s],x [m],name\n";
  for (int row = 1; row < 8000; ++row) table += fmt::format("{},{},n{}\n", row, row % 97, row % 7);
  folder.write("t.csv", table);
  folder.write("study.toml", kSurroundingsStudy);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const auto before = results_in(folder);
  std::string longer = kSurroundingsStudy;
  longer.replace(longer.find("x / t"), 5, "2 * x / t");
  folder.write("study.toml", longer);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const auto after = results_in(folder);
  std::size_t failed = 0;
  std::size_t done = 0;
  for (unsigned megabytes = 60; megabytes <= 600; megabytes += 20) {
    for (const auto& [name, text] : before) folder.write(name, text);
    // The limit is set around the program alone.
    const TempFolder messages;
    const std::string line =
        fmt::format("cd '{}' && ulimit -v {} && exec '{}' run > '{}' 2>&1", folder.path(), megabytes << 10U,
                    program_path(), messages.path("err"));
    const int status = std::system(line.c_str());
    const int code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    const std::string what = fmt::format("{} MB, code {}: {}", megabytes, code, messages.read("err"));
    const auto now = results_in(folder);
    if (code == 0) {
      ++done;
      EXPECT_TRUE(now == after) << what;
      continue;
    }
    ++failed;
    EXPECT_TRUE(now == before) << what;
    // Below that not even its libraries can be loaded, which the loader says.
    EXPECT_TRUE(code == 127 || code == 4 || code == 1 || code == 2) << what;
    EXPECT_FALSE(messages.read("err").empty()) << what;
  }
  EXPECT_GT(failed, 2U);
  EXPECT_GT(done, 2U);
}

}  // namespace
}  // namespace opensum
