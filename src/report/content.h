// What the report page and the methods paragraph tell of a run.
#pragma once

#include <string>
#include <tuple>
#include <vector>

#include "equation/tree.h"
#include "report/summary.h"

namespace opensum {

/// The first rows of a sheet.
struct ReportTable {
  std::string sheet;
  std::vector<std::string> headers;
  std::vector<bool> numbers;  ///< by column
  std::vector<std::vector<std::string>> rows;
  std::size_t total = 0;
};

struct ReportEquation {
  std::string name;
  std::string label;
  std::string unit;
  const Node* expression = nullptr;
  std::string text;  ///< of the expression
  std::string null_rule;
  std::size_t number = 0;  ///< by which texts name it
  friend bool operator==(const ReportEquation& a, const ReportEquation& b) {
    return std::tie(a.name, a.label, a.unit, a.text, a.null_rule) ==
           std::tie(b.name, b.label, b.unit, b.text, b.null_rule);
  }
};

/// The equations of the sheets that have the same ones.
struct ReportEquations {
  std::vector<std::string> sheets;
  std::vector<ReportEquation> equations;
};

struct ReportFigure {
  std::string name;
  std::string title;
  std::string caption;      ///< as the study has it, or in its place what is shown
  std::string description;  ///< for readers that do not see it
  std::string svg;
  std::vector<std::string> notes;
};

struct ReportContent {
  RunFacts facts;
  std::vector<ReportTable> tables;
  std::vector<ReportEquations> equations;
  std::vector<ReportFigure> figures;
};

}  // namespace opensum
