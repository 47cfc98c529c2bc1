// From cells of text to typed columns.
#include "table/typing.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <mutex>

#include "base/parallel.h"
#include "base/unicode.h"
#include "table/cell_units.h"
#include "table/date_format.h"
#include "table/date_text.h"
#include "table/header.h"
#include "table/number_form.h"
#include "table/number_text.h"
#include "table/usual_number.h"

namespace opensum {
namespace {

constexpr std::size_t kListedUnreadable = 5;

// Whether a cell stands for a missing value. Most cells are settled by their first byte.
class MissingTokens {
 public:
  MissingTokens(const CellRules& rules) : tokens_(rules.missing) {
    for (const std::string& token : tokens_) {
      for (const NumberReading& number : {read_number(token), read_number(token, rules.style)}) {
        if (number.fault == NumberFault::none) numbers_.push_back(number.value);
      }
    }
    of_all_ = tokens_.size();
    tokens_.insert(tokens_.end(), rules.missing_quantities.begin(), rules.missing_quantities.end());
    for (const std::string& token : tokens_) {
      longest_ = std::max(longest_, token.size());
      first_[token.empty() ? 0 : byte(token[0])] = true;
    }
  }
  bool matches(std::string_view cell, Kind kind) const {
    if (cell.size() > longest_ || !first_[cell.empty() ? 0 : byte(cell[0])]) return false;
    const bool quantity = kind == Kind::number || kind == Kind::date;
    const auto end = quantity ? tokens_.end() : tokens_.begin() + static_cast<std::ptrdiff_t>(of_all_);
    return std::find(tokens_.begin(), end, cell) != end;
  }
  bool has_numbers() const { return !numbers_.empty(); }
  bool matches_number(double number) const {
    return !numbers_.empty() && std::find(numbers_.begin(), numbers_.end(), number) != numbers_.end();
  }

 private:
  static unsigned char byte(char c) { return static_cast<unsigned char>(c); }
  std::vector<std::string> tokens_;
  std::vector<double> numbers_;
  std::size_t of_all_ = 0;  // tokens of all kinds of columns
  std::size_t longest_ = 0;
  std::array<bool, 256> first_{};
};

// `<0.05`, `<=0.05` and `>20`: the limit, and the reason it stands for.
Reason read_limit(std::string_view cell, const NumberStyle& style, double& limit) {
  constexpr std::array<std::string_view, 4> kSigns = {"<=", ">=", "\u2264", "\u2265"};
  const bool above = cell.starts_with('>') || cell.starts_with(kSigns[3]);
  std::size_t sign = cell.starts_with('<') || cell.starts_with('>') ? 1 : 0;
  for (const std::string_view longer : kSigns) {
    if (cell.starts_with(longer)) sign = longer.size();
  }
  if (sign == 0) return Reason::none;
  const NumberReading number = read_number(trimmed(cell.substr(sign)), style);
  if (number.fault != NumberFault::none) return Reason::none;
  limit = number.value;
  return above ? Reason::above_limit : Reason::below_limit;
}

std::optional<bool> read_truth(std::string_view cell) {
  if (cell.size() != 4 && cell.size() != 5) return std::nullopt;
  const auto is = [&](std::string_view word) {
    return std::equal(cell.begin(), cell.end(), word.begin(), word.end(),
                      [](char a, char b) { return std::tolower(static_cast<unsigned char>(a)) == b; });
  };
  if (is("true")) return true;
  if (is("false")) return false;
  return std::nullopt;
}

std::optional<WrittenDate> read_any_date(std::string_view cell, const CellRules& rules) {
  const auto date = rules.date_format ? rules.date_format->read(cell) : std::nullopt;
  return date ? date : read_iso_date(cell);
}

// A number in a form of its own, such as `1.5×10^3`.
Reason read_other_form(std::string_view cell, std::size_t line, const CellRules& rules, double& value,
                       CellNotes& notes) {
  const auto form = read_number_form(cell, rules.style, rules.percent);
  if (!form) return Reason::unreadable;
  const NumberReading number = read_number(form->plain);
  if (number.fault != NumberFault::none) return Reason::overflow;
  value = number.value;
  ++notes.other_forms;
  if (form->uncertainty.empty()) return Reason::none;
  ++notes.uncertainties;
  if (!notes.first_uncertain) notes.first_uncertain = UnreadableCell{0, line, std::string(cell), {}};
  return Reason::none;
}

bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }

// Whether a cell is no number for sure: it begins with a letter, which no sign of the style is, or holds one
// that numbers do not have.
bool is_word(std::string_view cell, const CellRules& rules) {
  const NumberStyle& style = rules.style;
  if (cell.empty()) return false;
  if (is_letter(cell[0])) return cell[0] != style.decimal && !style.group.starts_with(cell[0]);
  return rules.second == 0 && has_foreign_letter(cell, style);
}

// Counts a known cell that is no number by what else it may be.
void count_other(std::string_view cell, std::size_t line, const CellRules& rules, CellNotes& notes) {
  // Dates begin with a digit or a sign, unless a format says otherwise.
  const bool may_be_date = rules.date_format || !is_letter(cell[0]);
  const auto date = may_be_date ? read_any_date(cell, rules) : std::nullopt;
  if (date) {
    ++notes.dates;
    notes.of_dates.add(*date, cell, line);
  } else if (read_truth(cell)) {
    ++notes.truths;
  }
}

// One cell as a number: the reason it is null otherwise. Known cells are counted by what they are.
Reason read_as_number(std::string_view cell, std::size_t line, const MissingTokens& missing,
                      const CellRules& rules, double& value, CellNotes& notes) {
  if (missing.matches(cell, Kind::number)) return Reason::missing;
  if (rules.cell_units) {
    if (const auto number = rules.cell_units->read(cell, rules.style)) {
      value = *number;
      ++notes.known;
      ++notes.numbers;
      ++notes.other_forms;
      return Reason::none;
    }
    if (!rules.cell_units->plain_too()) {
      ++notes.known;
      return Reason::unreadable;
    }
  }
  if (is_word(cell, rules)) {
    ++notes.known;
    if (!rules.kind) count_other(cell, line, rules, notes);
    return Reason::unreadable;
  }
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
    if (missing.matches_number(value)) {
      ++notes.missing_by_value;
      return Reason::missing;
    }
  } else if (number.fault == NumberFault::too_large) {
    reason = Reason::overflow;
  } else {
    reason = read_limit(cell, rules.style, value);
    if (reason == Reason::none) reason = read_other_form(cell, line, rules, value, notes);
  }
  ++notes.known;
  if (reason != Reason::unreadable) {
    ++notes.numbers;
    if (!notes.first_code && looks_like_code(cell))
      notes.first_code = UnreadableCell{0, line, std::string(cell), {}};
  } else if (!rules.kind && !cell.empty()) {
    count_other(cell, line, rules, notes);
  }
  return reason;
}

