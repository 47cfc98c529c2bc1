// Cells and headers: numbers, dates and units in them are found or not, and those that are printed are read
// as they were.
#include <cmath>
#include <numeric>

#include "bytes.h"
#include "table/calendar.h"
#include "table/date_format.h"
#include "table/date_text.h"
#include "table/header_units.h"
#include "table/number_text.h"
#include "table/typing.h"
#include "table/value_with_error.h"

using namespace opensum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  const std::string text = text_of(bytes, size);
  const NumberReading number = read_number(text);
  if (number.fault == NumberFault::none && std::isfinite(number.value)) {
    const std::string printed = number_text(number.value, -1);
    require(read_number(printed).value == number.value, "`" + printed + "` is the number that was printed");
  }
  if (const auto date = read_date(text)) {
    const std::string printed = date_text(*date, true);
    const auto again = read_date(printed);
    require(again && *again == *date, "`" + printed + "` is the date that was printed");
  }
  (void)read_duration(text);
  const UnitSystem units;
  require(read_headers({text, "v (m/s)", text}, units).size() == 3, "each header is read");
  (void)read_header_unit(text, units);
  std::vector<std::string_view> cells;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    cells.push_back(std::string_view(text).substr(at, end - at));
    at = end + 1;
  }
  Column column;
  CellRules rules;
  std::vector<std::size_t> lines(cells.size());
  std::iota(lines.begin(), lines.end(), std::size_t{1});
  type_cells(column, cells, lines, rules);
  return 0;
}
