// The folders of the sources stand as the map in CONTRIBUTING.md says: each uses only those above it, and no
// files include one another in a cycle.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace opensum {
namespace {

const std::filesystem::path kProject = OPENSUM_SOURCE_FOLDER;

std::vector<std::string> lines_of(const std::filesystem::path& path) {
  std::ifstream file(path);
  std::vector<std::string> lines;
  for (std::string line; std::getline(file, line);) lines.push_back(line);
  return lines;
}

// The folders of the map, from the top.
std::vector<std::string> mapped_folders() {
  std::vector<std::string> folders;
  const std::string begin = "| `src/";
  for (const std::string& line : lines_of(kProject / "CONTRIBUTING.md")) {
    if (line.starts_with(begin))
      folders.push_back(line.substr(begin.size(), line.find('/', begin.size()) - begin.size()));
  }
  return folders;
}

// A header and its source are one thing: `table/column`.
using Includes = std::map<std::string, std::set<std::string>>;

Includes includes_of_sources() {
  Includes includes;
  const std::string begin = "#include \"";
  for (const auto& entry : std::filesystem::recursive_directory_iterator(kProject / "src")) {
    const std::string extension = entry.path().extension();
    if (extension != ".h" && extension != ".cpp") continue;
    const std::string own =
        std::filesystem::relative(entry.path(), kProject / "src").replace_extension().string();
    std::set<std::string>& used = includes[own];
    for (const std::string& line : lines_of(entry.path())) {
      if (!line.starts_with(begin) || line.find('/') == std::string::npos) continue;
      const std::string other = line.substr(begin.size(), line.rfind(".h\"") - begin.size());
      if (other != own) used.insert(other);
    }
  }
  return includes;
}

std::string folder_of(const std::string& file) { return file.substr(0, file.find('/')); }

TEST(Folders, UseOnlyThoseAboveThem) {
  const std::vector<std::string> order = mapped_folders();
  const auto place = [&](const std::string& folder) {
    return std::find(order.begin(), order.end(), folder) - order.begin();
  };
  std::size_t looked_at = 0;
  for (const auto& [file, others] : includes_of_sources()) {
    ASSERT_LT(place(folder_of(file)), std::ssize(order)) << file << ": its folder is not in the map";
    for (const std::string& other : others) {
      ++looked_at;
      EXPECT_LE(place(folder_of(other)), place(folder_of(file))) << file << " includes " << other;
    }
  }
  EXPECT_GT(looked_at, 1000U);
}

TEST(Folders, HaveNoCycles) {
  const Includes includes = includes_of_sources();
  // Takes away, again and again, what includes nothing that is still there: what stays is in a cycle, or
  // leads to one.
  std::set<std::string> left;
  for (const auto& file : includes) left.insert(file.first);
  for (bool fewer = true; fewer;) {
    fewer = std::erase_if(left, [&](const std::string& file) {
              const std::set<std::string>& others = includes.at(file);
              return std::none_of(others.begin(), others.end(),
                                  [&](const std::string& other) { return left.contains(other); });
            }) > 0;
  }
  std::string names;
  for (const std::string& file : left) names += file + ' ';
  EXPECT_EQ(names, "");
}

}  // namespace
}  // namespace opensum
