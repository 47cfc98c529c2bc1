// Every study that the tests run, computed here and in a database.
#include "program/also_in_database.h"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <toml++/toml.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <sstream>

#include "program/csv_cells.h"
#include "program/database_server.h"
#include "program/program.h"

namespace opensum {
namespace {

std::string text_of(const toml::table& table) {
  std::ostringstream text;
  text << table << '\n';
  return text.str();
}

// All sheets and templates of a study.
std::vector<toml::table*> sheets_of(toml::table& study) {
  std::vector<toml::table*> all;
  for (const char* kind : {"sheet", "template"}) {
    toml::table* const sheets = study[kind].as_table();
    if (sheets == nullptr) continue;
    for (auto&& [name, sheet] : *sheets) {
      if (toml::table* const table = sheet.as_table()) all.push_back(table);
    }
  }
  return all;
}

void erase(toml::table& table, const std::vector<const char*>& keys) {
  for (const char* key : keys) table.erase(key);
}

bool has_data(toml::node& sheet) { return sheet.is_table() && sheet.as_table()->contains("data"); }

// Nulls by sheet, row and column, with their reasons. Their order is not compared.
std::map<std::string, std::string> nulls_in(const std::string& text) {
  std::map<std::string, std::string> all;
  for (const auto& row : read_csv(text).rows) {
    if (row.size() > 5) all[row[0] + "." + row[3] + " " + row[1] + " " + row[4]] = row[5];
  }
  return all;
}

class Comparison {
 public:
  Comparison(std::string server, const TempFolder& folder, std::string study)
      : socket_(std::move(server)), study_(std::move(study)) {
    std::error_code error;
    std::filesystem::copy(folder.path(), copy_.path("study"), std::filesystem::copy_options::recursive,
                          error);
    schema_ = fmt::format("s{}_{}", ::getpid(), ++number());
  }

  void run() {
    const toml::table original = toml::parse_file(copy_.path("study/" + study_));
    toml::table loading = original;
    if (!fill_tables(loading)) return;
    toml::table there = original;
    for (toml::table* const sheet : sheets_of(there)) {
      erase(*sheet, {"read", "preamble", "write"});
      if (toml::table* const columns = (*sheet)["columns"].as_table()) {
        for (auto&& [symbol, column] : *columns) {
          if (toml::table* const keys = column.as_table())
            erase(*keys, {"kind", "format", "missing", "values"});
        }
      }
    }
    for (auto&& [name, sheet] : *there["sheet"].as_table()) {
      if (has_data(sheet)) sheet.as_table()->insert_or_assign("data", address(std::string(name.str())));
      if (sheet.is_table()) sheet.as_table()->insert_or_assign("write", toml::array{"csv"});
    }
    erase(there, {"plot", "output", "budget", "write"});
    there.insert_or_assign("nulls_of", "all");
    copy_.write(beside("compared.toml"), text_of(there));
    compare();
    server().sql(fmt::format("DROP SCHEMA {} CASCADE", schema_));
  }

 private:
  static int& number() {
    static int number = 0;
    return number;
  }

  DatabaseServer& server() {
    // It is not ours to stop.
    static auto* const kServer = new DatabaseServer(socket_, newest_server_programs());
    return *kServer;
  }

  std::string address(const std::string& sheet) { return server().address(schema_ + '.' + sheet); }

  // A file in the folder of the study, whose paths are relative to that.
  std::string beside(const std::string& name) const {
    return (std::filesystem::path("study") / study_).parent_path() / name;
  }

  Outcome run_copy(const std::vector<std::string>& args) { return run_program(copy_, args); }

  void tell(const std::string& line) const {
    std::ofstream(socket_ + "/compared", std::ios::app) << line << '\n';
  }

  // Writes what is measured to tables: the study runs as it is, and what it derives is taken out again.
  bool fill_tables(toml::table& loading) {
    toml::table* const sheets = loading["sheet"].as_table();
    bool any = false;
    for (toml::table* const sheet : sheets_of(loading))
      erase(*sheet, {"keep", "sort_by", "show", "claims", "write"});
    if (sheets != nullptr) {
      for (auto&& [name, sheet] : *sheets) {
        if (!sheet.is_table()) continue;
        toml::array formats;
        if (has_data(sheet)) formats.push_back(address(std::string(name.str())));
        any = any || has_data(sheet);
        sheet.as_table()->insert_or_assign("write", formats);
      }
    }
    if (!any) {
      tell("no sheet has data in files");
      return false;
    }
    erase(loading, {"plot", "output", "budget", "coverage", "headers", "write"});
    copy_.write(beside("loading.toml"), text_of(loading));
    server().sql("CREATE SCHEMA " + schema_);
    const Outcome outcome = run_copy({"run", beside("loading.toml"), "--output", copy_.path("loaded")});
    if (outcome.code != 0) {
      tell("cannot be put into tables: " + first_error(outcome.err));
      return false;
    }
    const std::string derived = server().sql(
        "SELECT format('ALTER TABLE %I.%I DROP COLUMN %I;', n.nspname, c.relname, a.attname) FROM "
        "pg_attribute a "
        "JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname "
        "= '" +
        schema_ + "' AND a.attnum > 0 AND col_description(c.oid, a.attnum) LIKE '%; equation: %'");
    server().sql(derived);
    return true;
  }

  void compare() {
    const Outcome here = run_copy({"run", beside("compared.toml"), "--output", copy_.path("here")});
    if (here.code != 0 && here.code != 5)
      return tell("has no counterpart in tables: " + first_error(here.err));
    const Outcome there =
        run_copy({"run", beside("compared.toml"), "--in-database", "--output", copy_.path("there")});
    if (there.code == 3 && there.err.find("cannot be computed in the database") != std::string::npos)
      return tell("refused: " + first_error(there.err));
    EXPECT_EQ(there.code, here.code) << there.err << copy_.read(beside("compared.toml"));
    if (there.code != here.code) return tell("FAILED: " + first_error(there.err));
    std::size_t cells = 0;
    for (const auto& entry : std::filesystem::directory_iterator(copy_.path("here"))) {
      const std::string name = entry.path().filename();
      if (entry.path().extension() != ".csv" || name == "nulls.csv") continue;
      cells += compare_cells(name, copy_.read("here/" + name), copy_.read("there/" + name));
    }
    const auto nulls_here = nulls_in(copy_.read("here/nulls.csv"));
    EXPECT_EQ(nulls_here, nulls_in(copy_.read("there/nulls.csv")));
    if (::testing::Test::HasFailure()) std::cout << copy_.read(beside("compared.toml"));
    tell(fmt::format("{}: {} cells, {} nulls", ::testing::Test::HasFailure() ? "FAILED" : "compared", cells,
                     nulls_here.size()));
  }

  static std::string first_error(const std::string& err) {
    std::istringstream lines(err);
    std::string line;
    while (std::getline(lines, line)) {
      if (line.find("error: ") != std::string::npos) return line;
    }
    return "";
  }

  std::string socket_;
  std::string study_;
  std::string schema_;
  TempFolder copy_;
};

}  // namespace

void also_in_database(const TempFolder& folder, const std::vector<std::string>& args) {
  const char* const socket = std::getenv("OPENSUM_ALSO_IN_DATABASE");
  static bool busy = false;
  if (socket == nullptr || busy || args.empty() || args.front() != "run") return;
  std::string study = "study.toml";
  for (std::size_t i = 1; i < args.size(); ++i) {
    if (args[i].ends_with(".toml")) study = args[i];
  }
  if (!folder.has(study)) return;
  busy = true;
  Comparison(socket, folder, study).run();
  busy = false;
}

}  // namespace opensum
