// opensum calc: one calculation with units.
#include <CLI/CLI.hpp>
#include <memory>

#include "cli/command.h"
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
      return date_text(chunk.numbers[0], type.clock);
    case Kind::number:
      break;
  }
  const std::string number = number_text(chunk.numbers[0]);
  return type.unit.parts.empty() ? number : number + " " + type.unit.text();
}

int calc(const std::string& expression, Streams& streams) {
  Diagnostics diagnostics;
  const Passage passage = Passage::whole("expression", expression);
  const NodePtr tree = parse_expression(passage, diagnostics);
  if (!tree || diagnostics.has_errors()) return report(diagnostics, streams);
  const Scope scope;
  const UnitSystem units;
  const NullPolicy policy;
  const CheckedPtr checked = check_expression(*tree, passage, {scope, units, policy}, diagnostics);
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
  }
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_calc(CLI::App& app, Chosen& chosen) {
  auto expression = std::make_shared<std::string>();
  CLI::App* command = add_command(app, "calc", "calculate one expression with units",
                                  "  opensum calc '0.5 * 2.1 [g] * (3 [m/s])^2 in [mJ]'\n"
                                  "  opensum calc 'codata.R * kelvin(25 [degC]) / (101325 [Pa]) in [L/mol]'");
  command->add_option("EXPRESSION", *expression, "what to calculate")->required();
  command->callback([expression, &chosen] {
    chosen = [expression](Streams& streams) { return calc(*expression, streams); };
  });
}

}  // namespace opensum
