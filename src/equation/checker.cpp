// Third stage of an equation: names, literals and units.
#include "equation/checker.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/limits.h"
#include "equation/checker_impl.h"
#include "equation/operation.h"
#include "message/nearest.h"
#include "message/other_words.h"
#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kLongestQuote = 40;

std::string shortened(std::string text) {
  std::replace(text.begin(), text.end(), '\n', ' ');
  if (text.size() <= kLongestQuote) return text;
  std::size_t end = kLongestQuote;
  while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) --end;
  return text.substr(0, end) + "…";
}

// The first part of a product that counts turns; the whole where no part does.
const Checked& counting_part(const Checked& value) {
  const bool product = value.op == Op::multiply || value.op == Op::divide || value.op == Op::convert ||
                       value.op == Op::power || value.op == Op::negate;
  if (!product) return value;
  for (const CheckedPtr& arg : value.args) {
    if (!arg->type.unit.counted.all_turns().is_zero()) return counting_part(*arg);
  }
  return value;
}

// The unit in which what counts turns in a product would be a plain count or rate.
std::string plain_rate(const Checked& value) {
  const Unit unit = counting_part(value).type.unit;
  return unit.is_count_or_rate() && !unit.is_dimensionless() ? "1/s" : "1";
}

}  // namespace

std::string unit_in_words(const Unit& unit) { return unit.is_one() ? "a plain number" : unit.text(); }

const char* kind_in_words(Kind kind) {
  switch (kind) {
    case Kind::number:
      return "a number";
    case Kind::date:
      return "a date";
    case Kind::truth:
      return "true or false";
    case Kind::text:
      return "text";
  }
  return "";
}

Unit settled_unit(const Type& type) { return type.raw ? coherent(type.unit) : type.unit; }

Type plain_number() { return {}; }

Type truth() {
  Type type;
  type.kind = Kind::truth;
  return type;
}

Type difference_type(const Type& type) {
  Type difference = type;
  if (type.kind == Kind::date) {
    difference = Type();
    difference.unit = second();
  } else if (type.unit.dimension == kelvin().dimension) {
    difference.difference = true;
  }
  return difference;
}

CheckedPtr as_difference(CheckedPtr result) {
  return result->type.unit.is_reading() ? converted(std::move(result), kelvin(), true) : std::move(result);
}

CheckedPtr operation(Op op, Type type, Span span, std::vector<CheckedPtr> args) {
  auto node = std::make_unique<Checked>();
  node->op = op;
  node->type = std::move(type);
  node->span = span;
  node->args = std::move(args);
  return node;
}

CheckedPtr operation(Op op, Type type, Span span, CheckedPtr a) {
  std::vector<CheckedPtr> args;
  args.push_back(std::move(a));
  return operation(op, std::move(type), span, std::move(args));
}

CheckedPtr operation(Op op, Type type, Span span, CheckedPtr a, CheckedPtr b) {
  std::vector<CheckedPtr> args;
  args.push_back(std::move(a));
  args.push_back(std::move(b));
  return operation(op, std::move(type), span, std::move(args));
}

CheckedPtr constant_node(double number, Type type, Span span) {
  CheckedPtr node = operation(Op::constant, std::move(type), span, std::vector<CheckedPtr>());
  node->number = number;
  return node;
}

CheckedPtr constant_node(const Instant& date, Type type, Span span) {
  CheckedPtr node = constant_node(date.seconds, std::move(type), span);
  node->rest = date.rest;
  return node;
}

CheckedPtr converted(CheckedPtr value, const Unit& unit, bool difference) {
  const Conversion change = conversion(value->type.unit, unit, difference);
  Type type = value->type;
  type.unit = unit;
  type.raw = false;
  if (value->op == Op::null_constant || change.is_identity()) {
    value->type = type;
    return value;
  }
  if (value->op == Op::constant) {
    value->number = change(value->number);
    for (NumberPart& part : value->parts) part.by *= change.multiply / change.divide;
    value->type = type;
    return value;
  }
  const Span span = value->span;
  CheckedPtr node = operation(Op::convert, std::move(type), span, std::move(value));
  node->conversion = change;
  return node;
}

