// What is said of a table that nothing is computed from.
#include "starter/table_facts.h"

#include <algorithm>
#include <numeric>

#include "base/progress.h"
#include "engine/block_pass.h"
#include "engine/picked_rows.h"

namespace opensum {
namespace {

struct CountedBlock : Block {
  std::vector<NullCounts> nulls;
  std::vector<HintCounts::OfColumn> hints;
};

void add_values(const Column& column, ValueFacts& facts) {
  if (column.kind != Kind::number && column.kind != Kind::date) return;
  for (const Chunk& chunk : column.chunks) {
    for (std::size_t i = 0; i < chunk.numbers.size(); ++i) {
      if (chunk.null_at(i)) continue;
      const double value = chunk.numbers[i];
      facts.least = facts.known == 0 ? value : std::min(facts.least, value);
      facts.greatest = facts.known == 0 ? value : std::max(facts.greatest, value);
      const Instant instant = chunk.instant_at(i);
      facts.first = facts.known == 0 ? instant : std::min(facts.first, instant);
      facts.last = facts.known == 0 ? instant : std::max(facts.last, instant);
      facts.sum.add(value);
      facts.histogram.add(value);
      ++facts.known;
    }
  }
}

Table last_rows_of(BlockSource& source, const Table& whole) {
  std::vector<std::size_t> rows(std::min(whole.rows, kLongestFooter));
  std::iota(rows.begin(), rows.end(), whole.rows - rows.size());
  return picked_rows(source, whole, rows);
}

// Gives the first blocks to what tries other forms on the first cells.
void take_sample(BlockSource& source, const Table& whole, HintCounts& hints) {
  Block block;
  block.table = whole.without_rows();
  std::vector<bool> texts;
  for (const Column& column : whole.columns) texts.push_back(column.kind == Kind::text);
  const bool any = std::find(texts.begin(), texts.end(), true) != texts.end();
  bool wants_more = any;
  for (std::size_t part = 0; part < source.count() && wants_more; ++part) {
    source.get(part, texts, block);
    wants_more = hints.sample(block.table);
  }
  hints.end_sample();
}

}  // namespace

TableFacts table_facts(const RunSheet& sheet, const UnitSystem& units) {
  const Table& whole = sheet.table();
  const std::size_t columns = whole.columns.size();
  const auto source = source_of_rows(sheet, std::vector<bool>(columns, true));
  TableFacts facts;
  facts.nulls.resize(columns);
  facts.values.resize(columns);
  HintCounts hints(whole);
  take_sample(*source, whole, hints);
  const std::vector<bool> all(columns, true);
  go_over_blocks<CountedBlock>(
      *source, whole,
      [&](std::size_t part, CountedBlock& block) {
        source->read(part, all, block);
        block.nulls.clear();
        for (const Column& column : block.table.columns) block.nulls.push_back(null_counts(column));
        block.hints = hints.count(block.table);
      },
      [&](std::size_t, const CountedBlock& block) {
        for (std::size_t i = 0; i < columns; ++i) {
          for (std::size_t reason = 0; reason < kReasons; ++reason)
            facts.nulls[i][reason] += block.nulls[i][reason];
          add_values(block.table.columns[i], facts.values[i]);
        }
        hints.add(block.hints);
        const std::size_t done = block.first_row + block.table.rows;
        tell_progress("looking at " + whole.file, done,
                      static_cast<double>(done) / static_cast<double>(whole.rows));
      });
  facts.hints = reading_hints(whole, hints, last_rows_of(*source, whole), sheet.model->read.skip_end, units);
  // What was said already is no longer asked.
  std::erase_if(facts.hints, [&](const ReadingHint& hint) {
    return std::any_of(sheet.model->columns.begin(), sheet.model->columns.end(),
                       [&](const ColumnSettings& settings) {
                         return settings.kind &&
                                hint.option == "--kind " + settings.symbol + "=" + kind_name(*settings.kind);
                       });
  });
  return facts;
}

}  // namespace opensum
