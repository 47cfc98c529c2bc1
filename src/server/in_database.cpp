// Sheets that are computed in their database.
#include "server/in_database.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <functional>

#include "base/split.h"
#include "files/copied_rows.h"
#include "files/file_names.h"
#include "files/postgresql_reader.h"
#include "plot/figures.h"
#include "results/written_sheets.h"
#include "server/fetched_column.h"
#include "server/points_in_database.h"
#include "sql/name.h"
#include "sql/study.h"
#include "study/where_computed.h"

namespace opensum {
namespace {

double number_of(const std::optional<std::string>& cell) {
  double number = 0;
  if (cell) std::from_chars(cell->data(), cell->data() + cell->size(), number);
  return number;
}

std::size_t count_of(const std::optional<std::string>& cell) {
  return static_cast<std::size_t>(number_of(cell));
}

class DatabaseRun {
 public:
  DatabaseRun(PreparedStudy& prepared, Diagnostics& diagnostics)
      : prepared_(prepared), diagnostics_(diagnostics), sql_(prepared) {}

  bool compute(DatabaseTables& tables) {
    return refuse_what_is_here() && connect() && find_bounds() && translate() && check_keys() &&
           for_each([&](std::size_t i) { return count(i); }) &&
           for_each([&](std::size_t i) { return fill_tables(i, tables) && thin(i); }) && fetch_all();
  }

  std::string text() {
    if (!refuse_what_is_here() || !connect() || !find_bounds() || !translate()) return "";
    std::string text =
        "-- Beside each column \"x\" that may be null stands \"x why\": 256 times the number of the column "
        "in which the\n"
        "-- null began, and its reason:";
    for (int reason = 1; reason < kReasons; ++reason)
      text += fmt::format(" {} {}{}", reason, reason_name(static_cast<Reason>(reason)),
                          reason + 1 < kReasons ? "," : ".");
    text +=
        "\n-- What cannot happen with the least and the greatest numbers that there are is not looked "
        "for.\n" +
        sql_.with(true) + '\n';
    for_each([&](std::size_t i) {
      const RunSheet& sheet = *prepared_.sheets[i];
      if (!sheet.model->hidden)
        text += fmt::format("-- {}:{}\n", sheet.model->name,
                            comes_here(prepared_, sheet) ? "" : " its rows stay there");
      return true;
    });
    for_each([&](std::size_t i) {
      const SqlSheet& sheet = sql_.sheet(i);
      if (comes_here(prepared_, *prepared_.sheets[i]))
        text += fmt::format("SELECT * FROM {}{};\n", sheet.name,
                            sheet.order_by.empty() ? "" : " ORDER BY " + sheet.order_by);
      return true;
    });
    return text;
  }

 private:
  bool for_each(const std::function<bool(std::size_t)>& action) {
    for (std::size_t i = 0; i < prepared_.sheets.size(); ++i) {
      if (prepared_.sheets[i]->in_database && !action(i)) return false;
    }
    return true;
  }

  bool fail(const SqlSource& source) {
    diagnostics_.add(Code::database_failed, {without_password(source.server), connection_->fault()});
    return false;
  }

  bool refuse(const RunSheet& sheet, const std::string& reason, const Place& place = {}) {
    refuse_in_database(*sheet.model,
                       sheet.model->hidden ? prepared_.shown_source(sheet).model->name : sheet.model->name,
                       reason, place, diagnostics_);
    return false;
  }

  // Functions of sheets that are computed here over rows that are not.
  bool goes_over(const Program& program, std::size_t own) const {
    return std::any_of(program.stages.begin(), program.stages.end(), [&](const Stage& stage) {
      const std::size_t over = stage.over ? stage.over->sheet : own;
      return prepared_.sheets[over]->in_database || goes_over(stage.value, over);
    });
  }

  bool refuse_what_is_here() {
    const NullPolicy& policy = prepared_.study.policy;
    for (std::size_t i = 0; i < prepared_.sheets.size(); ++i) {
      const RunSheet& sheet = *prepared_.sheets[i];
      if (sheet.in_database && (policy.divide_by_zero_is_error || policy.domain_is_error))
        return refuse(sheet, "rows with a null that the study calls an error are not quoted from there");
      if (sheet.in_database) continue;
      for (const DerivedColumn& derived : sheet.plan.derived) {
        if (goes_over(derived.program, i))
          return refuse(
              sheet, fmt::format("{} goes over rows that stay there; a sheet with rows_of computes it there",
                                 derived.definition.name));
      }
      if (sheet.plan.source && prepared_.source_of(sheet).in_database)
        return refuse(sheet,
                      "its rows are those of a sheet that is computed there, and it is to be computed here");
    }
    for (const auto& keeps : prepared_.plot_keeps) {
      for (const auto& [sheet, program] : keeps) {
        if (prepared_.sheets[sheet]->in_database)
          return refuse(*prepared_.sheets[sheet], "a plot has a condition for its rows");
      }
    }
    for (const FitPlan& fit : prepared_.fits) {
      for (const FitSheetPlan& points : fit.sheets) {
        if (points.keep && prepared_.sheets[points.sheet]->in_database)
          return refuse(*prepared_.sheets[points.sheet], "a fit has a condition for its rows");
      }
    }
    return true;
  }