bool is_average(Op op) {
  switch (op) {
    case Op::row_mean:
    case Op::row_median:
    case Op::col_mean:
    case Op::col_median:
    case Op::col_quantile:
    case Op::mean_so_far:
    case Op::moving_mean:
    case Op::moving_median:
    case Op::interpolated:
      return true;
    default:
      return false;
  }
}

CheckedPtr pi_node(Span span) {
  Type type;
  type.unit.counted.pi = 1;
  return constant_node(3.14159265358979323846, type, span);
}

std::optional<double> known_constant(const Checked& value) {
  if (value.op == Op::constant) return value.number;
  if (value.op != Op::convert && value.op != Op::negate) return std::nullopt;
  const auto inner = known_constant(*value.args[0]);
  if (!inner) return std::nullopt;
  return value.op == Op::negate ? -*inner : value.conversion(*inner);
}

bool is_literal_zero(const Node& node) {
  return node.is_plain_number() && read_number(node.as<tree::Number>().digits).value == 0;
}

std::optional<Rational> exact_value(const Node& node) {
  if (node.is_plain_number()) return Rational::from_decimal(node.as<tree::Number>().digits);
  if (is_negation(node)) {
    const auto value = exact_value(*node.children[0]);
    return value ? std::optional(-*value) : std::nullopt;
  }
  if (!node.is<tree::Binary>()) return std::nullopt;
  const auto left = exact_value(*node.children[0]);
  const auto right = exact_value(*node.children[1]);
  if (!left || !right) return std::nullopt;
  switch (node.as<tree::Binary>().op) {
    case Operator::add:
      return *left + *right;
    case Operator::subtract:
      return *left - *right;
    case Operator::multiply:
      return *left * *right;
    case Operator::divide:
      return right->is_zero() ? std::nullopt : std::optional(*left / *right);
    default:
      return std::nullopt;
  }
}

void report_unit_fault(const UnitReading& reading, const Passage& passage, Span span,
                       Diagnostics& diagnostics) {
  const std::string whole = passage.text().substr(span.begin, span.end - span.begin);
  const Span exact{std::min(span.begin + reading.span.begin, span.end),
                   std::min(span.begin + std::max(reading.span.end, reading.span.begin + 1), span.end)};
  const Place place = passage.place(exact);
  switch (reading.fault) {
    case UnitFault::none:
      break;
    case UnitFault::unknown:
      diagnostics.add(Code::unknown_unit, place, {reading.word, reading.suggestion});
      break;
    case UnitFault::refused:
      diagnostics.add(Code::refused_unit, place, {reading.word, reading.suggestion});
      break;
    case UnitFault::two_solidi:
      diagnostics.add(Code::two_solidi, place, {whole});
      break;
    case UnitFault::product_after_solidus:
      diagnostics.add(Code::product_after_solidus, place, {whole});
      break;
    case UnitFault::exponent:
      diagnostics.add(Code::unit_exponent, place, {reading.word});
      break;
    case UnitFault::syntax:
      diagnostics.add(Code::unit_syntax, place, {whole});
      break;
  }
}

CheckedPtr Checker::fail(Code code, Span span, Args args) {
  diagnostics_.add(code, passage_.place(span), std::move(args));
  return nullptr;
}

CheckedPtr Checker::fail_pair(Code code, const Node& left, const Node& right, Args args) {
  Diagnostic& diagnostic = diagnostics_.add(code, passage_.place(left.span), std::move(args));
  diagnostic.second = passage_.place(right.span).span;
  return nullptr;
}

CheckedPtr Checker::fail_reading(const Checked& value, const Node& node) {
  const std::string name = written(node);
  const std::string unit = value.type.unit.text();
  std::string choices = "kelvin(" + name + ") for the absolute temperature, value(" + name + ", [" + unit +
                        "]) for the number on the scale";
  const bool column = value.op == Op::column && context_.scope.columns[value.column].measured;
  if (column)
    choices += ", columns." + name + ".unit = \"K\" in the study where the column holds differences";
  return fail(Code::reading_in_product, node.span, {name, unit, choices});
}

