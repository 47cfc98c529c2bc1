// Results that are as they were recorded, and results of which something was changed.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "files/sha256.h"
#include "files/text_file.h"
#include "program/program.h"

namespace opensum {
namespace {

using Json = nlohmann::json;

constexpr const char* kVerifyTable = "t [s],x [m],name\n1,2,a\n2,,b\n3,7,c\n4,9.5,d\n";
constexpr const char* kVerifyStudy =
    "use = 'shared.toml'\nwrite = ['csv', 'ods', 'xlsx', 'json', 'sqlite']\n[sheet.run]\ndata = 't.csv'\n"
    "columns.x.uncertainty = '0.1 m'\nequations = '''\n  v = k * x / t\n'''\n"
    "[fit.f]\nx = 't'\ny = 'x'\n[plot.p]\nx = 't'\ny = 'x'\nformats = ['png', 'svg', 'pdf']\n";

void write_study(const TempFolder& folder) {
  folder.write("t.csv", kVerifyTable);
  folder.write("shared.toml", "constants = 'k = 2'\n");
  folder.write("study.toml", kVerifyStudy);
}

Json verified(const TempFolder& folder, int code, const std::vector<std::string>& more = {}) {
  std::vector<std::string> args = {"verify", "--format", "json"};
  args.insert(args.end(), more.begin(), more.end());
  const Outcome outcome = run_program(folder, args);
  EXPECT_EQ(outcome.code, code) << outcome.out << outcome.err;
  return Json::parse(outcome.out.empty() ? "{}" : outcome.out);
}

TEST(Verify, FindsResultsAsTheyWereRecorded) {
  const TempFolder folder;
  write_study(folder);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const Json record = Json::parse(folder.read("results/record.json"));
  EXPECT_EQ(record.at("study").at(0).at("text"), kVerifyStudy);
  EXPECT_EQ(record.at("study").at(1).at("path"), "shared.toml");
  EXPECT_EQ(record.at("study_folder"), "..");
  // Every file of the results but the record stands in it, with its digest.
  std::size_t files = 0;
  for (const std::string& name : folder.names()) {
    if (!name.starts_with("results/") || std::filesystem::is_directory(folder.path(name)) ||
        name == "results/record.json")
      continue;
    ++files;
    bool found = false;
    for (const Json& output : record.at("outputs"))
      found = found || ("results/" + output.at("path").get<std::string>() == name &&
                        output.at("sha256") == sha256(folder.read(name)) &&
                        output.at("bytes") == folder.read(name).size());
    EXPECT_TRUE(found) << name;
  }
  EXPECT_EQ(record.at("outputs").size(), files);
  const Json good = verified(folder, 0);
  EXPECT_EQ(good.at("inputs").at("unchanged"), 3);
  EXPECT_EQ(good.at("outputs").at("unchanged"), files);
  EXPECT_EQ(good.at("reproduced"), files);
  // The same from elsewhere, and on one thread.
  EXPECT_TRUE(verified(folder, 0, {folder.path("results"), "--threads", "1"}).at("good"));
}

TEST(Verify, SaysWhatIsOtherwise) {
  const TempFolder folder;
  write_study(folder);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const std::string table = folder.read("results/run.csv");
  // An output that somebody changed.
  std::string tampered = table;
  tampered.replace(tampered.find("9.5"), 3, "9.6");
  folder.write("results/run.csv", tampered);
  const Json changed = verified(folder, 5);
  EXPECT_EQ(changed.at("outputs").at("changed"), Json({"run.csv"}));
  EXPECT_EQ(changed.at("differing").size(), 0U) << "what is computed again is what was recorded";
  folder.write("results/run.csv", table);
  // An input that changed: the first file, column and row that come out otherwise are said.
  folder.write("t.csv", std::string(kVerifyTable).replace(std::string(kVerifyTable).find("9.5"), 3, "9.7"));
  const Outcome input = run_program(folder, {"verify"});
  EXPECT_EQ(input.code, 5);
  EXPECT_NE(input.out.find("changed since: t.csv"), std::string::npos) << input.out;
  EXPECT_NE(input.out.find("in row 4: 9.5 → 9.7"), std::string::npos) << input.out;
  // One that is gone.
  std::filesystem::remove(folder.path("t.csv"));
  const Outcome gone = run_program(folder, {"verify"});
  EXPECT_EQ(gone.code, 5);
  EXPECT_NE(gone.out.find("not computed again: an input is missing"), std::string::npos) << gone.out;
  folder.write("t.csv", kVerifyTable);
  // What the study uses.
  folder.write("shared.toml", "constants = 'k = 3'\n");
  const Outcome used = run_program(folder, {"verify"});
  EXPECT_EQ(used.code, 5);
  EXPECT_NE(used.out.find("changed since: shared.toml"), std::string::npos) << used.out;
  EXPECT_NE(used.out.find("constant k: 2 → 3"), std::string::npos) << used.out;
}

TEST(Verify, KnowsHowItWasRun) {
  const TempFolder folder;
  write_study(folder);
  ASSERT_EQ(run_program(folder, {"run", "--uncertainty", "monte-carlo", "--trials", "500", "--seed", "7",
                                 "--constant", "k = 5", "--output", "deep/down"})
                .code,
            0);
  const Json good = verified(folder, 0, {"deep/down"});
  EXPECT_GT(good.at("reproduced"), 10);
  // A part that is run later is noted in the record.
  ASSERT_EQ(run_program(folder, {"run", "--only", "run", "--output", "deep/down"}).code, 0);
  const Json record = Json::parse(folder.read("deep/down/record.json"));
  EXPECT_EQ(record.at("later").size(), 1U);
  EXPECT_TRUE(verified(folder, 0, {"deep/down"}).at("good"));
}

TEST(Verify, FindsAStudyThatWasMoved) {
  const TempFolder folder;
  write_study(folder);
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  std::filesystem::create_directory(folder.path("elsewhere"));
  for (const char* name : {"t.csv", "shared.toml", "study.toml"})
    std::filesystem::rename(folder.path(name), folder.path(std::string("elsewhere/") + name));
  const Outcome lost = run_program(folder, {"verify"});
  EXPECT_EQ(lost.code, 4);
  EXPECT_NE(lost.err.find("name it with --study"), std::string::npos) << lost.err;
  EXPECT_TRUE(verified(folder, 0, {"--study", "elsewhere/study.toml"}).at("good"));
}

TEST(Verify, RefusesWhatIsNoRecord) {
  const TempFolder folder;
  EXPECT_EQ(run_program(folder, {"verify"}).code, 4);
  for (const char* text : {"", "{", "[]", "{}", "{\"program\": \"opensum\"}",
                           "{\"program\": \"opensum\", \"outputs\": 3, \"study\": [7]}"}) {
    folder.write("results/record.json", text);
    const Outcome outcome = run_program(folder, {"verify"});
    EXPECT_EQ(outcome.code, 4) << text;
    EXPECT_NE(outcome.err.find("is no record that can be verified"), std::string::npos) << outcome.err;
  }
}

// A week of edits of the demo: what compare says of each day, and that each day's results verify.
TEST(Verify, FollowsAWeekOfEdits) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo", "d"}).code, 0);
  const std::string first = folder.read("d/study.toml");
  ASSERT_EQ(run_program(folder, {"run", "d/study.toml", "--output", "day0"}).code, 0);
  struct Edit {
    std::string file, from, to, said;
  };
  const std::vector<Edit> week = {
      {"study.toml", "62.0 ± 0.2", "61.5 ± 0.2", "constant t_bath: 62 °C ± 0.2 K → 61.5 °C ± 0.2 K"},
      {"study.toml", "duty / pump", "duty / (2 * pump)",
       "equation day1.gain, day2.gain: duty / pump → duty / (2 * pump)"},
      {"study.toml", "61.5 ± 0.2", "61.5 ± 0.1", "constant t_bath: 61.5 °C ± 0.2 K → 61.5 °C ± 0.1 K"},
      {"day1.csv", "R02,5.00", "R02,5.01", "input day1.csv has another content"},
      {"water.csv", "20,998.21", "20,998.22", "input water.csv has another content"},
      {"study.toml", "step   \"Nominal flow\"", "nominal \"Nominal flow\"", "columns that came: nominal"},
  };
  for (std::size_t day = 1; day <= week.size(); ++day) {
    const Edit& edit = week[day - 1];
    std::string text = folder.read("d/" + edit.file);
    const std::size_t at = text.find(edit.from);
    ASSERT_NE(at, std::string::npos) << edit.from;
    text.replace(at, edit.from.size(), edit.to);
    // Whoever renames a column renames it where it is used.
    if (edit.to.starts_with("nominal")) {
      for (std::size_t use = text.find("\"step\""); use != std::string::npos;
           use = text.find("\"step\"", use))
        text.replace(use, 6, "\"nominal\"");
      for (std::size_t use = text.find("step"); use != std::string::npos; use = text.find("step", use + 1)) {
        const bool word = !std::isalnum(static_cast<unsigned char>(text[use - 1])) &&
                          !std::isalnum(static_cast<unsigned char>(text[use + 4]));
        if (word && text.compare(use - 1, 6, "\"steps") != 0) text.replace(use, 4, "nominal");
      }
    }
    folder.write("d/" + edit.file, text);
    const std::string today = fmt::format("day{}", day);
    const Outcome run = run_program(folder, {"run", "d/study.toml", "--output", today});
    ASSERT_EQ(run.code, 0) << edit.to << run.err;
    const Outcome compared = run_program(folder, {"compare", fmt::format("day{}", day - 1), today});
    EXPECT_EQ(compared.code, 5) << edit.to;
    EXPECT_NE(compared.out.find(edit.said), std::string::npos) << edit.to << "\n" << compared.out;
    EXPECT_EQ(run_program(folder, {"verify", today}).code, 0) << edit.to;
    EXPECT_EQ(run_program(folder, {"verify", fmt::format("day{}", day - 1)}).code, 5) << edit.to;
  }
}

}  // namespace
}  // namespace opensum
