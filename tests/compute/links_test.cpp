// Links against a plain search through all rows there, for every way to match.
#include "compute/links.h"

#include <gtest/gtest.h>

#include <cmath>
#include <iostream>
#include <optional>
#include <random>

#include "reference/exact.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

Column numbers(const std::vector<double>& values, OriginId origin, std::mt19937& random,
               unsigned percent_null) {
  Column column;
  column.origin = origin;
  column.rows = values.size();
  for (std::size_t begin = 0; begin < values.size(); begin += kChunkRows) {
    Chunk chunk;
    const std::size_t size = std::min(kChunkRows, values.size() - begin);
    chunk.nulls.resize(size);
    for (std::size_t i = 0; i < size; ++i) {
      chunk.numbers.push_back(values[begin + i]);
      if (random() % 100 < percent_null) chunk.nulls[i] = Null(Reason::missing, origin);
    }
    column.chunks.push_back(std::move(chunk));
  }
  return column;
}

using reference::Exact;
using reference::typed;

// What a row here should find: the row there, the row after it, or a reason.
struct Found {
  std::size_t first = RowMap::kNone;
  std::size_t second = RowMap::kNone;
  Reason why = Reason::no_match;
};

// By exact fractions of the decimals.
std::vector<std::optional<Exact>> exact_numbers(const Column& column, const Conversion& conversion = {}) {
  std::vector<std::optional<Exact>> all(column.rows);
  for (std::size_t row = 0; row < column.rows; ++row) {
    if (!column.null(row)) all[row] = typed(conversion(column.number(row)));
  }
  return all;
}

Found plain(const std::optional<Exact>& here, const std::vector<std::optional<Exact>>& there, LinkHow how,
            const std::optional<double>& within) {
  Found found;
  if (!here) return found;
  const Exact& wanted = *here;
  Exact below;
  Exact above;
  std::size_t below_row = RowMap::kNone;
  std::size_t above_row = RowMap::kNone;
  for (std::size_t other = 0; other < there.size(); ++other) {
    if (!there[other]) continue;
    const Exact& value = *there[other];
    if (value <= wanted && (below_row == RowMap::kNone || value > below)) {
      below = value;
      below_row = other;
    }
    if (value >= wanted && (above_row == RowMap::kNone || value < above)) {
      above = value;
      above_row = other;
    }
  }
  const auto near_enough = [&](const Exact& distance) { return !within || distance <= typed(*within); };
  if (below_row == above_row && below_row != RowMap::kNone) {
    found.first = below_row;
    return found;
  }
  const bool has_below = below_row != RowMap::kNone;
  const bool has_above = above_row != RowMap::kNone;
  switch (how) {
    case LinkHow::previous:
      if (!has_below) {
        // A column without values there has no range to be out of.
        found.why = has_above ? Reason::out_of_range : Reason::no_match;
      } else if (near_enough(wanted - below)) {
        found.first = below_row;
      }
      return found;
    case LinkHow::nearest:
      if (!has_below && !has_above) return found;
      if (has_below && has_above && wanted - below == above - wanted) {
        if (near_enough(wanted - below)) found.why = Reason::ambiguous;
      } else if (!has_above || (has_below && wanted - below < above - wanted)) {
        if (near_enough(wanted - below)) found.first = below_row;
      } else if (near_enough(above - wanted)) {
        found.first = above_row;
      }
      return found;
    case LinkHow::interpolate:
      if (!has_below || !has_above) {
        found.why = has_below || has_above ? Reason::out_of_range : Reason::no_match;
      } else if (near_enough(wanted - below) && near_enough(above - wanted)) {
        found.first = below_row;
        found.second = above_row;
      }
      return found;
    default:
      return found;
  }
}