CheckedPtr Checker::fail_counted(CountFault fault, const Checked& value, const Unit& unit, Span span) {
  const Unit from = settled_unit(value.type);
  const std::string who = counting(value);
  switch (fault) {
    case CountFault::none:
      break;
    case CountFault::turns_and_angles:
      return fail(Code::turns_and_angles, span, {unit_in_words(from), unit_in_words(unit)});
    case CountFault::turns_left:
      return fail(Code::turns_left, counting_part(value).span, {who, unit_in_words(unit), plain_rate(value)});
    case CountFault::turns_unsaid:
      return fail(Code::turns_unsaid, span, {who, unit_in_words(unit)});
    case CountFault::decays:
      return fail(Code::decays_and_turns, span, {unit_in_words(from), unit_in_words(unit), who});
  }
  return nullptr;
}

CheckedPtr Checker::fail_sides(const Mismatch& wrong, Code dimension, const Node& left,
                               const Checked& left_value, const Node& right, const Checked& right_value) {
  if (wrong.dimension) {
    // A number without a unit beside a quantity likely lacks that one's.
    for (const bool on_right : {true, false}) {
      const Node& number = on_right ? right : left;
      const Checked& other = on_right ? left_value : right_value;
      if (!number.is_plain_number() || other.type.kind != Kind::number || other.type.unit.is_one()) continue;
      // What is added to a reading is a difference.
      const bool added = dimension == Code::cannot_add || dimension == Code::cannot_subtract;
      const Unit own = settled_unit(other.type);
      const std::string unit = (added ? difference_unit(own) : own).text();
      return fail_pair(Code::number_without_unit, left, right,
                       {written(number), written(on_right ? left : right), unit});
    }
    return fail_pair(dimension, left, right, pair_args(left, left_value.type, right, right_value.type));
  }
  // The side that counts turns is the one of which the message speaks.
  const bool on_left = !left_value.type.unit.counted.all_turns().is_zero();
  const Checked& counts = on_left ? left_value : right_value;
  const Checked& other = on_left ? right_value : left_value;
  const Span span = wrong.counted == CountFault::turns_unsaid ? other.span : counts.span;
  return wrong.counted == CountFault::turns_unsaid
             ? fail_counted(wrong.counted, other, settled_unit(counts.type), span)
             : fail_counted(wrong.counted, counts, settled_unit(other.type), span);
}

CheckedPtr Checker::fail_text_for_column(const Node& node, const Checked& text, const std::string& before,
                                         const std::string& after) {
  const std::string name = text.text;
  const bool known = context_.scope.find_column(name, true).has_value();
  return fail(Code::text_for_column, node.span,
              {written(node),
               known ? "write " + before + name + after : "write the name of a column without quotes"});
}

std::string Checker::counting(const Checked& value) const {
  const Checked& source = counting_part(value);
  return shortened(passage_.text().substr(source.span.begin, source.span.end - source.span.begin));
}

std::string Checker::written(const Node& node) const {
  // Also for a column that a range or pattern named, which stands nowhere itself.
  if (node.is<tree::Name>()) return node.as<tree::Name>().symbol;
  return shortened(passage_.text().substr(node.span.begin, node.span.end - node.span.begin));
}

std::string Checker::in_words(const Node& node, const Type& type) const {
  const std::string what =
      type.kind == Kind::number ? unit_in_words(settled_unit(type)) : std::string(kind_in_words(type.kind));
  return what + " (" + written(node) + ")";
}

Checker::Args Checker::pair_args(const Node& left, const Type& left_type, const Node& right,
                                 const Type& right_type) const {
  const auto statement = [&](const Node& node, const Type& type, const std::string& is) {
    if (type.kind != Kind::number) return written(node) + is + kind_in_words(type.kind);
    const Unit unit = settled_unit(type);
    return written(node) + is + (unit.is_one() ? "a plain number" : "in " + unit.text());
  };
  return {in_words(left, left_type), in_words(right, right_type), statement(left, left_type, " is "),
          statement(right, right_type, " ")};
}