  // All are on one server: only there they can be joined.
  bool connect() {
    return for_each([&](std::size_t i) {
      const RunSheet& sheet = *prepared_.sheets[i];
      if (!sheet.there) return true;
      if (source_ && source_->server != sheet.there->server)
        return refuse(sheet, "other sheets are on another server");
      source_ = sheet.there;
      connection_ = reading_connection({sheet.there->server, "", ""}, sheet.model->place, prepared_.inputs,
                                       diagnostics_);
      if (!connection_) return false;
      // What servers of parts can do is left to them.
      for (const char* const setting :
           {"max_parallel_workers_per_gather = DEFAULT", "enable_partitionwise_aggregate = on",
            "enable_partitionwise_join = on"}) {
        if (!connection_->run(std::string("SET LOCAL ") + setting)) return fail(*source_);
      }
      return true;
    });
  }

  bool find_bounds() {
    return for_each([&](std::size_t i) {
      const RunSheet& sheet = *prepared_.sheets[i];
      if (!sheet.there) return true;
      SqlStudy::BoundsQuery query;
      try {
        query = sql_.bounds_query(i);
      } catch (const NotInSql& refused) {
        return refuse(sheet, refused.reason, refused.place);
      }
      QueryRows rows;
      if (!connection_->ask(query.sql, {}, rows)) return fail(*sheet.there);
      const auto& found = rows.front();
      const double all = number_of(found[0]);
      std::map<std::size_t, SqlKnown> known;
      for (std::size_t k = 0; k < query.columns.size(); ++k) {
        const std::size_t at = 1 + k * SqlStudy::kBoundsPerColumn;
        SqlKnown& column = known[query.columns[k]];
        column.may_be_null = number_of(found[at]) < all;
        column.plain = count_of(found[at + 5]) == 0;
        column.bounds = {number_of(found[at + 1]), number_of(found[at + 2]),
                         found[at + 3] ? number_of(found[at + 3]) : 1.0, false};
        const Column& here = sheet.table().columns[query.columns[k]];
        // Dates are held to the microsecond.
        if (here.kind == Kind::date) column.bounds.tiny = 1e-6;
        constexpr double kFirstYear = -62135596800;
        constexpr double kAfterLastYear = 253402300800;
        if (here.kind == Kind::date &&
            (column.bounds.least < kFirstYear || column.bounds.greatest >= kAfterLastYear))
          return refuse(sheet, fmt::format("{} has dates outside of the years 1 to 9999", here.symbol));
        if (const std::size_t infinite = count_of(found[at + 4]); infinite > 0)
          return refuse(
              sheet, fmt::format("{} cells of {} are infinite, which cannot be read", infinite, here.symbol));
      }
      sql_.know(i, all, std::move(known));
      return true;
    });
  }

  bool translate() {
    return for_each([&](std::size_t i) {
      try {
        sql_.sheet(i);
        return true;
      } catch (const NotInSql& refused) {
        return refuse(*prepared_.sheets[i], refused.reason, refused.place);
      }
    });
  }

  bool check_keys() {
    for (const SqlStudy::UniqueKeys& keys : sql_.unique_keys()) {
      QueryRows rows;
      if (!connection_->ask(sql_.with() + "\n" + sql_.repeated_keys_query(keys), {}, rows))
        return fail(*source_);
      const std::size_t repeated = count_of(rows.front().front());
      const LinkPlan& link = prepared_.sheets[keys.sheet]->plan.links[keys.link];
      if (repeated == 0) continue;
      diagnostics_.add(Code::link_keys_repeat, link.place,
                       {link.name, prepared_.sheets[*link.sheet]->model->name, std::to_string(repeated)});
      return false;
    }
    return true;
  }

