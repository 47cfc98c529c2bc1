// opensum calc: one calculation with units.
#include <cmath>
#include <map>
#include <memory>

#include "cli/command.h"
#include "compute/derivatives.h"
#include "compute/evaluator.h"
#include "equation/checker.h"
#include "equation/parser.h"
#include "equation/program.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::string result_text(const Chunk& chunk, const Type& type) {
  switch (type.kind) {
    case Kind::text:
      return std::string(chunk.texts[0]);
    case Kind::truth:
      return chunk.numbers[0] != 0 ? "true" : "false";
    case Kind::date:
      return date_text(chunk.instant_at(0), type.clock);
    case Kind::number:
      break;
  }
  const std::string number = number_text(chunk.numbers[0]);
  return type.unit.parts.empty() ? number : number + " " + type.unit.text();
}

// What the result is off when each number is off by its uncertainty, all together (JCGM 100:2008, 5.1.2).
double uncertainty_of(const Program& program) {
  std::vector<Operand> by;
  for (const UncertainNumber& number : program.uncertain)
    by.push_back({Operand::Source::number, number.index});
  const Tangents tangents = TangentEvaluator(program, by).run(std::span<const Chunk* const>(), {}, 1);
  std::map<std::size_t, double> off;
  for (std::size_t k = 0; k < by.size(); ++k) {
    for (const NumberPart& part : program.uncertain[k].parts)
      off[part.number] += part.by * tangents.derivatives[k][0];
  }
  double variance = 0;
  for (const auto& [number, size] : off) variance += size * size;
  return std::sqrt(variance);
}

int calc(const std::string& expression, Streams& streams) {
  Diagnostics diagnostics;
  const Passage passage = Passage::whole("expression", expression);
  const NodePtr tree = parse_expression(passage, diagnostics);
  if (!tree || diagnostics.has_errors()) return report(diagnostics, streams);
  const Scope scope;
  const UnitSystem units;
  const NullPolicy policy;
  UncertainNumbers numbers;
  CheckContext context{scope, units, policy};
  context.uncertain = &numbers;
  const CheckedPtr checked = check_expression(*tree, passage, context, diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  const Program program = compile(*checked);
  if (!program.stages.empty()) {
    diagnostics.add(Code::reduction_without_rows, passage.place(checked->span),
                    {program.stages.front().name});
    return report(diagnostics, streams);
  }
  const Chunk value = Evaluator(program, 0).run({}, 1);
  if (const Null null = value.null_at(0)) {
    streams.out << "null (" << reason_name(null.reason()) << ")\n";
  } else {
    streams.out << result_text(value, checked->type) << '\n';
    if (!program.uncertain.empty() && checked->type.kind == Kind::number) {
      const Unit& unit = checked->type.unit;
      const Unit shown = difference_unit(unit);
      const double size = conversion(step_unit(unit), shown)(uncertainty_of(program));
      streams.out << "standard uncertainty " << number_text(size, 2)
                  << (shown.parts.empty() ? "" : " " + shown.text()) << '\n';
    }
  }
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_calc(CommandLine& command_line) {
  auto expression = std::make_shared<std::string>();
  Command command =
      command_line.add("calc", "calculate one expression with units",
                       "  opensum calc '0.5 * 2.1 [g] * (3 [m/s])^2 in [mJ]'\n"
                       "  opensum calc 'codata.R * kelvin(25 [degC]) / (101325 [Pa]) in [L/mol]'");
  command.argument("EXPRESSION", *expression, "what to calculate").needed();
  command.runs([expression](Streams& streams) { return calc(*expression, streams); });
}

}  // namespace opensum
