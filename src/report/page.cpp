// The report page, built as a tree of elements.
#include "report/page.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <pugixml.hpp>

#include "base/sentence.h"
#include "base/unicode.h"
#include "files/xml_text.h"
#include "report/mathml.h"
#include "report/methods.h"
#include "report/words.h"
#include "table/value_with_error.h"
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
.drawing { background: #ffffff; border: 1px solid var(--rule); padding: .4rem; }
figure svg { display: block; width: 100%; height: auto; }
td:not(.n) { min-width: 4.5rem; }
figcaption { margin-top: .4rem; color: var(--quiet); font-size: .92rem; }
.equation { margin: 1rem 0; padding: .7rem .9rem; background: var(--card); border-left: 3px solid var(--accent); }
.equation p { margin: .2rem 0; }
.equation math { margin: .5rem 0; text-align: left; font-size: 1.15rem; }
code, pre { font-family: "Liberation Mono", Menlo, Consolas, monospace; font-size: .88rem; overflow-wrap: anywhere; }
blockquote { margin: 0; padding: .8rem 1rem; background: var(--card); border: 1px solid var(--rule); overflow-wrap: anywhere; }
.skip { position: absolute; left: -100rem; } .skip:focus { left: 1rem; }
:focus-visible { outline: 2px solid var(--accent); outline-offset: 2px; }
.paper { display: none; }
@media (max-width: 34rem) { body { padding: 1rem .8rem 3rem; } figure { margin: 1.2rem -.8rem; }
  .drawing { padding: .2rem 0; border-width: 1px 0; } figcaption { padding: 0 .8rem; } }
@media print { html { background: #ffffff; color: #000000; font-size: 10pt; } nav, .skip { display: none; }
  body { max-width: none; padding: 0; } p, ul, dl { max-width: none; }
  .scroll { overflow: visible; } .wide { display: none; } .paper { display: block; }
  td, th { overflow-wrap: anywhere; padding-right: .5rem; } td:not(.n) { min-width: 0; } tr { break-inside: avoid; }
  h2, h3 { break-after: avoid; } figure, .equation { break-inside: avoid; }
  .long math { display: none; } }
)css";

using Element = pugi::xml_node;

// What stands in an element: attributes by name, then a text.
using Attributes = std::vector<std::pair<const char*, std::string>>;

void add_text(Element in, const std::string& text) {
  in.append_child(pugi::node_pcdata).set_value(text.c_str());
}

Element add(Element in, const char* tag, const std::string& text = "", const Attributes& attributes = {}) {
  Element element = in.append_child(tag);
  for (const auto& [name, value] : attributes) element.append_attribute(name).set_value(value.c_str());
  if (!text.empty()) add_text(element, text);
  return element;
}

// An element after which the page's source goes on in a new line.
Element add_line(Element in, const char* tag, const std::string& text = "",
                 const Attributes& attributes = {}) {
  const Element element = add(in, tag, text, attributes);
  add_text(in, "\n");
  return element;
}

void add_heading(Element in, const std::string& id, const std::string& words, int level) {
  const std::string tag = fmt::format("h{}", level);
  add(add_line(in, tag.c_str(), "", {{"id", id}}), "a", words, {{"href", "#" + id}});
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

// Something wide, which scrolls by itself where the page is narrow; the keyboard reaches it.
Element add_scrolling(Element in, const std::string& what) {
  return add_line(in, "div", "",
                  {{"class", "scroll"}, {"role", "region"}, {"tabindex", "0"}, {"aria-label", what}});
}

// A table with its headers, and its body for rows.
Element add_table(Element in, const std::string& what, const std::vector<std::string>& headers,
                  const std::vector<bool>& numbers) {
  const Element table = add(add_scrolling(in, what), "table", "\n");
  const Element row = add(add_line(table, "thead"), "tr");
  for (std::size_t i = 0; i < headers.size(); ++i) {
    Element cell = add(row, "th", headers[i], {{"scope", "col"}});
    if (i < numbers.size() && numbers[i]) cell.append_attribute("class").set_value("n");
  }
  return add_line(table, "tbody", "\n");
}

void add_cell(Element row, const std::string& text, bool number) {
  const Element cell = add(row, "td", text, number ? Attributes{{"class", "n"}} : Attributes{});
  // An empty text, too, so that the cell keeps its end tag.
  if (text.empty()) add_text(cell, text);
}

void add_table_of(Element in, const std::string& what, const std::vector<std::string>& headers,
                  const std::vector<std::vector<std::string>>& rows, const std::vector<bool>& numbers) {
  const Element body = add_table(in, what, headers, numbers);
  for (const std::vector<std::string>& cells : rows) {
    const Element row = add_line(body, "tr");
    for (std::size_t i = 0; i < cells.size(); ++i) add_cell(row, cells[i], i < numbers.size() && numbers[i]);
  }
}

class PageWriter {
 public:
  PageWriter(const ReportContent& content, int reload)
      : content_(content), facts_(content.facts), reload_(reload) {}

  std::string run() {
    page_.append_child(pugi::node_doctype).set_value("html");
    const Element html = add(page_, "html", "\n", {{"lang", "en"}});
    const std::string title = facts_.title.empty() ? "Open Sum report" : facts_.title;
    const Element head = add_line(html, "head", "\n");
    add_line(head, "meta", "", {{"charset", "utf-8"}});
    add_line(head, "meta", "", {{"name", "viewport"}, {"content", "width=device-width, initial-scale=1"}});
    if (reload_ > 0)
      add_line(head, "meta", "", {{"http-equiv", "refresh"}, {"content", std::to_string(reload_)}});
    add_line(head, "title", title);
    add_line(head, "style", kStyle);
    const Element body = add_line(html, "body", "\n");
    add_line(body, "a", "Skip to the content", {{"class", "skip"}, {"href", "#content"}});
    const Element header = add_line(body, "header");
    add_line(header, "h1", title);
    add(header, "p", abstract(), {{"class", "quiet"}});
    for (const std::string& change : facts_.changes)
      add(header, "p", sentence_case(change) + ".", {{"class", "bad"}});
    contents_ = add(add_line(body, "nav", "", {{"aria-label", "Contents"}}), "ul");
    main_ = add_line(body, "main", "\n", {{"id", "content"}});
    add_figures();
    add_fits();
    add_budgets();
    add_claims();
    add_tables();
    add_equations();
    add_gaps();
    add_methods();
    add_record();
    return xml_text(page_, XmlDeclaration::none);
  }

 private:
  void section(const std::string& id, const std::string& words) {
    add(add_line(contents_, "li"), "a", words, {{"href", "#" + id}});
    add_heading(main_, id, words, 2);
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
    std::size_t number = 0;
    for (const ReportFigure& figure : content_.figures) {
      const std::string name = figure.title.empty() ? figure.name : figure.title;
      add_heading(main_, id_of("figure", figure.name), name, 3);
      const Element place = add_line(main_, "figure");
      Element drawing = add(add_scrolling(place, "Figure: " + name), "div", "",
                            {{"class", "drawing"}, {"role", "img"}, {"aria-label", figure.description}});
      pugi::xml_document svg;
      svg.load_buffer(figure.svg.data(), figure.svg.size());
      drawing.append_copy(svg.document_element());
      std::string caption = fmt::format("Figure {}. {}", ++number, figure.caption);
      for (const std::string& note : figure.notes) caption += fmt::format(" {}.", sentence_case(note));
      add(place, "figcaption", caption);
    }
  }

  void add_fits() {
    if (facts_.fits.empty()) return;
    section("fits", "Fits");
    const bool grouped = std::any_of(facts_.fits.begin(), facts_.fits.end(),
                                     [](const FitFacts& fit) { return !fit.group.empty(); });
    std::vector<std::vector<std::string>> rows;
    for (const FitFacts& fit : facts_.fits) {
      const auto add = [&](const std::string& what, const std::string& value) {
        std::vector<std::string> row = {fit.name, fit.sheet};
        if (grouped) row.push_back(fit.group);
        row.insert(row.end(), {what, value});
        rows.push_back(std::move(row));
      };
      for (const FitFacts::Parameter& p : fit.parameters)
        add(p.name, p.value ? with_unit(value_with_error(*p.value, p.standard_error), p.unit) : "no value");
      if (fit.r2) add("r²", share_text(*fit.r2));
      if (fit.r) add("correlation r", share_text(*fit.r));
      if (fit.residual_sd)
        add("residual standard deviation", with_unit(number_text(*fit.residual_sd, 3), fit.y_unit));
      if (fit.reduced_chi2) add("reduced χ²", number_text(*fit.reduced_chi2, 3));
      add("points", std::to_string(fit.points));
    }
    std::vector<std::string> headers = {"Fit", "Sheet"};
    if (grouped) headers.emplace_back("Group");
    headers.insert(headers.end(), {"Of", "Value"});
    std::vector<bool> numbers(headers.size(), false);
    numbers.back() = true;
    const Element list = add_line(main_, "ul", "\n");
    std::string before;
    for (const FitFacts& fit : facts_.fits) {
      if (fit.name == before) continue;
      before = fit.name;
      const Element item = add_line(list, "li");
      add(item, "code", fit.name);
      add_text(item, fmt::format(": {} of {} against {}", fit.model, fit.y, fit.x));
    }
    add_line(main_, "p",
             "The digits in brackets are the standard error, in the last digits of the value: 2.933(35) is "
             "2.933 with a standard error of 0.035.",
             {{"class", "quiet"}});
    add_table_of(main_, "Fits", headers, rows, numbers);
  }

  void add_budgets() {
    if (facts_.budgets.empty()) return;
    section("budgets", "Uncertainty budgets");
    add_line(main_, "p",
             "Where the standard uncertainty of a value comes from: each source with its own standard "
             "uncertainty, how "
             "much the value moves with it, and its share of the variance.",
             {{"class", "quiet"}});
    for (const Budget& budget : facts_.budgets) {
      add_heading(main_, id_of("budget", budget.of), budget.of, 3);
      if (budget.lines.empty()) {
        add_line(main_, "p", "Its uncertainty is not known, or nothing.");
        continue;
      }
      std::string said = fmt::format("{}, standard uncertainty {}", budget.value, budget.uncertainty);
      if (!budget.expanded.empty()) said += "; expanded " + budget.expanded;
      add_line(main_, "p", said + ".");
      std::vector<std::vector<std::string>> rows;
      for (const BudgetLine& line : budget.lines)
        rows.push_back({line.source, line.own, line.sensitivity, line.contribution,
                        fmt::format("{:.1f} %", 100 * line.share)});
      add_table_of(main_, "Budget of " + budget.of,
                   {"Source", "Standard uncertainty", "Sensitivity", "Contribution", "Share of the variance"},
                   rows, {false, true, true, true, true});
    }
  }

  void add_claims() {
    const bool any = std::any_of(facts_.sheets.begin(), facts_.sheets.end(),
                                 [](const SheetFacts& sheet) { return !sheet.claims.empty(); });
    if (!any) return;
    section("claims", "Claims");
    const Element body =
        add_table(main_, "Claims", {"Sheet", "Claim", "Condition", "Verdict", "True", "False", "Undecided"},
                  {false, false, false, false, true, true, true});
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const ClaimFacts& claim : sheet.claims) {
        const Element row = add_line(body, "tr");
        add_cell(row, sheet.name, false);
        add_cell(row, claim.text, false);
        add(add(row, "td"), "code", claim.condition);
        if (claim.broken > 0) {
          add(add(row, "td"), "span", "broken", {{"class", "bad"}});
        } else {
          add_cell(row, claim.undecided > 0 ? "holds where it is decided" : "holds", false);
        }
        for (const std::size_t count : {claim.held, claim.broken, claim.undecided})
          add_cell(row, std::to_string(count), true);
      }
    }
  }

  void add_tables() {
    section("sheets", "Sheets");
    add_line(main_, "p", "Derived numbers are shown with 6 digits; the files that were written hold more.",
             {{"class", "quiet"}});
    for (const ReportTable& table : content_.tables) {
      add_heading(main_, id_of("sheet", table.sheet), table.sheet, 3);
      if (table.rows.size() < table.total) {
        add_line(main_, "p", fmt::format("The first {} of {} rows.", table.rows.size(), table.total),
                 {{"class", "quiet"}});
      }
      add_first_rows(table);
    }
  }

  // On paper a table that is wider than that is cut into parts, each of which begins with the first column.
  void add_first_rows(const ReportTable& table) {
    const std::string what = "First rows of " + table.sheet;
    const std::vector<std::vector<std::size_t>> parts = parts_for_paper(table);
    std::vector<std::size_t> all(table.headers.size());
    std::iota(all.begin(), all.end(), 0);
    if (parts.size() < 2) return add_part(main_, what, table, all);
    add_part(add_line(main_, "div", "", {{"class", "wide"}}), what, table, all);
    const Element paper = add_line(main_, "div", "", {{"class", "paper"}, {"aria-hidden", "true"}});
    for (const std::vector<std::size_t>& part : parts) add_part(paper, what, table, part);
  }

  static std::vector<std::vector<std::size_t>> parts_for_paper(const ReportTable& table) {
    constexpr std::size_t kPaper = 92;  // letters in a line of the table
    constexpr std::size_t kBetween = 3;
    constexpr std::size_t kWord = 16;  // headers are broken between words
    std::vector<std::size_t> widths;
    for (std::size_t i = 0; i < table.headers.size(); ++i) {
      std::size_t width = std::min(kWord, display_width(table.headers[i]));
      for (const std::vector<std::string>& cells : table.rows)
        width = std::max(width, display_width(cells[i]));
      widths.push_back(width + kBetween);
    }
    std::vector<std::vector<std::size_t>> parts;
    std::size_t used = 0;
    for (std::size_t i = 0; i < widths.size(); ++i) {
      if (parts.empty() || used + widths[i] > kPaper) {
        parts.emplace_back();
        used = 0;
        if (i > 0) {
          parts.back().push_back(0);
          used = widths[0];
        }
      }
      parts.back().push_back(i);
      used += widths[i];
    }
    return parts;
  }

  // Some columns of the first rows of a sheet.
  static void add_part(Element in, const std::string& what, const ReportTable& table,
                       const std::vector<std::size_t>& columns) {
    std::vector<std::string> headers;
    std::vector<bool> numbers;
    for (const std::size_t i : columns) {
      headers.push_back(table.headers[i]);
      numbers.push_back(table.numbers[i]);
    }
    const Element body = add_table(in, what, headers, numbers);
    for (const std::vector<std::string>& cells : table.rows) {
      const Element row = add_line(body, "tr");
      for (const std::size_t i : columns) {
        if (cells[i].empty()) {
          add(row, "td", "null", {{"class", table.numbers[i] ? "null n" : "null"}});
        } else {
          add_cell(row, cells[i], table.numbers[i]);
        }
      }
    }
  }

  void add_equations() {
    if (content_.equations.empty()) return;
    section("equations", "Equations");
    for (const ReportEquations& group : content_.equations) {
      add_heading(main_, id_of("equations", group.sheets.front()),
                  fmt::format("{}", fmt::join(group.sheets, ", ")), 3);
      for (const ReportEquation& equation : group.equations) add_equation(equation);
    }
  }

  void add_equation(const ReportEquation& equation) {
    // A line of paper holds so many letters of an equation; longer ones stand below in plain letters.
    constexpr std::size_t kLong = 80;
    const bool is_long = display_width(equation.text) > kLong;
    const Element place = add_line(main_, "div", "", {{"class", is_long ? "equation long" : "equation"}});
    const Element label = add_line(place, "p");
    add_text(label, fmt::format("({}) ", equation.number));
    add(label, "strong", equation.label);
    if (!equation.unit.empty()) add_text(label, " [" + equation.unit + "]");
    add_mathml(add_scrolling(place, "Equation of " + equation.name), equation.name, *equation.expression);
    add(add_line(place, "p"), "code", equation.name + " = " + equation.text);
    if (!equation.null_rule.empty())
      add_line(place, "p", "Nulls: " + equation.null_rule, {{"class", "quiet"}});
  }

  void add_gaps() {
    section("nulls", "Nulls and fills");
    std::vector<std::vector<std::string>> rows;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const auto* columns : {&sheet.measured, &sheet.taken, &sheet.derived}) {
        for (const ColumnFacts& column : *columns) {
          if (column.nulls.empty() || !column.used) continue;
          rows.push_back({sheet.name, column.symbol, fmt::format("{} of {}", column.known, column.rows),
                          null_counts_text(column.nulls)});
        }
      }
    }
    if (rows.empty()) {
      add_line(main_, "p", "No column has a null.");
    } else {
      add_table_of(main_, "Nulls", {"Sheet", "Column", "Known", "Nulls by reason"}, rows, {});
    }
    std::vector<std::vector<std::string>> fills;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const FillFacts& fill : sheet.fills) {
        for (const auto& [rule, count] : fill.rules)
          fills.push_back({sheet.name, fill.symbol, rule, fmt::format("{} of {}", count, fill.gaps)});
      }
    }
    if (!fills.empty()) {
      add_heading(main_, "fills", "Fills", 3);
      add_table_of(main_, "Fills", {"Sheet", "Column", "Rule", "Gaps closed"}, fills, {});
    }
    std::vector<std::string> left_out;
    for (const SheetFacts& sheet : facts_.sheets) {
      for (const std::string& text : sheet.skipped) left_out.push_back(sheet.name + ": " + text);
      for (const std::string& text : sheet.selection) left_out.push_back(sheet.name + ": kept " + text);
    }
    if (left_out.empty()) return;
    add_heading(main_, "left-out", "Left out", 3);
    const Element list = add_line(main_, "ul");
    for (const std::string& text : left_out) add(list, "li", text);
  }

  void add_methods() {
    section("methods", "For the methods section");
    add(add_line(main_, "blockquote"), "p", methods_text(content_));
  }

  void add_record() {
    section("record", "Record");
    std::vector<std::vector<std::string>> rows;
    for (const InputFacts& input : facts_.inputs) rows.push_back({input.path, input.sha256});
    add_line(main_, "p", fmt::format("Open Sum {}. The files that were read:", kVersion));
    add_table_of(main_, "Files read", {"File", "SHA-256"}, rows, {});
    const NullPolicy& policy = facts_.policy;
    const auto rule = [](bool skips) { return skips ? "skip" : "propagate"; };
    add_table_of(main_, "Null policy", {"Nulls in", "are treated by"},
                 {{"row-wise reductions", rule(policy.row_skips)},
                  {"reductions down a column", rule(policy.column_skips)},
                  {"sequence functions", rule(policy.sequence_skips)},
                  {"a division by zero", policy.divide_by_zero_is_error ? "error" : "null"},
                  {"a value outside a function's domain", policy.domain_is_error ? "error" : "null"}},
                 {});
  }

  const ReportContent& content_;
  const RunFacts& facts_;
  int reload_;
  pugi::xml_document page_;
  Element contents_;  ///< the list of sections
  Element main_;
};

}  // namespace

std::string page_html(const ReportContent& content, int reload) { return PageWriter(content, reload).run(); }

}  // namespace opensum
