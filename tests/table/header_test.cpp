// Symbols made of labels.
#include "table/header.h"

#include <gtest/gtest.h>

namespace opensum {
namespace {

TEST(Symbols, AreMadeOfLabels) {
  const struct {
    const char* label;
    const char* symbol;
  } rows[] = {{"Heat flux", "Heat_flux"},
              {"2nd run", "c_2nd_run"},
              {"pi", "pi_"},
              {"Δp", "Δp"},
              {"R\u2126", "R\u03A9"},
              {"e\u0301tat", "état"},
              {"", ""},
              {"%", ""},
              {"x (", "x"},
              {"Signal/noise", "Signal_noise"},
              {"Cell (A)", "Cell_A"},
              {"codata", "codata_"}};
  for (const auto& row : rows) EXPECT_EQ(symbol_of(row.label), row.symbol) << row.label;
}

TEST(Symbols, AreNumberedWhereRepeated) {
  std::vector<std::string> symbols = {"a", "b", "a", "a_1", "a"};
  number_repeated(symbols);
  EXPECT_EQ(symbols, (std::vector<std::string>{"a_2", "b", "a_3", "a_1", "a_4"}));
}

}  // namespace
}  // namespace opensum