// Tenths of mm here, hundredths of cm there: what people see as the same is the same, whatever their doubles
// are.
TEST(Links, MatchDecimalsAcrossUnits) {
  const UnitSystem units;
  const Conversion to_mm = conversion(*units.read("cm").unit, *units.read("mm").unit);
  std::mt19937 random(44);
  std::size_t compared = 0;
  std::size_t matched = 0;
  for (int round = 0; round < 20; ++round) {
    std::vector<double> there_values;
    for (int k = 0; k < 100; ++k) there_values.push_back((3 * k + static_cast<int>(random() % 2)) / 100.0);
    std::shuffle(there_values.begin(), there_values.end(), random);
    std::vector<double> here_values;
    for (int i = 0; i < 100; ++i) here_values.push_back(static_cast<double>(random() % 620) / 20.0);
    const Column here = numbers(here_values, 1, random, 5);
    const Column there = numbers(there_values, 2, random, 5);
    const auto exact_here = exact_numbers(here);
    const auto exact_there = exact_numbers(there, to_mm);
    for (const LinkHow how : {LinkHow::equal, LinkHow::nearest, LinkHow::previous, LinkHow::interpolate}) {
      for (const std::optional<double> within : {std::optional<double>(), {0.05}, {0.1}, {0.15}}) {
        RepeatedKeys repeated;
        const RowMap map = match_rows({{&here, &there, to_mm}}, how, within, here.rows, there.rows, repeated);
        ASSERT_EQ(repeated.count, 0U);
        for (std::size_t row = 0; row < here.rows; ++row) {
          const Found expected = plain(exact_here[row], exact_there, how, within);
          ASSERT_EQ(map.first[row], expected.first) << static_cast<int>(how) << " of " << here.number(row);
          ASSERT_EQ(map.second[row], expected.second);
          if (expected.first == RowMap::kNone) {
            ASSERT_EQ(map.why[row], expected.why);
          } else {
            ++matched;
          }
          ++compared;
        }
      }
    }
  }
  std::cout << compared << " look-ups of decimals compared, " << matched << " of them matched\n";
  EXPECT_GT(matched, compared / 4);
}

TEST(Links, AgreeWithAPlainSearch) {
  std::mt19937 random(41);
  std::size_t compared = 0;
  for (int round = 0; round < 300; ++round) {
    std::vector<double> there_values;
    const std::size_t rows_there = random() % 12;
    for (std::size_t i = 0; i < rows_there; ++i)
      there_values.push_back(static_cast<double>(i * 3 + random() % 2));
    std::shuffle(there_values.begin(), there_values.end(), random);
    std::vector<double> here_values;
    for (std::size_t i = 0; i < 40; ++i) here_values.push_back(static_cast<double>(random() % 90) / 2 - 3);
    const Column here = numbers(here_values, 1, random, 10);
    const Column there = numbers(there_values, 2, random, 15);
    const auto exact_here = exact_numbers(here);
    const auto exact_there = exact_numbers(there);
    for (const LinkHow how : {LinkHow::equal, LinkHow::nearest, LinkHow::previous, LinkHow::interpolate}) {
      for (const std::optional<double> within : {std::optional<double>(), {0.5}, {1.5}}) {
        RepeatedKeys repeated;
        const RowMap map =
            match_rows({{&here, &there, Conversion()}}, how, within, here.rows, there.rows, repeated);
        ASSERT_EQ(repeated.count, 0U);
        for (std::size_t row = 0; row < here.rows; ++row) {
          const Found expected = plain(exact_here[row], exact_there, how, within);
          ASSERT_EQ(map.first[row], expected.first) << static_cast<int>(how) << " row " << row;
          ASSERT_EQ(map.second[row], expected.second);
          if (expected.first == RowMap::kNone) {
            ASSERT_EQ(map.why[row], expected.why);
          }
          ++compared;
        }
      }
    }
  }
  std::cout << compared << " look-ups compared\n";
}

