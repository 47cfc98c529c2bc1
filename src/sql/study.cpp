// The sheets of a study as SQL.
#include "sql/study.h"

#include <fmt/format.h>

#include <algorithm>

#include "equation/operation.h"
#include "equation/tree.h"
#include "sql/name.h"
#include "sql/sent_on.h"
#include "sql/sequence.h"

namespace opensum {
namespace {

// What a name may have of bytes.
constexpr std::size_t kNameBytes = 63;
// An expression whose names stand for more than this is computed before it is used.
constexpr std::size_t kLongest = 4000;

std::string lower(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](char c) { return c >= 'A' && c <= 'Z' ? char(c + 32) : c; });
  return text;
}

// A name that none of those in use has, cut where a character ends; it is added.
std::string unused(const std::string& name, std::vector<std::string>& used) {
  for (std::size_t attempt = 1;; ++attempt) {
    const std::string suffix = attempt == 1 ? "" : " " + std::to_string(attempt);
    std::string cut = name;
    std::size_t length = std::min(name.size(), kNameBytes - suffix.size());
    while (length < name.size() && length > 0 && (static_cast<unsigned char>(name[length]) & 0xC0U) == 0x80U)
      --length;
    cut.resize(length);
    if (std::find(used.begin(), used.end(), lower(cut + suffix)) != used.end()) continue;
    used.push_back(lower(cut + suffix));
    return sql_quoted(cut + suffix);
  }
}

std::size_t occurrences(const std::string& text, const std::string& name) {
  std::size_t count = 0;
  for (std::size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + name.size()))
    ++count;
  return count;
}

// A measured column of a table of the database.
struct Stored {
  std::string value;
  std::string held;      ///< what is null where the value is, in the order of values
  std::string in_value;  ///< a format that makes a value of what is held
  std::string text;      ///< as it is read
  std::string infinite;  ///< a condition
  std::string plain;     ///< the value where all are what they are as they stand
  std::string odd;       ///< the condition that it is not; both empty where none can be
};

Stored stored(const SqlSource::Column& column, const Column& here, const SheetModel& model) {
  const std::string name = "q." + sql_quoted(column.name);
  Stored out;
  out.text = name + "::text";
  const auto has_missing = [](const ColumnSettings& settings) {
    return settings.format || settings.missing || settings.kind;
  };
  for (const ColumnSettings& settings : model.columns) {
    if (settings.symbol == here.symbol && has_missing(settings))
      throw NotInSql{fmt::format("columns.{} says how its cells are read", here.symbol)};
  }
  if (model.read.missing || !model.read.missing_also.empty())
    throw NotInSql{"`read` says what cells mean missing: leave them out in a query or a view"};
  switch (here.kind) {
    case Kind::number: {
      std::string number = name;
      if (column.type == kRealType) number = name + "::text::float8";
      if (column.type == kIntervalType) number = "extract(epoch FROM " + name + ")::float8";
      if (column.type == kIntervalType) out.text = "extract(epoch FROM " + name + ")::text";
      const bool whole =
          column.type == kBigintType || column.type == kIntegerType || column.type == kSmallintType;
      if (number == name && column.type != kDoubleType) number = name + "::float8";
      if (whole || column.type == kIntervalType) {
        out.value = number;
      } else {
        out.plain = number;
        out.odd = number + " = 'NaN'";
        out.value = fmt::format("nullif({}, 'NaN')", number);
        out.infinite = fmt::format("{} IN ('Infinity', '-Infinity')", number);
      }
      break;
    }
    case Kind::date:
      // Servers of foreign tables are not asked for parts of dates, but for dates.
      out.held = name;
      out.in_value = fmt::format("extract(epoch FROM {{}}{})::float8",
                                 column.type == kTimestampWithZoneType ? "" : "::timestamp");
      out.value = fmt::format(fmt::runtime(out.in_value), name);
      out.infinite = fmt::format("NOT isfinite({})", name);
      if (column.type == kTimestampWithZoneType)
        out.text = fmt::format("replace(({} AT TIME ZONE 'UTC')::text || 'Z', ' BCZ', 'Z BC')", name);
      break;
    case Kind::truth:
      out.value = name;
      break;
    case Kind::text:
      // The tokens of texts that mean missing, as everywhere.
      // Types that are no text are shown as one.
      out.plain = column.type == kTextType || column.type == kVaryingType ? name : name + "::text";
      out.odd = fmt::format(
          "btrim({0}::text) IN ('', 'NA', 'N/A', 'n/a', 'NaN', 'nan', 'NULL', 'null') OR {0}::text IS NOT "
          "NFC NORMALIZED",
          name);
      out.value = fmt::format(
          "CASE WHEN btrim({0}::text) NOT IN ('', 'NA', 'N/A', 'n/a', 'NaN', 'nan', 'NULL', 'null') THEN "
          "normalize({0}::text) END",
          name);
      break;
  }
  if (out.held.empty()) {
    out.held = out.value;
    out.in_value = "{}";
  }
  return out;
}

bool is_whole(const SqlSource::Column& column) {
  return column.type == kIntegerType || column.type == kSmallintType;
}

