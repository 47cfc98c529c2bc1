// Uncertainties by sampling: worked numbers of the guides, every function against the linear propagation, the
// same bytes on any number of threads, and what is said of what is wrong.
#include <gtest/gtest.h>

#include <cmath>
#include <iostream>
#include <map>
#include <random>
#include <sstream>

#include "program/program.h"
#include "table/number_text.h"

namespace opensum {
namespace {

struct Sampled {
  double value = 0;
  double linear = 0;
  double u = 0;
  double mean = 0;
  double low = 0;
  double high = 0;
  std::string agrees;
};

// The lines of monte-carlo.csv by column and row.
std::map<std::pair<std::string, std::size_t>, Sampled> sampled(const TempFolder& folder) {
  std::map<std::pair<std::string, std::size_t>, Sampled> all;
  std::istringstream lines(folder.read("results/monte-carlo.csv"));
  std::string line;
  std::getline(lines, line);
  while (std::getline(lines, line)) {
    std::vector<std::string> cells(1);
    for (const char c : line) {
      if (c == ',') {
        cells.emplace_back();
      } else {
        cells.back() += c;
      }
    }
    const auto number = [&](std::size_t i) {
      return cells[i].empty() ? std::nan("") : read_number(cells[i]).value;
    };
    all[{cells[2], static_cast<std::size_t>(number(1))}] = {number(3), number(5),  number(6), number(8),
                                                            number(9), number(10), cells[12]};
  }
  return all;
}

Outcome sample(const TempFolder& folder, const std::string& study, const std::string& trials) {
  folder.write("study.toml", study);
  return run_program(folder, {"run", "--uncertainty", "monte-carlo", "--trials", trials});
}

// JCGM 101:2008, 9.2: the sum of four, normal ones and rectangular ones of variance 1.
TEST(Sampling, GivesTheWorkedNumbersOfASum) {
  const TempFolder folder;
  const Outcome outcome =
      sample(folder,
             "[sheet.s]\ntable = '''\na,b,c,d,e,f,g,h\n0,0,0,0,0,0,0,0\n'''\n"
             "columns.a.uncertainty = '1'\ncolumns.b.uncertainty = '1'\ncolumns.c.uncertainty = '1'\n"
             "columns.d.uncertainty = '1'\n"
             "columns.e.uncertainty = { half_width = '1.7320508075688772' }\n"
             "columns.f.uncertainty = { half_width = '1.7320508075688772' }\n"
             "columns.g.uncertainty = { half_width = '1.7320508075688772' }\n"
             "columns.h.uncertainty = { half_width = '1.7320508075688772' }\n"
             "equations = '''\n  normal = a + b + c + d\n  rectangular = e + f + g + h\n'''\n",
             "20000");
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  auto all = sampled(folder);
  const Sampled& normal = all[{"normal", 1}];
  EXPECT_NEAR(normal.linear, 2, 1e-9);
  EXPECT_NEAR(normal.u, 2, 5 * 2 / std::sqrt(2 * 20000.0));
  EXPECT_NEAR(normal.high - normal.low, 2 * 3.92, 0.15);
  const Sampled& rectangular = all[{"rectangular", 1}];
  EXPECT_NEAR(rectangular.linear, 2, 1e-5);
  EXPECT_NEAR(rectangular.u, 2, 5 * 2 / std::sqrt(2 * 20000.0));
  EXPECT_NEAR(rectangular.high - rectangular.low, 2 * 3.88, 0.15);
}

// JCGM 101:2008, 9.3: calibration of a mass. Linearly 0.0539 mg, by sampling 0.0754 mg and 1.0834 to 1.3825
// mg, which do not agree.
TEST(Sampling, GivesTheWorkedNumbersOfAMass) {
  const TempFolder folder;
  const Outcome outcome = sample(
      folder,
      "[sheet.s]\ntable = '''\nm [mg],dm [mg],air [kg/m^3],w [kg/m^3],r "
      "[kg/m^3]\n100000,1.234,1.20,8000,8000\n'''\n"
      "columns.m.uncertainty = '0.050 mg'\ncolumns.dm.uncertainty = '0.020 mg'\n"
      "columns.air.uncertainty = { half_width = '0.10 kg/m^3' }\n"
      "columns.w.uncertainty = { half_width = '1000 kg/m^3' }\n"
      "columns.r.uncertainty = { half_width = '50 kg/m^3' }\n"
      "equations = 'off [mg] = (m + dm) * (1 + (air - 1.2 [kg/m^3]) * (1 / w - 1 / r)) - 100000 [mg]'\n",
      "20000");
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  auto all = sampled(folder);
  const Sampled& off = all[{"off", 1}];
  EXPECT_NEAR(off.value, 1.2340, 1e-6);
  EXPECT_NEAR(off.linear, 0.0539, 0.00005);
  EXPECT_NEAR(off.u, 0.0754, 0.0015);
  EXPECT_NEAR(off.low, 1.0834, 0.006);
  EXPECT_NEAR(off.high, 1.3825, 0.006);
  EXPECT_EQ(off.agrees, "no");
  EXPECT_NE(outcome.out.find("the 95 % intervals of 1 of 1 values differ"), std::string::npos) << outcome.out;
}

// JCGM 101:2008, 9.4.2: y = x1² + x2² at x2 = 0, each with 0.005. At x1 = 0 it is linearly 0 and by sampling
// 50e-6 with an interval from 0 to 150e-6; at 0.050 both are 0.0005.
TEST(Sampling, GivesTheWorkedNumbersOfASumOfSquares) {
  const TempFolder folder;
  const Outcome outcome =
      sample(folder,
             "[sheet.s]\ntable = '''\na,b\n0,0\n0.05,0\n'''\ncolumns.a.uncertainty = '0.005'\n"
             "columns.b.uncertainty = '0.005'\nequations = 'y = a^2 + b^2'\n",
             "20000");
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  auto all = sampled(folder);
  EXPECT_EQ((all[{"y", 1}].linear), 0);
  EXPECT_NEAR((all[{"y", 1}].mean), 50e-6, 1.5e-6);
  EXPECT_NEAR((all[{"y", 1}].u), 50e-6, 2e-6);
  EXPECT_NEAR((all[{"y", 1}].low), 0, 1e-6);
  EXPECT_NEAR((all[{"y", 1}].high), 150e-6, 5e-6);
  EXPECT_NEAR((all[{"y", 2}].linear), 0.0005, 1e-9);
  EXPECT_NEAR((all[{"y", 2}].u), 0.0005, 0.00001);
}

// A thousand equations put together at random over one another, in twenty studies: where all uncertainties
// are small, sampling and the linear propagation are the same within what the trials allow.
TEST(Sampling, AgreesWithTheLinearPropagation) {
  const char* leaves[] = {"x", "y", "z", "x * y", "x - y", "z / y", "x + 2", "col_mean(x)", "y + z", "r"};
  const char* functions[] = {"col_sum({})",
                             "col_mean({}, by: g)",
                             "col_sd({})",
                             "col_rms({})",
                             "col_area({}, along: t)",
                             "col_last({})",
                             "previous({})",
                             "change({})",
                             "sum_so_far({})",
                             "mean_so_far({}, by: g)",
                             "moving_mean({}, rows: 3)",
                             "moving_sd({}, rows: 3)",
                             "derivative({}, along: t)",
                             "area_so_far({}, along: t)",
                             "exp({} / 40)",
                             "sqrt(abs({}) + 1)",
                             "atan({} / 5)",
                             "sin({} / 10)",
                             "row_mean({}, x, z)",
                             "row_sd({}, x, y)",
                             "if(g == \"a\", {}, y)",
                             "fallback({}, x)",
                             "({}) * x",
                             "({}) / (y + 3)",
                             "lookup.v * ({})",
                             "fit_value(line, x) - ({})",
                             "between.v + ({})",
                             "log1p(abs({}))",
                             "hypot({}, y)"};
  std::mt19937 random(2031);
  constexpr int kStudies = 20;
  constexpr int kEquations = 50;
  constexpr int kTrials = 400;
  std::size_t compared = 0;
  std::size_t equations = 0;
  for (int number = 0; number < kStudies; ++number) {
    const TempFolder folder;
    std::string data = "g,t,x,y,z,k\n";
    std::uniform_real_distribution<double> spread(-0.2, 0.2);
    for (int row = 0; row < 9; ++row)
      data += std::string(row % 3 == 1 ? "b" : "a") + "," + number_text(row + spread(random), 12) + "," +
              number_text(2 + 0.7 * row + spread(random), 12) + "," +
              number_text(9 - 0.5 * row + spread(random), 12) + "," +
              number_text(4 + std::pow(row - 3.3, 2) + spread(random), 12) + "," + std::to_string(row % 4) +
              "\n";
    folder.write("s.csv", data);
    folder.write("c.csv", "k,q,v\n0,1.1,4.2\n1,3.3,5.1\n2,6.4,7.7\n3,9.1,6.2\n");
    std::string list;
    for (int i = 0; i < kEquations; ++i) {
      std::string equation = leaves[random() % std::size(leaves)];
      const auto depth = 1 + random() % 3;
      for (std::size_t d = 0; d < depth; ++d) {
        std::string outer = functions[random() % std::size(functions)];
        outer.replace(outer.find("{}"), 2, equation);
        equation = outer;
      }
      list += "  e" + std::to_string(i) + " = " + equation + "\n";
      ++equations;
    }
    const Outcome outcome =
        sample(folder,
               "constants = 'r = 1.3 ± 0.0002'\n[sheet.s]\ndata = 's.csv'\ncolumns.k.kind = 'number'\n"
               "columns.t.uncertainty = '0.0001'\n"
               "columns.x = { uncertainty = '0.0003', uncertainty_shared = '0.0002' }\ncolumns.y.uncertainty "
               "= '0.01 %'\n"
               "columns.z = { uncertainty = '0.0002', uncertainty_shared = '0.01 %' }\n"
               "link.lookup = { sheet = 'c', match = 'k' }\n"
               "link.between = { sheet = 'c', match = 'x = q', how = 'interpolate' }\nequations = '''\n" +
                   list +
                   "'''\n[sheet.c]\ndata = 'c.csv'\ncolumns.v.uncertainty = '0.0004'\ncolumns.q.uncertainty "
                   "= '0.0003'\n"
                   "[fit.line]\nsheet = 's'\nx = 'x'\ny = 'y'\n",
               std::to_string(kTrials));
    ASSERT_EQ(outcome.code, 0) << outcome.err << list;
    for (const auto& [key, cell] : sampled(folder)) {
      if (std::isnan(cell.linear) || std::isnan(cell.u)) continue;
      // Less than rounding leaves of the value is nothing.
      const double rounding = 1e-11 * std::fabs(cell.value) + 1e-12;
      EXPECT_NEAR(cell.u, cell.linear, 5 * cell.linear / std::sqrt(2.0 * kTrials) + rounding)
          << key.first << " row " << key.second << " in\n"
          << list;
      ++compared;
    }
  }
  std::cout << "sampling: " << equations << " equations, " << compared << " values compared\n";
  EXPECT_GT(compared, 5000U);
}

TEST(Sampling, IsTheSameOnAnyNumberOfThreads) {
  const TempFolder folder;
  folder.write("study.toml",
               "[sheet.s]\ntable = '''\nx,y\n1,2\n3,4\n5,6\n'''\ncolumns.x = { uncertainty = '0.1', "
               "uncertainty_shared = '0.2' }\nequations = 'z = x * y - col_mean(x)'\n");
  const std::vector<std::string> common = {"run", "--uncertainty", "monte-carlo", "--trials", "300"};
  const auto bytes = [&](const std::vector<std::string>& more, const std::string& output) {
    std::vector<std::string> args = common;
    args.insert(args.end(), more.begin(), more.end());
    args.insert(args.end(), {"--output", output});
    EXPECT_EQ(run_program(folder, args).code, 0);
    return folder.read(output + "/monte-carlo.csv");
  };
  const std::string one = bytes({"--threads", "1"}, "one");
  EXPECT_EQ(one, bytes({"--threads", "7"}, "seven"));
  EXPECT_NE(one, bytes({"--seed", "2"}, "other"));
  EXPECT_NE(folder.read("one/record.json").find("\"trials\": 300"), std::string::npos);
  EXPECT_NE(folder.read("one/report.html").find("checked by sampling"), std::string::npos);
}

// Whatever the file is: the libraries of some serve one thread at a time.
TEST(Sampling, ReadsFilesOfAllKinds) {
  const TempFolder folder;
  folder.write("t.csv", "x [m],y [g]\n1,2\n3,4\n5,6\n");
  const auto bytes = [&](const std::string& data) {
    folder.write("study.toml", "[sheet.s]\ndata = '" + data +
                                   "'\ncolumns.x.uncertainty = '0.1 m'\nequations = 'z = x^2 * y'\n");
    const Outcome outcome =
        run_program(folder, {"run", "--uncertainty", "monte-carlo", "--trials", "100", "--output", "out"});
    EXPECT_EQ(outcome.code, 0) << data << "\n" << outcome.err;
    EXPECT_EQ(outcome.err, "") << data;
    return folder.read("out/monte-carlo.csv");
  };
  const std::string expected = bytes("t.csv");
  EXPECT_FALSE(expected.empty());
  folder.write("study.toml", "write = ['xlsx', 'ods', 'nc', 'jsonl']\n[sheet.s]\ndata = 't.csv'\n");
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  for (const char* file :
       {"results/tables.xlsx", "results/tables.ods", "results/tables.nc", "results/s.jsonl"})
    EXPECT_EQ(bytes(file), expected) << file;
}

TEST(Sampling, SaysWhatIsWrong) {
  const TempFolder folder;
  const std::string certain = "[sheet.s]\ntable = '''\nx,y\n1,2\n3,4\n'''\nequations = 'z = x * y'\n";
  const Outcome nothing = sample(folder, certain, "100");
  EXPECT_EQ(nothing.code, 3);
  EXPECT_NE(nothing.err.find("of which an uncertainty is stated"), std::string::npos) << nothing.err;
  EXPECT_FALSE(folder.has("results/record.json"));
  const Outcome many =
      sample(folder, "[sheet.s]\nrows = 100000\nequations = 'z = row_number() * (2 ± 0.1)'\n", "10000");
  EXPECT_EQ(many.code, 2);
  EXPECT_NE(many.err.find("--trials 500 can be"), std::string::npos) << many.err;
  EXPECT_EQ(run_program(folder, {"run", "--uncertainty", "sampled"}).code, 2);
  EXPECT_EQ(run_program(folder, {"run", "--uncertainty", "monte-carlo", "--trials", "3"}).code, 2);
}

}  // namespace
}  // namespace opensum
