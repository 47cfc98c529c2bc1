// Sheets, equations and methods as LaTeX: whole as texts, and compiled where a LaTeX with siunitx is
// installed.
#include <gtest/gtest.h>

#include <cstdlib>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

// What breaks documents: units with signs, texts with signs of LaTeX, long names, exponents, nulls, Greek.
const std::string kLatexData =
    "name_with_underscore,mass (µg),angle (°),share (%),rate (m^-2 s^-1),tiny (mol/L)\n"
    "50 % & more #1,1.5,30,12,2.5e3,1.2e-9\n"
    "{braces} ~ ^ \\ $,2.25,45,,3e3,2e-9\n"
    "Ångström <5>,-3,60,14.5,4e3,\n"
    "plain,4,90,15,5e3,4e-9\n";
const std::string kLatexStudy =
    "write = ['csv', 'tex']\nconstants = 'k_b \"Heat, per mole\" [J/(mol K)] = 8.314'\n"
    "[sheet.odd_name]\ndata = 't.csv'\nread.missing_also = []\n"
    "columns.m = { header = 'mass (µg)' }\ncolumns.a = { header = 'angle (°)' }\n"
    "equations = '''\n"
    "  delta_m \"Change of mass\" [ng] = m - col_mean(m)\n"
    "  s = sin(a)^2 / (1 + sqrt(abs(cos(a))))\n"
    "  big = if(s > 0.5, exp(s), -s * 1e10) in [1]\n"
    "  alpha = row_mean(m, m, nulls: skip) / (5 [µg])\n"
    "'''\n"
    "[fit.line]\nx = 'm'\ny = 's'\n";

bool can_compile() {
  return std::system("command -v pdflatex > /dev/null 2>&1 && kpsewhich siunitx.sty > /dev/null 2>&1") == 0;
}

// Whether the braces of a text are closed as they are opened, but for those that are escaped.
bool is_balanced(const std::string& text) {
  int depth = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '\\') {
      ++i;
      continue;
    }
    depth += text[i] == '{' ? 1 : text[i] == '}' ? -1 : 0;
    if (depth < 0) return false;
  }
  return depth == 0;
}

void compile(const TempFolder& folder, const std::string& results, const std::vector<std::string>& parts) {
  std::string document =
      "\\documentclass{article}\n\\usepackage{amsmath,booktabs,longtable,siunitx}\n\\begin{document}\n";
  for (const std::string& part : parts) {
    EXPECT_TRUE(is_balanced(folder.read(results + part))) << part;
    document += "\\input{" + part + "}\n\n";
  }
  folder.write(results + "all.tex", document + "\\end{document}\n");
  if (!can_compile()) GTEST_SKIP() << "there is no LaTeX with siunitx here: the document was not compiled";
  const std::string shell = "cd '" + folder.path() + "/" + results +
                            "' && pdflatex -interaction=nonstopmode -halt-on-error all.tex > log.txt 2>&1";
  EXPECT_EQ(std::system(shell.c_str()), 0) << folder.read(results + "log.txt").substr(0, 4000);
}

TEST(Latex, OfHardTextsAndUnitsIsCompiled) {
  const TempFolder folder;
  folder.write("t.csv", kLatexData);
  folder.write("study.toml", kLatexStudy);
  const Outcome outcome = run_program(folder, {"run"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  const std::string table = folder.read("results/odd_name.tex");
  EXPECT_NE(table.find("50 \\% \\& more \\#1 & 1.5 & 30 & 12 & "), std::string::npos) << table;
  EXPECT_NE(table.find("\\{braces\\} \\textasciitilde{} \\textasciicircum{} \\textbackslash{} \\$"),
            std::string::npos)
      << table;
  EXPECT_NE(table.find("{--}"), std::string::npos) << "a null is a dash";
  const std::string methods = folder.read("results/methods.tex");
  EXPECT_NE(methods.find("\\frac{"), std::string::npos) << methods;
  EXPECT_NE(methods.find("\\begin{cases}"), std::string::npos) << methods;
  EXPECT_NE(methods.find("\\delta_{\\text{m}}"), std::string::npos) << methods;
  compile(folder, "results/", {"odd_name.tex", "methods.tex"});
}

TEST(Latex, OfTheDemoIsCompiled) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo", "."}).code, 0);
  folder.write("study.toml", "write = ['tex']\n" + folder.read("study.toml"));
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_FALSE(folder.has("results/day1.tex.csv"));
  const std::string methods = folder.read("results/methods.tex");
  EXPECT_NE(methods.find("$a$ & \\qty{2.933(35)}{kW} & 23\\\\"), std::string::npos) << methods;
  // A row for each of the sheet, and its head.
  const std::string table = folder.read("results/day1.tex");
  std::size_t rows = 0;
  for (std::size_t at = 0; (at = table.find("\\\\\n", at)) != std::string::npos; ++at) ++rows;
  EXPECT_EQ(rows, 25U);
  compile(folder, "results/",
          {"water.tex", "gauge.tex", "day1.tex", "day2.tex", "repeats.tex", "methods.tex"});
}

}  // namespace
}  // namespace opensum
