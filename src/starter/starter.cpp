// A study to begin with, made from tables as they were read.
#include "starter/starter.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <numeric>
#include <set>
#include <utility>

#include "files/file_names.h"
#include "files/line_form.h"
#include "message/quoting.h"
#include "plan/preamble.h"
#include "starter/table_facts.h"
#include "table/cell_text.h"
#include "table/header.h"
#include "table/header_units.h"
#include "table/like_names.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// Words for a comment, which ends with its line.
std::string one_line(std::string words) {
  std::replace_if(
      words.begin(), words.end(), [](char c) { return static_cast<unsigned char>(c) < 0x20U; }, ' ');
  return words;
}

// A symbol as a key; those with letters beyond ASCII stand in quotes.
std::string key(const std::string& symbol) {
  const bool bare = std::all_of(symbol.begin(), symbol.end(),
                                [](char c) { return (static_cast<unsigned char>(c) & 0x80U) == 0; });
  return bare ? symbol : toml_quoted(symbol);
}

std::string list_of(const std::vector<std::string>& texts) {
  std::string out;
  for (const std::string& text : texts) out += (out.empty() ? "" : ", ") + toml_quoted(text);
  return "[" + out + "]";
}

class SheetWriter {
 public:
  SheetWriter(const PreparedStudy& prepared, const RunSheet& sheet, std::string folder)
      : prepared_(prepared),
        sheet_(sheet),
        table_(sheet.table()),
        folder_(std::move(folder)),
        facts_(table_facts(sheet, prepared.units)) {
    std::vector<std::string> headers;
    for (const Column& column : table_.columns) headers.push_back(column.header);
    readings_ = read_headers(headers, prepared_.units);
    find_alike();
  }

  std::string run() {
    out_ = fmt::format("[sheet.{}]\ndata = {}\n", key(sheet_.model->name), toml_quoted(path()));
    write_read();
    write_preamble();
    const std::string before = std::exchange(out_, {});
    write_columns();
    // What is doubtful is seen first.
    if (!doubts_.empty())
      doubts_ = "# Doubtful, each with the line that would settle it; take away its # where it is right:\n" +
                doubts_;
    out_ = before + doubts_ + out_;
    write_gaps();
    write_uncertainty();
    write_link();
    write_equations();
    write_cells();
    return out_;
  }

  // The sheet of a file with the same headers as that of another.
  std::string run_like(const std::string& other) {
    return fmt::format("[sheet.{}]\nlike = {}  # the same headers\ndata = {}\n", key(sheet_.model->name),
                       toml_quoted(other), toml_quoted(path()));
  }

  // The lines of a fit to the first two columns of numbers, and of a figure of them.
  std::string plot() const {
    const auto numbers = number_columns();
    if (numbers.size() < 2) return {};
    const std::string points =
        fmt::format("# sheet = {}\n# x = {}\n# y = {}\n", toml_quoted(sheet_.model->name),
                    toml_quoted(numbers[0]->symbol), toml_quoted(numbers[1]->symbol));
    return fmt::format("\n# [fit.{0}]\n{1}# model = \"line\"\n\n# [plot.{0}]\n{1}# fit = {2}\n", key("first"),
                       points, toml_quoted("first"));
  }

 private:
  std::string path() const {
    const std::string& file = sheet_.model->data.front().text();
    if (!is_relative_path(file) || folder_.empty()) return file;
    return std::filesystem::absolute(file).lexically_relative(std::filesystem::absolute(folder_)).string();
  }

  std::vector<const Column*> number_columns() const {
    std::vector<const Column*> numbers;
    for (const Column& column : table_.columns) {
      if (column.kind == Kind::number && column.unreadable_count == 0) numbers.push_back(&column);
    }
    return numbers;
  }

