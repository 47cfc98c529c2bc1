// A plain interpreter of whole studies.
#include "reference/study_interpreter.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>
#include <sstream>

#include "equation/parser.h"

namespace opensum::reference {
namespace {

// The units that studies of the tests use: their size and, of scales, their zero in K.
struct TestUnit {
  const char* symbol;
  Exact size;
  Exact zero = 0;
};

const TestUnit* find_unit(const std::string& symbol) {
  static const std::vector<TestUnit> units = {{"1", 1},
                                              {"%", Exact(1, 100)},
                                              {"kg", 1},
                                              {"g", Exact(1, 1000)},
                                              {"mg", Exact(1, 1000000)},
                                              {"s", 1},
                                              {"ms", Exact(1, 1000)},
                                              {"min", 60},
                                              {"h", 3600},
                                              {"K", 1},
                                              {"°C", 1, Exact(27315, 100)},
                                              {"degC", 1, Exact(27315, 100)},
                                              {"°F", Exact(5, 9), Exact(45967, 180)},
                                              {"degF", Exact(5, 9), Exact(45967, 180)}};
  for (const TestUnit& unit : units) {
    if (symbol == unit.symbol) return &unit;
  }
  return nullptr;
}

// `kg^2/(s K)`: the product of sizes; one symbol alone may be a scale.
Exact size_of(const std::string& text) {
  Exact size = 1;
  bool below = false;
  std::string word;
  const auto end_word = [&] {
    if (word.empty()) return;
    const std::size_t hat = word.find('^');
    const TestUnit* unit = find_unit(word.substr(0, hat));
    if (unit == nullptr) throw NotInterpreted("the unit " + word);
    int power = hat == std::string::npos ? 1 : std::stoi(word.substr(hat + 1));
    for (; power > 0; --power) size = below ? Exact(size / unit->size) : Exact(size * unit->size);
    for (; power < 0; ++power) size = below ? Exact(size * unit->size) : Exact(size / unit->size);
    word.clear();
  };
  for (const char c : text) {
    if (c == ' ' || c == '(' || c == ')') {
      end_word();
    } else if (c == '/') {
      end_word();
      below = true;
    } else {
      word += c;
    }
  }
  end_word();
  return size;
}

constexpr double kRounding = 2.3e-16;

std::vector<std::string> split(const std::string& line, char sign) {
  std::vector<std::string> parts;
  std::stringstream in(line);
  for (std::string part; std::getline(in, part, sign);) parts.push_back(part);
  if (!line.empty() && line.back() == sign) parts.emplace_back();
  return parts;
}

std::string trimmed_text(const std::string& text) {
  const std::size_t begin = text.find_first_not_of(" \t\r\n");
  return begin == std::string::npos ? "" : text.substr(begin, text.find_last_not_of(" \t\r\n") - begin + 1);
}

bool is_number(const std::string& text) {
  std::size_t i = text.starts_with('-') ? 1 : 0;
  bool digits = false;
  for (; i < text.size(); ++i) {
    if (std::isdigit(static_cast<unsigned char>(text[i])) != 0) {
      digits = true;
    } else if (text[i] != '.') {
      return false;
    }
  }
  return digits;
}

// Days since 1970 by the calendar, counted year by year.
std::int64_t days_of(int year, int month, int day) {
  const auto leap = [](int y) { return (y % 4 == 0 && y % 100 != 0) || y % 400 == 0; };
  constexpr int kDays[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  std::int64_t days = 0;
  for (int y = 1970; y < year; ++y) days += leap(y) ? 366 : 365;
  for (int y = year; y < 1970; ++y) days -= leap(y) ? 366 : 365;
  for (int m = 1; m < month; ++m) days += kDays[m - 1] + (m == 2 && leap(year) ? 1 : 0);
  return days + day - 1;
}

// A date such as `2031-04-02` or `2031-04-02 10:20:30.5` in s.
std::optional<Exact> date_of(const std::string& text) {
  if (text.size() < 10 || text[4] != '-' || text[7] != '-') return std::nullopt;
  Exact seconds = Exact(days_of(std::stoi(text.substr(0, 4)), std::stoi(text.substr(5, 2)),
                                std::stoi(text.substr(8, 2)))) *
                  86400;
  if (text.size() == 10) return seconds;
  const std::vector<std::string> clock = split(text.substr(11), ':');
  seconds += std::stoi(clock.at(0)) * 3600 + std::stoi(clock.at(1)) * 60;
  if (clock.size() > 2) seconds += exact_decimal(clock[2]);
  return seconds;
}

}  // namespace

Exact StudyInterpreter::size_of_unit(const std::string& unit) { return size_of(unit); }

Exact StudyInterpreter::in_coherent_units(const Exact& number, const std::string& unit) {
  const TestUnit* known = find_unit(unit);
  return known != nullptr ? Exact(number * known->size + known->zero) : Exact(number * size_of(unit));
}

class StudyInterpreter::Inside {
 public:
  explicit Inside(const Study& study) : study_(study) {
    for (const Passage& passage : study.formulas) {
      for (Formula& formula : parse_formulas(passage, faults_)) formulas_.push_back(std::move(formula));
    }
    for (const Passage& passage : study.constants) {
      for (Definition& definition : parse_definitions(passage, faults_))
        constants_.push_back(std::move(definition));
    }
    for (const SheetModel& model : study.sheets) {
      Sheet& sheet = sheets_.emplace_back();
      sheet.model = &model;
      read_definitions(model, sheet);
      if (model.keep) sheet.keep = parse_expression(*model.keep, faults_);
      for (const FillModel& fill : model.fills) {
        for (const Passage& rule : fill.rules)
          sheet.fills[fill.symbol.text()].push_back(parse_expression(rule, faults_));
      }
      if (model.table) read_table(model.table->text(), sheet);
      if (model.rows) sheet.read_rows = *model.rows;
    }
    if (faults_.has_errors()) throw NotInterpreted("a text that is no equation");
  }

  void move(const CellName& cell, const Exact& by) {
    moving_ = true;
    Sheet& sheet = sheets_[index_of(cell.sheet)];
    const auto column =
        std::find(sheet.headers.begin(), sheet.headers.end(), cell.column) - sheet.headers.begin();
    sheet.measured[static_cast<std::size_t>(column)][cell.row].number += by;
  }

  std::size_t index_of(const std::string& name) const {
    for (std::size_t i = 0; i < sheets_.size(); ++i) {
      if (sheets_[i].model->name == name) return i;
    }
    throw NotInterpreted("the sheet " + name);
  }
  std::optional<std::size_t> find_sheet(const std::string& name) const {
    for (std::size_t i = 0; i < sheets_.size(); ++i) {
      if (sheets_[i].model->name == name) return i;
    }
    return std::nullopt;
  }

  std::vector<std::string> names() const {
    std::vector<std::string> all;
    for (const Sheet& sheet : sheets_) all.push_back(sheet.model->name);
    return all;
  }

  std::vector<std::string> columns(std::size_t s) {
    std::vector<std::string> all = measured_names(s);
    for (const Definition& definition : sheets_[s].definitions) all.push_back(definition.name);
    return all;
  }
  bool has_fill(std::size_t s, const std::string& column) const { return sheets_[s].fills.contains(column); }

  // --- Rows.
  struct Row {
    std::size_t from = 0;   // the row of the source
    std::size_t cell = 0;   // of a sheet with a row for each cell
    std::size_t place = 0;  // among the rows of the source, before any was left out
  };
  const std::vector<Row>& rows(std::size_t s) {
    Sheet& sheet = sheets_[s];
    if (sheet.rows) return *sheet.rows;
    if (sheet.counting) throw NotInterpreted("rows that need themselves");
    sheet.counting = true;
    const SheetModel& model = *sheet.model;
    std::vector<Row> all;
    if (model.rows_of && model.one_row_per) {
      group(s, all);
    } else if (model.rows_of) {
      const std::size_t source = index_of(model.rows_of->text());
      const std::size_t cells = model.one_row_per_cell ? cells_of(s).size() : 1;
      for (const std::size_t row : written_order(source)) {
        for (std::size_t cell = 0; cell < cells; ++cell) all.push_back({row, cell, all.size()});
      }
      sheet.source_rows = all.size();
      leave_out(s, all);
    } else {
      for (std::size_t row = 0; row < sheet.read_rows; ++row) all.push_back({row, 0, row});
      sheet.source_rows = all.size();
      leave_out(s, all);
    }
    sheet.rows = std::move(all);
    return *sheet.rows;
  }