std::optional<Unit> Checker::read_unit(const UnitText& text) {
  UnitReading reading = context_.units.read(text.text);
  if (!reading.unit) report_unit_fault(reading, passage_, text.span, diagnostics_);
  return std::move(reading.unit);
}

CheckedPtr Checker::settled(CheckedPtr value) {
  if (!value->type.raw) return value;
  const Unit unit = coherent(value->type.unit);
  return converted(std::move(value), unit);
}

bool Checker::is_beyond_limits(const Node& node) {
  if (*operations_ > kMostOperations) return true;
  const bool deep = depth_ > kDeepestTree + 1;
  if (++*operations_ <= kMostOperations && !deep) return false;
  *operations_ = kMostOperations + 1;
  const Checker* outermost = this;
  Span span = node.span;
  for (; outermost->bindings_ != nullptr; outermost = &outermost->bindings_->caller)
    span = outermost->bindings_->call.span;
  outermost->diagnostics_.add(deep ? Code::nested_too_deep : Code::too_many_operations,
                              outermost->passage_.place(span),
                              {std::to_string(deep ? kDeepestTree : kMostOperations)});
  return true;
}

CheckedPtr Checker::check(const Node& node) {
  if (is_beyond_limits(node)) return nullptr;
  ++depth_;
  CheckedPtr result = check_kind(node);
  --depth_;
  if (result && !is_within_range(result->type.unit))
    return fail(Code::unit_out_of_range, node.span, {written(node), std::to_string(kMostExponent)});
  return result;
}

CheckedPtr Checker::check_kind(const Node& node) {
  switch (node.kind()) {
    case NodeKind::number:
      return check_number(node);
    case NodeKind::text: {
      Type type;
      type.kind = Kind::text;
      CheckedPtr result = operation(Op::text_constant, type, node.span, std::vector<CheckedPtr>());
      result->text = node.as<tree::Text>().text;
      return result;
    }
    case NodeKind::truth:
      return constant_node(node.as<tree::Truth>().value ? 1 : 0, truth(), node.span);
    case NodeKind::null: {
      Type type;
      type.any = true;
      return operation(Op::null_constant, type, node.span, std::vector<CheckedPtr>());
    }
    case NodeKind::pi:
      return pi_node(node.span);
    case NodeKind::self:
      if (context_.self) return column_node(*context_.self, node);
      return fail(Code::self_outside_fill, node.span);
    case NodeKind::name:
      return check_name(node);
    case NodeKind::member:
      return check_member(node);
    case NodeKind::unary:
      return check_unary(node);
    case NodeKind::binary:
      return check_binary(node);
    case NodeKind::convert: {
      CheckedPtr value = check(*node.children[0]);
      if (!value) {
        read_unit(node.as<tree::Convert>().unit);
        return nullptr;
      }
      return in_unit(std::move(value), node.as<tree::Convert>().unit);
    }
    case NodeKind::call:
      return check_call(node);
    case NodeKind::range:
      return fail(Code::list_out_of_place, node.span, {written(node)});
    case NodeKind::unit:
      return fail(Code::unit_alone, node.span, {written(node)});
    case NodeKind::list:
      return fail(Code::list_out_of_place, node.span, {written(node)});
    case NodeKind::argument:
      return fail(Code::unknown_name, node.span, {node.as<tree::Word>().word, ""});
  }
  return nullptr;
}

