// What the headers of columns say whose cells become rows.
#include "plan/cell_headers.h"

#include <algorithm>

#include "base/result.h"
#include "table/header.h"
#include "table/header_units.h"
#include "table/number_form.h"
#include "table/number_text.h"

namespace opensum {
namespace {

bool is_digit_or_point(char c) { return (c >= '0' && c <= '9') || c == '.'; }

bool is_sign(char c) { return c == '-' || c == '+'; }

// The bytes that all texts begin with, but for those of a number.
std::size_t common_begin(const std::vector<std::string>& texts) {
  std::size_t size = texts.front().size();
  for (const std::string& text : texts) {
    const auto differ = std::mismatch(text.begin(), text.end(), texts.front().begin(), texts.front().end());
    size = std::min(size, static_cast<std::size_t>(differ.first - text.begin()));
  }
  const std::string& first = texts.front();
  while (size > 0 && is_digit_or_point(first[size - 1])) --size;
  // A sign belongs to the number after it, unless it joins that to a word.
  if (size > 0 && is_sign(first[size - 1]) && (size == 1 || first[size - 2] == ' ')) --size;
  // No letter is cut in two.
  while (size > 0 && size < first.size() && (static_cast<unsigned char>(first[size]) & 0xC0U) == 0x80U)
    --size;
  return size;
}

// The bytes that all texts end with after their first `begin` ones, but for those of a number.
std::size_t common_end(const std::vector<std::string>& texts, std::size_t begin) {
  const std::string& first = texts.front();
  std::size_t size = first.size() - begin;
  for (const std::string& text : texts) {
    const auto differ = std::mismatch(text.rbegin(), text.rend() - static_cast<std::ptrdiff_t>(begin),
                                      first.rbegin(), first.rend() - static_cast<std::ptrdiff_t>(begin));
    size = std::min(size, static_cast<std::size_t>(differ.first - text.rbegin()));
  }
  const auto at = [&] { return first[first.size() - size]; };
  while (size > 0 && (is_digit_or_point(at()) || (static_cast<unsigned char>(at()) & 0xC0U) == 0x80U)) --size;
  return size;
}

// A single header has nothing in common with others: its number is the first that stands in it.
void bounds_of_number(const std::string& text, std::size_t& begin, std::size_t& end) {
  const std::size_t first = text.find_first_of("0123456789");
  if (first == std::string::npos) return;
  begin = first > 0 && is_sign(text[first - 1]) ? first - 1 : first;
  end = text.size() - std::min(text.find_first_not_of("0123456789.", first), text.size());
}

std::string_view without_brackets(std::string_view text) {
  text = trimmed(text);
  while (!text.empty() && std::string_view("[(_").find(text.front()) != std::string_view::npos)
    text.remove_prefix(1);
  while (!text.empty() && std::string_view("])_").find(text.back()) != std::string_view::npos)
    text.remove_suffix(1);
  return trimmed(text);
}

}  // namespace

Result<CellHeaders> read_cell_headers(const std::vector<std::string>& headers,
                                      const std::optional<Unit>& stated, const UnitSystem& units,
                                      const Place& place, Diagnostics& diagnostics) {
  CellHeaders said;
  std::size_t begin = 0;
  std::size_t end = 0;
  if (headers.size() == 1) {
    bounds_of_number(headers.front(), begin, end);
  } else {
    begin = common_begin(headers);
    end = common_end(headers, begin);
  }
  bool numbers = true;
  for (const std::string& header : headers) {
    const std::string_view rest =
        without_brackets(std::string_view(header).substr(begin, header.size() - begin - end));
    said.texts.emplace_back(rest);
    const auto form = read_number_form(rest, {}, false);
    const NumberReading number = read_number(form ? form->plain : std::string(rest));
    numbers = numbers && number.fault == NumberFault::none;
    said.numbers.push_back(number.value);
  }
  if (!numbers) {
    if (stated) {
      diagnostics.add(Code::headers_are_no_numbers, place, {stated->text(), said.texts.front()});
      return std::nullopt;
    }
    said.type.kind = Kind::text;
    said.numbers.clear();
    return said;
  }
  said.texts.clear();
  const std::string& first = headers.front();
  const auto own =
      read_header_unit(without_brackets(std::string_view(first).substr(first.size() - end)), units);
  said.type.unit = stated ? *stated : own.unit.value_or(Unit());
  if (!stated || !own.unit) return said;
  if (mismatch(*own.unit, *stated)) {
    diagnostics.add(Code::header_units_differ, place, {own.unit->text(), stated->text(), first});
    return std::nullopt;
  }
  const Conversion convert = conversion(*own.unit, *stated);
  for (double& number : said.numbers) number = convert(number);
  return said;
}

Result<NamedColumn> read_named_column(const Passage& text, const UnitSystem& units,
                                      Diagnostics& diagnostics) {
  NamedColumn named;
  std::string_view rest = trimmed(text.text());
  if (rest.ends_with(']')) {
    const std::size_t open = rest.rfind('[');
    const std::string unit(open == std::string_view::npos
                               ? std::string_view()
                               : trimmed(rest.substr(open + 1, rest.size() - open - 2)));
    const UnitReading reading = units.read(unit);
    if (!reading.unit) {
      diagnostics.add(Code::unknown_unit, text.place(), {unit, reading.suggestion});
      return std::nullopt;
    }
    named.unit = reading.unit;
    rest = trimmed(rest.substr(0, open));
  }
  if (rest.ends_with('"')) {
    const std::size_t open = rest.find('"');
    named.label = std::string(rest.substr(open + 1, rest.size() - open - 2));
    rest = trimmed(rest.substr(0, open));
  }
  named.symbol = std::string(rest);
  if (named.symbol.empty() || symbol_of(named.symbol) != named.symbol) {
    diagnostics.add(Code::bad_name, text.place(), {named.symbol});
    return std::nullopt;
  }
  if (named.label.empty()) named.label = named.symbol;
  return named;
}

}  // namespace opensum
