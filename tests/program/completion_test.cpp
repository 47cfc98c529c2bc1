// What shells offer, asked in the shells themselves, and the pages of the manual.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

// The words that are offered, in order.
std::vector<std::string> words_in(const std::string& text) {
  std::vector<std::string> words = lines_of(text);
  words.erase(std::remove(words.begin(), words.end(), ""), words.end());
  std::sort(words.begin(), words.end());
  return words;
}

bool has(const std::vector<std::string>& words, const std::string& word) {
  return std::find(words.begin(), words.end(), word) != words.end();
}

class Completion : public testing::Test {
 protected:
  Completion() {
    std::filesystem::create_symlink(program_path(), folder.path("opensum"));
    folder.write("t.csv", "Flow rate [L/min],code\n1,A\n");
    folder.write("study.toml",
                 "[sheet.run]\ndata = 't.csv'\nequations = 'y = 2 * Flow_rate'\n[fit.line]\nx = "
                 "'Flow_rate'\ny = 'y'\n[plot.picture]\nx = 'Flow_rate'\ny = 'y'\n");
    for (const char* shell : {"bash", "zsh", "fish"})
      folder.write(std::string("_") + shell, run_program(folder, {"interface", shell}).out);
  }

  // What a script prints in a folder where `opensum` is found.
  std::vector<std::string> printed(const std::string& shell, const std::string& script) {
    folder.write("script", script);
    const std::string command =
        fmt::format("cd '{0}' && PATH=\"{0}:$PATH\" {1} script > printed 2> errors", folder.path(), shell);
    EXPECT_EQ(std::system(command.c_str()), 0) << script << folder.read("errors");
    EXPECT_EQ(folder.read("errors"), "") << script;
    return words_in(folder.read("printed"));
  }

  std::vector<std::string> in_bash(const std::vector<std::string>& words) {
    std::string list;
    for (const std::string& word : words) list += " '" + word + "'";
    return printed(
        "bash", fmt::format("compopt() {{ :; }}\nsource ./_bash\nCOMP_WORDS=({})\nCOMP_CWORD={}\n_opensum\n"
                            "printf '%s\\n' \"${{COMPREPLY[@]}}\"\n",
                            list, words.size() - 1));
  }

  TempFolder folder;
};

TEST_F(Completion, OfBash) {
  EXPECT_EQ(in_bash({"opensum", "ve"}), (std::vector<std::string>{"verify"}));
  const auto commands = in_bash({"opensum", ""});
  for (const std::string& command : words_in(run_program(folder, {"interface", "commands"}).out))
    EXPECT_TRUE(has(commands, command)) << command;
  EXPECT_FALSE(has(commands, "interface"));
  EXPECT_EQ(in_bash({"opensum", "run", "--uncertainty", ""}),
            (std::vector<std::string>{"linear", "monte-carlo"}));
  EXPECT_EQ(in_bash({"opensum", "plot", "t.csv", "--x", "F"}), (std::vector<std::string>{"Flow_rate"}));
  EXPECT_EQ(in_bash({"opensum", "look", "t.csv", "--unit", "c"}), (std::vector<std::string>{"code="}));
  EXPECT_EQ(in_bash({"opensum", "run", "--only", ""}),
            (std::vector<std::string>{"fit.line", "plot.picture", "run"}));
  EXPECT_EQ(in_bash({"opensum", "explain", "run."}),
            (std::vector<std::string>{"run.Flow_rate", "run.code", "run.y"}));
  EXPECT_EQ(in_bash({"opensum", "run", "st"}), (std::vector<std::string>{"study.toml"}));
  EXPECT_EQ(in_bash({"opensum", "look", "t."}), (std::vector<std::string>{"t.csv"}));
  EXPECT_EQ(in_bash({"opensum", "nothing", ""}), (std::vector<std::string>{}));
}

