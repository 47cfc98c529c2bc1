// A paragraph for the methods section of a paper.
#include "report/methods.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/sentence.h"
#include "equation/parser.h"
#include "message/diagnostic.h"
#include "report/latex.h"
#include "report/words.h"
#include "table/latex_text.h"
#include "table/value_with_error.h"
#include "version.h"

namespace opensum {
namespace {

class MethodsWriter {
 public:
  MethodsWriter(const ReportContent& content, bool tex)
      : content_(content), facts_(content.facts), tex_(tex) {}

  std::string run() {
    say_measured();
    say_constants();
    say_links();
    say_derived();
    say_gaps();
    say_uncertainty();
    say_fits();
    sentence(fmt::format("Units were checked and converted, and all values computed, with Open Sum {}.",
                         kVersion));
    return out_;
  }

 private:
  void sentence(const std::string& text) { out_ += (out_.empty() ? "" : " ") + text; }

  std::string plain(const std::string& text) const { return tex_ ? latex_escaped(text) : text; }

  std::string quantity(const std::string& number, const std::string& unit) const {
    const bool one = unit.empty() || unit == "1";
    if (tex_)
      return one ? fmt::format("\\num{{{}}}", number)
                 : fmt::format("\\qty{{{}}}{{{}}}", number, latex_unit(unit));
    return one ? number : number + " " + unit;
  }

  std::string with_unit(const std::string& label, const std::string& unit) const {
    if (unit.empty() || unit == "1") return plain(label);
    return fmt::format("{} ({})", plain(label), tex_ ? fmt::format("\\unit{{{}}}", latex_unit(unit)) : unit);
  }

  std::string rows_of(const SheetFacts& sheet) const {
    return fmt::format("{} row{} of {}", sheet.rows, sheet.rows == 1 ? "" : "s", plain(sheet.name));
  }

  // Sheets that measure the same quantities are named together, those first from which something is derived.
  void say_measured() {
    struct Group {
      std::vector<std::string> quantities;
      std::vector<std::string> sheets;
      bool derived = false;
    };
    std::vector<Group> groups;
    for (const SheetFacts& sheet : facts_.sheets) {
      if (!sheet.rows_of.empty() || sheet.measured.empty()) continue;
      const std::vector<std::string> quantities = quantities_of(sheet);
      const auto same = std::find_if(groups.begin(), groups.end(),
                                     [&](const Group& g) { return g.quantities == quantities; });
      Group& group = same == groups.end() ? groups.emplace_back(Group{quantities, {}, false}) : *same;
      group.sheets.push_back(rows_of(sheet));
      group.derived = group.derived || !sheet.derived.empty();
    }
    std::stable_partition(groups.begin(), groups.end(), [](const Group& g) { return g.derived; });
    for (std::size_t i = 0; i < groups.size(); ++i) {
      const Group& group = groups[i];
      if (i == 0) {
        sentence(fmt::format("{} {} measured ({}).", sentence_case(enumerated(group.quantities)),
                             group.quantities.size() == 1 ? "was" : "were", enumerated(group.sheets)));
      } else {
        sentence(fmt::format("A further table holds {} ({}).", enumerated(group.quantities),
                             enumerated(group.sheets)));
      }
    }
  }

  // The measured quantities of a sheet that something uses; all where nothing is.
  std::vector<std::string> quantities_of(const SheetFacts& sheet) const {
    std::vector<std::string> items;
    for (const bool only_used : {true, false}) {
      for (const ColumnFacts& column : told_together(sheet.measured)) {
        if (only_used && !column.used) continue;
        // Of many that are alike the name says which.
        const bool many = column.symbol.find("…") != std::string::npos;
        items.push_back(with_unit(many ? column.symbol : label_in_sentence(column.label),
                                  column.kind == "number" ? column.unit : ""));
      }
      if (!items.empty()) break;
    }
    return items;
  }

  void say_constants() {
    std::vector<std::string> items;
    for (const ScopeConstant& constant : facts_.constants) {
      if (constant.type.kind != Kind::number) continue;
      items.push_back(fmt::format(
          "the {} was {}", plain(label_in_sentence(constant.label.empty() ? constant.name : constant.label)),
          quantity(constant.parts.empty() ? number_text(constant.number)
                                          : value_with_error(constant.number, constant.uncertainty()),
                   constant.type.unit.text())));
    }
    if (!items.empty()) sentence(sentence_case(enumerated(items)) + ".");
    for (const std::string& change : facts_.changes) sentence(sentence_case(plain(change)) + ".");
  }

