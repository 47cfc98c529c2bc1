// Sheets whose rows are left in their file: the same bytes as when they are held in memory, wherever blocks
// begin and end.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <map>
#include <random>

#include "base/parallel.h"
#include "files/csv_rows.h"
#include "files/temp_folder.h"
#include "report/summary.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "run/write.h"

namespace opensum {
namespace {

// What a run comes to: every file written, the summary and all that was said.
struct Results {
  std::map<std::string, std::string> files;
  std::string said;
  bool left_in_file = false;
  int looks = 1;  ///< how often it was begun
};

// Restores what a test changed.
class Settings {
 public:
  Settings(const RowLimits& limits, std::size_t count) : before_(row_limits()) {
    set_row_limits(limits);
    set_threads(count);
  }
  ~Settings() {
    set_row_limits(before_);
    set_threads(0);
  }
  Settings(const Settings&) = delete;
  Settings& operator=(const Settings&) = delete;

 private:
  RowLimits before_;
};

// Works in a folder while it is in scope.
class WorkingFolder {
 public:
  explicit WorkingFolder(const std::string& folder) : before_(std::filesystem::current_path()) {
    std::filesystem::current_path(folder);
  }
  ~WorkingFolder() { std::filesystem::current_path(before_); }
  WorkingFolder(const WorkingFolder&) = delete;
  WorkingFolder& operator=(const WorkingFolder&) = delete;

 private:
  std::filesystem::path before_;
};

// Files of data by their names.
using Files = std::map<std::string, std::string>;

Results results_of(const std::string& study, const Files& data, const RowLimits& limits, std::size_t count) {
  const Settings settings(limits, count);
  const TempFolder folder;
  for (const auto& [name, content] : data) folder.write(name, content);
  folder.write("study.toml", study);
  // Files are named the same whatever the folder is called.
  const WorkingFolder here(folder.path());
  Results results;
  with_first_look([&](Rows rows) -> std::optional<int> {
    Diagnostics diagnostics;
    const auto prepared = prepare_study_file("study.toml", diagnostics, rows);
    if (rows == Rows::left_if_long) results.looks = 2;
    if (prepared && diagnostics.has_errors() && is_guess(*prepared)) return std::nullopt;
    if (prepared && !diagnostics.has_errors()) {
      results.left_in_file = prepared->sheets.front()->source.left_in_file != nullptr;
      results.said = summary_text(write_results(*prepared, diagnostics));
      report_claims(*prepared, diagnostics);
    }
    results.said += render(diagnostics);
    return 0;
  });
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder.path())) {
    if (!entry.is_regular_file()) continue;
    const std::string name = std::filesystem::relative(entry.path(), folder.path()).string();
    results.files[name] = folder.read(name);
  }
  return results;
}

Results results_of(const std::string& study, const std::string& data, const RowLimits& limits,
                   std::size_t count) {
  return results_of(study, Files{{"t.csv", data}}, limits, count);
}

enum class Expected : std::uint8_t { left_in_file, held, error };

// Compares the run of a study with blocks of many sizes and several threads with that of a table held whole.
void expect_the_same(const std::string& study, const Files& data,
                     Expected expected = Expected::left_in_file) {
  const Results held = results_of(study, data, {SIZE_MAX, 4096}, 2);
  ASSERT_EQ(held.files.size() == data.size() + 1, expected == Expected::error) << held.said;
  ASSERT_FALSE(held.left_in_file);
  std::size_t compared = 0;
  for (const std::size_t block : {1U, 7U, 64U, 1000U, 30000U, 10000000U}) {
    for (const std::size_t count : {1U, 3U}) {
      const Results left = results_of(study, data, {1, block}, count);
      if (expected != Expected::error) {
        EXPECT_EQ(left.left_in_file, expected == Expected::left_in_file) << study;
      }
      EXPECT_EQ(left.said, held.said) << block;
      ASSERT_EQ(left.files.size(), held.files.size());
      for (const auto& [name, content] : held.files) {
        EXPECT_TRUE(left.files.at(name) == content) << name << " with blocks of " << block << " bytes";
        ++compared;
      }
    }
  }
  EXPECT_GT(compared, 0U);
}

void expect_the_same(const std::string& study, const std::string& data,
                     Expected expected = Expected::left_in_file) {
  expect_the_same(study, Files{{"t.csv", data}}, expected);
}