  void write_read() {
    const ReadSettings& read = sheet_.model->read;
    std::vector<std::string> said;
    if (read.skip_rows > 0) said.push_back(fmt::format("skip_rows = {}", read.skip_rows));
    if (read.skip_end > 0) said.push_back(fmt::format("skip_end = {}", read.skip_end));
    if (read.no_header) said.emplace_back("header = \"none\"");
    if (read.second_header_line) {
      said.push_back(fmt::format("header = [{}, {}]", *read.header_line, *read.second_header_line));
    } else if (read.header_line) {
      said.push_back(fmt::format("header = {}", *read.header_line));
    }
    if (read.units_row) said.push_back(fmt::format("units_row = {}", *read.units_row));
    if (read.encoding) said.push_back("encoding = " + toml_quoted(*read.encoding));
    if (read.delimiter) said.push_back("delimiter = " + toml_quoted(delimiter_word(*read.delimiter)));
    if (read.comment) said.push_back("comment = " + toml_quoted(*read.comment));
    if (read.short_rows_are_null) said.emplace_back("short_rows = \"null\"");
    if (read.style.decimal != '.')
      said.push_back("decimal_char = " + toml_quoted(std::string(1, read.style.decimal)));
    if (!read.style.group.empty()) said.push_back("group_char = " + toml_quoted(read.style.group));
    if (read.date_format) said.push_back("date_format = " + toml_quoted(read.date_format->text()));
    if (read.missing) said.push_back("missing = " + list_of(*read.missing));
    if (!read.missing_also.empty()) said.push_back("missing_also = " + list_of(read.missing_also));
    if (read.unreadable_is_null) said.emplace_back("unreadable = \"null\"");
    for (const std::string& line : said) out_ += "read." + line + '\n';
    for (const ReadingHint& hint : hints_) {
      if (hint.column.empty() || hint.key.starts_with("decimal_char")) {
        // Two keys in one hint are two lines.
        std::string keys = hint.key;
        const std::size_t comma = keys.find(", group_char");
        if (comma != std::string::npos) keys.replace(comma, 2, "\n# read.");
        out_ += fmt::format("# read.{}  # {}\n", keys, one_line(hint.words));
      }
    }
  }

  // Quantities in the lines before the table.
  void write_preamble() {
    for (const PreambleLine& line :
         preamble_lines(sheet_.before, sheet_.model->read.style, prepared_.units)) {
      const std::string symbol = symbol_of(line.name);
      if (symbol.empty() || !line.number) continue;
      const std::string unit = line.unit ? " " + line.unit->text() : "";
      out_ += fmt::format("# preamble.{} = {}  # {}{}\n", key(symbol), toml_quoted(line.name),
                          one_line(line.value), unit);
    }
  }

  const ColumnSettings* settings_of(const Column& column) const {
    for (const ColumnSettings& settings : sheet_.model->columns) {
      if (settings.symbol == column.symbol) return &settings;
    }
    return nullptr;
  }

  // What is said of a column already, and what says which it is.
  std::vector<std::string> column_keys(const Column& column, std::size_t index) const {
    std::vector<std::string> keys;
    const bool repeated = std::count_if(table_.columns.begin(), table_.columns.end(),
                                        [&](const Column& c) { return c.header == column.header; }) > 1;
    keys.push_back(column.header.empty() || repeated ? fmt::format("header = {}", index + 1)
                                                     : "header = " + toml_quoted(column.header));
    const ColumnSettings* settings = settings_of(column);
    if (settings == nullptr) return keys;
    if (settings->unit) keys.push_back("unit = " + toml_quoted(settings->unit->text()));
    if (settings->label) keys.push_back("label = " + toml_quoted(*settings->label));
    if (settings->format) {
      keys.push_back("format = " + toml_quoted(settings->format->text()));
    } else if (settings->kind) {
      keys.push_back(
          fmt::format("kind = \"{}\"", settings->duration ? "duration" : kind_name(*settings->kind)));
    }
    return keys;
  }

  std::string found(const Column& column) const {
    std::string text = kind_name(column.kind);
    if (column.kind == Kind::number) {
      text += !column.unit_stated         ? ", no unit stated"
              : column.unit.parts.empty() ? ", a plain number"
                                          : " in " + column.unit.text();
    }
    const std::size_t nulls = nulls_of(column);
    text += nulls == 0 ? fmt::format(", all {} known", column.rows)
                       : fmt::format(", {} of {} known", column.rows - nulls, column.rows);
    return text;
  }

