// The examples of the documents run as they stand.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <sstream>

#include "equation/functions.h"
#include "model/plot_model.h"
#include "program/program.h"
#include "table/null.h"

namespace opensum {
namespace {

std::string document(const std::string& name) {
  std::ifstream file(std::string(OPENSUM_SOURCE_FOLDER) + "/" + name);
  std::stringstream text;
  text << file.rdbuf();
  return text.str();
}

// The fenced blocks of a language.
std::vector<std::string> blocks(const std::string& text, const std::string& language) {
  std::vector<std::string> found;
  const std::string fence = "```" + language + "\n";
  for (std::size_t at = 0; (at = text.find(fence, at)) != std::string::npos;) {
    at += fence.size();
    found.push_back(text.substr(at, text.find("```", at) - at));
  }
  return found;
}

// All pages of the reference, by their paths.
std::vector<std::string> reference_pages() {
  std::vector<std::string> pages;
  for (const auto& entry :
       std::filesystem::directory_iterator(std::string(OPENSUM_SOURCE_FOLDER) + "/docs/reference"))
    pages.push_back("docs/reference/" + entry.path().filename().string());
  std::sort(pages.begin(), pages.end());
  return pages;
}

std::string whole_reference() {
  std::string text;
  for (const std::string& page : reference_pages()) text += document(page);
  return text;
}

int run_in_shell(const TempFolder& folder, const std::string& line) {
  const std::string shell = "cd '" + folder.path() + "' && opensum() { '" + program_path() +
                            "' \"$@\"; } && " + line + " > /dev/null 2>&1";
  const int status = std::system(shell.c_str());
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

TEST(Documents, HoldStudiesThatCheck) {
  std::size_t checked = 0;
  std::vector<std::string> pages = reference_pages();
  pages.push_back("README.md");
  for (const std::string& name : pages) {
    for (const std::string& block : blocks(document(name), "toml")) {
      // The gallery is one study, which has a test of its own.
      if (block.find("[sheet.") == std::string::npos || block.find("[sheet.both]") != std::string::npos)
        continue;
      const TempFolder folder;
      ASSERT_EQ(run_program(folder, {"demo", "demo"}).code, 0);
      folder.write("study.toml", block);
      for (const std::string file : {"day1.csv", "day2.csv", "water.csv"}) {
        std::filesystem::copy_file(folder.path("demo/" + file), folder.path(file));
      }
      std::filesystem::copy_file(folder.path("demo/pond/samples.csv"), folder.path("samples.csv"));
      if (block.find("columns.code") != std::string::npos) {
        // This one names a column that the demo does not have.
        std::string data = folder.read("day1.csv");
        data.replace(data.find("Note"), 4, "code");
        folder.write("day1.csv", data);
      }
      const Outcome outcome = run_program(folder, {"run"});
      EXPECT_EQ(outcome.code, 0) << name << "\n" << block << outcome.err;
      ++checked;
    }
  }
  EXPECT_GE(checked, 7U);
}

// The plots of the gallery belong to one study, the first block of its section.
TEST(Documents, HaveAGalleryThatIsDrawnAsItStands) {
  const std::string page = document("docs/reference/plots.md");
  const std::string section = page.substr(page.find("## A gallery"));
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo", "demo"}).code, 0);
  std::string study;
  for (const std::string& block : blocks(section, "toml")) study += block + "\n";
  folder.write("demo/gallery.toml", study);
  std::filesystem::copy_file(folder.path("demo/pond/samples.csv"), folder.path("demo/samples.csv"));
  const Outcome outcome = run_program(folder, {"run", "demo/gallery.toml"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  for (const char* plot :
       {"points", "lines", "bars", "counted", "boxes", "axes", "field", "shaded", "steps", "panels"}) {
    for (const char* format : {".png", ".svg", ".pdf"})
      EXPECT_TRUE(folder.has("demo/results/figures/" + std::string(plot) + format)) << plot << format;
  }
}

TEST(Documents, HoldCommandsThatRun) {
  std::size_t ran = 0;
  for (const std::string& page : reference_pages()) {
    const TempFolder folder;
    ASSERT_EQ(run_program(folder, {"demo"}).code, 0);
    std::istringstream lines(document(page));
    for (std::string line; std::getline(lines, line);) {
      if (!line.starts_with("    opensum")) continue;
      // Watching ends when somebody ends it.
      if (line.starts_with("    opensum watch")) continue;
      const int code = run_in_shell(folder, line);
      const bool differs = line.starts_with("    opensum compare") && code == 5;
      EXPECT_TRUE(code == 0 || differs) << page << ": " << line;
      ++ran;
    }
  }
  EXPECT_GE(ran, 20U);
}

// The tutorial and the how-tos are followed from top to bottom: a block that begins with the name of a file
// is that file, and each command then runs.
TEST(Documents, AreFollowedFromTopToBottom) {
  for (const std::string name : {"docs/tutorial.md", "docs/how-to.md"}) {
    const TempFolder folder;
    std::istringstream lines(document(name));
    std::string file;
    std::string content;
    bool in_block = false;
    bool fails = false;
    std::size_t ran = 0;
    std::size_t written = 0;
    for (std::string line; std::getline(lines, line);) {
      if (line.starts_with("```")) {
        if (in_block && !file.empty()) {
          folder.write(file, content);
          ++written;
        }
        fails = line == "```fails";
        in_block = !in_block;
        file.clear();
        content.clear();
      } else if (in_block && fails) {
        EXPECT_NE(run_in_shell(folder, line), 0) << name << ": " << line;
        ++ran;
      } else if (in_block) {
        if (content.empty() && line.starts_with("# ")) file = line.substr(2);
        content += line + "\n";
      } else if (line.starts_with("    opensum ")) {
        EXPECT_EQ(run_in_shell(folder, line), 0) << name << ": " << line;
        ++ran;
      }
    }
    EXPECT_GE(ran, 7U) << name;
    EXPECT_GE(written, 3U) << name;
  }
}

TEST(Documents, NameEveryFunctionReasonAndKindOfPlot) {
  const std::string reference = whole_reference();
  for (const Signature& signature : signatures()) {
    EXPECT_NE(reference.find(signature.name), std::string::npos) << signature.name;
  }
  for (int reason = 1; reason < kReasons; ++reason) {
    const std::string name = reason_name(static_cast<Reason>(reason));
    EXPECT_NE(reference.find('`' + name + '`'), std::string::npos) << name;
  }
  for (const std::string& kind : plot_kinds()) {
    EXPECT_NE(reference.find('`' + kind + '`'), std::string::npos) << kind;
  }
}

// The lists of functions and units are what the program prints.
TEST(Documents, ListWhatTheProgramLists) {
  const TempFolder folder;
  for (const std::string what : {"functions", "units"}) {
    const std::string page = document("docs/reference/" + what + ".md");
    const Outcome outcome = run_program(folder, {what, "--format", "markdown"});
    EXPECT_NE(page.find(outcome.out), std::string::npos)
        << "write the output of `opensum " << what << " --format markdown` below the heading of the page";
  }
}

TEST(Documents, LinkToFilesThatExist) {
  std::vector<std::string> pages = reference_pages();
  for (const char* page : {"README.md", "CONTRIBUTING.md", "docs/guide.md", "docs/tutorial.md",
                           "docs/how-to.md", "docs/coming-from.md", "docs/performance.md"})
    pages.emplace_back(page);
  std::size_t links = 0;
  for (const std::string& page : pages) {
    const std::string text = document(page);
    ASSERT_FALSE(text.empty()) << page;
    const std::string folder = page.substr(0, page.rfind('/') + 1);
    for (std::size_t at = 0; (at = text.find("](", at)) != std::string::npos;) {
      at += 2;
      std::string target = text.substr(at, text.find(')', at) - at);
      const std::size_t mark = target.find('#');
      const std::string heading = mark == std::string::npos ? "" : target.substr(mark + 1);
      target = target.substr(0, mark);
      const std::string path = target.empty() ? page : folder + target;
      EXPECT_TRUE(std::filesystem::exists(std::string(OPENSUM_SOURCE_FOLDER) + "/" + path))
          << page << ": " << target;
      ++links;
      if (heading.empty()) continue;
      // The heading that the link means, as pages of Markdown name them.
      std::istringstream lines(document(path));
      bool found = false;
      for (std::string line; std::getline(lines, line);) {
        if (!line.starts_with('#')) continue;
        std::string name;
        for (const char c : line.substr(line.find(' ') + 1)) {
          if (c == ' ') name += '-';
          if ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-') name += c;
          if (c >= 'A' && c <= 'Z') name += static_cast<char>(c - 'A' + 'a');
        }
        found = found || name == heading;
      }
      EXPECT_TRUE(found) << page << ": " << path << "#" << heading;
    }
  }
  EXPECT_GE(links, 40U);
}

}  // namespace
}  // namespace opensum
