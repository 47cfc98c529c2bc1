// Equations against hand-written loops over arrays: the same numbers, computed by one thread each.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <functional>
#include <string>
#include <vector>

#include "base/parallel.h"
#include "compute/whole_column.h"
#include "run/prepare.h"

namespace {

using opensum::Chunk;
using opensum::Column;
using opensum::kChunkRows;
using Loop = std::function<void(const std::vector<std::vector<double>>&, std::vector<double>&)>;

constexpr std::size_t kRows = 4'000'000;
constexpr int kTurns = 9;

double seconds_of(const std::function<void()>& work) {
  const auto begin = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

struct Case {
  std::string equation;
  Loop loop;
};

// The columns a to d of each case, as arrays.
std::vector<std::vector<double>> arrays() {
  std::vector<std::vector<double>> all(4, std::vector<double>(kRows));
  std::uint64_t state = 1;
  for (std::vector<double>& one : all) {
    for (double& value : one) {
      state = state * 6364136223846793005U + 1442695040888963407U;
      value = 1 + static_cast<double>(state >> 11U) * 0x1p-53;
    }
  }
  return all;
}

std::vector<Case> cases() {
  using Arrays = std::vector<std::vector<double>>;
  return {
      {"a / b",
       [](const Arrays& in, std::vector<double>& out) {
         for (std::size_t i = 0; i < kRows; ++i) out[i] = in[0][i] / in[1][i];
       }},
      {"0.5 * c * a^2",
       [](const Arrays& in, std::vector<double>& out) {
         for (std::size_t i = 0; i < kRows; ++i) out[i] = 0.5 * in[2][i] * (in[0][i] * in[0][i]);
       }},
      {"a * b + sqrt(c * d) - d / a",
       [](const Arrays& in, std::vector<double>& out) {
         for (std::size_t i = 0; i < kRows; ++i)
           out[i] = in[0][i] * in[1][i] + std::sqrt(in[2][i] * in[3][i]) - in[3][i] / in[0][i];
       }},
      {"exp(-a / b) * sin(c)",
       [](const Arrays& in, std::vector<double>& out) {
         for (std::size_t i = 0; i < kRows; ++i) out[i] = std::exp(-in[0][i] / in[1][i]) * std::sin(in[2][i]);
       }},
  };
}

// Gives a column the values of an array.
void fill(Column& column, const std::vector<double>& values) {
  column.rows = values.size();
  column.chunks.clear();
  for (std::size_t begin = 0; begin < values.size(); begin += kChunkRows) {
    const auto first = values.begin() + static_cast<std::ptrdiff_t>(begin);
    const auto size = static_cast<std::ptrdiff_t>(std::min(kChunkRows, values.size() - begin));
    column.chunks.emplace_back().numbers.assign(first, first + size);
  }
}

double median(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}

// One case; false where the answers differ.
bool compare(const std::string& folder, const Case& one, const std::vector<std::vector<double>>& values) {
  std::ofstream(folder + "/e.csv") << "a,b,c,d\n1,1,1,1\n";
  std::ofstream(folder + "/e.toml") << "[sheet.e]\ndata = 'e.csv'\nequations = 'y = " << one.equation
                                    << "'\n";
  opensum::Diagnostics diagnostics;
  const auto prepared = opensum::prepare_study_file(folder + "/e.toml", diagnostics);
  if (!prepared || diagnostics.has_errors()) return false;
  opensum::RunSheet& sheet = *prepared->sheets.front();
  std::vector<const Column*> columns;
  for (std::size_t i = 0; i < sheet.table().columns.size(); ++i) {
    Column& column = sheet.table().columns[i];
    if (i < values.size()) fill(column, values[i]);
    columns.push_back(&column);
  }
  const opensum::Program& program = sheet.plan.derived.front().program;
  opensum::EvaluationNotes notes;
  const opensum::WholeColumns whole{
      columns, kRows, 1, prepared->origins, std::make_shared<opensum::MadeTexts>(), notes};
  std::vector<Chunk> ours;
  std::vector<double> theirs;
  std::vector<double> own_times;
  std::vector<double> other_times;
  for (int turn = 0; turn < kTurns; ++turn) {
    own_times.push_back(seconds_of([&] { ours = opensum::evaluate_column(program, whole); }));
    other_times.push_back(seconds_of([&] {
      theirs = std::vector<double>(kRows);
      one.loop(values, theirs);
    }));
  }
  for (std::size_t row = 0; row < kRows; ++row) {
    if (ours[row / kChunkRows].numbers[row % kChunkRows] != theirs[row]) return false;
  }
  fmt::print("{:<34} {:>9} {:>8.1f} {:>8.1f} {:>7.2f}\n", one.equation, kRows, 1e3 * median(own_times),
             1e3 * median(other_times), median(own_times) / median(other_times));
  return true;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) {
    std::fputs("bench_equations FOLDER\n", stderr);
    return 2;
  }
  opensum::set_threads(1);
  const std::vector<std::vector<double>> values = arrays();
  fmt::print("{:<34} {:>9} {:>8} {:>8} {:>7}\n", "equation", "rows", "ours, ms", "loop, ms", "ratio");
  bool good = true;
  for (const Case& one : cases()) {
    if (!compare(argv[1], one, values)) {
      fmt::print("{}: the answers differ\n", one.equation);
      good = false;
    }
  }
  return good ? 0 : 1;
}