  std::size_t source_rows(std::size_t s) {
    rows(s);
    return sheets_[s].source_rows;
  }

  std::vector<std::size_t> written_order(std::size_t s) {
    std::vector<std::size_t> order_of_rows(rows(s).size());
    for (std::size_t i = 0; i < order_of_rows.size(); ++i) order_of_rows[i] = i;
    const std::vector<Passage>& keys = sheets_[s].model->sort_by;
    for (auto key = keys.rbegin(); key != keys.rend(); ++key) {
      std::string name = key->text();
      const bool down = name.ends_with(" down");
      if (down) name = name.substr(0, name.size() - 5);
      std::stable_sort(order_of_rows.begin(), order_of_rows.end(), [&](std::size_t a, std::size_t b) {
        const Worth x = column_cell(s, name, a, false);
        const Worth y = column_cell(s, name, b, false);
        if (x.null || y.null) return !x.null && y.null.has_value();
        const int compared = compare(x, y);
        return down ? compared > 0 : compared < 0;
      });
    }
    return order_of_rows;
  }

  // --- Cells.
  Worth column_cell(std::size_t s, const std::string& name, std::size_t row, bool as_measured) {
    Sheet& sheet = sheets_[s];
    const auto key = std::tuple(name, row, as_measured);
    const auto known = sheet.cells.find(key);
    if (known != sheet.cells.end()) return known->second;
    if (!sheet.open.insert(key).second) throw NotInterpreted("the column " + name + " needs itself");
    Worth value = make_cell(s, name, row, as_measured);
    sheet.open.erase(key);
    if (value.null && !value.null->began) value.null->began = CellName{sheet.model->name, name, row};
    return sheet.cells[key] = std::move(value);
  }

  std::vector<std::vector<int>> claims(std::size_t s) {
    std::vector<std::vector<int>> all;
    for (const Lines& lines : sheets_[s].model->claims) {
      for (const Claim& claim : parse_claims(lines.text, faults_)) {
        std::vector<int>& held = all.emplace_back();
        for (std::size_t row = 0; row < rows(s).size(); ++row) {
          const Worth value = evaluate(*claim.condition, {s, row});
          held.push_back(value.unsure ? 2 : value.null ? -1 : value.truth() ? 1 : 0);
        }
      }
    }
    return all;
  }

 private:
  struct Sheet {
    const SheetModel* model = nullptr;
    std::vector<std::string> headers;
    std::vector<std::string> labels;
    std::vector<std::vector<Worth>> measured;  // by column, all rows that were read
    std::size_t read_rows = 0;
    std::size_t source_rows = 0;
    std::vector<Definition> definitions;
    NodePtr keep;
    std::map<std::string, std::vector<NodePtr>> fills;
    bool counting = false;
    std::optional<std::vector<Row>> rows;
    std::vector<std::vector<std::size_t>> groups;  // by row, the rows of the source
    std::map<std::tuple<std::string, std::size_t, bool>, Worth> cells;
    std::set<std::tuple<std::string, std::size_t, bool>> open;
  };

  // Where an expression is evaluated.
  struct At {
    std::size_t sheet = 0;
    std::size_t row = 0;
    enum class Mode : std::uint8_t { equation, fill, keep } mode = Mode::equation;
    bool as_measured = false;
    /// Inside a reduction over the rows of a group: these, and the row of the sheet of groups.
    const std::vector<std::size_t>* members = nullptr;
    std::optional<std::pair<std::size_t, std::size_t>> group = std::nullopt;
    /// In a fill, the column; in a formula, its parameters.
    const std::string* self = nullptr;
    const std::map<std::string, Worth>* parameters = nullptr;

    At in_row(std::size_t other) const {
      At at = *this;
      at.row = other;
      return at;
    }
  };

  void read_definitions(const SheetModel& model, Sheet& sheet) {
    for (const Lines& lines : model.equations) {
      for (Definition& definition : parse_definitions(lines.text, faults_)) {
        const auto same = std::find_if(sheet.definitions.begin(), sheet.definitions.end(),
                                       [&](const Definition& d) { return d.name == definition.name; });
        if (same == sheet.definitions.end()) {
          sheet.definitions.push_back(std::move(definition));
        } else {
          *same = std::move(definition);
        }
      }
    }
  }

  void read_table(const std::string& text, Sheet& sheet) {
    std::vector<std::vector<std::string>> lines;
    for (const std::string& line : split(text, '\n')) {
      if (!trimmed_text(line).empty()) lines.push_back(split(trimmed_text(line), ','));
    }
    sheet.read_rows = lines.size() - 1;
    for (std::size_t c = 0; c < lines[0].size(); ++c) {
      const std::string title = trimmed_text(lines[0][c]);
      const std::size_t open = title.find('[');
      sheet.headers.push_back(trimmed_text(title.substr(0, open)));
      const std::string unit =
          open == std::string::npos ? "1" : title.substr(open + 1, title.find(']') - open - 1);
      std::vector<std::string> cells;
      bool numbers = true;
      bool dates = true;
      for (std::size_t row = 1; row < lines.size(); ++row) {
        cells.push_back(c < lines[row].size() ? trimmed_text(lines[row][c]) : "");
        const std::string& cell = cells.back();
        if (cell.empty()) continue;
        const bool limit = cell[0] == '<' || cell[0] == '>';
        numbers = numbers && (limit || is_number(cell));
        dates = dates && date_of(cell).has_value();
      }
      std::vector<Worth>& column = sheet.measured.emplace_back();
      for (const std::string& cell : cells)
        column.push_back(read_cell(cell, unit, numbers, dates && !numbers));
    }
  }

  static Worth read_cell(const std::string& cell, const std::string& unit, bool number, bool date) {
    if (cell.empty()) return null_worth(Reason::missing);
    if (date) {
      return date_worth(*date_of(cell));
    }
    if (!number) return text_worth(cell);
    if (cell[0] == '<' || cell[0] == '>') {
      Worth value = null_worth(cell[0] == '<' ? Reason::below_limit : Reason::above_limit);
      value.limit = in_coherent_units(exact_decimal(cell.substr(1)), unit);
      return value;
    }
    return worth(in_coherent_units(exact_decimal(cell), unit));
  }

  // Those that count as measured in a sheet.
  std::vector<std::string> measured_names(std::size_t s) {
    const Sheet& sheet = sheets_[s];
    const SheetModel& model = *sheet.model;
    if (!model.rows_of) return sheet.headers;
    std::vector<std::string> names;
    const std::size_t source = index_of(model.rows_of->text());
    if (model.one_row_per) {
      for (const Passage& key : *model.one_row_per) names.push_back(key.text());
      return names;
    }
    const std::vector<std::string> there = columns(source);
    const std::vector<std::string> cells = model.one_row_per_cell ? cells_of(s) : std::vector<std::string>();
    for (const std::string& name : there) {
      const bool is_cell = std::find(cells.begin(), cells.end(), name) != cells.end();
      const bool taken = !model.take || std::any_of(model.take->begin(), model.take->end(),
                                                    [&](const Passage& p) { return p.text() == name; });
      if (!is_cell && taken) names.push_back(name);
    }
    if (model.one_row_per_cell) {
      names.push_back(header_name(model));
      names.push_back(cell_name(model));
    }
    return names;
  }

  static std::string cell_name(const SheetModel& model) {
    return model.cell.empty() ? "cell" : model.cell.front().text();
  }
  static std::string header_name(const SheetModel& model) {
    return model.from_header ? model.from_header->text() : "header";
  }

  std::vector<std::string> cells_of(std::size_t s) const {
    std::vector<std::string> names;
    for (const Passage& name : *sheets_[s].model->one_row_per_cell) names.push_back(name.text());
    return names;
  }

  void leave_out(std::size_t s, std::vector<Row>& all) {
    Sheet& sheet = sheets_[s];
    if (!sheet.keep) return;
    std::vector<Row> kept;
    const auto around = choosing_;
    for (const Row& row : all) {
      // The condition sees the row before any is left out.
      choosing_ = std::pair(s, row);
      At at{s, 0};
      at.mode = At::Mode::keep;
      const Worth value = evaluate(*sheet.keep, at);
      choosing_ = around;
      if (value.unsure) throw NotInterpreted("a condition for rows that hangs on rounding");
      if (!value.null && value.truth()) kept.push_back(row);
    }
    all = std::move(kept);
  }

