// A sheet as a table of LaTeX, for the packages booktabs and siunitx, and longtable where it is long.
#include <fmt/format.h>

#include <algorithm>

#include "files/table_writer.h"
#include "table/cell_text.h"
#include "table/latex_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A page holds so many rows.
constexpr std::size_t kRowsOnPage = 40;
// Derived numbers without a wish of their own are shown with so many digits.
constexpr int kShownDigits = 6;

std::string shown(const Column& column, std::size_t row) {
  const bool rounded = column.kind == Kind::number && !column.measured && column.digits == 0;
  return rounded ? number_text(column.number(row), kShownDigits) : cell_text(column, row);
}

// The digits before and after the point, for siunitx to align numbers by it.
std::string number_format(const Table& table, const Column& column) {
  std::size_t before = 1;
  std::size_t after = 0;
  bool negative = false;
  bool exponent = false;
  for (std::size_t row = 0; row < table.rows; ++row) {
    if (column.null(row)) continue;
    const std::string text = shown(column, row);
    const std::size_t begin = text.front() == '-' ? 1 : 0;
    const std::size_t end = std::min(text.find('e'), text.size());
    const std::size_t point = std::min(text.find('.'), end);
    negative = negative || begin == 1;
    exponent = exponent || end < text.size();
    before = std::max(before, point - begin);
    after = std::max(after, end > point ? end - point - 1 : 0);
  }
  return fmt::format("S[table-format={}{}.{}{}]", negative ? "-" : "", before, after, exponent ? "e-2" : "");
}

std::string head(const Column& column, bool as_symbol) {
  const std::string name = latex_escaped(as_symbol ? column.symbol : column.label);
  if (column.kind != Kind::number || column.unit.parts.empty()) return "{" + name + "}";
  return fmt::format("{{{} / \\unit{{{}}}}}", name, latex_unit(column.unit.text()));
}

}  // namespace

std::string tex_text(const WrittenSheet& sheet) {
  const Table& table = *sheet.table;
  const std::vector<const Column*> columns = table.written();
  std::string format;
  std::string heads;
  for (const Column* column : columns) {
    format += column->kind == Kind::number ? number_format(table, *column) : "l";
    heads += (heads.empty() ? "" : " & ") + head(*column, sheet.headers_are_symbols);
  }
  const bool is_long = table.rows > kRowsOnPage;
  const char* environment = is_long ? "longtable" : "tabular";
  std::string out = fmt::format(
      "% The sheet {}: a part of a document that uses the packages booktabs{} and "
      "siunitx.\n\\begin{{{}}}{{{}}}\n"
      "\\toprule\n{}\\\\\n\\midrule\n{}",
      sheet.name, is_long ? ", longtable" : "", environment, format, heads, is_long ? "\\endhead\n" : "");
  for (std::size_t place = 0; place < table.rows; ++place) {
    const std::size_t row = table.row_at(place);
    std::string line;
    for (std::size_t i = 0; i < columns.size(); ++i) {
      const Column& column = *columns[i];
      if (i > 0) line += " & ";
      if (column.null(row)) {
        line += "{--}";
      } else if (column.kind == Kind::number) {
        line += shown(column, row);
      } else {
        line += latex_escaped(shown(column, row));
      }
    }
    out += line + "\\\\\n";
  }
  return out + fmt::format("\\bottomrule\n\\end{{{}}}\n", environment);
}

}  // namespace opensum
