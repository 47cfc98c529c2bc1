// What a researcher may want to say about a table so that more of it is understood.
#include "study/reading_hints.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

#include "message/quoting.h"
#include "table/date_format.h"
#include "table/date_text.h"
#include "table/header_units.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kLongestFooter = 5;
// How days and times of day are written; either comes first.
constexpr std::array kDayForms = {"%d.%m.%Y", "%d.%m.%y",    "%d/%m/%Y", "%m/%d/%Y", "%d/%m/%y", "%m/%d/%y",
                                  "%d-%m-%Y", "%m-%d-%Y",    "%d-%m-%y", "%m-%d-%y", "%Y/%m/%d", "%Y.%m.%d",
                                  "%Y%m%d",   "%d %b %Y",    "%d-%b-%Y", "%d-%b-%y", "%d %b %y", "%b %d, %Y",
                                  "%b %d %Y", "%a %d %b %Y", "%Y-%j"};
constexpr std::array kTimeForms = {"",          " %H:%M",  " %H:%M:%S", " %I:%M %p", " %I:%M:%S %p",
                                   "T%H:%M:%S", ", %H:%M", ", %H:%M:%S"};
// Other forms are tried on so many cells before they are tried on all.
constexpr std::size_t kSample = 60;
// Numbers that loggers write where they have no value.
constexpr std::array kSentinels = {-99.0, -999.0, -9999.0, -99999.0, -999.9, -9999.9, 9999.0, 99999.0};

class Finder {
 public:
  Finder(const Table& table, const UnitSystem& units) : table_(table), units_(units) {}

  std::vector<ReadingHint> run() {
    find_units_row();
    if (hints_.empty()) find_footer();
    for (const Column& column : table_.columns) {
      if (!column.measured) continue;
      if (column.kind == Kind::text) {
        find_in_text(column);
      } else {
        find_unreadable(column);
        find_sentinel(column);
      }
    }
    return std::move(hints_);
  }

 private:
  // A first row that is no data but holds units.
  void find_units_row() {
    for (const Column& column : table_.columns) {
      if (column.unreadable_count != 1 || column.unreadable[0].row != 0 || column.unit_stated) continue;
      if (!read_header_unit(column.unreadable[0].text, units_).unit) continue;
      const std::size_t line = column.unreadable[0].line;
      hints_.push_back({"", fmt::format("line {} seems to hold units ({})", line, column.unreadable[0].text),
                        fmt::format("--units-row {}", line), fmt::format("units_row = {}", line)});
      explained_ = true;
      return;
    }
  }

  // Last rows that do not go on with the first column or hold no number at all.
  void find_footer() {
    std::size_t first = table_.rows;
    for (const Column& column : table_.columns) {
      if (column.unreadable_count == 0) continue;
      const std::size_t begin = column.unreadable[0].row;
      if (column.unreadable_count != table_.rows - begin) return;
      first = std::min(first, begin);
    }
    if (first == 0 || first == table_.rows || table_.rows - first > kLongestFooter) return;
    const bool breaks_off = table_.columns.front().unreadable_count > 0;
    const bool holds_values = std::any_of(table_.columns.begin(), table_.columns.end(), [&](const Column& c) {
      return c.kind != Kind::text && !c.null(first);
    });
    if (!breaks_off && holds_values) return;
    const std::size_t lines = table_.lines.back() - table_.lines[first] + 1;
    hints_.push_back({"",
                      fmt::format("from line {} on the rows are unlike those above; if they are no data",
                                  table_.lines[first]),
                      fmt::format("--skip-end {}", lines), fmt::format("skip_end = {}", lines)});
    explained_ = true;
  }

  void find_unreadable(const Column& column) {
    if (column.unreadable_count == 0 || explained_) return;
    std::string cells;
    for (const UnreadableCell& cell : column.unreadable)
      cells += fmt::format(" {} (line {})", cell.text, cell.line);
    const std::string& first = column.unreadable[0].text;
    hints_.push_back({column.symbol,
                      fmt::format("{} of {} cells cannot be read as a {}:{}; if they mean missing",
                                  column.unreadable_count, column.rows, kind_name(column.kind), cells),
                      "--missing-also=" + shell_word(first),
                      fmt::format("missing = [\"\", {}]", toml_quoted(first))});
  }

  // How many of the known cells of a text column, the first of them at most, pass a test.
  struct Passed {
    std::size_t known = 0;
    std::size_t passed = 0;
    bool most() const { return known > 0 && passed * 2 > known; }
    bool all() const { return known > 0 && passed == known; }
  };
  template <typename Test>
  static Passed passed(const Column& column, std::size_t at_most, const Test& passes) {
    Passed count;
    for (std::size_t row = 0; row < column.rows && count.known < at_most; ++row) {
      if (column.null(row)) continue;
      ++count.known;
      if (passes(trimmed(column.text(row)))) ++count.passed;
    }
    return count;
  }

