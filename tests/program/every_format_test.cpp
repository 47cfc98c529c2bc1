// Each format of the two lists in files/formats.cpp has a case here: the same table, written in it or read
// from it.
#include <gtest/gtest.h>
#include <netcdf.h>

#include <array>
#include <map>

#include "files/formats.h"
#include "program/program.h"

namespace opensum {
namespace {

const std::string kTable = "n,x,note\n1.5,0.5,a b\n2.5,,c\n3.5,-0.25,\"d,e\"\n";
const std::string kAll = "n,x,note,half\n1.5,0.5,a b,0.25\n2.5,,c,\n3.5,-0.25,\"d,e\",-0.125\n";

// The table as netCDF in its classic form, in which texts are rows of letters.
void write_classic(const std::string& path) {
  int file = 0;
  int row = 0;
  int letter = 0;
  std::array<int, 3> variables{};
  ASSERT_EQ(nc_create(path.c_str(), NC_CLOBBER, &file), NC_NOERR);
  nc_def_dim(file, "row", 3, &row);
  nc_def_dim(file, "letter", 3, &letter);
  nc_def_var(file, "n", NC_DOUBLE, 1, &row, variables.data());
  nc_def_var(file, "x", NC_DOUBLE, 1, &row, &variables[1]);
  const std::array<int, 2> both = {row, letter};
  nc_def_var(file, "note", NC_CHAR, 2, both.data(), &variables[2]);
  nc_enddef(file);
  const std::array<double, 3> numbers = {1.5, 2.5, 3.5};
  const std::array<double, 3> values = {0.5, NC_FILL_DOUBLE, -0.25};
  nc_put_var_double(file, variables[0], numbers.data());
  nc_put_var_double(file, variables[1], values.data());
  nc_put_var_text(file, variables[2], "a bc\0\0d,e");
  ASSERT_EQ(nc_close(file), NC_NOERR);
}

// What a file holds, as the program reads it, with half of x. A database has more than one table.
std::string read_back(const TempFolder& folder, std::string file) {
  if (file.ends_with(".sqlite")) file += "#t";
  const Outcome outcome = run_program(
      folder, {"derive", file, "half = x / 2", "--show", "n,x,note,half", "--format", "csv", "--force"});
  EXPECT_EQ(outcome.code, 0) << file << ": " << outcome.err;
  return outcome.out;
}

TEST(EveryFormat, IsWritten) {
  const TempFolder folder;
  folder.write("t.csv", kTable);
  ASSERT_EQ(read_back(folder, "t.csv"), kAll);
  // Formats that are not read again, and what cells look like there without spaces.
  const std::map<std::string, std::vector<std::string>> others = {
      {"json", {"[1.5,2.5,3.5]", "[0.5,null,-0.25]", "[\"ab\",\"c\",\"d,e\"]"}},
      {"tex", {"ab", "d,e", "2.5"}}};
  std::size_t read = 0;
  for (const WrittenFormat& format : written_formats()) {
    const std::string file = "o." + std::string(format.name);
    const Outcome outcome = run_program(folder, {"derive", "t.csv", "more = 2 * n", "--output", file});
    ASSERT_EQ(outcome.code, 0) << file << ": " << outcome.err;
    const auto other = others.find(std::string(format.name));
    if (other == others.end()) {
      EXPECT_EQ(read_back(folder, file), kAll) << file;
      ++read;
      continue;
    }
    std::string text = folder.read(file);
    std::erase_if(text, [](char c) { return c == '\n' || c == ' '; });
    for (const std::string& cells : other->second)
      EXPECT_NE(text.find(cells), std::string::npos) << file << cells << text;
  }
  EXPECT_EQ(read + others.size(), written_formats().size());
}

TEST(EveryFormat, IsRead) {
  const TempFolder folder;
  folder.write("t.csv", kTable);
  std::vector<std::string> files = {"list.json", "classic.nc"};
  folder.write("list.json",
               R"([{"n":1.5,"x":0.5,"note":"a b"},{"n":2.5,"note":"c"},{"n":3.5,"x":-0.25,"note":"d,e"}])");
  write_classic(folder.path() + "/classic.nc");
  for (const char* ending : {"ods", "sqlite", "nc", "jsonl"}) {
    files.push_back(std::string("o.") + ending);
    ASSERT_EQ(run_program(folder, {"derive", "t.csv", "more = 2 * n", "--output", files.back()}).code, 0);
  }
  // By what a format is called in the list: the files that are of it.
  std::map<std::string, std::size_t> met;
  for (const std::string& file : files) {
    EXPECT_EQ(read_back(folder, file), kAll) << file;
    const std::string bytes = folder.read(file);
    for (const GridFormat& format : grid_formats()) met[format.words] += format.is(bytes) ? 1 : 0;
    for (const SpooledFormat& format : spooled_formats()) met[format.words] += format.is(bytes) ? 1 : 0;
  }
  for (const auto& [words, count] : met) EXPECT_EQ(count, 1U) << "files that are " << words;
  EXPECT_EQ(met.size(), grid_formats().size() + spooled_formats().size());
}

}  // namespace
}  // namespace opensum
