// Aligned, framed tables for the terminal.
#include "cli/text_table.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include "base/unicode.h"
#include "table/header.h"

namespace opensum {
namespace {

constexpr std::size_t kWidestCell = 40;

std::string one_line(const std::string& text) {
  std::string out = text;
  for (char& c : out) {
    if (c == '\n' || c == '\r' || c == '\t') c = ' ';
  }
  return visible(out);
}

std::string shortened(const std::string& raw, std::size_t width) {
  std::string text = one_line(raw);
  if (display_width(text) <= width) return text;
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    std::size_t next = at + 1;
    while (next < text.size() && (static_cast<unsigned char>(text[next]) & 0xC0U) == 0x80U) ++next;
    const std::string more = out + text.substr(at, next - at);
    if (display_width(more) + 1 > width) break;
    out = more;
    at = next;
  }
  return out + "…";
}

std::string padded(const std::string& text, std::size_t width, bool right) {
  const std::string blanks(width - std::min(width, display_width(text)), ' ');
  return right ? blanks + text : text + blanks;
}

std::string rule(const std::vector<std::size_t>& widths, const char* left, const char* middle,
                 const char* right) {
  std::string line = left;
  for (std::size_t i = 0; i < widths.size(); ++i) {
    if (i > 0) line += middle;
    for (std::size_t k = 0; k < widths[i] + 2; ++k) line += "─";
  }
  return line + right + "\n";
}

}  // namespace

std::vector<std::size_t> TextTable::fitting(const std::vector<std::size_t>& widths, std::size_t width) const {
  std::vector<std::size_t> shown(widths.size());
  std::iota(shown.begin(), shown.end(), std::size_t{0});
  const auto total = [&] {
    std::size_t sum = 1;
    for (const std::size_t i : shown) sum += widths[i] + 3;
    return sum;
  };
  while (shown.size() > 1 && total() > width) {
    // The last of those that weigh least.
    const auto least = std::min_element(shown.rbegin(), shown.rend(), [&](std::size_t a, std::size_t b) {
      return headings_[a].weight < headings_[b].weight;
    });
    shown.erase(std::next(least).base());
  }
  return shown;
}

std::vector<std::size_t> TextTable::all_widths() const {
  std::vector<std::size_t> widths;
  for (const Heading& heading : headings_)
    widths.push_back(std::min(display_width(heading.text), kWidestCell));
  for (const auto& row : rows_) {
    for (std::size_t i = 0; i < row.size(); ++i) {
      widths[i] = std::max(widths[i], std::min(display_width(row[i]), kWidestCell));
    }
  }
  return widths;
}

std::string TextTable::framed(const std::vector<std::size_t>& shown,
                              const std::vector<std::size_t>& all_widths) const {
  std::vector<std::size_t> widths;
  widths.reserve(shown.size());
  for (const std::size_t i : shown) widths.push_back(all_widths[i]);
  const auto line = [&](const std::vector<std::string>& cells) {
    std::string out;
    for (std::size_t k = 0; k < shown.size(); ++k) {
      out += k == 0 ? "│ " : " │ ";
      out += padded(shortened(cells[shown[k]], widths[k]), widths[k], headings_[shown[k]].right);
    }
    return out + " │\n";
  };
  std::vector<std::string> heads;
  for (const Heading& heading : headings_) heads.push_back(heading.text);
  std::string out = rule(widths, "┌", "┬", "┐") + line(heads) + rule(widths, "├", "┼", "┤");
  for (const auto& row : rows_) out += row.empty() ? rule(widths, "├", "┼", "┤") : line(row);
  return out + rule(widths, "└", "┴", "┘");
}

std::string TextTable::text(std::size_t width) const {
  const std::vector<std::size_t> widths = all_widths();
  const std::vector<std::size_t> shown = fitting(widths, width);
  std::string out = framed(shown, widths);
  if (shown.size() < headings_.size()) {
    std::string names;
    for (std::size_t i = 0; i < headings_.size(); ++i) {
      if (std::find(shown.begin(), shown.end(), i) != shown.end()) continue;
      names += (names.empty() ? "" : ", ") + one_line(headings_[i].text);
    }
    out += fmt::format("not shown, for the width of the terminal: {}\n", names);
  }
  return out;
}

std::string TextTable::pages(std::size_t width) const {
  constexpr std::size_t kMostPages = 4;
  const std::vector<std::size_t> widths = all_widths();
  std::string out;
  std::size_t next = 1;
  for (std::size_t page = 0; page < kMostPages && (page == 0 || next < headings_.size()); ++page) {
    std::vector<std::size_t> shown = {0};
    std::size_t total = widths.empty() ? 0 : 4 + widths[0];
    while (next < headings_.size() && (shown.size() == 1 || total + widths[next] + 3 <= width)) {
      total += widths[next] + 3;
      shown.push_back(next++);
    }
    out += framed(shown, widths);
  }
  if (next < headings_.size())
    out += fmt::format("{} more columns, from {} to {}: --show says which to show\n", headings_.size() - next,
                       one_line(headings_[next].text), one_line(headings_.back().text));
  return out;
}

std::string TextTable::markdown() const {
  const auto line = [](const std::vector<std::string>& cells) {
    std::string out = "|";
    for (const std::string& cell : cells) {
      out += ' ';
      for (const char c : one_line(cell)) out += c == '|' ? std::string("\\|") : std::string(1, c);
      out += " |";
    }
    return out + '\n';
  };
  std::vector<std::string> heads;
  std::vector<std::string> rules;
  heads.reserve(headings_.size());
  rules.reserve(headings_.size());
  for (const Heading& heading : headings_) {
    heads.push_back(heading.text);
    rules.emplace_back(heading.right ? "---:" : "---");
  }
  std::string out = line(heads) + line(rules);
  for (const auto& row : rows_) out += line(row.empty() ? std::vector<std::string>(heads.size(), "…") : row);
  return out;
}

}  // namespace opensum
