// Two tables compared, row by row or by keys.
#include "again/compare_tables.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/result.h"
#include "message/nearest.h"
#include "results/written_sheets.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "table/cell_text.h"

namespace opensum {
namespace {

constexpr std::size_t kRowsNamed = 5;
// Numbers are written with twelve digits: what rounding before a conversion comes to is below this.
constexpr double kRounding = 1e-11;

// Rows that belong together.
struct RowPairs {
  std::vector<std::pair<std::size_t, std::size_t>> both;
  std::vector<std::size_t> gone;
  std::vector<std::size_t> come;
};

// How far apart two values of a column may be, in steps of its scale; 0 where the quantity is a share or of
// another dimension.
double tolerance_of(const Column& column, const std::optional<Quantity>& within) {
  if (!within || !within->unit_stated || column.kind != Kind::number) return 0;
  const Unit difference = difference_unit(column.unit);
  if (within->unit.is_dimensionless() || mismatch(within->unit, difference)) return 0;
  return conversion(difference,
                    step_unit(column.unit))(conversion(step_unit(within->unit), difference)(within->value));
}

// A column by its symbol or its header: what other tables call `fit` is no symbol.
const Column* column_called(const Table& table, const std::string& name) {
  if (const Column* column = table.find(name)) return column;
  const auto found = std::find_if(table.columns.begin(), table.columns.end(),
                                  [&](const Column& column) { return column.header == name; });
  return found == table.columns.end() ? nullptr : &*found;
}

class TableComparer {
 public:
  TableComparer(const Table& before, const Table& after, const CompareHow& how, Diagnostics& diagnostics)
      : before_(before), after_(after), how_(how), diagnostics_(diagnostics) {}

  std::optional<TableComparison> run(const std::string& name) {
    TableComparison out;
    out.name = name;
    out.rows_before = before_.rows;
    out.rows_after = after_.rows;
    if (!find_keys()) return std::nullopt;
    const auto pairs = keys_.empty() ? pairs_by_place() : pairs_by_key();
    if (!pairs) return std::nullopt;
    out.gone = pairs->gone.size();
    out.come = pairs->come.size();
    for (std::size_t i = 0; i < std::min(kRowsNamed, out.gone); ++i)
      out.rows_gone.push_back(row_name(before_, pairs->gone[i], true));
    for (std::size_t i = 0; i < std::min(kRowsNamed, out.come); ++i)
      out.rows_come.push_back(row_name(after_, pairs->come[i], false));
    bool fits = false;
    for (const Column* column : before_.written()) {
      const Column* other = after_.find(column->symbol);
      if (other == nullptr) {
        out.columns_gone.push_back(column->symbol);
        continue;
      }
      out.columns.push_back(compare(*column, *other, *pairs));
      fits = fits || tolerance_of(*column, how_.within) > 0;
    }
    for (const Column* column : after_.written()) {
      if (before_.find(column->symbol) == nullptr) out.columns_come.push_back(column->symbol);
    }
    if (how_.within && how_.within->unit_stated && !how_.within->unit.is_dimensionless() && !fits) {
      diagnostics_.add(Code::within_fits_nothing, {how_.within->unit.text()});
      return std::nullopt;
    }
    return out;
  }

 private:
  struct Key {
    std::string name;  ///< as it was asked for
    const Column* before = nullptr;
    const Column* after = nullptr;
  };

  bool find_keys() {
    for (const Passage& symbol : how_.by) {
      Key key{symbol.text(), column_called(before_, symbol.text()), column_called(after_, symbol.text())};
      for (const auto& [column, table] : {std::pair(key.before, &before_), std::pair(key.after, &after_)}) {
        if (column != nullptr) continue;
        std::vector<std::string> names;
        for (const Column* one : table->written()) names.push_back(one->symbol);
        diagnostics_.add(Code::no_such_key, {symbol.text(), table->file, nearest_name(symbol.text(), names)});
        return false;
      }
      keys_.push_back(key);
    }
    return true;
  }

