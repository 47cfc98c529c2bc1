// Texts as Unicode sees them.
#include "base/unicode.h"

#include <gtest/gtest.h>

namespace opensum {
namespace {

TEST(DisplayWidth, CountsColumnsOfTheTerminal) {
  EXPECT_EQ(display_width("°C"), 2U);
  EXPECT_EQ(display_width("e\u0301"), 1U);
  EXPECT_EQ(display_width("温"), 2U);
}

TEST(Case, IsThatOfEachLetterInAnyScript) {
  EXPECT_EQ(upper_case("aé µ ω 9"), "AÉ Μ Ω 9");
  EXPECT_EQ(lower_case("AÉ Ω 9"), "aé ω 9");
  for (const char* text : {"", "x", "Straße", "ЯЗЬ", "温", "a\u0301"})
    EXPECT_EQ(lower_case(upper_case(lower_case(text))), lower_case(text)) << text;
}

TEST(NormalForm, IsOneForWhatLooksTheSame) {
  EXPECT_EQ(normalised("e\u0301"), "é");
  EXPECT_EQ(normalised("\u212B"), "\u00C5");
  for (const char* text : {"", "x", "é", "温", "A\u030A\u0301"})
    EXPECT_EQ(normalised(normalised(text)), normalised(text)) << text;
}

}  // namespace
}  // namespace opensum