  void write_columns() {
    out_ += "# The names in the middle are those that equations use: make them short.\n";
    for (std::size_t i = 0; i < table_.columns.size(); ++i) {
      const Column& column = table_.columns[i];
      if (is_one_of_many(i)) {
        write_many(i);
        continue;
      }
      bool first = true;
      for (const std::string& line : column_keys(column, i)) {
        out_ += fmt::format("columns.{}.{}", key(column.symbol), line);
        if (first) out_ += "  # " + found(column);
        first = false;
        out_ += '\n';
      }
      write_doubts(column, readings_[i]);
    }
  }

  // Of many columns that are alike one line, at the first of them.
  void write_many(std::size_t index) {
    for (const auto& [first, last] : alike_) {
      if (first != index) continue;
      std::vector<std::string> names;
      for (std::size_t i = first; i <= last; ++i) names.push_back(table_.columns[i].symbol);
      out_ += fmt::format("# {}, the first: {}\n", listed_names(names), found(table_.columns[first]));
      write_doubts(table_.columns[first], readings_[first]);
    }
  }

  // Doubts about a column, each with the line that would settle it.
  void write_doubts(const Column& column, const HeaderReading& reading) {
    const auto alternative = [&](const std::string& words, const std::string& line) {
      doubts_ += fmt::format("# columns.{}.{}  # {}\n", key(column.symbol), line, one_line(words));
    };
    const bool unit_said = settings_of(column) != nullptr && settings_of(column)->unit;
    if (!reading.meant.empty() && !unit_said && !column.unit_stated) {
      alternative(fmt::format("if `{}` is the unit", reading.bracketed),
                  "unit = " + toml_quoted(reading.meant));
    } else if (column.kind == Kind::number && !column.unit_stated) {
      out_ += fmt::format("# columns.{}.unit = \"g\"  # if it has a unit, such as this one\n",
                          key(column.symbol));
    }
    for (const ReadingHint& hint : hints_) {
      if (hint.column == column.symbol && !hint.key.starts_with("decimal_char"))
        alternative(hint.words, hint.key);
    }
  }

  // A column of another sheet as a key, and how many rows here have one like it there.
  struct KeyOffer {
    std::string sheet;
    std::string column;
    std::size_t matched = 0;
  };

  // Whether both sheets have a column that may be a key: no row of the other one is meant twice, and most
  // rows here find theirs.
  std::optional<KeyOffer> key_offer(const RunSheet& other, const Column& column) const {
    const Column* there = other.table().find(column.symbol);
    const bool alike = there != nullptr && there->kind == column.kind &&
                       same_scale(there->unit, column.unit) && column.kind != Kind::truth;
    // What is left in a long file is not gone through for a guess.
    if (!alike || column.chunks.empty() || there->chunks.empty()) return std::nullopt;
    std::set<std::string> keys;
    for (std::size_t row = 0; row < other.table().rows; ++row) {
      if (there->null(row) || !keys.insert(cell_text(*there, row)).second) return std::nullopt;
    }
    KeyOffer offer{other.model->name, column.symbol, 0};
    for (std::size_t row = 0; row < table_.rows; ++row)
      offer.matched += !column.null(row) && keys.contains(cell_text(column, row)) ? 1 : 0;
    return offer.matched * 2 > table_.rows ? std::optional(offer) : std::nullopt;
  }

  // Links to the other sheets by columns that both have, the one that matches most first.
  void write_link() {
    std::vector<KeyOffer> offers;
    for (const auto& other : prepared_.sheets) {
      if (other.get() == &sheet_) continue;
      for (const Column& column : table_.columns) {
        if (const auto offer = key_offer(*other, column)) offers.push_back(*offer);
      }
    }
    std::stable_sort(offers.begin(), offers.end(),
                     [](const KeyOffer& one, const KeyOffer& two) { return one.matched > two.matched; });
    for (const KeyOffer& offer : offers) {
      out_ += fmt::format(
          "\n# To use columns of {0} here, as {0}.COLUMN; {2} of {3} rows have their {1} there:\n"
          "# link.{0} = {{ match = \"{1}\" }}\n",
          offer.sheet, offer.column, offer.matched, table_.rows);
    }
  }