CheckedPtr Checker::check_number(const Node& node) {
  const auto& [digits, uncertainty, unit_text] = node.as<tree::Number>();
  // read_number takes no sign before a point alone; the digits come from the lexer, so only size can fail.
  const NumberReading reading = read_number(digits);
  if (reading.fault != NumberFault::none) return fail(Code::number_too_large, node.span, {digits});
  Type type;
  if (unit_text) {
    auto unit = read_unit(*unit_text);
    if (!unit) return nullptr;
    type.unit = std::move(*unit);
  }
  CheckedPtr value = constant_node(reading.value, std::move(type), node.span);
  if (uncertainty.empty()) return value;
  const NumberReading size = read_number(uncertainty);
  if (size.fault != NumberFault::none || !(size.value > 0))
    return fail(Code::uncertainty_not_positive, node.span, {uncertainty});
  if (context_.uncertain == nullptr) return fail(Code::uncertainty_out_of_place, node.span, {written(node)});
  const std::size_t number = context_.uncertain->at(passage_.place(node.span), print(node));
  value->parts = {{number, size.value}};
  value->number += size.value * context_.uncertain->drawn(number);
  return value;
}

Diagnostic unreadable_cells(const ColumnHead& column, const std::string& header, const std::string& file,
                            const Place& place) {
  Diagnostic diagnostic;
  diagnostic.code = Code::unreadable_cells;
  diagnostic.place = place;
  diagnostic.args = {column.symbol, std::to_string(column.unreadable_count), file,
                     column.unreadable.front().text, kind_name(column.kind)};
  for (const UnreadableCell& cell : column.unreadable) {
    diagnostic.details.push_back(cell.file + ":" + std::to_string(cell.line) + ": " + header + ": " +
                                 cell.text);
  }
  if (column.unreadable_count > column.unreadable.size()) {
    diagnostic.details.push_back("and " + std::to_string(column.unreadable_count - column.unreadable.size()) +
                                 " more");
  }
  return diagnostic;
}

CheckedPtr Checker::column_node(std::size_t index, const Node& node) {
  const ScopeColumn& column = context_.scope.columns[index];
  if (context_.standing == Standing::fill && !column.measured && !column.linked) {
    return fail(Code::fill_of_derived_value, node.span, {column.symbol});
  }
  if (column.broken) return nullptr;
  if (column.data != nullptr && column.data->unreadable_count > 0) {
    Diagnostic diagnostic =
        unreadable_cells(*column.data, column.header, context_.scope.file, passage_.place(node.span));
    diagnostic.args.front() = column.symbol;
    diagnostics_.add(std::move(diagnostic));
    return nullptr;
  }
  if (column.data != nullptr && !column.data->mixed_clocks.empty()) {
    return fail(Code::mixed_clocks, node.span,
                {column.symbol, context_.scope.file, column.data->mixed_clocks});
  }
  if (as_measured_ && column.as_measured) return column_node(*column.as_measured, node);
  const bool filled = column.filled && !as_measured_ && context_.standing != Standing::fill;
  if (filled && context_.standing == Standing::keep) {
    return fail(Code::keep_before_fill, node.span, {column.symbol});
  }
  CheckedPtr result = operation(Op::column, column.type, node.span, std::vector<CheckedPtr>());
  result->column = filled ? context_.scope.meant_by(index) : index;
  return result;
}

CheckedPtr Checker::constant_value(const ScopeConstant& constant, const Node& node) {
  if (constant.broken) return nullptr;
  if (constant.type.kind == Kind::text) {
    CheckedPtr result = operation(Op::text_constant, constant.type, node.span, std::vector<CheckedPtr>());
    result->text = constant.text;
    return result;
  }
  CheckedPtr result = constant_node(Instant{constant.number, constant.rest}, constant.type, node.span);
  result->parts = constant.parts;
  return result;
}

