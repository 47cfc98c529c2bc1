// Mistaken commands and equations: what is said to each.
#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

// The last hint of what was said; empty without one.
std::string hint_of(const std::string& text) {
  const std::string mark = "hint: ";
  const std::size_t at = text.rfind(mark);
  return at == std::string::npos ? "" : text.substr(at + mark.size(), text.find('\n', at) - at - mark.size());
}

// The words of a command line as a shell splits them, with single and double quotes.
std::vector<std::string> words_of(const std::string& line) {
  std::vector<std::string> words;
  std::string word;
  char quote = 0;
  bool any = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    if (quote != 0) {
      if (c == quote) {
        quote = 0;
      } else if (quote == '"' && c == '\\' && i + 1 < line.size()) {
        word += line[++i];
      } else {
        word += c;
      }
    } else if (c == '\'' || c == '"') {
      quote = c;
      any = true;
    } else if (c == ' ') {
      if (any) words.push_back(word);
      word.clear();
      any = false;
    } else {
      word += c;
      any = true;
    }
  }
  if (any) words.push_back(word);
  return words;
}

// The exit code, and what is said: errors and hints without their places.
std::string said(const Outcome& outcome) {
  std::string text = std::to_string(outcome.code);
  std::istringstream lines(outcome.err);
  bool any = false;
  for (std::string line; std::getline(lines, line);) {
    std::size_t at = std::min(line.find("error: "), line.find("warning: "));
    const std::size_t first = line.find_first_not_of(' ');
    if (at == std::string::npos && line.compare(std::min(first, line.size()), 6, "hint: ") == 0) at = first;
    if (at == std::string::npos) continue;
    text += (any ? "\n  " : " ") + line.substr(at);
    any = true;
  }
  return text + (any ? "\n" : " goes on\n");
}

// Over two hundred commands as people of other habits write them, with what is said to each. They run one
// after another in the folder of the demo.
TEST(Mistakes, AreAnsweredAsWritten) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo", "."}).code, 0);
  const std::string path = std::string(OPENSUM_SOURCE_FOLDER) + "/tests/program/mistakes.txt";
  std::ifstream file(path);
  std::string got;
  std::string expected;
  std::size_t commands = 0;
  for (std::string line; std::getline(file, line);) {
    expected += line + '\n';
    if (!line.starts_with("$ ")) continue;
    got += line + '\n' + said(run_program(folder, words_of(line.substr(2))));
    ++commands;
  }
  if (got != expected) std::ofstream(::testing::TempDir() + "mistakes.txt") << got;
  std::istringstream expected_lines(expected);
  std::istringstream got_lines(got);
  std::string a;
  std::string b;
  std::string command;
  while (std::getline(expected_lines, a) && std::getline(got_lines, b)) {
    if (a.starts_with("$ ")) command = a;
    ASSERT_EQ(a, b) << command;
  }
  EXPECT_EQ(got.size(), expected.size());
  EXPECT_GE(commands, 150U);
}

TEST(Mistakes, InEquationsAreToldWhatToWrite) {
  const struct {
    const char* expression;
    const char* hint;
  } rows[] = {
      {"min(1, 2)", "write row_min(1, 2)"},
      {"mean(1, 2)", "write row_mean(1, 2)"},
      {"log(10)", "write ln(10), or log10(10) for base 10"},
      {"lg(10)", "write log10(10)"},
      {"pow(2, 3)", "write (2)^(3)"},
      {"sqr(3)", "write (3)^2"},
      {"ifelse(true, 1, 2)", "write if(true, 1, 2)"},
      {"IIF(true, 1, 2)", "write if(true, 1, 2)"},
      {"coalesce(1, 2)", "write fallback(1, 2)"},
      {"isnan(1)", "write is_null(1)"},
      {"lag(1)", "write previous(1, rows: 1)"},
      {"cumsum(1)", "write sum_so_far(1)"},
      {"concatenate(\"a\", \"b\")", "write concat(\"a\", \"b\")"},
      {"startswith(\"ab\", \"a\")", "write starts_with(\"ab\", \"a\")"},
      {"int(1.5)", "write trunc(1.5)"},
      {"PI", "write pi"},
      {"TRUE", "write true"},
      {"true && false", "write and"},
      {"true || false", "write or"},
      {"!true", "write not"},
      {"2 ** 3", "write ^"},
      {"1 <> 2", "write !="},
      {"1 === 1", "write =="},
      {"'R01' == \"R01\"", "write \"R01\""},
      {"sqrt 4", "write sqrt(4)"},
      {"5 L/min", "write 5 [L/min] if L/min is a unit, or 5 * L"},
      {"Outlet temperature A",
       "write `Outlet temperature A` in backticks if it is one name, or Outlet * temperature"},
      {"sqrtt(4)", "did you mean sqrt?"},
  };
  const TempFolder folder;
  for (const auto& row : rows) {
    const Outcome outcome = run_program(folder, {"calc", row.expression});
    EXPECT_EQ(outcome.code, 3) << row.expression << outcome.out;
    EXPECT_EQ(hint_of(outcome.err), row.hint) << row.expression << "\n" << outcome.err;
  }
}

