// Filling the gaps of a measured column by rules.
#include "compute/fills.h"

#include "compute/evaluator.h"

namespace opensum {
namespace {

// Puts row i of a rule's result into the filled chunk.
void take(Chunk& filled, const Chunk& from, std::size_t i, bool text) {
  if (text) {
    filled.texts[i] = from.texts[i];
  } else {
    filled.numbers[i] = from.numbers[i];
  }
  filled.nulls[i] = Null();
  // What was computed stands in no source.
  if (!filled.source.empty()) filled.source[i] = {};
}

}  // namespace

std::vector<FilledCell> fill_column(const Column& measured, const std::vector<Program>& rules,
                                    const std::vector<const Column*>& columns, Column& filled,
                                    Origins& origins, EvaluationNotes& notes, const StudyColumns* study) {
  const auto made = std::make_shared<MadeTexts>();
  std::vector<std::vector<Chunk>> results;
  for (const Program& rule : rules) {
    Evaluator evaluator(rule, filled.origin, made);
    results.push_back(evaluator.run_column(columns, measured.rows, origins, study));
    const EvaluationNotes& met = evaluator.notes();
    notes.tallies.insert(notes.tallies.end(), met.tallies.begin(), met.tallies.end());
    notes.order_faults.insert(notes.order_faults.end(), met.order_faults.begin(), met.order_faults.end());
  }
  std::vector<FilledCell> cells = fill_gaps(measured, results, filled);
  for (Chunk& chunk : filled.chunks) chunk.made = made;
  return cells;
}

std::vector<FilledCell> fill_gaps(const Column& measured, const std::vector<std::vector<Chunk>>& rules,
                                  Column& filled) {
  std::vector<FilledCell> cells;
  filled.rows = measured.rows;
  filled.chunks = measured.chunks;
  for (std::size_t index = 0; index < filled.chunks.size(); ++index) {
    Chunk& chunk = filled.chunks[index];
    for (std::size_t i = 0; i < chunk.nulls.size(); ++i) {
      if (!chunk.nulls[i]) continue;
      FilledCell cell{index * kChunkRows + i, -1, {}};
      for (std::size_t k = 0; k < rules.size() && cell.rule < 0; ++k) {
        cell.left = rules[k][index].null_at(i);
        if (!cell.left) cell.rule = static_cast<int>(k);
      }
      if (cell.rule >= 0) {
        take(chunk, rules[static_cast<std::size_t>(cell.rule)][index], i, measured.kind == Kind::text);
      }
      cells.push_back(cell);
    }
  }
  return cells;
}

}  // namespace opensum