// Numbers, texts, dates, truths and gaps, with quotes, blank lines and ends of lines of both kinds.
std::string varied_table(std::size_t rows, unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> uniform(-50, 50);
  std::string out = "x [m],t [s],\"site, or place\",when,good,u(x) [m]\n";
  for (std::size_t row = 0; row < rows; ++row) {
    const std::size_t kind = random() % 23;
    out += kind == 0   ? ""
           : kind == 1 ? "<0.05"
           : kind == 2 ? "-999.0"
                       : fmt::format("{:.4f}", uniform(random));
    out += kind == 3 ? ",NA," : kind == 4 ? ",0," : fmt::format(",{:.3g},", uniform(random));
    out += kind == 5   ? "\"far, \"\"out\"\"\""
           : kind == 6 ? "\"over\ntwo lines\""
                       : fmt::format("site {}", kind % 4);
    out += kind == 7 ? ",," : fmt::format(",2031-03-{:02},", random() % 28 + 1);
    out += fmt::format("{},0.{}", kind % 2 == 0 ? "true" : "false", kind + 1);
    out += kind == 8 ? "\r\n\n" : "\n";
  }
  return out;
}

std::string study_of(const std::string& keys) {
  return "[sheet.run]\ndata = 't.csv'\nread = { missing_also = ['-999'] }\n" + keys +
         "\n[sheet.run.columns.site]\nheader = 'site, or place'\n";
}

TEST(BlocksOfAnySize, RowByRow) {
  expect_the_same(study_of("equations = '''\n v = x / t\n w [km] = if(good, 2 * x, null)\n"
                           " root = sqrt(x / (1 [m]))\n mean = row_mean(x, 2 * x, nulls: skip)\n"
                           " label = concat(site, \"!\")\n later = when + 1 [d]\n'''\n"
                           "claims = '\"x is small\": x < 40 [m]'\nclaims_are = 'warnings'"),
                  varied_table(700, 1));
}

TEST(BlocksOfAnySize, ReductionsInOnePass) {
  expect_the_same(study_of("equations = '''\n v = x / t\n m = col_mean(v)\n g = col_sd(x, by: site)\n"
                           " h = col_median(x, by: good)\n n = col_count(t, where: good)\n"
                           " first = col_first(site)\n last = col_last(x, by: site)\n third = col_at(x, 3)\n"
                           " low = col_min(x)\n range = col_range(t, by: good)\n sem = col_sem(v)\n"
                           " strict = col_sum(t, nulls: propagate)\n known = col_last_known(x, by: when)\n"
                           " off = x - col_first_known(x)\n q = col_quantile(x, 0.9)\n'''"),
                  varied_table(600, 2));
}

TEST(BlocksOfAnySize, OtherWaysOfWritingCells) {
  std::string rows = "x [m];t [s];when;run\n";
  for (int row = 0; row < 300; ++row)
    rows += fmt::format("{},{};0:{:02}:{:02}.5;{:02}.03.31 10:0{};{}\n", row % 7 == 0 ? "1.234" : "12", row,
                        row / 60, row % 60, row % 28 + 1, row % 10, row % 50 == 3 ? "-1" : "5");
  const std::string study =
      "[sheet.run]\ndata = 't.csv'\nread = { decimal_char = ',', group_char = '.', date_format = '%d.%m.%y "
      "%H:%M' "
      "}\n"
      "columns.t = { header = 't', kind = 'duration' }\ncolumns.run = { header = 'run', missing = ['-1'] }\n"
      "equations = 'y = x / t * run'\n";
  expect_the_same(study, rows);
  expect_the_same("write = []\n" + study, rows);
}

// Blocks of more rows than a chunk has, and batches that are not full.
TEST(BlocksOfAnySize, BordersOfChunks) {
  expect_the_same(
      study_of("equations = '''\n v = x / t\n root = sqrt(x / (1 [m]))\n m = col_mean(v, by: site)\n"
               " s = col_sd(x)\n e = exp(t / (1 [s])) * x\n'''"),
      varied_table(9000, 10));
}

