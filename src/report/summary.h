// What a run tells: the facts of each sheet, as text for people and as JSON for programs.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <limits>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "equation/check_context.h"
#include "plan/plan.h"
#include "table/column.h"

namespace opensum {

/// One column's facts.
struct ColumnFacts {
  std::string symbol;
  std::string label;
  std::string unit;
  std::string kind;
  std::string equation;  ///< of a derived column
  std::size_t rows = 0;
  std::size_t known = 0;
  std::map<std::string, std::size_t> nulls;  ///< by reason
  bool used = true;                          ///< whether anything uses it, if it is measured
};

/// The gaps of a measured column and what filled them.
struct FillFacts {
  std::string symbol;
  std::size_t gaps = 0;
  std::vector<std::pair<std::string, std::size_t>> rules;  ///< each with the gaps it closed
  std::map<std::string, std::size_t> left;                 ///< by the reason for which no rule gave a value
};

/// How many rows found their row elsewhere.
struct LinkFacts {
  std::string name;
  std::string sheet;
  std::string how;  ///< in words, after `values were`
  std::size_t matched = 0;
  std::map<std::string, std::size_t> unmatched;  ///< by reason
};

struct ClaimFacts {
  std::string text;
  std::string condition;
  std::size_t held = 0;
  std::size_t broken = 0;
  std::size_t undecided = 0;
  bool warning = false;
};

struct SheetFacts {
  std::string name;
  std::string file;
  std::string rows_of;  ///< the sheet of which it has the rows; empty for one with rows of its own
  std::size_t rows = 0;
  std::vector<ColumnFacts> measured;
  std::vector<ColumnFacts> taken;  ///< taken over from the other sheet
  std::vector<ColumnFacts> derived;
  std::vector<std::string> without_unit;  ///< measured number columns of which no unit was stated
  std::vector<std::string> skipped;       ///< reductions that left nulls out, in words
  std::vector<std::string> selection;     ///< what `keep` left, in words
  std::vector<LinkFacts> links;
  std::vector<FillFacts> fills;
  std::vector<ClaimFacts> claims;
  /// Stated standard uncertainties in words, `inlet temperature 0.1 K`, and how many columns have one that
  /// follows.
  std::vector<std::string> uncertainties;
  std::size_t uncertain = 0;
  /// Columns of which the uncertainty of some values is not known, `speed (2 of 40)`.
  std::vector<std::string> uncertainty_unknown;
};

/// A fitted curve.
struct FitFacts {
  std::string name;
  std::string sheet;
  std::string group;
  std::string model;
  std::string x;
  std::string y;
  std::string y_unit;
  struct Parameter {
    std::string name;
    std::optional<double> value;  ///< none where the fit failed
    double standard_error = 0;    ///< in the same unit
    std::string unit;
    /// Its standard uncertainty by those of the points, where these have any, and the unit of that.
    std::optional<double> by_stated;
    std::string unit_of_uncertainty;
  };
  std::vector<Parameter> parameters;
  std::vector<double> guessed_start;  ///< of the parameters, where it was guessed
  std::size_t points = 0;
  std::size_t left_out = 0;
  std::size_t degrees_of_freedom = 0;
  std::optional<double> residual_sd;
  std::optional<double> reduced_chi2;  ///< instead, where the weights are 1/u(y)²
  bool by_x = false;                   ///< u(x) counts, too, by effective variance
  std::optional<double> r2;
  std::optional<double> r;
};

struct InputFacts {
  std::string path;
  std::string sha256;
  std::size_t bytes = 0;
};

/// A study or a file that it uses, as it was read.
struct StudyText {
  std::string path;
  std::string text;
};

/// How a study was run.
struct RunSettings {
  std::vector<std::string> constants;  ///< given in the place of the study's, as they were written
  std::vector<std::string> only;       ///< what was asked for, where that is not all
  bool in_database = false;            ///< sheets whose rows are in a database were computed there
};

/// What one source contributes to the uncertainty of a cell.
struct BudgetLine {
  std::string source;
  std::string own;          ///< its own standard uncertainty; empty where it is not one number
  std::string sensitivity;  ///< how much the value moves with it; empty where that is not one number
  std::string contribution;
  double share = 0;  ///< of the variance
};

/// The budget of a cell, the largest contribution first; nothing for one whose uncertainty is not known.
struct Budget {
  std::string of;  ///< as `run.duty, row 5`
  std::string value;
  std::string uncertainty;
  std::string expanded;  ///< where a coverage is asked for: with k and degrees of freedom
  std::vector<BudgetLine> lines;
};

/// A derived value as sampling found it, in its unit; uncertainties in steps of that.
struct SampledValue {
  std::string sheet;
  std::size_t row = 0;  ///< as it is written, from 1
  std::string column;
  std::string unit;
  std::string unit_of_uncertainty;
  Conversion to_shown;  ///< of an uncertainty, to that unit
  double value = 0;
  double linear = kNotKnown;  ///< the standard uncertainty by linear propagation
  double mean = kNotKnown;
  double uncertainty = kNotKnown;  ///< by sampling
  double low = kNotKnown;          ///< of the shortest interval of 95 %
  double high = kNotKnown;
  std::size_t known = 0;  ///< trials in which it was not null
  bool differs = false;   ///< the interval by linear propagation is another one

