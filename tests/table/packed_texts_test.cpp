// Held bytes of cells, wherever they lie and however long they are.
#include <gtest/gtest.h>

#include <deque>
#include <random>

#include "compute/row_store.h"

namespace opensum {
namespace {

TEST(PackedTexts, AreThoseThatWereAdded) {
  std::mt19937 random(3);
  std::deque<std::string> kept;
  std::vector<std::string_view> texts;
  PackedTexts packed;
  for (std::size_t i = 0; i < 5000; ++i) {
    const std::size_t size = i % 7 == 0 ? 0 : i % 1001 == 1 ? 65535 : random() % 60;
    texts.emplace_back(size == 0 ? std::string_view()
                                 : kept.emplace_back(size, static_cast<char>('a' + i % 26)));
    ASSERT_TRUE(packed.add(texts.back()));
  }
  EXPECT_FALSE(packed.add(std::string(65536, 'x')));
  ASSERT_EQ(packed.size(), texts.size());
  for (std::size_t i = 0; i < texts.size(); ++i) EXPECT_EQ(packed[i], texts[i]) << i;
}

// Cells of a file lie behind one another; those that are far away or long among them change nothing.
TEST(PackedTexts, HoldPiecesOfAFileAndOthersAmongThem) {
  const std::string file(40'000'000, 'x');
  const std::string elsewhere = "of another file";
  const std::string_view all = file;
  for (const std::size_t step : {7U, 4000U, 9000U}) {
    for (const std::size_t other : {0U, 5U, 4095U, 5000U}) {
      for (const std::size_t longest : {6U, 255U, 256U}) {
        std::vector<std::string_view> texts;
        for (std::size_t i = 0; i < 4096; ++i)
          texts.push_back(i == other ? std::string_view(elsewhere)
                                     : all.substr(i * step, i == 9 ? longest : i % 7));
        PackedTexts packed;
        for (const std::string_view text : texts) ASSERT_TRUE(packed.add(text));
        packed.shrink_to_fit();
        ASSERT_EQ(packed.size(), texts.size());
        for (std::size_t i = 0; i < texts.size(); ++i) {
          ASSERT_EQ(packed[i].size(), texts[i].size());
          if (!texts[i].empty()) {
            ASSERT_EQ(packed[i].data(), texts[i].data());
          }
        }
      }
    }
  }
}

// A text that is too long is held like any other.
TEST(RowStore, HoldsTheBytesOfCellsOfAnyLength) {
  for (const std::size_t longest : {10U, 65535U, 65536U, 200000U}) {
    for (const std::size_t place : {0U, 7U, 4095U, 5000U}) {
      Chunk from;
      std::deque<std::string> kept;
      for (std::size_t i = 0; i < 6000; ++i) {
        from.numbers.push_back(static_cast<double>(i));
        from.source.emplace_back(
            kept.emplace_back(i == place ? std::string(longest, 'x') : std::to_string(i)));
      }
      std::vector<Chunk> parts(2);
      for (std::size_t i = 0; i < from.numbers.size(); ++i) {
        Chunk& part = parts[i / kChunkRows];
        part.numbers.push_back(from.numbers[i]);
        part.source.push_back(from.source[i]);
      }
      TextKeeper keeper;
      RowStore store(Held::with_source, keeper);
      store.append(parts);
      const std::vector<Chunk> held = store.take();
      ASSERT_EQ(held.size(), 2U);
      const std::vector<Chunk> slices = slice(held, 3, 5990);
      for (std::size_t i = 0; i < from.numbers.size(); ++i) {
        ASSERT_EQ(held[i / kChunkRows].source_at(i % kChunkRows), kept[i]) << longest << " at " << place;
        if (i < 3 || i >= 5993) continue;
        const std::size_t at = i - 3;
        ASSERT_EQ(slices[at / kChunkRows].source_at(at % kChunkRows), kept[i]);
        ASSERT_EQ(slices[at / kChunkRows].numbers[at % kChunkRows], static_cast<double>(i));
      }
    }
  }
}

}  // namespace
}  // namespace opensum