  // The values of a row by which it is found, in the units of the first table. Numbers of one value are one
  // key, however they are written.
  std::string key_of(std::size_t row, bool first) const {
    std::string text;
    for (const Key& key : keys_) {
      const Column& column = first ? *key.before : *key.after;
      std::string cell = cell_text(column, row);
      if (column.kind == Kind::number && !column.null(row)) {
        double value = column.number(row);
        if (!first && key.before->kind == Kind::number && !mismatch(column.unit, key.before->unit))
          value = conversion(column.unit, key.before->unit)(value);
        cell = number_text(value);
      }
      text += cell + '\n';
    }
    return text;
  }

  // The places of rows by their keys; nothing after a reported key of two rows.
  std::optional<std::map<std::string, std::size_t>> rows_by_key(const Table& table, bool first) {
    std::map<std::string, std::size_t> rows;
    for (std::size_t place = 0; place < table.rows; ++place) {
      const std::size_t row = table.row_at(place);
      const auto [other, is_new] = rows.emplace(key_of(row, first), row);
      if (is_new) continue;
      diagnostics_.add(Code::key_of_two_rows,
                       {row_name(table, row, first), table.file,
                        std::to_string(table.place_of(other->second) + 1), std::to_string(place + 1)});
      return std::nullopt;
    }
    return rows;
  }

  std::optional<RowPairs> pairs_by_key() {
    const auto old_rows = rows_by_key(before_, true);
    const auto new_rows = rows_by_key(after_, false);
    if (!old_rows || !new_rows) return std::nullopt;
    RowPairs pairs;
    for (std::size_t place = 0; place < before_.rows; ++place) {
      const std::size_t row = before_.row_at(place);
      const auto found = new_rows->find(key_of(row, true));
      if (found == new_rows->end()) {
        pairs.gone.push_back(row);
      } else {
        pairs.both.emplace_back(row, found->second);
      }
    }
    for (std::size_t place = 0; place < after_.rows; ++place) {
      const std::size_t row = after_.row_at(place);
      if (!old_rows->contains(key_of(row, false))) pairs.come.push_back(row);
    }
    return pairs;
  }

  std::optional<RowPairs> pairs_by_place() const {
    RowPairs pairs;
    for (std::size_t place = 0; place < std::max(before_.rows, after_.rows); ++place) {
      if (place >= after_.rows) {
        pairs.gone.push_back(before_.row_at(place));
      } else if (place >= before_.rows) {
        pairs.come.push_back(after_.row_at(place));
      } else {
        pairs.both.emplace_back(before_.row_at(place), after_.row_at(place));
      }
    }
    return pairs;
  }

  std::string row_name(const Table& table, std::size_t row, bool first) const {
    if (keys_.empty()) return fmt::format("row {}", table.place_of(row) + 1);
    std::string name;
    for (const Key& key : keys_) {
      const Column& column = first ? *key.before : *key.after;
      const std::string cell = cell_text(column, row);
      name += fmt::format("{}{} {}", name.empty() ? "" : ", ", key.name, cell.empty() ? "null" : cell);
    }
    return name;
  }

  double share() const {
    if (!how_.within || (how_.within->unit_stated && !how_.within->unit.is_dimensionless())) return 0;
    return conversion(how_.within->unit, Unit())(how_.within->value);
  }

