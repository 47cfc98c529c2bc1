// Equations: parsed, printed and parsed again they are the same tree, and the fast evaluator gives what the
// plain one does.
#include <bit>

#include "bytes.h"
#include "compute/columns_in_scope.h"
#include "compute/whole_column.h"
#include "equation/checker.h"
#include "equation/parser.h"
#include "reference/plain_evaluator.h"

using namespace opensum;

namespace {

// Two columns of numbers, one of text and one of dates, with nulls.
class Sheet {
 public:
  Sheet() {
    add("a", "kg", Kind::number, {0, -1, 2.5, 1e308, 1e-320, -0.0, 3});
    add("b", "g", Kind::number, {1, 0, -2, 7, 1e-5, 12, 0.5});
    add("t", "degC", Kind::number, {20, -273.15, 0, 100, 21, 22, 23});
    add("day", "1", Kind::date, {0, 86400, 1e9, -5e8, 3600, 1.5e9, 7});
    add("word", "1", Kind::text, {});
    pointers = put_in_scope(columns, scope);
    scope.sheet = "bench";
    own = origins.add("bench", "result");
  }

  static constexpr std::size_t kRows = 7;
  UnitSystem units;
  NullPolicy policy;
  Scope scope;
  std::vector<Column> columns;
  std::vector<const Column*> pointers;
  Origins origins;
  OriginId own = 0;

 private:
  void add(const char* symbol, const char* unit, Kind kind, const std::vector<double>& numbers) {
    Column column;
    column.symbol = symbol;
    column.unit = *units.read(unit).unit;
    column.kind = kind;
    column.rows = kRows;
    column.origin = origins.add("bench", symbol);
    Chunk chunk;
    chunk.numbers = numbers;
    if (kind == Kind::text) chunk.texts = {"red", "", "10:30", "x", "red", "12", "\xC3\xA9"};
    chunk.nulls.resize(kRows);
    chunk.nulls[(columns.size() * 3 + 1) % kRows] =
        Null(static_cast<Reason>(1 + columns.size()), column.origin);
    column.chunks.push_back(std::move(chunk));
    columns.push_back(std::move(column));
  }
};

void compare(Sheet& sheet, const Checked& checked, const std::string& equation) {
  const Program program = compile(checked);
  EvaluationNotes notes;
  const std::vector<Chunk> chunks = evaluate_column(
      program,
      {sheet.pointers, Sheet::kRows, sheet.own, sheet.origins, std::make_shared<MadeTexts>(), notes});
  for (std::size_t row = 0; row < Sheet::kRows; ++row) {
    const reference::Value expected = reference::evaluate(checked, sheet.pointers, row, sheet.own);
    const Null null = chunks.front().null_at(row);
    require(null.reason() == expected.null.reason(), "both evaluators give the same null: " + equation);
    if (null) continue;
    const bool same = checked.type.kind == Kind::text
                          ? chunks.front().texts[row] == expected.text
                          : std::bit_cast<std::uint64_t>(chunks.front().numbers[row]) ==
                                std::bit_cast<std::uint64_t>(expected.number);
    require(same, "both evaluators give the same value: " + equation);
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  const Passage passage = Passage::whole("equation", text_of(bytes, size));
  Diagnostics diagnostics;
  (void)parse_definitions(passage, diagnostics);
  (void)parse_claims(passage, diagnostics);
  (void)parse_formulas(passage, diagnostics);
  (void)parse_loop_header(passage, diagnostics);
  require_visible(diagnostics);
  Diagnostics of_tree;
  const NodePtr tree = parse_expression(passage, of_tree);
  if (!tree) return 0;
  const std::string printed = print(*tree);
  const Passage passage_again = Passage::whole("again", printed);
  const NodePtr again = parse_expression(passage_again, of_tree);
  require(again != nullptr, "`" + printed + "` can be parsed:\n" + render(of_tree));
  require(print(*again) == printed, "`" + printed + "` is printed as it was, not `" + print(*again) + "`");
  Sheet sheet;
  const CheckedPtr checked =
      check_expression(*tree, passage, {sheet.scope, sheet.units, sheet.policy}, of_tree);
  require_visible(of_tree);
  if (checked) compare(sheet, *checked, printed);
  return 0;
}