// Totals of one table, or of each part and then of all. `select` is the query of a part for a list.
template <typename Select>
std::string total_of_parts(const std::vector<SqlTotal>& totals, const std::vector<std::string>& parts,
                           const Select& select) {
  std::vector<std::string> list;
  std::vector<std::string> of_parts;
  const bool one = parts.size() == 1;
  for (const SqlTotal& total : totals) {
    const std::string name = fmt::format("t{}", list.size() + 1);
    of_parts.push_back(
        fmt::format(fmt::runtime(total.in_value), fmt::format("{}({})", total.of_parts, name)));
    list.push_back(one ? fmt::format(fmt::runtime(total.in_value), total.sql)
                       : fmt::format("{} AS {}", total.sql, name));
  }
  const std::string each = fmt::format("{}", fmt::join(list, ",\n  "));
  if (one) return select(parts.front(), each);
  std::string all;
  for (const std::string& part : parts)
    all += fmt::format("{}({})", all.empty() ? "" : "\nUNION ALL\n", select(part, each));
  return fmt::format("SELECT {}\nFROM (\n{}\n) AS p", fmt::join(of_parts, ", "), all);
}

}  // namespace

// Builds the query of one sheet, level by level: what is computed from columns of a level stands on the next
// one.
class SqlStudy::Builder {
 public:
  Builder(SqlStudy& study, std::size_t number)
      : study_(study), run_(*study.run_.sheets[number]), plan_(run_.plan), number_(number) {}

  SqlSheet run() {
    if (!plan_.uncertainty.columns.empty()) throw NotInSql{"uncertainties are carried here only"};
    if (plan_.source) {
      begin_with_rows_of(*plan_.source);
    } else {
      begin_with_table();
    }
    for (const Task& task : study_.run_.order) {
      if (task.sheet != number_) continue;
      if (task.kind == Task::Kind::derived) {
        const DerivedColumn& derived = plan_.derived[task.index];
        at(derived.definition.passage.place(derived.definition.name_span), [&] { derive(derived); });
      }
      if (task.kind == Task::Kind::fill) fill(task.index);
      if (task.kind == Task::Kind::link) link(task.index);
    }
    for (const ClaimPlan& claim : plan_.claims) {
      SqlValue value = sql_value(claim.program, operands(claim.program, 0, "claim"));
      if (value.kind != Kind::truth) value.value = value.bounds.least != 0 ? "true" : "false";
      sheet_.claims.push_back(std::move(value));
    }
    flush();
    sheet_.name = current_;
    if (sheet_.order_by.empty() && !sheet_.place.empty()) sheet_.order_by = sheet_.place;
    return std::move(sheet_);
  }

 private:
  const Table& table() const { return run_.table(); }

  // Says of what cannot be said in SQL where it is written.
  template <typename Action>
  static void at(const Place& place, const Action& action) {
    try {
      action();
    } catch (NotInSql& refused) {
      if (!refused.place.source) refused.place = place;
      throw;
    }
  }

  std::string own_name(const std::string& what) { return unused(what, used_); }

  // A query of the sheet under a name that tells of it.
  std::string add_query(std::string sql, bool kept = false, const std::string& table = "") {
    std::string name = unused(run_.model->name, study_.names_);
    study_.queries_.push_back({name, std::move(sql), kept, std::exchange(remarks_, {}), table});
    return name;
  }

  // Adds a column to the level, or to a next one where it needs columns of this one.
  std::string add_column(const std::string& name, const std::string& expression) {
    for (const auto& [pending, text] : pending_) {
      if (expression.find(pending) != std::string::npos) {
        flush();
        break;
      }
    }
    std::size_t expanded = expression.size();
    for (const auto& [known, length] : expanded_) {
      if (length > known.size()) expanded += occurrences(expression, known) * (length - known.size());
    }
    if (expanded > kLongest && expanded > 2 * expression.size()) {
      fence_ = true;
      flush();
      expanded = expression.size();
    }
    pending_.emplace_back(name, expression);
    expanded_[name] = expanded;
    return name;
  }

  void flush() {
    if (pending_.empty() && !fence_) return;
    std::string list = "q.*";
    for (const auto& [name, expression] : pending_) list += fmt::format(",\n    {} AS {}", expression, name);
    current_ = add_query(
        fmt::format("  SELECT {}\n  FROM {} AS q{}{}", list, current_, joins_, fence_ ? "\n  OFFSET 0" : ""));
    joins_.clear();
    pending_.clear();
    if (fence_) expanded_.clear();
    fence_ = false;
  }

  // A value as a column of its own, with why it is null in another.
  SqlColumn column_of(const std::string& symbol, SqlValue value) {
    const std::string name = own_name(symbol);
    const std::string why = value.why.empty() ? "" : own_name(symbol + " why");
    // Both look at the same level.
    const std::string reason = value.why;
    std::string text = value.value;
    if (value.constant && value.kind == Kind::number) text += "::float8";
    if (value.constant && value.kind == Kind::text) text += "::text";
    if (value.value == "NULL")
      text += value.kind == Kind::text ? "::text" : value.kind == Kind::truth ? "::boolean" : "::float8";
    value.value = add_column(name, text);
    if (!why.empty()) value.why = add_column(why, reason);
    value.constant = false;
    return {std::move(value), ""};
  }

  const SqlColumn& column(std::size_t index) const {
    const auto found = sheet_.columns.find(index);
    if (found == sheet_.columns.end())
      throw NotInSql{fmt::format("{} is not known there", table().columns[index].symbol)};
    return found->second;
  }