  ColumnComparison compare(const Column& before, const Column& after, const RowPairs& pairs) const {
    ColumnComparison out;
    out.symbol = before.symbol;
    out.compared = pairs.both.size();
    const auto all_null = [](const Column& column) { return column.null_count() == column.rows; };
    const bool as_numbers = before.kind != Kind::text;
    const bool nothing_known = all_null(before) || all_null(after);
    if (before.kind != after.kind && !nothing_known) {
      out.incomparable = fmt::format("was a {} and is a {}", kind_name(before.kind), kind_name(after.kind));
      return out;
    }
    const bool are_numbers = before.kind == Kind::number && after.kind == Kind::number;
    if (are_numbers && !nothing_known && mismatch(after.unit, before.unit)) {
      out.incomparable = fmt::format("was in {} and is in {}", before.unit.text(), after.unit.text());
      return out;
    }
    Conversion convert;
    if (are_numbers && !nothing_known) convert = conversion(after.unit, before.unit);
    if (are_numbers && before.unit.text() != after.unit.text()) {
      out.unit_before = before.unit.text();
      out.unit_after = after.unit.text();
    }
    const double within = tolerance_of(before, how_.within);
    const double relative = std::max(share(), convert.is_identity() ? 0 : kRounding);
    // Differences are given in the unit of differences, and kept in steps of the scale until then.
    const Conversion shown = before.kind == Kind::number
                                 ? conversion(step_unit(before.unit), difference_unit(before.unit))
                                 : Conversion();
    if (before.kind == Kind::number) out.unit = difference_unit(before.unit).text();
    if (before.kind == Kind::date) out.unit = "s";
    double greatest = -1;
    for (const auto& [old_row, new_row] : pairs.both) {
      const bool was_null = static_cast<bool>(before.null(old_row));
      const bool is_null = static_cast<bool>(after.null(new_row));
      if (was_null && is_null && before.unread(old_row) == after.unread(new_row)) continue;
      double apart = 0;
      bool differs = was_null != is_null || (was_null && is_null);
      if (!was_null && !is_null && as_numbers) {
        const double old_value = before.number(old_row);
        const double new_value = convert(after.number(new_row));
        apart = std::fabs(before.kind == Kind::date
                              ? seconds_between(before.instant(old_row), after.instant(new_row))
                              : new_value - old_value);
        // A scale with another zero was rounded at its own distance from it.
        const double larger = std::max({std::fabs(old_value), std::fabs(new_value), std::fabs(convert.add)});
        differs = apart > 0 && apart > within && apart > relative * larger;
        if (differs && before.kind == Kind::truth) apart = 0;
        if (differs && before.kind == Kind::number && apart > greatest)
          out.relative =
              before.unit.is_reading() || larger == 0 ? std::nullopt : std::optional(apart / larger);
      } else if (!was_null && !is_null) {
        differs = before.text(old_row) != after.text(new_row);
      }
      if (!differs) continue;
      ++out.differing;
      if (!was_null && is_null) ++out.became_null;
      if (was_null && !is_null) ++out.became_known;
      const bool measurable = apart > 0;
      if (out.differing > 1 && (!measurable || apart <= greatest)) continue;
      if (measurable) greatest = apart;
      out.worst = {row_name(before_, old_row, true), cell_text(before, old_row), cell_text(after, new_row)};
    }
    if (greatest > 0) out.greatest = shown(greatest);
    return out;
  }

  const Table& before_;
  const Table& after_;
  const CompareHow& how_;
  Diagnostics& diagnostics_;
  std::vector<Key> keys_;
};

}  // namespace

std::unique_ptr<PreparedStudy> held_table(SheetModel sheet, Diagnostics& diagnostics) {
  Study study;
  study.sheets.push_back(std::move(sheet));
  auto prepared = prepare(std::move(study), "", {}, diagnostics);
  if (diagnostics.has_errors()) return nullptr;
  LastWishes wishes;
  wishes.held = all_written(*prepared->sheets.front());
  compute(*prepared, {std::move(wishes)}, diagnostics);
  return diagnostics.has_errors() ? nullptr : std::move(prepared);
}

bool fits_some_column(const PreparedStudy& table, const Quantity& within) {
  const std::deque<Column>& columns = table.sheets.front()->table().columns;
  return within.unit.is_dimensionless() ||
         std::any_of(columns.begin(), columns.end(),
                     [&](const Column& column) { return tolerance_of(column, within) > 0; });
}

Result<TableComparison> compare_tables(const std::string& name, const PreparedStudy& before,
                                       const PreparedStudy& after, const CompareHow& how,
                                       Diagnostics& diagnostics) {
  return TableComparer(before.sheets.front()->table(), after.sheets.front()->table(), how, diagnostics)
      .run(name);
}

}  // namespace opensum
