// Cutting the XML of a sheet into whole rows.
#include "files/sheet_rows.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>

namespace opensum {
namespace {

struct Cut {
  std::string rows;
  std::string rest;
  std::size_t pieces = 0;
  bool whole_rows = true;
};

Cut cut(const std::string& document, const std::string& row_end, std::size_t step) {
  Cut result;
  RowCutter cutter([&](std::string_view rows) {
    ++result.pieces;
    result.whole_rows = result.whole_rows && rows.ends_with(row_end);
    result.rows += rows;
    return true;
  });
  for (std::size_t at = 0; at < document.size(); at += step)
    EXPECT_TRUE(cutter.take(std::string_view(document).substr(at, step)));
  result.rest = std::move(cutter).rest();
  return result;
}

std::string sheet(const std::string& prefix, std::size_t rows, const std::string& in_last) {
  std::string document = fmt::format("<?xml version=\"1.0\"?><{0}worksheet><{0}sheetData>", prefix);
  const std::size_t head = document.size();
  for (std::size_t row = 1; row <= rows; ++row)
    document += fmt::format("<{0}row r=\"{1}\"><{0}c><{0}v>{1}.5</{0}v></{0}c></{0}row>", prefix, row);
  document += fmt::format("<{0}row r=\"0\">{1}</{0}row></{0}sheetData></{0}worksheet>", prefix, in_last);
  EXPECT_LT(head, document.size());
  return document;
}

TEST(RowCutter, LosesNothingAndCutsNoRow) {
  for (const char* prefix : {"", "x:"}) {
    const std::string document = sheet(prefix, 60'000, "");
    const std::string row_end = fmt::format("</{}row>", prefix);
    for (const std::size_t step : {std::size_t{1000}, std::size_t{65536}, document.size()}) {
      const Cut result = cut(document, row_end, step);
      EXPECT_GE(result.pieces, 1U);
      EXPECT_TRUE(result.whole_rows);
      // What is left is the document without a stretch of whole rows in its middle.
      const std::size_t at = document.find(result.rows);
      ASSERT_NE(at, std::string::npos);
      EXPECT_EQ(document.substr(0, at) + document.substr(at + result.rows.size()), result.rest);
      EXPECT_TRUE(result.rest.ends_with(fmt::format("</{0}sheetData></{0}worksheet>", prefix)));
    }
  }
}

TEST(RowCutter, LeavesWhatMayMislead) {
  const std::string rows = sheet("", 60'000, "<![CDATA[</row>]]>");
  const std::string comment = "<worksheet><!-- </row> --><sheetData>" + rows.substr(rows.find("<row"));
  // Once a comment or a marked section is met, nothing more is cut.
  const Cut marked = cut(rows, "</row>", rows.size());
  EXPECT_EQ(marked.pieces, 0U);
  EXPECT_EQ(marked.rest, rows);
  const Cut before = cut(comment, "</row>", 65536);
  EXPECT_EQ(before.rest.size() + before.rows.size(), comment.size());
  for (const std::string& small :
       {std::string("<worksheet/>"), std::string("<worksheet><sheetData/></worksheet>"), std::string(),
        std::string("<row></row>"), sheet("", 3, "")}) {
    const Cut result = cut(small, "</row>", 7);
    EXPECT_EQ(result.pieces, 0U);
    EXPECT_EQ(result.rest, small);
  }
}

TEST(RowCutter, EndsWhereItIsToldTo) {
  const std::string document = sheet("", 60'000, "");
  RowCutter cutter([](std::string_view) { return false; });
  EXPECT_FALSE(cutter.take(document));
}

}  // namespace
}  // namespace opensum