  void begin_with_table() {
    if (!run_.there) throw NotInSql{"its rows are not in the database"};
    const SqlSource& source = *run_.there;
    std::vector<std::string> list;
    sheet_.rows = study_.rows_.contains(number_) ? study_.rows_.at(number_) : 1e12;
    if (source.has_places) {
      sheet_.place = own_name("row");
      list.push_back("q.ctid AS " + sheet_.place);
    }
    for (std::size_t i = 0; i < table().columns.size(); ++i) {
      const Column& here = table().columns[i];
      if (!here.measured || !here.in_source || !here.fills.empty()) continue;
      const SqlSource::Column& there = source.columns[*here.in_source];
      Stored cell = stored(there, here, *run_.model);
      SqlColumn& column = sheet_.columns[i];
      column.value.kind = here.kind;
      column.value.bounds = here.kind == Kind::date ? Bounds{-1e12, 1e12, 1e-6, false} : Bounds::usual();
      const auto known = study_.known_.find(number_);
      bool may_be_null = true;
      bool plain = true;
      if (known != study_.known_.end()) {
        const SqlKnown& facts = known->second.at(i);
        may_be_null = facts.may_be_null;
        plain = facts.plain;
        if (here.kind == Kind::number || here.kind == Kind::date) column.value.bounds = facts.bounds;
      }
      if (plain && !cell.plain.empty()) cell.value = cell.held = cell.plain;
      column.value.bounds.whole = here.kind == Kind::number && is_whole(there);
      column.value.value = own_name(here.symbol);
      list.push_back(cell.value + " AS " + column.value.value);
      if (may_be_null) {
        column.value.reasons = {Reason::missing};
        column.value.why = own_name(here.symbol + " why");
        list.push_back(fmt::format("CASE WHEN {} IS NULL THEN {} END AS {}", in_brackets(cell.held),
                                   sql_null(Reason::missing, here.origin), column.value.why));
      }
      column.as_read = own_name(here.symbol + " as read");
      list.push_back(cell.text + " AS " + column.as_read);
    }
    current_ = add_query(fmt::format("  SELECT {}", fmt::join(list, ",\n    ")), false, source.from);
    if (!source.parts.empty()) sheet_.in_parts = &source;
    for (const auto& [index, column] : sheet_.columns) expanded_[column.value.value] = 40;
    if (!run_.keep_there) return;
    std::map<std::string, SqlColumn> known;
    for (const auto& [index, column] : sheet_.columns) known[table().columns[index].symbol] = column;
    keep(*run_.keep_there, known);
  }

  // Leaves the rows in which a condition is true. `known` are the columns of its scope that are there.
  void keep(const KeepPlan& keep, const std::map<std::string, SqlColumn>& known) {
    if (!keep.plan.links.empty() || !keep.plan.borrowed.empty())
      throw NotInSql{"`keep` looks through a link"};
    std::vector<std::string> before{sheet_.place};
    for (const auto& [index, column] : sheet_.columns) {
      for (const std::string& name : {column.value.value, column.value.why, column.as_read})
        before.push_back(name);
    }
    const SqlValue condition = kept_value(keep, keep.plan.claims.front().program, known);
    const std::string holds = condition.kind == Kind::truth ? condition.value
                              : condition.bounds.least != 0 ? "true"
                                                            : "false";
    sheet_.kept_from = current_;
    sheet_.kept_where = holds;
    std::vector<std::string> list;
    for (const std::string& name : before) {
      if (!name.empty() && std::find(list.begin(), list.end(), name) == list.end()) list.push_back(name);
    }
    current_ = add_query(
        fmt::format("  SELECT {}\n  FROM {} AS q\n  WHERE {}", fmt::join(list, ", "), current_, holds));
  }

  // A value of a condition; equations that it names are put in.
  SqlValue kept_value(const KeepPlan& keep, const Program& program,
                      const std::map<std::string, SqlColumn>& known) const {
    if (!program.stages.empty()) throw NotInSql{"`keep` needs whole columns"};
    SqlOperands operands;
    operands.column = [&](std::size_t index) {
      const std::string& symbol = keep.table.table.columns[index].symbol;
      if (const auto found = known.find(symbol); found != known.end()) return found->second.value;
      for (const DerivedColumn& derived : keep.plan.derived) {
        if (derived.index == index && derived.good) return kept_value(keep, derived.program, known);
      }
      throw NotInSql{fmt::format("`keep` needs {}, which is not known there", symbol)};
    };
    return sql_value(program, operands);
  }

  void begin_with_rows_of(std::size_t number) {
    const SqlSheet& source = study_.sheet(number);
    if (plan_.cell_headers) throw NotInSql{"one_row_per_cell has no counterpart there"};
    const std::vector<SortKey>& keys = study_.run_.sheets[number]->plan.sort_by;
    if (plan_.grouped) return begin_with_groups(keys.empty() ? source : sorted(source, keys));
    sheet_.rows = source.rows;
    sheet_.place = source.place;
    sheet_.order_by = source.order_by;
    sheet_.in_parts = source.in_parts;
    current_ = source.name;
    reserve_names(source);
    if (!keys.empty()) {
      const SqlSheet in_order = sorted(source, keys);
      sheet_.place = sheet_.order_by = in_order.place;
      current_ = in_order.name;
    }
    for (const TakenColumn& taken : plan_.taken) sheet_.columns[taken.index] = source.columns.at(taken.there);
    source_ = &source;
    if (!plan_.keep) return;
    if (!plan_.keep->plan.borrowed.empty()) throw NotInSql{"`keep` looks through a link"};
    std::map<std::string, SqlColumn> known;
    const auto& columns = plan_.keep->table.table.columns;
    for (std::size_t i = 0; i < plan_.taken.size(); ++i)
      known[columns[i].symbol] = source.columns.at(plan_.taken[i].there);
    for (const TakenColumn& also : plan_.keep_also)
      known[columns[also.index].symbol] = source.columns.at(also.there);
    // The columns of the source stay reachable.
    const auto taken = sheet_.columns;
    sheet_.columns = source.columns;
    keep(*plan_.keep, known);
    sheet_.columns = taken;
  }