  // Counts what is said of a sheet.
  bool count(std::size_t number) {
    RunSheet& sheet = *prepared_.sheets[number];
    const SqlSheet& query = sql_.sheet(number);
    std::vector<SqlTotal> totals{{"count(*)"}};
    std::vector<std::function<void(const std::optional<std::string>&)>> takers{
        [&](const auto& cell) { set_rows(sheet, count_of(cell)); }};
    const auto ask = [&](std::string what, auto take) {
      totals.push_back({std::move(what)});
      takers.emplace_back(std::move(take));
    };
    RowFacts& facts = sheet.facts;
    facts.null_counts.assign(sheet.table().columns.size(), {});
    facts.links.assign(sheet.plan.links.size(), {});
    facts.first_rows = sheet.table().without_rows();
    for (const auto& [index, column] : query.columns) {
      for (const Reason reason : column.value.reasons) {
        ask(fmt::format("count(*) FILTER (WHERE {} & 255 = {})", column.value.why, static_cast<int>(reason)),
            [&facts, i = index, r = static_cast<std::size_t>(reason)](const auto& cell) {
              facts.null_counts[i].at(r) = count_of(cell);
            });
      }
    }
    count_claims(sheet, query, ask);
    count_fills(sheet, query, ask);
    for (const auto& [link, matched] : query.links) {
      LinkCounts& counts = facts.links[link];
      ask(fmt::format("count({})", matched),
          [&counts](const auto& cell) { counts.matched = count_of(cell); });
      ask(fmt::format("count(*) FILTER (WHERE {} IS NULL)", matched), [&counts](const auto& cell) {
        if (count_of(cell) > 0) counts.unmatched[reason_name(Reason::no_match)] = count_of(cell);
      });
    }
    count_left_out(sheet, query, ask);
    QueryRows rows;
    if (!connection_->ask(sql_.totals(query, query.name, totals), {}, rows)) return fail(*source_);
    for (std::size_t i = 0; i < takers.size(); ++i) takers[i](rows.front()[i]);
    return count_kept(sheet, query);
  }

  static void set_rows(RunSheet& sheet, std::size_t rows) {
    sheet.table().rows = rows;
    sheet.table().source_count = rows;
    for (Column& column : sheet.table().columns) column.rows = rows;
  }

  template <typename Ask>
  static void count_claims(RunSheet& sheet, const SqlSheet& query, const Ask& ask) {
    sheet.claims.assign(sheet.plan.claims.size(), {});
    for (std::size_t i = 0; i < query.claims.size(); ++i) {
      ClaimResult& result = sheet.claims[i];
      const std::string& condition = query.claims[i].value;
      ask(fmt::format("count(*) FILTER (WHERE {})", condition),
          [&result](const auto& cell) { result.held = count_of(cell); });
      ask(fmt::format("count(*) FILTER (WHERE NOT ({}))", condition),
          [&result](const auto& cell) { result.broken.rows.count = count_of(cell); });
      ask(fmt::format("count(*) FILTER (WHERE ({}) IS NULL)", condition),
          [&result](const auto& cell) { result.undecided.rows.count = count_of(cell); });
    }
  }

  template <typename Ask>
  static void count_fills(RunSheet& sheet, const SqlSheet& query, const Ask& ask) {
    sheet.fills.assign(sheet.plan.fills.size(), {});
    for (const SqlFill& fill : query.fills) {
      FillResult& result = sheet.fills[fill.fill];
      result.closed.assign(fill.closed.size(), 0);
      ask(fmt::format("count(*) FILTER (WHERE {})", fill.gaps),
          [&result](const auto& cell) { result.gaps = count_of(cell); });
      for (std::size_t rule = 0; rule < fill.closed.size(); ++rule) {
        ask(fmt::format("count(*) FILTER (WHERE {})", fill.closed[rule]),
            [&result, rule](const auto& cell) { result.closed[rule] = count_of(cell); });
      }
    }
  }

  template <typename Ask>
  static void count_left_out(RunSheet& sheet, const SqlSheet& query, const Ask& ask) {
    sheet.left_out.clear();
    sheet.tallies.clear();
    for (const SqlCount& counted : query.counts) {
      const std::string sum = fmt::format("{}({})", counted.once ? "max" : "sum", counted.sum);
      switch (counted.what) {
        case SqlCount::What::left_out:
          ask(sum, [&sheet, name = counted.column](const auto& cell) {
            if (count_of(cell) > 0) sheet.left_out[name].first += count_of(cell);
          });
          break;
        case SqlCount::What::left_out_rows:
          ask(sum, [&sheet, name = counted.column](const auto& cell) {
            if (count_of(cell) > 0) sheet.left_out[name].second += count_of(cell);
          });
          break;
        case SqlCount::What::known:
          ask(sum, [&sheet, counted](const auto& cell) {
            sheet.tallies[counted.column].push_back({counted.function, count_of(cell), 0});
          });
          break;
        case SqlCount::What::met:
          ask(sum, [&sheet, name = counted.column](const auto& cell) {
            ReductionTally& tally = sheet.tallies[name].back();
            tally.met = count_of(cell);
            if (tally.used >= tally.met) sheet.tallies[name].pop_back();
          });
          break;
      }
    }
  }