bool is_ascii(std::string_view text) {
  return std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
}

// A leading zero before further digits.
bool begins_like_code(std::string_view cell) {
  const std::size_t sign = cell[0] == '-' ? 1 : 0;
  return cell.size() > sign + 1 && cell[sign] == '0' && cell[sign + 1] != '.';
}

// The same as a date or a truth.
Reason read_as_other(Kind kind, std::string_view cell, std::size_t line, const MissingTokens& missing,
                     const CellRules& rules, Instant& value, CellNotes& notes) {
  if (missing.matches(cell, kind)) return Reason::missing;
  if (kind == Kind::date) {
    const auto date = read_any_date(cell, rules);
    if (!date) return Reason::unreadable;
    value = rules.dates_in_utc ? date->utc() : date->clock;
    notes.of_dates.add(*date, cell, line);
    return Reason::none;
  }
  const auto truth = read_truth(cell);
  value.seconds = truth.value_or(false) ? 1 : 0;
  return truth ? Reason::none : Reason::unreadable;
}

}  // namespace

struct CellReader::Rules {
  CellRules rules;
  MissingTokens missing;
  std::mutex making{};
};

CellReader::CellReader(const CellRules& rules, OriginId origin)
    : rules_(new Rules{rules, MissingTokens(rules)}), origin_(origin) {}

CellReader::~CellReader() = default;
CellReader::CellReader(CellReader&&) noexcept = default;

void CellReader::keep_texts(Chunk& chunk, bool ascii, const std::shared_ptr<MadeTexts>& made) const {
  chunk.texts = chunk.source;
  chunk.made = made;
  if (ascii) return;
  for (std::string_view& text : chunk.texts) {
    if (is_ascii(text)) continue;
    std::string normal = normalised(text);
    if (normal == text) continue;
    const std::lock_guard lock(rules_->making);
    text = made->emplace_back(std::move(normal));
  }
}

void CellReader::set_null(Chunk& chunk, std::size_t row, Reason reason, std::string_view cell) const {
  if (chunk.nulls.empty()) chunk.nulls.resize(chunk.source.size());
  chunk.nulls[row] = Null(reason, origin_);
  if (!cell.empty()) chunk.verbatim = false;
}