CheckedPtr Checker::check_name(const Node& node) {
  const std::string& symbol = node.as<tree::Name>().symbol;
  if (bindings_ != nullptr) return check_name_in_formula(node);
  const Scope& scope = context_.scope;
  const auto index = scope.find_column(node);
  if (index) return column_node(*index, node);
  if (context_.groups != nullptr && context_.groups->scope.find_column(node))
    return group_column(symbol, node.as<tree::Name>().quoted, node);
  if (const ScopeConstant* constant = scope.find_constant(symbol)) return constant_value(*constant, node);
  const auto shared = scope.shared_symbols.find(symbol);
  if (shared != scope.shared_symbols.end()) {
    std::string list;
    for (const std::string& each : shared->second) list += (list.empty() ? "" : ", ") + each;
    return fail(Code::shared_symbol, node.span, {symbol, list});
  }
  if (find_signature(symbol) != nullptr) {
    return fail(Code::function_without_brackets, node.span, {symbol, find_signature(symbol)->usage});
  }
  if (context_.others != nullptr) {
    const auto source = context_.others->grouped();
    if (source && source->scope->find_column(node).has_value()) {
      return fail(Code::many_values, node.span, {symbol, source->scope->sheet, scope.sheet});
    }
  }
  if (const std::string here = word_here(WordFor::name, symbol);
      !here.empty() && !node.as<tree::Name>().quoted)
    return fail(Code::other_word, node.span, {symbol, here});
  return fail(Code::unknown_name, node.span, {symbol, nearest_name(symbol, scope.names())});
}

CheckedPtr Checker::check_member(const Node& node) {
  const auto& [owner, symbol, quoted] = node.as<tree::Member>();
  if (owner == "codata") {
    std::vector<std::string> known;
    for (const CatalogueConstant& constant : catalogue_constants()) {
      if (symbol == constant.symbol) {
        Type type;
        type.unit = *context_.units.read(constant.unit).unit;
        if (constant.per_cycle) type.unit.counted.per_cycle = -1;
        return constant_node(read_number(constant.value).value, std::move(type), node.span);
      }
      known.emplace_back(constant.symbol);
    }
    const std::string nearest = nearest_name(symbol, known);
    return fail(Code::unknown_constant, node.span, {symbol, nearest.empty() ? "" : "codata." + nearest});
  }
  if (const std::string here = word_here(WordFor::constants, owner); !here.empty()) {
    const bool sheet = std::find(context_.scope.sheets.begin(), context_.scope.sheets.end(), owner) !=
                       context_.scope.sheets.end();
    if (!sheet) return fail(Code::other_word, node.span, {written(node), here + "." + symbol});
  }
  if (bindings_ != nullptr) return fail(Code::formula_sees_column, node.span, {written(node)});
  if (owner == "fit") return check_fit_parameter(node);
  if (owner == context_.scope.sheet) {
    Node own;
    own.what = tree::Name{symbol, quoted};
    own.span = node.span;
    return check_name(own);
  }
  if (context_.groups != nullptr && owner == context_.groups->scope.sheet) {
    if (context_.groups->scope.find_column(symbol, quoted)) return group_column(symbol, quoted, node);
    return fail(Code::unknown_column, node.span,
                {symbol, owner, nearest_name(symbol, context_.groups->scope.names())});
  }
  if (context_.standing == Standing::keep) {
    // Those that are known before the rows are chosen stand in the scope.
    const auto known = context_.scope.find_column(owner + "." + symbol, false);
    if (known) return column_node(*known, node);
    return fail(Code::keep_row_by_row, node.span, {written(node)});
  }
  if (context_.others == nullptr) {
    return fail(Code::unknown_sheet, node.mark, {owner, nearest_name(owner, context_.scope.sheets)});
  }
  const auto linked = context_.others->linked(node, passage_, diagnostics_);
  return linked ? column_node(*linked, node) : nullptr;
}

CheckedPtr Checker::in_unit(CheckedPtr value, const UnitText& text) {
  const auto unit = read_unit(text);
  if (!unit) return nullptr;
  if (value->type.any) {
    value->type.unit = *unit;
    return value;
  }
  if (value->type.kind != Kind::number) {
    return fail(Code::unit_on_kind, text.span, {kind_in_words(value->type.kind), text.text});
  }
  const std::string from = unit_in_words(settled_unit(value->type));
  const Mismatch wrong = mismatch(value->type.unit, *unit);
  if (wrong.dimension) {
    const std::string to = unit_in_words(*unit);
    // The letters of temperatures are the signs of a capacity and a charge.
    const auto letter = [](const std::string& symbol) {
      return symbol == "F" || symbol == "C" || symbol == "K";
    };
    const std::string meant = letter(from) && letter(to)
                                  ? "for temperatures write [degF] and [degC]: F is the farad, C the coulomb"
                                  : "";
    return fail(Code::result_dimension, text.span, {from, to, meant});
  }
  if (wrong) return fail_counted(wrong.counted, *value, *unit, text.span);
  if (unit->is_reading() && value->type.difference) {
    return fail(Code::difference_as_reading, text.span, {text.text});
  }
  const bool difference = value->type.difference;
  CheckedPtr result = converted(std::move(value), *unit, difference);
  result->type.raw = false;
  return result;
}

