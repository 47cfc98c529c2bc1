// Words that people bring from elsewhere, and what they are called here.
#include "message/other_words.h"

#include <algorithm>
#include <array>

namespace opensum {
namespace {

struct OtherWord {
  WordFor what;
  const char* word;
  const char* here;
};

constexpr std::array kWords = {
    OtherWord{WordFor::constants, "const", "codata"},
    OtherWord{WordFor::constants, "constants", "codata"},
    OtherWord{WordFor::name, "PI", "pi"},
    OtherWord{WordFor::name, "Pi", "pi"},
    OtherWord{WordFor::name, "TRUE", "true"},
    OtherWord{WordFor::name, "True", "true"},
    OtherWord{WordFor::name, "FALSE", "false"},
    OtherWord{WordFor::name, "False", "false"},
    OtherWord{WordFor::name, "NULL", "null"},
    OtherWord{WordFor::name, "None", "null"},
    OtherWord{WordFor::name, "none", "null"},
    OtherWord{WordFor::name, "NA", "null"},
    OtherWord{WordFor::name, "NaN", "null"},
    OtherWord{WordFor::name, "nan", "null"},
    OtherWord{WordFor::name, "nil", "null"},
    OtherWord{WordFor::name, "e", "exp(1), or exp(x) for a power of it"},
    OtherWord{WordFor::name, "And", "and"},
    OtherWord{WordFor::name, "Or", "or"},
    OtherWord{WordFor::name, "Not", "not"},
    OtherWord{WordFor::name, "AND", "and"},
    OtherWord{WordFor::name, "OR", "or"},
    OtherWord{WordFor::name, "NOT", "not"},
    OtherWord{WordFor::sign, "&&", "and"},
    OtherWord{WordFor::sign, "&", "and, or concat(a, b) to put texts together"},
    OtherWord{WordFor::sign, "||", "or"},
    OtherWord{WordFor::sign, "|", "or"},
    OtherWord{WordFor::sign, "!", "not"},
    OtherWord{WordFor::sign, "**", "^"},
    OtherWord{WordFor::sign, "<>", "!="},
    OtherWord{WordFor::sign, "=<", "<="},
    OtherWord{WordFor::sign, "=>", ">="},
    OtherWord{WordFor::sign, "%", "mod(a, b) for a remainder, [%] for a percentage"},
    OtherWord{WordFor::sign, "²", "^2"},
    OtherWord{WordFor::sign, "³", "^3"},
    OtherWord{WordFor::sign, "===", "=="},
    OtherWord{WordFor::sign, "!==", "!="},
    OtherWord{WordFor::key, "split", "by"},
    OtherWord{WordFor::key, "type", "kind"},
    OtherWord{WordFor::key, "thousands", "group_char"},
    OtherWord{WordFor::key, "decimal", "decimal_char"},
    OtherWord{WordFor::key, "filter", "keep"},
    OtherWord{WordFor::key, "where", "keep"},
    OtherWord{WordFor::key, "select", "show, or keep to choose rows"},
    OtherWord{WordFor::key, "sort", "sort_by"},
    OtherWord{WordFor::key, "order_by", "sort_by"},
    OtherWord{WordFor::key, "group_by", "by, or one_row_per for a sheet of groups"},
    OtherWord{WordFor::key, "groupby", "by, or one_row_per for a sheet of groups"},
    OtherWord{WordFor::key, "file", "data"},
    OtherWord{WordFor::key, "path", "data"},
    OtherWord{WordFor::key, "input", "data"},
    OtherWord{WordFor::key, "sep", "delimiter"},
    OtherWord{WordFor::key, "separator", "delimiter"},
    OtherWord{WordFor::key, "skip", "skip_rows"},
    OtherWord{WordFor::key, "skiprows", "skip_rows"},
    OtherWord{WordFor::key, "na_values", "missing_also"},
    OtherWord{WordFor::key, "formulas", "equations, or formulas at the top of the study"},
    OtherWord{WordFor::key, "columns_calculated", "equations"},
    OtherWord{WordFor::key, "derive", "equations"},
    OtherWord{WordFor::key, "colour", "color"},
    OtherWord{WordFor::key, "format", "kind for what a column is, format in columns.NAME for its dates"},
    OtherWord{WordFor::key, "xlabel", "columns.NAME.label: an axis has the label of its column"},
    OtherWord{WordFor::key, "ylabel", "columns.NAME.label: an axis has the label of its column"},
    OtherWord{WordFor::key, "xlim", "x_range"},
    OtherWord{WordFor::key, "ylim", "y_range"},
    OtherWord{WordFor::key, "logx", "x_scale = \"log\""},
    OtherWord{WordFor::key, "logy", "y_scale = \"log\""},
    OtherWord{WordFor::key, "melt", "one_row_per_cell"},
    OtherWord{WordFor::key, "unpivot", "one_row_per_cell"},
    OtherWord{WordFor::key, "join", "link.NAME = { match = \"KEY\" }"},
    OtherWord{WordFor::key, "merge", "link.NAME = { match = \"KEY\" }"},
    OtherWord{WordFor::option, "--split", "--by"},
    OtherWord{WordFor::option, "--type", "--kind"},
    OtherWord{WordFor::option, "--thousands", "--group-char"},
    OtherWord{WordFor::option, "--decimal", "--decimal-char"},
    OtherWord{WordFor::option, "--name", "--column"},
    OtherWord{WordFor::option, "--columns", "--show"},
    OtherWord{WordFor::option, "--json", "--format json"},
    OtherWord{WordFor::option, "--sep", "--delimiter"},
    OtherWord{WordFor::option, "--separator", "--delimiter"},
    OtherWord{WordFor::option, "--skip", "--skip-rows"},
    OtherWord{WordFor::option, "--filter", "--keep"},
    OtherWord{WordFor::option, "--where", "--keep"},
    OtherWord{WordFor::option, "--sort", "--sort-by"},
    OtherWord{WordFor::option, "--out", "--output"},
    OtherWord{WordFor::option, "--group-by", "--by"},
    OtherWord{WordFor::option, "--group", "--by"},
    OtherWord{WordFor::option, "--na", "--missing-also"},
    OtherWord{WordFor::option, "--na-values", "--missing-also"},
    OtherWord{WordFor::option, "--null", "--missing-also"},
    OtherWord{WordFor::option, "--sheet", "FILE#Sheet, such as book.xlsx#Run1"},
    OtherWord{WordFor::option, "--tab", "FILE#Sheet, such as book.xlsx#Run1"},
    OtherWord{WordFor::option, "--degree", "--model 'polynomial 2'"},
    OtherWord{WordFor::option, "--deg", "--model 'polynomial 2'"},
    OtherWord{WordFor::option, "--color",
              "--by for a colour for each value, --shade for a quantity; a colour by name stands in a study"},
    OtherWord{WordFor::option, "--colour",
              "--by for a colour for each value, --shade for a quantity; a colour by name stands in a study"},
    OtherWord{WordFor::option, "--hue", "--by"},
    OtherWord{WordFor::option, "--logx", "--x-scale log"},
    OtherWord{WordFor::option, "--logy", "--y-scale log"},
    OtherWord{WordFor::option, "--log", "--y-scale log"},
    OtherWord{WordFor::option, "--xlim", "--x-range LOW,HIGH"},
    OtherWord{WordFor::option, "--ylim", "--y-range LOW,HIGH"},
    OtherWord{WordFor::option, "--xlabel", "--label SYMBOL=LABEL: an axis has the label of its column"},
    OtherWord{WordFor::option, "--ylabel", "--label SYMBOL=LABEL: an axis has the label of its column"},
    OtherWord{WordFor::option, "--head", "--rows 1..10"},
    OtherWord{WordFor::option, "--nrows", "--rows 1..10"},
    OtherWord{WordFor::option, "--limit", "--rows 1..10"},
    OtherWord{WordFor::option, "--verbose", "--details"},
    OtherWord{WordFor::option, "--all", "--details"},
    OtherWord{WordFor::option, "--dry-run", "opensum check"},
    OtherWord{WordFor::option, "--overwrite", "--force"},
    OtherWord{WordFor::option, "--jobs", "--threads"},
    OtherWord{WordFor::model, "quadratic", "polynomial 2"},
    OtherWord{WordFor::model, "parabola", "polynomial 2"},
    OtherWord{WordFor::model, "poly2", "polynomial 2"},
    OtherWord{WordFor::model, "poly", "polynomial 2"},
    OtherWord{WordFor::model, "polynomial", "polynomial 2"},
    OtherWord{WordFor::model, "cubic", "polynomial 3"},
    OtherWord{WordFor::model, "poly3", "polynomial 3"},
    OtherWord{WordFor::model, "linear", "line"},
    OtherWord{WordFor::model, "lin", "line"},
    OtherWord{WordFor::model, "linreg", "line"},
    OtherWord{WordFor::model, "straight", "line"},
    OtherWord{WordFor::model, "exp", "exponential"},
    OtherWord{WordFor::model, "expo", "exponential"},
    OtherWord{WordFor::model, "log", "logarithm"},
    OtherWord{WordFor::model, "ln", "logarithm"},
    OtherWord{WordFor::model, "logarithmic", "logarithm"},
    OtherWord{WordFor::model, "powerlaw", "power"},
    OtherWord{WordFor::model, "power_law", "power"},
    OtherWord{WordFor::command, "init", "new"},
    OtherWord{WordFor::command, "create", "new"},
    OtherWord{WordFor::command, "start", "new"},
    OtherWord{WordFor::command, "compute", "run"},
    OtherWord{WordFor::command, "execute", "run"},
    OtherWord{WordFor::command, "build", "run"},
    OtherWord{WordFor::command, "draw", "plot"},
    OtherWord{WordFor::command, "graph", "plot"},
    OtherWord{WordFor::command, "chart", "plot"},
    OtherWord{WordFor::command, "show", "look"},
    OtherWord{WordFor::command, "view", "look"},
    OtherWord{WordFor::command, "head", "look"},
    OtherWord{WordFor::command, "describe", "look"},
    OtherWord{WordFor::command, "info", "look"},
    OtherWord{WordFor::command, "open", "look"},
    OtherWord{WordFor::command, "summary", "look"},
    OtherWord{WordFor::command, "cat", "look"},
    OtherWord{WordFor::command, "list", "help"},
    OtherWord{WordFor::command, "commands", "help"},
    OtherWord{WordFor::command, "report", "run"},
    OtherWord{WordFor::command, "make", "run"},
    OtherWord{WordFor::command, "validate", "check"},
    OtherWord{WordFor::command, "lint", "check"},
    OtherWord{WordFor::command, "calculate", "calc"},
    OtherWord{WordFor::command, "eval", "calc"},
    OtherWord{WordFor::command, "convert", "calc"},
    OtherWord{WordFor::command, "why", "explain"},
    OtherWord{WordFor::command, "trace", "explain"},
    OtherWord{WordFor::command, "regress", "fit"},
    OtherWord{WordFor::command, "add", "derive"},
    OtherWord{WordFor::command, "mutate", "derive"},
    OtherWord{WordFor::command, "example", "demo"},
};

// Functions: the words, what to write in general, and forms for as many arguments as they name. $* stands for
// two or more arguments.
struct OtherFunction {
  const char* words;
  const char* general;
  std::array<const char*, 2> forms;
};

constexpr std::array kFunctions = {
    OtherFunction{"min minimum lowest",
                  "row_min(a, b) along a row, col_min(x) down a column",
                  {"col_min($1)", "row_min($*)"}},
    OtherFunction{"max maximum highest",
                  "row_max(a, b) along a row, col_max(x) down a column",
                  {"col_max($1)", "row_max($*)"}},
    OtherFunction{"mean avg average",
                  "row_mean(a, b) along a row, col_mean(x) down a column",
                  {"col_mean($1)", "row_mean($*)"}},
    OtherFunction{"median med",
                  "row_median(a, b) along a row, col_median(x) down a column",
                  {"col_median($1)", "row_median($*)"}},
    OtherFunction{
        "sum total", "row_sum(a, b) along a row, col_sum(x) down a column", {"col_sum($1)", "row_sum($*)"}},
    OtherFunction{"count n counta",
                  "row_count(a, b) along a row, col_count(x) down a column",
                  {"col_count($1)", "row_count($*)"}},
    OtherFunction{"product prod", "row_product(a, b)", {"row_product($*)", ""}},
    OtherFunction{"std stdev stddev sd stdevs stdev_s",
                  "row_sd(a, b) along a row, col_sd(x) down a column",
                  {"col_sd($1)", "row_sd($*)"}},
    OtherFunction{"var variance vars", "col_sd(x)^2", {"col_sd($1)^2", "row_sd($*)^2"}},
    OtherFunction{"range ptp spread",
                  "row_range(a, b) along a row, col_range(x) down a column",
                  {"col_range($1)", "row_range($*)"}},
    OtherFunction{"sem stderr se", "col_sem(x)", {"col_sem($1)", ""}},
    OtherFunction{"rms", "col_rms(x)", {"col_rms($1)", ""}},
    OtherFunction{"mad", "col_mad(x)", {"col_mad($1)", ""}},
    OtherFunction{"geomean gmean geometric_mean", "col_geometric_mean(x)", {"col_geometric_mean($1)", ""}},
    OtherFunction{"cv rsd", "col_sd(x) / col_mean(x)", {"col_sd($1) / col_mean($1)", ""}},
    OtherFunction{"zscore standardize normalize scale",
                  "(x - col_mean(x)) / col_sd(x)",
                  {"($1 - col_mean($1)) / col_sd($1)", ""}},
    OtherFunction{"percentile quantile perc pctl", "col_quantile(x, 0.9)", {"col_quantile($1, $2)", ""}},
    OtherFunction{
        "corr correl correlation pearson", "col_correlation(x, y)", {"col_correlation($1, $2)", ""}},
    OtherFunction{"log", "ln(x) of base e, log10(x) of base 10", {"ln($1), or log10($1) for base 10", ""}},
    OtherFunction{"lg log_10", "log10(x)", {"log10($1)", ""}},
    OtherFunction{"loge", "ln(x)", {"ln($1)", ""}},
    OtherFunction{"pow power", "x^y", {"($1)^($2)", ""}},
    OtherFunction{"sqr square", "x^2", {"($1)^2", ""}},
    OtherFunction{"cube", "x^3", {"($1)^3", ""}},
    OtherFunction{"fabs", "abs(x)", {"abs($1)", ""}},
    OtherFunction{"sgn signum", "sign(x)", {"sign($1)", ""}},
    OtherFunction{"arctan", "atan(x)", {"atan($1)", ""}},
    OtherFunction{"arcsin", "asin(x)", {"asin($1)", ""}},
    OtherFunction{"arccos", "acos(x)", {"acos($1)", ""}},
    OtherFunction{"arctan2", "atan2(y, x)", {"atan2($1, $2)", ""}},
    OtherFunction{"degrees", "x in [deg]", {"$1 in [deg]", ""}},
    OtherFunction{"radians", "x in [rad]", {"$1 in [rad]", ""}},
    OtherFunction{"int integer fix truncate", "trunc(x)", {"trunc($1)", ""}},
    OtherFunction{"ceiling", "ceil(x)", {"ceil($1)", ""}},
    OtherFunction{"round_to roundto mround", "round(x, to: step)", {"round($1, to: $2)", ""}},
    OtherFunction{"rem fmod remainder", "mod(x, step)", {"mod($1, $2)", ""}},
    OtherFunction{"clip bound", "clamp(x, low, high)", {"clamp($1, $2, $3)", ""}},
    OtherFunction{
        "ifelse if_else iif iff cond where when case choose", "if(condition, a, b)", {"if($1, $2, $3)", ""}},
    OtherFunction{
        "coalesce nvl ifnull if_null fillna ifna zeroifnull", "fallback(a, b)", {"fallback($*)", ""}},
    OtherFunction{
        "isnull isnan isna is_na is_nan isblank isempty missing", "is_null(x)", {"is_null($1)", ""}},
    OtherFunction{"notnull notna is_known known", "not is_null(x)", {"not is_null($1)", ""}},
    OtherFunction{"nullif na_if", "exclude(x, where: x == value)", {"exclude($1, where: $1 == $2)", ""}},
    OtherFunction{"isin is_in one_of in_list", "is_any(x, \"a\", \"b\")", {"is_any($*)", ""}},
    OtherFunction{"between", "low <= x and x <= high", {"$2 <= $1 and $1 <= $3", ""}},
    OtherFunction{"cumsum running_sum cumulative_sum runningsum", "sum_so_far(x)", {"sum_so_far($1)", ""}},
    OtherFunction{"cummean running_mean cumulative_mean", "mean_so_far(x)", {"mean_so_far($1)", ""}},
    OtherFunction{"cummin", "min_so_far(x)", {"min_so_far($1)", ""}},
    OtherFunction{"cummax", "max_so_far(x)", {"max_so_far($1)", ""}},
    OtherFunction{"lag", "previous(x, rows: 1)", {"previous($1, rows: 1)", "previous($1, rows: $2)"}},
    OtherFunction{"lead", "next(x, rows: 1)", {"next($1, rows: 1)", "next($1, rows: $2)"}},
    OtherFunction{"diff delta difference", "change(x)", {"change($1)", "$2 - $1"}},
    OtherFunction{"ffill fill_down locf", "previous_known(x)", {"previous_known($1)", ""}},
    OtherFunction{"bfill fill_up", "next_known(x)", {"next_known($1)", ""}},
    OtherFunction{"rolling rolling_mean moving_average movavg rollmean smooth",
                  "moving_mean(x, rows: 5)",
                  {"moving_mean($1, rows: 5)", "moving_mean($1, rows: $2)"}},
    OtherFunction{"rolling_median rollmedian medfilt",
                  "moving_median(x, rows: 5)",
                  {"moving_median($1, rows: 5)", "moving_median($1, rows: $2)"}},
    OtherFunction{"rolling_std rolling_sd rollsd",
                  "moving_sd(x, rows: 5)",
                  {"moving_sd($1, rows: 5)", "moving_sd($1, rows: $2)"}},
    OtherFunction{"slope", "derivative(y, along: x), or fit.NAME.slope for the slope of a line", {"", ""}},
    OtherFunction{
        "gradient deriv differentiate dydx", "derivative(y, along: x)", {"derivative($1, along: $2)", ""}},
    OtherFunction{"area", "area_so_far(y, along: x), or col_area(y, along: x) for all of it", {"", ""}},
    OtherFunction{"trapz integrate integral auc", "col_area(y, along: x)", {"col_area($1, along: $2)", ""}},
    OtherFunction{"cumtrapz", "area_so_far(y, along: x)", {"area_so_far($1, along: $2)", ""}},
    OtherFunction{"interp interpolate",
                  "interpolated(x, along: t), or link.NAME = { …, how = \"interpolate\" }",
                  {"interpolated($1, along: $2)", ""}},
    OtherFunction{"lookup vlookup xlookup match",
                  "link.NAME = { match = \"KEY\" } in the study, and NAME.COLUMN here",
                  {"", ""}},
    OtherFunction{"row rownum row_num index", "row_number()", {"row_number()", ""}},
    OtherFunction{"first", "col_first(x)", {"col_first($1)", ""}},
    OtherFunction{"last", "col_last(x)", {"col_last($1)", ""}},
    OtherFunction{"nth", "col_at(x, 1)", {"col_at($1, $2)", ""}},
    OtherFunction{"argmin which_min idxmin", "row_min_name(a..d)", {"row_min_name($*)", ""}},
    OtherFunction{"argmax which_max idxmax", "row_max_name(a..d)", {"row_max_name($*)", ""}},
    OtherFunction{"near isclose almost_equal", "agrees(a, b, within: d)", {"agrees($1, $2, within: $3)", ""}},
    OtherFunction{"join concatenate paste strcat textjoin", "concat(a, \"-\", b)", {"concat($*)", ""}},
    OtherFunction{"has includes str_contains", "contains(x, \"part\")", {"contains($1, $2)", ""}},
    OtherFunction{"begins startswith begins_with", "starts_with(x, \"part\")", {"starts_with($1, $2)", ""}},
    OtherFunction{"ends endswith", "ends_with(x, \"part\")", {"ends_with($1, $2)", ""}},
    OtherFunction{"toupper uppercase ucase", "upper(x)", {"upper($1)", ""}},
    OtherFunction{"tolower lowercase lcase", "lower(x)", {"lower($1)", ""}},
    OtherFunction{"strip", "trim(x)", {"trim($1)", ""}},
    OtherFunction{"split substr substring mid left right", "part(x, 1, split: \"-\")", {"", ""}},
    OtherFunction{"to_number tonumber val as_number float", "number(x)", {"number($1)", "number($1, $2)"}},
    OtherFunction{"datediff date_diff days_between", "to - from in [d]", {"$2 - $1", ""}},
    OtherFunction{"dateadd date_add add_months edate", "shift(d, months: 1)", {"shift($1, months: $2)", ""}},
    OtherFunction{"celsius to_kelvin", "kelvin(t)", {"kelvin($1)", ""}},
};

std::vector<std::string> split(std::string_view words) {
  std::vector<std::string> all;
  while (!words.empty()) {
    const std::size_t end = std::min(words.find(' '), words.size());
    all.emplace_back(words.substr(0, end));
    words.remove_prefix(std::min(end + 1, words.size()));
  }
  return all;
}

// Whether a form is for so many arguments.
bool fits(std::string_view form, std::size_t arguments) {
  if (form.empty()) return false;
  if (form.find("$*") != std::string_view::npos) return arguments >= 2;
  std::size_t most = 0;
  for (const auto& [mark, place] : {std::pair("$1", 1), std::pair("$2", 2), std::pair("$3", 3)}) {
    if (form.find(mark) != std::string_view::npos) most = static_cast<std::size_t>(place);
  }
  return most == arguments;
}

std::string filled(std::string_view form, const std::vector<std::string>& arguments) {
  std::string out;
  for (std::size_t i = 0; i < form.size(); ++i) {
    if (form[i] != '$') {
      out += form[i];
      continue;
    }
    ++i;
    if (form[i] == '*') {
      for (std::size_t k = 0; k < arguments.size(); ++k) out += (k > 0 ? ", " : "") + arguments[k];
    } else {
      out += arguments[static_cast<std::size_t>(form[i] - '1')];
    }
  }
  return out;
}

}  // namespace

std::string word_here(WordFor what, std::string_view word) {
  const auto* found = std::find_if(kWords.begin(), kWords.end(),
                                   [&](const OtherWord& w) { return w.what == what && word == w.word; });
  return found == kWords.end() ? std::string() : found->here;
}

std::string call_here(std::string_view function, const std::vector<std::string>& arguments) {
  std::string lower(function);
  std::transform(lower.begin(), lower.end(), lower.begin(),
                 [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
  for (const OtherFunction& other : kFunctions) {
    const std::vector<std::string> words = split(other.words);
    if (std::find(words.begin(), words.end(), lower) == words.end()) continue;
    // A range or a pattern stands for several columns.
    const bool several = arguments.size() == 1 && (arguments.front().find("..") != std::string::npos ||
                                                   arguments.front().find('*') != std::string::npos);
    for (const char* form : other.forms) {
      const bool of_several = std::string_view(form).find("$*") != std::string_view::npos;
      if (several ? of_several : fits(form, arguments.size())) return filled(form, arguments);
    }
    return other.general;
  }
  return {};
}

bool has_nothing_like(std::string_view function) {
  constexpr std::array<std::string_view, 13> kNothing = {"len",    "length",   "nchar",  "strlen", "rand",
                                                         "random", "randn",    "normal", "today",  "now",
                                                         "print",  "distinct", "unique"};
  return std::find(kNothing.begin(), kNothing.end(), function) != kNothing.end();
}

std::vector<std::string> other_functions() {
  std::vector<std::string> all;
  for (const OtherFunction& other : kFunctions) {
    for (std::string& word : split(other.words)) all.push_back(std::move(word));
  }
  return all;
}

}  // namespace opensum