  bool count_kept(RunSheet& sheet, const SqlSheet& query) {
    if (query.kept_from.empty()) return true;
    const std::vector<SqlTotal> totals{
        {"count(*)"},
        {fmt::format("count(*) FILTER (WHERE {})", query.kept_where)},
        {fmt::format("count(*) FILTER (WHERE ({}) IS NULL)", query.kept_where)}};
    QueryRows rows;
    if (!connection_->ask(sql_.totals(query, query.kept_from, totals), {}, rows)) return fail(*source_);
    Selection selection;
    selection.condition = sheet.model->keep->text();
    selection.read = count_of(rows.front()[0]);
    selection.undecided = count_of(rows.front()[2]);
    selection.left_out = selection.read - count_of(rows.front()[1]) - selection.undecided;
    sheet.selection = selection;
    return true;
  }

  // Fills the tables of the same server to which a sheet is written; its rows do not come here for that.
  bool fill_tables(std::size_t number, DatabaseTables& tables) {
    RunSheet& sheet = *prepared_.sheets[number];
    sheet.stays_there = !comes_here(prepared_, sheet);
    if (sheet.model->hidden || !prepared_.writes_databases) return true;
    for (const std::string& format : formats_of(*sheet.model, prepared_.study)) {
      if (!is_database_address(format)) continue;
      const DatabaseAddress address = database_address(table_for_sheet(format, sheet.model->name));
      if (address.server != source_->server) {
        if (sheet.stays_there) return refuse(sheet, "it is written to another server");
        continue;
      }
      if (snapshot_.empty()) {
        QueryRows rows;
        if (!connection_->ask("SELECT pg_export_snapshot()", {}, rows)) return fail(*source_);
        snapshot_ = *rows.front().front();
      }
      const SqlSheet& query = sql_.sheet(number);
      std::vector<std::string> list;
      for (const Column* column : sheet.table().written())
        list.push_back(query.columns.at(index_of(sheet, column)).value.value);
      // Dates are held in seconds.
      for (std::size_t i = 0; i < list.size(); ++i) {
        if (sheet.table().written()[i]->kind == Kind::date)
          list[i] = fmt::format("to_timestamp({}) AT TIME ZONE 'UTC'", list[i]);
      }
      const std::string select =
          fmt::format("{}\nSELECT {}\nFROM {} AS q{}", sql_.with(), fmt::join(list, ", "), query.name,
                      query.order_by.empty() ? "" : "\nORDER BY " + query.order_by);
      const WrittenSheet written{
          sheet.model->name, &sheet.table(),
          sheet.model->headers_are_symbols.value_or(prepared_.study.headers_are_symbols),
          derived_notes(prepared_, sheet)};
      if (!tables.create_from(address, written, select, snapshot_, diagnostics_)) return false;
    }
    return true;
  }

  static std::size_t index_of(const RunSheet& sheet, const Column* column) {
    std::size_t index = 0;
    while (&sheet.table().columns[index] != column) ++index;
    return index;
  }

  bool thin(std::size_t number) {
    const RunSheet& sheet = *prepared_.sheets[number];
    return !sheet.stays_there ||
           thin_points(prepared_, number, sql_.sheet(number), sql_.with(), *connection_) || fail(*source_);
  }

  bool fetch_all() {
    const std::vector<LastWishes> wishes = wishes_of_figures(prepared_);
    return for_each([&](std::size_t i) { return fetch(i, wishes[i]); });
  }