  // The same table looked up in the same way for several sheets is named once.
  void say_links() {
    std::vector<std::pair<std::string, std::vector<std::string>>> groups;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const LinkFacts& link : sheet.links) {
        const std::string how = fmt::format("Values of {} were {}", plain(link.sheet), plain(link.how));
        const std::string count = fmt::format("{} of {}", link.matched, rows_of(sheet));
        const auto same =
            std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.first == how; });
        if (same != groups.end()) {
          same->second.push_back(count);
        } else {
          groups.push_back({how, {count}});
        }
      }
    }
    for (const auto& [how, counts] : groups)
      sentence(fmt::format("{} (found for {}).", how, enumerated(counts)));
  }

  Labels labels_of(const std::string& name) const {
    Labels labels;
    // Of other sheets only what the own one has not: what its reductions go over.
    for (const bool own : {false, true}) {
      for (const SheetFacts& sheet : facts_.sheets) {
        if ((sheet.name == name) != own) continue;
        for (const auto* columns : {&sheet.measured, &sheet.taken, &sheet.derived}) {
          for (const ColumnFacts& column : *columns) labels[column.symbol] = label_in_sentence(column.label);
        }
      }
    }
    for (const ScopeConstant& constant : facts_.constants) {
      if (!constant.label.empty()) labels[constant.name] = label_in_sentence(constant.label);
    }
    return labels;
  }

  // A sheet, with what its rows are where they are those of another.
  std::string sheet_with_rows(const std::string& name) const {
    for (const SheetFacts& sheet : facts_.sheets) {
      if (sheet.name == name && !sheet.rows_of.empty())
        return fmt::format("{} ({} rows {})", plain(name), sheet.rows, plain(sheet.rows_of));
    }
    return plain(name);
  }

  // Equation 3, equations 3 and 5.
  static std::string equations_text(const std::vector<std::size_t>& numbers) {
    std::vector<std::string> items;
    items.reserve(numbers.size());
    for (const std::size_t number : numbers) items.push_back(std::to_string(number));
    return (items.size() == 1 ? "equation " : "equations ") + enumerated(items);
  }

  void say_derived() {
    for (const ReportEquations& group : content_.equations) {
      const Labels labels = labels_of(group.sheets.front());
      std::vector<std::string> sheets;
      for (const std::string& sheet : group.sheets) sheets.push_back(sheet_with_rows(sheet));
      std::vector<std::string> by_equation;
      std::vector<std::size_t> numbers;
      bool first = true;
      const std::string where = fmt::format("For {}, ", enumerated(sheets));
      for (const ReportEquation& equation : group.equations) {
        const std::string name = "the " + with_unit(label_in_sentence(equation.label), equation.unit);
        const std::string words = in_words(*equation.expression, labels);
        if (words.empty()) {
          by_equation.push_back(name);
          numbers.push_back(equation.number);
          continue;
        }
        const std::string said =
            fmt::format("{} was {} ({})", name, plain(words), equations_text({equation.number}));
        sentence((first ? where + said : sentence_case(said)) + ".");
        first = false;
      }
      if (by_equation.empty()) continue;
      const std::string said =
          fmt::format("{} followed from {}", enumerated(by_equation), equations_text(numbers));
      sentence((first ? where + said : sentence_case(said)) + ".");
    }
  }

  // A rule for gaps in words, or as it is written.
  std::string rule_in_words(const std::string& rule, const Labels& labels) const {
    Diagnostics none;
    const NodePtr node = parse_expression(Passage::whole("rule", rule), none);
    const std::string words = node ? in_words(*node, labels) : "";
    return plain(words.empty() ? rule : words);
  }

  // How gaps were treated: the policy, the fills, and what reductions left out.
  void say_gaps() {
    sentence("A quantity that follows from a missing value is missing, too.");
    std::vector<std::string> fills;
    for (const SheetFacts& sheet : facts_.sheets) {
      const Labels labels = labels_of(sheet.name);
      for (const FillFacts& fill : sheet.fills) {
        const auto label = labels.find(fill.symbol);
        for (const auto& [rule, count] : fill.rules) {
          if (count > 0)
            fills.push_back(fmt::format("{} of {} gaps of {} by {}", count, fill.gaps,
                                        plain(label == labels.end() ? fill.symbol : label->second),
                                        rule_in_words(rule, labels)));
        }
      }
    }
    if (!fills.empty()) sentence(fmt::format("Gaps of measured values were filled: {}.", enumerated(fills)));
    std::vector<std::string> left_out;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const std::string& text : sheet.skipped)
        left_out.push_back(plain(fmt::format("{} ({})", text, sheet.name)));
    }
    if (!left_out.empty())
      sentence(
          fmt::format("Missing values were left out in these reductions: {}.", fmt::join(left_out, "; ")));
    for (const SheetFacts& sheet : facts_.sheets) {
      if (!sheet.selection.empty())
        sentence(fmt::format("Of {} were used {}.", plain(sheet.name), plain(sheet.selection.front())));
    }
  }

  // Sheets that state the same are named once.
  void say_uncertainty() {
    std::vector<std::string> said;
    bool any = false;
    for (const SheetFacts& sheet : facts_.sheets) {
      any = any || sheet.uncertain > 0;
      for (const std::string& text : sheet.uncertainties) {
        if (std::find(said.begin(), said.end(), text) == said.end()) said.push_back(text);
      }
    }
    if (said.empty()) return;
    for (std::string& text : said) text = plain(text);
    sentence(fmt::format("Standard uncertainties were {}.", enumerated(said)));
    if (any)
      sentence(
          "They were carried to the derived quantities by first-order propagation (JCGM 100:2008); all are "
          "standard uncertainties, k = 1.");
    if (!facts_.sampling) return;
    const SamplingFacts& sampling = *facts_.sampling;
    const std::size_t differing = sampling.differing();
    sentence(fmt::format(
        "The propagation was checked by sampling (JCGM 101:2008, {} trials): the intervals of 95 % {}.",
        sampling.trials,
        differing == 0 ? std::string("agree")
                       : fmt::format("of {} of {} values differ", differing, sampling.values.size())));
  }

  static std::string model_in_words(const std::string& model) {
    if (model == "line") return "a straight line";
    if (model == "proportional") return "a straight line through the origin";
    if (model == "power") return "a power function (factor a, exponent b)";
    if (model == "exponential") return "an exponential function (factor a, rate b)";
    if (model == "logarithm") return "a logarithm (constant a, factor b)";
    const std::string polynomial = "polynomial ";
    if (model.starts_with(polynomial)) return "a polynomial of degree " + model.substr(polynomial.size());
    return "the model " + model;
  }

  void say_fits() {
    for (std::size_t begin = 0; begin < facts_.fits.size();) {
      std::size_t end = begin + 1;
      while (end < facts_.fits.size() && facts_.fits[end].name == facts_.fits[begin].name) ++end;
      const FitFacts& first = facts_.fits[begin];
      const Labels labels = labels_of(first.sheet);
      const auto label = [&](const std::string& symbol) {
        const auto found = labels.find(symbol);
        return plain(found == labels.end() ? symbol : found->second);
      };
      std::vector<std::string> results;
      for (std::size_t i = begin; i < end; ++i)
        results.push_back(fit_result(facts_.fits[i], end - begin > 1));
      const bool any =
          std::any_of(&facts_.fits[begin], &facts_.fits[begin] + (end - begin), [](const FitFacts& fit) {
            return std::any_of(fit.parameters.begin(), fit.parameters.end(),
                               [](const auto& p) { return p.value.has_value(); });
          });
      sentence(fmt::format(
          "{} was fitted to {} against {} by least squares{}: {}{}.",
          sentence_case(plain(model_in_words(first.model))), label(first.y), label(first.x),
          !first.reduced_chi2 ? ""
          : first.by_x        ? " weighted by the standard uncertainties in x and y (effective variance)"
                              : " weighted by the standard uncertainty",
          fmt::join(results, "; "), any ? " (in brackets the standard error, in the last digits)" : ""));
      begin = end;
    }
  }

  std::string fit_result(const FitFacts& fit, bool several) const {
    std::vector<std::string> parameters;
    for (const FitFacts::Parameter& parameter : fit.parameters) {
      if (parameter.value)
        parameters.push_back(fmt::format(
            "{} = {}", tex_ ? latex_symbol(parameter.name) : parameter.name,
            quantity(value_with_error(*parameter.value, parameter.standard_error), parameter.unit)));
    }
    const std::string where = plain(fit.sheet + (fit.group.empty() ? "" : ", " + fit.group));
    const std::string begin = several ? "for " + where + " " : "";
    if (parameters.empty()) return begin + "no curve was found";
    return fmt::format("{}{} from {} points", begin, enumerated(parameters), fit.points);
  }

  const ReportContent& content_;
  const RunFacts& facts_;
  bool tex_;
  std::string out_;
};

