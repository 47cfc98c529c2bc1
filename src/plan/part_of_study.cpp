// What of a study is needed for a part of it. An equation names another sheet as `sheet.column`, by a link or
// as it is, and a fit as `fit.name` or as the first argument of fit_value and its kin. What looks like such a
// name and is none only costs work; nothing that is needed can be left out.
#include "plan/part_of_study.h"

#include <fmt/format.h>

#include <algorithm>

#include "equation/lexer.h"
#include "message/nearest.h"

namespace opensum {
namespace {

template <typename Model>
const Model* find_named(const std::vector<Model>& models, const std::string& name) {
  const auto found =
      std::find_if(models.begin(), models.end(), [&](const Model& model) { return model.name == name; });
  return found == models.end() ? nullptr : &*found;
}

class Needs {
 public:
  explicit Needs(const Study& study) : study_(study) {}

  void add_sheet(const std::string& name) {
    const SheetModel* sheet = find_named(study_.sheets, name);
    if (sheet == nullptr || !sheets.insert(name).second) return;
    if (sheet->rows_of) add_sheet(sheet->rows_of->text());
    for (const LinkModel& link : sheet->links) {
      add_sheet(link.sheet ? link.sheet->text() : link.name.text());
      add_all_in(link.match);
    }
    for (const FillModel& fill : sheet->fills) add_all_in(fill.rules);
    for (const Lines& lines : sheet->equations) add_all_in(lines.text);
    for (const Lines& lines : sheet->claims) add_all_in(lines.text);
    if (sheet->keep) add_all_in(*sheet->keep);
    add_all_in(study_.formulas);
  }

  void add_fit(const std::string& name) {
    const FitModel* fit = find_named(study_.fits, name);
    if (fit == nullptr || !fits.insert(name).second) return;
    add_sheets_of(fit->sheets);
    add_all_in(fit->model);
    for (const auto& start : fit->start) add_all_in(start.second);
    if (fit->keep) add_all_in(*fit->keep);
  }

  void add_plot(const std::string& name) {
    const PlotModel* plot = find_named(study_.plots, name);
    if (plot == nullptr || !plots.insert(name).second) return;
    for (const Passage& panel : plot->panels) add_plot(panel.text());
    if (!plot->panels.empty()) return;
    std::vector<Passage> sheets_of_series;
    for (const SeriesModel& series : plot->series) {
      if (series.sheet) sheets_of_series.push_back(*series.sheet);
      if (series.fit) add_fit(series.fit->text());
    }
    if (plot->fit) add_fit(plot->fit->text());
    const bool each_has_one = !plot->series.empty() && sheets_of_series.size() == plot->series.size();
    if (!plot->sheets.empty() || !each_has_one) add_sheets_of(plot->sheets);
    for (const Passage& sheet : sheets_of_series) add_sheet(sheet.text());
    if (plot->curve) add_all_in(*plot->curve);
    if (plot->keep) add_all_in(*plot->keep);
  }

  std::set<std::string> sheets;
  std::set<std::string> fits;
  std::set<std::string> plots;

 private:
  // All of them where none is named.
  void add_sheets_of(const std::vector<Passage>& named) {
    for (const Passage& name : named) add_sheet(name.text());
    if (!named.empty()) return;
    for (const SheetModel& sheet : study_.sheets) add_sheet(sheet.name);
  }

  void add_all_in(const std::vector<Passage>& passages) {
    for (const Passage& passage : passages) add_all_in(passage);
  }

  // The sheets and fits that a text names.
  void add_all_in(const Passage& passage) {
    Diagnostics reported_later;
    const std::vector<Token> tokens = tokenize(passage, reported_later);
    const auto is_name = [&](std::size_t i) {
      return i < tokens.size() &&
             (tokens[i].kind == TokenKind::name || tokens[i].kind == TokenKind::quoted_name);
    };
    const auto kind = [&](std::size_t i) { return i < tokens.size() ? tokens[i].kind : TokenKind::end; };
    for (std::size_t i = 0; i < tokens.size(); ++i) {
      if (!is_name(i)) continue;
      if (kind(i + 1) == TokenKind::dot) {
        add_sheet(tokens[i].text);
        if (tokens[i].text == "fit" && is_name(i + 2)) add_fit(tokens[i + 2].text);
      }
      if (kind(i + 1) == TokenKind::open && tokens[i].text.starts_with("fit_") && is_name(i + 2))
        add_fit(tokens[i + 2].text);
    }
  }

  const Study& study_;
};

// What a name is asked for: `sheet.duty`, `fit.line`, `plot.duty`, or alone where only one is called so.
void choose(const Study& study, const Passage& wanted, PartOfStudy& part, Diagnostics& diagnostics) {
  struct Sort {
    std::string prefix;
    std::vector<std::string> names;
    std::set<std::string>* into;
  };
  std::vector<Sort> sorts = {
      {"sheet.", {}, &part.sheets}, {"fit.", {}, &part.fits}, {"plot.", {}, &part.plots}};
  for (const SheetModel& sheet : study.sheets) sorts[0].names.push_back(sheet.name);
  for (const FitModel& fit : study.fits) sorts[1].names.push_back(fit.name);
  for (const PlotModel& plot : study.plots) sorts[2].names.push_back(plot.name);
  const std::string& name = wanted.text();
  std::vector<std::string> meant;
  std::vector<std::string> known;
  for (const Sort& sort : sorts) {
    for (const std::string& own : sort.names) {
      known.push_back(own);
      if (name != own && name != sort.prefix + own) continue;
      meant.push_back(sort.prefix + own);
      sort.into->insert(own);
    }
  }
  if (meant.empty()) {
    diagnostics.add(Code::only_unknown, wanted.place(), {name, nearest_name(name, known)});
  } else if (meant.size() > 1) {
    diagnostics.add(Code::only_ambiguous, wanted.place(),
                    {name, fmt::format("{}", fmt::join(meant, ", ")), meant.front()});
  }
}

}  // namespace

PartOfStudy take_part(Study& study, const std::vector<Passage>& wanted, Diagnostics& diagnostics) {
  PartOfStudy part;
  for (const Passage& name : wanted) choose(study, name, part, diagnostics);
  // What is not asked for is not tested.
  for (SheetModel& sheet : study.sheets) {
    if (part.sheets.contains(sheet.name)) continue;
    sheet.claims.clear();
    sheet.write.emplace();
  }
  Needs needs(study);
  for (const std::string& name : part.sheets) needs.add_sheet(name);
  for (const std::string& name : part.fits) needs.add_fit(name);
  for (const std::string& name : part.plots) needs.add_plot(name);
  std::erase_if(study.sheets, [&](const SheetModel& sheet) { return !needs.sheets.contains(sheet.name); });
  std::erase_if(study.fits, [&](const FitModel& fit) { return !needs.fits.contains(fit.name); });
  std::erase_if(study.plots, [&](const PlotModel& plot) { return !needs.plots.contains(plot.name); });
  study.budgets.clear();
  return part;
}

}  // namespace opensum
