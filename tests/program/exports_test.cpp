// Files as instruments write them: each is read by what `look` recommends, followed step by step, then
// derived from and plotted.
#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <iterator>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

std::string export_bytes(const std::string& name) {
  std::ifstream file(std::string(OPENSUM_SOURCE_FOLDER) + "/tests/data/exports/" + name, std::ios::binary);
  return {std::istreambuf_iterator<char>(file), std::istreambuf_iterator<char>()};
}

// The words of a line as a shell divides it, with single quotes alone.
std::vector<std::string> shell_words(const std::string& line) {
  std::vector<std::string> words(1);
  bool quoted = false;
  for (const char c : line) {
    if (c == '\'') {
      quoted = !quoted;
    } else if (c == ' ' && !quoted) {
      words.emplace_back();
    } else {
      words.back() += c;
    }
  }
  return words;
}

// The first option that is recommended, in an error, a warning or below the tables; empty for none.
std::string recommended(const Outcome& outcome) {
  std::istringstream errors(outcome.err);
  for (std::string line; std::getline(errors, line);) {
    const std::size_t begin = line.find("(--");
    if (begin != std::string::npos) return line.substr(begin + 1, line.find(')', begin) - begin - 1);
  }
  std::istringstream lines(outcome.out);
  for (std::string line; std::getline(lines, line);) {
    const std::size_t begin = line.rfind(": --");
    if (begin != std::string::npos && !line.starts_with("│")) return line.substr(begin + 2);
  }
  return {};
}

// An option that can be given once replaces what was said before.
void add_option(std::vector<std::string>& options, const std::vector<std::string>& words) {
  const auto before = std::find(options.begin(), options.end(), words.front());
  const bool once = words.front().starts_with("--skip-") || words.front() == "--units-row";
  if (once && before != options.end()) options.erase(before, before + 2);
  options.insert(options.end(), words.begin(), words.end());
}

struct Export {
  std::string file;
  std::string options;     ///< that were recommended, in the end
  std::string definition;  ///< of the column `d`
  std::string x;           ///< of a figure of d
  std::string first;       ///< value of d, as written
  std::string last;
};

TEST(Exports, AreUnderstoodByWhatLookRecommends) {
  const std::vector<Export> exports = {
      {"balance.txt", "--unit Weight=g", "d [mg] = Weight - col_min(Weight)", "Time", "233.7", "0"},
      {"chromatograph.tsv", "--skip-rows 1 --short-rows null --units-row 3", "d [%] = Area / col_sum(Area)",
       "Retention", "17.0262716601", "44.8295136948"},
      {"counter.csv", "--date-format Time=%m/%d/%Y %I:%M:%S %p", "d [1/s] = Counts / 600 [s]", "Time", "2.5",
       "2.68833333333"},
      {"logger.csv",
       "--encoding latin-1 --skip-rows 3 --date-format Datum_Uhrzeit=%d.%m.%Y %H:%M --skip-end 2 "
       "--decimal-char "
       ", --units-row 5 --missing-also=--- --group-char .",
       "d [K] = Temperatur - 18 [degC]", "Datum_Uhrzeit", "0.5", "2.8"},
      {"microscope.csv", "--unit Length=nm --unit Width=µm", "d = Length / Width", "Object", "2.25",
       "2.62962962963"},
      {"plate_reader.csv", "--skip-rows 3", "d = row_mean(c_1..c_12)", "c_1", "0.2", "0.27"},
      {"potentiostat.txt", "", "d [nW] = E * I", "t", "0", "-2206.8614"},
      {"spectrophotometer.csv", "--decimal-char ,", "d = c_520_nm - c_400_nm", "c_520_nm", "0", "0.5099"},
      {"tensile.csv", "--skip-rows 5 --decimal-char ,", "d [MPa] = Force / (12.5 [mm] * 1.90 [mm])",
       "Extension", "0", "211.663157895"},
      {"weather_station.txt", "--kind Time=duration --missing-also=-9999", "d [h] = Time", "Date", "0", "23"},
  };
  for (const Export& one : exports) {
    const TempFolder folder;
    folder.write(one.file, export_bytes(one.file));
    std::vector<std::string> options;
    std::string more;
    for (int step = 0; step < 20; ++step) {
      std::vector<std::string> args = {"look", one.file};
      args.insert(args.end(), options.begin(), options.end());
      const Outcome outcome = run_program(folder, args);
      more = recommended(outcome);
      if (!more.empty()) {
        add_option(options, shell_words(more));
        continue;
      }
      EXPECT_EQ(outcome.code, 0) << outcome.err;
      EXPECT_EQ(outcome.err, "");
      break;
    }
    std::string text;
    for (const std::string& option : options) text += (text.empty() ? "" : " ") + option;
    EXPECT_EQ(text, one.options) << one.file << " still recommends " << more;
    std::vector<std::string> derive = {"derive", one.file, one.definition, "--show", "d"};
    derive.insert(derive.end(), options.begin(), options.end());
    const Outcome derived = run_program(folder, derive);
    EXPECT_EQ(derived.code, 0) << one.file << derived.err;
    std::istringstream lines(derived.out);
    std::vector<std::string> values;
    for (std::string line; std::getline(lines, line);) values.push_back(line);
    ASSERT_GT(values.size(), 2U) << one.file;
    EXPECT_EQ(values[1], one.first) << one.file;
    EXPECT_EQ(values.back(), one.last) << one.file;
    std::vector<std::string> plot = {"plot", one.file,   "--x",          one.x,      "--y",
                                     "d",    "--derive", one.definition, "--output", "figure.svg"};
    plot.insert(plot.end(), options.begin(), options.end());
    const Outcome plotted = run_program(folder, plot);
    EXPECT_EQ(plotted.code, 0) << one.file << plotted.err;
    EXPECT_TRUE(folder.has("figure.svg")) << one.file;
  }
}