  void group(std::size_t s, std::vector<Row>& all) {
    Sheet& sheet = sheets_[s];
    const SheetModel& model = *sheet.model;
    const std::size_t source = index_of(model.rows_of->text());
    std::vector<Row> between;
    for (const std::size_t row : written_order(source)) between.push_back({row, 0, between.size()});
    if (sheet.keep) {
      std::vector<Row> kept;
      for (const Row& row : between) {
        At at{source, row.from};
        const Worth value = evaluate(*sheet.keep, at);
        if (value.unsure) throw NotInterpreted("a condition for rows that hangs on rounding");
        if (!value.null && value.truth()) kept.push_back(row);
      }
      between = std::move(kept);
    }
    std::vector<std::vector<Worth>> keys;
    for (const Row& row : between) {
      std::vector<Worth> own;
      for (const Passage& key : *model.one_row_per)
        own.push_back(column_cell(source, key.text(), row.from, false));
      std::size_t number = 0;
      while (number < keys.size() && !same_keys(keys[number], own)) ++number;
      if (number == keys.size()) {
        keys.push_back(own);
        all.push_back({row.from, 0, all.size()});
        sheet.groups.emplace_back();
      }
      sheet.groups[number].push_back(row.from);
    }
    if (model.one_row_per->empty() && all.empty()) {
      all.push_back({SIZE_MAX, 0, 0});
      sheet.groups.emplace_back();
    }
    sheet.source_rows = all.size();
  }

  bool same_keys(const std::vector<Worth>& a, const std::vector<Worth>& b) const {
    for (std::size_t i = 0; i < a.size(); ++i) {
      if (a[i].null.has_value() != b[i].null.has_value()) return false;
      if (a[i].null) {
        const auto limit = [](const Worth& w) { return is_limit(w.null->reason) ? w.limit : std::nullopt; };
        if (limit(a[i]) != limit(b[i]) || (limit(a[i]) && a[i].null->reason != b[i].null->reason))
          return false;
      } else if (compare(a[i], b[i]) != 0) {
        return false;
      }
    }
    return true;
  }

  // The order of two known values of a kind.
  int compare(const Worth& a, const Worth& b) const {
    if (a.kind == Kind::text) return a.text < b.text ? -1 : a.text > b.text ? 1 : 0;
    bool unsure = a.unsure || b.unsure;
    const int found = order(a, b, unsure);
    if (unsure) throw NotInterpreted("an order that hangs on rounding");
    return found;
  }

  Worth make_cell(std::size_t s, const std::string& name, std::size_t row, bool as_measured) {
    Sheet& sheet = sheets_[s];
    const auto names = measured_names(s);
    if (std::find(names.begin(), names.end(), name) != names.end()) {
      Worth measured = measured_cell(s, name, row);
      if (measured.null && !measured.null->began)
        measured.null->began = CellName{sheet.model->name, name, row};
      if (as_measured || !has_fill(s, name)) return measured;
      // A gap that no rule closes keeps its own reason; of a filled column no limit is known.
      if (measured.null) {
        At at{s, row};
        at.mode = At::Mode::fill;
        at.self = &name;
        for (const NodePtr& rule : sheet.fills.at(name)) {
          Worth value = evaluate(*rule, at);
          value.limit.reset();
          if (!value.null) return value;
        }
      }
      measured.limit.reset();
      return measured;
    }
    for (const Definition& definition : sheet.definitions) {
      if (definition.name != name) continue;
      Worth value = evaluate(*definition.expression, {s, row});
      if (definition.unit && definition.expression->is_plain_number())
        value.number = in_coherent_units(value.number, definition.unit->text);
      value.limit.reset();
      return value;
    }
    throw NotInterpreted("the column " + sheet.model->name + "." + name);
  }

  const Row& row_of(std::size_t s, std::size_t row) {
    return choosing_ && choosing_->first == s ? choosing_->second : rows(s)[row];
  }

  Worth measured_cell(std::size_t s, const std::string& name, std::size_t row) {
    Sheet& sheet = sheets_[s];
    const SheetModel& model = *sheet.model;
    const Row own = row_of(s, row);
    if (!model.rows_of) {
      const auto column = std::find(sheet.headers.begin(), sheet.headers.end(), name) - sheet.headers.begin();
      Worth value = sheet.measured[static_cast<std::size_t>(column)][own.from];
      return value;
    }
    const std::size_t source = index_of(model.rows_of->text());
    if (own.from == SIZE_MAX) return null_worth(Reason::missing);
    if (model.one_row_per_cell && name == cell_name(model))
      return column_cell(source, cells_of(s)[own.cell], own.from, false);
    if (model.one_row_per_cell && name == header_name(model)) return text_worth(header_text(s, own.cell));
    return column_cell(source, name, own.from, false);
  }

  // What remains of a header when the text that all have in common is taken away.
  std::string header_text(std::size_t s, std::size_t cell) const {
    const std::vector<std::string> names = cells_of(s);
    std::size_t before = 0;
    const auto same_at = [&](auto at) {
      return std::all_of(names.begin(), names.end(),
                         [&](const std::string& n) { return at(n) == at(names[0]); });
    };
    std::size_t shortest = SIZE_MAX;
    for (const std::string& name : names) shortest = std::min(shortest, name.size());
    while (before < shortest && same_at([&](const std::string& n) { return n[before]; })) ++before;
    return names[cell].substr(before);
  }

  // --- Expressions.
  Worth evaluate(const Node& node, const At& at) {
    switch (node.kind()) {
      case NodeKind::number: {
        const tree::Number& number = node.as<tree::Number>();
        const Exact value = exact_decimal(number.digits);
        return worth(number.unit ? in_coherent_units(value, number.unit->text) : value);
      }
      case NodeKind::text:
        return text_worth(node.as<tree::Text>().text);
      case NodeKind::truth:
        return truth_worth(node.as<tree::Truth>().value);
      case NodeKind::null:
        return null_worth(Reason::excluded);
      case NodeKind::self:
        return column_cell(at.sheet, *at.self, at.row, true);
      case NodeKind::name:
        return name_worth(node.as<tree::Name>().symbol, at);
      case NodeKind::member:
        return member_worth(node.as<tree::Member>(), at);
      case NodeKind::unary:
        return unary(node, at);
      case NodeKind::binary:
        return binary(node, at);
      case NodeKind::convert:
        return evaluate(*node.children[0], at);
      case NodeKind::call:
        return call(node, at);
      case NodeKind::pi:
      case NodeKind::range:
      case NodeKind::unit:
      case NodeKind::argument:
      case NodeKind::list:
        break;
    }
    throw NotInterpreted("a kind of expression");
  }

  static Worth without_limit(Worth value) {
    value.limit.reset();
    return value;
  }

  Worth name_worth(const std::string& name, const At& at) {
    if (at.parameters != nullptr) {
      if (const auto found = at.parameters->find(name); found != at.parameters->end()) return found->second;
    }
    const auto names = columns(at.sheet);
    if (std::find(names.begin(), names.end(), name) != names.end()) {
      // Rows are chosen by what was measured; so are gaps filled.
      const bool measured = at.as_measured || at.mode != At::Mode::equation;
      if (choosing_ && choosing_->first == at.sheet) return uncached(at, name, measured);
      return column_cell(at.sheet, name, at.row, measured);
    }
    if (at.group) {
      const auto of_groups = columns(at.group->first);
      if (std::find(of_groups.begin(), of_groups.end(), name) != of_groups.end())
        return column_cell(at.group->first, name, at.group->second, false);
    }
    for (const Definition& constant : constants_) {
      if (constant.name != name) continue;
      Worth value = evaluate(*constant.expression, at);
      if (constant.unit && constant.expression->is_plain_number())
        value = worth(in_coherent_units(value.number, constant.unit->text));
      return value;
    }
    throw NotInterpreted("the name " + name);
  }

  // A cell of the row that is being chosen, which is none of the sheet yet.
  Worth uncached(const At& at, const std::string& name, bool as_measured) {
    const auto names = measured_names(at.sheet);
    if (std::find(names.begin(), names.end(), name) != names.end()) {
      Worth value = measured_cell(at.sheet, name, at.row);
      if (value.null && !value.null->began) value.null->began = CellName{};
      (void)as_measured;
      return value;
    }
    for (const Definition& definition : sheets_[at.sheet].definitions) {
      if (definition.name == name) return without_limit(evaluate(*definition.expression, at));
    }
    throw NotInterpreted("the name " + name);
  }

  const LinkModel* find_link(std::size_t s, const std::string& name) const {
    for (const LinkModel& link : sheets_[s].model->links) {
      if (link.name.text() == name) return &link;
    }
    return nullptr;
  }