  // A sheet whose rows have the places in which it is sorted.
  SqlSheet sorted(const SqlSheet& source, const std::vector<SortKey>& keys) {
    if (source.place.empty()) throw NotInSql{"equal rows of what it is sorted by have no order there"};
    std::string order;
    for (const SortKey& key : keys) {
      const SqlValue& value = source.columns.at(key.column).value;
      order += fmt::format("{}{}{} NULLS LAST, ", value.value,
                           value.kind == Kind::text ? " COLLATE \"C\"" : "", key.down ? " DESC" : "");
    }
    reserve_names(source);
    SqlSheet in_order = source;
    in_order.place = own_name("place");
    in_order.name =
        add_query(fmt::format("  SELECT q.*, row_number() OVER (ORDER BY {}{}) AS {}\n  FROM {} AS q", order,
                              source.place, in_order.place, source.name));
    return in_order;
  }

  void reserve_names(const SqlSheet& source) {
    for (const auto& [index, column] : source.columns) {
      for (const std::string& name : {column.value.value, column.value.why, column.as_read}) {
        if (name.size() > 2) used_.push_back(lower(name.substr(1, name.size() - 2)));
      }
    }
    if (source.place.size() > 2) used_.push_back(lower(source.place.substr(1, source.place.size() - 2)));
  }

  void begin_with_groups(const SqlSheet& source) {
    sheet_.rows = source.rows;
    std::vector<std::string> list;
    std::vector<std::string> keys;
    for (const TakenColumn& taken : plan_.taken) {
      const SqlColumn& there = source.columns.at(taken.there);
      const Column& here = table().columns[taken.index];
      SqlColumn& column = sheet_.columns[taken.index];
      column.value = there.value;
      const bool decimal = here.kind == Kind::number && !there.value.bounds.whole;
      if (decimal && there.value.bounds.size() >= 1e15)
        throw NotInSql{"it groups numbers of more than 15 digits"};
      keys.push_back(decimal ? there.value.value + "::numeric" : there.value.value);
      column.value.value = own_name(here.symbol);
      list.push_back(fmt::format("{}({}) AS {}", here.kind == Kind::truth ? "bool_and" : "min",
                                 there.value.value, column.value.value));
      if (there.value.may_be_null()) {
        column.value.why = own_name(here.symbol + " why");
        list.push_back(fmt::format("min({}) AS {}", there.value.why, column.value.why));
      }
      if (!there.as_read.empty()) {
        column.as_read = own_name(here.symbol + " as read");
        list.push_back(fmt::format("min({}) AS {}", there.as_read, column.as_read));
      }
    }
    if (!source.place.empty()) {
      sheet_.place = own_name("row");
      list.push_back(fmt::format("min({}) AS {}", source.place, sheet_.place));
      sheet_.order_by = sheet_.place;
    } else {
      // Where rows have no order, groups stand in that of their keys.
      std::vector<std::string> order;
      for (const TakenColumn& taken : plan_.taken)
        order.push_back(sheet_.columns.at(taken.index).value.value);
      sheet_.order_by = fmt::format("{}", fmt::join(order, ", "));
    }
    for (const Task& task : study_.run_.order) {
      if (task.sheet != number_ || task.kind != Task::Kind::derived) continue;
      const DerivedColumn& derived = plan_.derived[task.index];
      for (const Stage& stage : derived.program.stages) {
        if (!stage.over || stage.over->groups_of != number_) continue;
        at(derived.definition.passage.place(derived.definition.name_span),
           [&] { check_operands(stage, derived.definition.name); });
        at(derived.definition.passage.place(derived.definition.name_span), [&] {
          const SqlAggregate aggregate = sql_aggregate(
              stage, operands_over(&study_.sheet(stage.over->sheet), table().columns[derived.index].origin),
              own_stage_name(), source.rows, source.place);
          for (const auto& [name, what] : aggregate.columns)
            list.push_back(fmt::format("{} AS {}", what, name));
          note(derived, stage, aggregate, false);
          stages_[&stage] = aggregate.value;
        });
      }
    }
    if (list.empty()) list.emplace_back("count(*) AS \"rows\"");
    const std::string group = keys.empty() ? "" : fmt::format("\n  GROUP BY {}", fmt::join(keys, ", "));
    current_ = add_query(
        fmt::format("  SELECT {}\n  FROM {} AS q{}", fmt::join(list, ",\n    "), source.name, group));
  }

  std::string own_stage_name() { return fmt::format("{} {}", run_.model->name, ++stage_count_); }

  void note(const DerivedColumn& derived, const Stage& stage, const SqlAggregate& aggregate, bool once) {
    if (!aggregate.leaves_out) return;
    for (const auto what : {SqlCount::What::known, SqlCount::What::met}) {
      sheet_.counts.push_back({what, derived.definition.name, stage.name,
                               what == SqlCount::What::known ? aggregate.known : aggregate.met, once});
    }
  }

  // What a program finds on the present level; functions of whole columns are computed before.
  SqlOperands operands(const Program& program, OriginId own, const std::string& what,
                       const DerivedColumn* derived = nullptr) {
    SqlOperands operands;
    operands.own = own;
    operands.column = [this](std::size_t index) { return column(index).value; };
    for (const Stage& stage : program.stages)
      operands.stages.push_back(stage_value(stage, own, what, derived));
    return operands;
  }

