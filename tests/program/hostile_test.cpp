// Files and studies made to do harm: each ends with a message and a documented exit code, in little memory
// and time.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <pty.h>
#include <sqlite3.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <nlohmann/json.hpp>

#include "base/limits.h"
#include "base/unicode.h"
#include "files/cell_grid.h"
#include "files/workbook_bytes.h"
#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kHostileTable = "t [s],x [m],name\n1,2,a\n2,,b\n3,7,c\n";

std::string repeated(const std::string& text, std::size_t count) {
  std::string out;
  for (std::size_t i = 0; i < count; ++i) out += text;
  return out;
}

void expect_refused(const Outcome& outcome, int code, const std::string& words) {
  EXPECT_EQ(outcome.code, code) << words << ": " << outcome.err.substr(0, 500);
  EXPECT_NE(outcome.err.find(words), std::string::npos) << outcome.err.substr(0, 500);
  EXPECT_LT(outcome.err.size(), 3000U) << "a message is short";
}

std::string ods_with(const std::string& rows) {
  return ods_bytes("<table:table table:name='S'>" + rows + "</table:table>");
}

TEST(Limits, OfElementsInsideOneAnother) {
  const TempFolder folder;
  // The text of a cell is the eighth element below the document.
  constexpr std::size_t kAround = 7;
  const auto nested = [&](std::size_t count) {
    folder.write("n.ods", ods_with(ods_row({"x", "y"}) + "<table:table-row><table:table-cell><text:p>" +
                                   repeated("<text:span>", count) + "1" + repeated("</text:span>", count) +
                                   "</text:p></table:table-cell></table:table-row>"));
    return run_program(folder, {"look", "n.ods"});
  };
  EXPECT_EQ(nested(static_cast<std::size_t>(kDeepestXml) - kAround).code, 0);
  expect_refused(nested(static_cast<std::size_t>(kDeepestXml) - kAround + 1), 4,
                 "its elements stand more than 64 deep");
  expect_refused(nested(100'000), 4, "its elements stand more than 64 deep");
  const auto rich = [&](const std::string& text) {
    folder.write(
        "n.xlsx",
        xlsx_bytes({{"S", "<sheetData><row r='1'><c r='A1' t='inlineStr'><is>" + text +
                              "</is></c></row><row r='2'><c r='A2'><v>1</v></c></row></sheetData>"}}));
    return run_program(folder, {"look", "n.xlsx"}).code;
  };
  EXPECT_EQ(rich("<r><t>x</t></r>"), 0);
  const int deep = rich(repeated("<r>", 50'000) + "<t>x</t>" + repeated("</r>", 50'000));
  EXPECT_TRUE(deep == 0 || deep == 4) << deep;
}

TEST(Limits, OfRoomForASheet) {
  {
    GridRoom room(0);
    const std::size_t most = kFreeGridBytes / (2 * sizeof(std::string_view));
    EXPECT_TRUE(room.take(most, 0)) << "at the limit";
    EXPECT_FALSE(room.take(1, 0)) << "one above";
    EXPECT_FALSE(room.reason().empty());
  }
  {
    GridRoom room(std::size_t{1} << 40U);
    EXPECT_TRUE(room.take(kMostCells, 0));
    EXPECT_FALSE(room.take(1, 0));
  }
  {
    GridRoom room(kFreeGridBytes);
    EXPECT_TRUE(room.take_text(kMostGridRatio * kFreeGridBytes));
    EXPECT_FALSE(room.take_text(1));
    room.add_source(1);
    EXPECT_TRUE(room.take_text(1)) << "a longer source may hold more";
  }
}

TEST(Limits, OfWhatWorkbooksClaim) {
  const TempFolder folder;
  const std::string cell = "<table:table-cell office:value-type='string'";
  const std::vector<std::string> claims = {
      ods_row({"x"}) + "<table:table-row table:number-rows-repeated='4000000000'>" + cell +
          "><text:p>1</text:p></table:table-cell></table:table-row>",
      "<table:table-row>" + cell +
          " table:number-columns-repeated='18446744073709551615'><text:p>x</text:p>"
          "</table:table-cell></table:table-row>",
      "<table:table-row><table:table-cell table:number-columns-repeated='18446744073709551615'/>" + cell +
          "><text:p>x</text:p></table:table-cell></table:table-row>",
      "<table:table-row table:number-rows-repeated='18446744073709551615'/>" + ods_row({"x"}) +
          "<table:table-row table:number-rows-repeated='100000000'>" + cell +
          "><text:p>1</text:p></table:table-cell></table:table-row>",
      "<table:table-row>" + cell +
          "><text:p><text:s text:c='4000000000'/>x</text:p></table:table-cell></table:table-row>"};
  for (const std::string& rows : claims) {
    folder.write("c.ods", ods_with(rows));
    expect_refused(run_program(folder, {"look", "c.ods"}), 4, "c.ods is not read: a sheet of it");
  }
  std::string sheet = "<sheetData>";
  for (int row = 1; row < 1000; ++row) sheet += fmt::format("<row><c r='XFD{}'><v>1</v></c></row>", row);
  folder.write("c.xlsx", xlsx_bytes({{"S", sheet + "</sheetData>"}}));
  expect_refused(run_program(folder, {"look", "c.xlsx"}), 4, "c.xlsx is not read: a sheet of it");
  folder.write(
      "c.xlsx",
      xlsx_bytes({{"S", "<sheetData><row r='18446744073709551615'><c><v>1</v></c></row></sheetData>"}}));
  expect_refused(run_program(folder, {"look", "c.xlsx"}), 4,
                 "a row of it has the number 18446744073709551615");
}

TEST(Limits, OfDatabases) {
  const TempFolder folder;
  const std::string path = folder.path("v.sqlite");
  sqlite3* database = nullptr;
  ASSERT_EQ(sqlite3_open(path.c_str(), &database), SQLITE_OK);
  const std::string endless = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT ";
  sqlite3_exec(database, ("CREATE VIEW rows AS " + endless + "i FROM n").c_str(), nullptr, nullptr, nullptr);
  sqlite3_exec(database, ("CREATE VIEW count AS " + endless + "count(*) AS c FROM n").c_str(), nullptr,
               nullptr, nullptr);
  sqlite3_exec(database, "CREATE TABLE t (a REAL); INSERT INTO t VALUES (1.5)", nullptr, nullptr, nullptr);
  sqlite3_close(database);
  expect_refused(run_program(folder, {"look", "v.sqlite#rows"}), 4, "v.sqlite is not read:");
  expect_refused(run_program(folder, {"look", "v.sqlite#count"}), 4, "does a view never end?");
  EXPECT_EQ(run_program(folder, {"look", "v.sqlite#t"}).code, 0);
}

TEST(Limits, OfColumnsAndLines) {
  const TempFolder folder;
  const auto columns = [&](std::size_t count) {
    folder.write("c.csv", repeated("c,", count - 1) + "c\n" + repeated("1,", count - 1) + "1\n");
    return run_program(folder, {"look", "c.csv"});
  };
  EXPECT_EQ(columns(kMostColumns).code, 0);
  expect_refused(columns(kMostColumns + 1), 4, "has 20001 columns; at most 20000 can be read");
  const auto line = [&](std::size_t length) {
    folder.write("l.csv", "name,x\n" + std::string(length - 2, 'a') + ",1\nb,2\n");
    return run_program(folder, {"derive", "l.csv", "y = 2 * x", "--show", "y"});
  };
  EXPECT_EQ(line(kLongestLine).code, 0);
  expect_refused(line(kLongestLine + kLongestLine / 2 + 1), 4, "line 2 of l.csv is longer than 16 MB");
  expect_refused(run_program(folder, {"look", "/dev/zero"}), 4, "/dev/zero cannot be read: it is a device");
}

TEST(Limits, OfStudies) {
  const TempFolder folder;
  folder.write("t.csv", kHostileTable);
  const auto check = [&](const std::string& study) {
    folder.write("study.toml", study);
    return run_program(folder, {"check"});
  };
  const auto rows = [&](std::size_t count) {
    return check(fmt::format("[sheet.s]\nrows = {}\nequations = 'y = 1'\n", count));
  };
  EXPECT_EQ(rows(kMostMadeRows).code, 0);
  expect_refused(rows(kMostMadeRows + 1), 3, "`rows` must be a whole number from 1 to 10000000");
  const auto bins = [&](std::size_t count) {
    return check(
        fmt::format("[sheet.s]\ndata = 't.csv'\n[plot.p]\nkind = 'histogram'\nx = 't'\nbins = {}\n", count));
  };
  EXPECT_EQ(bins(kMostBins).code, 0);
  expect_refused(bins(kMostBins + 1), 3, "`bins` must be a whole number from 1 to 100000");
  const auto deep = [&](std::size_t parts) {
    return check(repeated("a.", parts - 1) + "a = 1\n[sheet.s]\ndata = 't.csv'\n");
  };
  EXPECT_EQ(deep(kDeepestTable).err.find("names more than"), std::string::npos);
  expect_refused(deep(kDeepestTable + 1), 3, "a key names more than 16 tables inside one another");
  expect_refused(deep(40'000), 3, "a key names more than 16 tables inside one another");
  EXPECT_EQ(check("title = '''" + repeated("a.", 100) + "\n\"" + repeated(".", 100) +
                  "'''\n[sheet.s]\ndata = 't.csv'\n")
                .code,
            0)
      << "texts are no keys";
  const auto doubling = [&](int count) {
    std::string formulas = "  f0(x) = x + x\n";
    for (int i = 1; i < count; ++i) formulas += fmt::format("  f{}(x) = f{}(x) + f{}(x)\n", i, i - 1, i - 1);
    return check(fmt::format("formulas = '''\n{}'''\n[sheet.s]\ndata = 't.csv'\nequations = 'y = f{}(x)'\n",
                             formulas, count - 1));
  };
  EXPECT_EQ(doubling(10).code, 0);
  expect_refused(doubling(40), 3, "this is more than 100000 operations");
  const auto nested = [&](int count) {
    std::string formulas = "  f0(x) = x + 1 [m]\n";
    for (int i = 1; i < count; ++i) formulas += fmt::format("  f{}(x) = f{}(x) + 1 [m]\n", i, i - 1);
    return check(fmt::format("formulas = '''\n{}'''\n[sheet.s]\ndata = 't.csv'\nequations = 'y = f{}(x)'\n",
                             formulas, count - 1));
  };
  EXPECT_EQ(nested(100).code, 0);
  expect_refused(nested(20'000), 3, "is nested more than 500 deep");
}

TEST(Limits, OfGroups) {
  const TempFolder folder;
  std::string text = "x,y,k\n";
  for (std::size_t i = 0; i <= kMostGroups; ++i)
    text += fmt::format("{},{},k{}\n{},{},k{}\n", i, i, i, i + 1, i * i, i);
  folder.write("g.csv", text);
  expect_refused(run_program(folder, {"plot", "g.csv", "--x", "x", "--y", "y", "--by", "k"}), 3,
                 "k has more than 10000 values, too many to tell the series of a plot apart");
  folder.write("study.toml", "[sheet.s]\ndata = 'g.csv'\n[fit.f]\nx = 'x'\ny = 'y'\nby = 'k'\n");
  expect_refused(run_program(folder, {"run"}), 3,
                 "k has more than 10000 values, too many to fit a curve to each");
  EXPECT_FALSE(folder.has("results"));
}

TEST(Limits, OfMisspeltUnits) {
  const TempFolder folder;
  std::string head;
  for (int i = 0; i < 2000; ++i) head += fmt::format("{}c{} (blarg{})", i == 0 ? "" : ",", i, i);
  folder.write("u.csv", head + "\n" + repeated("1,", 1999) + "1\n");
  rlimit before{};
  ASSERT_EQ(::getrlimit(RLIMIT_CPU, &before), 0);
  // It took a hundred times as long when each looked through all units by itself.
  const rlimit seconds{60, before.rlim_max};
  ASSERT_EQ(::setrlimit(RLIMIT_CPU, &seconds), 0);
  EXPECT_EQ(run_program(folder, {"look", "u.csv"}).code, 0);
  ::setrlimit(RLIMIT_CPU, &before);
}

// A header of 100 bytes makes the library ask for gigabytes, unless it is looked at before.
TEST(Limits, OfWhatANetcdfHeaderClaims) {
  const TempFolder folder;
  folder.write("t.csv", kHostileTable);
  ASSERT_EQ(run_program(folder, {"derive", "t.csv", "v = x / t", "--output", "t.nc"}).code, 0);
  const auto number = [](std::uint32_t value) {
    std::string bytes;
    for (int shift = 24; shift >= 0; shift -= 8)
      bytes += static_cast<char>((value >> static_cast<unsigned>(shift)) & 0xFFU);
    return bytes;
  };
  const std::string dimension = number(10) + number(1) + number(1) + std::string("x\0\0\0", 4) + number(2);
  const std::string none = number(0) + number(0);
  const std::string variable = number(11) + number(1) + number(1) + std::string("x\0\0\0", 4) + number(1) +
                               number(0) + none + number(6) + number(16);
  const auto file = [&](const std::string& header) { return std::string("CDF\x01", 4) + number(0) + header; };
  const std::string good = file(dimension + none + variable + number(80)) + std::string(16, '\0');
  folder.write("good.nc", good);
  const Outcome read = run_program(folder, {"look", "good.nc"});
  EXPECT_EQ(read.code, 0) << read.err;
  // Each number of the header as large as can be, and the header cut anywhere.
  std::size_t tried = 0;
  for (std::size_t at = 8; at + 4 <= good.size() - 16; at += 4) {
    std::string bad = good;
    bad.replace(at, 4, number(0x7A000000U));
    folder.write("bad.nc", bad);
    const Outcome outcome = run_program(folder, {"look", "bad.nc"});
    EXPECT_TRUE(outcome.code == 0 || outcome.code == 4) << at << ": " << outcome.err;
    folder.write("bad.nc", good.substr(0, at));
    EXPECT_EQ(run_program(folder, {"look", "bad.nc"}).code, 4) << at;
    ++tried;
  }
  EXPECT_GT(tried, 15U);
}

TEST(Limits, OfUnits) {
  const TempFolder folder;
  const auto calc = [&](const std::string& text) { return run_program(folder, {"calc", text}); };
  EXPECT_EQ(calc("2 [m^33/h] * 2").out, "4 m^33/h\n");
  EXPECT_EQ(calc("(1 [m])^99").out, "1 m^99\n");
  EXPECT_EQ(calc("1 [m^99]").out, "1 m^99\n");
  expect_refused(calc("(1 [m])^100"), 3, "has a unit with an exponent beyond 99, which overflows");
  expect_refused(calc("(1 [m])^60 * (1 [m])^60"), 3,
                 "has a unit with an exponent beyond 99, which overflows");
  expect_refused(calc("(1 [km])^1000000000"), 3, "has a unit with an exponent beyond 99, which overflows");
  expect_refused(calc("1 [m^100]"), 3, "is no exponent of a unit");
  expect_refused(calc("1 [((((m^99)^99)^99)^99)^99]"), 3, "is no exponent of a unit");
  expect_refused(calc("1 [" + repeated("abc", 30'000) + "]"), 3, "");
}

TEST(Limits, OfOptions) {
  const TempFolder folder;
  folder.write("t.csv", kHostileTable);
  expect_refused(run_program(folder, {"look", "t.csv", "--skip-rows", "-1"}), 2, "--skip-rows");
  expect_refused(run_program(folder, {"look", "t.csv", "--delimiter", "\n"}), 2,
                 "--delimiter takes one character");
  expect_refused(run_program(folder, {"look", "t.csv", "--delimiter", "\x01"}), 2,
                 "--delimiter takes one character");
  expect_refused(
      run_program(folder, {"plot", "t.csv", "--x", "t", "--kind", "histogram", "--bins", "1000000000"}), 2,
      "--bins");
}

// Runs the program with a terminal for its output; what the terminal got.
std::string on_terminal(const TempFolder& folder, std::vector<std::string> args) {
  args.insert(args.begin(), "opensum");
  std::vector<char*> argv;
  for (std::string& arg : args) argv.push_back(arg.data());
  argv.push_back(nullptr);
  int terminal = -1;
  const pid_t child = ::forkpty(&terminal, nullptr, nullptr, nullptr);
  if (child == 0) {
    ::setenv("NO_COLOR", "1", 1);
    ::setenv("TERM", "dumb", 1);
    if (::chdir(folder.path().c_str()) == 0) ::execv(program_path().c_str(), argv.data());
    ::_exit(127);
  }
  std::string text;
  char block[4096];
  for (ssize_t got = 1; got > 0;) {
    got = ::read(terminal, block, sizeof block);
    if (got > 0) text.append(block, static_cast<std::size_t>(got));
  }
  ::waitpid(child, nullptr, 0);
  ::close(terminal);
  std::erase(text, '\r');
  return text;
}

// Escapes that would clear a screen, write to a clipboard or turn the direction of writing.
const std::string kEscapes =
    "a\x1B[2Jb\x1B]52;c;cm0=\x07 \xC2\x9B"
    "31m \xE2\x80\xAE"
    "cba\x7F";

TEST(Terminal, ObeysNothingOutOfFiles) {
  const TempFolder folder;
  folder.write("e.csv", "t [s],x [m]," + kEscapes + "\n1,2," + kEscapes + "\n2,3,b\n4,x" + kEscapes + ",c\n");
  const std::string toml = R"(a\u001b[2Jb\u009b31m\u202ecba)";
  folder.write(
      "study.toml",
      "title = \"" + toml +
          "\"\n[sheet.s]\ndata = 'e.csv'\nread = { unreadable = 'null' }\nequations = \"\"\"\n  v \\\"" +
          toml + "\\\" = x / t\n  w = concat(name, \\\"" + toml + "\\\")\n\"\"\"\nclaims = \"\"\"\n \\\"" +
          toml + "\\\": t > 3 [s]\n\"\"\"\n[sheet.s.columns.name]\nheader = 3\nlabel = \"" + toml + "\"\n");
  const std::string odd = "o\x1B[31m.csv";
  folder.write(odd, "a b\n1\n");
  const std::vector<std::vector<std::string>> commands = {
      {"look", "e.csv"},
      {"look", "e.csv", "--values"},
      {"look", odd},
      {"look", "nosuch\x1B[31m"},
      {"new", "e.csv", "--output", "n.toml"},
      {"check"},
      {"run"},
      {"run", "--details"},
      {"run", "--format", "json"},
      {"explain", "s.v", "--row", "1"},
      {"explain", "s.w", "--row", "3"},
      {"derive", "e.csv", "v = x / t", "--unreadable", "null"},
      {"derive", "e.csv", "v = x / " + kEscapes},
      {"fit", "e.csv", "--x", "t", "--y", "x", "--unreadable", "null"},
      {"plot", "e.csv", "--x", "t", "--y", kEscapes},
      {"calc", "1 + \"" + kEscapes + "\""},
      {"units", kEscapes},
      {"functions", kEscapes},
      {kEscapes}};
  for (const std::vector<std::string>& args : commands) {
    const std::string text = on_terminal(folder, args);
    EXPECT_FALSE(text.empty()) << args[0];
    EXPECT_TRUE(is_visible(text)) << args[0] << ": " << visible(text);
  }
  EXPECT_NE(on_terminal(folder, {"look", "e.csv", "--values"})
                .find("a\\x1b[2Jb\\x1b]52;c;cm0=\\x07 \\u{9b}31m \\u{202e}cba\\x7f"),
            std::string::npos)
      << "escapes are shown";
}

TEST(Texts, ThatAreNoUtf8AreReplacedAndSaid) {
  const TempFolder folder;
  folder.write("b.ods", ods_with(ods_row({"x", "na\xFFme"}) + ods_row({"1", "a\x80"})));
  folder.write(
      "b.xlsx",
      xlsx_bytes({{"S",
                   "<sheetData><row><c "
                   "t='inlineStr'><is><t>x\xC3</t></is></c></row><row><c><v>1</v></c></row></sheetData>"}}));
  sqlite3* database = nullptr;
  ASSERT_EQ(sqlite3_open(folder.path("b.sqlite").c_str(), &database), SQLITE_OK);
  sqlite3_exec(database,
               "CREATE TABLE t (x REAL, name TEXT); INSERT INTO t VALUES (1, CAST(x'61FF62' AS TEXT))",
               nullptr, nullptr, nullptr);
  sqlite3_close(database);
  for (const char* file : {"b.ods", "b.xlsx", "b.sqlite"}) {
    folder.write("study.toml",
                 fmt::format("write = ['csv', 'json', 'ods', 'xlsx']\n[sheet.s]\ndata = '{}'\n", file));
    const Outcome outcome = run_program(folder, {"run"});
    EXPECT_EQ(outcome.code, 0) << file << outcome.err;
    EXPECT_NE(outcome.err.find("bytes that are no UTF-8"), std::string::npos) << file << outcome.err;
    EXPECT_EQ(visible(folder.read("results/s.csv")), folder.read("results/s.csv"));
    EXPECT_NE(folder.read("results/s.csv").find("\xEF\xBF\xBD"), std::string::npos) << file;
    EXPECT_FALSE(nlohmann::json::parse(folder.read("results/record.json"), nullptr, false).is_discarded());
  }
  const std::string odd = "o\xFF.csv";
  folder.write(odd, kHostileTable);
  EXPECT_EQ(run_program(folder, {"look", odd}).code, 0);
  EXPECT_EQ(run_program(folder, {"derive", odd, "v = x / t", "--format", "json"}).code, 0);
}

TEST(Texts, OfWorkbooksComeBackAsTheyWere) {
  const TempFolder folder;
  const std::vector<std::string> texts = {"plain", "_x000D_", "_x005F_", "_xZZZZ_",
                                          "a\rb",  "\x01",    "_x0041",  "__x000D__"};
  std::string table = "n,name\n";
  for (std::size_t i = 0; i < texts.size(); ++i) table += fmt::format("{},\"{}\"\n", i, texts[i]);
  folder.write("t.csv", table);
  ASSERT_EQ(run_program(folder, {"derive", "t.csv", "y = n", "--output", "t.xlsx"}).code, 0);
  EXPECT_EQ(run_program(folder, {"derive", "t.xlsx", "z = y", "--format", "csv", "--show", "name"}).out,
            run_program(folder, {"derive", "t.csv", "z = n", "--format", "csv", "--show", "name"}).out);
  folder.write("r.xlsx", xlsx_bytes({{"S",
                                      "<sheetData><row><c t='inlineStr'><is><t>x</t></is></c></row><row><c "
                                      "t='str'><v>a_x000A_b_x0009_c</v></c></row></sheetData>"}}));
  EXPECT_EQ(run_program(folder, {"derive", "r.xlsx", "y = 1", "--format", "csv", "--show", "x"}).out,
            "x\n\"a\nb\tc\"\n");
  const Outcome ods = run_program(folder, {"derive", "t.csv", "y = n", "--output", "t.ods"});
  EXPECT_EQ(ods.code, 0);
  EXPECT_NE(ods.err.find("t.ods cannot hold control characters"), std::string::npos) << ods.err;
  EXPECT_EQ(run_program(folder, {"look", "t.ods"}).code, 0);
}

TEST(Texts, ThatLookLikeFormulasAreNoticed) {
  const TempFolder folder;
  folder.write("t.csv", "name,n\n=1+1,1\nb,2\n");
  const std::string study =
      "[sheet.s]\ndata = 't.csv'\nequations = '''\n  y = concat(\"=\", name)\n  z = concat(\"a\", "
      "name)\n'''\n";
  folder.write("study.toml", study);
  const Outcome noticed = run_program(folder, {"run"});
  EXPECT_EQ(noticed.code, 0);
  EXPECT_NE(noticed.err.find("derived texts of s begin with =, +, -, @ or a tab (cells: 2)"),
            std::string::npos)
      << noticed.err;
  EXPECT_EQ(folder.read("results/s.csv"), "name,n,y,z\n=1+1,1,==1+1,a=1+1\nb,2,=b,ab\n");
  folder.write("study.toml", study + "guard_formulas = true\n");
  const Outcome guarded = run_program(folder, {"run"});
  EXPECT_EQ(guarded.err, "");
  EXPECT_EQ(folder.read("results/s.csv"), "name,n,y,z\n=1+1,1,'==1+1,a=1+1\nb,2,'=b,ab\n")
      << "measured text stays as read";
}

}  // namespace
}  // namespace opensum