  // More than half of the known cells pass a test, and of the first ones, too.
  template <typename Test>
  static bool most(const Column& column, const Test& passes) {
    return passed(column, kSample, passes).most() && passed(column, SIZE_MAX, passes).most();
  }

  // Dates in another form: in all that fit every cell, or else in the one that fits most.
  void find_dates(const Column& column) {
    std::vector<std::string> fitting;
    std::string best;
    std::size_t most_passed = 0;
    for (const char* day : kDayForms) {
      for (const char* time : kTimeForms) {
        const std::string form = std::string(day) + time;
        DateFormatFault fault;
        const auto format = DateFormat::parse(form, fault);
        const auto fits = [&](std::string_view cell) { return format->read(cell).has_value(); };
        if (!passed(column, kSample, fits).most()) continue;
        const Passed all = passed(column, SIZE_MAX, fits);
        if (all.all()) fitting.push_back(form);
        if (all.most() && all.passed > most_passed) {
          most_passed = all.passed;
          best = form;
        }
      }
    }
    const auto offer = [&](const std::string& words, const std::string& form) {
      hints_.push_back({column.symbol, words, "--date-format " + shell_word(column.symbol + "=" + form),
                        fmt::format("format = {}", toml_quoted(form))});
    };
    if (fitting.size() > 1) {
      // 03/04 may be in April or in March.
      for (const std::string& form : fitting) {
        offer(fmt::format("its cells look like dates, which may be {}: say which is meant",
                          fmt::join(fitting, " or ")),
              form);
      }
    } else if (!best.empty()) {
      offer(fitting.empty() ? fmt::format("{} of its cells look like dates", most_passed)
                            : "its cells look like dates",
            fitting.empty() ? best : fitting.front());
    }
  }

  // Cells of a text that are taken for missing, which a text may mean.
  void find_missing_words(const Column& column) {
    std::map<std::string, std::size_t> words;
    for (std::size_t row = 0; row < column.rows; ++row) {
      if (!column.null(row)) continue;
      const Chunk& chunk = column.chunks[row / kChunkRows];
      const std::string_view cell = chunk.source.empty() ? "" : trimmed(chunk.source[row % kChunkRows]);
      if (!cell.empty()) ++words[std::string(cell)];
    }
    for (const auto& [word, count] : words) {
      hints_.push_back({column.symbol,
                        fmt::format("{} cell{} {} {} taken for missing; if only empty ones are", count,
                                    count == 1 ? "" : "s", word, count == 1 ? "is" : "are"),
                        "--missing ''", "missing = [\"\"]"});
    }
  }

  void find_in_text(const Column& column) {
    if (!column.text_because.empty()) {
      hints_.push_back({column.symbol, fmt::format("text because of codes such as {}", column.text_because),
                        fmt::format("--kind {}=number", column.symbol), "kind = \"number\""});
      return;
    }
    const NumberStyle comma{',', ""};
    if (most(column, [&](std::string_view c) { return read_number(c, comma).fault == NumberFault::none; })) {
      hints_.push_back({column.symbol, "its cells look like numbers with a decimal comma", "--decimal-char ,",
                        "decimal_char = \",\""});
      return;
    }
    for (const NumberStyle& style : {NumberStyle{',', "."}, NumberStyle{'.', ","}, NumberStyle{'.', "'"},
                                     NumberStyle{',', " "}, NumberStyle{'.', " "}}) {
      if (!most(column,
                [&](std::string_view c) { return read_number(c, style).fault == NumberFault::none; })) {
        continue;
      }
      hints_.push_back(
          {column.symbol, "its cells look like numbers with a sign between thousands",
           fmt::format("--decimal-char {} --group-char {}", style.decimal, shell_word(style.group)),
           fmt::format("decimal_char = \"{}\", group_char = \"{}\"", style.decimal, style.group)});
      return;
    }
    if (most(column, [](std::string_view c) { return read_duration(c).has_value(); })) {
      hints_.push_back({column.symbol, "its cells look like times of day or durations",
                        fmt::format("--kind {}=duration", column.symbol), "kind = \"duration\""});
      return;
    }
    find_dates(column);
    find_missing_words(column);
  }

  void find_sentinel(const Column& column) {
    if (column.kind != Kind::number) return;
    for (const double sentinel : kSentinels) {
      std::size_t count = 0;
      for (std::size_t row = 0; row < column.rows; ++row) {
        if (!column.null(row) && column.number(row) == sentinel) ++count;
      }
      if (count == 0) continue;
      const std::string text = number_text(sentinel);
      hints_.push_back({column.symbol,
                        fmt::format("the value {} occurs {} time{}; if it means missing", text, count,
                                    count == 1 ? "" : "s"),
                        fmt::format("--missing-also={}", text),
                        fmt::format("missing = [\"\", \"{}\"]", text)});
    }
  }

  const Table& table_;
  const UnitSystem& units_;
  std::vector<ReadingHint> hints_;
  bool explained_ = false;
};

}  // namespace

std::vector<ReadingHint> reading_hints(const Table& table, const UnitSystem& units) {
  return Finder(table, units).run();
}

}  // namespace opensum