CellNotes CellReader::read(Kind kind, const CellRange& cells) const {
  return kind == Kind::text ? read_texts(cells, nullptr) : read_quantities(kind, cells, nullptr);
}

CellNotes CellReader::read(Kind kind, const CellRange& cells, Chunk& chunk,
                           const std::shared_ptr<MadeTexts>& made) const {
  chunk.texts.clear();
  chunk.numbers.clear();
  chunk.rests.clear();
  chunk.nulls.clear();
  chunk.verbatim = true;
  if (kind == Kind::text) {
    keep_texts(chunk, cells.ascii, made);
    return read_texts(cells, &chunk);
  }
  chunk.numbers.resize(cells.texts.size());
  return read_quantities(kind, cells, &chunk);
}

CellNotes CellReader::read_texts(const CellRange& cells, Chunk* chunk) const {
  const auto is_mark = [](char c) { return c > ' '; };
  if (chunk == nullptr) return {};
  for (std::size_t i = 0; i < cells.texts.size(); ++i) {
    const std::string_view whole = cells.texts[i];
    const bool trim = !whole.empty() && !(is_mark(whole.front()) && is_mark(whole.back()));
    if (trim) chunk->verbatim = false;
    const std::string_view cell = trim ? trimmed(whole) : whole;
    if (rules_->missing.matches(cell, Kind::text)) set_null(*chunk, i, Reason::missing, cell);
  }
  return {};
}

CellNotes CellReader::read_quantities(Kind kind, const CellRange& cells, Chunk* chunk) const {
  CellNotes notes;
  double unused = 0;
  // Where no number has a meaning of its own, most cells of numbers are read in a short way.
  const bool short_way = kind == Kind::number && !rules_->missing.has_numbers() &&
                         rules_->rules.style.is_plain() && rules_->rules.second == 0 &&
                         !rules_->rules.cell_units;
  for (std::size_t i = 0; i < cells.texts.size(); ++i) {
    const std::string_view whole = cells.texts[i];
    double& value = chunk == nullptr ? unused : chunk->numbers[i];
    const bool may_be_usual = short_way && !whole.empty() && !is_letter(whole.front());
    if (may_be_usual && read_usual_number(whole, value) && !begins_like_code(whole)) {
      ++notes.known;
      ++notes.numbers;
      continue;
    }
    const std::string_view cell = trimmed(whole);
    if (chunk != nullptr && cell.size() != whole.size()) chunk->verbatim = false;
    const std::size_t line = cells.lines[i];
    Reason reason = Reason::none;
    if (kind == Kind::number) {
      reason = read_as_number(cell, line, rules_->missing, rules_->rules, value, notes);
    } else {
      Instant other;
      reason = read_as_other(kind, cell, line, rules_->missing, rules_->rules, other, notes);
      if (chunk != nullptr) chunk->set_instant(i, other);
    }
    if (reason == Reason::none) continue;
    if (chunk != nullptr) set_null(*chunk, i, reason, cell);
    if (reason != Reason::unreadable && reason != Reason::overflow) continue;
    ++notes.unreadable_count;
    if (notes.unreadable.size() < kListedUnreadable)
      notes.unreadable.push_back({cells.first_row + i, line, std::string(cell), {}});
  }
  return notes;
}

void DateNotes::add(const WrittenDate& date, std::string_view cell, std::size_t line) {
  has_clock = has_clock || date.has_clock;
  if (!date.offset) {
    // A day alone has no clock that could be ahead of another.
    if (date.has_clock && !without_offset) without_offset = UnreadableCell{0, line, std::string(cell), {}};
    return;
  }
  if (!with_offset) with_offset = UnreadableCell{0, line, std::string(cell), {}};
  offsets_differ = offsets_differ || (offset && *offset != *date.offset);
  if (!offset) offset = date.offset;
}

void DateNotes::add(const DateNotes& next) {
  has_clock = has_clock || next.has_clock;
  offsets_differ =
      offsets_differ || next.offsets_differ || (offset && next.offset && *offset != *next.offset);
  if (!offset) offset = next.offset;
  if (!with_offset) with_offset = next.with_offset;
  if (!without_offset) without_offset = next.without_offset;
}

