// How files are read: every key of `read` and its option, seen in what the built program writes and shows.
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kUgly =
    "Logger PL-7\nStation: pond\n"
    "Time;Temp;Flow;Clock;Sum\n"
    "-;°C;L/min;-;-\n"
    "02.04.2031 10:00;18,5;1.204,5;0:10;3\n"
    "02.04.2031 10:10;-999;1.208,0;0:20;4\n"
    "02.04.2031 10:20;18,9;<0,5;0:30;5\n"
    "Mittel;18,7;;;\n"
    "Ende der Datei\n";

const std::string kKeys =
    "[sheet.log]\ndata = 't.csv'\n"
    "read = { skip_rows = 2, skip_end = 2, units_row = 4, decimal_char = ',', group_char = '.', "
    "date_format = '%d.%m.%Y %H:%M', missing_also = ['-999']";
const std::string kColumns = " }\ncolumns.Clock = { kind = 'duration', unit = 'min' }\n";

const std::vector<std::string> kOptions = {
    "--skip-rows",         "2",      "--skip-end",     "2",      "--units-row",   "4",
    "--decimal-char",      ",",      "--group-char",   ".",      "--date-format", "%d.%m.%Y %H:%M",
    "--missing-also=-999", "--kind", "Clock=duration", "--unit", "Clock=min"};

const std::string kExpected =
    "Time,Temp [°C],Flow [L/min],Clock [min],Sum,warm [°C]\n"
    "2031-04-02T10:00:00,18.5,1204.5,0:10,3,19.5\n"
    "2031-04-02T10:10:00,,1208.0,0:20,4,\n"
    "2031-04-02T10:20:00,18.9,<0.5,0:30,5,19.9\n";

std::string as_utf16(const std::string& text, bool big) {
  std::string out = big ? "\xFE\xFF" : "\xFF\xFE";
  for (std::size_t i = 0; i < text.size(); ++i) {
    unsigned code = static_cast<unsigned char>(text[i]);
    if (code == 0xC2) code = static_cast<unsigned char>(text[++i]);  // all that is not ASCII here is °
    const char low = static_cast<char>(code & 0xFFU);
    const char high = static_cast<char>(code >> 8U);
    out += big ? high : low;
    out += big ? low : high;
  }
  return out;
}

std::string as_latin1(std::string text) {
  for (std::size_t at = 0; (at = text.find('\xC2')) != std::string::npos;) text.erase(at, 1);
  return text;
}

TEST(Reading, TakesAnUglyFileInEveryEncoding) {
  const struct {
    std::string data;
    std::string key;
  } rows[] = {{kUgly, ""},
              {"\xEF\xBB\xBF" + kUgly, ""},
              {as_latin1(kUgly), ", encoding = 'latin-1'"},
              {as_latin1(kUgly), ", encoding = 'windows-1252'"},
              {as_utf16(kUgly, false), ""},
              {as_utf16(kUgly, true), ""},
              {as_utf16(kUgly, false).substr(2), ", encoding = 'utf-16le'"}};
  for (const auto& row : rows) {
    const TempFolder folder;
    folder.write("t.csv", row.data);
    folder.write("study.toml", kKeys + row.key + kColumns + "equations = 'warm = Temp + 1 [K]'\n");
    const Outcome outcome = run_program(folder, {"run"});
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    EXPECT_EQ(folder.read("results/log.csv"), kExpected);
    EXPECT_EQ(folder.read("t.csv"), row.data);
  }
}

TEST(Reading, TakesTheSameAsOptions) {
  const TempFolder folder;
  folder.write("t.csv", kUgly);
  std::vector<std::string> args = {"derive", "t.csv", "warm = Temp + 1 [K]"};
  args.insert(args.end(), kOptions.begin(), kOptions.end());
  const Outcome outcome = run_program(folder, args);
  EXPECT_EQ(outcome.err, "");
  EXPECT_EQ(outcome.out, kExpected);
}

