// The examples of the documents run as they stand.
#include <gtest/gtest.h>

#include <sstream>

#include "equation/functions.h"
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

TEST(Documents, HoldStudiesThatCheck) {
  std::size_t checked = 0;
  for (const char* name : {"README.md", "docs/guide.md"}) {
    for (const std::string& block : blocks(document(name), "toml")) {
      if (block.find("[sheet.") == std::string::npos) continue;
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
  const std::string guide = document("docs/guide.md");
  const std::size_t begin = guide.find("### A gallery");
  const std::string section = guide.substr(begin, guide.find("\n## ", begin) - begin);
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo", "demo"}).code, 0);
  std::string study;
  for (const std::string& block : blocks(section, "toml")) study += block + "\n";
  folder.write("demo/gallery.toml", study);
  std::filesystem::copy_file(folder.path("demo/pond/samples.csv"), folder.path("demo/samples.csv"));
  const Outcome outcome = run_program(folder, {"run", "demo/gallery.toml"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  for (const char* plot : {"points", "lines", "bars", "counted", "boxes", "axes", "panels"}) {
    for (const char* format : {".png", ".svg", ".pdf"})
      EXPECT_TRUE(folder.has("demo/results/figures/" + std::string(plot) + format)) << plot << format;
  }
  std::size_t pictures = 0;
  for (std::size_t at = 0; (at = section.find("](", at)) != std::string::npos; ++pictures) {
    at += 2;
    const std::string target = section.substr(at, section.find(')', at) - at);
    EXPECT_TRUE(std::filesystem::exists(std::string(OPENSUM_SOURCE_FOLDER) + "/docs/" + target)) << target;
  }
  EXPECT_EQ(pictures, 7U);
}

TEST(Documents, HoldCommandsThatRun) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo"}).code, 0);
  std::istringstream lines(document("docs/guide.md"));
  std::size_t ran = 0;
  for (std::string line; std::getline(lines, line);) {
    if (!line.starts_with("    opensum ")) continue;
    const std::string shell = "cd '" + folder.path() +
                              "' && opensum() { '" OPENSUM_PROGRAM "' \"$@\"; } && " + line +
                              " > /dev/null 2>&1";
    EXPECT_EQ(std::system(shell.c_str()), 0) << line;
    ++ran;
  }
  EXPECT_GE(ran, 2U);
}

TEST(Documents, NameEveryFunctionAndReason) {
  const std::string guide = document("docs/guide.md");
  for (const Signature& signature : signatures()) {
    EXPECT_NE(guide.find(signature.name), std::string::npos) << signature.name;
  }
  for (int reason = 1; reason < kReasons; ++reason) {
    const std::string name = reason_name(static_cast<Reason>(reason));
    EXPECT_NE(guide.find('`' + name + '`'), std::string::npos) << name;
  }
}

TEST(Documents, LinkToFilesThatExist) {
  const std::string readme = document("README.md");
  std::size_t links = 0;
  for (std::size_t at = 0; (at = readme.find("](", at)) != std::string::npos;) {
    at += 2;
    const std::string target = readme.substr(at, readme.find(')', at) - at);
    EXPECT_TRUE(std::filesystem::exists(std::string(OPENSUM_SOURCE_FOLDER) + "/" + target)) << target;
    ++links;
  }
  EXPECT_GE(links, 6U);
}

}  // namespace
}  // namespace opensum