CheckedPtr Checker::require_number(CheckedPtr value, const Node& node) {
  if (!value || value->type.any || value->type.kind == Kind::number) return value;
  if (value->type.kind != Kind::text) {
    return fail(Code::kind_not_number, node.span, {written(node), kind_in_words(value->type.kind)});
  }
  std::string because;
  if (value->op == Op::column) {
    const Column* data = context_.scope.columns[value->column].data;
    if (data != nullptr) because = data->text_because;
  }
  return fail(because.empty() ? Code::text_in_arithmetic : Code::code_in_arithmetic, node.span,
              {written(node), because});
}

CheckedPtr Checker::require_plain(CheckedPtr value, const Node& node, const char* function) {
  value = require_number(std::move(value), node);
  if (!value || value->type.any) return value;
  if (!value->type.unit.is_dimensionless()) {
    return fail(Code::needs_plain_number, node.span,
                {function, written(node), unit_in_words(settled_unit(value->type))});
  }
  return converted(std::move(value), Unit{});
}

CheckedPtr Checker::require_condition(CheckedPtr value, const Node& node) {
  if (!value || value->type.any || value->type.kind == Kind::truth) return value;
  return fail(Code::needs_condition, node.span, {written(node), kind_in_words(value->type.kind)});
}

void Checker::check_bare_fraction(const Node& literal, const Unit& unit, const UnitText& unit_text) {
  const bool fraction = unit.is_dimensionless() && !unit.factor.is_one();
  if (!fraction) return;
  const std::string& digits = literal.as<tree::Number>().digits;
  const double number = read_number(digits).value;
  fail(Code::bare_fraction, literal.span,
       {digits, unit_text.text, number_text(conversion(unit, Unit{})(number)),
        number_text(conversion(Unit{}, unit)(number))});
}

namespace {

// The bare numbers that are factors of a product, wherever they stand in it, each with whether it divides.
void add_factors(const Node& node, bool divides, std::vector<std::pair<const Node*, bool>>& factors) {
  if (node.is_plain_number()) {
    factors.emplace_back(&node, divides);
  } else if (node.is(Operator::multiply) || node.is(Operator::divide)) {
    add_factors(*node.children[0], divides, factors);
    add_factors(*node.children[1], node.is(Operator::divide) ? !divides : divides, factors);
  } else if (is_negation(node)) {
    add_factors(*node.children[0], divides, factors);
  }
}

}  // namespace

void Checker::warn_of_needless_factor(const Node& expression, const Type& type, const Unit& unit,
                                      const UnitText& unit_text) {
  if (type.kind != Kind::number || mismatch(type.unit, unit)) return;
  const double ratio = conversion(step_unit(type.unit), step_unit(unit))(1);
  constexpr double kSame = 1e-12;
  if (std::fabs(ratio - 1) <= kSame) return;
  std::vector<std::pair<const Node*, bool>> factors;
  add_factors(expression, false, factors);
  for (const auto& [node, divides] : factors) {
    const std::string& digits = node->as<tree::Number>().digits;
    const double number = read_number(digits).value;
    const double factor = divides ? 1 / number : number;
    if (number == 0 || std::fabs(factor / ratio - 1) > kSame) continue;
    fail(Code::needless_factor, node->span, {digits, unit_text.text});
    return;
  }
}

