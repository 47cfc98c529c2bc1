// The formats in which tables are written and read.
#include "files/formats.h"

#include <algorithm>
#include <array>

#include "files/sqlite_reader.h"
#include "files/workbook_reader.h"

namespace opensum {
namespace {

constexpr std::array kWritten = {
    WrittenFormat{"csv", FileHolds::rows, true, ','},
    WrittenFormat{"tsv", FileHolds::rows, false, '\t'},
    WrittenFormat{"ods", FileHolds::sheets, true, 0, nullptr, kWorkbookRows, append_ods_rows, begin_ods},
    WrittenFormat{"xlsx", FileHolds::sheets, true, 0, nullptr, kWorkbookRows, append_xlsx_rows, begin_xlsx},
    WrittenFormat{"json", FileHolds::sheet, true, 0, nullptr, SIZE_MAX, append_json_rows, begin_json},
    WrittenFormat{"jsonl", FileHolds::sheet, true, 0, nullptr, SIZE_MAX, append_json_lines},
    WrittenFormat{"tex", FileHolds::sheet, true, 0, tex_text},
    WrittenFormat{"nc", FileHolds::sheets, true, 0, nullptr, SIZE_MAX, append_netcdf_rows, begin_netcdf},
    WrittenFormat{"sqlite", FileHolds::sheets, true, 0, nullptr, SIZE_MAX, append_sqlite_rows, begin_sqlite},
};

constexpr std::array kGrids = {
    GridFormat{is_zip, read_workbook, "a workbook"},
    GridFormat{is_sqlite, read_sqlite, "a database"},
};

constexpr std::array kSpooled = {
    SpooledFormat{is_hdf5, read_hdf5, "HDF5"},
    SpooledFormat{is_netcdf, read_netcdf, "netCDF"},
    SpooledFormat{is_json_lines, read_json_lines, "JSON lines"},
    SpooledFormat{is_json_list, read_json_list, "JSON"},
};

}  // namespace

std::span<const SpooledFormat> spooled_formats() { return kSpooled; }

std::span<const WrittenFormat> written_formats() { return kWritten; }

const WrittenFormat* format_named(std::string_view name) {
  const auto* found =
      std::find_if(kWritten.begin(), kWritten.end(), [&](const WrittenFormat& f) { return f.name == name; });
  return found == kWritten.end() ? nullptr : found;
}

const WrittenFormat* format_of_path(std::string_view path) {
  const std::size_t dot = path.rfind('.');
  return dot == std::string_view::npos || dot == 0 ? nullptr : format_named(path.substr(dot + 1));
}

std::span<const GridFormat> grid_formats() { return kGrids; }

}  // namespace opensum
