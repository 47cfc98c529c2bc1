// What a researcher may want to say about a table so that more of it is understood.
#include "table/reading_hints.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

#include "message/quoting.h"
#include "table/cell_units.h"
#include "table/date_format.h"
#include "table/date_text.h"
#include "table/header_units.h"
#include "table/number_text.h"

namespace opensum {
namespace {

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

enum class FormKind : std::uint8_t { decimal_comma, thousands, duration, date };

}  // namespace

struct OtherForm {
  FormKind kind{};
  NumberStyle style;   // of numbers
  std::string format;  // of dates
  std::optional<DateFormat> dates;

  bool reads(std::string_view cell) const {
    switch (kind) {
      case FormKind::decimal_comma:
      case FormKind::thousands:
        return read_number(cell, style).fault == NumberFault::none;
      case FormKind::duration:
        return read_duration(cell).has_value();
      case FormKind::date:
        return dates->read(cell).has_value();
    }
    return false;
  }
};

namespace {

// All forms, in the order in which they are offered.
const std::vector<OtherForm>& other_forms() {
  static const std::vector<OtherForm> forms = [] {
    std::vector<OtherForm> all;
    const auto add_number = [&](FormKind kind, char decimal, const char* group) {
      OtherForm& form = all.emplace_back();
      form.kind = kind;
      form.style.decimal = decimal;
      form.style.group = group;
    };
    add_number(FormKind::decimal_comma, ',', "");
    add_number(FormKind::thousands, ',', ".");
    add_number(FormKind::thousands, '.', ",");
    add_number(FormKind::thousands, '.', "'");
    add_number(FormKind::thousands, ',', " ");
    add_number(FormKind::thousands, '.', " ");
    all.emplace_back().kind = FormKind::duration;
    for (const char* day : kDayForms) {
      for (const char* time : kTimeForms) {
        OtherForm& form = all.emplace_back();
        form.kind = FormKind::date;
        form.format = std::string(day) + time;
        DateFormatFault fault;
        form.dates = DateFormat::parse(form.format, fault);
      }
    }
    return all;
  }();
  return forms;
}

// More than half.
bool most(std::size_t part, std::size_t all) { return all > 0 && part * 2 > all; }

// The known cells of a column as they are read, without blanks around them.
template <typename Visit>
void for_each_known(const Column& column, const Visit& visit) {
  for (std::size_t row = 0; row < column.rows; ++row) {
    if (!column.null(row) && !visit(trimmed(column.text(row)))) return;
  }
}

}  // namespace

void HintCounts::OfColumn::add(const OfColumn& next) {
  known += next.known;
  for (std::size_t i = 0; i < passed.size(); ++i) passed[i] += next.passed[i];
  for (std::size_t i = 0; i < sentinels.size(); ++i) sentinels[i] += next.sentinels[i];
  for (const auto& [word, count] : next.missing) missing[word] += count;
}

HintCounts::HintCounts(const Table& table)
    : samples_(table.columns.size()),
      forms_(table.columns.size()),
      columns_(table.columns.size()),
      unit_cells_(table.columns.size()) {}

bool HintCounts::sample(const Table& block) {
  bool enough = true;
  for (std::size_t i = 0; i < samples_.size(); ++i) {
    const Column& column = block.columns[i];
    if (!column.measured || column.kind != Kind::text) continue;
    for_each_known(column, [&](std::string_view cell) {
      if (samples_[i].size() < kSample) samples_[i].emplace_back(cell);
      return samples_[i].size() < kSample;
    });
    enough = enough && samples_[i].size() == kSample;
  }
  return !enough;
}

void HintCounts::end_sample() {
  for (std::size_t i = 0; i < samples_.size(); ++i) {
    for (const OtherForm& form : other_forms()) {
      const auto reads = [&](const std::string& cell) { return form.reads(cell); };
      const auto passed = std::count_if(samples_[i].begin(), samples_[i].end(), reads);
      if (most(static_cast<std::size_t>(passed), samples_[i].size())) forms_[i].push_back(&form);
    }
    columns_[i].passed.resize(forms_[i].size());
    columns_[i].sentinels.resize(kSentinels.size());
    const auto has_unit = [](const std::string& cell) { return split_unit_cell(cell, {}).has_value(); };
    const auto with_unit = std::count_if(samples_[i].begin(), samples_[i].end(), has_unit);
    if (most(static_cast<std::size_t>(with_unit), samples_[i].size()))
      unit_cells_[i] = *std::find_if(samples_[i].begin(), samples_[i].end(), has_unit);
  }
}

std::vector<HintCounts::OfColumn> HintCounts::count(const Table& block) const {
  std::vector<OfColumn> counts = std::vector<OfColumn>(columns_.size());
  for (std::size_t i = 0; i < counts.size(); ++i) {
    const Column& column = block.columns[i];
    OfColumn& of = counts[i];
    of.passed.resize(forms_[i].size());
    of.sentinels.resize(kSentinels.size());
    if (!column.measured) continue;
    if (column.kind == Kind::number) {
      for (std::size_t row = 0; row < column.rows; ++row) {
        if (column.null(row)) continue;
        // Such numbers lie far from most values.
        const double value = column.number(row);
        if (value > kSentinels.front() && value < 9999) continue;
        const auto found = std::find(kSentinels.begin(), kSentinels.end(), value);
        if (found != kSentinels.end()) ++of.sentinels[static_cast<std::size_t>(found - kSentinels.begin())];
      }
    }
    if (column.kind != Kind::text) continue;
    for_each_known(column, [&](std::string_view cell) {
      ++of.known;
      for (std::size_t k = 0; k < forms_[i].size(); ++k) of.passed[k] += forms_[i][k]->reads(cell) ? 1 : 0;
      return true;
    });
    for (std::size_t row = 0; row < column.rows; ++row) {
      if (!column.null(row)) continue;
      const Chunk& chunk = column.chunks[row / kChunkRows];
      const std::string_view cell = chunk.source.empty() ? "" : trimmed(chunk.source[row % kChunkRows]);
      if (!cell.empty()) ++of.missing[std::string(cell)];
    }
  }
  return counts;
}

void HintCounts::add(const std::vector<OfColumn>& counts) {
  for (std::size_t i = 0; i < columns_.size(); ++i) columns_[i].add(counts[i]);
}

namespace {

class Finder {
 public:
  Finder(const Table& table, const HintCounts& counts, const Table& last_rows, std::size_t skipped_end,
         const UnitSystem& units)
      : table_(table), counts_(counts), last_rows_(last_rows), skipped_end_(skipped_end), units_(units) {}

