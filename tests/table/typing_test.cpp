// Kinds of columns, missing tokens, numbers and dates as text.
#include "table/typing.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "table/date_text.h"
#include "table/number_form.h"
#include "table/number_text.h"

namespace opensum {
namespace {

CellRules plain_rules(std::optional<Kind> kind = std::nullopt) {
  CellRules rules;
  rules.missing = default_missing();
  rules.missing_quantities = default_missing_quantities();
  rules.kind = kind;
  return rules;
}

Column typed(const std::vector<std::string_view>& cells, CellRules rules = plain_rules()) {
  Column column;
  column.origin = 3;
  std::vector<std::size_t> lines;
  for (std::size_t i = 0; i < cells.size(); ++i) lines.push_back(i + 2);
  type_cells(column, cells, lines, rules);
  return column;
}

TEST(Kinds, AreFoundFromTheCells) {
  EXPECT_EQ(typed({"1", "2.5", "-3e2"}).kind, Kind::number);
  EXPECT_EQ(typed({"1", "", "x"}).kind, Kind::text);
  EXPECT_EQ(typed({"1", "2", "x"}).kind, Kind::number);
  EXPECT_EQ(typed({"true", "FALSE", ""}).kind, Kind::truth);
  EXPECT_EQ(typed({"2031-04-02", "2031-04-03T10:00", ""}).kind, Kind::date);
  EXPECT_EQ(typed({"", "NA", "-"}).kind, Kind::number);
  EXPECT_EQ(typed({}).kind, Kind::number);
  EXPECT_EQ(typed({"inf", "nan", "0x10"}).kind, Kind::text);
  EXPECT_EQ(typed({"007", "8", "9"}).kind, Kind::text);
  EXPECT_EQ(typed({"1234567890123456"}).kind, Kind::text);
  EXPECT_EQ(typed({"<0.05", "0.2", "0.3"}).kind, Kind::number);
  EXPECT_EQ(typed({"007", "8"}, plain_rules(Kind::number)).kind, Kind::number);
}

TEST(Cells, InOtherFormsAreNumbers) {
  const struct {
    const char* cell;
    const char* plain;
    double uncertainty;
  } rows[] = {{"\u22121.5", "-1.5", 0},
              {"1.5×10^3", "1.5e3", 0},
              {"1.5 x 10^-3", "1.5e-3", 0},
              {"1.5·10³", "1.5e3", 0},
              {"\u22122.5×10\u207B\u00B9\u00B2", "-2.5e-12", 0},
              {"1.5*10^(+4)", "1.5e+4", 0},
              {"5.0(1)", "5.0", 0.1},
              {"5.00(12)×10^2", "5.00e2", 12},
              {"5.034(12)", "5.034", 0.012},
              {"1230(150)", "1230", 150},
              {"12.3(1.2)", "12.3", 1.2},
              {"-0.5(3)e-3", "-0.5e-3", 3e-4},
              {"1.234(56)e-09", "1.234e-09", 5.6e-11},
              {"5.0 ± 0.25", "5.0", 0.25},
              {"5 +/- 1 %", "5", 1},
              {"2.5±0.5×10^2", "2.5e2", 50},
              {"5 %", "5", 0},
              {"-5.5%", "-5.5", 0}};
  CellRules percent = plain_rules();
  percent.percent = true;
  for (const auto& row : rows) {
    const auto form = read_number_form(row.cell, {}, true);
    ASSERT_TRUE(form) << row.cell;
    EXPECT_EQ(form->plain, row.plain);
    const double stated = uncertainty_in_cell(row.cell, {}, true);
    EXPECT_NEAR(std::isnan(stated) ? 0 : stated, row.uncertainty, 1e-15 * row.uncertainty) << row.cell;
    const Column column = typed({row.cell, "7"}, percent);
    EXPECT_EQ(column.kind, Kind::number) << row.cell;
    EXPECT_EQ(column.number(0), read_number(row.plain).value) << row.cell;
    EXPECT_EQ(column.uncertain_cells, row.uncertainty > 0 ? 1U : 0U);
    EXPECT_FALSE(column.cells_are_plain);
  }
  for (const char* cell :
       {"5 %%", "1.5x10", "1.5e3x10^2", "x10^3", "5.0()", "5.0(1", "(1)", "5(-1)", "5.0(1.2e1)", "5.0(1)e",
        "5.0(1)(2)", "5.0(1) ± 2", "2x3", "1×10^1.5", "%", "\u2212", "1\u22122"}) {
    EXPECT_FALSE(read_number_form(cell, {}, true)) << cell;
  }
  EXPECT_FALSE(read_number_form("5 %", {}, false));
  const auto comma = read_number_form("1.234,5×10^2", {',', "."}, false);
  ASSERT_TRUE(comma);
  EXPECT_EQ(comma->plain, "1234.5e2");
  const Column limits = typed({"<=0.05", "\u22640.1", ">= 3", "\u22654", "1", "2", "3", "4"});
  const Reason expected[] = {Reason::below_limit, Reason::below_limit, Reason::above_limit,
                             Reason::above_limit};
  const double values[] = {0.05, 0.1, 3, 4};
  for (std::size_t row = 0; row < 4; ++row) {
    EXPECT_EQ(limits.null(row).reason(), expected[row]);
    EXPECT_EQ(limits.number(row), values[row]);
  }
}

TEST(Cells, OfTextAreInNormalForm) {
  const Column column = typed({"e\u0301t\u0061\u0301", "\u00e9t\u00e1", "x"});
  EXPECT_EQ(column.text(0), column.text(1));
  EXPECT_EQ(column.chunks[0].source[0], "e\u0301t\u0061\u0301");
}

TEST(Cells, BecomeNullsWithTheirReason) {
  const Column column = typed({"1", "", "n/a", "err", "<0.05", "> 20", "1e999", "-", "NaN", " 7 "});
  const Reason expected[] = {Reason::none,        Reason::missing,     Reason::missing,  Reason::unreadable,
                             Reason::below_limit, Reason::above_limit, Reason::overflow, Reason::missing,
                             Reason::missing,     Reason::none};
  for (std::size_t row = 0; row < 10; ++row) {
    EXPECT_EQ(column.null(row).reason(), expected[row]) << row;
    EXPECT_EQ(column.null(row).origin(), column.null(row) ? 3U : 0U);
  }
  EXPECT_EQ(column.number(4), 0.05);
  EXPECT_EQ(column.number(5), 20);
  EXPECT_EQ(column.number(9), 7);
  EXPECT_EQ(column.unreadable_count, 2U);
  EXPECT_EQ(column.unreadable[0].text, "err");
  EXPECT_EQ(column.unreadable[0].line, 5U);
}

TEST(MissingTokens, MatchNumbersByValue) {
  CellRules rules = plain_rules();
  rules.missing.emplace_back("-999");
  const Column column = typed({"1", "-999", "-999.0", "-9.99e2", "-998"}, rules);
  EXPECT_EQ(column.null_count(), 3U);
  EXPECT_EQ(column.number(4), -998);
}

TEST(Numbers, ReadStrictly) {
  for (const char* text :
       {"", " ", "1 2", "1.2.3", "e5", "1e", "--1", "1_000", "0x1F", "inf", "nan", "1,5", "."}) {
    EXPECT_EQ(read_number(text).fault, NumberFault::malformed) << text;
  }
  EXPECT_EQ(read_number("1e999").fault, NumberFault::too_large);
  EXPECT_EQ(read_number("1e-999").value, 0);
  EXPECT_EQ(read_number("+.5").value, 0.5);
  EXPECT_EQ(read_number("5.").value, 5);
}

// Against the C library, on random decimal texts and on hard cases of rounding.
TEST(Numbers, AgreeWithTheLibrary) {
  std::mt19937 random(7);
  std::size_t compared = 0;
  for (int i = 0; i < 20000; ++i) {
    std::string text;
    if (random() % 2 == 0) text += '-';
    for (unsigned k = 0; k < 1 + random() % 20; ++k) text += static_cast<char>('0' + random() % 10);
    if (random() % 2 == 0) text += "." + std::to_string(random());
    if (random() % 3 == 0) text += "e" + std::to_string(static_cast<int>(random() % 600) - 300);
    const double expected = std::strtod(text.c_str(), nullptr);
    const NumberReading reading = read_number(text);
    if (std::isinf(expected)) {
      EXPECT_EQ(reading.fault, NumberFault::too_large) << text;
    } else {
      EXPECT_EQ(reading.value, expected) << text;
      ++compared;
    }
  }
  EXPECT_GT(compared, 15000U);
  for (const char* text : {"9007199254740993", "2.2250738585072011e-308", "1.7976931348623157e308", "5e-324",
                           "0.1000000000000000055511151231257827", "179769313486231570000e290"}) {
    EXPECT_EQ(read_number(text).value, std::strtod(text, nullptr)) << text;
  }
}

TEST(Numbers, AreWrittenWithTwelveDigits) {
  const struct {
    double value;
    int digits;
    const char* text;
  } rows[] = {
      {0, 0, "0"},
      {-0.0, 0, "0"},
      {1.0 / 3, 0, "0.333333333333"},
      {2.5, 0, "2.5"},
      {123456789012345, 0, "123456789012345"},
      {1e20, 0, "1e20"},
      {1e-7, 0, "1e-7"},
      {0.1 + 0.2, 0, "0.3"},
      {0.1 + 0.2, -1, "0.30000000000000004"},
      {1234.5678, 3, "1.23e3"},
      {-12.345, 4, "-12.35"},
      {1e-300, 0, "1e-300"},
      {9007199254740993e3, 0, "9.00719925474e18"},
  };
  for (const auto& row : rows) EXPECT_EQ(number_text(row.value, row.digits), row.text) << row.value;
}

TEST(Numbers, ShortestTextReadsBackTheSame) {
  std::mt19937_64 random(11);
  for (int i = 0; i < 5000; ++i) {
    const double value = std::ldexp(static_cast<double>(random()), static_cast<int>(random() % 200) - 150);
    EXPECT_EQ(read_number(number_text(value, -1)).value, value);
  }
}

TEST(Dates, ReadAndWriteIso) {
  EXPECT_EQ(read_date("1970-01-01")->seconds, 0);
  EXPECT_EQ(read_date("2000-03-01")->seconds, 951868800);
  EXPECT_EQ(read_date("2000-03-01T12:00:00.5")->seconds, 951868800 + 43200.5);
  EXPECT_EQ(read_date("2000-03-01 12:00")->seconds, 951868800 + 43200);
  EXPECT_EQ(read_date("2000-03-01T12:00:00+02:00")->seconds, 951868800 + 36000);
  EXPECT_EQ(read_date("2000-03-01T12:00:00Z")->seconds, 951868800 + 43200);
  EXPECT_EQ(read_date("1969-12-31T23:59:59")->seconds, -1);
  for (const char* text :
       {"2031-02-29", "2031-13-01", "31-01-01", "2031-1-1", "2031-01-01T25:00", "2031-01-01x", ""}) {
    EXPECT_FALSE(read_date(text)) << text;
  }
  for (const char* text : {"2031-04-02", "1950-12-31T23:59:59", "2031-04-02T10:20:30.25"}) {
    EXPECT_EQ(date_text(*read_date(text)), text);
  }
}

TEST(NumberStyles, AreReadStrictly) {
  const NumberStyle german{',', "."};
  const NumberStyle spaced{',', "\u202f"};
  const struct {
    NumberStyle style;
    const char* text;
    double value;
  } good[] = {
      {german, "1,5", 1.5},
      {german, "1.234,5", 1234.5},
      {german, "-1.234.567", -1234567},
      {german, "12", 12},
      {german, "1,5e3", 1500},
      {german, "+,5", 0.5},
      {spaced, "1\u202f234,5", 1234.5},
      {{'.', "'"}, "12'345.6", 12345.6},
      {{'.', ","}, "1,234", 1234},
  };
  for (const auto& row : good) {
    EXPECT_EQ(read_number(row.text, row.style).fault, NumberFault::none) << row.text;
    EXPECT_EQ(read_number(row.text, row.style).value, row.value) << row.text;
  }
  for (const char* text :
       {"1.5", "1.23,4", "1234.567,8", "1..234", ".123", "1,5,6", "1,234.5", "12.34", "1,", "", "1.234.56"}) {
    const bool allowed = std::string(text) == "1,";
    EXPECT_EQ(read_number(text, german).fault == NumberFault::none, allowed) << text;
  }
  EXPECT_FALSE((NumberStyle{',', ","}).is_possible());
  EXPECT_FALSE((NumberStyle{'.', "ab"}).is_possible());
  EXPECT_TRUE(spaced.is_possible());
}

TEST(Cells, AreReadInTheStyleOfTheirFile) {
  CellRules rules = plain_rules();
  rules.style = {',', "."};
  const Column column = typed({"1.234,5", "-999,0", "<0,5", "1.5", "7"}, rules);
  EXPECT_EQ(column.kind, Kind::number);
  EXPECT_EQ(column.number(0), 1234.5);
  EXPECT_EQ(column.null(2).reason(), Reason::below_limit);
  EXPECT_EQ(column.number(2), 0.5);
  EXPECT_EQ(column.null(3).reason(), Reason::unreadable);
  rules.missing.emplace_back("-999");
  EXPECT_EQ(typed({"1,5", "-999,0", "2"}, rules).null(1).reason(), Reason::missing);
}

TEST(Cells, OfDatesAndDurationsAreReadInTheirFormat) {
  CellRules rules = plain_rules();
  DateFormatFault fault;
  rules.date_format = DateFormat::parse("%d.%m.%Y %H:%M:%S", fault);
  const Column dates = typed({"29.02.2028 23:59:59.5", "30.02.2028 00:00:00", "2031-04-02",
                              "02.04.2031 10:00:00 x", "02.04.2031 10:00:00"},
                             rules);
  EXPECT_EQ(dates.kind, Kind::date);
  EXPECT_EQ(dates.instant(0), *read_date("2028-02-29T23:59:59.5"));
  EXPECT_EQ(dates.null(1).reason(), Reason::unreadable);
  EXPECT_EQ(dates.instant(2), *read_date("2031-04-02"));
  EXPECT_EQ(dates.null(3).reason(), Reason::unreadable);
  EXPECT_EQ(dates.instant(4), *read_date("2031-04-02T10:00"));
  CellRules clock = plain_rules(Kind::number);
  clock.second = 1.0 / 60;  // in minutes
  const Column durations = typed({"1:30", "0:00:30", "5", "x"}, clock);
  EXPECT_EQ(durations.number(0), 90);
  EXPECT_EQ(durations.number(1), 0.5);
  EXPECT_EQ(durations.number(2), 5);
  EXPECT_EQ(durations.null(3).reason(), Reason::unreadable);
}

}  // namespace
}  // namespace opensum