void CellNotes::add(const CellNotes& next) {
  of_dates.add(next.of_dates);
  known += next.known;
  numbers += next.numbers;
  dates += next.dates;
  truths += next.truths;
  other_forms += next.other_forms;
  uncertainties += next.uncertainties;
  if (!first_uncertain) first_uncertain = next.first_uncertain;
  missing_by_value += next.missing_by_value;
  if (!first_code) first_code = next.first_code;
  unreadable_count += next.unreadable_count;
  for (const UnreadableCell& cell : next.unreadable) {
    if (unreadable.size() < kListedUnreadable) unreadable.push_back(cell);
  }
}

Kind kind_of(const CellNotes& notes) {
  if (notes.known == 0) return Kind::number;
  if (notes.numbers * 2 > notes.known) return notes.first_code ? Kind::text : Kind::number;
  if (notes.dates * 2 > notes.known) return Kind::date;
  if (notes.truths == notes.known) return Kind::truth;
  return Kind::text;
}

std::vector<std::string> default_missing() { return {"", "NA", "N/A", "n/a", "NaN", "nan", "NULL", "null"}; }

std::vector<std::string> default_missing_quantities() { return {"-", "--"}; }

bool needs_utc(Kind kind, const CellNotes& notes, const CellRules& rules) {
  return kind == Kind::date && notes.of_dates.offsets_differ && !rules.dates_in_utc;
}

void settle_cells(Column& column, const CellNotes& notes, const CellRules& rules) {
  column.style = rules.style;
  column.cells_are_plain = rules.style.is_plain() && rules.second == 0 && notes.other_forms == 0;
  if (column.kind == Kind::number && notes.first_uncertain) {
    column.uncertain_cells = notes.uncertainties;
    column.first_uncertain = *notes.first_uncertain;
  }
  column.unreadable = notes.unreadable;
  column.unreadable_count = notes.unreadable_count;
  if (column.kind != Kind::date) return;
  const DateNotes& dates = notes.of_dates;
  column.clock = dates.has_clock;
  column.in_utc = rules.dates_in_utc;
  if (dates.with_offset && dates.without_offset) {
    const auto quoted = [](const UnreadableCell& cell) {
      return cell.text + " (line " + std::to_string(cell.line) + ")";
    };
    column.mixed_clocks = quoted(*dates.with_offset) + " and " + quoted(*dates.without_offset);
  }
}

std::string text_because(Kind kind, const CellNotes& as_numbers) {
  const bool looks_numeric = as_numbers.numbers * 2 > as_numbers.known;
  if (kind != Kind::text || !looks_numeric || !as_numbers.first_code) return {};
  return as_numbers.first_code->text + " on line " + std::to_string(as_numbers.first_code->line);
}

namespace {

// Reads all cells of a column as a kind, a chunk at a time.
CellNotes read_chunks(Column& column, const std::vector<std::string_view>& cells,
                      const std::vector<std::size_t>& lines, const CellReader& reader, Kind kind) {
  const std::size_t parts = (cells.size() + kChunkRows - 1) / kChunkRows;
  std::vector<CellNotes> notes(parts);
  column.kind = kind;
  column.chunks.resize(parts);
  const auto made = std::make_shared<MadeTexts>();
  for_each_part(parts, [&](std::size_t part) {
    const std::size_t begin = part * kChunkRows;
    const std::size_t size = std::min(kChunkRows, cells.size() - begin);
    Chunk& chunk = column.chunks[part];
    chunk.source.assign(cells.begin() + static_cast<std::ptrdiff_t>(begin),
                        cells.begin() + static_cast<std::ptrdiff_t>(begin + size));
    notes[part] = reader.read(kind, {chunk.source, {lines.data() + begin, size}, begin}, chunk, made);
  });
  CellNotes all;
  for (const CellNotes& part : notes) all.add(part);
  return all;
}

}  // namespace

void type_cells(Column& column, const std::vector<std::string_view>& cells,
                const std::vector<std::size_t>& lines, const CellRules& rules) {
  const CellReader reader(rules, column.origin);
  column.rows = cells.size();
  // Most columns are numbers: read as such, and again only where that was wrong.
  CellNotes notes = read_chunks(column, cells, lines, reader, rules.kind.value_or(Kind::number));
  if (!rules.kind) {
    const Kind kind = kind_of(notes);
    column.text_because = text_because(kind, notes);
    if (kind != Kind::number) notes = read_chunks(column, cells, lines, reader, kind);
  }
  if (needs_utc(column.kind, notes, rules)) {
    CellRules in_utc = rules;
    in_utc.dates_in_utc = true;
    notes = read_chunks(column, cells, lines, CellReader(in_utc, column.origin), Kind::date);
    return settle_cells(column, notes, in_utc);
  }
  settle_cells(column, notes, rules);
}

}  // namespace opensum
