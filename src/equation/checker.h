// Third stage of an equation: tree to checked tree. Names, kinds, units and null rules are settled here,
// before a row is computed. Sole entry points: check_definition, check_expression and check_condition.
#pragma once

#include "equation/check_context.h"

namespace opensum {

/// That a column with cells that cannot be read is used; `header` and `file` are those of the source.
Diagnostic unreadable_cells(const ColumnHead& column, const std::string& header, const std::string& file,
                            const Place& place);

/// The checked right side of a definition, in the unit that the definition states or else in the unit that
/// follows from the algebra. Null where there are errors, which are reported, each with its narrowest span.
[[nodiscard]] CheckedPtr check_definition(const Definition& definition, const CheckContext& context,
                                          Diagnostics& diagnostics);

/// The same for an expression without a name.
[[nodiscard]] CheckedPtr check_expression(const Node& expression, const Passage& passage,
                                          const CheckContext& context, Diagnostics& diagnostics);

/// A condition, as in `keep` and claims.
[[nodiscard]] CheckedPtr check_condition(const Node& expression, const Passage& passage,
                                         const CheckContext& context, Diagnostics& diagnostics);

/// A rule that fills the column `context.self`: of its kind and in its unit.
[[nodiscard]] CheckedPtr check_fill(const Node& expression, const Passage& passage,
                                    const CheckContext& context, Diagnostics& diagnostics);

/// Reports a fault of reading the unit at `span` of a passage.
void report_unit_fault(const UnitReading& reading, const Passage& passage, Span span,
                       Diagnostics& diagnostics);

/// The checked tree of a lone constant value.
CheckedPtr constant_node(double number, Type type, Span span);
CheckedPtr constant_node(const Instant& date, Type type, Span span);

}  // namespace opensum