  std::vector<ReadingHint> run() {
    find_units_row();
    if (hints_.empty()) find_footer();
    for (std::size_t i = 0; i < table_.columns.size(); ++i) {
      const Column& column = table_.columns[i];
      if (!column.measured) continue;
      if (column.kind == Kind::text) {
        find_in_text(i);
      } else {
        find_unreadable(column);
        if (column.kind == Kind::number) find_sentinel(i);
      }
    }
    return std::move(hints_);
  }

 private:
  static std::string_view without_brackets(std::string_view text) {
    const bool has = text.size() > 2 && ((text.front() == '[' && text.back() == ']') ||
                                         (text.front() == '(' && text.back() == ')'));
    return has ? trimmed(text.substr(1, text.size() - 2)) : text;
  }

  // A first row that is no data but holds units, some of which may not be known.
  void find_units_row() {
    const UnreadableCell* unit = nullptr;
    std::size_t others = 0;
    std::size_t known = 0;
    for (const Column& column : table_.columns) {
      const bool first_alone = column.unreadable_count == 1 && column.unreadable[0].row == 0;
      if (!first_alone || column.unit_stated) continue;
      const UnreadableCell& cell = column.unreadable[0];
      const std::string_view text = without_brackets(cell.text);
      if (read_header_unit(text, units_).unit) {
        ++known;
        if (unit == nullptr) unit = &cell;
      } else if (text.size() == cell.text.size()) {
        ++others;
      }
    }
    if (unit == nullptr || others > known) return;
    hints_.push_back({"", fmt::format("line {} seems to hold units ({})", unit->line, unit->text),
                      fmt::format("--units-row {}", unit->line), fmt::format("units_row = {}", unit->line)});
    explained_ = true;
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
    const std::size_t row = first - (table_.rows - last_rows_.rows);
    const bool holds_values =
        std::any_of(last_rows_.columns.begin(), last_rows_.columns.end(),
                    [&](const Column& c) { return c.kind != Kind::text && !c.null(row); });
    if (!breaks_off && holds_values) return;
    const std::size_t lines =
        last_rows_.lines[last_rows_.rows - 1] - last_rows_.lines[row] + 1 + skipped_end_;
    hints_.push_back({"",
                      fmt::format("from line {} on the rows are unlike those above; if they are no data",
                                  last_rows_.lines[row]),
                      fmt::format("--skip-end {}", lines), fmt::format("skip_end = {}", lines)});
    explained_ = true;
  }

  // The sign with which the cells that cannot be read are numbers; empty for none.
  static std::string thousands_sign(const Column& column) {
    if (column.kind != Kind::number || !column.style.group.empty()) return {};
    for (const char* group : {".", ",", "'", " "}) {
      NumberStyle style = column.style;
      style.group = group;
      const auto reads = [&](const UnreadableCell& cell) {
        return read_number(cell.text, style).fault == NumberFault::none;
      };
      if (style.is_possible() && std::all_of(column.unreadable.begin(), column.unreadable.end(), reads))
        return group;
    }
    return {};
  }

  void find_unreadable(const Column& column) {
    if (column.unreadable_count == 0 || explained_) return;
    std::string cells;
    for (const UnreadableCell& cell : column.unreadable)
      cells += fmt::format(" {} (line {})", cell.text, cell.line);
    const std::string& first = column.unreadable[0].text;
    if (const std::string group = thousands_sign(column); !group.empty()) {
      hints_.push_back({column.symbol,
                        fmt::format("{} of {} cells have a sign between thousands:{}",
                                    column.unreadable_count, column.rows, cells),
                        "--group-char " + shell_word(group), fmt::format("group_char = \"{}\"", group)});
      return;
    }
    hints_.push_back({column.symbol,
                      fmt::format("{} of {} cells cannot be read as a {}:{}; if they mean missing",
                                  column.unreadable_count, column.rows, kind_name(column.kind), cells),
                      "--missing-also=" + shell_word(first),
                      fmt::format("missing = [\"\", {}]", toml_quoted(first))});
  }