  // Many columns that are alike may be meant as one, a row for each of their cells.
  void write_cells() {
    for (const auto& [first, last] : alike_) {
      const std::string& symbol = table_.columns[first].symbol;
      out_ += fmt::format(
          "\n# The {} columns from {} to {} with a row for each of their cells:\n# [sheet.{}_long]\n"
          "# rows_of = \"{}\"\n# one_row_per_cell = \"{}..{}\"\n# cell = \"value\"\n# from_header = "
          "\"header\"\n",
          last - first + 1, symbol, table_.columns[last].symbol, sheet_.model->name, sheet_.model->name,
          symbol, table_.columns[last].symbol);
    }
  }

  void find_alike() {
    for (std::size_t i = 0; i < table_.columns.size();) {
      std::size_t end = i + 1;
      const Column& column = table_.columns[i];
      while (end < table_.columns.size() && table_.columns[end].kind == column.kind &&
             form_of_name(table_.columns[end].symbol) == form_of_name(column.symbol))
        ++end;
      if (end - i >= kManyAlike) alike_.emplace_back(i, end - 1);
      i = end;
    }
  }

  bool is_one_of_many(std::size_t index) const {
    return std::any_of(alike_.begin(), alike_.end(),
                       [&](const auto& run) { return run.first <= index && index <= run.second; });
  }

  void write_gaps() {
    std::vector<const Column*> gaps;
    for (const Column& column : table_.columns) {
      if (nulls_of(column) > 0 && column.unreadable_count == 0) gaps.push_back(&column);
    }
    if (gaps.empty()) return;
    std::vector<std::string> names;
    names.reserve(gaps.size());
    for (const Column* column : gaps) names.push_back("measured(" + column->symbol + ")");
    out_ += "\n# Gaps stay gaps unless you say otherwise. To leave rows out:\n";
    out_ += fmt::format("# keep = \"complete({})\"\n# To fill them:\n", fmt::join(names, ", "));
    for (const Column* column : gaps) {
      const bool limits = has_limits(*column);
      const char* rule = limits                         ? "limit(self) / 2"
                         : column->kind == Kind::number ? "col_mean(self)"
                                                        : "previous_known(self)";
      out_ += fmt::format("# fill.{} = \"{}\"\n", key(column->symbol), rule);
    }
  }

  void write_uncertainty() {
    const std::vector<StatedUncertainty>& stated = sheet_.plan.uncertainty.stated;
    for (const Column* column : number_columns()) {
      const bool said = std::any_of(stated.begin(), stated.end(), [&](const StatedUncertainty& each) {
        return column == &table_.columns[each.column] || (each.from && column == &table_.columns[*each.from]);
      });
      if (said) continue;
      out_ += fmt::format(
          "\n# How well a column is known, as a standard uncertainty that is carried to what follows from "
          "it:\n"
          "# columns.{}.uncertainty = \"{}\"\n",
          key(column->symbol), column->unit.is_reading() ? "0.1 K" : "2 %");
      return;
    }
  }

  const NullCounts& reasons_of(const Column& column) const {
    std::size_t index = 0;
    while (&table_.columns[index] != &column) ++index;
    return facts_.nulls[index];
  }

  std::size_t nulls_of(const Column& column) const {
    const NullCounts& reasons = reasons_of(column);
    return std::accumulate(reasons.begin(), reasons.end(), std::size_t{0});
  }

  bool has_limits(const Column& column) const {
    const NullCounts& reasons = reasons_of(column);
    return reasons[static_cast<std::size_t>(Reason::below_limit)] +
               reasons[static_cast<std::size_t>(Reason::above_limit)] >
           0;
  }