  // A function of whole columns as a column of the level, with all others that can be computed beside it.
  SqlValue stage_value(const Stage& stage, OriginId own, const std::string& what,
                       const DerivedColumn* derived) {
    if (const auto known = stages_.find(&stage); known != stages_.end()) return known->second;
    if (stage.curve) throw NotInSql{fmt::format("{} uses a fit", what)};
    if (stage.over && stage.over->groups_of) throw NotInSql{fmt::format("{} goes over groups", what)};
    flush();
    sheet_.in_parts = nullptr;
    if (is_sequence(stage.op)) return stages_[&stage] = sequence(stage, own, what, derived);
    const SqlSheet* over = stage.over ? &study_.sheet(stage.over->sheet) : nullptr;
    const SqlOperands inner = operands_over(over, own);
    std::vector<StageUse> together{{&stage, own, derived}};
    check_operands(stage, what);
    const std::vector<SqlValue> keys = keys_of(stage, inner);
    for (const DerivedColumn& other : plan_.derived) {
      for (const Stage& more : other.program.stages) {
        if (can_be_beside(more, stage, keys, over))
          together.push_back({&more, table().columns[other.index].origin, &other});
      }
    }
    join_aggregates(together, keys, over);
    return stages_.at(&stage);
  }

  // What follows from the place of a row among the others.
  SqlValue sequence(const Stage& stage, OriginId own, const std::string& what, const DerivedColumn* derived) {
    check_operands(stage, what);
    if (stage.op != Op::rank && sheet_.place.empty())
      throw NotInSql{fmt::format("{} needs an order of rows, which this source has not", stage.name)};
    const SqlOperands inner = operands_over(nullptr, own);
    std::vector<std::string> keys;
    for (const SqlValue& key : keys_of(stage, inner))
      keys.push_back(in_brackets(key.value) +
                     (key.kind == Kind::number && !key.bounds.whole ? "::numeric" : ""));
    const SqlValue value = stage.op == Op::row_number ? SqlValue() : sql_value(stage.value, inner);
    if (stage.nulls.skip && value.may_be_null() && derived != nullptr && stage.op != Op::rank) {
      const std::string known = fmt::format("({} IS NOT NULL)::int", in_brackets(value.value));
      sheet_.counts.push_back({SqlCount::What::known, derived->definition.name, stage.name, known, false});
      sheet_.counts.push_back({SqlCount::What::met, derived->definition.name, stage.name, "1", false});
    }
    return column_of(fmt::format("{} {}", stage.name, ++value_count_),
                     sql_sequence(stage, value, own, keys, sheet_.place, sheet_.rows))
        .value;
  }

  struct StageUse {
    const Stage* stage = nullptr;
    OriginId own = 0;
    const DerivedColumn* derived = nullptr;
  };

  SqlOperands operands_over(const SqlSheet* over, OriginId own) const {
    SqlOperands inner;
    inner.own = own;
    inner.column = [this, over](std::size_t index) {
      if (over == nullptr) return column(index).value;
      const auto found = over->columns.find(index);
      if (found == over->columns.end())
        throw NotInSql{"a function goes over a column that is not known there"};
      return found->second.value;
    };
    return inner;
  }

  static std::vector<SqlValue> keys_of(const Stage& stage, const SqlOperands& inner) {
    std::vector<SqlValue> keys;
    for (const Program& key : stage.keys) {
      if (!key.stages.empty()) throw NotInSql{"it groups by a function of whole columns"};
      keys.push_back(sql_value(key, inner));
    }
    return keys;
  }

  static void check_operands(const Stage& stage, const std::string& what) {
    for (const Program* program : {&stage.value, stage.where.empty() ? nullptr : &stage.where.front(),
                                   stage.beside.empty() ? nullptr : &stage.beside.front()}) {
      if (program != nullptr && !program->stages.empty())
        throw NotInSql{fmt::format("{} has a function of whole columns inside of another", what)};
    }
  }

  // Whether another function goes over the same groups of the same rows, and all it needs is known.
  bool can_be_beside(const Stage& more, const Stage& stage, const std::vector<SqlValue>& keys,
                     const SqlSheet* over) const {
    if (is_sequence(more.op)) return false;
    if (&more == &stage || stages_.contains(&more) || more.curve || more.keys.size() != keys.size())
      return false;
    if ((over == nullptr) != !more.over.has_value()) return false;
    if (more.over && (more.over->groups_of || more.over->sheet != stage.over->sheet)) return false;
    try {
      check_operands(more, "");
      const SqlOperands inner = operands_over(over, 0);
      const std::vector<SqlValue> others = keys_of(more, inner);
      for (std::size_t i = 0; i < keys.size(); ++i) {
        if (others[i].value != keys[i].value) return false;
      }
      sql_aggregate(more, inner, "", sheet_.rows, sheet_.place);
      return true;
    } catch (const NotInSql&) {
      // It is said when its turn comes.
      return false;
    }
  }

