// Workbooks, databases, JSON and metadata: what is written is read back the same, and what others write is
// read.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

#include "files/workbook_bytes.h"
#include "program/program.h"

namespace opensum {
namespace {

const std::string kMeasured =
    "Site,Depth [m],taken on,ok,share [%],notes,code\n"
    "A,1.50,2031-04-02,true,5,\"x=1, \"\"y\"\"\",007\n"
    "B,2,2031-04-03T10:30:00,false,,NA?,008\n"
    ",-3.25e-7,,,7,\"  two\nlines \",009\n"
    "C,,2031-04-05T23:59:59.5,true,1234567.125,µ <&> \"',010\n";

// The columns of a written table as JSON has them, without the notes on how they were derived.
nlohmann::json columns_of(const std::string& json) {
  nlohmann::json columns = nlohmann::json::parse(json)["columns"];
  for (auto& column : columns) {
    column.erase("equation");
    column.erase("nulls");
    column.erase("null_reasons");
  }
  return columns;
}

// A study over the measured table that is written in every format.
void write_all(const TempFolder& folder) {
  folder.write("m.csv", kMeasured);
  folder.write(
      "study.toml",
      "write = ['csv', 'ods', 'xlsx', 'json', 'sqlite']\nheaders = 'symbol'\n[sheet.m]\ndata = 'm.csv'\n"
      "columns.share.unit = '%'\ncolumns.notes.kind = 'text'\nequations = '''\n  third [m] = Depth / 3\n"
      "  late = taken_on + 1.5 [d]\n  tag = concat(code, \"-\", Site)\n  deep = Depth > 1 [m]\n'''\n"
      "[sheet.sites]\nrows_of = 'm'\none_row_per = ['Site']\nequations = 'n = col_count(Depth)'\n");
  const Outcome outcome = run_program(folder, {"run"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
}

TEST(Formats, WhatIsWrittenIsReadBackTheSame) {
  const TempFolder folder;
  write_all(folder);
  const nlohmann::json written = columns_of(folder.read("results/m.json"));
  std::size_t compared = 0;
  for (const std::string source : {"m.csv", "tables.ods#m", "tables.xlsx#m", "tables.sqlite#m"}) {
    // In the header of workbooks and databases a symbol stands without its unit.
    const bool with_units = source == "m.csv";
    std::string study = "write = 'json'\noutput = 'again'\n[sheet.m]\ndata = 'results/" + source + "'\n";
    if (!with_units) study += "columns = { Depth.unit = 'm', share.unit = '%', third.unit = 'm' }\n";
    folder.write("again.toml", study);
    const Outcome outcome = run_program(folder, {"run", "again.toml"});
    ASSERT_EQ(outcome.code, 0) << source << outcome.err;
    const nlohmann::json again = columns_of(folder.read("again/m.json"));
    ASSERT_EQ(again.size(), written.size());
    for (std::size_t i = 0; i < written.size(); ++i) {
      const std::string name = written[i]["symbol"];
      EXPECT_EQ(again[i]["symbol"], name) << source;
      EXPECT_EQ(again[i]["kind"], written[i]["kind"]) << source << name;
      if (written[i].contains("unit")) {
        EXPECT_EQ(again[i]["unit"], written[i]["unit"]) << source << name;
      }
      EXPECT_EQ(again[i]["values"], written[i]["values"]) << source << name;
      ++compared;
    }
  }
  EXPECT_EQ(compared, 44U);
}

TEST(Formats, HeadersOfWorkbooksCarryTheirUnits) {
  const TempFolder folder;
  folder.write("m.csv", "Depth of water [m],t [degC]\n1.5,20\n");
  folder.write("study.toml", "write = ['ods', 'xlsx', 'sqlite']\n[sheet.m]\ndata = 'm.csv'\n");
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_FALSE(folder.has("results/m.csv"));
  for (const char* file : {"ods", "xlsx", "sqlite"}) {
    const Outcome outcome =
        run_program(folder, {"look", std::string("results/tables.") + file + "#m", "--format", "json"});
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    const nlohmann::json columns = nlohmann::json::parse(outcome.out)["columns"];
    EXPECT_EQ(columns[0]["symbol"], "Depth_of_water") << file;
    EXPECT_EQ(columns[0]["unit"], "m") << file;
    EXPECT_EQ(columns[1]["unit"], "°C") << file;
  }
}

TEST(Formats, TheBytesAreTheSameAtEveryRun) {
  const TempFolder folder;
  write_all(folder);
  std::map<std::string, std::string> first;
  for (const char* name : {"tables.ods", "tables.xlsx", "tables.sqlite", "m.json"}) {
    first[name] = folder.read(std::string("results/") + name);
    EXPECT_FALSE(first[name].empty());
  }
  // The clocks in zip files tick in steps of two seconds.
  ::sleep(2);
  write_all(folder);
  for (const auto& [name, bytes] : first) EXPECT_EQ(folder.read("results/" + name) == bytes, true) << name;
}

// An independent reader of both open formats, that of the orcus library, finds the same cells.
TEST(Formats, AnotherReaderFindsTheSameCells) {
  const TempFolder folder;
  write_all(folder);
  const auto cells = [](const std::string& csv) {
    std::vector<std::vector<std::string>> rows(1, std::vector<std::string>(1));
    bool quoted = false;
    for (const char c : csv) {
      if (c == '"') {
        quoted = !quoted;
      } else if (c == ',' && !quoted) {
        rows.back().emplace_back();
      } else if (c == '\n' && !quoted) {
        rows.emplace_back(1);
      } else {
        rows.back().back() += c;
      }
    }
    return rows;
  };
  for (const std::string format : {"ods", "xlsx"}) {
    const std::string out = folder.path("orcus-" + format);
    const std::string command = "orcus-" + format + " -f csv -o " + out + " " +
                                folder.path("results/tables." + format) + " >/dev/null 2>&1";
    // The program for ODS ends with 1 even when all is well.
    EXPECT_GE(std::system(command.c_str()), 0) << command;
    ASSERT_TRUE(folder.has("orcus-" + format + "/m.csv")) << command;
    const auto sheet = cells(folder.read("orcus-" + format + "/m.csv"));
    ASSERT_GE(sheet.size(), 3U);
    EXPECT_EQ(sheet[0], (std::vector<std::string>{"Site", "Depth", "taken_on", "ok", "share", "notes", "code",
                                                  "third", "late", "tag", "deep"}));
    EXPECT_EQ(sheet[1][0], "A");
    EXPECT_EQ(sheet[1][1], "1.5");
    // Days since 1899-12-30.
    EXPECT_EQ(sheet[1][2], "47940");
    EXPECT_EQ(sheet[2][2], "47941.4375");
    EXPECT_EQ(sheet[1][8], "47941.5");
    EXPECT_EQ(sheet[1][4], "5");
    EXPECT_EQ(sheet[2][4], "");
    EXPECT_EQ(sheet[1][6], "007");
    EXPECT_EQ(sheet[2][9], "008-B");
    EXPECT_NEAR(std::stod(sheet[2][7]), 2.0 / 3, 1e-12);
    const auto equations = cells(folder.read("orcus-" + format + "/equations.csv"));
    EXPECT_EQ(equations[0],
              (std::vector<std::string>{"sheet", "column", "symbol", "unit", "kind", "equation", "nulls"}));
    EXPECT_EQ(equations[8],
              (std::vector<std::string>{"m", "third", "third", "m", "number", "Depth / 3", "propagated"}));
  }
}

// Reads a sheet of a workbook made by hand, as JSON.
nlohmann::json look(const std::string& bytes, const std::string& name,
                    std::vector<std::string> options = {}) {
  const TempFolder folder;
  folder.write(name.substr(0, name.find('#')), bytes);
  std::vector<std::string> args = {"look", name, "--format", "json"};
  args.insert(args.end(), options.begin(), options.end());
  const Outcome outcome = run_program(folder, args);
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  return outcome.code == 0 ? nlohmann::json::parse(outcome.out)["columns"] : nlohmann::json();
}

TEST(Formats, DatesOfBothCalendarsAndClocksAreRead) {
  const std::string styles =
      "<numFmts><numFmt numFmtId=\"164\" formatCode=\"[$-809]dd\\-mmm\\ yyyy\"/><numFmt numFmtId=\"165\" "
      "formatCode=\"[h]:mm\"/><numFmt numFmtId=\"166\" formatCode=\"0.00&quot; days&quot;\"/></numFmts>"
      "<cellXfs><xf numFmtId=\"0\"/><xf numFmtId=\"14\"/><xf numFmtId=\"22\"/><xf numFmtId=\"164\"/><xf "
      "numFmtId=\"165\"/><xf numFmtId=\"166\"/></cellXfs>";
  const auto row = [](const std::string& serial) {
    std::string cells;
    for (int style = 1; style <= 5; ++style) {
      cells += "<c s=\"" + std::to_string(style) + "\"><v>" + serial + "</v></c>";
    }
    return "<row>" + cells + "</row>";
  };
  const std::string header =
      "<row><c t=\"inlineStr\"><is><t>day</t></is></c><c t=\"str\"><v>moment</v></c><c "
      "t=\"str\"><v>own</v></c><c "
      "t=\"str\"><v>clock</v></c><c t=\"str\"><v>n</v></c></row>";
  const std::string sheet =
      "<sheetData>" + header + row("1") + row("59") + row("61") + row("47940.75") + "</sheetData>";
  const nlohmann::json of_1900 = look(xlsx_bytes({{"a", sheet}}, "", styles), "b.xlsx");
  const nlohmann::json days = {"1900-01-01", "1900-02-28", "1900-03-01", "2031-04-02T18:00:00"};
  EXPECT_EQ(of_1900[0]["values"], days);
  EXPECT_EQ(of_1900[1]["values"], days);
  EXPECT_EQ(of_1900[2]["values"], days);
  EXPECT_EQ(of_1900[3]["values"][3], "1150578:00:00");
  EXPECT_EQ(of_1900[4]["values"], (nlohmann::json{1, 59, 61, 47940.75}));
  const nlohmann::json of_1904 =
      look(xlsx_bytes({{"a", sheet}}, "", styles, "<workbookPr date1904=\"1\"/>"), "b.xlsx#a");
  EXPECT_EQ(of_1904[0]["values"],
            (nlohmann::json{"1904-01-02", "1904-02-29", "1904-03-02", "2035-04-03T18:00:00"}));
}

TEST(Formats, StringsOfAllSortsAndGapsAreRead) {
  const std::string strings =
      "<si><t>name</t></si><si><r><t xml:space=\"preserve\">two "
      "</t></r><r><t>runs</t></r><rPh><t>no</t></rPh></si>";
  const std::string sheet =
      "<sheetData><row r=\"3\"><c r=\"A3\" t=\"s\"><v>0</v></c><c r=\"B3\" t=\"str\"><v>x [m]</v></c></row>"
      "<row r=\"5\"><c r=\"B5\"><f>1+1</f><v>2</v></c><c r=\"A5\" t=\"s\"><v>1</v></c></row>"
      "<row r=\"7\"><c r=\"B7\" t=\"e\"><f>1/0</f><v>#DIV/0!</v></c></row>"
      "<row r=\"8\"><c r=\"A8\" t=\"str\"><v>z</v></c><c r=\"B8\"><f>NOW()</f></c></row>"
      "<row r=\"9\"><c r=\"B9\"><v>0.30000000000000004</v></c></row><row r=\"10\"><c "
      "r=\"B10\"><v>0.1</v></c></row>"
      "<row r=\"11\"><c r=\"A11\"/><c r=\"B11\"><f>A1*2</f><v></v></c></row>"
      "<row r=\"12\"><c r=\"B12\"><v>7</v></c></row></sheetData>";
  const nlohmann::json columns =
      look(xlsx_bytes({{"a", sheet}}, strings), "b.xlsx", {"--unreadable", "null"});
  EXPECT_EQ(columns[0]["values"],
            (nlohmann::json{"two runs", nullptr, "z", nullptr, nullptr, nullptr, nullptr}));
  EXPECT_EQ(columns[1]["unit"], "m");
  EXPECT_EQ(columns[1]["values"],
            (nlohmann::json{2, nullptr, nullptr, 0.30000000000000004, 0.1, nullptr, 7}));
  // Neither an error nor a formula without a stored value passes for an empty cell.
  EXPECT_EQ(columns[1]["null_reasons"],
            (nlohmann::json{{"2", "unreadable"}, {"3", "unreadable"}, {"6", "unreadable"}}));
}

TEST(Formats, RepeatedCellsSpacesAndNotesOfOpenDocumentAreRead) {
  const std::string table =
      "<table:table table:name=\"a\"><table:table-header-rows>" + ods_row({"name", "x"}) +
      "</table:table-header-rows><table:table-row table:number-rows-repeated=\"2\"><table:table-cell "
      "office:value-type=\"string\"><office:annotation><text:p>note</text:p></"
      "office:annotation><text:p>a<text:s "
      "text:c=\"2\"/>b</text:p><text:p>c</text:p></table:table-cell><table:table-cell "
      "office:value-type=\"float\" "
      "office:value=\"1.50\"><text:p>1,5</text:p></table:table-cell><table:table-cell "
      "table:number-columns-repeated=\"16000\"/></table:table-row><table:table-row "
      "table:number-rows-repeated=\"3\"><table:table-cell/></table:table-row>"
      "<table:table-row><table:table-cell office:value-type=\"time\" office:time-value=\"PT01H02M03.5S\"/>"
      "<table:table-cell office:value-type=\"percentage\" office:value=\"0.05\"/></table:table-row>"
      "<table:table-row table:number-rows-repeated=\"1048000\"><table:table-cell "
      "table:number-columns-repeated=\"16384\"/></table:table-row></table:table>";
  const nlohmann::json columns = look(ods_bytes(table), "b.ods#a");
  EXPECT_EQ(columns[0]["values"], (nlohmann::json{"a  b\nc", "a  b\nc", "01:02:03.5"}));
  EXPECT_EQ(columns[1]["values"], (nlohmann::json{1.5, 1.5, 0.05}));
}

// A long sheet, whose rows say their numbers or leave them to be counted; `late` stands in one of the last.
std::string long_sheet(bool numbered, std::size_t rows, const std::string& late = "") {
  std::string sheet = "<sheetData>";
  for (std::size_t row = 1; row <= rows + 1; ++row) {
    const std::string number = std::to_string(row);
    sheet += numbered ? "<row r=\"" + number + "\">" : "<row>";
    const auto cell = [&](const std::string& column, const std::string& more, const std::string& value) {
      sheet += "<c" + (numbered ? " r=\"" + column + number + "\"" : std::string()) + more + "><v>" + value +
               "</v></c>";
    };
    if (row == 1) {
      for (const char* name : {"A", "B", "C"}) cell(name, " t=\"str\"", std::string("name ") + name);
    } else {
      cell("A", "", std::to_string(row) + ".25");
      cell("B", " t=\"str\"", "place " + std::to_string(row % 7));
      cell("C", "", std::to_string(row * row));
    }
    if (row == rows - 5) sheet += late;
    sheet += "</row>";
  }
  return sheet + "</sheetData>";
}

TEST(Formats, LongSheetsAreReadInPiecesOfRows) {
  constexpr std::size_t kRows = 20'000;
  const TempFolder folder;
  std::string csv = "name A,name B,name C,twice\n";
  for (std::size_t row = 2; row <= kRows + 1; ++row)
    csv += std::to_string(row) + ".25,place " + std::to_string(row % 7) + ',' + std::to_string(row * row) +
           ',' + std::to_string(2 * row) + ".5\n";
  folder.write("study.toml", "[sheet.s]\ndata = 'b.xlsx'\nequations = 'twice = 2 * name_A'\n");
  for (const bool numbered : {true, false}) {
    folder.write("b.xlsx", xlsx_bytes({{"a", long_sheet(numbered, kRows)}}));
    for (const char* threads : {"1", "2", "7"}) {
      const Outcome outcome = run_program(folder, {"run", "--threads", threads});
      ASSERT_EQ(outcome.code, 0) << outcome.err;
      EXPECT_TRUE(folder.read("results/s.csv") == csv) << threads << " threads, rows numbered: " << numbered;
    }
  }
  // What is wrong in a late row is said as it is in a short sheet.
  folder.write("b.xlsx", xlsx_bytes({{"a", long_sheet(true, kRows, "<c r=\"D7\"><v>1</v></c>")}}));
  const Outcome misnamed = run_program(folder, {"look", "b.xlsx"});
  EXPECT_EQ(misnamed.code, 4);
  EXPECT_NE(misnamed.err.find("a cell of row 19995 is called `D7`"), std::string::npos) << misnamed.err;
}

// More than is held while rows are computed, in order or not: each format is read back as the CSV is.
TEST(Formats, LongSheetsAreWrittenAsTheirRowsCome) {
  constexpr int kRows = 42000;
  const TempFolder folder;
  std::string rows = "n,x [m],note,day\n";
  for (int row = 0; row < kRows; ++row) {
    rows += fmt::format(
        "{},{},{} {},2031-04-{:02}\n", row, row % 11 == 3 ? "" : fmt::format("{}.5", row % 977),
        std::string(row % 97 == 5 ? 900 : 200, static_cast<char>('a' + row % 26)), row, row % 28 + 1);
  }
  folder.write("t.csv", rows);
  for (const char* order : {"", "sort_by = ['x down', 'n']\n"}) {
    folder.write("study.toml",
                 std::string("write = ['csv', 'ods', 'xlsx', 'json', 'sqlite', 'nc']\n[sheet.t]\n"
                             "data = 't.csv'\nequations = 'half = x / 2'\n") +
                     order);
    const Outcome run = run_program(folder, {"run"});
    ASSERT_EQ(run.code, 0) << run.err;
    const auto read_back = [&](const std::string& file, const std::string& show = "n,x,note,day,half,twice") {
      const Outcome outcome = run_program(
          folder, {"derive", "results/" + file, "twice = 2 * n", "--show", show, "--format", "csv"});
      EXPECT_EQ(outcome.code, 0) << file << ": " << outcome.err;
      return outcome.out.substr(outcome.out.find('\n') + 1);
    };
    const std::string expected = read_back("t.csv");
    ASSERT_EQ(std::count(expected.begin(), expected.end(), '\n'), kRows);
    EXPECT_EQ(expected.starts_with("0,"), *order == '\0');
    for (const char* file : {"tables.ods#t", "tables.xlsx#t", "tables.sqlite#t"})
      EXPECT_TRUE(read_back(file) == expected) << file << order;
    // There, days are moments.
    EXPECT_TRUE(read_back("tables.nc", "n,x,note,half,twice") == read_back("t.csv", "n,x,note,half,twice"))
        << order;
    const nlohmann::json columns = nlohmann::json::parse(folder.read("results/t.json"))["columns"];
    ASSERT_EQ(columns.size(), 5U);
    std::string joined;
    for (int row = 0; row < kRows; ++row) {
      const nlohmann::json& n = columns[0]["values"][row];
      const nlohmann::json& x = columns[1]["values"][row];
      joined += fmt::format(
          "{},{},{},{},{},{}\n", n.get<int>(), x.is_null() ? "" : fmt::format("{}", x.get<double>()),
          columns[2]["values"][row].get<std::string>(), columns[3]["values"][row].get<std::string>(),
          x.is_null() ? "" : fmt::format("{}", x.get<double>() / 2), 2 * n.get<int>());
    }
    EXPECT_TRUE(joined == expected) << "JSON " << order;
    EXPECT_EQ(columns[1]["null_reasons"].size(), 3818U);
  }
}

TEST(Formats, EmptyRowsAndColumnsAroundATableAreNoPartOfIt) {
  const std::string sheet =
      "<sheetData><row r=\"4\"><c r=\"C4\" t=\"str\"><v>x</v></c><c r=\"E4\" t=\"str\"><v>y</v></c></row>"
      "<row r=\"6\"><c r=\"C6\"><v>1</v></c><c r=\"D6\"><v>2</v></c><c "
      "r=\"E6\"><v>3</v></c></row></sheetData>";
  const nlohmann::json columns = look(xlsx_bytes({{"a", sheet}}), "b.xlsx");
  ASSERT_EQ(columns.size(), 3U);
  EXPECT_EQ(columns[0]["symbol"], "x");
  // A column with cells but without a header stays.
  EXPECT_EQ(columns[1]["values"], (nlohmann::json{2}));
  EXPECT_EQ(columns[2]["symbol"], "y");
}

TEST(Formats, SettingsForReadingCountTheRowsOfASheet) {
  const std::string table = "<table:table table:name=\"a\">" + ods_row({"Bench 3"}) + ods_row({"t", "x"}) +
                            ods_row({"s", "[mm]"}) + ods_row({"1", "2,5"}) + ods_row({"2", "-999"}) +
                            ods_row({"end of file"}) + "</table:table>";
  const nlohmann::json columns = look(ods_bytes(table), "b.ods",
                                      {"--skip-rows", "1", "--units-row", "3", "--skip-end", "1",
                                       "--decimal-char", ",", "--missing-also=-999"});
  EXPECT_EQ(columns[1]["unit"], "mm");
  EXPECT_EQ(columns[1]["values"], (nlohmann::json{2.5, nullptr}));
}

TEST(Formats, ADatabaseKeepsRowsThatAreNullThroughout) {
  const TempFolder folder;
  folder.write("m.csv", "x [m],ok\n1,true\n,\n3,false\n");
  folder.write("study.toml", "write = 'sqlite'\n[sheet.m]\ndata = 'm.csv'\n");
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const Outcome outcome = run_program(folder, {"look", "results/tables.sqlite#m", "--format", "csv"});
  EXPECT_EQ(outcome.out, "x [m],ok\n1,true\n,\n3,false\n") << outcome.err;
}

TEST(Formats, AFileWhoseNameHoldsTheSignWins) {
  const TempFolder folder;
  folder.write("a#b.csv", "x\n1\n");
  EXPECT_EQ(run_program(folder, {"look", "a#b.csv", "--values"}).out, "1\n");
}

TEST(Formats, MetadataBesideATableAreUsed) {
  const TempFolder folder;
  folder.write("t.csv", "F;code;when;x\n1,5;007;2031-04-02;n/k\n2,5;8;2031-04-03;2\n");
  folder.write(
      "t.csv-metadata.json",
      R"({"@context":"http://www.w3.org/ns/csvw","dialect":{"delimiter":";"},"tableSchema":{"columns":[
                 {"titles":["Flow","F"],"name":"flow","datatype":"number","urn:opensum:unit":"L/min",
                  "urn:opensum:label":"Coolant flow"},
                 {"titles":{"en":"code"},"datatype":"string"},{"titles":"when","datatype":{"base":"date"}},
                 {"titles":"x","datatype":"double","null":["n/k",""]},{"name":"v","virtual":true}]}})");
  const Outcome outcome = run_program(folder, {"look", "t.csv", "--decimal-char", ",", "--format", "json"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  const nlohmann::json columns = nlohmann::json::parse(outcome.out)["columns"];
  EXPECT_EQ(columns[0]["symbol"], "flow");
  EXPECT_EQ(columns[0]["label"], "Coolant flow");
  EXPECT_EQ(columns[0]["unit"], "L/min");
  EXPECT_EQ(columns[0]["values"], (nlohmann::json{1.5, 2.5}));
  EXPECT_EQ(columns[1]["kind"], "text");
  EXPECT_EQ(columns[2]["kind"], "date");
  EXPECT_EQ(columns[3]["values"], (nlohmann::json{nullptr, 2}));
}

TEST(Formats, DeriveWritesTheFormatThatTheEndingSays) {
  const TempFolder folder;
  folder.write("t.csv", "x [m]\n1\n3\n");
  for (const char* name : {"o.ods", "o.xlsx", "o.sqlite", "o.json", "o.tsv"}) {
    EXPECT_EQ(run_program(folder, {"derive", "t.csv", "y = 2 * x", "--output", name}).code, 0) << name;
    EXPECT_EQ(run_program(folder, {"derive", "t.csv", "y = 2 * x", "--output", name}).code, 2) << name;
  }
  EXPECT_EQ(run_program(folder, {"look", "o.ods#t", "--format", "csv"}).out, "x [m],y [m]\n1,2\n3,6\n");
  EXPECT_EQ(run_program(folder, {"derive", "t.csv", "y = 2 * x", "--format", "markdown"}).out,
            "| x [m] | y [m] |\n| ---: | ---: |\n| 1 | 2 |\n| 3 | 6 |\n");
  EXPECT_EQ(run_program(folder, {"derive", "t.csv", "y = 2 * x", "--output", "t.csv/o.ods"}).code, 2);
  EXPECT_EQ(folder.names(),
            (std::vector<std::string>{"o.json", "o.ods", "o.sqlite", "o.tsv", "o.xlsx", "t.csv"}));
}

TEST(Formats, LookChoosesRowsAndColumns) {
  const TempFolder folder;
  std::string text = "i,t_a [K],t_b [K],name\n";
  for (int i = 1; i <= 30; ++i) text += std::to_string(i) + "," + std::to_string(i * 2) + ",,n\n";
  folder.write("t.csv", text);
  EXPECT_EQ(
      run_program(folder, {"look", "t.csv", "--rows", "28..40", "--show", "name,i..t_a", "--values"}).out,
      "n\t28\t56\nn\t29\t58\nn\t30\t60\n");
  EXPECT_EQ(run_program(folder, {"look", "t.csv", "--rows", "7", "--show", "t_*", "--format", "csv"}).out,
            "t_a [K],t_b [K]\n14,\n");
  const Outcome framed = run_program(folder, {"look", "t.csv", "--rows", "7", "--show", "t_a"});
  EXPECT_NE(framed.out.find("│    8 │  14 │\n"), std::string::npos) << framed.out;
  for (const auto& [option, value] : std::vector<std::pair<std::string, std::string>>{{"--rows", "0"},
                                                                                      {"--rows", "9..7"},
                                                                                      {"--rows", "x"},
                                                                                      {"--rows", "31"},
                                                                                      {"--show", "nam"},
                                                                                      {"--show", "name..i"},
                                                                                      {"--show", "z*"},
                                                                                      {"--format", "xml"}}) {
    const Outcome outcome = run_program(folder, {"look", "t.csv", option, value});
    EXPECT_EQ(outcome.code, 2) << option << value;
    EXPECT_EQ(outcome.out, "");
    EXPECT_NE(outcome.err, "");
  }
}

}  // namespace
}  // namespace opensum
