// The CSV reader against a plain one, and on files that are no tables.
#include "files/csv_reader.h"

#include <gtest/gtest.h>

#include <random>

#include "files/csv_writer.h"
#include "files/delimiter.h"
#include "files/file_of.h"

namespace opensum {
namespace {

using Cells = std::vector<std::vector<std::string>>;

std::optional<Cells> read(const std::string& text, char delimiter, Diagnostics& diagnostics) {
  ReadSettings settings;
  settings.delimiter = delimiter;
  const auto table = read_csv(file_of(text), settings, diagnostics);
  if (!table) return std::nullopt;
  Cells cells = {table->headers};
  for (std::size_t row = 0; row < table->rows(); ++row) {
    std::vector<std::string> line;
    for (const auto& column : table->columns) line.emplace_back(column[row]);
    cells.push_back(line);
  }
  return cells;
}

bool quote_after_blanks(const std::string& text, std::size_t at) {
  const std::size_t next = text.find_first_not_of(' ', at);
  return next != std::string::npos && text[next] == '"';
}

// The plain reader: one character after the other, records of any width.
std::optional<Cells> plain_read(const std::string& text, char delimiter) {
  Cells records(1);
  std::vector<bool> blank = {true};
  std::vector<bool> ends_with_delimiter = {false};
  std::string field;
  enum class At { start, plain, quoted, after } at = At::start;
  bool field_open = false;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    const bool line_end = c == '\n' || (c == '\r' && (i + 1 == text.size() || text[i + 1] == '\n'));
    if (!line_end) blank.back() = false;
    if (at == At::quoted) {
      if (c != '"') {
        field += c;
      } else if (i + 1 < text.size() && text[i + 1] == '"') {
        field += '"';
        ++i;
      } else {
        at = At::after;
      }
      continue;
    }
    if (c == delimiter || line_end) {
      records.back().push_back(field);
      field.clear();
      at = At::start;
      field_open = c == delimiter;
      if (line_end) {
        ends_with_delimiter.back() = i > 0 && text[i - 1] == delimiter;
        if (c == '\r') ++i;
        records.emplace_back();
        blank.push_back(true);
        ends_with_delimiter.push_back(false);
      }
    } else if (at == At::start && quote_after_blanks(text, i)) {
      i = text.find('"', i);
      at = At::quoted;
      field_open = true;
    } else if (at == At::after) {
      if (c != ' ') return std::nullopt;
    } else {
      at = At::plain;
      field += c;
      field_open = true;
    }
  }
  if (at == At::quoted) return std::nullopt;
  if (field_open) records.back().push_back(field);
  ends_with_delimiter.back() = text.ends_with(delimiter);
  Cells kept;
  const std::size_t width = records[0].size();
  // Rows that all end with a delimiter have no field after it.
  std::optional<bool> trailing;
  for (std::size_t i = 1; i < records.size(); ++i) {
    if (records[i].empty() || blank[i]) continue;
    if (!trailing) trailing = records[i].size() == width + 1;
    trailing = *trailing && ends_with_delimiter[i];
  }
  for (std::size_t i = 0; i < records.size(); ++i) {
    Cells::value_type& record = records[i];
    if (record.empty() || (blank[i] && width > 1)) continue;
    if (trailing.value_or(false) && record.size() == width + 1 && record.back().empty()) record.pop_back();
    if (record.size() != width) return std::nullopt;
    kept.push_back(std::move(record));
  }
  return kept;
}

TEST(CsvReader, AgreesWithThePlainOne) {
  std::mt19937 random(5);
  std::size_t compared = 0;
  std::size_t refused = 0;
  const std::string letters = "ab1.,;\"\"\n\r -";
  for (int i = 0; i < 20000; ++i) {
    std::string text = "h,i\n";
    for (auto k = random() % 24; k > 0; --k) text += letters[random() % letters.size()];
    // A lone CR and a quote inside a plain field are data to both; blank last lines are covered below.
    if (text.find('\r') != std::string::npos && text.find("\r\n") == std::string::npos) continue;
    Diagnostics diagnostics;
    const auto fast = read(text, ',', diagnostics);
    const auto plain = plain_read(text, ',');
    ASSERT_EQ(fast.has_value(), plain.has_value()) << text << "\n" << render(diagnostics);
    if (fast) {
      ASSERT_EQ(*fast, *plain) << text;
      ++compared;
    } else {
      EXPECT_TRUE(diagnostics.has_errors());
      ++refused;
    }
  }
  std::cout << compared << " tables compared, " << refused << " refused by both\n";
  EXPECT_GT(compared, 500U);
  EXPECT_GT(refused, 500U);
}

TEST(CsvReader, FindsTheSeparator) {
  EXPECT_EQ(find_delimiter("a,b\n1,2\n"), ',');
  EXPECT_EQ(find_delimiter("a;b\n1,5;2,5\n"), ';');
  EXPECT_EQ(find_delimiter("a\tb, c\n1\t2\n"), '\t');
  EXPECT_EQ(find_delimiter("a|b\n1|2\n"), '|');
  EXPECT_EQ(find_delimiter("alone\n1\n"), ',');
  EXPECT_EQ(find_delimiter("\"a,b,c\";d\n1;2\n"), ';');
}

TEST(CsvReader, TakesWhatInstrumentsWrite) {
  Diagnostics diagnostics;
  EXPECT_EQ(*read("\xEF\xBB\xBF"
                  "a,b\r\n1,2\r\n",
                  ',', diagnostics),
            (Cells{{"a", "b"}, {"1", "2"}}));
  EXPECT_EQ(*read("a,b\n1,\"x\ny\"\n", ',', diagnostics), (Cells{{"a", "b"}, {"1", "x\ny"}}));
  EXPECT_EQ(*read("a,\"x\ny\"\n1,2\n", ',', diagnostics), (Cells{{"a", "x\ny"}, {"1", "2"}}));
  EXPECT_EQ(*read("a,b\n1,2", ',', diagnostics), (Cells{{"a", "b"}, {"1", "2"}}));
  EXPECT_EQ(*read("a,b\n\n1,2\n\n", ',', diagnostics), (Cells{{"a", "b"}, {"1", "2"}}));
  EXPECT_EQ(*read("a\n1\n\n3\n\n\n", ',', diagnostics), (Cells{{"a"}, {"1"}, {""}, {"3"}}));
  EXPECT_FALSE(diagnostics.has_errors());
  ReadSettings settings;
  const auto table = read_csv(file_of("a,b\n1,\"x\ny\"\n2,z\n"), settings, diagnostics);
  EXPECT_EQ(table->lines, (std::vector<std::size_t>{2, 4}));
}

TEST(CsvReader, SaysWhatIsWrongAndWhere) {
  const struct {
    std::string text;
    Code code;
    std::size_t line;
    std::size_t column;
  } rows[] = {
      {"a,b\n1,2,3\n", Code::ragged_row, 2, 1},
      {"a,b\n1\n", Code::ragged_row, 2, 1},
      {"a,b\n1,\"x\n", Code::quote_not_closed, 2, 3},
      {"a,b\n1,\"x\"y\n", Code::quote_misplaced, 2, 6},
      {std::string("a,b\n1,\0\n", 8), Code::holds_nul, 2, 3},
      {"a,b\n1,\xE9t\xE9\n", Code::not_utf8, 2, 3},
  };
  for (const auto& row : rows) {
    Diagnostics diagnostics;
    EXPECT_FALSE(read_csv(file_of(row.text), {}, diagnostics)) << row.text;
    ASSERT_EQ(diagnostics.all().size(), 1U) << row.text;
    const Diagnostic& d = diagnostics.all()[0];
    EXPECT_EQ(d.code, row.code) << row.text;
    const Position position = d.place.source->position(d.place.span.begin);
    EXPECT_EQ(position.line, row.line) << row.text;
    EXPECT_EQ(position.column, row.column) << row.text;
  }
  for (const char* text : {"", "\n\n", "  \n", "\xEF\xBB\xBF"}) {
    Diagnostics diagnostics;
    EXPECT_FALSE(read_csv(file_of(text), {}, diagnostics));
    EXPECT_EQ(diagnostics.all()[0].code, Code::empty_file);
  }
  Diagnostics header_only;
  EXPECT_TRUE(read_csv(file_of("a,b\n"), {}, header_only));
  EXPECT_EQ(header_only.all()[0].code, Code::no_rows);
}

TEST(CsvFields, AreQuotedWhereNeeded) {
  const struct {
    const char* field;
    const char* written;
  } rows[] = {{"plain", "plain"},   {"a,b", "\"a,b\""}, {"a\"b", "\"a\"\"b\""},
              {"a\nb", "\"a\nb\""}, {" a", "\" a\""},   {"", ""}};
  for (const auto& row : rows) {
    std::string out;
    append_field(out, row.field, ',');
    EXPECT_EQ(out, row.written);
  }
}

}  // namespace
}  // namespace opensum