  void join_aggregates(const std::vector<StageUse>& together, const std::vector<SqlValue>& keys,
                       const SqlSheet* over) {
    std::vector<std::string> list;
    std::vector<std::string> groups;
    std::vector<SqlAggregate> aggregates;
    const std::string alias = fmt::format("a{}", ++alias_count_);
    for (const StageUse& use : together) {
      aggregates.push_back(sql_aggregate(*use.stage, operands_over(over, use.own), own_stage_name(),
                                         over != nullptr ? over->rows : sheet_.rows,
                                         over != nullptr ? over->place : sheet_.place));
      for (const auto& [name, sql] : aggregates.back().columns)
        list.push_back(fmt::format("{} AS {}", sql, name));
    }
    std::string on;
    for (const SqlValue& key : keys) {
      const bool decimal = key.kind == Kind::number && !key.bounds.whole;
      const std::string text =
          in_brackets(key.value) + (decimal ? "::numeric" : "") + (key.kind == Kind::text ? "" : "::text");
      const std::string name = own_name(fmt::format("key {}", ++key_count_));
      groups.push_back(name);
      on += on.empty() ? "" : " AND ";
      // A key that is always known stays as it is: servers of parts then form their groups themselves.
      if (!key.may_be_null()) {
        list.push_back(fmt::format("{} AS {}", text, name));
        on += fmt::format("{} = {}.{}", text, alias, name);
        continue;
      }
      const std::string none = own_name("no " + name.substr(1, name.size() - 2));
      groups.push_back(none);
      list.push_back(fmt::format("coalesce({}, '') AS {}", text, name));
      list.push_back(fmt::format("({}) IS NULL AS {}", key.value, none));
      on += fmt::format("coalesce({}, '') = {}.{} AND (({}) IS NULL) = {}.{}", text, alias, name, key.value,
                        alias, none);
    }
    const std::string group = groups.empty() ? "" : fmt::format("\n  GROUP BY {}", fmt::join(groups, ", "));
    const std::string all = add_query(fmt::format("  SELECT {}\n  FROM {} AS q{}", fmt::join(list, ",\n    "),
                                                  over != nullptr ? over->name : current_, group),
                                      true);
    joins_ += groups.empty() ? fmt::format("\n  CROSS JOIN {} AS {}", all, alias)
                             : fmt::format("\n  LEFT JOIN {} AS {} ON {}", all, alias, on);
    for (const SqlAggregate& aggregate : aggregates) {
      for (const auto& [name, sql] : aggregate.columns)
        pending_.emplace_back(name, fmt::format("{}.{}", alias, name));
    }
    flush();
    for (std::size_t i = 0; i < together.size(); ++i) {
      if (together[i].derived != nullptr) note(*together[i].derived, *together[i].stage, aggregates[i], true);
      stages_[together[i].stage] =
          column_of(fmt::format("{} {}", together[i].stage->name, ++value_count_), aggregates[i].value).value;
    }
  }

  void derive(const DerivedColumn& derived) {
    const std::string& name = derived.definition.name;
    const OriginId own = table().columns[derived.index].origin;
    std::vector<SqlLeftOut> left_out;
    const SqlOperands all = operands(derived.program, own, name, &derived);
    SqlValue value = sql_value(derived.program, all, &left_out);
    if (value.kind != derived.program.kind && value.value != "NULL") {
      // A number that stands for a truth.
      if (derived.program.kind == Kind::truth) value.value = value.bounds.least != 0 ? "true" : "false";
      value.kind = derived.program.kind;
    }
    value.kind = derived.program.kind;
    sheet_.columns[derived.index] = column_of(name, value);
    const Type& type = derived.type;
    const std::string unit =
        type.kind == Kind::number && !type.unit.parts.empty() ? " [" + type.unit.text() + "]" : "";
    remarks_.push_back(name + unit + " = " + print(*derived.definition.expression));
    for (const SqlLeftOut& each : left_out) {
      sheet_.counts.push_back({SqlCount::What::left_out, name, "", each.nulls});
      sheet_.counts.push_back({SqlCount::What::left_out_rows, name, "", fmt::format("sign({})", each.nulls)});
    }
  }

  void fill(std::size_t number) {
    const FillPlan& plan = plan_.fills[number];
    const SqlValue measured = column(plan.measured).value;
    const OriginId own = table().columns[plan.filled].origin;
    std::vector<SqlValue> rules;
    for (std::size_t i = 0; i < plan.rules.size(); ++i) {
      SqlValue value = sql_value(plan.rules[i], operands(plan.rules[i], own, "a fill"));
      rules.push_back(
          column_of(fmt::format("{} rule {}", table().columns[plan.measured].symbol, i + 1), value).value);
    }
    SqlFill filled;
    filled.fill = number;
    filled.gaps = measured.value + " IS NULL";
    SqlValue out = measured;
    std::string list = measured.value;
    std::string before = filled.gaps;
    bool ends = !measured.may_be_null();
    std::string which = fmt::format("CASE WHEN {} IS NOT NULL THEN -1", measured.value);
    for (const SqlValue& rule : rules) {
      which += fmt::format(" WHEN {} IS NOT NULL THEN {}", rule.value, filled.closed.size());
      list += ", " + rule.value;
      filled.closed.push_back(before + " AND " + rule.value + " IS NOT NULL");
      before += " AND " + rule.value + " IS NULL";
      out.bounds = either(out.bounds, rule.bounds);
      ends = ends || !rule.may_be_null();
    }
    out.value = "coalesce(" + list + ")";
    out.why = ends ? "" : fmt::format("CASE WHEN {} THEN {} END", before, measured.why);
    if (ends) out.reasons.clear();
    const std::string as_read = column(plan.measured).as_read;
    SqlColumn column = column_of(table().columns[plan.filled].symbol + " filled", out);
    if (!as_read.empty()) {
      // What was measured stays as it was read.
      column.as_read = own_name(table().columns[plan.filled].symbol + " filled as read");
      add_column(column.as_read,
                 fmt::format("CASE WHEN {} IS NOT NULL THEN {} END", measured.value, as_read));
    }
    sheet_.columns[plan.filled] = column;
    filled.rule = add_column(own_name(table().columns[plan.measured].symbol + " by rule"),
                             fmt::format("{} ELSE {} END", which, rules.size()));
    filled.left = rules.back().why;
    sheet_.fills.push_back(std::move(filled));
  }

