// CSV: read whole and in blocks of any size it is the same table.
#include "base/unicode.h"
#include "bytes.h"
#include "engine/blocks.h"
#include "files/csv_reader.h"
#include "files/csv_rows.h"
#include "table/survey.h"

using namespace opensum;

namespace {

// Settings by the first byte.
ReadSettings settings_of(std::uint8_t byte) {
  ReadSettings settings;
  if ((byte & 1U) != 0) settings.delimiter = ';';
  if ((byte & 2U) != 0) settings.no_header = true;
  if ((byte & 4U) != 0) settings.short_rows_are_null = true;
  if ((byte & 8U) != 0) settings.skip_rows = 1;
  if ((byte & 16U) != 0) settings.skip_end = 1;
  if ((byte & 32U) != 0) settings.units_row = 2;
  if ((byte & 64U) != 0) settings.comment = "#";
  if ((byte & 128U) != 0) settings.encoding = "latin-1";
  return settings;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  if (size < 2) return 0;
  const ReadSettings settings = settings_of(bytes[0]);
  const std::size_t block = 1 + bytes[1] % 64;
  const auto file = file_of(text_of(bytes + 2, size - 2));
  Diagnostics diagnostics;
  const auto whole = read_csv(file, settings, diagnostics);
  require_visible(diagnostics);
  if (!whole) return 0;
  require(whole->headers.size() == whole->columns.size(), "each column has a header");
  for (const auto& column : whole->columns)
    require(column.size() == whole->rows(), "each column has all rows");
  Diagnostics of_blocks;
  const RowLimits before = row_limits();
  set_row_limits({1, block});
  const auto long_table = read_csv(file, settings, of_blocks, Rows::left_if_long);
  if (long_table && long_table->left_in_file) {
    LeftInFile left;
    left.source = long_table->left_in_file;
    left.files = {long_table->file};
    std::vector<Column> columns(long_table->headers.size());
    std::vector<Column*> pointers;
    for (Column& column : columns) {
      CellRules rules;
      rules.kind = Kind::text;
      left.rules.push_back(rules);
      pointers.push_back(&column);
    }
    // Rows that do not fit are told by the reader of whole tables.
    if (survey_rows(left, pointers, LookedAt::all_rows)) {
      Table table;
      for (std::size_t i = 0; i < columns.size(); ++i) {
        columns[i].in_source = i;
        table.columns.push_back(columns[i]);
      }
      FileBlocks source(left, table);
      const std::vector<bool> all(columns.size(), true);
      std::size_t rows = 0;
      for (std::size_t part = 0; part < source.count(); ++part) {
        Block some;
        some.table = table.without_rows();
        source.get(part, all, some);
        for (std::size_t row = 0; row < some.table.rows; ++row, ++rows) {
          require(rows < whole->rows() && some.table.lines[row] == whole->lines[rows],
                  "blocks hold the lines of the whole");
          for (std::size_t c = 0; c < columns.size(); ++c)
            require(some.table.columns[c].text(row) == normalised(whole->columns[c][rows]),
                    "blocks hold the cells of the whole");
        }
      }
      require(rows == whole->rows(), "blocks hold the rows of the whole");
    }
  }
  set_row_limits(before);
  return 0;
}
