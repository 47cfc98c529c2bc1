// Bytes that come row by row and are needed column by column.
#include "files/column_spool.h"

#include <gtest/gtest.h>

#include <random>

#include "files/temp_folder.h"

namespace opensum {
namespace {

std::string all_of(ColumnSpool& spool, std::size_t column) {
  std::string bytes;
  for (std::size_t i = 0; i < spool.pieces(column); ++i) bytes += spool.piece(column, i);
  return bytes;
}

// Some 25 megabytes: three times what is held.
TEST(ColumnSpool, GivesBackWhatWasAddedToEachColumn) {
  const TempFolder folder;
  ColumnSpool spool(3, folder.path("out"));
  std::vector<std::string> expected(5);
  std::mt19937 random(5);
  for (std::size_t i = 0; i < 60000; ++i) {
    // The last two are made on the way.
    const std::size_t column = random() % (i < 30000 ? 3 : 5);
    const std::string bytes(random() % 850, static_cast<char>('a' + random() % 26));
    spool.add(column, bytes);
    expected[column] += bytes;
  }
  ASSERT_EQ(spool.columns(), expected.size());
  for (std::size_t column = 0; column < expected.size(); ++column) {
    EXPECT_EQ(spool.size(column), expected[column].size());
    EXPECT_GT(spool.pieces(column), 2U);
    EXPECT_TRUE(all_of(spool, column) == expected[column]) << column;
  }
  EXPECT_EQ(spool.error(), 0);
  EXPECT_TRUE(folder.names().empty()) << "what waits has no name";
}

TEST(ColumnSpool, NeverDividesWhatIsAddedAtOnce) {
  const TempFolder folder;
  ColumnSpool spool(2, folder.path("out"));
  const std::string seven = "seven!!";
  for (std::size_t i = 0; i < 3'000'000; ++i) spool.add(i % 2, seven);
  for (std::size_t column = 0; column < 2; ++column) {
    for (std::size_t i = 0; i < spool.pieces(column); ++i)
      EXPECT_EQ(spool.piece(column, i).size() % seven.size(), 0U);
  }
}

TEST(ColumnSpool, SaysWhatWentWrong) {
  const TempFolder folder;
  ColumnSpool spool(1, folder.path("no folder/out"));
  spool.add(0, "kept");
  EXPECT_EQ(spool.error(), 0);
  spool.add(0, std::string(std::size_t{9} << 20U, 'x'));
  EXPECT_EQ(spool.error(), ENOENT);
}

}  // namespace
}  // namespace opensum
