// The one evaluator: runs programs over the chunks of columns.
#include "compute/evaluator.h"

#include <algorithm>

#include "compute/kernels.h"

namespace opensum {
namespace {

static_assert(kChunkRows % kBatchRows == 0, "a chunk is made of whole batches");

// Appends a batch of results to a chunk that is to have `all` rows.
void append(Chunk& chunk, const View& view, std::size_t begin, std::size_t rows, std::size_t all, bool text) {
  if (text) {
    chunk.texts.insert(chunk.texts.end(), view.texts, view.texts + rows);
  } else {
    chunk.numbers.insert(chunk.numbers.end(), view.numbers, view.numbers + rows);
  }
  if (view.rests != nullptr &&
      std::any_of(view.rests, view.rests + rows, [](float rest) { return rest != 0; })) {
    if (chunk.rests.empty()) chunk.rests.resize(all);
    std::copy_n(view.rests, rows, chunk.rests.begin() + static_cast<std::ptrdiff_t>(begin));
  }
  if (view.nulls == nullptr) return;
  const bool any = std::any_of(view.nulls, view.nulls + rows, [](Null n) { return static_cast<bool>(n); });
  if (!any) return;
  if (chunk.nulls.empty()) chunk.nulls.resize(all);
  std::copy_n(view.nulls, rows, chunk.nulls.begin() + static_cast<std::ptrdiff_t>(begin));
}

}  // namespace

Evaluator::Evaluator(const Program& program, OriginId own, std::shared_ptr<MadeTexts> made)
    : program_(program),
      own_(own),
      made_(made ? std::move(made) : std::make_shared<MadeTexts>()),
      registers_(program.registers),
      fused_(FusedProgram::of(program)) {
  for (Register& r : registers_) {
    r.made = made_;
    r.rows_left_out = &batch_left_out_;
  }
  for (std::size_t i = 0; i < program.numbers.size(); ++i)
    numbers_.emplace_back(program.numbers[i], program.rests[i]);
  for (const std::string& text : program.texts) texts_.emplace_back(kBatchRows, text);
}

View Evaluator::view(const Operand& operand, std::span<const Chunk* const> inputs, std::size_t begin) const {
  View view;
  switch (operand.source) {
    case Operand::Source::result:
      return registers_[operand.index].view();
    case Operand::Source::number:
      return numbers_[operand.index].view();
    case Operand::Source::text:
      view.texts = texts_[operand.index].data();
      return view;
    case Operand::Source::stage:
    case Operand::Source::input: {
      const bool stage = operand.source == Operand::Source::stage;
      return view_of(stage ? *stages_[operand.index] : *inputs[operand.index], begin);
    }
  }
  return view;
}

Chunk Evaluator::run(std::span<const Chunk* const> inputs, std::size_t rows) {
  Chunk result;
  const bool text = program_.kind == Kind::text;
  if (text) {
    result.texts.reserve(rows);
    result.made = made_;
  } else {
    result.numbers.reserve(rows);
  }
  std::vector<View> operands;
  for (std::size_t begin = 0; begin < rows; begin += kBatchRows) {
    const std::size_t count = std::min(kBatchRows, rows - begin);
    if (run_fused(inputs, begin, count, result)) continue;
    for (const Instruction& instruction : program_.instructions) {
      operands.clear();
      for (const Operand& operand : instruction.in) operands.push_back(view(operand, inputs, begin));
      apply(instruction, operands, registers_[instruction.out], count, own_);
    }
    append(result, view(program_.result, inputs, begin), begin, count, rows, text);
    rows_left_out_ +=
        static_cast<std::size_t>(std::count(batch_left_out_.begin(), batch_left_out_.end(), true));
    batch_left_out_.assign(kBatchRows, false);
  }
  return result;
}

bool Evaluator::run_fused(std::span<const Chunk* const> inputs, std::size_t begin, std::size_t count,
                          Chunk& result) {
  // Where most batches have a null in the end, they are not tried.
  constexpr std::size_t kFewTries = 16;
  if (!fused_ || (tries_ > kFewTries && failures_ > tries_ / 2)) return false;
  leaves_.clear();
  for (const Operand& leaf : fused_->leaves()) {
    const View known = view(leaf, inputs, begin);
    if (known.nulls != nullptr || known.rests != nullptr || known.numbers == nullptr) return false;
    leaves_.push_back(known.numbers);
  }
  ++tries_;
  result.numbers.resize(begin + count);
  if (fused_->run(leaves_, count, result.numbers.data() + begin)) return true;
  ++failures_;
  result.numbers.resize(begin);
  return false;
}

std::size_t Evaluator::left_out() const {
  std::size_t sum = 0;
  for (const Register& r : registers_) sum += r.left_out;
  return sum;
}

std::vector<Chunk> Evaluator::run_rows(const std::vector<const Column*>& columns,
                                       const std::vector<std::vector<Chunk>>& stages, std::size_t rows) {
  std::vector<Chunk> chunks((rows + kChunkRows - 1) / kChunkRows);
  for (std::size_t part = 0; part < chunks.size(); ++part)
    chunks[part] = run_chunk(columns, stages, part, std::min(kChunkRows, rows - part * kChunkRows));
  return chunks;
}

Chunk Evaluator::run_chunk(const std::vector<const Column*>& columns,
                           const std::vector<std::vector<Chunk>>& stages, std::size_t index,
                           std::size_t rows) {
  std::vector<const Chunk*> inputs;
  inputs.reserve(program_.inputs.size());
  for (const std::size_t input : program_.inputs) inputs.push_back(&columns[input]->chunks[index]);
  stages_.clear();
  for (const std::vector<Chunk>& stage : stages) stages_.push_back(&stage[index]);
  return run(inputs, rows);
}

}  // namespace opensum
