// What a run tells, in short: a line for what was read and derived, then all that needs attention.
#include "report/summary.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/unicode.h"
#include "report/folded.h"
#include "report/words.h"
#include "table/like_names.h"

namespace opensum {

ColumnFacts column_facts(const Column& column, const NullCounts& nulls) {
  ColumnFacts facts;
  facts.symbol = column.symbol;
  facts.label = column.label;
  facts.kind = kind_name(column.kind);
  facts.unit = column.kind == Kind::number ? column.unit.text() : facts.kind;
  facts.rows = column.rows;
  for (std::size_t reason = 0; reason < nulls.size(); ++reason) {
    if (nulls.at(reason) > 0) facts.nulls[reason_name(static_cast<Reason>(reason))] = nulls.at(reason);
  }
  facts.known = facts.rows;
  for (const auto& [reason, count] : facts.nulls) facts.known -= count;
  return facts;
}

std::vector<ColumnFacts> told_together(const std::vector<ColumnFacts>& columns) {
  std::vector<ColumnFacts> all;
  for (std::size_t i = 0; i < columns.size();) {
    std::size_t end = i + 1;
    while (end < columns.size() && columns[end].unit == columns[i].unit &&
           form_of_name(columns[end].symbol) == form_of_name(columns[i].symbol))
      ++end;
    if (end - i < kManyAlike) end = i + 1;
    ColumnFacts& one = all.emplace_back(columns[i]);
    for (std::size_t k = i + 1; k < end; ++k) {
      one.rows += columns[k].rows;
      one.known += columns[k].known;
      for (const auto& [reason, count] : columns[k].nulls) one.nulls[reason] += count;
    }
    if (end > i + 1)
      one.symbol = fmt::format("{} … {} ({} columns)", columns[i].symbol, columns[end - 1].symbol, end - i);
    i = end;
  }
  return all;
}

namespace {

// The columns that have nulls: those with the same ones together, `rise, share 1 too_few`.
std::vector<std::string> null_items(const std::vector<ColumnFacts>& columns) {
  std::vector<std::pair<std::string, std::vector<std::string>>> groups;
  for (const ColumnFacts& column : told_together(columns)) {
    if (column.known == column.rows || !column.used) continue;
    const std::string nulls = null_counts_text(column.nulls);
    const auto same =
        std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.first == nulls; });
    if (same == groups.end()) {
      groups.push_back({nulls, {column.symbol}});
    } else {
      same->second.push_back(column.symbol);
    }
  }
  std::vector<std::string> items;
  items.reserve(groups.size());
  for (const auto& [nulls, symbols] : groups)
    items.push_back(
        fmt::format("{} ({}{})", fmt::join(symbols, ", "), nulls, symbols.size() > 1 ? " each" : ""));
  return items;
}

// What a sheet was made from and what was derived, in a line.
std::string sheet_line(const SheetFacts& sheet, std::size_t width) {
  std::string line =
      fmt::format("{}{}  {} {}", sheet.name, std::string(width - display_width(sheet.name), ' '),
                  counted(sheet.rows, "row"), sheet.rows_of.empty() ? "from " + sheet.file : sheet.rows_of);
  if (!sheet.measured.empty()) line += fmt::format(": {}", counted(sheet.measured.size(), "column"));
  if (!sheet.derived.empty())
    line += fmt::format("{} {} derived", sheet.measured.empty() ? ":" : ",", sheet.derived.size());
  const auto hold = static_cast<std::size_t>(
      std::count_if(sheet.claims.begin(), sheet.claims.end(),
                    [](const ClaimFacts& c) { return c.broken + c.undecided == 0; }));
  if (hold > 0) line += fmt::format(", {} hold{}", counted(hold, "claim"), hold == 1 ? "s" : "");
  return folded(line, width + 2);
}

std::string fill_text(const FillFacts& fill) {
  std::size_t closed = 0;
  for (const auto& rule : fill.rules) closed += rule.second;
  std::string text = fmt::format("{} {} of {}", fill.symbol, closed, fill.gaps);
  if (!fill.left.empty()) text += fmt::format(" (left: {})", null_counts_text(fill.left));
  return text;
}

std::string claim_text(const ClaimFacts& claim, std::size_t rows) {
  std::string text = fmt::format(
      "  claim \"{}\" {}: true in {} of {} rows", claim.text,
      claim.broken > 0 ? claim.warning ? "broken (a warning)" : "BROKEN" : "undecided", claim.held, rows);
  if (claim.broken > 0) text += fmt::format(", false in {}", claim.broken);
  if (claim.undecided > 0) text += fmt::format(", undecided in {}", claim.undecided);
  return folded(text, 4);
}

