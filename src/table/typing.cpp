// From cells of text to typed columns.
#include "table/typing.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "table/date_format.h"
#include "table/number_text.h"

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
    return std::find(tokens_.begin(), tokens_.end(), lower(cell)) != tokens_.end();
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

Counts count_kinds(const std::vector<std::string_view>& cells, const MissingTokens& missing,
                   const CellRules& rules) {
  Counts counts;
  for (std::size_t row = 0; row < cells.size(); ++row) {
    const std::string_view cell = trimmed(cells[row]);
    if (missing.matches(cell)) continue;
    double limit = 0;
    const NumberReading number = read_number(cell, rules.style);
    if (number.fault == NumberFault::none && missing.matches(number.value)) continue;
    ++counts.known;
    if (number.fault != NumberFault::malformed || read_limit(cell, rules.style, limit) != Reason::none) {
      ++counts.numbers;
      if (counts.first_code == SIZE_MAX && looks_like_code(cell)) counts.first_code = row;
    } else if (read_any_date(cell, rules.date_format)) {
      ++counts.dates;
    } else if (read_truth(cell)) {
      ++counts.truths;
    }
  }
  return counts;
}

Kind find_kind(const Counts& counts) {
  if (counts.known == 0) return Kind::number;
  if (counts.numbers * 2 > counts.known) return counts.first_code == SIZE_MAX ? Kind::number : Kind::text;
  if (counts.dates * 2 > counts.known) return Kind::date;
  if (counts.truths == counts.known) return Kind::truth;
  return Kind::text;
}

// One cell as a number of the column's kind; the reason it is null otherwise.
Reason read_cell(Kind kind, std::string_view cell, const MissingTokens& missing, const CellRules& rules,
                 double& value) {
  if (missing.matches(cell)) return Reason::missing;
  if (kind == Kind::number) {
    if (rules.second > 0) {
      if (const auto duration = read_duration(cell)) {
        value = *duration * rules.second;
        return Reason::none;
      }
    }
    const NumberReading number = read_number(cell, rules.style);
    value = number.value;
    if (number.fault == NumberFault::too_large) return Reason::overflow;
    if (number.fault == NumberFault::none) return missing.matches(value) ? Reason::missing : Reason::none;
    const Reason limit = read_limit(cell, rules.style, value);
    return limit == Reason::none ? Reason::unreadable : limit;
  }
  if (kind == Kind::date) {
    const auto date = read_any_date(cell, rules.date_format);
    value = date.value_or(0);
    return date ? Reason::none : Reason::unreadable;
  }
  const auto truth = read_truth(cell);
  value = truth.value_or(false) ? 1 : 0;
  return truth ? Reason::none : Reason::unreadable;
}

}  // namespace

std::vector<std::string> default_missing() { return {"", "NA", "N/A", "NaN", "null", "-", "--"}; }

void type_cells(Column& column, const std::vector<std::string_view>& cells,
                const std::vector<std::size_t>& lines, const CellRules& rules) {
  const MissingTokens missing(rules.missing, rules.style);
  column.style = rules.style;
  if (rules.kind) {
    column.kind = *rules.kind;
  } else {
    const Counts counts = count_kinds(cells, missing, rules);
    column.kind = find_kind(counts);
    if (column.kind == Kind::text && counts.first_code != SIZE_MAX && counts.numbers * 2 > counts.known) {
      column.text_because = std::string(trimmed(cells[counts.first_code])) + " on line " +
                            std::to_string(lines[counts.first_code]);
    }
  }
  column.rows = cells.size();
  column.chunks.clear();
  for (std::size_t begin = 0; begin < cells.size(); begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, cells.size() - begin);
    Chunk chunk;
    chunk.source.assign(cells.begin() + static_cast<std::ptrdiff_t>(begin),
                        cells.begin() + static_cast<std::ptrdiff_t>(begin + size));
    if (column.kind == Kind::text) {
      chunk.texts = chunk.source;
    } else {
      chunk.numbers.resize(size);
    }
    for (std::size_t i = 0; i < size; ++i) {
      const std::string_view cell = trimmed(chunk.source[i]);
      Reason reason = Reason::none;
      if (column.kind == Kind::text) {
        if (missing.matches(cell)) reason = Reason::missing;
      } else {
        reason = read_cell(column.kind, cell, missing, rules, chunk.numbers[i]);
      }
      if (reason == Reason::none) continue;
      if (chunk.nulls.empty()) chunk.nulls.resize(size);
      chunk.nulls[i] = Null(reason, column.origin);
      if (reason == Reason::unreadable || reason == Reason::overflow) {
        ++column.unreadable_count;
        if (column.unreadable.size() < kListedUnreadable) {
          column.unreadable.push_back({begin + i, lines[begin + i], std::string(cell), {}});
        }
      }
    }
    column.chunks.push_back(std::move(chunk));
  }
}

}  // namespace opensum
