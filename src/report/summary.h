// What a run tells: the facts of each sheet, as text for people and as JSON for programs.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "equation/checker.h"
#include "study/plan.h"
#include "table/column.h"

namespace opensum {

/// One column's facts.
struct ColumnFacts {
  std::string symbol;
  std::string unit;
  std::string kind;
  std::string equation;  ///< of a derived column
  std::size_t rows = 0;
  std::size_t known = 0;
  std::map<std::string, std::size_t> nulls;  ///< by reason
};

struct SheetFacts {
  std::string name;
  std::string file;
  std::size_t rows = 0;
  std::vector<ColumnFacts> measured;
  std::vector<ColumnFacts> derived;
  std::vector<std::string> without_unit;  ///< measured number columns of which no unit was stated
  std::vector<std::string> skipped;       ///< row reductions that left nulls out, in words
};

struct InputFacts {
  std::string path;
  std::string sha256;
};

/// Everything that a run reports.
struct RunFacts {
  std::string title;
  std::vector<InputFacts> inputs;
  NullPolicy policy;
  std::vector<ScopeConstant> constants;
  std::vector<SheetFacts> sheets;
  std::vector<std::string> notes;  ///< on figures
  std::vector<std::string> written;
};

/// The facts of a column.
ColumnFacts column_facts(const Column& column);

/// How many rows are null by reason: `2 missing, 1 divide_by_zero`; empty when none is.
std::string null_counts_text(const std::map<std::string, std::size_t>& nulls);

/// The summary as people read it.
std::string summary_text(const RunFacts& facts);

/// The record of a run as JSON: program version, inputs with their SHA-256, policy, counts.
std::string record_json(const RunFacts& facts);

}  // namespace opensum
