// The report page.
#include "report/page.h"

#include <fmt/format.h>

#include <algorithm>

#include "files/markup.h"
#include "version.h"

namespace opensum {
namespace {

// Colours have a contrast of at least 4.5 to their ground, in the light and in the dark.
constexpr const char* kStyle = R"css(
:root { color-scheme: light dark; --ink: #1d2326; --quiet: #566066; --ground: #fbfbf9; --card: #ffffff;
  --rule: #d5d9d6; --accent: #0a5c55; --bad: #a3261a; }
@media (prefers-color-scheme: dark) { :root { --ink: #e4e7e5; --quiet: #a5aeab; --ground: #15191a; --card: #1d2324;
  --rule: #3a4344; --accent: #6cc5b8; --bad: #ff9b8a; } }
* { box-sizing: border-box; }
html { font: 16px/1.55 "Liberation Sans", Arial, Helvetica, sans-serif; background: var(--ground); color: var(--ink); }
body { margin: 0 auto; max-width: 62rem; padding: 1.5rem 1.25rem 4rem; }
h1 { font-size: 1.9rem; line-height: 1.2; margin: 1rem 0 .3rem; }
h2 { font-size: 1.35rem; margin: 2.6rem 0 .6rem; padding-top: .5rem; border-top: 2px solid var(--accent); }
h3 { font-size: 1.05rem; margin: 1.5rem 0 .4rem; }
h2 a, h3 a { color: inherit; text-decoration: none; }
h2 a:hover, h3 a:hover, h2 a:focus, h3 a:focus { text-decoration: underline; }
a { color: var(--accent); }
p, ul, dl { max-width: 46rem; }
.quiet { color: var(--quiet); }
.bad { color: var(--bad); font-weight: bold; }
nav ul { display: flex; flex-wrap: wrap; gap: .2rem 1.2rem; list-style: none; padding: 0; }
.scroll { overflow-x: auto; max-width: 100%; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; font-size: .92rem; }
th, td { padding: .25rem .8rem .25rem 0; text-align: left; vertical-align: top; border-bottom: 1px solid var(--rule); }
th { font-weight: bold; }
td.n, th.n { text-align: right; }
td.null { color: var(--quiet); }
figure { margin: 1.2rem 0; }
figure > div { background: #ffffff; border: 1px solid var(--rule); padding: .4rem; }
figure svg { display: block; width: 100%; min-width: 34rem; height: auto; }
td:not(.n) { min-width: 4.5rem; }
figcaption { margin-top: .4rem; color: var(--quiet); font-size: .92rem; }
.equation { margin: 1rem 0; padding: .7rem .9rem; background: var(--card); border-left: 3px solid var(--accent); }
.equation p { margin: .2rem 0; }
.equation math { margin: .5rem 0; text-align: left; font-size: 1.15rem; }
code, pre { font-family: "Liberation Mono", Menlo, Consolas, monospace; font-size: .88rem; overflow-wrap: anywhere; }
blockquote { margin: 0; padding: .8rem 1rem; background: var(--card); border: 1px solid var(--rule); overflow-wrap: anywhere; }
.skip { position: absolute; left: -100rem; } .skip:focus { left: 1rem; }
:focus-visible { outline: 2px solid var(--accent); outline-offset: 2px; }
@media print { html { background: #ffffff; color: #000000; font-size: 11pt; } nav, .skip { display: none; }
  .scroll { overflow: visible; } h2, h3 { break-after: avoid; } figure, .equation { break-inside: avoid; } }
)css";

std::string heading(const std::string& id, const std::string& words, int level) {
  return fmt::format("<h{0} id=\"{1}\"><a href=\"#{1}\">{2}</a></h{0}>\n", level, id, escaped(words));
}

// A name as an identifier of the page.
std::string id_of(const std::string& begin, const std::string& name) {
  std::string id = begin + "-";
  for (const char c : name) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
    id += plain ? std::string(1, c) : fmt::format("_{:02x}", static_cast<unsigned char>(c));
  }
  return id;
}

// A table that scrolls by itself where the page is narrow; the keyboard reaches it.
std::string scrolling(const std::string& what, const std::string& rows) {
  return fmt::format(
      "<div class=\"scroll\" role=\"region\" tabindex=\"0\" aria-label=\"{}\"><table>\n{}</table></div>\n",
      escaped(what), rows);
}

std::string row_of(const std::vector<std::string>& cells, const char* tag, const std::vector<bool>& numbers) {
  std::string out = "<tr>";
  for (std::size_t i = 0; i < cells.size(); ++i) {
    const bool number = i < numbers.size() && numbers[i];
    const std::string scope = std::string(tag) == "th" ? " scope=\"col\"" : "";
    out += fmt::format("<{0}{1}{2}>{3}</{0}>", tag, scope, number ? " class=\"n\"" : "", escaped(cells[i]));
  }
  return out + "</tr>\n";
}

std::string table_of(const std::string& what, const std::vector<std::string>& headers,
                     const std::vector<std::vector<std::string>>& rows, const std::vector<bool>& numbers) {
  std::string out = "<thead>" + row_of(headers, "th", numbers) + "</thead>\n<tbody>\n";
  for (const std::vector<std::string>& row : rows) out += row_of(row, "td", numbers);
  return scrolling(what, out + "</tbody>\n");
}

std::string with_unit(const std::string& number, const std::string& unit) {
  return unit.empty() || unit == "1" ? number : number + " " + unit;
}

class PageWriter {
 public:
  explicit PageWriter(const ReportContent& content) : content_(content), facts_(content.facts) {}

  std::string run() {
    add_figures();
    add_fits();
    add_claims();
    add_tables();
    add_equations();
    add_gaps();
    add_methods();
    add_record();
    const std::string title = facts_.title.empty() ? "Open Sum report" : facts_.title;
    std::string out = "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n";
    out += "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n";
    out += fmt::format("<title>{}</title>\n<style>{}</style>\n</head>\n<body>\n", escaped(title), kStyle);
    out += "<a class=\"skip\" href=\"#content\">Skip to the content</a>\n<header>\n";
    out += fmt::format("<h1>{}</h1>\n<p class=\"quiet\">{}</p>\n</header>\n", escaped(title),
                       escaped(abstract()));
    out += "<nav aria-label=\"Contents\"><ul>\n";
    for (const auto& [id, words] : contents_)
      out += fmt::format("<li><a href=\"#{}\">{}</a></li>\n", id, words);
    return out + "</ul></nav>\n<main id=\"content\">\n" + body_ + "</main>\n</body>\n</html>\n";
  }

 private:
  void section(const std::string& id, const std::string& words) {
    contents_.emplace_back(id, words);
    body_ += heading(id, words, 2);
  }

  std::string abstract() const {
    std::size_t rows = 0;
    std::size_t derived = 0;
    for (const SheetFacts& sheet : facts_.sheets) {
      rows += sheet.rows;
      derived += sheet.derived.size();
    }
    return fmt::format(
        "{} sheet{} with {} rows, {} derived columns, {} figure{}, {} fit{}. Computed with Open Sum {}.",
        facts_.sheets.size(), facts_.sheets.size() == 1 ? "" : "s", rows, derived, content_.figures.size(),
        content_.figures.size() == 1 ? "" : "s", facts_.fits.size(), facts_.fits.size() == 1 ? "" : "s",
        kVersion);
  }

  void add_figures() {
    if (content_.figures.empty()) return;
    section("figures", "Figures");
    for (const ReportFigure& figure : content_.figures) {
      const std::string name = figure.title.empty() ? figure.name : figure.title;
      body_ += heading(id_of("figure", figure.name), name, 3);
      body_ += fmt::format(
          "<figure><div class=\"scroll\" role=\"region\" tabindex=\"0\" aria-label=\"Figure: {}\">",
          escaped(name));
      body_ += fmt::format("<div role=\"img\" aria-label=\"{}\">{}</div></div>\n",
                           escaped(figure.description), figure.svg);
      std::string caption = figure.description;
      for (const std::string& note : figure.notes) caption += " " + note + ".";
      body_ += fmt::format("<figcaption>{}</figcaption></figure>\n", escaped(caption));
    }
  }

  void add_fits() {
    if (facts_.fits.empty()) return;
    section("fits", "Fits");
    const bool grouped = std::any_of(facts_.fits.begin(), facts_.fits.end(),
                                     [](const FitFacts& fit) { return !fit.group.empty(); });
    std::vector<std::vector<std::string>> rows;
    for (const FitFacts& fit : facts_.fits) {
      const auto add = [&](const std::string& what, const std::string& value, const std::string& error) {
        std::vector<std::string> row = {fit.name, fit.sheet};
        if (grouped) row.push_back(fit.group);
        row.insert(row.end(), {what, value, error});
        rows.push_back(std::move(row));
      };
      for (const FitFacts::Parameter& p : fit.parameters) {
        add(p.name, p.value ? with_unit(number_text(*p.value, 6), p.unit) : "no value",
            p.value ? with_unit(number_text(p.error_shown, 2), p.error_unit) : "");
      }
      if (fit.r2) add("r²", number_text(*fit.r2, 6), "");
      if (fit.r) add("correlation r", number_text(*fit.r, 6), "");
      if (fit.residual_sd)
        add("residual standard deviation", with_unit(number_text(*fit.residual_sd, 4), fit.y_unit), "");
      if (fit.reduced_chi2) add("reduced χ²", number_text(*fit.reduced_chi2, 4), "");
      add("points", std::to_string(fit.points), "");
    }
    std::vector<std::string> headers = {"Fit", "Sheet"};
    if (grouped) headers.emplace_back("Group");
    headers.insert(headers.end(), {"Of", "Value", "Standard error"});
    std::vector<bool> numbers(headers.size(), false);
    numbers[headers.size() - 2] = numbers.back() = true;
    body_ += "<ul>\n";
    std::string before;
    for (const FitFacts& fit : facts_.fits) {
      if (fit.name == before) continue;
      before = fit.name;
      body_ += fmt::format("<li><code>{}</code>: {} of {} against {}</li>\n", escaped(fit.name),
                           escaped(fit.model), escaped(fit.y), escaped(fit.x));
    }
    body_ += "</ul>\n" + table_of("Fits", headers, rows, numbers);
  }

  void add_claims() {
    std::string rows;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const ClaimFacts& claim : sheet.claims) {
        const char* verdict = claim.broken > 0      ? "<span class=\"bad\">broken</span>"
                              : claim.undecided > 0 ? "holds where it is decided"
                                                    : "holds";
        rows += fmt::format(
            "<tr><td>{}</td><td>{}</td><td><code>{}</code></td><td>{}</td><td class=\"n\">{}</td>"
            "<td class=\"n\">{}</td><td class=\"n\">{}</td></tr>\n",
            escaped(sheet.name), escaped(claim.text), escaped(claim.condition), verdict, claim.held,
            claim.broken, claim.undecided);
      }
    }
    if (rows.empty()) return;
    section("claims", "Claims");
    body_ += scrolling(
        "Claims", "<thead>" +
                      row_of({"Sheet", "Claim", "Condition", "Verdict", "True", "False", "Undecided"}, "th",
                             {false, false, false, false, true, true, true}) +
                      "</thead>\n<tbody>\n" + rows + "</tbody>\n");
  }

  void add_tables() {
    section("sheets", "Sheets");
    body_ +=
        "<p class=\"quiet\">Derived numbers are shown with 6 digits; the files that were written hold "
        "more.</p>\n";
    for (const ReportTable& table : content_.tables) {
      body_ += heading(id_of("sheet", table.sheet), table.sheet, 3);
      if (table.rows.size() < table.total)
        body_ +=
            fmt::format("<p class=\"quiet\">The first {} of {} rows.</p>\n", table.rows.size(), table.total);
      std::string rows = "<thead>" + row_of(table.headers, "th", table.numbers) + "</thead>\n<tbody>\n";
      for (const std::vector<std::string>& row : table.rows) {
        rows += "<tr>";
        for (std::size_t i = 0; i < row.size(); ++i) {
          if (row[i].empty()) {
            rows += fmt::format("<td class=\"null{}\">null</td>", table.numbers[i] ? " n" : "");
          } else {
            rows += fmt::format("<td{}>{}</td>", table.numbers[i] ? " class=\"n\"" : "", escaped(row[i]));
          }
        }
        rows += "</tr>\n";
      }
      body_ += scrolling("First rows of " + table.sheet, rows + "</tbody>\n");
    }
  }

  void add_equations() {
    if (content_.equations.empty()) return;
    section("equations", "Equations");
    for (const ReportEquations& group : content_.equations) {
      const std::string sheets = fmt::format("{}", fmt::join(group.sheets, ", "));
      body_ += heading(id_of("equations", group.sheets.front()), sheets, 3);
      for (const ReportEquation& equation : group.equations) {
        body_ +=
            fmt::format("<div class=\"equation\"><p><strong>{}</strong>{}</p>\n", escaped(equation.label),
                        equation.unit.empty() ? "" : " [" + escaped(equation.unit) + "]");
        body_ += fmt::format(
            "<div class=\"scroll\" role=\"region\" tabindex=\"0\" aria-label=\"Equation of {}\">{}</div>\n",
            escaped(equation.name), equation.math);
        body_ += fmt::format("<p><code>{} = {}</code></p>\n", escaped(equation.name), escaped(equation.text));
        if (!equation.null_rule.empty())
          body_ += fmt::format("<p class=\"quiet\">Nulls: {}</p>\n", escaped(equation.null_rule));
        body_ += "</div>\n";
      }
    }
  }

  void add_gaps() {
    section("nulls", "Nulls and fills");
    std::vector<std::vector<std::string>> rows;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const auto* columns : {&sheet.measured, &sheet.taken, &sheet.derived}) {
        for (const ColumnFacts& column : *columns) {
          if (column.nulls.empty()) continue;
          rows.push_back({sheet.name, column.symbol, fmt::format("{} of {}", column.known, column.rows),
                          null_counts_text(column.nulls)});
        }
      }
    }
    if (rows.empty()) {
      body_ += "<p>No column has a null.</p>\n";
    } else {
      body_ += table_of("Nulls", {"Sheet", "Column", "Known", "Nulls by reason"}, rows, {});
    }
    std::vector<std::vector<std::string>> fills;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const FillFacts& fill : sheet.fills) {
        for (const auto& [rule, count] : fill.rules)
          fills.push_back({sheet.name, fill.symbol, rule, fmt::format("{} of {}", count, fill.gaps)});
      }
    }
    if (!fills.empty()) {
      body_ += heading("fills", "Fills", 3);
      body_ += table_of("Fills", {"Sheet", "Column", "Rule", "Gaps closed"}, fills, {});
    }
    std::string skipped;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const std::string& text : sheet.skipped)
        skipped += fmt::format("<li>{}: {}</li>\n", escaped(sheet.name), escaped(text));
      for (const std::string& text : sheet.selection)
        skipped += fmt::format("<li>{}: kept {}</li>\n", escaped(sheet.name), escaped(text));
    }
    if (!skipped.empty()) body_ += heading("left-out", "Left out", 3) + "<ul>\n" + skipped + "</ul>\n";
  }

  void add_methods() {
    section("methods", "For the methods section");
    body_ += fmt::format("<blockquote><p>{}</p></blockquote>\n", escaped(methods_text(content_)));
  }

  void add_record() {
    section("record", "Record");
    std::vector<std::vector<std::string>> rows;
    for (const InputFacts& input : facts_.inputs) rows.push_back({input.path, input.sha256});
    body_ += fmt::format("<p>Open Sum {}. The files that were read:</p>\n", kVersion);
    body_ += table_of("Files read", {"File", "SHA-256"}, rows, {});
    const NullPolicy& policy = facts_.policy;
    const auto rule = [](bool skips) { return skips ? "skip" : "propagate"; };
    body_ += table_of("Null policy", {"Nulls in", "are treated by"},
                      {{"row-wise reductions", rule(policy.row_skips)},
                       {"reductions down a column", rule(policy.column_skips)},
                       {"sequence functions", rule(policy.sequence_skips)},
                       {"a division by zero", policy.divide_by_zero_is_error ? "error" : "null"},
                       {"a value outside a function's domain", policy.domain_is_error ? "error" : "null"}},
                      {});
  }

  const ReportContent& content_;
  const RunFacts& facts_;
  std::string body_;
  std::vector<std::pair<std::string, std::string>> contents_;
};

}  // namespace

std::string page_html(const ReportContent& content) { return PageWriter(content).run(); }

}  // namespace opensum