TEST(BlocksOfAnySize, SequencesHoldTheirColumnAlone) {
  expect_the_same(
      study_of("equations = '''\n v = x / t\n m = moving_mean(x, rows: 5)\n c = change(v, by: site)\n"
               " p = previous_known(t, by: good) - col_mean(t)\n s = sum_so_far(x, nulls: skip)\n"
               " n = row_number() + row_number(by: site)\n r = rank(v)\n l = previous(x, rows: 2)\n"
               " d = moving_sd(v, rows: 3, by: site, nulls: skip)\n'''\nfill.t = 'previous_known(self, by: "
               "site)'\n"),
      varied_table(600, 11));
  expect_the_same(
      study_of("equations = '''\n v = x / t\n m = moving_mean(x, rows: 5)\n c = change(v, by: site)\n"
               " p = previous_known(t, by: good) - col_mean(t)\n s = sum_so_far(x, nulls: skip)\n"
               " n = row_number() + row_number(by: site)\n r = rank(v)\n l = previous(x, rows: 2)\n"
               " d = moving_sd(v, rows: 3, by: site, nulls: skip)\n'''\nfill.when = 'next_known(self)'\n"
               "claims = '\"it rises\": change(x) > -30 [m]'\nclaims_are = 'warnings'"),
      varied_table(600, 11));
}

TEST(BlocksOfAnySize, Fills) {
  expect_the_same(study_of("equations = 'v = x / t'\nfill.x = ['col_mean(self, by: site)', '0 [m]']\n"
                           "fill.t = 'x / (2 [m/s])'\nfill.when = 'col_first(self)'"),
                  varied_table(500, 3));
}

TEST(BlocksOfAnySize, FiguresAndFitsHoldTheirColumns) {
  expect_the_same(study_of("equations = 'v = x / t'") +
                      "[fit.f]\nx = 't'\ny = 'x'\nby = 'site'\nkeep = 'good'\n"
                      "[plot.p]\nx = 't'\ny = 'x'\nby = 'site'\nkeep = 'x > 0 [m]'\nfit = 'f'\n"
                      "[plot.q]\nkind = 'box'\nx = 'when'\ny = 'x'\n[plot.r]\nx = 'when'\ny = 'v'\n",
                  varied_table(300, 4));
}

TEST(BlocksOfAnySize, ErrorsOfRows) {
  const std::string data = varied_table(400, 5);
  expect_the_same("divide_by_zero = 'error'\n" + study_of("equations = 'v = x / t'"), data, Expected::error);
  expect_the_same("domain = 'error'\n" + study_of("equations = 'r = sqrt(x / (1 [m]))'"), data,
                  Expected::error);
  expect_the_same("divide_by_zero = 'error'\n" + study_of("equations = 'm = col_mean(x / t)'"), data,
                  Expected::error);
}

TEST(BlocksOfAnySize, KindsThatShowLate) {
  std::string numbers = "a,b,c,d,e\n";
  for (int row = 0; row < 300; ++row)
    numbers += fmt::format("{},{},{},{},{}\n", row, row == 299 ? "err" : "2.5",
                           row < 200    ? "2031-01-02"
                           : row == 250 ? "soon"
                                        : "2031-01-03",
                           row == 290 ? "007" : "8", row % 2 == 0 ? "true" : "false");
  const std::string sheet = "[sheet.run]\ndata = 't.csv'\n";
  expect_the_same(sheet + "equations = 'f = a * 2'\n", numbers);
  // Cells that cannot be read are named where they are used.
  expect_the_same(sheet + "equations = 'f = b * 2'\n", numbers, Expected::error);
  expect_the_same(sheet + "equations = 'f = c + 1 [d]'\n", numbers, Expected::error);
  expect_the_same(sheet + "equations = 'f = d * 2'\n", numbers, Expected::error);
  expect_the_same(sheet + "read = { unreadable = 'null' }\nequations = 'f = b * 2'\n", numbers);
}

// What the first rows are taken for is made sure while all of them are computed.
TEST(BlocksOfAnySize, FirstRowsThatMislead) {
  const std::string study =
      "[sheet.run]\ndata = 't.csv'\nequations = 'f = a * 2'\n[sheet.run.columns.a]\nheader = 'a'\n";
  std::string plain = "a,b,c\n";
  for (int row = 0; row < 500; ++row) plain += fmt::format("{},2031-01-{:02},x{}\n", row, row % 28 + 1, row);
  EXPECT_EQ(results_of(study, plain, {1, 200}, 2).looks, 1);
  for (const char* late : {"1,2031-01-02T10:00,x\n", "1.5(2),2031-01-02,x\n", "1,2031-01-02,\"x\ny\"\n",
                           "007,2031-01-02,x\n", "1,soon,x\n", "1,2031-01-02T10:00+01:00,x\n"}) {
    const std::string data = plain + late + plain.substr(6);
    const Results whole = results_of(study, data, {SIZE_MAX, 4096}, 2);
    const Results left = results_of(study, data, {1, 200}, 2);
    EXPECT_EQ(left.said, whole.said) << late;
    EXPECT_EQ(left.files, whole.files) << late;
    EXPECT_EQ(left.looks, std::string(late).find('"') == std::string::npos ? 2 : 1) << late;
  }
}

