// From cells of text to typed columns.
#include "table/typing.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "table/date_format.h"
#include "table/number_text.h"
#include "table/parallel.h"

namespace opensum {
namespace {

constexpr std::size_t kListedUnreadable = 5;

std::string lower(std::string_view text) {
  std::string out(text);
  for (char& c : out) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

// Whether a cell stands for a missing value. Most cells are settled by their first byte.
class MissingTokens {
 public:
  MissingTokens(const std::vector<std::string>& tokens, const NumberStyle& style) {
    for (const std::string& token : tokens) {
      tokens_.push_back(lower(token));
      longest_ = std::max(longest_, token.size());
      for (const NumberReading& number : {read_number(token), read_number(token, style)}) {
        if (number.fault == NumberFault::none) numbers_.push_back(number.value);
      }
      first_[token.empty() ? 0 : byte(tokens_.back()[0])] = true;
      first_[token.empty() ? 0 : byte(static_cast<char>(std::toupper(byte(tokens_.back()[0]))))] = true;
    }
  }
  bool matches(std::string_view cell) const {
    if (cell.empty()) return first_[0];
    if (cell.size() > longest_ || !first_[byte(cell[0])]) return false;
    return std::any_of(tokens_.begin(), tokens_.end(), [&](const std::string& token) {
      return token.size() == cell.size() &&
             std::equal(cell.begin(), cell.end(), token.begin(),
                        [](char a, char b) { return std::tolower(byte(a)) == byte(b); });
    });
  }
  bool matches(double number) const {
    return !numbers_.empty() && std::find(numbers_.begin(), numbers_.end(), number) != numbers_.end();
  }

 private:
  static unsigned char byte(char c) { return static_cast<unsigned char>(c); }
  std::vector<std::string> tokens_;
  std::vector<double> numbers_;
  std::size_t longest_ = 0;
  std::array<bool, 256> first_{};
};

// `<0.05` and `>20`: the limit, and the reason it stands for.
Reason read_limit(std::string_view cell, const NumberStyle& style, double& limit) {
  if (cell.size() < 2 || (cell[0] != '<' && cell[0] != '>')) return Reason::none;
  const NumberReading number = read_number(trimmed(cell.substr(1)), style);
  if (number.fault != NumberFault::none) return Reason::none;
  limit = number.value;
  return cell[0] == '<' ? Reason::below_limit : Reason::above_limit;
}

std::optional<bool> read_truth(std::string_view cell) {
  if (cell.size() == 4 && lower(cell) == "true") return true;
  if (cell.size() == 5 && lower(cell) == "false") return false;
  return std::nullopt;
}

struct Counts {
  std::size_t known = 0;
  std::size_t numbers = 0;
  std::size_t dates = 0;
  std::size_t truths = 0;
  std::size_t first_code = SIZE_MAX;  // row
};

std::optional<double> read_any_date(std::string_view cell, const std::string& format) {
  if (format.empty()) return read_date(cell);
  const auto date = read_date(cell, format);
  return date ? date : read_date(cell);
}

Kind find_kind(const Counts& counts) {
  if (counts.known == 0) return Kind::number;
  if (counts.numbers * 2 > counts.known) return counts.first_code == SIZE_MAX ? Kind::number : Kind::text;
  if (counts.dates * 2 > counts.known) return Kind::date;
  if (counts.truths == counts.known) return Kind::truth;
  return Kind::text;
}

// One cell as a number: the reason it is null otherwise. Known cells are counted by what they are.
Reason read_as_number(std::string_view cell, std::size_t row, const MissingTokens& missing,
                      const CellRules& rules, double& value, Counts& counts) {
  if (missing.matches(cell)) return Reason::missing;
  if (rules.second > 0) {
    if (const auto duration = read_duration(cell)) {
      value = *duration * rules.second;
      return Reason::none;
    }
  }
  const NumberReading number = read_number(cell, rules.style);
  value = number.value;
  Reason reason = Reason::none;
  if (number.fault == NumberFault::none) {
    if (missing.matches(value)) return Reason::missing;
  } else if (number.fault == NumberFault::too_large) {
    reason = Reason::overflow;
  } else {
    reason = read_limit(cell, rules.style, value);
    if (reason == Reason::none) reason = Reason::unreadable;
  }
  ++counts.known;
  if (reason != Reason::unreadable) {
    ++counts.numbers;
    if (counts.first_code == SIZE_MAX && looks_like_code(cell)) counts.first_code = row;
  } else if (!rules.kind) {
    if (read_any_date(cell, rules.date_format)) {
      ++counts.dates;
    } else if (read_truth(cell)) {
      ++counts.truths;
    }
  }
  return reason;
}

// The same as a date, a truth or a text.
Reason read_as_other(Kind kind, std::string_view cell, const MissingTokens& missing, const CellRules& rules,
                     double& value) {
  if (missing.matches(cell)) return Reason::missing;
  if (kind == Kind::text) return Reason::none;
  if (kind == Kind::date) {
    const auto date = read_any_date(cell, rules.date_format);
    value = date.value_or(0);
    return date ? Reason::none : Reason::unreadable;
  }
  const auto truth = read_truth(cell);
  value = truth.value_or(false) ? 1 : 0;
  return truth ? Reason::none : Reason::unreadable;
}

// What one chunk says of its cells.
struct PartNotes {
  Counts counts;
  std::size_t unreadable_count = 0;
  std::vector<UnreadableCell> unreadable;
};

// Reads all cells of a column as a kind.
class CellReader {
 public:
  CellReader(Column& column, const std::vector<std::string_view>& cells,
             const std::vector<std::size_t>& lines, const CellRules& rules)
      : column_(column), cells_(cells), lines_(lines), rules_(rules), missing_(rules.missing, rules.style) {}

  Counts run(Kind kind) {
    const std::size_t parts = (cells_.size() + kChunkRows - 1) / kChunkRows;
    std::vector<PartNotes> notes(parts);
    column_.kind = kind;
    column_.chunks.resize(parts);
    for_each_part(parts, [&](std::size_t part) { read_part(part, notes[part]); });
    Counts counts;
    column_.unreadable.clear();
    column_.unreadable_count = 0;
    for (const PartNotes& part : notes) {
      counts.known += part.counts.known;
      counts.numbers += part.counts.numbers;
      counts.dates += part.counts.dates;
      counts.truths += part.counts.truths;
      counts.first_code = std::min(counts.first_code, part.counts.first_code);
      column_.unreadable_count += part.unreadable_count;
      for (const UnreadableCell& cell : part.unreadable) {
        if (column_.unreadable.size() < kListedUnreadable) column_.unreadable.push_back(cell);
      }
    }
    return counts;
  }

 private:
  void read_part(std::size_t part, PartNotes& notes) {
    const std::size_t begin = part * kChunkRows;
    const std::size_t size = std::min(kChunkRows, cells_.size() - begin);
    Chunk chunk;
    const auto first = cells_.begin() + static_cast<std::ptrdiff_t>(begin);
    chunk.source.assign(first, first + static_cast<std::ptrdiff_t>(size));
    if (column_.kind == Kind::text) {
      chunk.texts = chunk.source;
    } else {
      chunk.numbers.resize(size);
    }
    double no_number = 0;
    for (std::size_t i = 0; i < size; ++i) {
      const std::string_view cell = trimmed(chunk.source[i]);
      double& value = column_.kind == Kind::text ? no_number : chunk.numbers[i];
      const Reason reason = column_.kind == Kind::number
                                ? read_as_number(cell, begin + i, missing_, rules_, value, notes.counts)
                                : read_as_other(column_.kind, cell, missing_, rules_, value);
      if (reason == Reason::none) continue;
      if (chunk.nulls.empty()) chunk.nulls.resize(size);
      chunk.nulls[i] = Null(reason, column_.origin);
      if (reason != Reason::unreadable && reason != Reason::overflow) continue;
      ++notes.unreadable_count;
      if (notes.unreadable.size() < kListedUnreadable)
        notes.unreadable.push_back({begin + i, lines_[begin + i], std::string(cell), {}});
    }
    column_.chunks[part] = std::move(chunk);
  }

  Column& column_;
  const std::vector<std::string_view>& cells_;
  const std::vector<std::size_t>& lines_;
  const CellRules& rules_;
  MissingTokens missing_;
};

}  // namespace

std::vector<std::string> default_missing() { return {"", "NA", "N/A", "NaN", "null", "-", "--"}; }

void type_cells(Column& column, const std::vector<std::string_view>& cells,
                const std::vector<std::size_t>& lines, const CellRules& rules) {
  column.style = rules.style;
  column.cells_are_plain = rules.style.is_plain() && rules.second == 0;
  column.rows = cells.size();
  CellReader reader(column, cells, lines, rules);
  if (rules.kind) {
    reader.run(*rules.kind);
    return;
  }
  // Most columns are numbers: read as such, and again only where that was wrong.
  const Counts counts = reader.run(Kind::number);
  const Kind kind = find_kind(counts);
  if (kind == Kind::number) return;
  reader.run(kind);
  if (kind == Kind::text && counts.first_code != SIZE_MAX && counts.numbers * 2 > counts.known) {
    column.text_because = std::string(trimmed(cells[counts.first_code])) + " on line " +
                          std::to_string(lines[counts.first_code]);
  }
}

}  // namespace opensum