// All of a sheet that is not as one would have it.
std::string attention_text(const SheetFacts& sheet) {
  std::string out;
  for (std::size_t i = 0; i < sheet.selection.size(); ++i)
    out += (i == 0 ? "  kept: " : "        ") + sheet.selection[i] + '\n';
  const auto add = [&](const std::string& what, const std::vector<std::string>& items) {
    if (!items.empty()) out += folded(fmt::format("  {}: {}", what, fmt::join(items, "; ")), 4);
  };
  add("no unit stated", sheet.without_unit.empty()
                            ? std::vector<std::string>{}
                            : std::vector<std::string>{listed_names(sheet.without_unit)});
  add("null as measured", null_items(sheet.rows_of.empty() ? sheet.measured : sheet.taken));
  std::vector<std::string> filled;
  for (const FillFacts& fill : sheet.fills) filled.push_back(fill_text(fill));
  add("gaps filled", filled);
  std::vector<std::string> links;
  for (const LinkFacts& link : sheet.links) {
    if (link.unmatched.empty()) continue;
    links.push_back(fmt::format("{} ({})", link.name, null_counts_text(link.unmatched)));
  }
  add("no row found in", links);
  add("null in derived", null_items(sheet.derived));
  add("uncertainty not known", sheet.uncertainty_unknown);
  add("nulls left out", sheet.skipped);
  for (const ClaimFacts& claim : sheet.claims) {
    if (claim.broken + claim.undecided > 0) out += claim_text(claim, sheet.rows);
  }
  return out.empty() ? out : sheet.name + '\n' + out;
}

// The files that were written: tables and figures by name and format, the others as they are called.
std::string written_text(const std::vector<std::string>& written) {
  if (written.empty()) return {};
  const std::string folder = written.front().substr(0, written.front().rfind('/') + 1);
  struct Kind {
    std::vector<std::string> names;
    std::vector<std::string> endings;
  };
  Kind tables;
  Kind figures;
  std::vector<std::string> others;
  const auto add = [](std::vector<std::string>& to, const std::string& text) {
    if (std::find(to.begin(), to.end(), text) == to.end()) to.push_back(text);
  };
  const std::string metadata = ".csv-metadata.json";
  for (const std::string& path : written) {
    const std::string name = path.starts_with(folder) ? path.substr(folder.size()) : path;
    const std::size_t point = std::min(name.rfind('.'), name.size());
    if (name.ends_with(metadata)) {
      add(tables.names, name.substr(0, name.size() - metadata.size()));
    } else if (name.starts_with("figures/")) {
      add(figures.names, name.substr(std::string("figures/").size(), point - std::string("figures/").size()));
      add(figures.endings, name.substr(point + 1));
    } else {
      others.push_back(name);
    }
  }
  // What is said by the name of its table is not said again.
  std::erase_if(others, [&](const std::string& name) {
    return name.ends_with(".csv") && std::find(tables.names.begin(), tables.names.end(),
                                               name.substr(0, name.rfind('.'))) != tables.names.end();
  });
  std::string out = "written to " + folder + "\n";
  const auto named = [&](const char* what, Kind& kind, const std::string& endings) {
    if (kind.names.empty()) return;
    out += folded(fmt::format("  {:<8} {} ({})", what, fmt::join(kind.names, ", "), endings), 11);
  };
  named("tables", tables, "csv with metadata");
  named("figures", figures, fmt::format("{}", fmt::join(figures.endings, ", ")));
  if (!others.empty()) out += folded(fmt::format("  also     {}", fmt::join(others, ", ")), 11);
  return out;
}

}  // namespace

std::string summary_text(const RunFacts& facts) {
  std::string out;
  if (!facts.title.empty()) out += facts.title + "\n\n";
  for (const std::string& change : facts.changes) out += change + '\n';
  if (!facts.changes.empty()) out += '\n';
  std::size_t width = 0;
  for (const SheetFacts& sheet : facts.sheets) width = std::max(width, display_width(sheet.name));
  for (const SheetFacts& sheet : facts.sheets) out += sheet_line(sheet, width);
  std::string attention;
  for (const SheetFacts& sheet : facts.sheets) attention += attention_text(sheet);
  if (!attention.empty()) out += '\n' + attention;
  if (!facts.fits.empty()) out += '\n' + fits_text(facts.fits);
  if (facts.sampling) out += '\n' + sampling_text(*facts.sampling);
  if (!facts.notes.empty()) out += '\n';
  for (const std::string& note : facts.notes) out += note + '\n';
  out += (out.empty() ? "" : "\n") + written_text(facts.written);
  for (const std::string& rows : facts.computed_there) out += "computed in its database: " + rows + '\n';
  for (const std::string& table : facts.tables) out += "table written: " + table + '\n';
  if (!facts.left_as_was.empty())
    out += folded(fmt::format("left as it was: {}", fmt::join(facts.left_as_was, ", ")), 2);
  return out;
}

}  // namespace opensum
