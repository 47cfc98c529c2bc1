// What a researcher may want to say about a table so that more of it is understood.
#include "study/reading_hints.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <functional>

#include "table/date_format.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kLongestFooter = 5;
constexpr std::array kDateForms = {
    "%d.%m.%Y",       "%d.%m.%Y %H:%M",    "%d.%m.%Y %H:%M:%S", "%d.%m.%y",
    "%d/%m/%Y",       "%d/%m/%Y %H:%M",    "%d/%m/%Y %H:%M:%S", "%m/%d/%Y",
    "%m/%d/%Y %H:%M", "%m/%d/%Y %H:%M:%S", "%d/%m/%y",          "%m/%d/%y",
    "%d/%m/%y %H:%M", "%m/%d/%y %H:%M",    "%Y/%m/%d",          "%Y/%m/%d %H:%M",
    "%Y%m%d",         "%d %b %Y",          "%d-%b-%Y",          "%d-%b-%y",
    "%b %d, %Y",      "%b %d %Y"};
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
      if (!units_.read(column.unreadable[0].text).unit) continue;
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
                      fmt::format("--missing-also={}", first),
                      fmt::format("missing = [\"\", {}]", toml_quoted(first))});
  }

  // More than half of the known cells of a text column pass a test.
  static bool most(const Column& column, const std::function<bool(std::string_view)>& passes) {
    std::size_t known = 0;
    std::size_t passed = 0;
    for (std::size_t row = 0; row < column.rows; ++row) {
      if (column.null(row)) continue;
      ++known;
      if (passes(trimmed(column.text(row)))) ++passed;
    }
    return known > 0 && passed * 2 > known;
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
      hints_.push_back({column.symbol, "its cells look like numbers with a sign between thousands",
                        fmt::format("--decimal-char {} --group-char '{}'", style.decimal, style.group),
                        fmt::format("decimal_char = \"{}\", group_char = \"{}\"", style.decimal, style.group)});
      return;
    }
    if (most(column, [](std::string_view c) { return read_duration(c).has_value(); })) {
      hints_.push_back({column.symbol, "its cells look like times of day or durations",
                        fmt::format("--kind {}=duration", column.symbol), "kind = \"duration\""});
      return;
    }
    for (const std::string form : kDateForms) {
      if (!most(column, [&](std::string_view c) { return read_date(c, form).has_value(); })) continue;
      hints_.push_back({column.symbol, "its cells look like dates",
                        fmt::format("--date-format '{}={}'", column.symbol, form),
                        fmt::format("format = \"{}\"", form)});
      return;
    }
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

std::string toml_quoted(std::string_view text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') {
      out += '\\';
      out += c;
    } else if (static_cast<unsigned char>(c) < 0x20U || c == 0x7F) {
      out += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
    } else {
      out += c;
    }
  }
  return out + '"';
}

std::vector<ReadingHint> reading_hints(const Table& table, const UnitSystem& units) {
  return Finder(table, units).run();
}

}  // namespace opensum