  Worth member_worth(const tree::Member& member, const At& at) {
    const SheetModel& model = *sheets_[at.sheet].model;
    if (member.owner == model.name) return name_worth(member.symbol, at);
    if (at.group && member.owner == sheets_[at.group->first].model->name)
      return column_cell(at.group->first, member.symbol, at.group->second, false);
    if (const LinkModel* link = find_link(at.sheet, member.owner)) return linked(*link, member.symbol, at);
    if (model.rows_of && model.rows_of->text() == member.owner && !model.one_row_per)
      return column_cell(index_of(member.owner), member.symbol, row_of(at.sheet, at.row).from, false);
    throw NotInterpreted("the member " + member.owner + "." + member.symbol);
  }

  // --- Links.
  Worth linked(const LinkModel& link, const std::string& column, const At& at) {
    const std::size_t target = index_of(link.sheet ? link.sheet->text() : link.name.text());
    const std::vector<Row>& there = rows(target);
    if (link.by_row) {
      if (source_rows(target) != sheets_[at.sheet].source_rows && !choosing_) rows(at.sheet);
      const std::size_t place = row_of(at.sheet, at.row).place;
      for (std::size_t row = 0; row < there.size(); ++row) {
        if (there[row].place == place) return column_cell(target, column, row, false);
      }
      return null_worth(Reason::no_match);
    }
    std::vector<Worth> here;
    std::vector<std::string> names;
    for (const Passage& pair : link.match) {
      const std::size_t equals = pair.text().find('=');
      const std::string own = trimmed_text(pair.text().substr(0, equals));
      names.push_back(equals == std::string::npos ? own : trimmed_text(pair.text().substr(equals + 1)));
      here.push_back(name_worth(own, at));
    }
    for (const Worth& key : here) {
      if (key.null) {
        Worth value = null_worth(Reason::no_match);
        value.null->began = key.null->began;
        return value;
      }
    }
    const bool ordered = link.how != LinkHow::equal;
    const std::size_t exact = ordered ? here.size() - 1 : here.size();
    std::vector<std::pair<Worth, std::size_t>> found;
    bool any = exact == 0;
    for (std::size_t row = 0; row < there.size(); ++row) {
      bool same = true;
      for (std::size_t k = 0; k < exact && same; ++k) {
        const Worth key = column_cell(target, names[k], row, false);
        same = !key.null && compare(key, here[k]) == 0;
      }
      if (!same) continue;
      if (!ordered) return column_cell(target, column, row, false);
      const Worth key = column_cell(target, names.back(), row, false);
      if (key.null) continue;
      any = true;
      found.emplace_back(key, row);
    }
    if (!any || found.empty()) return null_worth(Reason::no_match);
    std::stable_sort(found.begin(), found.end(),
                     [&](const auto& a, const auto& b) { return compare(a.first, b.first) < 0; });
    return placed(link, column, target, here.back(), found);
  }

  Worth placed(const LinkModel& link, const std::string& column, std::size_t target, const Worth& wanted,
               const std::vector<std::pair<Worth, std::size_t>>& found) {
    std::optional<std::size_t> below;  // the last that is not above
    for (std::size_t i = 0; i < found.size(); ++i) {
      if (compare(found[i].first, wanted) <= 0) below = i;
    }
    const bool met = below && compare(found[*below].first, wanted) == 0;
    const auto take = [&](std::size_t i) { return column_cell(target, column, found[i].second, false); };
    const auto far = [&](const Worth& a, const Worth& b) {
      if (!link.within) return false;
      const std::string text = link.within->text();
      const std::size_t blank = text.find(' ');
      const std::string unit = blank == std::string::npos ? "1" : text.substr(blank + 1);
      const Exact width = exact_decimal(text.substr(0, blank)) * size_of(unit == "degC" ? "K" : unit);
      Worth distance = worth(abs(Exact(a.number - b.number)), a.error + b.error);
      return compare(distance, worth(width)) > 0;
    };
    const Worth out = null_worth(Reason::out_of_range);
    if (link.how == LinkHow::previous) {
      if (!below) return out;
      return far(wanted, found[*below].first) ? null_worth(Reason::no_match) : take(*below);
    }
    const bool last = below && *below + 1 == found.size();
    if (link.how == LinkHow::interpolate) {
      if (!below || (last && !met)) return out;
      if (met) return without_limit(take(*below));
      const auto& [low, low_row] = found[*below];
      const auto& [high, high_row] = found[*below + 1];
      if (far(wanted, low) || far(high, wanted)) return null_worth(Reason::no_match);
      const Worth first = take(*below);
      if (first.null) return without_limit(first);
      const Worth second = take(*below + 1);
      if (second.null) return without_limit(second);
      const Exact part = (wanted.number - low.number) / (high.number - low.number);
      const double errors = (wanted.error + low.error + high.error) / to_double(high.number - low.number) *
                                std::fabs(to_double(second.number - first.number)) * 3 +
                            first.error + second.error;
      const Exact number = first.number + part * (second.number - first.number);
      Worth value = first.kind == Kind::date ? to_nanosecond(number, errors) : worth(number, errors);
      value.unsure = first.unsure || second.unsure;
      return value;
    }
    // The nearest.
    if (met) return take(*below);
    if (!below) return far(found[0].first, wanted) ? null_worth(Reason::no_match) : take(0);
    if (last) return far(found[*below].first, wanted) ? null_worth(Reason::no_match) : take(*below);
    const Worth to_low =
        worth(wanted.number - found[*below].first.number, wanted.error + found[*below].first.error);
    const Worth to_high =
        worth(found[*below + 1].first.number - wanted.number, wanted.error + found[*below + 1].first.error);
    const int nearer = compare(to_low, to_high);
    if (nearer == 0 && !far(wanted, found[*below].first)) return null_worth(Reason::ambiguous);
    const std::size_t chosen = nearer < 0 ? *below : *below + 1;
    return far(found[chosen].first, wanted) ? null_worth(Reason::no_match) : take(chosen);
  }

  // --- Operators.
  Worth unary(const Node& node, const At& at) {
    Worth value = without_limit(evaluate(*node.children[0], at));
    if (value.null) return value;
    if (node.as<tree::Unary>().op == Operator::negate) {
      value.number = -value.number;
    } else {
      value.number = value.truth() ? 0 : 1;
    }
    return value;
  }

  Worth binary(const Node& node, const At& at) {
    const Operator op = node.as<tree::Binary>().op;
    const Worth a = evaluate(*node.children[0], at);
    const Worth b = evaluate(*node.children[1], at);
    switch (op) {
      case Operator::logical_and:
      case Operator::logical_or:
        return logical(a, b, op == Operator::logical_or);
      case Operator::equal:
      case Operator::not_equal:
      case Operator::less:
      case Operator::less_equal:
      case Operator::greater:
      case Operator::greater_equal:
        return comparison(op, a, b, *node.children[0], *node.children[1]);
      case Operator::add:
      case Operator::subtract:
      case Operator::multiply:
      case Operator::divide:
      case Operator::power: {
        Worth value = arithmetic(op, a, b);
        value.unsure = value.unsure || a.unsure || b.unsure;
        return value;
      }
      case Operator::logical_not:
      case Operator::negate:
        break;
    }
    throw NotInterpreted("an operator");
  }

  static Worth logical(const Worth& a, const Worth& b, bool deciding) {
    const bool a_decides = !a.null && a.truth() == deciding;
    const bool b_decides = !b.null && b.truth() == deciding;
    Worth value = truth_worth(a_decides || b_decides ? deciding : !deciding);
    value.unsure = a.unsure || b.unsure;
    if (a_decides || b_decides) return value;
    if (a.null || b.null) value.null = a.null ? a.null : b.null;
    return value;
  }

