// Rows that are left in their file, read in blocks, against the reader of whole tables.
#include "files/csv_rows.h"

#include <gtest/gtest.h>

#include <iostream>
#include <random>

#include "engine/blocks.h"
#include "files/csv_reader.h"
#include "files/file_of.h"
#include "table/survey.h"

namespace opensum {
namespace {

class Limits {
 public:
  Limits(std::size_t long_table, std::size_t block) : before_(row_limits()) {
    set_row_limits({long_table, block});
  }
  ~Limits() { set_row_limits(before_); }
  Limits(const Limits&) = delete;
  Limits& operator=(const Limits&) = delete;

 private:
  RowLimits before_;
};

// Cells with everything that quotes are for.
std::string random_table(std::mt19937& random, std::size_t columns, std::size_t rows) {
  const std::vector<std::string> cells = {
      "",    "1",        "x y",       "\"a,b\"",          "\"over\ntwo\"", "\"\"", "\"say \"\"no\"\"\"",
      "5\"", "\"\n\n\"", "\"\r\n,\"", "\xC3\xA9\xC3\xA9", "-3.5e2"};
  const std::vector<std::string> ends = {"\n", "\n", "\r\n", "\n\n", "\r\n\r\n"};
  std::string text;
  for (std::size_t column = 0; column < columns; ++column)
    text += (column > 0 ? ",c" : "c") + std::to_string(column);
  text += "\n";
  for (std::size_t row = 0; row < rows; ++row) {
    for (std::size_t column = 0; column < columns; ++column)
      text += (column > 0 ? "," : "") + cells[random() % cells.size()];
    text += ends[random() % ends.size()];
  }
  return text;
}

// The columns of a table that is read whole, as texts, and the same in blocks.
void expect_the_same(const std::string& text, std::size_t block, std::size_t& compared,
                     const ReadSettings& settings = {}) {
  Diagnostics diagnostics;
  const auto whole = read_csv(file_of(text), settings, diagnostics);
  ASSERT_TRUE(whole) << text << render(diagnostics);
  const Limits limits(1, block);
  const auto left_rows = read_csv(file_of(text), settings, diagnostics, Rows::left_if_long);
  ASSERT_TRUE(left_rows && left_rows->left_in_file);
  LeftInFile left;
  left.source = left_rows->left_in_file;
  left.files = {left_rows->file};
  std::vector<Column> columns(left_rows->headers.size());
  std::vector<Column*> pointers;
  for (Column& column : columns) {
    CellRules rules;
    rules.kind = Kind::text;
    left.rules.push_back(rules);
    pointers.push_back(&column);
  }
  ASSERT_TRUE(survey_rows(left, pointers, LookedAt::all_rows)) << text;
  ASSERT_EQ(left.rows(), whole->rows()) << "blocks of " << block << " in\n" << text;
  Table table;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    columns[i].in_source = i;
    table.columns.push_back(columns[i]);
  }
  FileBlocks source(left, table);
  std::size_t rows = 0;
  for (std::size_t part = 0; part < source.count(); ++part) {
    Block one;
    one.table = table.without_rows();
    source.get(part, std::vector<bool>(columns.size(), true), one);
    ASSERT_EQ(one.first_row, rows);
    for (std::size_t row = 0; row < one.table.rows; ++row, ++rows) {
      ASSERT_EQ(one.table.lines[row], whole->lines[rows]);
      for (std::size_t i = 0; i < columns.size(); ++i) {
        ASSERT_EQ(one.table.columns[i].text(row), whole->columns[i][rows])
            << "row " << rows << ", blocks of " << block;
        ++compared;
      }
    }
  }
  ASSERT_EQ(rows, whole->rows());
  // Every second row, as a condition would leave them.
  std::vector<bool> kept(left.rows());
  for (std::size_t row = 0; row < kept.size(); row += 2) kept[row] = true;
  left.keep(kept);
  EXPECT_EQ(left.rows(), (kept.size() + 1) / 2);
  RawRows raw;
  std::size_t next = 0;
  for (const RowBlock& one : left.blocks) {
    read_block(left, one, raw);
    ASSERT_EQ(raw.rows(), one.rows);
    EXPECT_EQ(one.first_row, next / 2);
    for (std::size_t row = 0; row < raw.rows(); ++row, next += 2)
      ASSERT_EQ(raw.columns[0][row], whole->columns[0][next]);
  }
}

TEST(CsvRows, AreTheSameInBlocksOfAnySize) {
  std::mt19937 random(23);
  std::size_t compared = 0;
  for (int round = 0; round < 60; ++round) {
    const std::string text = random_table(random, 2 + random() % 3, 1 + random() % 12);
    for (std::size_t block = 1; block <= text.size(); block += 1 + block / 8)
      expect_the_same(text, block, compared);
  }
  std::cout << compared << " cells compared\n";
  EXPECT_GT(compared, 10000U);
}

// A block that is begun inside of quotes is begun again where the one before ends.
TEST(CsvRows, AreFoundBehindLineEndsInsideOfQuotes) {
  std::string text = "a,b\n";
  for (int row = 0; row < 30; ++row) text += "\"x\n1,2\n3,4\ny\"," + std::to_string(row) + "\n";
  std::size_t compared = 0;
  for (std::size_t block = 1; block < 60; ++block) expect_the_same(text, block, compared);
  EXPECT_EQ(compared, 59U * 60U);
}

// Comments between the rows, rows that are short, a delimiter at the end of each, blanks as delimiters,
// quotes after blanks.
TEST(CsvRows, OfAllFormsAreTheSameInBlocksOfAnySize) {
  std::mt19937 random(29);
  std::size_t compared = 0;
  const std::vector<std::string> cells = {"1",       "-2.5e3", "x", "\"a b\"", "\"with \"\"quotes\"\" in\"",
                                          "\xC3\xA9"};
  for (int round = 0; round < 80; ++round) {
    const bool blanks = round % 2 == 0;
    const bool trailing = round % 4 == 1;
    ReadSettings settings;
    settings.delimiter = blanks ? ' ' : ';';
    settings.comment = "#";
    settings.short_rows_are_null = round % 3 == 0 && !trailing;
    std::string text = blanks ? "a  b\tc\n" : "a;b;c\n";
    for (auto rows = 1 + random() % 12; rows > 0; --rows) {
      if (random() % 4 == 0) text += "# a remark; with 1 2 \"quote\n";
      if (random() % 5 == 0) text += blanks ? " \t\n" : "\r\n";
      if (blanks && random() % 3 == 0) text += "  ";
      const std::size_t width = settings.short_rows_are_null ? 1 + random() % 3 : 3;
      for (std::size_t i = 0; i < width; ++i) {
        if (i > 0) text += blanks ? (random() % 2 == 0 ? "   " : " \t") : ";";
        const std::string& cell = cells[random() % cells.size()];
        if (!blanks && cell[0] == '"' && random() % 2 == 0) text += ' ';
        text += cell;
      }
      if (trailing) text += ';';
      if (blanks && random() % 3 == 0) text += " ";
      text += random() % 3 == 0 ? "\r\n" : "\n";
    }
    // The file ends in the middle of a line, be it one of blanks only.
    if (blanks && round % 5 == 1) text += "  \t";
    if (round % 5 == 2) text.pop_back();
    for (std::size_t block = 1; block <= text.size(); block += 1 + block / 8)
      expect_the_same(text, block, compared, settings);
  }
  std::cout << compared << " cells compared\n";
  EXPECT_GT(compared, 20000U);
}

TEST(CsvRows, ThatAreNotPlainAreLeftToTheCarefulReader) {
  for (const std::string& bad :
       {std::string("1\n"), std::string("1,2,3\n"), std::string("\"1,2\n"), std::string("\"1\"x,2\n"),
        std::string("1,\xFF\n"), std::string("1,\0\n", 4)}) {
    for (const std::size_t block : {1U, 20U, 1000U}) {
      const Limits limits(1, block);
      Diagnostics diagnostics;
      const auto table = read_csv(file_of("a,b\n5,6\n" + bad + "7,8\n"), {}, diagnostics, Rows::left_if_long);
      ASSERT_TRUE(table && table->left_in_file);
      LeftInFile left;
      left.source = table->left_in_file;
      left.rules.resize(2);
      Column a;
      Column b;
      EXPECT_FALSE(survey_rows(left, {&a, &b}, LookedAt::all_rows)) << bad;
    }
  }
}

TEST(CsvRows, OfShortTablesAreReadAndThoseOfOtherEncodingsDecoded) {
  Diagnostics diagnostics;
  {
    const Limits limits(1000, 100);
    const auto table = read_csv(file_of("a,b\n1,2\n"), {}, diagnostics, Rows::left_if_long);
    EXPECT_TRUE(table && !table->left_in_file && table->rows() == 1);
  }
  const Limits limits(1, 100);
  ReadSettings latin;
  latin.encoding = "latin-1";
  const auto table = read_csv(file_of("a,b\n1,\xE9\n"), latin, diagnostics, Rows::left_if_long);
  ASSERT_TRUE(table && table->left_in_file);
  RawRows raw;
  const std::vector<std::size_t> cuts = table->left_in_file->cuts();
  EXPECT_TRUE(table->left_in_file->read(cuts.front(), cuts.back(), 2, raw).clean);
  EXPECT_EQ(raw.columns[1][0], "\xC3\xA9");
}

}  // namespace
}  // namespace opensum