TEST(BlocksOfAnySize, WhatIsNoPlainTableIsReadWithCare) {
  const std::string study = "[sheet.run]\ndata = 't.csv'\nequations = 'c = a * 2'\n";
  std::string rows = "a,b\n";
  for (int row = 0; row < 100; ++row) rows += fmt::format("{},x{}\n", row, row);
  for (const std::string& bad :
       {std::string("1,2,3\n"), std::string("1\n"), std::string("1,\"open\n"), std::string("1,\"x\"y\n"),
        std::string("1,\xff\n"), std::string("1,a\0b\n", 6)})
    expect_the_same(study, rows + bad + rows.substr(4), Expected::error);
  expect_the_same(study, rows + "5,\"1\n2\n,\n3,4\"\n" + rows.substr(4));
  expect_the_same(study, "a,b\n", Expected::held);
  expect_the_same(study, "a,b\n,\n");
  expect_the_same(study, "a,b\n1,2");
  expect_the_same(study,
                  "\xEF\xBB\xBF"
                  "a,b\r\n1,2\r\n\r\n3,4\r\n\r\n");
  expect_the_same(study, "a\n1\n\n3\n", Expected::held);
  expect_the_same(
      "[sheet.run]\ndata = 't.csv'\nequations = 'c = a * 2'\n"
      "read = { skip_rows = 2, skip_end = 1, units_row = 4 }\n",
      "made\n\na,b\nm,s\n1,2\n3,4\nend\n");
}

// Files with their columns in other places, or without some, with lines before the table and without rows.
Files several_files(const std::string& last_cell) {
  std::string first = varied_table(200, 21);
  first.replace(first.find('"'), 16, "site");
  first.pop_back();
  std::string second = "# station: 12.5 m\nt [s],note,x [m]\n";
  std::string third = "# station: 30 m\nx [m],site,t [s]\n";
  for (int row = 0; row < 150; ++row) {
    second += fmt::format("{},\"a, {}\",{}\n", row % 9 == 0 ? "" : std::to_string(row), row, 0.25 * row);
    third += fmt::format("{},site {},{}\n", row % 11 == 0 ? "NA" : std::to_string(row), row % 3, row + 0.5);
  }
  third += "7,site 1," + last_cell + "\n";
  return {{"a.csv", "# station: 7 m\n" + first},
          {"b.csv", second},
          {"c.csv", third},
          {"d.csv", "# station: 1 m\nx [m],t [s]\n"}};
}

TEST(BlocksOfAnySize, SeveralFilesAreOneTable) {
  const std::string sheet =
      "[sheet.run]\ndata = '?.csv'\nread = { comment = '#', missing_also = ['-999'] }\n"
      "preamble.station = 'station'\n";
  for (const char* keys :
       {"equations = '''\n v = x / t\n d [cm] = x + station\n m = col_mean(x, by: source_file)\n"
        " n = concat(source_file, note)\n c = change(x)\n l = row_number(by: source_file)\n'''\n"
        "fill.t = 'col_mean(self, by: source_file)'\nclaims = '\"x is small\": x < 40 [m]'\n"
        "claims_are = 'warnings'\n",
        "keep = 'x > 3 [m] and station < 20 [m]'\nequations = 'v = x / t'\n",
        "sort_by = ['site', 't down']\nequations = 'p = previous(x)'\nwrite = ['csv', 'json']\n",
        "equations = 'v = x / t'\n[sheet.some]\nrows_of = 'run'\nkeep = 'run.t > 5 [s]'\n"
        "take = ['x', 'source_file']\nequations = 'k = rank(x)'\n",
        "equations = 'v = x / t'\nlink.of = { match = 'site = site' }\n[sheet.of]\n"
        "table = '''\nsite,z\nsite 0,1\nsite 1,2\n'''\n"})
    expect_the_same(sheet + keys, several_files("1"));
  // A cell that cannot be read, and claims that do not hold, name their file.
  expect_the_same(sheet + "equations = 'v = x / t'\n", several_files("soon"), Expected::error);
  std::string forgiving = sheet;
  forgiving.insert(forgiving.find(" }"), ", unreadable = 'null'");
  expect_the_same(forgiving + "equations = 'v = x / t'\n", several_files("soon"));
  // Rows that need care, and units that differ.
  expect_the_same(sheet + "equations = 'v = x / t'\n", several_files("1,2"), Expected::error);
  Files other = several_files("1");
  other["e.csv"] = "# station: 2 m\nx [mm],t [s]\n1,2\n";
  expect_the_same(sheet + "equations = 'v = x / t'\n", other, Expected::error);
  // The lines before a single table.
  expect_the_same(
      "[sheet.run]\ndata = 'b.csv'\nread.comment = '#'\npreamble.station = 'station'\n"
      "equations = 'd = x + station'\n",
      several_files("1"));
}

