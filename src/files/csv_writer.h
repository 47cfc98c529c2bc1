// Writing a sheet as CSV, and the CSV-on-the-Web metadata that goes with it.
#pragma once

#include <string>
#include <vector>

#include "base/text_buffer.h"
#include "table/cell_text.h"
#include "table/column.h"
#include "table/written_notes.h"

namespace opensum {

struct CsvOptions {
  bool headers_are_symbols = false;
  char delimiter = ',';
  /// Derived texts that spreadsheet programs would take for formulas get an apostrophe before them.
  bool guard_formulas = false;
  std::vector<std::string> changes;  ///< what was changed in the study for this run, in words
};

/// A field of CSV, in quotes where it needs them.
void append_field(std::string& out, std::string_view field, char delimiter);
void append_field(TextBuffer& out, std::string_view field, char delimiter);

/// The header of a column as written.
std::string header_text(const Column& column, bool symbol);

/// The sheet as CSV: a header line, then a line per row, lines ended by LF.
std::string csv_text(const Table& table, const CsvOptions& options);

/// The header line of a sheet.
std::string csv_header(const Table& table, const CsvOptions& options);

/// Whether spreadsheet programs that open a CSV file take a text for a formula.
bool looks_like_formula(std::string_view text);

/// Appends the lines of its rows to a text. `ends`, where given, takes up where each line ends, and `notes`
/// what is to be said of the cells.
void append_csv_rows(TextBuffer& out, const Table& table, const CsvOptions& options,
                     std::vector<std::size_t>* ends = nullptr, WrittenNotes* notes = nullptr);

/// The keys of our own in such metadata.
constexpr const char* kSymbolKey = "urn:opensum:symbol";
constexpr const char* kLabelKey = "urn:opensum:label";
constexpr const char* kUnitKey = "urn:opensum:unit";
constexpr const char* kKindKey = "urn:opensum:kind";  ///< `duration`, whose cells may be written hh:mm:ss

/// What the metadata says of a derived column.
struct DerivedNote {
  std::string symbol;
  std::string equation;
  std::string null_rule;
};

/// The W3C metadata (CSVW, Recommendation of 2015-12-17) for such a file: names, titles, kinds, and under
/// urn:opensum: the units, original headers, equations and null rules.
std::string csvw_text(const Table& table, const std::string& url, const std::vector<DerivedNote>& derived,
                      const CsvOptions& options, const WrittenNotes& notes);

}  // namespace opensum
