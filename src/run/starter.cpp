// A study to begin with, made from tables as they were read.
#include "run/starter.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <numeric>

#include "files/line_form.h"
#include "message/quoting.h"
#include "plan/preamble.h"
#include "run/table_facts.h"
#include "table/header.h"
#include "table/header_units.h"
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
  }

  std::string run() {
    out_ = fmt::format("[sheet.{}]\ndata = {}\n", key(sheet_.model->name), toml_quoted(path()));
    write_read();
    write_preamble();
    write_columns();
    write_gaps();
    write_link();
    write_equations();
    return out_;
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
    if (file == "-" || file.starts_with('/') || folder_.empty()) return file;
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

  // Doubts about a column, each with the line that would settle it.
  void write_doubts(const Column& column, const HeaderReading& reading) {
    const auto alternative = [&](const std::string& words, const std::string& line) {
      out_ += fmt::format("# columns.{}.{}  # {}\n", key(column.symbol), line, one_line(words));
    };
    const bool unit_said = settings_of(column) != nullptr && settings_of(column)->unit;
    if (!reading.meant.empty() && !unit_said && !column.unit_stated) {
      alternative(fmt::format("if `{}` is the unit", reading.bracketed),
                  "unit = " + toml_quoted(reading.meant));
    } else if (column.kind == Kind::number && !column.unit_stated) {
      alternative("if it has a unit, such as this one", "unit = \"g\"");
    }
    for (const ReadingHint& hint : hints_) {
      if (hint.column == column.symbol && !hint.key.starts_with("decimal_char"))
        alternative(hint.words, hint.key);
    }
  }

  // A link to another of the sheets by a column that both have.
  void write_link() {
    for (const auto& other : prepared_.sheets) {
      if (other.get() == &sheet_) continue;
      for (const Column& column : table_.columns) {
        const Column* there = other->table().find(column.symbol);
        if (there == nullptr || there->kind != column.kind) continue;
        out_ += fmt::format(
            "\n# To use columns of {0} here, as {0}.COLUMN:\n"
            "# link.{0} = {{ match = \"{1}\" }}\n",
            other->model->name, column.symbol);
        return;
      }
    }
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
  std::vector<HeaderReading> readings_;  // of the columns' headers
  std::string out_;
};

}  // namespace

std::string starter_study(const PreparedStudy& prepared, const std::string& folder) {
  std::string out =
      "# A study: what is measured, what is derived from it, and how. Run it with: opensum run\n"
      "title = \"\"\n"
      "output = \"results\"  # the folder for everything written\n"
      "\n# Quantities that hold for every row:\n# constants = '''\n#   g \"Standard gravity\" [m/s^2] = "
      "9.81\n# '''\n";
  std::string plots;
  for (const auto& sheet : prepared.sheets) {
    SheetWriter writer(prepared, *sheet, folder);
    out += '\n' + writer.run();
    if (plots.empty()) plots = writer.plot();
  }
  return out + plots;
}

}  // namespace opensum