  // The first neighbours that have one unit, which is stated: likely repeats of one measurement.
  std::pair<const Column*, const Column*> alike_neighbours() const {
    for (std::size_t i = 0; i + 1 < table_.columns.size(); ++i) {
      const auto usable = [&](std::size_t k) {
        const Column& column = table_.columns[k];
        return k < table_.columns.size() && column.kind == Kind::number && column.unit_stated &&
               column.unreadable_count == 0 && same_scale(column.unit, table_.columns[i].unit);
      };
      std::size_t last = i;
      while (last + 1 < table_.columns.size() && usable(i) && usable(last + 1)) ++last;
      if (last > i) return {&table_.columns[i], &table_.columns[last]};
    }
    return {nullptr, nullptr};
  }

  void write_equations() {
    const auto numbers = number_columns();
    out_ +=
        "\nequations = '''\n  # NAME \"Label\" [UNIT] = EXPRESSION, one a line, in any order. Take away the "
        "# "
        "of what you want.\n";
    if (!numbers.empty()) {
      const std::string& first = numbers.front()->symbol;
      out_ += fmt::format("  # mean_{0} = col_mean({0})\n  # from_mean_{0} = {0} - col_mean({0})\n", first);
    }
    if (const auto [begin, end] = alike_neighbours(); begin != nullptr) {
      out_ += fmt::format("  # mean_of_row = row_mean({}..{}, nulls: skip, at_least: 2)\n", begin->symbol,
                          end->symbol);
    }
    for (const Column& column : table_.columns) {
      if (column.kind != Kind::date) continue;
      out_ += fmt::format("  # since_start [d] = {0} - col_first_known({0})\n", column.symbol);
      break;
    }
    out_ += "'''\n";
    if (numbers.empty()) return;
    out_ += fmt::format(
        "\n# What must be true of the rows; a run says which break it.\n# claims = '''\n"
        "#   \"{0} is known\": not is_null({0})\n# '''\n",
        numbers.front()->symbol);
  }

  const PreparedStudy& prepared_;
  const RunSheet& sheet_;
  const Table& table_;
  std::string folder_;
  const TableFacts facts_;
  const std::vector<ReadingHint>& hints_ = facts_.hints;
  std::vector<HeaderReading> readings_;                     // of the columns' headers
  std::vector<std::pair<std::size_t, std::size_t>> alike_;  // first and last of many columns that are alike
  std::string out_;
  std::string doubts_;
};

// Whether two sheets have the same headers in the same order.
bool has_same_headers(const RunSheet& one, const RunSheet& two) {
  return std::equal(one.table().columns.begin(), one.table().columns.end(), two.table().columns.begin(),
                    two.table().columns.end(),
                    [](const Column& a, const Column& b) { return a.header == b.header; });
}

}  // namespace

std::string starter_study(const PreparedStudy& prepared, const std::string& folder) {
  std::string out =
      "# A study: what is measured, what is derived from it, and how. Run it with: opensum run\n"
      "title = \"\"\n"
      "output = \"results\"  # the folder for everything written\n"
      "\n# Quantities that hold for every row:\n# constants = '''\n#   g \"Standard gravity\" [m/s^2] = "
      "9.81\n# '''\n";
  std::string plots;
  for (std::size_t i = 0; i < prepared.sheets.size(); ++i) {
    const RunSheet& sheet = *prepared.sheets[i];
    SheetWriter writer(prepared, sheet, folder);
    const auto first =
        std::find_if(prepared.sheets.begin(), prepared.sheets.begin() + static_cast<std::ptrdiff_t>(i),
                     [&](const auto& other) { return has_same_headers(sheet, *other); });
    const bool like = first != prepared.sheets.begin() + static_cast<std::ptrdiff_t>(i);
    out += '\n' + (like ? writer.run_like((*first)->model->name) : writer.run());
    if (plots.empty()) plots = writer.plot();
  }
  return out + plots;
}

}  // namespace opensum