TEST(BlocksOfAnySize, RowsThatAreKept) {
  const std::string data = varied_table(500, 9);
  for (const char* keep :
       {"x > 0 [m]", "site == \"site 1\" or site == \"sitte 2\"", "complete(x, t, site)", "r > 1 and good",
        "x > 1000 [m]", "not good and measured(when) >= date(\"2031-03-10\")"}) {
    expect_the_same(
        study_of("keep = '" + std::string(keep) +
                 "'\nequations = '''\n v = x / t\n r = abs(v / (1 [m/s]))\n m = col_mean(v, by: site)\n"
                 " l = concat(site, \"!\")\n'''\nfill.when = 'col_first(self)'\n"
                 "claims = '\"x is small\": x < 40 [m]'\nclaims_are = 'warnings'\n"),
        data);
  }
  // Cells that cannot be read matter only where their rows are kept.
  std::string rows = "a,b\n";
  for (int row = 0; row < 200; ++row) rows += fmt::format("{},{}\n", row, row % 50 == 7 ? "err" : "2");
  const std::string sheet = "[sheet.run]\ndata = 't.csv'\nequations = 'c = b * 2'\n";
  expect_the_same(sheet + "keep = 'a < 7 or a > 160'\n", rows);
  expect_the_same(sheet + "keep = 'a > 20'\n", rows, Expected::error);
  expect_the_same(sheet + "sort_by = ['b']\nkeep = 'a < 7 or a > 160'\n", rows);
}

TEST(BlocksOfAnySize, LinksToOtherSheets) {
  const std::string places =
      "[sheet.places]\ntable = '''\nplace,depth [cm],kind\nsite 0,120,a\nsite 1,,b\nsite "
      "3,80,\nfar,1,z\n'''\n";
  const std::string curve =
      "[sheet.curve]\ntable = '''\nx [mm],y [kg]\n-50000,1\n0,2\n20000,7\n30000,\n'''\n";
  expect_the_same(
      study_of("link.places = { match = 'site = place' }\n"
               "link.curve = { match = 'x', how = 'interpolate' }\n"
               "link.near = { sheet = 'curve', match = 'x', how = 'nearest', within = '12 [m]' }\n"
               "link.before = { sheet = 'curve', match = 'x', how = 'previous' }\n"
               "equations = '''\n d [m] = places.depth + x\n k = concat(places.kind, site)\n"
               " c = curve.y\n n = near.y / t\n b = before.y\n"
               " m = col_mean(d, by: k)\n'''") +
          places + curve,
      varied_table(500, 7));
  expect_the_same(study_of("link.places = { match = 'site = place' }\nequations = 'd = places.depth'") +
                      "[sheet.places]\ntable = '''\nplace,depth [cm]\nsite 0,1\nsite 1,2\nsite 0,3\n'''\n",
                  varied_table(100, 8), Expected::error);
}

// A condition for rows that looks into other sheets, which may have conditions of their own; of several
// files, too.
TEST(BlocksOfAnySize, ConditionsThatLookThroughLinks) {
  const Files data = {{"t.csv", varied_table(90, 12)}, {"u.csv", varied_table(90, 13)}};
  const std::string other =
      "[sheet.other]\ndata = 'u.csv'\nread = { missing_also = ['-999'] }\n[sheet.other.columns.site]\n"
      "header = 'site, or place'\n";
  const std::string places =
      "[sheet.places]\ntable = '''\nplace,depth [cm],kind\nsite 0,120,a\nsite 1,,b\nsite 3,80,c\n'''\n";
  for (const char* keep :
       {"other.x > 0 [m]", "not other.good and other.site != site", "places.depth > 1 [m] and x > 0 [m]",
        "places.kind == \"b\" or other.when >= date(\"2031-03-10\")", "d > 2 [m]", "x > 0 [m]"}) {
    const std::string sheet =
        study_of("keep = '" + std::string(keep) +
                 "'\nlink.other = 'row'\nlink.places = { match = 'site = place' }\n"
                 "equations = '''\n d [m] = places.depth + x\n e = concat(other.site, places.kind)\n'''\n");
    expect_the_same(sheet + other + places, data);
    expect_the_same(sheet + places + other + "[sheet.last]\nrows_of = 'other'\nkeep = 'x > 3 [m]'\n", data);
  }
  for (const char* how : {"nearest", "interpolate", "previous"}) {
    const std::string sheet =
        study_of(fmt::format("keep = 'other.y > 1 [kg]'\nlink.other = {{ match = 'x', how = '{}' }}\n"
                             "equations = 'd = other.y'\n",
                             how));
    expect_the_same(sheet + "[sheet.other]\ntable = '''\nx [mm],y [kg]\n-50000,1\n0,2\n20000,7\n'''\n", data);
  }
  expect_the_same(
      "[sheet.run]\ndata = '?.csv'\nread = { comment = '#', missing_also = ['-999'] }\n"
      "preamble.station = 'station'\nkeep = 'of.z > 1'\nlink.of = { match = 'site' }\n"
      "equations = 'n = concat(source_file, note)'\n"
      "[sheet.of]\ntable = '''\nsite,z\nsite 0,1\nsite 1,2\n'''\n",
      several_files("1"));
}

