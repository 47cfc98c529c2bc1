// Whole studies at random.
#include "reference/random_study.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <random>
#include <set>
#include <utility>

namespace opensum::reference {
namespace {

enum class Sort : std::uint8_t { mass, time, plain, reading, difference, text, truth, date };

struct Column {
  std::string name;
  Sort sort;
  bool measured = true;
  bool filled = false;
  bool rises = false;   // from row to row, without nulls
  bool unique = false;  // no value twice
};

struct Link {
  std::string name;
  std::size_t sheet;
  bool interpolates = false;
};

struct Made {
  std::string name;
  std::vector<Column> columns;
  std::vector<Link> links;
  std::optional<std::size_t> groups_of;    // the source of a sheet of groups
  std::optional<std::size_t> rows_of;      // of one with the rows of another
  std::optional<std::size_t> source_rows;  // where it is known
  bool chooses = false;                    // rows may be left out
};

// Where an expression stands: what it can name.
struct Around {
  std::size_t sheet = 0;
  std::string prefix;  // before each column: of another sheet, inside a reduction
  std::vector<Column> columns;
  bool whole = true;      // functions of whole columns may stand here
  bool measured = false;  // measured(…) may
  bool limits = false;
  int reductions = 2;  // how deep these may stand in one another
  std::vector<std::string> formulas;
};

class Maker {
 public:
  Maker(std::uint64_t seed, Uncertainties uncertainties)
      : random_(seed), uncertain_(uncertainties == Uncertainties::stated) {
    study_.seed = seed;
  }

  RandomStudy run() {
    if (chance(0.5)) study_.constants = "  c0 [g] = 2.5\n  c1 = 3\n";
    if (chance(0.4)) study_.formulas = "  twice(x) = 2 * x\n  share(x, y) = ratio(x, x + y, zero: 0)\n";
    const std::size_t count = 3 + below(6);
    for (std::size_t i = 0; i < count; ++i) {
      add_sheet();
      // Sheets get equations in turn, so that they look into one another in both directions.
      for (std::size_t k = below(5); k > 0; --k) add_equation(below(made_.size()));
    }
    for (std::size_t k = 0; k < 2 * made_.size(); ++k) add_equation(below(made_.size()));
    return study_;
  }

 private:
  std::size_t below(std::size_t end) { return random_() % end; }
  bool chance(double part) { return static_cast<double>(random_() % 10000) < part * 10000; }
  template <typename T>
  const T& one_of(const std::vector<T>& list) {
    return list[below(list.size())];
  }
  std::string pick(std::initializer_list<const char*> list) { return *(list.begin() + below(list.size())); }

  std::string decimal(int digits, int places) {
    std::string text = std::to_string(below(digits == 1 ? 10 : digits == 2 ? 100 : 1000));
    if (places > 0) text += "." + std::to_string(below(10));
    return text;
  }

  // --- Sheets.
  void add_sheet() {
    const double kind = static_cast<double>(below(100));
    if (made_.size() < 2 || kind < 42) return add_table();
    if (kind < 60) return add_rows_of();
    if (kind < 82) return add_groups();
    if (kind < 92) return add_cells();
    if (kind < 96) return add_planned();
    add_table();
  }

  RandomStudy::Sheet& begin(const std::string& head) {
    Made& made = made_.emplace_back();
    made.name = std::string(1, static_cast<char>('p' + made_.size() - 1));
    study_.sheets.push_back({made.name, head, {}, {}, {}});
    return study_.sheets.back();
  }

