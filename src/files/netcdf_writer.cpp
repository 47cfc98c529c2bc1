// Writing sheets as netCDF (CF conventions): a group for each sheet, a variable for each column.
#include <netcdf.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <cstring>
#include <deque>
#include <utility>

#include "files/column_spool.h"
#include "files/row_cells.h"
#include "files/table_writer.h"
#include "version.h"

namespace opensum {
namespace {

// What a spooled date takes: its seconds and nanoseconds.
constexpr std::size_t kDateBytes = sizeof(std::int64_t) + sizeof(std::int32_t);
constexpr std::int64_t kNoDate = INT64_MIN;

// The steps in which dates are counted, from the coarsest on.
struct TimeStep {
  const char* name;
  std::int64_t in_second;
};
constexpr std::array<TimeStep, 4> kTimeSteps = {TimeStep{"seconds", 1},
                                                {"milliseconds", 1'000},
                                                {"microseconds", 1'000'000},
                                                {"nanoseconds", 1'000'000'000}};

// Calls a function with the seconds and nanoseconds of each date of a piece.
template <typename Function>
void each_date(std::string_view piece, Function function) {
  while (!piece.empty()) {
    const auto seconds = take_value<std::int64_t>(piece);
    function(seconds, take_value<std::int32_t>(piece));
  }
}

// Ends writing at the first fault. What the dimensions are is known when there are no more rows.
class NetcdfTables : public GrowingTables {
 public:
  NetcdfTables(std::string path, const std::vector<WrittenSheet>& sheets) : path_(std::move(path)) {
    for (const WrittenSheet& sheet : sheets) {
      const std::vector<const Column*> columns = sheet.table->written();
      sheets_.push_back({sheet, columns, std::vector<std::vector<Reason>>(columns.size()), 0,
                         ColumnSpool(columns.size(), path_), ColumnSpool(columns.size(), path_)});
    }
  }

  bool put(std::size_t sheet, std::string_view rows) override {
    Rows& own = sheets_[sheet];
    while (!rows.empty()) {
      ++own.count;
      for (std::size_t i = 0; i < own.columns.size(); ++i) {
        const char flag = flag_of(own.reasons[i], take_value<Reason>(rows));
        own.flags.add(i, {&flag, 1});
        const std::size_t size = bytes_of(own.columns[i]->kind, rows);
        own.values.add(i, rows.substr(0, size));
        rows.remove_prefix(size);
      }
    }
    return own.values.error() == 0 && own.flags.error() == 0;
  }

  WrittenTables finish() override {
    WrittenTables written;
    written.fault = write();
    for (const Rows& sheet : sheets_) {
      const int error = sheet.values.error() != 0 ? sheet.values.error() : sheet.flags.error();
      if (error != 0) written.fault = system_reason(error);
    }
    return written;
  }

 private:
  // The rows of a sheet so far.
  struct Rows {
    WrittenSheet sheet;
    std::vector<const Column*> columns;
    std::vector<std::vector<Reason>> reasons;  // of each column, in the order in which they were met
    std::size_t count = 0;
    ColumnSpool values;
    ColumnSpool flags;  // 0 for a known value, else the place of its reason, from 1
  };

  static char flag_of(std::vector<Reason>& reasons, Reason reason) {
    if (reason == Reason::none) return 0;
    const auto known = std::find(reasons.begin(), reasons.end(), reason);
    const auto flag = static_cast<char>(known - reasons.begin() + 1);
    if (known == reasons.end()) reasons.push_back(reason);
    return flag;
  }

  // How many bytes the value at the begin takes.
  static std::size_t bytes_of(Kind kind, std::string_view rows) {
    if (kind == Kind::text) return sized_bytes(rows);
    return kind == Kind::date ? kDateBytes : sizeof(double);
  }

  // How many bytes the text at the begin takes, with its length.
  static std::size_t sized_bytes(std::string_view rows) {
    return sizeof(std::size_t) + take_value<std::size_t>(rows);
  }

  std::string write() {
    if (!keep(::nc_create(path_.c_str(), NC_NETCDF4 | NC_CLOBBER, &file_))) return fault_;
    add_text(file_, NC_GLOBAL, "Conventions", "CF-1.10");
    add_text(file_, NC_GLOBAL, "source", std::string("Open Sum ") + kVersion);
    for (Rows& rows : sheets_) {
      int group = file_;
      if (sheets_.size() > 1 && !keep(::nc_def_grp(file_, rows.sheet.name.c_str(), &group))) break;
      add_sheet(group, rows);
    }
    const int closed = ::nc_close(file_);
    if (fault_.empty()) keep(closed);
    return fault_;
  }

  bool keep(int state) {
    if (state != NC_NOERR && fault_.empty()) fault_ = ::nc_strerror(state);
    return fault_.empty();
  }

  void add_text(int group, int variable, const char* name, const std::string& text) {
    keep(::nc_put_att_text(group, variable, name, text.size(), text.c_str()));
  }

  void add_sheet(int group, Rows& rows) {
    int row = 0;
    if (!keep(::nc_def_dim(group, "row", rows.count == 0 ? NC_UNLIMITED : rows.count, &row))) return;
    for (std::size_t i = 0; i < rows.columns.size() && fault_.empty(); ++i) add_column(group, row, rows, i);
  }

  void add_column(int group, int row, Rows& rows, std::size_t index) {
    const Column& column = *rows.columns[index];
    // Dates within a second are whole numbers: no double holds them.
    const TimeStep step = column.kind == Kind::date ? step_of(rows.values, index) : kTimeSteps.front();
    const nc_type type = column.kind == Kind::text    ? NC_STRING
                         : column.kind == Kind::truth ? NC_BYTE
                         : step.in_second > 1         ? NC_INT64
                                                      : NC_DOUBLE;
    int variable = 0;
    if (!keep(::nc_def_var(group, column.symbol.c_str(), type, 1, &row, &variable))) return;
    add_text(group, variable, "long_name", column.label);
    if (column.kind == Kind::number) add_text(group, variable, "units", foreign_unit(column.unit));
    if (column.kind == Kind::date) {
      add_text(group, variable, "units", std::string(step.name) + " since 1970-01-01 00:00:00");
      add_text(group, variable, "calendar", "proleptic_gregorian");
    }
    if (const DerivedNote* note = note_on(rows.sheet, column)) {
      add_text(group, variable, "comment", note->equation);
      add_text(group, variable, "null_rule", note->null_rule);
    }
    if (column.kind == Kind::text) {
      put_texts(group, variable, rows.values, index);
    } else if (column.kind == Kind::date) {
      put_dates(group, variable, step, rows.values, index);
    } else {
      put_numbers(group, variable, column, rows.values, index);
    }
    if (!rows.reasons[index].empty()) put_reasons(group, row, variable, rows, index);
  }

  void put_texts(int group, int variable, ColumnSpool& values, std::size_t index) {
    std::size_t begin = 0;
    for (std::size_t i = 0; i < values.pieces(index); ++i) {
      const std::string piece = values.piece(index, i);
      std::string_view left = piece;
      std::vector<std::string> texts;
      while (!left.empty()) texts.emplace_back(take_sized(left));
      std::vector<const char*> pointers;
      pointers.reserve(texts.size());
      for (const std::string& text : texts) pointers.push_back(text.c_str());
      const std::size_t count = texts.size();
      if (count > 0) keep(::nc_put_vara_string(group, variable, &begin, &count, pointers.data()));
      begin += count;
    }
  }

  // The coarsest step of which all dates are multiples.
  static TimeStep step_of(ColumnSpool& values, std::size_t index) {
    std::size_t step = 0;
    for (std::size_t i = 0; i < values.pieces(index); ++i) {
      each_date(values.piece(index, i), [&](std::int64_t seconds, std::int32_t nanoseconds) {
        while (seconds != kNoDate &&
               nanoseconds % (kTimeSteps.back().in_second / kTimeSteps.at(step).in_second) != 0)
          ++step;
      });
    }
    return kTimeSteps.at(step);
  }

  void put_dates(int group, int variable, const TimeStep& step, ColumnSpool& values, std::size_t index) {
    const bool whole = step.in_second == 1;
    const long long fill = NC_FILL_INT64;
    const double fill_of_seconds = NC_FILL_DOUBLE;
    keep(whole ? ::nc_put_att_double(group, variable, "_FillValue", NC_DOUBLE, 1, &fill_of_seconds)
               : ::nc_put_att_longlong(group, variable, "_FillValue", NC_INT64, 1, &fill));
    const std::int64_t most = INT64_MAX / step.in_second - 1;
    std::size_t begin = 0;
    for (std::size_t i = 0; i < values.pieces(index) && fault_.empty(); ++i) {
      std::vector<double> seconds_only;
      std::vector<long long> counts;
      each_date(values.piece(index, i), [&](std::int64_t seconds, std::int32_t nanoseconds) {
        const bool null = seconds == kNoDate;
        if (!null && std::abs(seconds) > most)
          fault_ = "dates to the nanosecond before 1678 or after 2261 do not fit into its numbers";
        if (whole) {
          seconds_only.push_back(null ? fill_of_seconds : static_cast<double>(seconds));
        } else {
          counts.push_back(null || !fault_.empty()
                               ? fill
                               : seconds * step.in_second +
                                     nanoseconds / (kTimeSteps.back().in_second / step.in_second));
        }
      });
      const std::size_t count = std::max(seconds_only.size(), counts.size());
      if (count > 0)
        keep(whole ? ::nc_put_vara_double(group, variable, &begin, &count, seconds_only.data())
                   : ::nc_put_vara_longlong(group, variable, &begin, &count, counts.data()));
      begin += count;
    }
  }

  void put_numbers(int group, int variable, const Column& column, ColumnSpool& values, std::size_t index) {
    if (column.kind == Kind::truth) {
      const signed char fill = NC_FILL_BYTE;
      keep(::nc_put_att_schar(group, variable, "_FillValue", NC_BYTE, 1, &fill));
    } else {
      const double fill = NC_FILL_DOUBLE;
      keep(::nc_put_att_double(group, variable, "_FillValue", NC_DOUBLE, 1, &fill));
    }
    std::size_t begin = 0;
    std::vector<double> numbers;
    for (std::size_t i = 0; i < values.pieces(index); ++i) {
      const std::string piece = values.piece(index, i);
      const std::size_t count = piece.size() / sizeof(double);
      numbers.resize(count);
      std::memcpy(numbers.data(), piece.data(), piece.size());
      if (count > 0) keep(::nc_put_vara_double(group, variable, &begin, &count, numbers.data()));
      begin += count;
    }
  }

  // Why values are not there, in a variable of flags beside the column.
  void put_reasons(int group, int row, int variable, Rows& rows, std::size_t index) {
    const Column& column = *rows.columns[index];
    const std::string name = column.symbol + "_null";
    int beside = 0;
    if (!keep(::nc_def_var(group, name.c_str(), NC_BYTE, 1, &row, &beside))) return;
    std::vector<signed char> values = {0};
    std::string meanings = "known";
    for (const Reason reason : rows.reasons[index]) {
      values.push_back(static_cast<signed char>(values.size()));
      meanings += std::string(" ") + reason_name(reason);
    }
    add_text(group, beside, "long_name", "why " + column.label + " is null");
    keep(::nc_put_att_schar(group, beside, "flag_values", NC_BYTE, values.size(), values.data()));
    add_text(group, beside, "flag_meanings", meanings);
    add_text(group, variable, "ancillary_variables", name);
    std::size_t begin = 0;
    for (std::size_t i = 0; i < rows.flags.pieces(index); ++i) {
      const std::string piece = rows.flags.piece(index, i);
      const std::vector<signed char> flags(piece.begin(), piece.end());
      const std::size_t count = flags.size();
      if (count > 0) keep(::nc_put_vara_schar(group, beside, &begin, &count, flags.data()));
      begin += count;
    }
  }

  // A unit as UDUNITS reads it.
  static std::string foreign_unit(const Unit& unit) {
    std::string text = unit.text();
    for (const auto& [ours, theirs] : {std::pair<std::string_view, std::string_view>{"°C", "degC"},
                                       {"°F", "degF"},
                                       {"·", " "},
                                       {"Ω", "ohm"},
                                       {"µ", "u"},
                                       {"Å", "angstrom"},
                                       {"°", "degree"}}) {
      for (std::size_t at = text.find(ours); at != std::string::npos;
           at = text.find(ours, at + theirs.size()))
        text.replace(at, ours.size(), theirs);
    }
    return text.empty() ? "1" : text;
  }

  std::string path_;
  std::deque<Rows> sheets_;
  int file_ = 0;
  std::string fault_;
};

}  // namespace

std::unique_ptr<GrowingTables> begin_netcdf(const std::string& path,
                                            const std::vector<WrittenSheet>& sheets) {
  return std::make_unique<NetcdfTables>(path, sheets);
}

void append_netcdf_rows(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  const std::vector<const Column*> columns = sheet.table->written();
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    const std::size_t row = sheet.table->row_at(place);
    for (const Column* column : columns) {
      const Null null = column->null(row);
      append_value(out, null.reason());
      if (column->kind == Kind::text) {
        append_sized(out, cell_text(*column, row));
      } else if (column->kind == Kind::date) {
        const SecondsAndNanoseconds parts =
            null ? SecondsAndNanoseconds{kNoDate, 0} : parts_of(column->instant(row));
        append_value(out, parts.seconds);
        append_value(out, parts.nanoseconds);
      } else {
        const double missing = column->kind == Kind::truth ? NC_FILL_BYTE : NC_FILL_DOUBLE;
        append_value(out, null ? missing : column->number(row));
      }
    }
    if (ends != nullptr) ends->push_back(out.size());
  }
}

}  // namespace opensum
