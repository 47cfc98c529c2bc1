// Places inside the strings of a study, in every kind of string, and the written order of tables.
#include "files/toml_text.h"

#include <gtest/gtest.h>

#include <functional>

namespace opensum {
namespace {

TEST(TomlText, KnowsWhereEachByteStands) {
  const std::string raw =
      "'é' = 'ab'\r\n"
      "b = \"x\\ty\\u00e9z\" # comment\n"
      "c = '''\n  one\r\n  two'''\n"
      "d = \"\"\"\\\n   go\"q\"\"\"\"\n"
      "[t.u]\ne = { f = 'in line', g = ''' ''tick'' ''' }\n";
  auto source = std::make_shared<const Source>("test.toml", raw);
  Diagnostics diagnostics;
  const auto toml = TomlText::parse(source, diagnostics);
  ASSERT_TRUE(toml) << render(diagnostics);
  std::size_t strings = 0;
  const std::function<void(const toml::table&)> walk = [&](const toml::table& table) {
    for (const auto& entry : toml->entries(table)) {
      if (const auto* nested = entry.value->as_table()) walk(*nested);
      const auto* value = entry.value->as_string();
      if (value == nullptr) continue;
      const Passage passage = toml->passage(*value);
      // The parser's text with its folded line ends is the same text.
      EXPECT_EQ(passage.text(), value->get()) << entry.key;
      for (std::size_t i = 0; i < passage.text().size(); ++i) {
        const std::size_t at = passage.place({i, i + 1}).span.begin;
        const char decoded = passage.text()[i];
        EXPECT_TRUE(raw[at] == '\\' || raw[at] == decoded) << entry.key << " at " << i;
      }
      ++strings;
    }
  };
  walk(toml->root());
  EXPECT_EQ(strings, 6U);
}

TEST(TomlText, KeepsTheWrittenOrder) {
  auto source = std::make_shared<const Source>("t", "z = 1\n[sheet.b]\nx=1\n[sheet.a]\ny=1\nx=2\n[other]\n");
  Diagnostics diagnostics;
  const auto toml = TomlText::parse(source, diagnostics);
  ASSERT_TRUE(toml);
  std::string order;
  for (const auto& entry : toml->entries(toml->root())) order += entry.key + " ";
  for (const auto& entry : toml->entries(*toml->root()["sheet"].as_table())) order += entry.key + " ";
  EXPECT_EQ(order, "z sheet other b a ");
}

}  // namespace
}  // namespace opensum