  Worth arithmetic(Operator op, const Worth& a, const Worth& b) const {
    Worth value;
    if (a.null || b.null) {
      value.null = a.null ? a.null : b.null;
      return value;
    }
    const double x = std::fabs(to_double(a.number));
    const double y = std::fabs(to_double(b.number));
    switch (op) {
      case Operator::add:
      case Operator::subtract:
        value = worth(op == Operator::add ? Exact(a.number + b.number) : Exact(a.number - b.number),
                      a.error + b.error + (x + y) * kRounding);
        if ((a.kind == Kind::date) != (b.kind == Kind::date))
          value = to_nanosecond(op == Operator::add ? Exact(a.number + b.number) : Exact(a.number - b.number),
                                a.error + b.error);
        if (a.kind == Kind::date && b.kind == Kind::date)
          value = worth(a.number - b.number, a.error + b.error);
        break;
      case Operator::multiply:
        value = worth(a.number * b.number, a.error * y + b.error * x + x * y * kRounding);
        break;
      case Operator::divide: {
        if (b.number == 0) {
          value = null_worth(Reason::divide_by_zero);
          // What should be nothing may be a little in doubles.
          value.unsure = b.error > 0 && b.error > y * kRounding * 2;
          break;
        }
        value = worth(a.number / b.number, (a.error + b.error * x / y) / y + x / y * kRounding);
        value.unsure = b.error * 4 > y;
        break;
      }
      default: {
        const int power = static_cast<int>(to_double(b.number));
        Exact product = 1;
        for (int i = 0; i < std::abs(power); ++i) product *= a.number;
        if (power < 0 && a.number == 0) return null_worth(Reason::divide_by_zero);
        const double size = std::fabs(to_double(product));
        value =
            worth(power < 0 ? Exact(1 / product) : product,
                  size == 0 ? a.error : size * std::abs(power) * (a.error / std::max(x, 1e-300) + kRounding));
      }
    }
    value.unsure = value.unsure || a.unsure || b.unsure;
    return value;
  }

  // A column as it was measured, in any unit, whose nulls may keep a limit.
  static bool may_have_limit(const Node& node) {
    if (node.kind() == NodeKind::convert) return may_have_limit(*node.children[0]);
    if (node.is<tree::Name>() || node.is<tree::Member>()) return true;
    if (!node.is<tree::Call>() || node.children.empty()) return false;
    const std::string& name = node.function();
    return name == "measured" || ((name == "value" || name == "kelvin") && may_have_limit(*node.children[0]));
  }

  static Worth comparison(Operator op, const Worth& a, const Worth& b, const Node& left, const Node& right) {
    Worth value = truth_worth(false);
    value.unsure = a.unsure || b.unsure;
    if (a.null || b.null) {
      if (const auto decided = by_limits(op, a, b, may_have_limit(left), may_have_limit(right))) {
        value.number = *decided ? 1 : 0;
        return value;
      }
      value.null = a.null ? a.null : b.null;
      return value;
    }
    int found = 0;
    if (a.kind == Kind::text) {
      found = a.text == b.text ? 0 : a.text < b.text ? -1 : 1;
    } else {
      found = order(a, b, value.unsure);
    }
    const bool holds = op == Operator::equal        ? found == 0
                       : op == Operator::not_equal  ? found != 0
                       : op == Operator::less       ? found < 0
                       : op == Operator::less_equal ? found <= 0
                       : op == Operator::greater    ? found > 0
                                                    : found >= 0;
    value.number = holds ? 1 : 0;
    return value;
  }

  // What limits decide, of which it is not known whether they are reached.
  static std::optional<bool> by_limits(Operator op, const Worth& a, const Worth& b, bool left, bool right) {
    struct Bounds {
      std::optional<Exact> low;
      std::optional<Exact> high;
    };
    const auto bounds = [](const Worth& w, bool may) -> std::optional<Bounds> {
      if (!w.null) return Bounds{w.number, w.number};
      if (!may || !w.limit) return std::nullopt;
      if (w.null->reason == Reason::below_limit) return Bounds{std::nullopt, w.limit};
      return Bounds{w.limit, std::nullopt};
    };
    const auto x = bounds(a, left);
    const auto y = bounds(b, right);
    if (!x || !y) return std::nullopt;
    const auto below = [](const std::optional<Exact>& high, const std::optional<Exact>& low) {
      return high && low && *high < *low;
    };
    // Whether all of the first is below all of the second, or none is.
    const auto all_less = [&](const Bounds& p, const Bounds& q) -> std::optional<bool> {
      if (below(p.high, q.low)) return true;
      if (p.low && q.high && *p.low >= *q.high) return false;
      return std::nullopt;
    };
    switch (op) {
      case Operator::less:
        return all_less(*x, *y);
      case Operator::greater:
        return all_less(*y, *x);
      case Operator::less_equal: {
        const auto found = all_less(*y, *x);
        return found ? std::optional(!*found) : std::nullopt;
      }
      case Operator::greater_equal: {
        const auto found = all_less(*x, *y);
        return found ? std::optional(!*found) : std::nullopt;
      }
      default:
        if (below(x->high, y->low) || below(y->high, x->low)) return op == Operator::not_equal;
        return std::nullopt;
    }
  }

  // --- Calls.
  static const Node* named(const Node& node, const std::string& name) {
    for (const NamedArgument& argument : node.named()) {
      if (argument.name == name) return argument.value.get();
    }
    return nullptr;
  }

  static bool skips(const Node& node, bool by_default) {
    const Node* nulls = named(node, "nulls");
    return nulls == nullptr ? by_default : nulls->as<tree::Word>().word == "skip";
  }

  static std::size_t at_least(const Node& node) {
    const Node* least = named(node, "at_least");
    return least == nullptr ? 1 : static_cast<std::size_t>(std::stoi(least->as<tree::Number>().digits));
  }

  Worth call(const Node& node, const At& at) {
    const std::string& name = node.function();
    for (const Formula& formula : formulas_) {
      if (formula.name != name) continue;
      std::map<std::string, Worth> parameters;
      for (std::size_t i = 0; i < formula.parameters.size(); ++i)
        parameters[formula.parameters[i]] = without_limit(evaluate(*node.children[i], at));
      At inside = at;
      inside.parameters = &parameters;
      return evaluate(*formula.body, inside);
    }
    if (name.starts_with("col_")) return reduction(node, at);
    if (name.starts_with("row_") && name != "row_number") return along_row(node, at);
    static const std::set<std::string> kSequences = {
        "row_number",   "previous",      "next",        "change",     "previous_known",
        "next_known",   "sum_so_far",    "mean_so_far", "min_so_far", "max_so_far",
        "moving_mean",  "moving_median", "moving_sd",   "derivative", "area_so_far",
        "interpolated", "rank"};
    if (kSequences.contains(name)) return sequence(node, at);
    return everyday(node, at);
  }

  Worth everyday(const Node& node, const At& at) {
    const std::string& name = node.function();
    if (name == "measured") {
      At inside = at;
      inside.as_measured = true;
      return evaluate(*node.children[0], inside);
    }
    if (name == "limit") {
      At inside = at;
      inside.as_measured = true;
      const Worth value = evaluate(*node.children[0], inside);
      if (!value.null) return null_worth(Reason::excluded);
      if (is_limit(value.null->reason) && value.limit) return worth(*value.limit);
      return without_limit(value);
    }
    std::vector<Worth> args;
    for (const NodePtr& child : node.children) {
      if (child->kind() != NodeKind::unit) args.push_back(without_limit(evaluate(*child, at)));
    }
    if (name == "if") {
      Worth value = args[0].null ? null_worth(Reason::none) : args[0].truth() ? args[1] : args[2];
      if (args[0].null) {
        value = Worth();
        value.null = args[0].null;
      }
      value.unsure = value.unsure || args[0].unsure;
      return value;
    }
    if (name == "is_null") {
      Worth value = truth_worth(args[0].null.has_value());
      value.unsure = args[0].unsure;
      return value;
    }
    if (name == "fallback") {
      for (const Worth& arg : args) {
        if (!arg.null) return arg;
      }
      return args[0];
    }
    if (name == "complete") {
      bool complete = true;
      bool unsure = false;
      for (const Worth& arg : args) {
        complete = complete && !arg.null;
        unsure = unsure || arg.unsure;
      }
      Worth value = truth_worth(complete);
      value.unsure = unsure;
      return value;
    }
    if (name == "exclude") {
      const Worth where = evaluate(*named(node, "where"), at);
      Worth value = args[0];
      value.unsure = value.unsure || where.unsure;
      if (value.null) return value;
      if (where.null) {
        value.null = where.null;
      } else if (where.truth()) {
        value.null = Absent{Reason::excluded, std::nullopt};
      }
      return value;
    }
    if (name == "ratio") {
      const Node* zero = named(node, "zero");
      if (!args[0].null && !args[1].null && args[1].number == 0 && zero != nullptr)
        return without_limit(evaluate(*zero, at));
      return arithmetic(Operator::divide, args[0], args[1]);
    }
    if (name == "kelvin") return evaluate(*node.children[0], at);
    if (name == "value") {
      Worth value = evaluate(*node.children[0], at);
      const std::string& unit = node.children[1]->as<tree::UnitArgument>().unit.text;
      const TestUnit* known = find_unit(unit);
      const Exact size = size_of(unit);
      const Exact zero = known != nullptr ? known->zero : Exact(0);
      if (value.limit) value.limit = (*value.limit - zero) / size;
      if (value.null) return value;
      Worth number = worth((value.number - zero) / size, value.error / to_double(size));
      number.unsure = value.unsure;
      return number;
    }
    if (name == "abs") {
      Worth value = args[0];
      if (!value.null) value.number = abs(value.number);
      return value;
    }
    if (name == "sqrt") {
      Worth value = args[0];
      if (value.null) return value;
      if (value.number < 0) {
        Worth none = null_worth(Reason::domain);
        none.unsure = value.unsure || value.error * 4 > std::fabs(to_double(value.number));
        return none;
      }
      const double root = std::sqrt(to_double(value.number));
      Worth result =
          worth(Exact(root), root == 0 ? std::sqrt(value.error) : value.error / root / 2 + root * kRounding);
      result.unsure = value.unsure || (value.number == 0 && value.error > 0);
      return result;
    }
    if (name == "concat") {
      Worth value = text_worth("");
      for (const Worth& arg : args) {
        value.unsure = value.unsure || arg.unsure;
        if (arg.null) {
          value.null = arg.null;
          return value;
        }
        if (arg.kind != Kind::text) throw NotInterpreted("a number in a text");
        value.text += arg.text;
      }
      return value;
    }
    if (name == "starts_with" || name == "contains") {
      for (const Worth& arg : args) {
        if (arg.null) {
          Worth value = truth_worth(false);
          value.null = arg.null;
          return value;
        }
      }
      const bool found = name == "contains" ? args[0].text.find(args[1].text) != std::string::npos
                                            : args[0].text.starts_with(args[1].text);
      return truth_worth(found);
    }
    if (name == "date") {
      const auto date = date_of(node.children[0]->as<tree::Text>().text);
      return date_worth(*date);
    }
    throw NotInterpreted("the function " + name);
  }

