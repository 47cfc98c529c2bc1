// Writing sheets as netCDF (CF conventions): a group for each sheet, a variable for each column.
#include <netcdf.h>

#include <algorithm>
#include <filesystem>

#include "files/table_writer.h"
#include "version.h"

namespace opensum {
namespace {

// Ends writing at the first fault.
class NetcdfWriter {
 public:
  std::string write(const std::string& path, const std::vector<WrittenSheet>& sheets) {
    if (!keep(::nc_create(path.c_str(), NC_NETCDF4 | NC_CLOBBER, &file_))) return fault_;
    add_text(file_, NC_GLOBAL, "Conventions", "CF-1.10");
    add_text(file_, NC_GLOBAL, "source", std::string("Open Sum ") + kVersion);
    for (const WrittenSheet& sheet : sheets) {
      int group = file_;
      if (sheets.size() > 1 && !keep(::nc_def_grp(file_, sheet.name.c_str(), &group))) break;
      add_sheet(group, sheet);
    }
    const int closed = ::nc_close(file_);
    if (fault_.empty()) keep(closed);
    return fault_;
  }

 private:
  bool keep(int state) {
    if (state != NC_NOERR && fault_.empty()) fault_ = ::nc_strerror(state);
    return fault_.empty();
  }

  void add_text(int group, int variable, const char* name, const std::string& text) {
    keep(::nc_put_att_text(group, variable, name, text.size(), text.c_str()));
  }

  void add_sheet(int group, const WrittenSheet& sheet) {
    const Table& table = *sheet.table;
    int row = 0;
    if (!keep(::nc_def_dim(group, "row", table.rows == 0 ? NC_UNLIMITED : table.rows, &row))) return;
    for (const Column* column : table.written()) {
      if (!fault_.empty()) return;
      add_column(group, row, sheet, *column);
    }
  }

  void add_column(int group, int row, const WrittenSheet& sheet, const Column& column) {
    const Table& table = *sheet.table;
    const nc_type type = column.kind == Kind::text    ? NC_STRING
                         : column.kind == Kind::truth ? NC_BYTE
                                                      : NC_DOUBLE;
    int variable = 0;
    if (!keep(::nc_def_var(group, column.symbol.c_str(), type, 1, &row, &variable))) return;
    add_text(group, variable, "long_name", column.label);
    if (column.kind == Kind::number) add_text(group, variable, "units", foreign_unit(column.unit));
    if (column.kind == Kind::date) {
      add_text(group, variable, "units", "seconds since 1970-01-01 00:00:00");
      add_text(group, variable, "calendar", "proleptic_gregorian");
    }
    const auto note = std::find_if(sheet.notes.begin(), sheet.notes.end(),
                                   [&](const DerivedNote& n) { return n.symbol == column.symbol; });
    if (note != sheet.notes.end()) {
      add_text(group, variable, "comment", note->equation);
      add_text(group, variable, "null_rule", note->null_rule);
    }
    put_values(group, variable, table, column);
    put_reasons(group, row, variable, table, column);
  }

  void put_values(int group, int variable, const Table& table, const Column& column) {
    if (column.kind == Kind::text) {
      std::vector<std::string> texts;
      texts.reserve(table.rows);
      for (std::size_t place = 0; place < table.rows; ++place)
        texts.push_back(cell_text(column, table.row_at(place)));
      std::vector<const char*> pointers;
      pointers.reserve(texts.size());
      for (const std::string& text : texts) pointers.push_back(text.c_str());
      const std::size_t begin = 0;
      if (table.rows > 0) keep(::nc_put_vara_string(group, variable, &begin, &table.rows, pointers.data()));
      return;
    }
    const double missing = column.kind == Kind::truth ? NC_FILL_BYTE : NC_FILL_DOUBLE;
    if (column.kind == Kind::truth) {
      const signed char fill = NC_FILL_BYTE;
      keep(::nc_put_att_schar(group, variable, "_FillValue", NC_BYTE, 1, &fill));
    } else {
      const double fill = NC_FILL_DOUBLE;
      keep(::nc_put_att_double(group, variable, "_FillValue", NC_DOUBLE, 1, &fill));
    }
    std::vector<double> numbers;
    for (std::size_t place = 0; place < table.rows; ++place) {
      const std::size_t row = table.row_at(place);
      numbers.push_back(column.null(row) ? missing : column.number(row));
    }
    const std::size_t begin = 0;
    if (table.rows > 0) keep(::nc_put_vara_double(group, variable, &begin, &table.rows, numbers.data()));
  }

  // Why values are not there, in a variable of flags beside the column.
  void put_reasons(int group, int row, int variable, const Table& table, const Column& column) {
    std::vector<signed char> flags;
    std::vector<Reason> reasons;
    for (std::size_t place = 0; place < table.rows; ++place) {
      const Null null = column.null(table.row_at(place));
      signed char flag = 0;
      if (null) {
        const auto known = std::find(reasons.begin(), reasons.end(), null.reason());
        flag = static_cast<signed char>(known - reasons.begin() + 1);
        if (known == reasons.end()) reasons.push_back(null.reason());
      }
      flags.push_back(flag);
    }
    if (reasons.empty()) return;
    const std::string name = column.symbol + "_null";
    int beside = 0;
    if (!keep(::nc_def_var(group, name.c_str(), NC_BYTE, 1, &row, &beside))) return;
    std::vector<signed char> values = {0};
    std::string meanings = "known";
    for (std::size_t i = 0; i < reasons.size(); ++i) {
      values.push_back(static_cast<signed char>(i + 1));
      meanings += std::string(" ") + reason_name(reasons[i]);
    }
    add_text(group, beside, "long_name", "why " + column.label + " is null");
    keep(::nc_put_att_schar(group, beside, "flag_values", NC_BYTE, values.size(), values.data()));
    add_text(group, beside, "flag_meanings", meanings);
    add_text(group, variable, "ancillary_variables", name);
    const std::size_t begin = 0;
    keep(::nc_put_vara_schar(group, beside, &begin, &table.rows, flags.data()));
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

  int file_ = 0;
  std::string fault_;
};

}  // namespace

WrittenTables write_netcdf(const std::string& path, const std::vector<WrittenSheet>& sheets) {
  return {NetcdfWriter().write(path, sheets), 0};
}

}  // namespace opensum