  static constexpr double kNotKnown = std::numeric_limits<double>::quiet_NaN();
};

/// Uncertainties by sampling.
struct SamplingFacts {
  std::size_t trials = 0;
  std::uint64_t seed = 0;
  std::size_t trials_with_other_rows =
      0;  ///< in which a sheet had more or fewer rows, which do not count there
  std::vector<SampledValue> values;

  std::size_t differing() const {
    return static_cast<std::size_t>(
        std::count_if(values.begin(), values.end(), [](const SampledValue& v) { return v.differs; }));
  }
};

/// Everything that a run reports.
struct RunFacts {
  std::string title;
  RunSettings settings;
  std::vector<std::string> changes;  ///< constants with another value than in the study, in words
  std::string study_folder;          ///< from where the record stands
  std::vector<StudyText> texts;      ///< the study first
  std::vector<InputFacts> inputs;
  NullPolicy policy;
  std::vector<ScopeConstant> constants;
  std::vector<SheetFacts> sheets;
  std::vector<FitFacts> fits;
  std::optional<SamplingFacts> sampling;
  std::vector<Budget> budgets;
  std::vector<std::string> notes;  ///< on figures
  std::vector<std::string> written;
  std::vector<std::string> computed_there;  ///< the addresses of rows that stayed in their database
  std::vector<std::string> tables;          ///< the addresses of those written to databases
  std::vector<InputFacts> outputs;          ///< the same with their digests, but for the record
  std::string page;                         ///< the report page as it is when nobody watches
  std::vector<std::string> left_as_was;     ///< files of a whole run that a part of it leaves alone
};

/// The facts of a column that has these nulls.
ColumnFacts column_facts(const Column& column, const NullCounts& nulls);

/// Of many columns in a row that are alike one for all of them, with the sums of their counts.
std::vector<ColumnFacts> told_together(const std::vector<ColumnFacts>& columns);

/// The summary as people read it, short: what is as expected is counted, what needs attention is listed.
std::string summary_text(const RunFacts& facts);

/// The same in full: every column, rule, link and file.
std::string details_text(const RunFacts& facts);

/// A fit as people read it, beginning with the line that names it.
std::string fit_text(const FitFacts& fit);

/// Fits as people read them: a few of one name, to several sheets or groups, side by side.
std::string fits_text(const std::vector<FitFacts>& fits);

/// What sampling came to: where it differs from the linear propagation, the first few in full.
std::string sampling_text(const SamplingFacts& facts);

/// All values that were sampled as CSV.
std::string sampling_csv(const SamplingFacts& facts);

/// All fits as CSV: fit, sheet, group, parameter, value, standard error, unit; with rows for n, r, r2 and the
/// residual deviation.
std::string fits_csv(const std::vector<FitFacts>& fits);
/// The same file from before with the lines of these fits in place of their old ones.
std::string fits_csv_with(std::string_view before, const std::vector<FitFacts>& fits);

}  // namespace opensum