// The parameters of all fits, a row each.
std::string fits_table(const RunFacts& facts) {
  std::string out =
      "\\begin{tabular}{lllll}\n\\toprule\nFit & Sheet & Parameter & Value & Points\\\\\n\\midrule\n";
  for (const FitFacts& fit : facts.fits) {
    for (const FitFacts::Parameter& parameter : fit.parameters) {
      const bool one = parameter.unit.empty() || parameter.unit == "1";
      const std::string number =
          parameter.value ? value_with_error(*parameter.value, parameter.standard_error) : "";
      out += fmt::format("{} & {} & {} & {} & {}\\\\\n", latex_escaped(fit.name),
                         latex_escaped(fit.sheet + (fit.group.empty() ? "" : ", " + fit.group)),
                         latex_symbol(parameter.name),
                         !parameter.value ? "--"
                         : one            ? fmt::format("\\num{{{}}}", number)
                               : fmt::format("\\qty{{{}}}{{{}}}", number, latex_unit(parameter.unit)),
                         fit.points);
    }
  }
  return out + "\\bottomrule\n\\end{tabular}\n";
}

}  // namespace

std::string methods_text(const ReportContent& content) { return MethodsWriter(content, false).run(); }

std::string methods_tex(const ReportContent& content) {
  std::string out =
      "% The methods of a study: a part of a document that uses the packages amsmath, booktabs and "
      "siunitx.\n\n";
  out += MethodsWriter(content, true).run() + "\n";
  for (const ReportEquations& group : content.equations) {
    for (const ReportEquation& equation : group.equations) {
      out += fmt::format("\n\\begin{{equation}}\\tag{{{}}}\n{} = {}\n\\end{{equation}}\n", equation.number,
                         latex_name(equation.name), latex_equation(*equation.expression));
    }
  }
  if (!content.facts.fits.empty()) out += "\n" + fits_table(content.facts);
  return out;
}

}  // namespace opensum
