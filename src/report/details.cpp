// What a run tells, in full: every column, rule, link and file.
#include <fmt/format.h>

#include <algorithm>

#include "base/unicode.h"
#include "report/summary.h"
#include "table/like_names.h"

namespace opensum {
namespace {

std::string padded(const std::string& text, std::size_t width) {
  const std::size_t own = display_width(text);
  return text + std::string(width > own ? width - own : 0, ' ');
}

void append_columns(std::string& out, const std::vector<ColumnFacts>& all) {
  const std::vector<ColumnFacts> columns = told_together(all);
  std::size_t name = 0;
  std::size_t unit = 0;
  for (const ColumnFacts& column : columns) {
    name = std::max(name, display_width(column.symbol));
    unit = std::max(unit, display_width(column.unit));
  }
  for (const ColumnFacts& column : columns) {
    out += fmt::format("    {}  {}  {} of {} known", padded(column.symbol, name), padded(column.unit, unit),
                       column.known, column.rows);
    const std::string nulls = null_counts_text(column.nulls);
    if (!nulls.empty()) out += "; null: " + nulls;
    out += '\n';
  }
}

// How many columns there are, and those that have nulls.
void append_gaps(std::string& out, const char* what, const std::vector<ColumnFacts>& columns) {
  std::vector<ColumnFacts> gaps;
  for (const ColumnFacts& column : columns) {
    if (column.known < column.rows) gaps.push_back(column);
  }
  out += fmt::format("  {}: {} column{}{}\n", what, columns.size(), columns.size() == 1 ? "" : "s",
                     gaps.empty() ? ", no nulls" : fmt::format(", {} with nulls", gaps.size()));
  append_columns(out, gaps);
}

void append_fills(std::string& out, const std::vector<FillFacts>& fills) {
  if (!fills.empty()) out += "  filled:\n";
  for (const FillFacts& fill : fills) {
    std::size_t closed = 0;
    for (const auto& rule : fill.rules) closed += rule.second;
    out += fmt::format("    {}: {} of {} gap{}\n", fill.symbol, closed, fill.gaps, fill.gaps == 1 ? "" : "s");
    for (const auto& [rule, count] : fill.rules) out += fmt::format("      {} by {}\n", count, rule);
    if (!fill.left.empty()) {
      out += fmt::format("      {} left, for the rule gave null there: {}\n", fill.gaps - closed,
                         null_counts_text(fill.left));
    }
  }
}

void append_claims(std::string& out, const std::vector<ClaimFacts>& claims, std::size_t rows) {
  if (!claims.empty()) out += "  claims:\n";
  for (const ClaimFacts& claim : claims) {
    const char* verdict = claim.broken > 0      ? claim.warning ? "broken (a warning)" : "BROKEN"
                          : claim.undecided > 0 ? "holds where it is decided"
                                                : "holds";
    out += fmt::format("    \"{}\" {}: true in {} of {} rows", claim.text, verdict, claim.held, rows);
    if (claim.broken > 0) out += fmt::format(", false in {}", claim.broken);
    if (claim.undecided > 0) out += fmt::format(", undecided in {}", claim.undecided);
    out += '\n';
  }
}

// The files that were written; those that differ in their ending alone, as the formats of a figure, in a
// line.
void append_written(std::string& out, const std::vector<std::string>& written) {
  if (!written.empty()) out += "written:\n";
  const auto split = [](const std::string& path) { return std::min(path.rfind('.'), path.size()); };
  for (std::size_t i = 0; i < written.size(); ++i) {
    const std::string stem = written[i].substr(0, split(written[i]));
    out += "  " + written[i];
    while (i + 1 < written.size() && written[i + 1].substr(0, split(written[i + 1])) == stem) {
      ++i;
      out += ", " + written[i].substr(split(written[i]));
    }
    out += '\n';
  }
}

}  // namespace

std::string details_text(const RunFacts& facts) {
  std::string out;
  if (!facts.title.empty()) out += facts.title + "\n\n";
  for (const std::string& change : facts.changes) out += change + '\n';
  for (const SheetFacts& sheet : facts.sheets) {
    out += fmt::format("{}: {} row{} {}\n", sheet.name, sheet.rows, sheet.rows == 1 ? "" : "s",
                       sheet.rows_of.empty() ? "from " + sheet.file : sheet.rows_of);
    for (std::size_t i = 0; i < sheet.selection.size(); ++i) {
      out += (i == 0 ? "  kept: " : "        ") + sheet.selection[i] + '\n';
    }
    if (sheet.rows_of.empty()) append_gaps(out, "measured", sheet.measured);
    if (!sheet.taken.empty()) append_gaps(out, "taken over", sheet.taken);
    if (!sheet.without_unit.empty()) {
      out += fmt::format("  plain numbers (no unit stated): {}\n", listed_names(sheet.without_unit));
    }
    for (const LinkFacts& link : sheet.links) {
      out += fmt::format("  link {}{}: {} of {} rows matched", link.name,
                         link.name == link.sheet ? "" : " to " + link.sheet, link.matched, sheet.rows);
      if (!link.unmatched.empty()) out += "; not: " + null_counts_text(link.unmatched);
      out += '\n';
    }
    append_fills(out, sheet.fills);
    if (!sheet.derived.empty()) out += "  derived:\n";
    append_columns(out, sheet.derived);
    for (const std::string& unknown : sheet.uncertainty_unknown)
      out += "  uncertainty not known: " + unknown + '\n';
    for (const std::string& skipped : sheet.skipped) out += "  nulls left out: " + skipped + '\n';
    append_claims(out, sheet.claims, sheet.rows);
  }
  out += fits_text(facts.fits);
  if (facts.sampling) out += sampling_text(*facts.sampling);
  for (const std::string& note : facts.notes) out += note + '\n';
  append_written(out, facts.written);
  for (const std::string& rows : facts.computed_there) out += "computed in its database: " + rows + '\n';
  for (const std::string& table : facts.tables) out += "table written: " + table + '\n';
  for (const std::string& left : facts.left_as_was) out += "left as it was: " + left + '\n';
  return out;
}

}  // namespace opensum