void Checker::warn_of_needless_offset(const Node& left, const Checked& left_value, const Node& right,
                                      const Checked& right_value) {
  constexpr double kIcePoint = 273.15;
  constexpr double kZeroOfFahrenheit = 459.67 * 5 / 9;
  constexpr double kNear = 1e-9;
  const bool on_right = left_value.type.unit.is_reading();
  if (on_right == right_value.type.unit.is_reading()) return;
  const Checked& added = on_right ? right_value : left_value;
  const auto known = known_constant(added);
  if (!known) return;
  const double size = std::fabs(conversion(added.type.unit, kelvin(), true)(*known));
  if (std::fabs(size - kIcePoint) > kNear && std::fabs(size - kZeroOfFahrenheit) > kNear) return;
  fail(Code::needless_offset, (on_right ? right : left).span,
       {written(on_right ? right : left), written(on_right ? left : right)});
}

CheckedPtr check_definition(const Definition& definition, const CheckContext& context,
                            Diagnostics& diagnostics) {
  Checker checker(definition.passage, context, diagnostics);
  const Node& expression = *definition.expression;
  CheckedPtr value = checker.check(expression);
  if (!definition.unit) return value ? Checker::settled(std::move(value)) : nullptr;
  const auto unit = checker.read_unit(*definition.unit);
  if (!value || !unit) return nullptr;
  if (expression.is_plain_number()) {
    // A single literal takes the unit of its definition.
    const bool fraction = unit->is_dimensionless() && !unit->factor.is_one();
    if (fraction) {
      checker.check_bare_fraction(expression, *unit, *definition.unit);
      return nullptr;
    }
    value->type.unit = *unit;
    return value;
  }
  checker.warn_of_needless_factor(expression, value->type, *unit, *definition.unit);
  return checker.in_unit(std::move(value), *definition.unit);
}

CheckedPtr check_expression(const Node& expression, const Passage& passage, const CheckContext& context,
                            Diagnostics& diagnostics) {
  CheckedPtr value = Checker(passage, context, diagnostics).check(expression);
  return value ? Checker::settled(std::move(value)) : nullptr;
}

CheckedPtr check_condition(const Node& expression, const Passage& passage, const CheckContext& context,
                           Diagnostics& diagnostics) {
  return Checker(passage, context, diagnostics).check_as_condition(expression);
}

CheckedPtr Checker::fit_for_fill(CheckedPtr value, const Node& node) {
  const std::size_t self = *context_.self;
  const ScopeColumn& column = context_.scope.columns[self];
  // To fill a column is to use it: cells that cannot be read are no gaps until somebody says so.
  if (!column_node(self, node)) return nullptr;
  if (column.type.kind == Kind::date) value = require_date(std::move(value), node);
  if (!value || value->type.any) return value;
  const auto refuse = [&] {
    return fail(Code::fill_unfit, node.span,
                {in_words(node, value->type), column.symbol,
                 column.type.kind == Kind::number ? unit_in_words(column.type.unit)
                                                  : std::string(kind_in_words(column.type.kind)),
                 column.type.unit.is_one() ? "" : column.type.unit.text()});
  };
  if (value->type.kind != column.type.kind) return refuse();
  if (value->type.kind != Kind::number) return value;
  value = settled(std::move(value));
  const Unit& unit = column.type.unit;
  if (is_literal_zero(node) && !unit.is_reading()) {
    value->type.unit = unit;
    return value;
  }
  if (mismatch(value->type.unit, unit)) return refuse();
  if (unit.is_reading() && value->type.difference) {
    return fail(Code::difference_as_reading, node.span, {unit.text()});
  }
  const bool difference = value->type.difference;
  return converted(std::move(value), unit, difference);
}

CheckedPtr check_fill(const Node& expression, const Passage& passage, const CheckContext& context,
                      Diagnostics& diagnostics) {
  Checker checker(passage, context, diagnostics);
  CheckedPtr value = checker.check(expression);
  return value ? checker.fit_for_fill(std::move(value), expression) : nullptr;
}

}  // namespace opensum
