// Functions of other habits: each is told what it is called here, in a form that can be written.
#include "message/other_words.h"

#include <gtest/gtest.h>

#include "equation/function_texts.h"
#include "equation/parser.h"

namespace opensum {
namespace {

bool is_written_so(const std::string& text) {
  Diagnostics diagnostics;
  const auto source = std::make_shared<const Source>("words", text);
  return parse_expression(Passage(source, 0, text), diagnostics) != nullptr;
}

TEST(OtherWords, AreNoFunctionsOfOurs) {
  for (const std::string& word : other_functions()) EXPECT_EQ(find_signature(word), nullptr) << word;
}

TEST(OtherWords, AreAnsweredWithWhatCanBeWritten) {
  std::size_t written = 0;
  const std::vector<std::string> all = {"flow", "dp + 1 [kPa]", "t_out", "x4"};
  for (const std::string& word : other_functions()) {
    for (std::size_t count = 0; count <= all.size(); ++count) {
      const std::vector<std::string> arguments(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(count));
      const std::string here = call_here(word, arguments);
      ASSERT_FALSE(here.empty()) << word;
      EXPECT_EQ(here.find('$'), std::string::npos) << here;
      // Prose offers several, or says what to write elsewhere.
      const bool prose = here.find(", or ") != std::string::npos ||
                         here.find(" along a row") != std::string::npos ||
                         here.find(" of base ") != std::string::npos || here.starts_with("link.");
      if (prose) continue;
      EXPECT_TRUE(is_written_so(here)) << word << ": " << here;
      ++written;
    }
  }
  std::cout << all.size() + 1 << " calls each of " << other_functions().size() << " words, " << written
            << " answered with an expression\n";
  EXPECT_GT(written, 300U);
}

// What `opensum functions` says of each.
TEST(FunctionTexts, AreThereForEveryFunction) {
  for (const Signature& signature : signatures()) {
    EXPECT_FALSE(signature.purpose.empty()) << signature.name;
    EXPECT_FALSE(in_and_out(signature).empty()) << signature.name;
    EXPECT_FALSE(nulls_in(signature).empty()) << signature.name;
    EXPECT_FALSE(family_name(signature.family).empty()) << signature.name;
    EXPECT_TRUE(is_written_so(signature.usage)) << signature.usage;
  }
}

TEST(OtherWords, TakeUpTheArgumentsOfTheCall) {
  EXPECT_EQ(call_here("min", {"a", "b", "c"}), "row_min(a, b, c)");
  EXPECT_EQ(call_here("MIN", {"a"}), "col_min(a)");
  EXPECT_EQ(call_here("ifelse", {"a > b", "1", "0"}), "if(a > b, 1, 0)");
  EXPECT_EQ(call_here("lag", {"x", "3"}), "previous(x, rows: 3)");
  EXPECT_EQ(call_here("between", {"x", "1", "2"}), "1 <= x and x <= 2");
  EXPECT_EQ(call_here("no_such_word", {"x"}), "");
}

}  // namespace
}  // namespace opensum