  // Known values, their sum and so on. Doubles are off by as much as all of them are, and by how they cancel.
  struct Numbers {
    std::vector<Worth> known;
    bool unsure = false;
    double errors() const {
      double all = 0;
      for (const Worth& w : known) all += w.error;
      return all;
    }
    double greatest() const {
      double most = 0;
      for (const Worth& w : known) most = std::max(most, std::fabs(to_double(w.number)));
      return most;
    }
  };

  // While a cell is moved to see what follows, nothing is rounded.
  Worth to_nanosecond(const Exact& seconds, double error) const {
    if (!moving_) return date_worth(seconds, error);
    Worth value = worth(seconds, error);
    value.kind = Kind::date;
    return value;
  }

  // By their distances from the first.
  Worth statistic_of_dates(const std::string& what, const Numbers& numbers, const Exact& share) {
    const Worth& first = numbers.known.front();
    Numbers distances;
    distances.unsure = numbers.unsure;
    for (const Worth& date : numbers.known)
      distances.known.push_back(worth(date.number - first.number, date.error + first.error));
    Worth value = statistic(what, distances, share);
    if (what == "range" || what == "sd" || what == "sem") return value;
    const Exact seconds = value.number + first.number;
    const auto same = std::find_if(numbers.known.begin(), numbers.known.end(),
                                   [&](const Worth& date) { return date.number == seconds; });
    Worth date = same == numbers.known.end() ? to_nanosecond(seconds, value.error) : *same;
    for (const Worth& each : numbers.known) date.error = std::max(date.error, each.error);
    date.unsure = value.unsure;
    return date;
  }

  Worth statistic(const std::string& what, const Numbers& numbers, const Exact& share = Exact(1, 2)) {
    std::vector<Worth> known = numbers.known;
    if (known.front().kind == Kind::date) return statistic_of_dates(what, numbers, share);
    const Exact count = known.size();
    const double n = static_cast<double>(known.size());
    Exact sum = 0;
    for (const Worth& w : known) sum += w.number;
    const double errors = numbers.errors() + numbers.greatest() * kRounding * n;
    const auto result = [&](Exact value, double error) {
      Worth w = worth(std::move(value), error);
      w.kind = known.front().kind;
      w.unsure = numbers.unsure;
      return w;
    };
    if (what == "sum") return result(sum, errors);
    if (what == "mean") return result(sum / count, errors / n);
    if (what == "product") {
      Exact product = 1;
      double relative = 0;
      for (const Worth& w : known) {
        product *= w.number;
        if (w.number != 0) relative += w.error / std::fabs(to_double(w.number)) + kRounding;
      }
      return result(product, std::fabs(to_double(product)) * relative);
    }
    if (what == "sd" || what == "sem") {
      Exact squares = 0;
      for (const Worth& w : known) squares += (w.number - sum / count) * (w.number - sum / count);
      const double variance = to_double(Exact(squares / (count - 1)));
      const double sd = std::sqrt(variance) / (what == "sem" ? std::sqrt(n) : 1);
      Worth value = result(Exact(sd), 4 * errors + sd * 1e-14);
      value.kind = Kind::number;
      return value;
    }
    if (what == "rms") {
      Exact squares = 0;
      for (const Worth& w : known) squares += w.number * w.number;
      const double rms = std::sqrt(to_double(Exact(squares / count)));
      return result(Exact(rms), 4 * errors + rms * 1e-14);
    }
    std::stable_sort(known.begin(), known.end(),
                     [](const Worth& a, const Worth& b) { return a.number < b.number; });
    if (what == "min") return result(known.front().number, errors);
    if (what == "max") return result(known.back().number, errors);
    if (what == "range") {
      Worth value = result(known.back().number - known.front().number, errors);
      value.kind = Kind::number;
      return value;
    }
    if (what == "median" || what == "quantile") {
      const Exact place = (count - 1) * share;
      const auto below = static_cast<std::size_t>(std::floor(to_double(place) + 1e-12));
      const std::size_t above = std::min(below + 1, known.size() - 1);
      return result(
          known[below].number + (place - Exact(below)) * (known[above].number - known[below].number), errors);
    }
    throw NotInterpreted("the statistic " + what);
  }

  static std::size_t least_of(const std::string& what) { return what == "sd" || what == "sem" ? 2 : 1; }

  Worth along_row(const Node& node, const At& at) {
    const std::string what = node.function().substr(4);
    const bool skip = skips(node, study_.policy.row_skips);
    Numbers numbers;
    std::optional<Absent> first;
    for (const NodePtr& child : node.children) {
      const Worth value = without_limit(evaluate(*child, at));
      numbers.unsure = numbers.unsure || value.unsure;
      if (!value.null) {
        numbers.known.push_back(value);
      } else if (!first) {
        first = value.null;
      }
    }
    if (what == "count") {
      Worth value = worth(numbers.known.size());
      value.unsure = numbers.unsure;
      return value;
    }
    Worth none;
    none.unsure = numbers.unsure;
    if (first && !skip) {
      none.null = first;
      return none;
    }
    if (numbers.known.size() < std::max(at_least(node), least_of(what))) {
      none.null = Absent{Reason::too_few, std::nullopt};
      return none;
    }
    return statistic(what, numbers);
  }

  // Whether a call is a reduction, which an outer one does not look into.
  static bool is_reduction(const Node& node) {
    return node.is<tree::Call>() && node.function().starts_with("col_");
  }

  // The owners that a reduction names itself, and whether it names columns without one.
  void own_level(const Node& node, bool outermost, std::set<std::string>& owners, bool& bare) const {
    if (!outermost && is_reduction(node)) return;
    if (node.is<tree::Member>()) owners.insert(node.as<tree::Member>().owner);
    if (node.is<tree::Name>()) bare = true;
    for (const NodePtr& child : node.children) own_level(*child, false, owners, bare);
    if (!node.is<tree::Call>()) return;
    for (const NamedArgument& argument : node.named()) own_level(*argument.value, false, owners, bare);
  }