// A spectrum of many columns as one long sheet: plotted against the wavelength, its greatest found.
TEST(Exports, WideTablesBecomeLong) {
  const TempFolder folder;
  folder.write("s.csv", export_bytes("spectrophotometer.csv"));
  folder.write("study.toml",
               "[sheet.wide]\ndata = 's.csv'\nread.decimal_char = ','\n"
               "[sheet.spectra]\nrows_of = 'wide'\none_row_per_cell = 'c_*'\ncell = 'absorbance'\n"
               "from_header = 'wavelength \"Wavelength\" [um]'\nkeep = 'wavelength > 0.45 [um]'\n"
               "[sheet.tops]\nrows_of = 'spectra'\none_row_per = ['Sample']\n"
               "equations = '''\n top = col_max(absorbance)\n n = col_count(absorbance)\n"
               " at [nm] = col_mean(wavelength, where: absorbance > 0.31)\n'''\n"
               "[plot.spectra]\nsheet = 'spectra'\nx = 'wavelength'\ny = 'absorbance'\nby = 'Sample'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/tops.csv"),
            "Sample,top,n,at [nm]\nblank,0.02,12,\nstd 1,0.32,12,520\nstd 2,0.62,12,520\nstd 3,0.92,12,520\n"
            "unknown,0.53,12,520\n");
  EXPECT_TRUE(folder.read("results/spectra.csv")
                  .starts_with("Sample,Wavelength [µm],absorbance\nblank,0.46,0.0200\n"));
  EXPECT_TRUE(folder.has("results/figures/spectra.png"));
  const Outcome explained = run_program(folder, {"explain", "spectra.absorbance", "--row", "14"});
  EXPECT_NE(explained.out.find("s.csv line 3"), std::string::npos) << explained.out;
}

// Pairs of columns side by side as one long sheet.
TEST(Exports, PairsOfColumnsBecomeOneLongSheet) {
  const TempFolder folder;
  folder.write("t.csv", "x1 [mm],y1 [N],x2 [mm],y2 [kN]\n1,10,2,0.02\n3,,4,0.04\n");
  const std::string begin =
      "[sheet.wide]\ndata = 't.csv'\n[sheet.long]\nrows_of = 'wide'\n"
      "one_row_per_cell = ['x?', 'y?']\nfrom_header = 'curve'\n";
  folder.write("study.toml", begin + "cell = ['x', 'force \"Force\"']\nequations = 'k [N/mm] = force / x'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/long.csv"),
            "curve,x [mm],Force [N],k [N/mm]\n1,1,10,10\n2,2,20,10\n1,3,,\n2,4,40,10\n");
  folder.write("study.toml", begin + "cell = ['x', 'y', 'z']\n");
  EXPECT_EQ(run_program(folder, {"check"}).code, 3);
}