  // Gets the columns of a sheet that something here looks at.
  bool fetch(std::size_t number, const LastWishes& wishes) {
    RunSheet& sheet = *prepared_.sheets[number];
    std::vector<bool> wanted(sheet.table().columns.size(), !sheet.stays_there);
    for (std::size_t i = 0; i < wishes.held.size(); ++i)
      wanted[i] = wanted[i] || wishes.held[i] != Held::nothing;
    want_for_fits(number, wanted);
    want_for_links(number, wanted);
    const SqlSheet& query = sql_.sheet(number);
    std::vector<std::string> list;
    std::vector<FetchedColumn> fetched;
    std::vector<Column*> filled;
    for (const auto& [index, column] : query.columns) {
      if (!wanted[index]) continue;
      filled.push_back(&sheet.table().columns[index]);
      const CellsBeside beside = {.why = column.value.may_be_null(), .source = !column.as_read.empty()};
      fetched.emplace_back(*filled.back(), beside);
      list.push_back(column.value.value);
      if (beside.why) list.push_back(column.value.why);
      if (beside.source) list.push_back(column.as_read);
    }
    const std::size_t of_fills = list.size();
    for (const SqlFill& fill : query.fills) {
      if (sheet.stays_there) break;
      list.push_back(fill.rule);
      list.push_back(fill.left.empty() ? "NULL" : fill.left);
    }
    if (fetched.empty()) return true;
    std::size_t rows = 0;
    const std::string select =
        fmt::format("{}\nSELECT {}\nFROM {} AS q{}", sql_.with(), fmt::join(list, ", "), query.name,
                    query.order_by.empty() ? "" : "\nORDER BY " + query.order_by);
    const bool copied =
        connection_->copy_out(fmt::format("COPY ({}) TO STDOUT", select), [&](std::string_view line) {
          std::vector<std::string> cells = split(line, '\t');
          cells.resize(list.size());
          std::size_t at = 0;
          for (FetchedColumn& one : fetched) at = one.take(cells, at, rows);
          if (of_fills < list.size()) take_fills(sheet, query, cells, of_fills, rows);
          ++rows;
          return true;
        });
    if (!copied) return fail(*source_);
    Table& table = sheet.table();
    table.rows = rows;
    table.lines = RowNumbers::counting(1, rows);
    table.source_rows = RowNumbers::counting(0, rows);
    for (Column* column : filled) column->rows = rows;
    return true;
  }

  static void take_fills(RunSheet& sheet, const SqlSheet& query, const std::vector<std::string>& cells,
                         std::size_t at, std::size_t row) {
    for (const SqlFill& fill : query.fills) {
      const int rule = static_cast<int>(number_of(cells[at]));
      const std::string& left = cells[at + 1];
      at += 2;
      if (rule < 0) continue;
      FilledCell cell{row, std::nullopt, {}};
      if (static_cast<std::size_t>(rule) < fill.closed.size()) {
        cell.rule = static_cast<std::size_t>(rule);
      } else if (left != "\\N") {
        cell.left = null_in(left);
      }
      sheet.fills[fill.fill].cells.push_back(cell);
    }
  }

  void want_for_fits(std::size_t number, std::vector<bool>& wanted) const {
    for (const FitPlan& fit : prepared_.fits) {
      for (const FitSheetPlan& points : fit.sheets) {
        if (points.sheet != number || !points.good) continue;
        wanted[points.x] = wanted[points.y] = true;
        for (const auto& more : {points.by, points.weights, points.x_error}) {
          if (more) wanted[*more] = true;
        }
      }
    }
  }

  void want_for_links(std::size_t number, std::vector<bool>& wanted) const {
    for (const auto& sheet : prepared_.sheets) {
      if (sheet->in_database) continue;
      want_for_links(sheet->plan, number, wanted);
      if (sheet->plan.keep) want_for_links(sheet->plan.keep->plan, number, wanted);
    }
  }

  static void want_for_links(const SheetPlan& plan, std::size_t number, std::vector<bool>& wanted) {
    for (std::size_t i = 0; i < plan.links.size(); ++i) {
      const LinkPlan& link = plan.links[i];
      if (link.sheet != number) continue;
      for (const LinkPlan::Keys& key : link.keys) wanted[key.there] = true;
      for (const BorrowedColumn& borrowed : plan.borrowed) {
        if (borrowed.link == i) wanted[borrowed.there] = true;
      }
    }
  }

  PreparedStudy& prepared_;
  Diagnostics& diagnostics_;
  SqlStudy sql_;
  std::shared_ptr<const SqlSource> source_;
  std::shared_ptr<DatabaseConnection> connection_;
  std::string snapshot_;
};

}  // namespace

void refuse_in_database(const SheetModel& sheet, const std::string& name, const std::string& reason,
                        const Place& place, Diagnostics& diagnostics) {
  const char* const hint =
      sheet.compute_in_database ? "leave out compute = \"database\"" : "leave out --in-database";
  diagnostics.add(Code::not_in_database, place.source ? place : sheet.place, {name, reason, hint});
}

bool compute_in_database(PreparedStudy& prepared, DatabaseTables& tables, Diagnostics& diagnostics) {
  return DatabaseRun(prepared, diagnostics).compute(tables);
}

std::string sql_of_study(PreparedStudy& prepared, Diagnostics& diagnostics) {
  return DatabaseRun(prepared, diagnostics).text();
}

}  // namespace opensum