  void link(std::size_t number) {
    const LinkPlan& plan = plan_.links[number];
    if (plan.how == LinkHow::taken) {
      for (const BorrowedColumn& borrowed : plan_.borrowed) {
        if (borrowed.link == number) sheet_.columns[borrowed.index] = source_->columns.at(borrowed.there);
      }
      return;
    }
    if (plan.how == LinkHow::group) {
      for (const BorrowedColumn& borrowed : plan_.borrowed) {
        if (borrowed.link == number) throw NotInSql{"a reduction uses a column of the groups"};
      }
      return;
    }
    if (plan.how == LinkHow::row) throw NotInSql{fmt::format("the link {} goes row by row", plan.name)};
    if (plan.how == LinkHow::interpolate) throw NotInSql{fmt::format("the link {} interpolates", plan.name)};
    const SqlSheet& other = study_.sheet(*plan.sheet);
    flush();
    sheet_.in_parts = nullptr;
    const std::string alias = fmt::format("l{}", number + 1);
    const LinkCondition condition = condition_of(plan, other, alias);
    std::vector<std::pair<std::size_t, SqlValue>> borrowed = borrowed_by(number, other, alias, condition);
    joins_ += plan.how == LinkHow::equal
                  ? fmt::format("\n  LEFT JOIN (SELECT true AS \"matched\", o.* FROM {} AS o) AS {} ON {}",
                                other.name, alias, condition.on)
                  : fmt::format(
                        "\n  LEFT JOIN LATERAL (SELECT true AS \"matched\", {0}.* FROM {1} AS {0} WHERE "
                        "{2}\n    ORDER BY {3} LIMIT 1) AS {0} ON true",
                        alias, other.name, condition.on, condition.order);
    const std::string matched = own_name(plan.name + " matched");
    pending_.emplace_back(matched, alias + ".\"matched\"");
    for (auto& [index, value] : borrowed) {
      const std::string symbol = table().columns[index].symbol;
      const std::string name = own_name(symbol);
      const std::string why = own_name(symbol + " why");
      pending_.emplace_back(name, value.value);
      pending_.emplace_back(why, value.why);
      value.value = name;
      value.why = why;
      sheet_.columns[index] = {value, ""};
    }
    flush();
    sheet_.links[number] = matched;
    if (plan.how == LinkHow::equal) study_.unique_keys_.push_back({number_, number});
  }

  // Which rows of the other sheet a link finds, the best first, and why it has no key.
  struct LinkCondition {
    std::string on;
    std::string order;
    SqlValue key_nulls;
  };

  LinkCondition condition_of(const LinkPlan& plan, const SqlSheet& other, const std::string& alias) {
    LinkCondition condition;
    const auto require = [&](const std::string& what) {
      condition.on += condition.on.empty() ? what : " AND " + what;
    };
    for (std::size_t k = 0; k < plan.keys.size(); ++k) {
      const SqlValue here = column(plan.keys[k].here).value;
      SqlValue there = other.columns.at(plan.keys[k].there).value;
      there.value = alias + "." + there.value;
      there = converted(there, plan.keys[k].conversion, 0);
      const Kind kind = table().columns[plan.keys[k].here].kind;
      const bool decimal = kind == Kind::number && !(here.bounds.whole && there.bounds.whole);
      if (decimal && std::max(here.bounds.size(), there.bounds.size()) >= 1e15)
        throw NotInSql{"it links numbers of more than 15 digits"};
      const std::string type = decimal ? "::numeric" : "";
      const std::string x = "q." + here.value + type;
      const std::string y = in_brackets(there.value);
      if (here.may_be_null()) {
        SqlValue& nulls = condition.key_nulls;
        nulls.why = first_known({nulls.why, "q." + here.why});
        nulls.reasons.insert(here.reasons.begin(), here.reasons.end());
      }
      if (plan.how == LinkHow::equal || k + 1 < plan.keys.size()) {
        require(fmt::format("{} = {}{}", x, y, type));
        continue;
      }
      const std::string distance = fmt::format("abs({} - {}{})", x, y, type);
      if (plan.how == LinkHow::previous) {
        require(fmt::format("{}{} <= {}", y, type, x));
        condition.order = y + " DESC";
      } else {
        require(y + " IS NOT NULL");
        condition.order = fmt::format("{}, {}", distance, y);
      }
      if (plan.within) require(fmt::format("{} <= {}", distance, sql_number(*plan.within)));
    }
    return condition;
  }

  // The columns that a link borrows, by their places here.
  std::vector<std::pair<std::size_t, SqlValue>> borrowed_by(std::size_t number, const SqlSheet& other,
                                                            const std::string& alias,
                                                            const LinkCondition& condition) const {
    std::vector<std::pair<std::size_t, SqlValue>> values;
    for (const BorrowedColumn& borrowed : plan_.borrowed) {
      if (borrowed.link != number) continue;
      const SqlValue there = other.columns.at(borrowed.there).value;
      SqlValue value = there;
      value.value = alias + "." + there.value;
      const std::string none = sql_null(Reason::no_match, table().columns[borrowed.index].origin);
      value.why = first_known({condition.key_nulls.why,
                               fmt::format("CASE WHEN {}.\"matched\" IS NULL THEN {} END", alias, none),
                               there.why.empty() ? "" : alias + "." + there.why});
      value.reasons.insert(condition.key_nulls.reasons.begin(), condition.key_nulls.reasons.end());
      value.reasons.insert(Reason::no_match);
      values.emplace_back(borrowed.index, value);
    }
    return values;
  }