// Of hundreds of columns that are alike the summary and the check say what they have in common.
TEST(Exports, ManyLikeColumnsAreToldInALine) {
  const TempFolder folder;
  std::string header = "name";
  std::string gaps = "u";
  std::string whole = "v";
  for (int i = 0; i < 600; ++i) {
    header += ",ch" + std::to_string(i) + " [V]";
    gaps += i % 2 == 0 ? "," : "," + std::to_string(i);
    whole += "," + std::to_string(i);
  }
  folder.write("t.csv", header + "\n" + gaps + "\n" + whole + "\n");
  folder.write("study.toml",
               "[sheet.a]\ndata = 't.csv'\ncolumns.'ch*'.unit = 'mV'\n"
               "equations = 'for c in \"ch*\": {c}_d = 2 * {c}'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.out.find("ch0 … ch598 (300 columns)  mV  300 of 600 known; null: 300 missing"),
            std::string::npos)
      << outcome.out;
  EXPECT_NE(outcome.out.find("ch0_d … ch599_d (600 columns)  mV  900 of 1200 known"), std::string::npos)
      << outcome.out;
  EXPECT_LT(outcome.out.size(), 1000U);
  EXPECT_TRUE(outcome.err.starts_with("study.toml:3:23: warning: ch*: the unit mV replaces V of the header"));
  EXPECT_LT(outcome.err.size(), 200U) << outcome.err;
}

// Two plates of rows and columns, joined by the place of a well.
TEST(Exports, APlateIsJoinedWithItsLayout) {
  const TempFolder folder;
  folder.write("plate.csv", export_bytes("plate_reader.csv"));
  std::string layout = "Row";
  for (int i = 1; i <= 12; ++i) layout += "," + std::to_string(i);
  for (const char row : std::string("ABCDEFGH")) {
    layout += std::string("\n") + row;
    for (int i = 1; i <= 12; ++i) layout += ",s" + std::to_string((i - 1) / 3);
  }
  folder.write("layout.csv", layout + "\n");
  const std::string cells = "one_row_per_cell = 'c_*'\nfrom_header = 'column'\n";
  folder.write("study.toml",
               "[sheet.plate_wide]\ndata = 'plate.csv'\nread.skip_rows = 3\n"
               "[sheet.layout_wide]\ndata = 'layout.csv'\n"
               "[sheet.layout]\nrows_of = 'layout_wide'\ncell = 'sample'\n" +
                   cells + "[sheet.plate]\nrows_of = 'plate_wide'\ncell = 'signal'\n" + cells +
                   "link.layout = { match = ['Row', 'column'] }\nequations = 'sample = layout.sample'\n"
                   "[sheet.means]\nrows_of = 'plate'\none_row_per = ['sample']\n"
                   "equations = '''\n mean = col_mean(signal)\n n = col_count(signal)\n'''\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  // One well of the second group is empty: 24 wells less one of 0.17.
  EXPECT_EQ(folder.read("results/means.csv"),
            "sample,mean,n\ns0,0.085,24\ns1,0.185652173913,23\ns2,0.285,24\ns3,0.385,24\n");
}

// Lines before the table are quantities of its rows, for each of several files.
TEST(Exports, LinesBeforeTheTableAreQuantities) {
  const TempFolder folder;
  folder.write("a7.csv", export_bytes("tensile.csv"));
  std::string other = export_bytes("tensile.csv");
  other.replace(other.find("A7"), 2, "A8");
  other.replace(other.find("12,5;mm"), 7, "0,02;m");
  folder.write("a8.csv", other);
  folder.write("study.toml",
               "[sheet.bars]\ndata = ['a7.csv', 'a8.csv']\nread = { skip_rows = 5, decimal_char = ',' }\n"
               "preamble.specimen = 'Specimen'\npreamble.width = 'Specimen width'\n"
               "preamble.thickness = 'Thickness'\n"
               "equations = 'stress [MPa] = Force / (width * thickness)'\n"
               "[sheet.strength]\nrows_of = 'bars'\none_row_per = ['specimen', 'width']\n"
               "equations = 'top [MPa] = col_max(stress)'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/strength.csv"),
            "Specimen,Specimen width [mm],top [MPa]\nA7,12.5,211.663157895\nA8,20,132.289473684\n");
}

}  // namespace
}  // namespace opensum