  // The rows over which a reduction goes, each as the place where its operands are evaluated.
  std::vector<At> rows_for(const Node& node, const At& at) {
    std::set<std::string> owners;
    bool bare = false;
    own_level(node, true, owners, bare);
    const SheetModel& model = *sheets_[at.sheet].model;
    std::vector<At> all;
    const auto whole = [&](std::size_t sheet) {
      for (std::size_t row = 0; row < rows(sheet).size(); ++row) all.push_back(At{sheet, row});
    };
    for (const std::string& owner : owners) {
      const auto other = find_sheet(owner);
      const bool is_link = find_link(at.sheet, owner) != nullptr && bare;
      const bool of_groups = at.group && owner == sheets_[at.group->first].model->name;
      if (!other || is_link || of_groups || (owner == model.name && at.members == nullptr)) continue;
      whole(*other);
      return all;
    }
    if (at.members != nullptr) {
      for (const std::size_t row : *at.members) all.push_back(at.in_row(row));
      return all;
    }
    if (model.rows_of && model.one_row_per) {
      rows(at.sheet);
      const std::size_t source = index_of(model.rows_of->text());
      At inside{source, 0};
      inside.members = &sheets_[at.sheet].groups[at.row];
      inside.group = std::pair(at.sheet, at.row);
      for (const std::size_t row : *inside.members) all.push_back(inside.in_row(row));
      return all;
    }
    for (std::size_t row = 0; row < rows(at.sheet).size(); ++row) all.push_back(at.in_row(row));
    return all;
  }

  // Of these rows those whose keys are those of the row at hand.
  std::vector<At> same_group(const Node& node, const At& at, const std::vector<At>& all) {
    const Node* by = named(node, "by");
    if (by == nullptr) return all;
    std::vector<const Node*> keys;
    if (by->kind() == NodeKind::list) {
      for (const NodePtr& key : by->children) keys.push_back(key.get());
    } else {
      keys.push_back(by);
    }
    const auto of = [&](const At& place) {
      std::vector<Worth> values;
      for (const Node* key : keys) values.push_back(evaluate(*key, place));
      return values;
    };
    const std::vector<Worth> own = of(at);
    std::vector<At> same;
    for (const At& row : all) {
      if (same_keys(of(row), own)) same.push_back(row);
    }
    return same;
  }

  Worth reduction(const Node& node, const At& at) {
    const std::string what = node.function().substr(4);
    std::vector<At> all = same_group(node, at, rows_for(node, at));
    bool unsure = false;
    if (const Node* where = named(node, "where")) {
      std::vector<At> chosen;
      for (const At& row : all) {
        const Worth value = evaluate(*where, row);
        unsure = unsure || value.unsure;
        if (!value.null && value.truth()) chosen.push_back(row);
      }
      all = std::move(chosen);
    }
    const auto none = [&](Absent why) {
      Worth value;
      value.null = std::move(why);
      value.unsure = unsure;
      return value;
    };
    const Absent too_few{Reason::too_few, std::nullopt};
    std::vector<Worth> values;
    for (const At& row : all) {
      values.push_back(without_limit(evaluate(*node.children[0], row)));
      unsure = unsure || values.back().unsure;
    }
    const auto cell = [&](std::size_t i) {
      Worth value = values[i];
      value.unsure = unsure;
      return value;
    };
    if (what == "first" || what == "last" || what == "at") {
      const std::size_t place =
          what == "first" ? 0
          : what == "last"
              ? values.size() - 1
              : static_cast<std::size_t>(std::stoi(node.children[1]->as<tree::Number>().digits)) - 1;
      return values.empty() || place >= values.size() ? none(too_few) : cell(place);
    }
    if (what == "first_known" || what == "last_known") {
      for (std::size_t i = 0; i < values.size(); ++i) {
        const std::size_t place = what == "first_known" ? i : values.size() - 1 - i;
        if (!values[place].null) return cell(place);
      }
      return none(too_few);
    }
    const Node* beside = what == "correlation" ? node.children[1].get()
                         : what == "area"      ? named(node, "along")
                                               : named(node, "weights");
    const bool skip = skips(node, study_.policy.column_skips);
    Numbers numbers;
    std::vector<Worth> second;
    std::optional<Absent> first;
    for (std::size_t i = 0; i < all.size(); ++i) {
      const Worth other = beside != nullptr ? without_limit(evaluate(*beside, all[i])) : Worth();
      unsure = unsure || other.unsure;
      if (values[i].null || other.null) {
        if (!first) first = values[i].null ? values[i].null : other.null;
        continue;
      }
      numbers.known.push_back(values[i]);
      second.push_back(other);
    }
    numbers.unsure = unsure;
    if (what == "count") {
      Worth value = worth(numbers.known.size());
      value.unsure = unsure;
      return value;
    }
    if (first && !skip) return none(*first);
    const std::size_t least = what == "correlation" || what == "area" ? 2 : least_of(what);
    if (numbers.known.size() < std::max(at_least(node), least)) return none(too_few);
    if (beside != nullptr) return of_two(what, numbers, second);
    if (what == "quantile")
      return statistic(what, numbers, exact_decimal(node.children[1]->as<tree::Number>().digits));
    return statistic(what, numbers);
  }

  Worth of_two(const std::string& what, const Numbers& numbers, const std::vector<Worth>& second) {
    const std::vector<Worth>& known = numbers.known;
    const auto flagged = [&](Worth value) {
      value.unsure = value.unsure || numbers.unsure;
      return value;
    };
    if (what == "mean") {
      Exact products = 0;
      Exact weights = 0;
      for (std::size_t i = 0; i < known.size(); ++i) {
        if (second[i].number < 0) return flagged(null_worth(Reason::domain));
        products += known[i].number * second[i].number;
        weights += second[i].number;
      }
      if (weights == 0) return flagged(null_worth(Reason::divide_by_zero));
      Worth value = worth(products / weights, numbers.errors() * 4 + numbers.greatest() * 1e-14);
      for (const Worth& w : second) value.error += w.error / to_double(weights) * numbers.greatest() * 2;
      return flagged(value);
    }
    if (what == "area") {
      Exact area = 0;
      double error = 0;
      for (std::size_t i = 1; i < known.size(); ++i) {
        bool close = false;
        if (order(second[i - 1], second[i], close) >= 0) return flagged(null_worth(Reason::domain));
        const Exact step = second[i].number - second[i - 1].number;
        area += step * (known[i].number + known[i - 1].number) / 2;
        error += to_double(step) * (known[i].error + known[i - 1].error) +
                 (second[i].error + second[i - 1].error) * numbers.greatest();
      }
      return flagged(worth(area, error * 2 + std::fabs(to_double(area)) * 1e-14));
    }
    Exact x_mean = 0;
    Exact y_mean = 0;
    for (std::size_t i = 0; i < known.size(); ++i) {
      x_mean += known[i].number / Exact(known.size());
      y_mean += second[i].number / Exact(known.size());
    }
    Exact xx = 0;
    Exact yy = 0;
    Exact xy = 0;
    double x_error = 0;
    double y_error = 0;
    for (std::size_t i = 0; i < known.size(); ++i) {
      const Exact x = known[i].number - x_mean;
      const Exact y = second[i].number - y_mean;
      xx += x * x;
      yy += y * y;
      xy += x * y;
      x_error += known[i].error;
      y_error += second[i].error;
    }
    const double sx = std::sqrt(to_double(xx));
    const double sy = std::sqrt(to_double(yy));
    if (xx == 0 || yy == 0) {
      Worth value = null_worth(Reason::divide_by_zero);
      value.unsure = true;
      return flagged(value);
    }
    const double r = to_double(xy) / sx / sy;
    Worth value = worth(Exact(r), 1e-12 + 8 * (x_error / sx + y_error / sy));
    value.unsure = x_error > sx * 1e-4 || y_error > sy * 1e-4;
    return flagged(value);
  }

