// Numbers with their unit in the cell.
#include "table/cell_units.h"

#include <algorithm>

#include "table/digits.h"
#include "table/header_units.h"

namespace opensum {
namespace {

bool is_capital(char c) { return c >= 'A' && c <= 'Z'; }

// Letters of a status, such as `N` or `SD`, where blanks and a sign follow.
std::string_view status_of(std::string_view cell) {
  constexpr std::size_t kLongest = 3;
  std::size_t size = 0;
  while (size < cell.size() && size <= kLongest && is_capital(cell[size])) ++size;
  if (size == 0 || size > kLongest) return {};
  const std::size_t next = cell.find_first_not_of(' ', size);
  const bool signed_number =
      next != std::string_view::npos && next > size &&
      (cell[next] == '+' || cell[next] == '-' || cell.substr(next).starts_with(kMinusSign));
  return signed_number ? cell.substr(0, size) : std::string_view();
}

// The bytes of the digits, signs and exponent of a number without a sign before it.
std::size_t size_of_number(std::string_view text, const NumberStyle& style) {
  std::size_t at = 0;
  while (at < text.size()) {
    const bool group = !style.group.empty() && style.group != " " && text.substr(at).starts_with(style.group);
    if (is_digit(text[at]) || text[at] == style.decimal) {
      ++at;
    } else if (group) {
      at += style.group.size();
    } else {
      break;
    }
  }
  if (at == 0) return 0;
  std::size_t exponent = at;
  if (exponent < text.size() && (text[exponent] == 'e' || text[exponent] == 'E')) {
    ++exponent;
    if (exponent < text.size() && (text[exponent] == '-' || text[exponent] == '+')) ++exponent;
    const std::size_t digits = exponent;
    while (exponent < text.size() && is_digit(text[exponent])) ++exponent;
    if (exponent > digits) at = exponent;
  }
  return at;
}

}  // namespace

std::optional<UnitCell> split_unit_cell(std::string_view cell, const NumberStyle& style) {
  UnitCell parts;
  std::string_view rest = trimmed(cell);
  parts.status = status_of(rest);
  rest = trimmed(rest.substr(parts.status.size()));
  if (rest.starts_with('-') || rest.starts_with('+')) {
    if (rest.front() == '-') parts.number = "-";
    rest = trimmed(rest.substr(1));
  } else if (rest.starts_with(kMinusSign)) {
    parts.number = "-";
    rest = trimmed(rest.substr(kMinusSign.size()));
  }
  const std::size_t size = size_of_number(rest, style);
  if (size == 0) return std::nullopt;
  parts.number += rest.substr(0, size);
  parts.unit = trimmed(rest.substr(size));
  if (parts.unit.size() > 2 && parts.unit.front() == '[' && parts.unit.back() == ']')
    parts.unit = parts.unit.substr(1, parts.unit.size() - 2);
  const bool is_unit = !parts.unit.empty() && !is_digit(parts.unit.front()) &&
                       std::string_view(".,:;/-+()<>=").find(parts.unit.front()) == std::string_view::npos;
  if (!is_unit || read_number(parts.number, style).fault != NumberFault::none) return std::nullopt;
  return parts;
}

std::optional<Conversion> CellUnits::conversion_of(std::string_view unit) const {
  const std::lock_guard lock(finding_);
  const auto known = found_.find(unit);
  if (known != found_.end()) return known->second;
  std::optional<Conversion> found;
  const UnitReading reading = read_header_unit(unit, units_);
  if (reading.unit && !mismatch(*reading.unit, unit_)) found = conversion(*reading.unit, unit_);
  found_.emplace(std::string(unit), found);
  return found;
}

std::optional<double> CellUnits::read(std::string_view cell, const NumberStyle& style) const {
  const auto parts = split_unit_cell(cell, style);
  if (!parts) return std::nullopt;
  const auto convert = conversion_of(parts->unit);
  if (!convert) return std::nullopt;
  const double number = read_number(parts->number, style).value;
  return convert->is_identity() ? number : (*convert)(number);
}

std::optional<UnitOfCells> unit_of_cells(const std::vector<std::string_view>& cells, const Unit* stated,
                                         const NumberStyle& style, const UnitSystem& units) {
  std::optional<UnitOfCells> found;
  std::size_t with_unit = 0;
  for (const std::string_view cell : cells) {
    const auto parts = split_unit_cell(cell, style);
    if (!parts) continue;
    const UnitReading reading = read_header_unit(parts->unit, units);
    if (!reading.unit) return std::nullopt;
    if (!found) found = UnitOfCells{*reading.unit, std::string(trimmed(cell)), std::string(parts->status)};
    if (mismatch(*reading.unit, stated != nullptr ? *stated : found->unit)) return std::nullopt;
    ++with_unit;
  }
  if (with_unit * 2 <= cells.size()) return std::nullopt;
  return found;
}

}  // namespace opensum