  SqlStudy& study_;
  const RunSheet& run_;
  const SheetPlan& plan_;
  std::size_t number_;
  SqlSheet sheet_;
  const SqlSheet* source_ = nullptr;
  std::string current_;
  std::string joins_;
  bool fence_ = false;
  std::vector<std::pair<std::string, std::string>> pending_;
  std::map<std::string, std::size_t> expanded_;
  std::map<const Stage*, SqlValue> stages_;
  std::vector<std::string> used_;
  std::vector<std::string> remarks_;
  std::size_t stage_count_ = 0;
  std::size_t alias_count_ = 0;
  std::size_t key_count_ = 0;
  std::size_t value_count_ = 0;
};

void SqlStudy::know(std::size_t sheet, double rows, std::map<std::size_t, SqlKnown> columns) {
  rows_[sheet] = rows;
  known_[sheet] = std::move(columns);
}

SqlStudy::BoundsQuery SqlStudy::bounds_query(std::size_t number) const {
  const RunSheet& run = *run_.sheets[number];
  BoundsQuery query;
  std::vector<SqlTotal> totals{{"count(*)"}};
  for (std::size_t i = 0; i < run.table().columns.size(); ++i) {
    const Column& here = run.table().columns[i];
    if (!here.measured || !here.in_source || !here.fills.empty()) continue;
    const Stored cell = stored(run.there->columns[*here.in_source], here, *run.model);
    const bool number_like = here.kind == Kind::number || here.kind == Kind::date;
    query.columns.push_back(i);
    const std::string none = "NULL::float8";
    const std::string held = number_like ? cell.held : none;
    totals.push_back({fmt::format("count({})", cell.held)});
    totals.push_back({fmt::format("min({})", held), "min", cell.in_value});
    totals.push_back({fmt::format("max({})", held), "max", cell.in_value});
    totals.push_back(
        {fmt::format("min(abs({0})) FILTER (WHERE {0} <> 0)", here.kind == Kind::number ? cell.value : none),
         "min"});
    for (const std::string& condition : {cell.infinite, cell.odd})
      totals.push_back({condition.empty() ? "0" : fmt::format("count(*) FILTER (WHERE {})", condition)});
  }
  const std::vector<std::string> whole{run.there->from};
  query.sql = in_words_of_server(total_of_parts(totals, run.there->parts.empty() ? whole : run.there->parts,
                                                [&](const std::string& part, const std::string& list) {
                                                  return fmt::format("SELECT {}\nFROM {} AS q", list, part);
                                                }));
  return query;
}

std::string SqlStudy::totals(const SqlSheet& sheet, const std::string& query,
                             const std::vector<SqlTotal>& totals) const {
  const std::vector<std::string> whole{""};
  return in_words_of_server(total_of_parts(
      totals, sheet.in_parts == nullptr ? whole : sheet.in_parts->parts,
      [&](const std::string& part, const std::string& list) {
        const std::string with = part.empty() ? this->with() : with_part(query, sheet.in_parts->from, part);
        return fmt::format("{}\nSELECT {}\nFROM {} AS q", with, list, query);
      }));
}

std::string SqlStudy::repeated_keys_query(const UniqueKeys& keys) {
  const LinkPlan& link = run_.sheets[keys.sheet]->plan.links[keys.link];
  const SqlSheet& other = sheet(*link.sheet);
  std::vector<std::string> list;
  std::vector<std::string> known;
  for (const LinkPlan::Keys& key : link.keys) {
    const SqlValue& value = other.columns.at(key.there).value;
    list.push_back(value.kind == Kind::number && !value.bounds.whole ? value.value + "::numeric"
                                                                     : value.value);
    known.push_back(value.value + " IS NOT NULL");
  }
  return fmt::format(
      "SELECT count(*) FROM (SELECT 1 FROM {} AS q WHERE {} GROUP BY {} HAVING count(*) > 1) AS r",
      other.name, fmt::join(known, " AND "), fmt::join(list, ", "));
}

const SqlSheet& SqlStudy::sheet(std::size_t number) {
  const auto found = sheets_.find(number);
  if (found != sheets_.end()) return found->second;
  if (!run_.sheets[number]->in_database)
    throw NotInSql{
        fmt::format("it needs the sheet {}, which is computed here", run_.sheets[number]->model->name)};
  return sheets_[number] = Builder(*this, number).run();
}

std::string SqlStudy::with(bool remarks) const {
  std::string text;
  for (const Query& query : queries_) {
    text += text.empty() ? "WITH " : ",\n";
    for (std::size_t i = 0; remarks && i < query.remarks.size(); ++i)
      text += (i == 0 ? "\n  -- " : "  -- ") + query.remarks[i] + '\n';
    text += named(query, query.table);
  }
  return in_words_of_server(text);
}

// The queries up to one, over a part of the table that they begin with.
std::string SqlStudy::with_part(const std::string& last, const std::string& table,
                                const std::string& part) const {
  std::string text;
  for (const Query& query : queries_) {
    text += (text.empty() ? "WITH " : ",\n") + named(query, query.table == table ? part : query.table);
    if (query.name == last) break;
  }
  return text;
}

std::string SqlStudy::named(const Query& query, const std::string& table) {
  return fmt::format("{} AS {}MATERIALIZED (\n{}{}\n)", query.name, query.kept ? "" : "NOT ", query.sql,
                     table.empty() ? "" : fmt::format("\n  FROM {} AS q", table));
}

std::string SqlStudy::in_words_of_server(const std::string& sql) const {
  const bool in_parts = std::any_of(run_.sheets.begin(), run_.sheets.end(), [](const auto& sheet) {
    return sheet->there && !sheet->there->parts.empty();
  });
  return in_parts ? in_words_sent_on(sql) : sql;
}

}  // namespace opensum
