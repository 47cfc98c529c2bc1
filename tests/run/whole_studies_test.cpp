// Whole studies at random against the plain interpreter: each cell of each sheet, its null, the reason and
// the cell where it began; held in memory and left in files, in blocks of any size and on several threads.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <iostream>
#include <map>

#include "base/parallel.h"
#include "files/csv_rows.h"
#include "files/study_reader.h"
#include "files/temp_folder.h"
#include "reference/random_study.h"
#include "reference/study_interpreter.h"
#include "run/compute.h"
#include "run/prepare.h"

namespace opensum {
namespace {

using reference::Exact;
using reference::RandomStudy;
using reference::StudyInterpreter;
using reference::Worth;

// What was compared so far.
struct Tally {
  std::size_t studies = 0;
  std::size_t refused = 0;      ///< by the program, with a message
  std::size_t passed_over = 0;  ///< by the interpreter: an order that hangs on rounding
  std::size_t cells = 0;
  std::size_t nulls = 0;
  std::size_t unsure = 0;  ///< cells that hang on rounding
  std::map<std::string, std::size_t> messages;

  std::string text() const {
    std::string list = fmt::format(
        "{} studies, {} refused, {} passed over; {} cells compared, {} of them null, {} "
        "passed over",
        studies, refused, passed_over, cells, nulls, unsure);
    for (const auto& [message, count] : messages) list += fmt::format("\n  {} x {}", count, message);
    return list;
  }
};

// A study as the program computes it.
struct Computed {
  std::unique_ptr<PreparedStudy> prepared;
  std::string said;
  bool good = false;
};

Computed computed(const std::string& toml, Rows rows, const std::string& folder = "") {
  Computed result;
  Diagnostics diagnostics;
  Inputs inputs;
  auto study = read_study(std::make_shared<const Source>("study.toml", toml), inputs, diagnostics);
  if (study) {
    result.prepared = prepare(std::move(*study), folder, std::move(inputs), diagnostics, rows);
    if (!diagnostics.has_errors()) {
      std::vector<LastWishes> wishes(result.prepared->sheets.size());
      for (std::size_t i = 0; i < wishes.size(); ++i) {
        wishes[i].held.assign(result.prepared->sheets[i]->table().columns.size(), Held::values);
        wishes[i].lines = true;
      }
      compute(*result.prepared, wishes, diagnostics);
    }
  }
  result.good = study && !diagnostics.has_errors();
  result.said = render(diagnostics);
  return result;
}

// A date in s, without loss.
Exact exact_instant(const Instant& instant) {
  const SecondsAndNanoseconds parts = parts_of(instant);
  return Exact(parts.seconds) + Exact(parts.nanoseconds) / 1'000'000'000;
}

// How a cell differs from what is expected; empty where it does not.
std::string difference(const StudyRun& run, const Column& column, std::size_t row, const Worth& expected,
                       Tally& tally) {
  ++tally.cells;
  const Null null = column.null(row);
  if (null) ++tally.nulls;
  const std::string wanted =
      expected.null
          ? fmt::format("null ({}), which began in {}.{} row {}", reason_name(expected.null->reason),
                        expected.null->began->sheet, expected.null->began->column, expected.null->began->row)
      : expected.kind == Kind::text
          ? expected.text
          : fmt::format("{} ± {}", reference::to_double(expected.number), expected.error);
  if (null) {
    const Origins::Origin& origin = run.origins[null.origin()];
    const reference::CellName began{origin.sheet, origin.column, origin.row.value_or(row)};
    const bool same =
        expected.null && expected.null->reason == null.reason() && *expected.null->began == began;
    return same ? ""
                : fmt::format("is null ({}), which began in {}.{} row {}, and should be {}",
                              reason_name(null.reason()), began.sheet, began.column, began.row, wanted);
  }
  if (column.kind == Kind::text) {
    const std::string text(column.text(row));
    return !expected.null && expected.kind == Kind::text && text == expected.text
               ? ""
               : "is " + text + " and should be " + wanted;
  }
  const double number = column.number(row);
  const std::string is = fmt::format("is {} {} and should be {}", number, column.unit.text(), wanted);
  if (expected.null) return is;
  const Exact coherent = column.kind == Kind::number
                             ? StudyInterpreter::in_coherent_units(Exact(number), column.unit.text())
                         : column.kind == Kind::date ? exact_instant(column.instant(row))
                                                     : Exact(number);
  const double apart = std::fabs(reference::to_double(Exact(coherent - expected.number)));
  // Dates are exact.
  const double relative = column.kind == Kind::date ? 0 : 1e-13;
  const double allowed = 64 * expected.error + relative * std::fabs(reference::to_double(expected.number));
  return apart <= allowed ? "" : is;
}

// The first few cells that differ, in words.
std::vector<std::string> differences(const StudyRun& run, StudyInterpreter& interpreter, Tally& tally) {
  std::vector<std::string> found;
  for (const std::string& name : interpreter.sheets()) {
    const RunSheet& sheet = *run.find_sheet(name);
    const Table& table = sheet.table();
    if (table.rows != interpreter.rows(name)) {
      found.push_back(
          fmt::format("{} has {} rows and should have {}", name, table.rows, interpreter.rows(name)));
      continue;
    }
    for (const std::string& symbol : interpreter.columns(name)) {
      for (const Column& column : table.columns) {
        const bool filled = column.fills == symbol;
        if (column.linked || (column.symbol != symbol && !filled)) continue;
        const bool as_measured = interpreter.is_filled(name, symbol) && !filled;
        for (std::size_t row = 0; row < table.rows; ++row) {
          const Worth expected = interpreter.cell(name, symbol, row, as_measured);
          if (expected.unsure) {
            ++tally.unsure;
            continue;
          }
          const std::string what = difference(run, column, row, expected, tally);
          if (!what.empty() && found.size() < 5)
            found.push_back(fmt::format("{}.{} row {} {}", name, column.symbol, row, what));
        }
      }
    }
    std::vector<std::size_t> order = table.order;
    for (std::size_t i = 0; order.size() < table.rows; ++i) order.push_back(i);
    if (order != interpreter.written_order(name)) found.push_back(name + " is written in another order");
  }
  return found;
}

// What is wrong with a study; nothing where the program and the interpreter agree.
std::vector<std::string> compare(const RandomStudy& made, Tally& tally) {
  ++tally.studies;
  const std::string toml = made.toml();
  const Computed result = computed(toml, Rows::read);
  if (!result.good) {
    ++tally.refused;
    const std::size_t begin = result.said.find("error: ");
    const std::string line = result.said.substr(begin, result.said.find('\n', begin) - begin);
    ++tally.messages[line.substr(0, 60)];
    if (result.said.find("fault") != std::string::npos) return {result.said};
    return {};
  }
  Diagnostics diagnostics;
  Inputs inputs;
  const auto study = read_study(std::make_shared<const Source>("study.toml", toml), inputs, diagnostics);
  try {
    StudyInterpreter interpreter(*study);
    return differences(*result.prepared, interpreter, tally);
  } catch (const reference::NotInterpreted& why) {
    ++tally.passed_over;
    ++tally.messages[std::string("interpreter: ") + why.what()];
    return {};
  }
}

// Leaves out of a study that fails what it fails without.
RandomStudy shrunk(RandomStudy made) {
  const auto still_fails = [](const RandomStudy& smaller) {
    Tally ignored;
    return !compare(smaller, ignored).empty();
  };
  for (bool less = true; less;) {
    less = false;
    for (std::size_t i = made.sheets.size(); i-- > 0;) {
      RandomStudy smaller = made;
      smaller.sheets.erase(smaller.sheets.begin() + static_cast<std::ptrdiff_t>(i));
      if (!smaller.sheets.empty() && still_fails(smaller)) {
        made = std::move(smaller);
        less = true;
        continue;
      }
      for (std::vector<std::string> RandomStudy::Sheet::*lines :
           {&RandomStudy::Sheet::claims, &RandomStudy::Sheet::equations, &RandomStudy::Sheet::settings}) {
        for (std::size_t k = (made.sheets[i].*lines).size(); k-- > 0;) {
          smaller = made;
          std::vector<std::string>& list = smaller.sheets[i].*lines;
          list.erase(list.begin() + static_cast<std::ptrdiff_t>(k));
          if (!still_fails(smaller)) continue;
          made = std::move(smaller);
          less = true;
        }
      }
    }
  }
  return made;
}

#ifdef OPENSUM_SANITIZED
constexpr bool kSlow = true;
#else
constexpr bool kSlow = false;
#endif
constexpr std::uint64_t kParts = 8;
constexpr std::uint64_t kStudiesInAll = kSlow ? 400 : 4000;

// How many studies, and from which seed on: OPENSUM_STUDIES of the environment, as `2000` or `2000 from 7`.
std::pair<std::uint64_t, std::uint64_t> wanted_seeds(std::uint64_t usual) {
  const char* said = std::getenv("OPENSUM_STUDIES");
  if (said == nullptr) return {1, usual};
  const std::string text = said;
  const std::size_t from = text.find(" from ");
  return {from == std::string::npos ? 1 : std::stoull(text.substr(from + 6)), std::stoull(text)};
}

// In parts, which several processes look at at a time: a million cells together.
class SomeStudies : public testing::TestWithParam<std::uint64_t> {};

TEST_P(SomeStudies, AreThoseOfThePlainInterpreter) {
  auto [first, count] = wanted_seeds(kStudiesInAll);
  count /= kParts;
  first += GetParam() * count;
  Tally tally;
  std::size_t failed = 0;
  for (std::uint64_t seed = first; seed < first + count && failed < 3; ++seed) {
    const RandomStudy made = reference::random_study(seed);
    const std::vector<std::string> found = compare(made, tally);
    if (found.empty()) continue;
    ++failed;
    const RandomStudy smaller = shrunk(made);
    Tally ignored;
    std::string text = fmt::format("seed {}:\n{}", seed, smaller.toml());
    for (const std::string& line : compare(smaller, ignored)) text += line + '\n';
    ADD_FAILURE() << text;
  }
  std::cout << tally.text() << '\n';
  EXPECT_GT(tally.cells, 50 * (count - tally.refused) / 2);
}

INSTANTIATE_TEST_SUITE_P(Part, SomeStudies, testing::Range(std::uint64_t{0}, kParts));

// Restores how rows are read and computed.
class BlockSettings {
 public:
  BlockSettings(std::size_t block, std::size_t threads) : before_(row_limits()) {
    set_row_limits({1, block});
    set_threads(threads);
  }
  ~BlockSettings() {
    set_row_limits(before_);
    set_threads(0);
  }
  BlockSettings(const BlockSettings&) = delete;
  BlockSettings& operator=(const BlockSettings&) = delete;

