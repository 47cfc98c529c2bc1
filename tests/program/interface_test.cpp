// What programs may rely on: the document of the interface names all that is printed, and no more.
#include <gtest/gtest.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

using Json = nlohmann::json;
using Names = std::set<std::string>;

// The words in backticks of a line of the document that holds some text.
Names documented(const std::string& begin, const std::string& after = "") {
  std::ifstream page(std::string(OPENSUM_SOURCE_FOLDER) + "/docs/reference/interface.md");
  bool reached = after.empty();
  Names names;
  for (std::string line; std::getline(page, line);) {
    reached = reached || line.find(after) != std::string::npos;
    if (!reached || !line.starts_with("| " + begin)) continue;
    std::string rest = line.substr(line.find(" | ", 2));
    for (std::size_t at = rest.find('`'); at != std::string::npos; at = rest.find('`', at + 1)) {
      const std::size_t end = rest.find('`', at + 1);
      names.insert(rest.substr(at + 1, end - at - 1));
      at = end;
    }
    break;
  }
  EXPECT_FALSE(names.empty()) << begin;
  return names;
}

Names names_in(const Json& object) {
  Names names;
  for (const auto& item : object.items()) names.insert(item.key());
  return names;
}

void expect_named(const Json& object, const Names& names, const Names& sometimes) {
  for (const std::string& name : names_in(object))
    EXPECT_TRUE(names.contains(name)) << name << " is not documented";
  for (const std::string& name : names)
    EXPECT_TRUE(sometimes.contains(name) || object.contains(name)) << name << " is not there";
}

TEST(Interface, IsAsItIsDocumented) {
  const TempFolder folder;
  folder.write("t.csv", "t [s],x [m],name\n1,2,a\n2,,b\n3,7,c\n4,9,d\n");
  folder.write(
      "study.toml",
      "constants = 'k = 2'\nnulls_of = 'all'\n[sheet.run]\ndata = 't.csv'\ncolumns.x.uncertainty = '0.1 m'\n"
      "fill.x = '1 [m]'\nequations = 'v = k * x / t'\nclaims = '\"up\": t > 0 [s]'\n[fit.f]\nx = 't'\ny = "
      "'x'\n");
  const Outcome run =
      run_program(folder, {"run", "--format", "json", "--uncertainty", "monte-carlo", "--trials", "200"});
  ASSERT_EQ(run.code, 0) << run.err;
  ASSERT_EQ(run_program(folder, {"run", "--only", "run"}).code, 0);
  const Json printed = Json::parse(run.out);
  const Json record = Json::parse(folder.read("results/record.json"));
  const Names of_record = documented("`run --format json`");
  expect_named(printed, of_record, {"later", "program", "computed_there", "tables"});
  expect_named(record, of_record, {"computed_there", "tables"});
  EXPECT_EQ(record.at("interface"), 1);
  expect_named(record.at("study").at(0), documented("… `study`"), {});
  expect_named(record.at("settings"), documented("… `settings`"), {"in_database"});
  expect_named(record.at("inputs").at(0), documented("… `inputs`, `outputs`"), {"inputs", "outputs"});
  expect_named(record.at("outputs").at(0), documented("… `inputs`, `outputs`"), {"inputs", "outputs"});
  const Json& sheet = record.at("sheets").at(0);
  expect_named(sheet, documented("… `sheets`"), {});
  for (const char* kind : {"measured", "derived"}) {
    for (const Json& column : sheet.at(kind))
      expect_named(column, documented("… columns"), {"equation", "unit"});
  }
  folder.write("a.csv", "x [m],y\n1,2\n2,3\n");
  folder.write("b.csv", "x [cm],y\n100,2\n250,4\n");
  const Json compared =
      Json::parse(run_program(folder, {"compare", "a.csv", "b.csv", "--format", "json"}).out);
  expect_named(compared, documented("`compare --format json`"), {});
  expect_named(compared.at("tables").at(0), documented("… `tables`"), {});
  for (const Json& column : compared.at("tables").at(0).at("columns"))
    expect_named(column, documented("… columns", "… `tables`"),
                 {"unit", "units", "greatest", "relative", "incomparable", "at", "row", "before", "after"});
  folder.write("t.csv", "t [s],x [m],name\n1,2,a\n2,,b\n3,7,c\n4,8,d\n");
  const Json verified = Json::parse(run_program(folder, {"verify", "--format", "json"}).out);
  expect_named(verified, documented("`verify --format json`"),
               {"not_computed", "unchanged", "changed", "missing"});
  for (const char* file : {"nulls.csv", "fits.csv"}) {
    const std::string head = folder.read(std::string("results/") + file);
    EXPECT_TRUE(documented(std::string("`") + file + "`").contains(head.substr(0, head.find('\n')))) << file;
  }
}

}  // namespace
}  // namespace opensum
