// Each command of the built program on real files.
#include <gtest/gtest.h>

#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "files/sha256.h"
#include "files/text_file.h"
#include "program/program.h"

namespace opensum {
namespace {

const char* const kCommandsTable =
    "mass [g],speed [m/s],name\n"
    "2.1,3,a\n"
    "1.50,,b\n"
    "0,4,c\n";

const char* const kCommandsStudy = R"(title = "Test"
constants = 'g_local [m/s^2] = 9.81'
[sheet.run]
data = "t.csv"
equations = '''
  per_mass [m^2/s^2] = energy / mass
  energy "Kinetic energy" [mJ] = 0.5 * mass * speed^2
  height = energy / (mass * g_local)
'''
[plot.energy]
x = "speed"
y = "energy"
)";

TEST(Derive, AddsAColumnBesideTheMeasuredOnes) {
  const TempFolder folder;
  folder.write("t.csv", kCommandsTable);
  const Outcome outcome = run_program(folder, {"derive", "t.csv", "energy [mJ] = 0.5 * mass * speed^2"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out,
            "mass [g],speed [m/s],name,energy [mJ]\n"
            "2.1,3,a,9.45\n"
            "1.50,,b,\n"
            "0,4,c,0\n");
  EXPECT_EQ(outcome.err, "");
}

TEST(Derive, WritesAFileAndAsksBeforeReplacingIt) {
  const TempFolder folder;
  folder.write("t.csv", kCommandsTable);
  const std::vector<std::string> args = {"derive", "t.csv", "double = 2 * mass", "--output", "out.tsv"};
  EXPECT_EQ(run_program(folder, args).code, 0);
  EXPECT_EQ(folder.read("out.tsv").substr(0, folder.read("out.tsv").find('\n')),
            "mass [g]\tspeed [m/s]\tname\tdouble [g]");
  const Outcome again = run_program(folder, args);
  EXPECT_EQ(again.code, 2);
  EXPECT_EQ(
      again.err,
      "opensum: error: out.tsv exists already\n      hint: choose another name, or --force to replace it\n");
  std::vector<std::string> forced = args;
  forced.emplace_back("--force");
  EXPECT_EQ(run_program(folder, forced).code, 0);
  const Outcome onto_input =
      run_program(folder, {"derive", "t.csv", "a = mass", "--output", "t.csv", "--force"});
  EXPECT_EQ(onto_input.code, 2);
  EXPECT_EQ(folder.read("t.csv"), kCommandsTable);
}

TEST(Derive, ReadsStandardInputAndTakesNamesAndUnits) {
  const TempFolder folder;
  const Outcome outcome = run_program(
      folder,
      {"derive", "-", "p [kPa] = v * 2 [kg/(m^2 s)]", "--column", "v=Wind speed (m/s)", "--unit", "v=km/h"},
      "Wind speed (m/s)\n36\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out, "Wind speed [km/h],p [kPa]\n36,0.02\n");
  EXPECT_NE(outcome.err.find("the unit km/h replaces m/s of the header"), std::string::npos);
}

TEST(Look, ShowsRowsColumnsAndWhatCannotBeRead) {
  const TempFolder folder;
  folder.write("t.csv", "t (°C),n\n20,1\n,2\n25,err\n");
  const Outcome outcome = run_program(folder, {"look", "t.csv"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(
      outcome.out,
      "t.csv: 3 rows, 2 columns, header on line 1; UTF-8, fields separated by commas\n"
      "┌──────┬────┬─────┐\n"
      "│ line │  t │   n │\n"
      "├──────┼────┼─────┤\n"
      "│    2 │ 20 │   1 │\n"
      "│    3 │    │   2 │\n"
      "│    4 │ 25 │ err │\n"
      "└──────┴────┴─────┘\n"
      "┌────────┬───────┬──────┬────────┬───────┬──────┬───────┬──────┬──────────┬────────────┐\n"
      "│ symbol │ label │ unit │ kind   │ known │ null │ least │ mean │ greatest │ spread     │\n"
      "├────────┼───────┼──────┼────────┼───────┼──────┼───────┼──────┼──────────┼────────────┤\n"
      "│ t      │ t     │ °C   │ number │     2 │    1 │    20 │ 22.5 │       25 │ █        █ │\n"
      "│ n      │ n     │ –    │ number │     2 │    1 │     1 │  1.5 │        2 │ █        █ │\n"
      "└────────┴───────┴──────┴────────┴───────┴──────┴───────┴──────┴──────────┴────────────┘\n"
      "n: 1 of 3 cells cannot be read as a number: err (line 4); if they mean missing: --missing-also=err\n");
}

TEST(Calc, CalculatesWithUnits) {
  const TempFolder folder;
  const struct {
    const char* expression;
    const char* result;
  } rows[] = {
      {"0.5 * 2.1 [g] * (3 [m/s])^2 in [mJ]", "9.45 mJ\n"},
      {"codata.R * kelvin(25 [degC]) / (101325 [Pa]) in [L/mol]", "24.465403697 L/mol\n"},
      {"1 [in] in [mm]", "25.4 mm\n"},
      {"30 [degC] - 20 [degC]", "10 K\n"},
      {"2 [kg] > 1900 [g]", "true\n"},
      {"1 / 0", "null (divide_by_zero)\n"},
      {"date_plus", ""},
      {"sqrt(16 [m^2])", "4 m\n"},
  };
  for (const auto& row : rows) {
    const Outcome outcome = run_program(folder, {"calc", row.expression});
    EXPECT_EQ(outcome.out, row.result) << row.expression;
    EXPECT_EQ(outcome.code, *row.result == '\0' ? 3 : 0) << row.expression;
  }
}

TEST(Units, AreFoundBySymbolNameAndDimension) {
  const TempFolder folder;
  EXPECT_NE(run_program(folder, {"units", "pressure"}).out.find("millimetre of mercury"), std::string::npos);
  EXPECT_NE(run_program(folder, {"units", "kJ/s"}).out.find("watt"), std::string::npos);
  EXPECT_NE(run_program(folder, {"units", "codata.R"}).out.find("8.31446261815324"), std::string::npos);
  EXPECT_NE(run_program(folder, {"units"}).out.find("ampere"), std::string::npos);
  const Outcome none = run_program(folder, {"units", "presure"});
  EXPECT_EQ(none.code, 2);
}

TEST(Run, WritesEverythingAStudyAsksFor) {
  const TempFolder folder;
  folder.write("t.csv", kCommandsTable);
  folder.write("study.toml", kCommandsStudy);
  const Outcome brief = run_program(folder, {"run"});
  EXPECT_EQ(brief.code, 0) << brief.err;
  EXPECT_EQ(brief.out,
            "Test\n\n"
            "run  3 rows from t.csv: 3 columns, 3 derived\n\n"
            "run\n"
            "  null as measured: speed (1 missing)\n"
            "  null in derived: per_mass, height (1 divide_by_zero, 1 missing each); energy\n"
            "    (1 missing)\n\n"
            "plot energy: 1 of 3 points of Kinetic energy not drawn: a value is null\n\n"
            "written to results/\n"
            "  tables   run (csv with metadata)\n"
            "  figures  energy (png, svg, pdf)\n"
            "  also     nulls.csv, record.json, report.html\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out,
            "Test\n\n"
            "run: 3 rows from t.csv\n"
            "  measured: 3 columns, 1 with nulls\n"
            "    speed  m/s  2 of 3 known; null: 1 missing\n"
            "  derived:\n"
            "    per_mass  m^2/s^2  1 of 3 known; null: 1 divide_by_zero, 1 missing\n"
            "    energy    mJ       2 of 3 known; null: 1 missing\n"
            "    height    m        1 of 3 known; null: 1 divide_by_zero, 1 missing\n"
            "plot energy: 1 of 3 points of Kinetic energy not drawn: a value is null\n"
            "written:\n"
            "  results/run.csv\n"
            "  results/run.csv-metadata.json\n"
            "  results/nulls.csv\n"
            "  results/figures/energy.png, .svg, .pdf\n"
            "  results/record.json\n"
            "  results/report.html\n");
  EXPECT_EQ(folder.read("results/run.csv"),
            "mass [g],speed [m/s],name,per_mass [m^2/s^2],Kinetic energy [mJ],height [m]\n"
            "2.1,3,a,4.5,9.45,0.45871559633\n"
            "1.50,,b,,,\n"
            "0,4,c,,0,\n");
  EXPECT_EQ(folder.read("results/nulls.csv"),
            "sheet,row,line,column,state,reason,rule,value,began\n"
            "run,2,3,speed,null,missing,,,run.speed row 2\n"
            "run,2,3,per_mass,null,missing,,,run.speed row 2\n"
            "run,2,3,energy,null,missing,,,run.speed row 2\n"
            "run,2,3,height,null,missing,,,run.speed row 2\n"
            "run,3,4,per_mass,null,divide_by_zero,,,run.per_mass row 3\n"
            "run,3,4,height,null,divide_by_zero,,,run.height row 3\n");
  const auto record = nlohmann::json::parse(folder.read("results/record.json"));
  ASSERT_EQ(record["inputs"].size(), 2U);
  EXPECT_EQ(record["inputs"][0]["sha256"], sha256(kCommandsStudy));
  EXPECT_EQ(record["inputs"][1]["sha256"], sha256(kCommandsTable));
  EXPECT_EQ(record["sheets"][0]["derived"][1]["equation"], "0.5 * mass * speed^2");
  const auto metadata = nlohmann::json::parse(folder.read("results/run.csv-metadata.json"));
  EXPECT_EQ(metadata["@context"], "http://www.w3.org/ns/csvw");
  EXPECT_EQ(metadata["tableSchema"]["columns"][4]["name"], "energy");
  EXPECT_EQ(metadata["tableSchema"]["columns"][4]["urn:opensum:unit"], "mJ");
}

TEST(Run, GivesTheSameBytesAgainAndElsewhere) {
  const TempFolder folder;
  for (const char* place : {"one/", "two/deep/"}) {
    folder.write(std::string(place) + "t.csv", kCommandsTable);
    folder.write(std::string(place) + "study.toml", kCommandsStudy);
    EXPECT_EQ(run_program(folder, {"run", std::string(place) + "study.toml"}).code, 0);
  }
  for (const char* name : {"run.csv", "run.csv-metadata.json", "nulls.csv", "record.json",
                           "figures/energy.png", "figures/energy.svg", "figures/energy.pdf"}) {
    EXPECT_EQ(folder.read(std::string("one/results/") + name),
              folder.read(std::string("two/deep/results/") + name))
        << name;
  }
}

TEST(Check, PrintsTheColumnsInTheOrderOfComputing) {
  const TempFolder folder;
  folder.write("t.csv", kCommandsTable);
  folder.write("study.toml", kCommandsStudy);
  const Outcome outcome = run_program(folder, {"check"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out,
            "constants\n"
            "  g_local = 9.81 m/s^2\n"
            "run: 3 rows from t.csv\n"
            "  in units: mass g, speed m/s\n"
            "  energy    [mJ]       from mass, speed; nulls propagated\n"
            "  per_mass  [m^2/s^2]  from energy, mass; nulls propagated\n"
            "  height    [m]        from energy, mass; nulls propagated\n");
  EXPECT_FALSE(folder.has("results"));
}

TEST(Demo, WritesTheStudyAndRunsIt) {
  const TempFolder folder;
  const Outcome outcome = run_program(folder, {"demo", "here"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_TRUE(folder.has("here/study.toml"));
  EXPECT_TRUE(folder.has("here/results/figures/duty.png"));
  EXPECT_EQ(run_program(folder, {"demo", "here"}).code, 0) << "a second time is no fault";
  folder.write("here/day1.csv", "someone's own data\n");
  EXPECT_EQ(run_program(folder, {"demo", "here"}).code, 2);
  EXPECT_EQ(folder.read("here/day1.csv"), "someone's own data\n");
}

// The names of all commands, from the help of the program.
std::vector<std::string> commands(const TempFolder& folder) {
  std::istringstream help(run_program(folder, {"--help"}).out);
  std::vector<std::string> names;
  for (std::string line; std::getline(help, line);) {
    // What a command is for may go on in the next line.
    if (line.starts_with("  ") && line[2] != ' ') names.push_back(line.substr(2, line.find(' ', 2) - 2));
  }
  return names;
}

// The commands that stand in the sources, one of which could have been left out of main.cpp.
std::set<std::string> commands_of_sources() {
  std::set<std::string> names;
  const std::string begin = "void add_";
  const std::string end = "(CommandLine& command_line) {";
  for (const auto& entry :
       std::filesystem::directory_iterator(std::string(OPENSUM_SOURCE_FOLDER) + "/src/cli")) {
    std::ifstream source(entry.path());
    for (std::string line; std::getline(source, line);) {
      if (line.starts_with(begin) && line.ends_with(end))
        names.insert(line.substr(begin.size(), line.size() - begin.size() - end.size()));
    }
  }
  return names;
}

// The worked examples in the help of each command run as they stand, and the guide speaks of each.
TEST(Help, ShowsExamplesThatRun) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo"}).code, 0);
  std::string guide;
  for (const auto& entry :
       std::filesystem::recursive_directory_iterator(std::string(OPENSUM_SOURCE_FOLDER) + "/docs")) {
    if (entry.path().extension() != ".md") continue;
    std::ifstream page(entry.path());
    guide.append(std::istreambuf_iterator<char>(page), {});
  }
  std::size_t examples = 0;
  const std::vector<std::string> all = commands(folder);
  EXPECT_EQ(std::set<std::string>(all.begin(), all.end()), commands_of_sources());
  for (const std::string& command : all) {
    EXPECT_NE(guide.find("opensum " + command), std::string::npos) << command;
    const Outcome help = run_program(folder, {command, "--help"});
    EXPECT_EQ(help.code, 0);
    std::size_t at = help.out.find("Examples");
    ASSERT_NE(at, std::string::npos) << command;
    std::string script = help.out.substr(help.out.find('\n', at) + 1);
    std::size_t begin = 0;
    std::string line;
    while (begin < script.size()) {
      const std::size_t end = std::min(script.find('\n', begin), script.size());
      line += script.substr(begin, end - begin);
      begin = end + 1;
      if (!line.empty() && line.back() == '\\') {
        line.pop_back();
        continue;
      }
      if (line.find("opensum ") == std::string::npos) {
        line.clear();
        continue;
      }
      const std::string shell = "cd '" + folder.path() + "' && opensum() { '" + program_path() +
                                "' \"$@\"; } && " + line + " > /dev/null 2>&1";
      ++examples;
      // Watching ends when somebody ends it: it has its own tests.
      if (command != "watch") {
        const int status = std::system(shell.c_str());
        // Two days are not the same.
        EXPECT_TRUE(status == 0 || (command == "compare" && WEXITSTATUS(status) == 5)) << line;
      }
      line.clear();
    }
  }
  EXPECT_GE(examples, 2 * all.size());
}

TEST(CommandLine, SaysWhatItDoesNotUnderstand) {
  const TempFolder folder;
  EXPECT_EQ(run_program(folder, {}).code, 0);
  EXPECT_EQ(run_program(folder, {"rum"}).code, 2);
  EXPECT_EQ(run_program(folder, {"run", "--quit"}).code, 2);
  EXPECT_EQ(run_program(folder, {"derive", "t.csv"}).code, 2);
  EXPECT_EQ(run_program(folder, {"--version"}).out.substr(0, 8), "opensum ");
}

}  // namespace
}  // namespace opensum