  // Dates in another form: in all that fit every cell, or else in the one that fits most.
  void find_dates(std::size_t index) {
    const Column& column = table_.columns[index];
    const HintCounts::OfColumn& counts = counts_[index];
    std::vector<std::string> fitting;
    std::string best;
    std::size_t most_passed = 0;
    for (std::size_t k = 0; k < counts.passed.size(); ++k) {
      const OtherForm& form = *counts_.forms(index)[k];
      if (form.kind != FormKind::date) continue;
      if (counts.passed[k] == counts.known) fitting.push_back(form.format);
      if (most(counts.passed[k], counts.known) && counts.passed[k] > most_passed) {
        most_passed = counts.passed[k];
        best = form.format;
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
  void find_missing_words(std::size_t index) {
    const Column& column = table_.columns[index];
    for (const auto& [word, count] : counts_[index].missing) {
      hints_.push_back({column.symbol,
                        fmt::format("{} cell{} {} {} taken for missing; if only empty ones are", count,
                                    count == 1 ? "" : "s", word, count == 1 ? "is" : "are"),
                        "--missing ''", "missing = [\"\"]"});
    }
  }

  void find_in_text(std::size_t index) {
    const Column& column = table_.columns[index];
    if (!column.text_because.empty()) {
      hints_.push_back({column.symbol, fmt::format("text because of codes such as {}", column.text_because),
                        fmt::format("--kind {}=number", column.symbol), "kind = \"number\""});
      return;
    }
    const HintCounts::OfColumn& counts = counts_[index];
    for (std::size_t k = 0; k < counts.passed.size(); ++k) {
      const OtherForm& form = *counts_.forms(index)[k];
      // Codes such as 0012 pass for numbers in every style.
      if (form.kind == FormKind::date || !most(counts.passed[k], counts.known)) continue;
      hints_.push_back(hint_of(form, column.symbol));
      return;
    }
    const std::size_t before = hints_.size();
    find_dates(index);
    if (const std::string& cell = counts_.unit_cell(index); hints_.size() == before && !cell.empty()) {
      hints_.push_back(
          {column.symbol,
           fmt::format("its cells are numbers with units that are not of one dimension or not all "
                       "known, such as {}; text it is, unless they are defined",
                       cell),
           fmt::format("--kind {}=text", column.symbol), "kind = \"text\""});
    }
    find_missing_words(index);
  }

  static ReadingHint hint_of(const OtherForm& form, const std::string& symbol) {
    if (form.kind == FormKind::decimal_comma) {
      return {symbol, "its cells look like numbers with a decimal comma", "--decimal-char ,",
              "decimal_char = \",\""};
    }
    if (form.kind == FormKind::duration) {
      return {symbol, "its cells look like times of day or durations",
              fmt::format("--kind {}=duration", symbol), "kind = \"duration\""};
    }
    const NumberStyle& style = form.style;
    return {symbol, "its cells look like numbers with a sign between thousands",
            fmt::format("--decimal-char {} --group-char {}", style.decimal, shell_word(style.group)),
            fmt::format("decimal_char = \"{}\", group_char = \"{}\"", style.decimal, style.group)};
  }

  void find_sentinel(std::size_t index) {
    const Column& column = table_.columns[index];
    for (std::size_t k = 0; k < kSentinels.size(); ++k) {
      const std::size_t count = counts_[index].sentinels[k];
      if (count == 0) continue;
      const std::string text = number_text(kSentinels.at(k));
      hints_.push_back({column.symbol,
                        fmt::format("the value {} occurs {} time{}; if it means missing", text, count,
                                    count == 1 ? "" : "s"),
                        fmt::format("--missing-also={}", text),
                        fmt::format("missing = [\"\", \"{}\"]", text)});
    }
  }

  const Table& table_;
  const HintCounts& counts_;
  const Table& last_rows_;
  std::size_t skipped_end_;
  const UnitSystem& units_;
  std::vector<ReadingHint> hints_;
  bool explained_ = false;
};

}  // namespace

std::vector<ReadingHint> reading_hints(const Table& table, const HintCounts& counts, const Table& last_rows,
                                       std::size_t skipped_end, const UnitSystem& units) {
  std::vector<ReadingHint> hints;
  for (ReadingHint& hint : Finder(table, counts, last_rows, skipped_end, units).run()) {
    const auto same = std::find_if(hints.begin(), hints.end(), [&](const ReadingHint& h) {
      return h.words == hint.words && h.option == hint.option && h.column.empty() == hint.column.empty();
    });
    if (same == hints.end()) {
      hints.push_back(std::move(hint));
    } else {
      ++same->more;
    }
  }
  return hints;
}

}  // namespace opensum
