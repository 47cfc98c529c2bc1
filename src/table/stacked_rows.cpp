// The rows of several long tables, put below one another.
#include "table/stacked_rows.h"

#include <algorithm>
#include <atomic>
#include <functional>
#include <utility>

namespace opensum {
namespace {

bool lies_in(std::string_view text, std::string_view whole) {
  const std::less_equal<> not_after;
  return not_after(whole.data(), text.data()) &&
         not_after(text.data() + text.size(), whole.data() + whole.size());
}

class StackedRows : public RowSource {
 public:
  explicit StackedRows(std::vector<StackedTable> tables) : tables_(std::move(tables)) {
    for (std::size_t number = 0; number < tables_.size(); ++number) {
      if (!tables_[number].rows) continue;
      const std::vector<std::size_t> cuts = tables_[number].rows->cuts();
      const std::size_t begin = cuts_.empty() ? 0 : cuts_.back();
      if (cuts_.empty()) cuts_.push_back(begin);
      for (std::size_t i = 1; i < cuts.size(); ++i) cuts_.push_back(begin + cuts[i] - cuts.front());
      places_.push_back({begin, cuts.front(), number});
    }
  }

  std::optional<std::size_t> line_at(std::size_t place) const override {
    const Place& where = place_of(place);
    return rows_at(where).line_at(there(where, place));
  }

  std::vector<std::size_t> cuts() const override { return cuts_; }

  Reading read(std::size_t begin, std::size_t end, std::size_t first_line, RawRows& rows) const override {
    const Place& where = place_of(begin);
    Reading reading = rows_at(where).read(there(where, begin), there(where, end), first_line, rows);
    reading.end = reading.end - where.own_begin + where.begin;
    rows.table = where.table;
    put_in_order(tables_[where.table].columns, rows);
    return reading;
  }

  bool is_text(std::size_t begin, std::size_t end) const override {
    const Place& where = place_of(begin);
    return rows_at(where).is_text(there(where, begin), there(where, end));
  }

  bool holds(std::string_view text) const override {
    // Most texts that are asked for one after the other stand in the same table.
    const std::size_t last = last_asked_;
    if (last < tables_.size() && is_in(tables_[last], text)) return true;
    for (std::size_t number = 0; number < tables_.size(); ++number) {
      if (!is_in(tables_[number], text)) continue;
      last_asked_ = number;
      return true;
    }
    return false;
  }

  void forget(std::size_t begin, std::size_t end) const override {
    const Place& where = place_of(begin);
    rows_at(where).forget(there(where, begin), there(where, end));
  }

 private:
  // Where the rows of a table begin, among all and by the places of its own.
  struct Place {
    std::size_t begin = 0;
    std::size_t own_begin = 0;
    std::size_t table = 0;
  };

  const Place& place_of(std::size_t place) const {
    const auto after = std::upper_bound(places_.begin(), places_.end(), place,
                                        [](std::size_t at, const Place& each) { return at < each.begin; });
    return *std::prev(after);
  }
  const RowSource& rows_at(const Place& where) const { return *tables_[where.table].rows; }
  static std::size_t there(const Place& where, std::size_t place) {
    return place - where.begin + where.own_begin;
  }

  static bool is_in(const StackedTable& table, std::string_view text) {
    if (table.rows && table.rows->holds(text)) return true;
    return std::any_of(table.columns.begin(), table.columns.end(),
                       [&](const StackedCells& cells) { return !cells.place && lies_in(text, cells.text); });
  }

  // From the columns of a table to those of the stack.
  static void put_in_order(const std::vector<StackedCells>& columns, RawRows& rows) {
    std::vector<std::vector<std::string_view>> own = std::move(rows.columns);
    rows.columns.clear();
    for (const StackedCells& cells : columns) {
      if (cells.place) {
        rows.columns.push_back(std::move(own[*cells.place]));
      } else {
        rows.columns.emplace_back(rows.rows(), cells.text);
      }
      rows.ascii =
          rows.ascii && std::all_of(cells.text.begin(), cells.text.end(), [](char c) { return c > 0; });
    }
  }

  std::vector<StackedTable> tables_;
  std::vector<Place> places_;
  std::vector<std::size_t> cuts_;
  mutable std::atomic<std::size_t> last_asked_{0};
};

}  // namespace

std::shared_ptr<const RowSource> stack_tables(std::vector<StackedTable> tables) {
  return std::make_shared<StackedRows>(std::move(tables));
}

}  // namespace opensum