// A researcher who follows what look suggests, one thing after the other, ends with a table that is
// understood.
TEST(Reading, IsFoundByLooking) {
  const TempFolder folder;
  folder.write("t.csv", as_latin1(kUgly));
  std::vector<std::string> args = {"look", "t.csv"};
  const auto look = [&] { return run_program(folder, args); };
  const auto says = [](const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
  };
  EXPECT_TRUE(says(look().err, "--encoding latin-1"));
  args.insert(args.end(), {"--encoding", "latin-1"});
  EXPECT_TRUE(says(look().err, "(--skip-rows 2)"));
  args.insert(args.end(), {"--skip-rows", "2"});
  EXPECT_TRUE(says(look().err, "(--skip-end 1)"));
  args.insert(args.end(), {"--skip-end", "1"});
  EXPECT_TRUE(says(look().out, "--decimal-char ,"));
  args.insert(args.end(), {"--decimal-char", ","});
  EXPECT_TRUE(says(look().out, "--units-row 4"));
  args.insert(args.end(), {"--units-row", "4"});
  const Outcome outcome = look();
  EXPECT_TRUE(says(outcome.out, "--missing-also=-999"));
  EXPECT_TRUE(says(outcome.out, "--date-format 'Time=%d.%m.%Y %H:%M'"));
  EXPECT_TRUE(says(outcome.out, "header on line 3; ISO-8859-1, fields separated by semicolons"));
}

TEST(Reading, TakesFilesWithoutHeader) {
  const TempFolder folder;
  folder.write("t.csv", "1,2\n3,4\n");
  folder.write("study.toml",
               "[sheet.log]\ndata = 't.csv'\nread = { header = 'none' }\n"
               "columns.v = { header = 2, unit = 'V' }\nequations = 'double = 2 * v'\n");
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_EQ(folder.read("results/log.csv"), "column_1,v [V],double [V]\n1,2,4\n3,4,8\n");
}

TEST(Reading, TakesAHeaderByItsLine) {
  const TempFolder folder;
  folder.write("t.csv", "V\nsome text\nU\n1\n2\n");
  const Outcome outcome =
      run_program(folder, {"derive", "t.csv", "a [kV] = U", "--header", "3", "--units-row", "1"});
  EXPECT_EQ(outcome.out, "U [V],a [kV]\n1,0.001\n2,0.002\n") << outcome.err;
}

TEST(Reading, TakesColumnsTypedIntoTheStudy) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n2\n3\n");
  folder.write("study.toml",
               "[sheet.log]\ndata = 't.csv'\n"
               "columns.m = { values = [1.50, -2, 'NA'], unit = 'kg', label = 'Mass' }\n"
               "columns.who = { values = ['ann', 'bo', 'cy'] }\n"
               "columns.day = { values = [2031-04-02, 2031-04-03, 2031-04-04] }\n"
               "equations = '''\n  g [g] = m\n  next_day = day + 1 [d]\n'''\n");
  const Outcome outcome = run_program(folder, {"run"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/log.csv"),
            "x,Mass [kg],who,day,g [g],next_day\n1,1.50,ann,2031-04-02,1500,2031-04-03\n"
            "2,-2,bo,2031-04-03,-2000,2031-04-04\n3,,cy,2031-04-04,,2031-04-05\n");
}

TEST(Reading, SaysWhatIsWrongWithOptions) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n");
  const struct {
    std::vector<std::string> options;
    std::string message;
    int code;
  } rows[] = {
      {{"--header", "0"},
       "opensum: error: --header takes the number of a line, from 1, two such as 2,3, or none, not `0`\n",
       2},
      {{"--decimal-char", "ab"}, "opensum: error: --decimal-char takes one character, not `ab`\n", 2},
      {{"--group-char", "."},
       "opensum: error: --group-char takes one character other than the decimal sign, not `.`\n",
       2},
      {{"--units-row", "0"}, "opensum: error: --units-row: a whole number from 1 is needed, not `0`\n", 2},
      {{"--kind", "x=colour"},
       "opensum: error: --kind takes number, date, duration, truth or text, not `colour`\n",
       2},
  };
  for (const auto& row : rows) {
    std::vector<std::string> args = {"look", "t.csv"};
    args.insert(args.end(), row.options.begin(), row.options.end());
    const Outcome outcome = run_program(folder, args);
    EXPECT_EQ(outcome.code, row.code);
    EXPECT_EQ(outcome.err, row.message);
    EXPECT_EQ(outcome.out, "");
  }
}

}  // namespace
}  // namespace opensum