TEST(Mistakes, InCommandsAreToldWhichIsMeant) {
  const TempFolder folder;
  const struct {
    const char* word;
    const char* hint;
  } rows[] = {{"lok", "did you mean opensum look?"},
              {"init", "did you mean opensum new?"},
              {"version", "did you mean opensum --version?"},
              {"chart", "did you mean opensum plot?"},
              {"describe", "did you mean opensum look?"},
              {"validate", "did you mean opensum check?"},
              {"rn", "did you mean opensum run?"},
              {"exlain", "did you mean opensum explain?"}};
  for (const auto& row : rows) {
    const Outcome outcome = run_program(folder, {row.word, "x.csv"});
    EXPECT_EQ(outcome.code, 2) << row.word;
    EXPECT_EQ(outcome.err, std::string("opensum: error: there is no command ") + row.word +
                               "\n      hint: " + row.hint + "\n");
  }
  const Outcome bare = run_program(folder, {});
  EXPECT_EQ(bare.code, 0) << bare.err;
  EXPECT_NE(bare.out.find("explain"), std::string::npos);
  EXPECT_EQ(run_program(folder, {"help"}).out, bare.out);
  EXPECT_EQ(run_program(folder, {"help", "look"}).out, run_program(folder, {"look", "--help"}).out);
  EXPECT_EQ(run_program(folder, {"-V"}).out, run_program(folder, {"--version"}).out);
}

TEST(Mistakes, InStudiesAreToldWhatToWrite) {
  const struct {
    const char* line;
    const char* hint;
  } rows[] = {{"filter = 'x > 1'", "keep"}, {"sort = 'x'", "sort_by"},  {"group_by = 'x'", "one_row_per"},
              {"file = 't.csv'", "data"},   {"sep = ';'", "delimiter"}, {"melt = 'x'", "one_row_per_cell"},
              {"join = 'x'", "link.NAME"},  {"keepp = 'x > 1'", "keep"}};
  for (const auto& row : rows) {
    const TempFolder folder;
    folder.write("t.csv", "x,y\n1,2\n2,3\n3,5\n");
    folder.write("study.toml", std::string("[sheet.a]\ndata = 't.csv'\n") + row.line + "\n");
    const Outcome outcome = run_program(folder, {"check"});
    EXPECT_EQ(outcome.code, 3) << row.line;
    EXPECT_NE(hint_of(outcome.err).find(row.hint), std::string::npos) << row.line << outcome.err;
  }
  for (const auto& [model, ours] : {std::pair("quadratic", "polynomial 2"), std::pair("linear", "line"),
                                    std::pair("exp", "exponential"), std::pair("poly3", "polynomial 3")}) {
    const TempFolder folder;
    folder.write("t.csv", "x,y\n1,2\n2,3\n3,5\n");
    const Outcome fitted = run_program(folder, {"fit", "t.csv", "--x", "x", "--y", "y", "--model", model});
    EXPECT_EQ(hint_of(fitted.err).substr(0, hint_of(fitted.err).find('?')),
              std::string("did you mean ") + ours)
        << fitted.err;
    const Outcome plotted = run_program(folder, {"plot", "t.csv", "--x", "x", "--y", "y", "--fit", model});
    EXPECT_EQ(hint_of(plotted.err).substr(0, hint_of(plotted.err).find('?')),
              std::string("did you mean ") + ours)
        << plotted.err;
  }
}

TEST(Functions, AreFoundByNamePurposeAndOtherWords) {
  const TempFolder folder;
  const Outcome one = run_program(folder, {"functions", "lag"});
  EXPECT_EQ(one.code, 0) << one.err;
  EXPECT_EQ(one.out,
            "lag is previous(x, rows: 1) here\n\nprevious(x, rows: 1)\n  the value some rows before\n"
            "  a column → its unit\n  nulls are values of their row\n  takes also rows: by:\n");
  EXPECT_NE(run_program(folder, {"functions", "average"}).out.find("row_mean(a, b)"), std::string::npos);
  EXPECT_NE(run_program(folder, {"functions", "trapezia"}).out.find("area_so_far"), std::string::npos);
  EXPECT_NE(run_program(folder, {"functions"}).out.find("fit_solve"), std::string::npos);
  const Outcome none = run_program(folder, {"functions", "sqrtt"});
  EXPECT_EQ(none.code, 3);
  EXPECT_EQ(hint_of(none.err), "did you mean sqrt?");
}

}  // namespace
}  // namespace opensum