  void add_table() {
    const std::size_t rows = 2 + below(11);
    struct Cells {
      std::string header;
      std::vector<std::string> cells;
      Column column;
    };
    std::vector<Cells> all;
    const auto column = [&](const std::string& name, Sort sort, const std::string& unit, auto cell,
                            double nulls) {
      Cells cells{name + (unit.empty() ? "" : " [" + unit + "]"), {}, {name, sort}};
      for (std::size_t row = 0; row < rows; ++row)
        cells.cells.push_back(row > 0 && chance(nulls) ? "" : cell(row));
      all.push_back(std::move(cells));
    };
    std::vector<std::size_t> ids(rows);
    for (std::size_t i = 0; i < rows; ++i) ids[i] = i + 1;
    if (chance(0.5)) std::shuffle(ids.begin(), ids.end(), random_);
    column(
        "id", Sort::plain, "", [&](std::size_t row) { return std::to_string(ids[row]); }, 0);
    all.back().column.unique = true;
    column(
        "site", Sort::text, "",
        [&](std::size_t) {
          return pick({"A", "B", "C"});
        },
        0.1);
    const auto amount = [&](std::size_t) {
      if (chance(0.04)) return (chance(0.5) ? "<" : ">") + decimal(1, 1);
      return (chance(0.1) ? "-" : "") + decimal(2, 1);
    };
    column("m", Sort::mass, pick({"g", "mg", "kg"}), amount, 0.15);
    if (chance(0.5)) column("n", Sort::mass, pick({"g", "kg"}), amount, 0.15);
    if (chance(0.7)) column("x", Sort::plain, chance(0.2) ? "%" : "", amount, 0.15);
    if (chance(0.6)) {
      std::size_t at = 0;
      column(
          "t", Sort::time, pick({"s", "min", "ms"}),
          [&](std::size_t) { return std::to_string(at += 1 + below(5)); }, 0);
      all.back().column.rises = all.back().column.unique = true;
    }
    if (chance(0.4)) {
      column(
          "T", Sort::reading, pick({"degC", "°F", "°C"}), [&](std::size_t) { return decimal(2, 1); }, 0.15);
    }
    if (chance(0.4)) {
      std::uint64_t at = below(1'000'000'000);
      switch (below(4)) {
        case 0:
          column(
              "day", Sort::date, "",
              [&](std::size_t) { return fmt::format("2031-0{}-{:02}", 1 + below(9), 1 + below(28)); }, 0.1);
          break;
        case 1:
          column(
              "day", Sort::date, "", [&](std::size_t) { return stamp(below(4'000'000'000), 1 + below(9)); },
              0.1);
          break;
        case 2: {
          // A logger.
          const std::uint64_t step = 1'000'000 >> (10 * below(3));
          column(
              "day", Sort::date, "", [&](std::size_t) { return stamp(at += step, 9); }, 0);
          all.back().column.rises = all.back().column.unique = true;
          break;
        }
        default:
          column(
              "day", Sort::date, "",
              [&](std::size_t) {
                return pick({"0001-01-01T00:00:00.000000001", "9999-12-30T23:59:59.999999999",
                             "1969-12-31T23:59:59.9", "2031-04-02"});
              },
              0.1);
      }
    }
    std::string text;
    for (std::size_t row = 0; row <= rows; ++row) {
      for (std::size_t c = 0; c < all.size(); ++c)
        text += (c > 0 ? "," : "") + (row == 0 ? all[c].header : all[c].cells[row - 1]);
      text += '\n';
    }
    begin("table = '''\n" + text + "'''\n");
    Made& made = made_.back();
    for (const Cells& cells : all) made.columns.push_back(cells.column);
    made.source_rows = rows;
    for (const Cells& cells : all) {
      const Sort sort = cells.column.sort;
      if (!uncertain_ || !chance(0.5) || cells.column.name == "id" || sort == Sort::text ||
          sort == Sort::truth || cells.header.ends_with("[%]"))
        continue;
      const std::string unit = sort == Sort::mass                         ? "g"
                               : sort == Sort::time || sort == Sort::date ? "s"
                               : sort == Sort::reading                    ? "K"
                                                                          : "1";
      const std::string size = decimal(1, 1) + "1";
      study_.stated.push_back({made.name, cells.column.name, size, unit});
      study_.sheets.back().settings.push_back("columns." + cells.column.name + ".uncertainty = \"" + size +
                                              (unit == "1" ? "" : " " + unit) + "\"");
    }
    add_settings();
  }

  void add_planned() {
    const std::size_t rows = 2 + below(8);
    begin(fmt::format("rows = {}\n", rows));
    made_.back().source_rows = rows;
    add_equation(made_.size() - 1, "row_number()", Sort::plain);
  }

  void add_rows_of() {
    const std::size_t source = below(made_.size());
    std::string head = "rows_of = \"" + made_[source].name + "\"\n";
    std::vector<Column> taken = made_[source].columns;
    if (chance(0.4) && taken.size() > 2) {
      std::shuffle(taken.begin(), taken.end(), random_);
      taken.resize(2);
      // Those that are left keep the order of the source.
      std::sort(taken.begin(), taken.end(),
                [&](const Column& a, const Column& b) { return a.name < b.name; });
      head += "take = [\"" + taken[0].name + "\", \"" + taken[1].name + "\"]\n";
      takes_ = true;
    }
    const bool sorted = sorted_.contains(source);
    const bool chooses = made_[source].chooses;
    const auto rows = made_[source].source_rows;
    const bool counted = !made_[source].groups_of && !chooses;
    begin(head);
    Made& made = made_.back();
    made.rows_of = source;
    for (Column column : taken) {
      column.measured = true;
      column.filled = false;
      column.rises = column.rises && !sorted;
      made.columns.push_back(column);
    }
    if (!std::exchange(takes_, false)) follows_[source].push_back(made_.size() - 1);
    if (counted) made.source_rows = rows;
    add_settings();
  }

  void add_groups() {
    const std::size_t source = below(made_.size());
    std::vector<std::string> keys;
    for (const Column& column : made_[source].columns) {
      const bool fit = column.sort == Sort::text || column.sort == Sort::plain || column.sort == Sort::mass ||
                       column.sort == Sort::date || column.sort == Sort::truth;
      if (fit && chance(column.sort == Sort::text ? 0.7 : 0.12) && keys.size() < 2)
        keys.push_back(column.name);
    }
    std::string list;
    for (const std::string& key : keys) list += (list.empty() ? "\"" : ", \"") + key + "\"";
    RandomStudy::Sheet& sheet =
        begin("rows_of = \"" + made_[source].name + "\"\none_row_per = [" + list + "]\n");
    Made& made = made_.back();
    made.groups_of = source;
    if (chance(0.25)) {
      Around around = around_of(source);
      around.whole = false;
      sheet.settings.push_back("keep = '" + expression(Sort::truth, 2, around) + "'");
    }
    for (const Column& column : made_[source].columns) {
      if (std::find(keys.begin(), keys.end(), column.name) == keys.end()) continue;
      Column key = column;
      key.measured = true;
      key.filled = false;
      key.rises = false;
      key.unique = keys.size() == 1;
      made.columns.push_back(key);
    }
    for (std::size_t k = 1 + below(3); k > 0; --k) add_equation(made_.size() - 1);
    if (chance(0.3)) add_sorting();
  }

  void add_cells() {
    const std::size_t source = below(made_.size());
    std::vector<std::string> cells;
    const Sort sort = chance(0.7) ? Sort::mass : Sort::plain;
    for (const Column& column : made_[source].columns) {
      if (column.sort == sort && cells.size() < 3 && column.name != "id") cells.push_back(column.name);
    }
    // What their headers say is their names only where nothing is common to them.
    if (cells.size() < 2 ||
        std::any_of(cells.begin(), cells.end(), [](const auto& c) { return c.size() > 1; }))
      return add_table();
    std::string list;
    for (const std::string& cell : cells) list += (list.empty() ? "\"" : ", \"") + cell + "\"";
    begin("rows_of = \"" + made_[source].name + "\"\none_row_per_cell = [" + list +
          "]\ncell = \"cell\"\nfrom_header = \"which\"\n" + "take = [\"" +
          made_[source].columns.front().name + "\"]\n");
    Made& made = made_.back();
    made.rows_of = source;
    Column first = made_[source].columns.front();
    if (std::find(cells.begin(), cells.end(), first.name) != cells.end()) first = made_[source].columns[1];
    first.measured = true;
    first.filled = first.rises = first.unique = false;
    made.columns = {first, {"which", Sort::text}, {"cell", sort}};
    add_settings();
  }

  // Conditions, links, fills and the order of a sheet.
  void add_settings() {
    const std::size_t own = made_.size() - 1;
    RandomStudy::Sheet& sheet = study_.sheets.back();
    for (std::size_t k = below(3); k > 0 && own > 0; --k) add_link(own);
    for (Column& column : made_[own].columns) {
      if (uncertain_ || !chance(0.2) || column.rises || column.name == "id") continue;
      add_fill(own, column);
    }
    if (chance(0.3)) {
      Around around = around_of(own);
      around.whole = around.measured = false;
      std::erase_if(around.columns, [](const Column& c) { return c.filled; });
      sheet.settings.push_back("keep = '" + expression(Sort::truth, 2, around) + "'");
      made_[own].chooses = true;
    }
    if (chance(0.25)) add_sorting();
  }

  void add_sorting() {
    const std::size_t own = made_.size() - 1;
    std::vector<std::string> names;
    for (const Column& column : made_[own].columns) {
      if (column.sort != Sort::truth && column.sort != Sort::difference) names.push_back(column.name);
    }
    if (names.empty()) return;
    study_.sheets.back().settings.push_back("sort_by = [\"" + one_of(names) + (chance(0.5) ? " down" : "") +
                                            "\"]");
    sorted_.insert(own);
  }

  void add_fill(std::size_t own, Column& column) {
    Around around = around_of(own);
    std::erase_if(around.columns, [](const Column& c) { return !c.measured; });
    around.measured = false;
    around.reductions = 1;
    std::vector<std::string> rules;
    for (std::size_t k = 1 + below(2); k > 0; --k) {
      switch (below(6)) {
        case 0:
          rules.push_back(column.sort == Sort::truth ? "true" : literal(column.sort));
          break;
        case 1:
          rules.emplace_back("previous_known(self)");
          break;
        case 2:
          rules.emplace_back(column.sort == Sort::text || column.sort == Sort::truth ||
                                     column.sort == Sort::date
                                 ? "col_first_known(self)"
                                 : "col_mean(self)");
          break;
        case 3:
          rules.push_back(column.sort == Sort::text || column.sort == Sort::truth ? "next_known(self)"
                                                                                  : "col_max(self)");
          break;
        default:
          rules.push_back(expression(column.sort, 1, around));
      }
    }
    std::string list;
    for (const std::string& rule : rules) list += (list.empty() ? "" : ", ") + ("'" + rule + "'");
    study_.sheets[own].settings.push_back("fill." + column.name + " = [" + list + "]");
    column.filled = true;
  }

  void add_link(std::size_t own) {
    const std::size_t target = below(made_.size());
    if (target == own) return;
    std::vector<const Column*> keys;
    for (const Column& column : made_[target].columns) {
      const bool ordered = column.sort == Sort::plain || column.sort == Sort::mass ||
                           column.sort == Sort::time || column.sort == Sort::date ||
                           column.sort == Sort::reading;
      if (column.unique && !column.filled && (ordered || column.sort == Sort::text)) keys.push_back(&column);
    }
    const bool by_row =
        made_[own].source_rows && made_[own].source_rows == made_[target].source_rows && chance(0.4);
    const bool alias = chance(0.4);
    const std::string name = alias ? fmt::format("l{}", ++names_) : made_[target].name;
    for (const Link& link : made_[own].links) {
      if (link.name == name) return;
    }
    if (made_[own].rows_of == target && !alias) return;
    if (by_row && !alias) {
      study_.sheets[own].settings.push_back("link." + name + " = \"row\"");
      made_[own].links.push_back({name, target, false});
      return;
    }
    if (keys.empty()) return;
    const Column& key = *one_of(keys);
    std::vector<std::string> here;
    for (const Column& column : made_[own].columns) {
      if (column.sort == key.sort) here.push_back(column.name);
    }
    if (here.empty()) return;
    const bool text = key.sort == Sort::text;
    const std::string how = text ? "" : pick({"", "nearest", "previous", "interpolate"});
    std::string pairs = "\"" + one_of(here) + " = " + key.name + "\"";
    const auto text_of = [&](std::size_t sheet) {
      const std::vector<Column>& columns = made_[sheet].columns;
      const auto found = std::find_if(columns.begin(), columns.end(),
                                      [](const Column& c) { return c.sort == Sort::text && !c.filled; });
      return found == columns.end() ? std::string() : found->name;
    };
    if (!text && chance(0.3) && !text_of(own).empty() && !text_of(target).empty())
      pairs = "[\"" + text_of(own) + " = " + text_of(target) + "\", " + pairs + "]";
    std::string line = "link." + name + " = { " + (alias ? "sheet = \"" + made_[target].name + "\", " : "") +
                       "match = " + pairs;
    if (!how.empty()) line += ", how = \"" + how + "\"";
    if (!how.empty() && chance(0.3) && key.sort == Sort::plain)
      line += ", within = \"" + decimal(1, 1) + "\"";
    if (!how.empty() && chance(0.3) && key.sort == Sort::time)
      line += ", within = \"" + decimal(1, 0) + " s\"";
    study_.sheets[own].settings.push_back(line + " }");
    made_[own].links.push_back({name, target, how == "interpolate"});
  }

  // --- Equations.
  void add_equation(std::size_t own) {
    static const std::vector<Sort> sorts = {Sort::mass, Sort::mass,      Sort::plain, Sort::plain,
                                            Sort::time, Sort::reading,   Sort::text,  Sort::truth,
                                            Sort::date, Sort::difference};
    if (chance(0.15) && own > 0) add_link(own);
    const Sort sort = one_of(sorts);
    add_equation(own, expression(sort, 3, around_of(own)), sort);
    if (chance(0.08)) {
      study_.sheets[own].claims.push_back(
          fmt::format("\"claim {}\": {}", ++names_, expression(Sort::truth, 2, around_of(own))));
    }
  }

  void add_equation(std::size_t own, const std::string& text, Sort sort) {
    const std::string name = fmt::format("d{}", ++names_);
    const bool number = text.find_first_not_of("0123456789.") == std::string::npos;
    study_.sheets[own].equations.push_back(name + (number ? "" : unit_for(sort)) + " = " + text);
    add_column(own, {name, sort, false});
  }

  // A column of a sheet, which sheets with its rows have, too.
  void add_column(std::size_t own, Column column) {
    made_[own].columns.push_back(column);
    column.measured = true;
    for (const std::size_t other : follows_[own]) add_column(other, column);
  }

  std::string unit_for(Sort sort) {
    switch (sort) {
      case Sort::mass:
        return chance(0.6) ? " [" + pick({"g", "kg", "mg"}) + "]" : "";
      case Sort::time:
        return chance(0.6) ? " [" + pick({"s", "min", "h"}) + "]" : "";
      case Sort::plain:
        return chance(0.1) ? " [%]" : "";
      case Sort::reading:
        return chance(0.5) ? " [" + pick({"degC", "degF", "K"}) + "]" : "";
      default:
        return "";
    }
  }

  Around around_of(std::size_t own) {
    Around around;
    around.sheet = own;
    around.columns = made_[own].columns;
    around.measured = true;
    if (!study_.formulas.empty()) around.formulas = {"twice"};
    if (made_[own].groups_of) {
      around.whole = true;
      return around;
    }
    for (const Link& link : made_[own].links) {
      for (Column column : made_[link.sheet].columns) {
        const bool lines = column.sort != Sort::text && column.sort != Sort::truth;
        if (link.interpolates && !lines) continue;
        column.name = link.name + "." + column.name;
        column.measured = false;
        column.rises = column.unique = false;
        around.columns.push_back(column);
      }
    }
    return around;
  }

  std::optional<std::string> column_of(Sort sort, const Around& around) {
    std::vector<std::string> names;
    for (const Column& column : around.columns) {
      if (column.sort != sort) continue;
      names.push_back(around.prefix + column.name);
      if (column.measured && column.filled && around.measured && around.prefix.empty())
        names.push_back("measured(" + column.name + ")");
    }
    if (names.empty()) return std::nullopt;
    return one_of(names);
  }

  // Some nanoseconds after 10 o'clock of a day, with so many digits of a second.
  static std::string stamp(std::uint64_t nanoseconds, std::size_t digits) {
    const std::string fraction = fmt::format("{:09}", nanoseconds % 1'000'000'000).substr(0, digits);
    return fmt::format("2031-04-02T10:00:{:02}.{}", nanoseconds / 1'000'000'000 % 60, fraction);
  }

  std::string literal(Sort sort) {
    switch (sort) {
      case Sort::mass:
        return decimal(2, 1) + " [" + pick({"g", "kg", "mg"}) + "]";
      case Sort::time:
        return decimal(1, 1) + " [" + pick({"s", "min", "ms"}) + "]";
      case Sort::plain:
        return decimal(1, 1);
      case Sort::reading:
        return decimal(2, 1) + " [" + pick({"degC", "degF"}) + "]";
      case Sort::difference:
        return decimal(1, 1) + " [K]";
      case Sort::text:
        return "\"" + pick({"A", "B", "C", "AB"}) + "\"";
      case Sort::truth:
        return chance(0.5) ? "true" : "false";
      case Sort::date:
        if (chance(0.5)) return "date(\"" + stamp(below(4'000'000'000), 1 + below(9)) + "\")";
        return "date(\"2031-0" + std::to_string(1 + below(9)) + "-11\")";
    }
    return "";
  }

  std::string leaf(Sort sort, const Around& around) {
    if (!chance(0.2)) {
      if (const auto name = column_of(sort, around)) return *name;
    }
    if (sort == Sort::mass && !study_.constants.empty() && chance(0.3)) return "c0";
    return literal(sort);
  }

  std::string expression(Sort sort, int depth, const Around& around) {
    if (depth <= 0) return leaf(sort, around);
    const auto sub = [&](Sort of) { return expression(of, depth - 1, around); };
    // Sheets of groups reduce their source.
    const bool grouped = made_[around.sheet].groups_of.has_value() && around.prefix.empty() && around.whole;
    const double whole = grouped ? 0.75 : 0.35;
    if (around.whole && chance(whole)) {
      if (const auto text = whole_column(sort, depth, around)) return *text;
    }
    switch (below(5)) {
      case 0:
        return leaf(sort, around);
      case 1:
        return "if(" + sub(Sort::truth) + ", " + sub(sort) + ", " + sub(sort) + ")";
      case 2: {
        // A literal is never null, so that nothing after it matters.
        const auto name = column_of(sort, around);
        if (name) return "fallback(" + *name + ", " + sub(sort) + ")";
        return leaf(sort, around);
      }
      case 3:
        if (const auto name = column_of(sort, around); name && chance(0.5))
          return "exclude(" + *name + ", where: " + sub(Sort::truth) + ")";
        break;
      default:
        break;
    }
    return of_sort(sort, depth, around);
  }

  std::string along_row(const std::string& function, Sort sort, int depth, const Around& around) {
    std::string text = function + "(";
    const std::size_t count = 2 + below(2);
    for (std::size_t i = 0; i < count; ++i) text += (i > 0 ? ", " : "") + expression(sort, depth - 1, around);
    if (function != "row_count" && chance(0.5))
      text += chance(0.5) ? ", nulls: skip" : ", nulls: skip, at_least: 2";
    return text + ")";
  }

  std::string of_sort(Sort sort, int depth, const Around& around) {
    const auto sub = [&](Sort of) { return expression(of, depth - 1, around); };
    const std::string row =
        along_row("row_" + pick({"sum", "mean", "min", "max", "median"}), sort, depth, around);
    switch (sort) {
      case Sort::mass:
      case Sort::time:
        switch (below(5)) {
          case 0:
            return "(" + sub(sort) + " " + pick({"+", "-"}) + " " + sub(sort) + ")";
          case 1:
            return "(" + sub(Sort::plain) + " * " + sub(sort) + ")";
          case 2:
            return "(" + sub(sort) + " / " + sub(Sort::plain) + ")";
          case 3:
            if (sort == Sort::time) {
              if (const auto day = column_of(Sort::date, around))
                return "(" + *day + " - " + sub(Sort::date) + ")";
            }
            return around.formulas.empty() ? "abs(" + sub(sort) + ")" : "twice(" + sub(sort) + ")";
          default:
            return row;
        }
      case Sort::plain:
        switch (below(8)) {
          case 0:
            return "(" + sub(Sort::plain) + " " + pick({"+", "-", "*", "/"}) + " " + sub(Sort::plain) + ")";
          case 1:
            return "(" + sub(Sort::mass) + " / " + sub(Sort::mass) + ")";
          case 2:
            return "value(" + sub(Sort::mass) + ", [g])";
          case 3:
            return "sqrt(" + sub(Sort::plain) + ")";
          case 4:
            return along_row("row_count", Sort::mass, depth, around);
          case 5:
            return "(" + sub(Sort::plain) + ")^2";
          case 6:
            return "ratio(" + sub(Sort::time) + ", " + sub(Sort::time) + ", zero: 0)";
          default:
            return row;
        }
      case Sort::reading:
        if (chance(0.5)) return "(" + sub(Sort::reading) + " + " + sub(Sort::difference) + ")";
        return along_row("row_" + pick({"mean", "min", "max"}), sort, depth, around);
      case Sort::difference:
        return "(" + sub(Sort::reading) + " - " + sub(Sort::reading) + ")";
      case Sort::text:
        return "concat(" + sub(Sort::text) + ", " + sub(Sort::text) + ")";
      case Sort::date:
        if (chance(0.4))
          return along_row("row_" + pick({"mean", "median", "min", "max"}), sort, depth, around);
        return "(" + sub(Sort::date) + " " + pick({"+", "-"}) + " " + literal(Sort::time) + ")";
      case Sort::truth:
        break;
    }
    switch (below(7)) {
      case 0:
        return "(" + sub(Sort::truth) + " " + pick({"and", "or"}) + " " + sub(Sort::truth) + ")";
      case 1:
        return "not " + std::string("(") + sub(Sort::truth) + ")";
      case 2: {
        const Sort of = chance(0.5) ? Sort::mass : Sort::text;
        const auto name = column_of(of, around);
        return name ? "is_null(" + *name + ")" : "true";
      }
      case 3: {
        const auto name = column_of(Sort::text, around);
        return name ? "(" + *name + " " + pick({"==", "!="}) + " " + literal(Sort::text) + ")" : "true";
      }
      default: {
        const Sort of =
            one_of(std::vector<Sort>{Sort::mass, Sort::plain, Sort::time, Sort::reading, Sort::date});
        return "(" + sub(of) + " " + pick({"<", "<=", ">", ">=", "==", "!="}) + " " + sub(of) + ")";
      }
    }
  }

  // A function of whole columns that gives such a value; nothing where there is none to be had.
  std::optional<std::string> whole_column(Sort sort, int depth, const Around& around) {
    if (around.reductions <= 0) return std::nullopt;
    Around inside = around;
    --inside.reductions;
    const bool grouped = made_[around.sheet].groups_of.has_value() && around.prefix.empty();
    bool own_rows = true;
    if (grouped) {
      // Inside, names are those of the source, and of the groups where the source has none of the name.
      const std::size_t source = *made_[around.sheet].groups_of;
      if (inside_group_) {
        inside.columns = around.columns;
      } else {
        inside.columns = made_[source].columns;
        for (const Column& column : made_[around.sheet].columns) {
          const bool known = std::any_of(inside.columns.begin(), inside.columns.end(),
                                         [&](const Column& c) { return c.name == column.name; });
          if (!known && !column.measured) inside.columns.push_back(column);
        }
        for (Column& column : inside.columns) column.measured = column.measured && column.filled;
      }
      own_rows = inside_group_;
    }
    // Now and then the rows of another sheet.
    if (around.prefix.empty() && !inside_group_ && chance(0.25)) {
      const std::size_t other = below(made_.size());
      const bool linked = std::any_of(made_[around.sheet].links.begin(), made_[around.sheet].links.end(),
                                      [&](const Link& l) { return l.name == made_[other].name; });
      if (other != around.sheet && !linked && made_[around.sheet].groups_of != other) {
        inside.prefix = made_[other].name + ".";
        inside.columns = made_[other].columns;
        inside.sheet = other;
        inside.reductions = 0;
        inside.whole = false;
        own_rows = false;
      }
    }
    const bool before = inside_group_;
    if (grouped && inside.prefix.empty()) inside_group_ = true;
    // One sheet for all columns inside, which those of a link by the name of its sheet are not by themselves.
    if (inside.prefix.empty())
      std::erase_if(inside.columns, [](const Column& c) { return c.name.find('.') != std::string::npos; });
    std::optional<std::string> text;
    if (own_rows && chance(0.45)) text = sequence(sort, depth, inside);
    if (!text) text = reduction(sort, depth, inside, own_rows || (grouped && before));
    inside_group_ = before;
    return text;
  }

  // Arguments must name a column, else they stand for no sheet.
  std::optional<std::string> argument(Sort sort, int depth, const Around& around) {
    const auto name = column_of(sort, around);
    if (!name) return std::nullopt;
    if (depth <= 1 || chance(0.5)) return name;
    if (sort == Sort::mass || sort == Sort::plain || sort == Sort::time)
      return "(" + *name + " " + pick({"+", "-"}) + " " + expression(sort, depth - 2, around) + ")";
    return name;
  }

  std::string keys(const Around& around) {
    const auto by = column_of(Sort::text, around);
    if (!by || !chance(0.3) || by->starts_with("measured")) return "";
    return ", by: " + *by;
  }

  std::optional<std::string> reduction(Sort sort, int depth, const Around& around, bool may_group) {
    std::string options;
    if (chance(0.3)) options += ", where: " + expression(Sort::truth, depth - 1, around);
    std::string nulls;
    if (chance(0.15)) nulls = ", nulls: propagate";
    if (chance(0.1)) nulls = ", nulls: skip, at_least: 2";
    if (may_group) options += keys(around);
    const auto call = [&](const std::string& function, Sort of,
                          const std::string& more) -> std::optional<std::string> {
      const auto value = argument(of, depth, around);
      if (!value) return std::nullopt;
      // Cells and counts know no rule.
      const bool cell = function.starts_with("first") || function.starts_with("last") || function == "count";
      return "col_" + function + "(" + *value + more + options + (cell ? "" : nulls) + ")";
    };
    switch (sort) {
      case Sort::mass:
      case Sort::time:
        if (sort == Sort::time && chance(0.3)) {
          if (const auto range = call(pick({"range", "sd"}), Sort::date, "")) return range;
        }
        if (const auto weight = column_of(Sort::plain, around); weight && chance(0.15))
          return call("mean", sort, ", weights: abs(" + *weight + ")");
        if (const auto rising = rising_of(around); rising && sort == Sort::mass && chance(0.15)) {
          const auto area = call("area", sort, ", along: " + *rising);
          if (area) return "(" + *area + " / (2 [s]))";
        }
        switch (below(4)) {
          case 0:
            return call(pick({"first", "last", "first_known", "last_known"}), sort, "");
          case 1:
            if (const auto rising = rising_of(around); rising && sort == Sort::mass && !around.prefix.empty())
              break;
            return call("mean", sort, "");
          default:
            return call(pick({"sum", "mean", "min", "max", "median", "range", "sd"}), sort, "");
        }
        return call("sum", sort, "");
      case Sort::plain:
        if (chance(0.3)) return call("count", chance(0.5) ? Sort::mass : Sort::text, "");
        if (chance(0.15)) return call("quantile", sort, ", 0.25");
        if (const auto mass = column_of(Sort::mass, around); mass && chance(0.1))
          return call("correlation", sort, ", " + *mass);
        return call(pick({"sum", "mean", "min", "max", "median", "sd", "first", "rms", "sem"}), sort, "");
      case Sort::reading:
        return call(pick({"mean", "min", "max", "median", "first", "last_known"}), sort, "");
      case Sort::difference:
        return call(pick({"range", "sd"}), Sort::reading, "");
      case Sort::text:
      case Sort::truth:
        return call(pick({"first", "last", "first_known"}), sort, "");
      case Sort::date:
        if (chance(0.1)) return call("quantile", sort, ", 0.25");
        return call(pick({"min", "max", "first", "last", "mean", "median"}), sort, "");
    }
    return std::nullopt;
  }

  std::optional<std::string> rising_of(const Around& around) {
    for (const Column& column : around.columns) {
      if (column.rises) return around.prefix + column.name;
    }
    return std::nullopt;
  }

  std::optional<std::string> sequence(Sort sort, int depth, const Around& around) {
    const std::string by = keys(around);
    const std::string nulls = chance(0.4) ? ", nulls: skip" : "";
    const auto value = argument(sort == Sort::difference ? Sort::reading : sort, depth, around);
    if (sort == Sort::plain && chance(0.3)) {
      const auto of = argument(Sort::mass, depth, around);
      if (of && chance(0.7)) return "rank(" + *of + by + ")";
      return by.empty() ? "row_number()" : "row_number(" + by.substr(2) + ")";
    }
    if (!value) return std::nullopt;
    if (sort == Sort::difference) return "change(" + *value + by + ")";
    if (sort == Sort::time && chance(0.3)) {
      if (const auto day = argument(Sort::date, depth, around)) return "change(" + *day + by + ")";
    }
    if (sort == Sort::date && chance(0.4)) {
      const auto rising = rising_of(around);
      if (rising && chance(0.4)) return "interpolated(" + *value + ", along: " + *rising + nulls + by + ")";
      if (chance(0.3))
        return "moving_" + pick({"mean", "median"}) + "(" + *value + ", rows: 3" + nulls + by + ")";
      return pick({"mean_so_far", "min_so_far", "max_so_far"}) + "(" + *value + nulls + by + ")";
    }
    if (sort == Sort::text || sort == Sort::truth || sort == Sort::date || chance(0.4)) {
      const std::string function = pick({"previous", "next", "previous_known", "next_known"});
      const bool far = !function.ends_with("known") && chance(0.2);
      return function + "(" + *value + (far ? ", rows: 2" : "") + by + ")";
    }
    if (sort == Sort::reading)
      return pick({"mean_so_far", "min_so_far", "max_so_far"}) + "(" + *value + nulls + by + ")";
    if (const auto rising = rising_of(around); rising && sort == Sort::mass && chance(0.4)) {
      switch (below(3)) {
        case 0:
          return "(derivative(" + *value + ", along: " + *rising + nulls + by + ") * 2 [s])";
        case 1:
          return "(area_so_far(" + *value + ", along: " + *rising + nulls + by + ") / (2 [s]))";
        default:
          return "interpolated(" + *value + ", along: " + *rising + nulls + by + ")";
      }
    }
    if (chance(0.3))
      return "moving_" + pick({"mean", "median", "sd"}) + "(" + *value + ", rows: 3" + nulls + by + ")";
    if (chance(0.3)) return "change(" + *value + by + ")";
    return pick({"sum_so_far", "mean_so_far", "min_so_far", "max_so_far"}) + "(" + *value + nulls + by + ")";
  }

  std::mt19937_64 random_;
  bool uncertain_;
  RandomStudy study_;
  std::vector<Made> made_;
  std::map<std::size_t, std::vector<std::size_t>> follows_;  // sheets with all columns of another
  std::set<std::size_t> sorted_;
  bool takes_ = false;
  bool inside_group_ = false;
  std::size_t names_ = 0;
};

}  // namespace

std::string RandomStudy::toml() const {
  std::string text = "headers = \"symbol\"\nnulls_of = \"all\"\n";
  if (!constants.empty()) text += "constants = '''\n" + constants + "'''\n";
  if (!formulas.empty()) text += "formulas = '''\n" + formulas + "'''\n";
  for (const Sheet& sheet : sheets) {
    text += "\n[sheet." + sheet.name + "]\n" + sheet.head;
    for (const std::string& line : sheet.settings) text += line + '\n';
    const auto list = [&](const char* key, const std::vector<std::string>& lines) {
      if (lines.empty()) return;
      text += std::string(key) + " = '''\n";
      for (const std::string& line : lines) text += "  " + line + '\n';
      text += "'''\n";
    };
    list("equations", sheet.equations);
    list("claims", sheet.claims);
  }
  return text;
}

RandomStudy random_study(std::uint64_t seed, Uncertainties uncertainties) {
  return Maker(seed, uncertainties).run();
}

}  // namespace opensum::reference