// Two keys, the first of which must be equal: a plain search through the rows of the same first key.
TEST(Links, OfTwoKeysAgreeWithAPlainSearch) {
  std::mt19937 random(43);
  std::size_t compared = 0;
  for (int round = 0; round < 150; ++round) {
    const std::size_t groups = 1 + random() % 3;
    std::vector<double> there_group;
    std::vector<double> there_value;
    for (std::size_t i = 0; i < 15; ++i) {
      there_group.push_back(static_cast<double>(random() % groups));
      there_value.push_back(static_cast<double>(i * 2));
    }
    std::shuffle(there_value.begin(), there_value.end(), random);
    std::vector<double> here_group;
    std::vector<double> here_value;
    for (std::size_t i = 0; i < 30; ++i) {
      here_group.push_back(static_cast<double>(random() % (groups + 1)));
      here_value.push_back(static_cast<double>(random() % 70) / 2 - 2);
    }
    const Column group_there = numbers(there_group, 2, random, 10);
    const Column value_there = numbers(there_value, 2, random, 10);
    const Column group_here = numbers(here_group, 1, random, 10);
    const Column value_here = numbers(here_value, 1, random, 10);
    for (const LinkHow how : {LinkHow::nearest, LinkHow::previous, LinkHow::interpolate}) {
      const RowFinder finder(
          {{&group_here, &group_there, Conversion()}, {&value_here, &value_there, Conversion()}}, how, 5, 15);
      ASSERT_EQ(finder.repeated().count, 0U);
      const RowMap map = finder.find({&group_here, &value_here}, 30);
      for (std::size_t row = 0; row < 30; ++row) {
        // The rows there of other groups are made null.
        Column same_group = value_there;
        for (std::size_t other = 0; other < 15; ++other) {
          const bool same = !group_here.null(row) && !group_there.null(other) &&
                            group_there.number(other) == group_here.number(row);
          if (!same) same_group.chunks[0].nulls[other] = Null(Reason::missing, 2);
        }
        bool any = false;
        for (std::size_t other = 0; other < 15; ++other) any = any || !same_group.null(other);
        const Found expected = plain(exact_numbers(value_here)[row], exact_numbers(same_group), how, 5);
        ASSERT_EQ(map.first[row], expected.first) << static_cast<int>(how) << " row " << row;
        ASSERT_EQ(map.second[row], expected.second);
        if (expected.first == RowMap::kNone && any) {
          ASSERT_EQ(map.why[row], expected.why);
        }
        ++compared;
      }
    }
  }
  EXPECT_EQ(compared, 150U * 3U * 30U);
}

TEST(Links, ReportRepeatedKeysInTheOrderOfRows) {
  std::mt19937 random(1);
  const Column there = numbers({5, 7, 5, 8, 7, 5}, 2, random, 0);
  const Column here = numbers({5}, 1, random, 0);
  for (const LinkHow how : {LinkHow::equal, LinkHow::nearest}) {
    RepeatedKeys repeated;
    match_rows({{&here, &there, Conversion()}}, how, std::nullopt, 1, 6, repeated);
    EXPECT_EQ(repeated.count, 3U);
    EXPECT_EQ(repeated.pairs, (std::vector<std::pair<std::size_t, std::size_t>>{{0, 2}, {1, 4}, {2, 5}}));
  }
}

TEST(Links, GiveValuesAndKeepTheCellsOfNulls) {
  std::mt19937 random(1);
  Origins origins;
  const OriginId source = origins.add("there", "y");
  const OriginId own = origins.add("here", "there.y");
  const Column x = numbers({0, 10, 20}, 2, random, 0);
  Column y = numbers({1, 2, 4}, source, random, 0);
  y.chunks[0].nulls[2] = Null(Reason::below_limit, source);
  const Column here = numbers({5, 10, 15, 20, 25}, 1, random, 0);
  RepeatedKeys repeated;
  const RowMap map =
      match_rows({{&here, &x, Conversion()}}, LinkHow::interpolate, std::nullopt, 5, 3, repeated);
  EXPECT_EQ(map.matched, 4U);
  EXPECT_EQ(map.unmatched, 1U);
  const std::vector<Chunk> values = LinkedValues(y, own, origins).of(map);
  EXPECT_EQ(values[0].numbers[0], 1.5);
  EXPECT_EQ(values[0].numbers[1], 2);
  for (const std::size_t row : {2, 3}) {
    EXPECT_EQ(values[0].nulls[row].reason(), Reason::below_limit);
    EXPECT_EQ(origins[values[0].nulls[row].origin()].row, 2U);
    EXPECT_EQ(origins[values[0].nulls[row].origin()].column, "y");
  }
  EXPECT_EQ(values[0].nulls[4], Null(Reason::out_of_range, own));
}

TEST(Links, MatchPlacesInTheSource) {
  const auto numbers = [](const std::vector<std::size_t>& all) { return RowNumbers(all); };
  const RowMap map = PlaceFinder(numbers({0, 1, 3, 5})).find(numbers({0, 2, 3, 5}));
  EXPECT_EQ(map.first, (std::vector<std::size_t>{0, RowMap::kNone, 2, 3}));
  EXPECT_EQ(map.matched, 3U);
}

}  // namespace
}  // namespace opensum
