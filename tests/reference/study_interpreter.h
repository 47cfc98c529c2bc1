// A plain interpreter of whole studies, written from the documents: for each cell it looks at all others
// again, row by row, in exact fractions. It shares with the program the parsed study and nothing of how that
// is planned or computed.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "model/study.h"
#include "reference/study_values.h"

namespace opensum::reference {

/// What the interpreter does not know, or what is wrong with a study.
struct NotInterpreted : std::runtime_error {
  using std::runtime_error::runtime_error;
};

class StudyInterpreter {
 public:
  explicit StudyInterpreter(const Study& study);
  /// The same with a measured cell, by its row in the table, that is more by so much.
  StudyInterpreter(const Study& study, const CellName& moved, const Exact& by);
  ~StudyInterpreter();
  StudyInterpreter(const StudyInterpreter&) = delete;
  StudyInterpreter& operator=(const StudyInterpreter&) = delete;

  /// The sheets, as written.
  std::vector<std::string> sheets() const;
  /// The columns of a sheet that have cells: measured ones, those taken over, derived ones.
  std::vector<std::string> columns(const std::string& sheet);
  /// Whether a column has a fill, so that it has two kinds of cells.
  bool is_filled(const std::string& sheet, const std::string& column);
  std::size_t rows(const std::string& sheet);
  /// The rows in the order in which they are written.
  std::vector<std::size_t> written_order(const std::string& sheet);
  /// A cell, as measured or as its name means it: with its gap filled.
  Worth cell(const std::string& sheet, const std::string& column, std::size_t row, bool as_measured);
  /// Of each claim of a sheet, in the order of the rows: 1 it holds, 0 it is broken, -1 it is undecided.
  std::vector<std::vector<int>> claims(const std::string& sheet);

  /// A quantity in a unit as one in kg, s and K, and the size of such a unit.
  static Exact in_coherent_units(const Exact& number, const std::string& unit);
  static Exact size_of_unit(const std::string& unit);

 private:
  class Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace opensum::reference