 private:
  RowLimits before_;
};

// The study with its tables in files of a folder.
RandomStudy in_files(RandomStudy made, const TempFolder& folder) {
  const std::string begin = "table = '''\n";
  for (RandomStudy::Sheet& sheet : made.sheets) {
    if (!sheet.head.starts_with(begin)) continue;
    folder.write(sheet.name + ".csv",
                 sheet.head.substr(begin.size(), sheet.head.rfind("'''") - begin.size()));
    sheet.head = "data = \"" + sheet.name + ".csv\"\n";
  }
  return made;
}

// Compares all cells of two runs bit by bit; gives how many they are.
std::size_t compare_cells(const StudyRun& one, const StudyRun& other, const std::string& what) {
  std::size_t cells = 0;
  for (const auto& sheet : one.sheets) {
    const Table& a = sheet->table();
    const Table& b = other.find_sheet(sheet->model->name)->table();
    EXPECT_EQ(a.rows, b.rows) << what << ": rows of " << sheet->model->name;
    EXPECT_EQ(a.columns.size(), b.columns.size()) << what;
    if (a.rows != b.rows || a.columns.size() != b.columns.size()) return cells;
    for (std::size_t c = 0; c < a.columns.size(); ++c) {
      const Column& x = a.columns[c];
      const Column& y = b.columns[c];
      for (std::size_t row = 0; row < a.rows; ++row, ++cells) {
        const Null null = x.null(row);
        const Null there = y.null(row);
        const auto origin = [&](const StudyRun& run, Null of) {
          const Origins::Origin& began = run.origins[of.origin()];
          return fmt::format("{} {}.{} {}", reason_name(of.reason()), began.sheet, began.column,
                             began.row.value_or(row));
        };
        const std::string place = fmt::format("{}: {}.{} row {}", what, sheet->model->name, x.symbol, row);
        EXPECT_EQ(static_cast<bool>(null), static_cast<bool>(there)) << place;
        if (null && there) {
          EXPECT_EQ(origin(one, null), origin(other, there)) << place;
        }
        if (null || there) continue;
        if (x.kind == Kind::text) {
          EXPECT_EQ(x.text(row), y.text(row)) << place;
        } else {
          EXPECT_EQ(x.instant(row), y.instant(row)) << place;
        }
      }
    }
  }
  return cells;
}

TEST(WholeStudies, AreTheSameInBlocksOfAnySizeOnAnyNumberOfThreads) {
  const auto [first, count] = wanted_seeds(40);
  std::size_t compared = 0;
  std::size_t refused = 0;
  for (std::uint64_t seed = first; seed < first + count && !HasFailure(); ++seed) {
    const RandomStudy made = reference::random_study(seed);
    const Computed held = computed(made.toml(), Rows::read);
    const TempFolder folder;
    const std::string toml = in_files(made, folder).toml();
    for (const std::size_t block : {1U, 7U, 100U, 1000000U}) {
      for (const std::size_t threads : {1U, 2U, 7U}) {
        if (block == 1000000U && threads != 2U) continue;
        const BlockSettings settings(block, threads);
        const Computed left = computed(toml, Rows::left_if_long, folder.path() + "/");
        EXPECT_EQ(held.good, left.good) << "seed " << seed << '\n' << held.said << left.said;
        refused += left.good ? 0 : 1;
        if (held.good && left.good)
          compared += compare_cells(*held.prepared, *left.prepared,
                                    fmt::format("seed {}, blocks of {}, {} threads", seed, block, threads));
      }
    }
  }
  std::cout << compared << " cells compared, " << refused << " runs refused\n";
  EXPECT_GT(compared, 1000 * count);
}

// By sheet, derived column and row: what its variance is by central differences, and whether slopes to both
// sides are the same.
struct Spread {
  double variance = 0;
  double doubt = 0;  ///< of the uncertainty, by rounding
  bool smooth = true;
};
using Spreads = std::map<std::tuple<std::string, std::string, std::size_t>, Spread>;

Spreads spreads_of(const Study& study, const RandomStudy& made, StudyInterpreter& at) {
  Spreads spreads;
  // A small part of the uncertainty, so that nothing bends on the way.
  const Exact part(1, 10000);
  for (const RandomStudy::Stated& stated : made.stated) {
    const Exact u = reference::exact_decimal(stated.size) * StudyInterpreter::size_of_unit(stated.unit);
    const std::string& table = std::find_if(made.sheets.begin(), made.sheets.end(), [&](const auto& sheet) {
                                 return sheet.name == stated.sheet;
                               })->head;
    const auto rows = static_cast<std::size_t>(std::count(table.begin(), table.end(), '\n')) - 3;
    for (std::size_t row = 0; row < rows; ++row) {
      const reference::CellName cell{stated.sheet, stated.column, row};
      StudyInterpreter above(study, cell, u * part);
      StudyInterpreter below(study, cell, -u * part);
      for (const std::string& sheet : at.sheets()) {
        for (const std::string& column : at.columns(sheet)) {
          for (std::size_t i = 0; i < at.rows(sheet); ++i) {
            const Worth middle = at.cell(sheet, column, i, false);
            if (middle.null || middle.kind == Kind::text || middle.kind == Kind::truth) continue;
            Spread& spread = spreads[{sheet, column, i}];
            if (above.rows(sheet) != at.rows(sheet) || below.rows(sheet) != at.rows(sheet)) {
              spread.smooth = false;
              continue;
            }
            const Worth high = above.cell(sheet, column, i, false);
            const Worth low = below.cell(sheet, column, i, false);
            if (high.null || low.null || high.unsure || low.unsure) {
              spread.smooth = false;
              continue;
            }
            const double up = reference::to_double(Exact((high.number - middle.number) / part));
            const double down = reference::to_double(Exact((middle.number - low.number) / part));
            const double noise = middle.error * 1e4;
            const double slope = (up + down) / 2;
            if (std::fabs(up - down) > 1e-2 * (std::fabs(up) + std::fabs(down)) + noise)
              spread.smooth = false;
            spread.variance += slope * slope;
            spread.doubt += noise;
          }
        }
      }
    }
  }
  return spreads;
}

TEST(WholeStudies, HaveTheUncertaintiesOfDifferences) {
  const auto [first, count] = wanted_seeds(16);
  std::size_t compared = 0;
  std::size_t passed_over = 0;
  std::size_t studies = 0;
  for (std::uint64_t seed = first; seed < first + count && !HasFailure(); ++seed) {
    const RandomStudy made = reference::random_study(seed, reference::Uncertainties::stated);
    const Computed result = computed(made.toml(), Rows::read);
    if (!result.good || made.stated.empty()) continue;
    Diagnostics diagnostics;
    Inputs inputs;
    const auto study =
        read_study(std::make_shared<const Source>("study.toml", made.toml()), inputs, diagnostics);
    try {
      StudyInterpreter at(*study);
      const Spreads spreads = spreads_of(*study, made, at);
      for (const auto& [cell, spread] : spreads) {
        const std::string& name = std::get<0>(cell);
        const std::string& symbol = std::get<1>(cell);
        const std::size_t row = std::get<2>(cell);
        const RunSheet& sheet = *result.prepared->find_sheet(name);
        const std::deque<Column>& columns = sheet.table().columns;
        const bool derived =
            std::any_of(sheet.plan.derived.begin(), sheet.plan.derived.end(),
                        [&](const DerivedColumn& d) { return columns[d.index].symbol == symbol; });
        if (!derived) continue;
        const double wanted = std::sqrt(spread.variance);
        if (!spread.smooth || spread.doubt > 1e-3 * wanted + 1e-9) {
          ++passed_over;
          continue;
        }
        double found = 0;
        bool known = true;
        for (const UncertainColumn& uncertain : sheet.plan.uncertainty.columns) {
          if (columns[uncertain.column].symbol != symbol) continue;
          const Column& u = columns[uncertain.index];
          known = !u.null(row);
          if (known)
            found = u.number(row) * reference::to_double(StudyInterpreter::size_of_unit(u.unit.text()));
        }
        ++compared;
        EXPECT_TRUE(known && std::fabs(found - wanted) <= 1e-3 * wanted + spread.doubt + 1e-12)
            << "seed " << seed << ": u(" << name << "." << symbol << ") in row " << row << " is "
            << (known ? fmt::format("{}", found) : "null") << " and should be " << wanted;
      }
      ++studies;
    } catch (const reference::NotInterpreted&) {
      continue;
    }
    if (HasFailure()) std::cout << made.toml();
  }
  std::cout << fmt::format("{} studies, {} uncertainties compared, {} passed over\n", studies, compared,
                           passed_over);
  EXPECT_GT(compared, 10 * count);
}

}  // namespace
}  // namespace opensum