  Worth sequence(const Node& node, const At& at) {
    const std::string& name = node.function();
    std::vector<At> base;
    if (at.members != nullptr) {
      for (const std::size_t row : *at.members) base.push_back(at.in_row(row));
    } else {
      for (std::size_t row = 0; row < rows(at.sheet).size(); ++row) base.push_back(at.in_row(row));
    }
    const std::vector<At> all = same_group(node, at, base);
    std::size_t here = 0;
    while (all[here].row != at.row) ++here;
    if (name == "row_number") return worth(here + 1);
    std::vector<Worth> values;
    bool unsure = false;
    for (const At& row : all) {
      values.push_back(without_limit(evaluate(*node.children[0], row)));
      unsure = unsure || values.back().unsure;
    }
    const auto none = [&](Reason reason) {
      Worth value = null_worth(reason);
      value.unsure = unsure;
      return value;
    };
    const auto as_null = [&](const Worth& of) {
      Worth value;
      value.null = of.null;
      value.unsure = unsure;
      return value;
    };
    const Node* rows_named = named(node, "rows");
    const std::size_t width =
        rows_named == nullptr ? 1
                              : static_cast<std::size_t>(std::stoi(rows_named->as<tree::Number>().digits));
    if (name == "previous" || name == "next") {
      const bool back = name == "previous";
      if (back ? here < width : here + width >= all.size()) return none(Reason::no_neighbour);
      return values[back ? here - width : here + width];
    }
    if (name == "change") {
      if (values[here].null) return values[here];
      if (here == 0) return none(Reason::no_neighbour);
      if (values[here - 1].null) return values[here - 1];
      Worth value = arithmetic(Operator::subtract, values[here], values[here - 1]);
      value.kind = Kind::number;
      return value;
    }
    if (name == "previous_known" || name == "next_known") {
      if (name == "previous_known") {
        for (std::size_t i = here; i-- > 0;) {
          if (!values[i].null) return values[i];
        }
      } else {
        for (std::size_t i = here + 1; i < values.size(); ++i) {
          if (!values[i].null) return values[i];
        }
      }
      return none(Reason::no_neighbour);
    }
    const bool skip = skips(node, study_.policy.sequence_skips);
    if (name == "rank") return rank(values, here, unsure);
    if (name.ends_with("_so_far") && name != "area_so_far") {
      Numbers numbers;
      numbers.unsure = unsure;
      for (std::size_t i = 0; i <= here; ++i) {
        if (!values[i].null) {
          numbers.known.push_back(values[i]);
        } else if (!skip) {
          return as_null(values[i]);
        }
      }
      if (numbers.known.empty()) return none(Reason::too_few);
      return statistic(name.substr(0, name.find('_')), numbers);
    }
    if (name.starts_with("moving_")) {
      const std::size_t half = width / 2;
      if (here < half || here + half >= all.size()) return none(Reason::no_neighbour);
      Numbers numbers;
      numbers.unsure = unsure;
      for (std::size_t i = here - half; i <= here + half; ++i) {
        if (!values[i].null) {
          numbers.known.push_back(values[i]);
        } else if (!skip) {
          return as_null(values[i]);
        }
      }
      const std::string what = name.substr(std::string("moving_").size());
      if (numbers.known.size() < least_of(what)) return none(Reason::too_few);
      return statistic(what, numbers);
    }
    return along(node, name, all, values, here, unsure, skip);
  }

  Worth rank(const std::vector<Worth>& values, std::size_t here, bool unsure) {
    if (values[here].null) return values[here];
    std::size_t below = 0;
    std::size_t same = 0;
    for (const Worth& value : values) {
      if (value.null) continue;
      const int found = order(value, values[here], unsure);
      below += found < 0 ? 1 : 0;
      same += found == 0 ? 1 : 0;
    }
    Worth value = worth(Exact(2 * below + same + 1) / 2);
    value.unsure = unsure;
    return value;
  }

  Worth along(const Node& node, const std::string& name, const std::vector<At>& all,
              const std::vector<Worth>& values, std::size_t here, bool unsure, bool skip) {
    std::vector<Worth> places;
    for (const At& row : all) {
      places.push_back(without_limit(evaluate(*named(node, "along"), row)));
      unsure = unsure || places.back().unsure;
    }
    const auto own_null = [&](std::size_t i) { return values[i].null ? values[i].null : places[i].null; };
    const auto as_null = [&](std::optional<Absent> why) {
      Worth value;
      value.null = std::move(why);
      value.unsure = unsure;
      return value;
    };
    const auto none = [&](Reason reason) { return as_null(Absent{reason, std::nullopt}); };
    std::vector<std::size_t> used;
    std::optional<std::size_t> before;
    bool ordered = true;
    for (std::size_t i = 0; i < all.size(); ++i) {
      const bool left_out = skip && (places[i].null || (values[i].null && name != "interpolated"));
      if (!left_out) used.push_back(i);
      if (left_out || places[i].null) continue;
      if (before && order(places[*before], places[i], unsure) >= 0) ordered = false;
      before = i;
    }
    const auto mine = std::find(used.begin(), used.end(), here);
    if (mine == used.end()) return as_null(own_null(here));
    if (!ordered) return none(Reason::domain);
    const auto k = static_cast<std::size_t>(mine - used.begin());
    const auto finish = [&](Worth value) {
      value.unsure = value.unsure || unsure;
      return value;
    };
    const auto minus = [&](const Worth& a, const Worth& b) {
      Worth value = arithmetic(Operator::subtract, a, b);
      value.kind = Kind::number;
      return value;
    };
    const auto times = [&](const Worth& a, const Worth& b) { return arithmetic(Operator::multiply, a, b); };
    const auto over = [&](const Worth& a, const Worth& b) { return arithmetic(Operator::divide, a, b); };
    const auto plus = [&](const Worth& a, const Worth& b) { return arithmetic(Operator::add, a, b); };
    if (name == "interpolated") {
      if (!values[here].null) return finish(values[here]);
      if (places[here].null) return as_null(values[here].null);
      std::optional<std::size_t> low;
      std::optional<std::size_t> high;
      for (const std::size_t i : used) {
        if (own_null(i)) continue;
        if (i < here) low = i;
        if (i > here && !high) high = i;
      }
      if (!low || !high) return none(Reason::no_neighbour);
      const Worth part = over(minus(places[here], places[*low]), minus(places[*high], places[*low]));
      Worth value = plus(values[*low], times(part, minus(values[*high], values[*low])));
      value.kind = values[*low].kind;
      return finish(value);
    }
    if (name == "area_so_far") {
      Worth area = worth(0);
      for (std::size_t j = 0; j <= k; ++j) {
        if (own_null(used[j])) return as_null(own_null(used[j]));
        if (j == 0) continue;
        const std::size_t a = used[j - 1];
        const std::size_t b = used[j];
        area = plus(area, times(minus(places[b], places[a]), over(plus(values[a], values[b]), worth(2))));
      }
      return finish(area);
    }
    // The derivative of the parabola through the row and its neighbours.
    if (used.size() < 2) return own_null(here) ? as_null(own_null(here)) : none(Reason::no_neighbour);
    const std::size_t width = std::min<std::size_t>(used.size(), 3);
    const std::size_t first = std::min(k == 0 ? 0 : k - 1, used.size() - width);
    if (own_null(here)) return as_null(own_null(here));
    for (std::size_t j = first; j < first + width; ++j) {
      if (own_null(used[j])) return as_null(own_null(used[j]));
    }
    const auto x = [&](std::size_t j) { return places[used[first + j]]; };
    const auto y = [&](std::size_t j) { return values[used[first + j]]; };
    const Worth left = over(minus(y(1), y(0)), minus(x(1), x(0)));
    if (width == 2) return finish(left);
    const Worth right = over(minus(y(2), y(1)), minus(x(2), x(1)));
    const Worth bend = over(minus(right, left), minus(x(2), x(0)));
    return finish(plus(left, times(bend, plus(minus(places[here], x(0)), minus(places[here], x(1))))));
  }

  const Study& study_;
  Diagnostics faults_;
  std::vector<Sheet> sheets_;
  std::vector<Formula> formulas_;
  std::vector<Definition> constants_;
  bool moving_ = false;
  /// The row that a condition looks at while it is chosen.
  std::optional<std::pair<std::size_t, Row>> choosing_;
};

StudyInterpreter::StudyInterpreter(const Study& study) : inside_(std::make_unique<Inside>(study)) {}
StudyInterpreter::StudyInterpreter(const Study& study, const CellName& moved, const Exact& by)
    : StudyInterpreter(study) {
  inside_->move(moved, by);
}
StudyInterpreter::~StudyInterpreter() = default;

std::vector<std::string> StudyInterpreter::sheets() const { return inside_->names(); }
std::vector<std::string> StudyInterpreter::columns(const std::string& sheet) {
  return inside_->columns(inside_->index_of(sheet));
}
bool StudyInterpreter::is_filled(const std::string& sheet, const std::string& column) {
  return inside_->has_fill(inside_->index_of(sheet), column);
}
std::size_t StudyInterpreter::rows(const std::string& sheet) {
  return inside_->rows(inside_->index_of(sheet)).size();
}
std::vector<std::size_t> StudyInterpreter::written_order(const std::string& sheet) {
  return inside_->written_order(inside_->index_of(sheet));
}
Worth StudyInterpreter::cell(const std::string& sheet, const std::string& column, std::size_t row,
                             bool as_measured) {
  return inside_->column_cell(inside_->index_of(sheet), column, row, as_measured);
}
std::vector<std::vector<int>> StudyInterpreter::claims(const std::string& sheet) {
  return inside_->claims(inside_->index_of(sheet));
}

}  // namespace opensum::reference