TEST(BlocksOfAnySize, WhatNeedsWholeColumns) {
  const std::string data = varied_table(200, 6);
  for (const char* keys :
       {"equations = 'm = previous(site)'", "equations = 'm = derivative(x, along: row_number())'",
        "equations = 'm = col_mean(x - col_mean(x))'", "sort_by = ['x']\nequations = 'v = x / t'",
        "sort_by = ['site', 'm down']\nequations = 'm = x - previous(x, rows: 3)'",
        "write = ['csv', 'json', 'jsonl', 'ods', 'xlsx', 'sqlite', 'nc', 'tex']\nequations = 'v = x / t'",
        "write = ['json', 'jsonl', 'ods', 'xlsx', 'sqlite', 'nc']\nsort_by = ['x']\nequations = 'v = x / t'",
        "equations = '''\n a = previous(x)\n b = previous(a)\n c = col_max(b - col_mean(b), by: site)\n"
        " d = sum_so_far(if(c > 2 [m], t, 0 [s]))\n'''"}) {
    expect_the_same(study_of(keys), data);
  }
}

// Sheets that look into one another, and that have one another's rows.
TEST(BlocksOfAnySize, SheetsThatNeedOneAnother) {
  const std::string data = varied_table(300, 12);
  expect_the_same(
      study_of("sort_by = ['t']\nequations = '''\n v = x / t\n p = previous(x)\n'''") +
          "[sheet.some]\nrows_of = 'run'\nkeep = 'x > 0 [m] and run.t > 1 [s]'\ntake = ['x', 'site', 'v']\n"
          "equations = '''\n k = rank(x)\n share = x / col_sum(run.x, nulls: skip)\n w = run.when\n'''\n"
          "[sheet.groups]\nrows_of = 'run'\none_row_per = ['site', 'good']\nkeep = 't > 0 [s]'\n"
          "sort_by = ['n down']\nequations = '''\n n = col_count(x)\n m = col_mean(x, nulls: skip)\n"
          " l = col_last(when)\n'''\n"
          "[sheet.large]\nrows_of = 'groups'\nkeep = 'n > 3'\n",
      data);
  expect_the_same(study_of("equations = 'v = x / t'") +
                      "[sheet.all]\nrows_of = 'run'\nequations = 'w = v * 2'\n"
                      "[sheet.one]\nrows_of = 'run'\none_row_per = []\nequations = 'n = col_count(x)'\n",
                  data);
  expect_the_same(
      study_of("link.again = { sheet = 'again', how = 'row' }\nequations = '''\n"
               " gap = again.x - x\n most = col_max(again.gone, nulls: skip)\n'''") +
          "[sheet.again]\ndata = 't.csv'\nequations = 'gone = t - col_mean(run.t, nulls: skip)'\n",
      data);
  expect_the_same(
      study_of("equations = '''\n rest = x - fit_value(f, t)\n a = fit.f.slope * (1 [s])\n'''") +
          "[fit.f]\nsheet = 'run'\nx = 't'\ny = 'x'\nby = 'site'\nkeep = 'good and t > col_min(t, nulls: "
          "skip)'\n"
          "[plot.p]\nsheet = 'run'\nx = 't'\ny = 'rest'\nkeep = 'rest < col_max(rest, nulls: skip)'\n",
      data);
}

}  // namespace
}  // namespace opensum