// Each value that is offered is taken.
TEST_F(Completion, OffersWhatIsTaken) {
  std::size_t offered = 0;
  for (const std::string& command : words_in(run_program(folder, {"interface", "commands"}).out)) {
    for (const std::string& option : in_bash({"opensum", command, "--"})) {
      for (const std::string& value : in_bash({"opensum", command, option, ""})) {
        if (value.ends_with("=") || folder.has(value)) continue;
        std::vector<std::string> args = {command};
        if (command == "plot")
          args.insert(args.end(), {"t.csv", "--x", "Flow_rate", "--y", "Flow_rate", "--force"});
        if (command == "fit") args.insert(args.end(), {"t.csv", "--x", "Flow_rate", "--y", "Flow_rate"});
        if (command == "look" || command == "derive") args.push_back("t.csv");
        if (command == "derive") args.push_back("z = 1");
        if (command == "compare") args.insert(args.end(), {"t.csv", "t.csv"});
        if (command == "watch" || command == "demo") continue;
        args.push_back(option + "=" + value);
        const Outcome outcome = run_program(folder, args);
        EXPECT_EQ(outcome.err.find(option + " takes"), std::string::npos) << outcome.err;
        EXPECT_EQ(outcome.err.find("is needed, not"), std::string::npos) << outcome.err;
        ++offered;
      }
    }
  }
  EXPECT_GT(offered, 40U);
}

TEST_F(Completion, OfZsh) {
  if (std::system("command -v zsh > /dev/null 2>&1") != 0) GTEST_SKIP() << "zsh is not installed";
  const auto in_zsh = [&](const std::vector<std::string>& words) {
    std::string list;
    for (const std::string& word : words) list += " '" + word + "'";
    return printed(
        "zsh -f", fmt::format("compdef() {{ :; }}\ncompadd() {{ shift; print -l -- $@; }}\n_files() {{ print "
                              "-- _files $@; }}\nsource ./_zsh\nwords=({})\nCURRENT={}\n_opensum\n",
                              list, words.size()));
  };
  EXPECT_EQ(in_zsh({"opensum", "ve"}), (std::vector<std::string>{"verify"}));
  EXPECT_EQ(in_zsh({"opensum", "plot", "t.csv", "--x", "F"}), (std::vector<std::string>{"Flow_rate"}));
  EXPECT_EQ(in_zsh({"opensum", "look", ""}), (std::vector<std::string>{"_files"}));
  EXPECT_EQ(in_zsh({"opensum", "run", ""}), (std::vector<std::string>{"_files -g *.toml"}));
}

TEST_F(Completion, OfFish) {
  if (std::system("command -v fish > /dev/null 2>&1") != 0) GTEST_SKIP() << "fish is not installed";
  const auto in_fish = [&](const std::string& line) {
    return printed("HOME=. fish --no-config", fmt::format("source ./_fish\ncomplete -C '{}'\n", line));
  };
  EXPECT_EQ(in_fish("opensum ve"), (std::vector<std::string>{"verify"}));
  EXPECT_EQ(in_fish("opensum plot t.csv --x F"), (std::vector<std::string>{"Flow_rate"}));
}

TEST_F(Completion, ManualHasAPageForEachCommand) {
  const bool can_check = std::system("command -v groff > /dev/null 2>&1") == 0;
  std::vector<std::string> commands = words_in(run_program(folder, {"interface", "commands"}).out);
  commands.emplace_back("");
  for (const std::string& command : commands) {
    std::vector<std::string> args = {"interface", "manual"};
    if (!command.empty()) args.push_back(command);
    const Outcome page = run_program(folder, args);
    EXPECT_EQ(page.code, 0) << command;
    // Everything that --help says is there.
    const Outcome help =
        run_program(folder, {command.empty() ? "help" : command, command.empty() ? "" : "--help"});
    std::istringstream words(help.out);
    std::string plain = page.out;
    for (std::size_t at = plain.find("\\-"); at != std::string::npos; at = plain.find("\\-", at))
      plain.erase(at, 1);
    for (std::string word; words >> word;) {
      const std::size_t foreign = word.find_first_not_of("-abcdefghijklmnopqrstuvwxyz0123456789");
      if (!word.starts_with("--") || word.size() <= 3 || foreign != std::string::npos) continue;
      EXPECT_NE(plain.find(word), std::string::npos) << command << ": " << word;
    }
    if (!can_check) continue;
    folder.write("page.1", page.out);
    const std::string check =
        fmt::format("cd '{}' && groff -man -Tutf8 -ww page.1 > formatted 2> warnings", folder.path());
    EXPECT_EQ(std::system(check.c_str()), 0);
    EXPECT_EQ(folder.read("warnings"), "") << command;
  }
}

}  // namespace
}  // namespace opensum
