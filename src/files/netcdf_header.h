// The header of a classic netCDF file, before a library believes what it claims.
#pragma once

#include <string_view>

namespace opensum {

/// Whether all lists, names and values that the header of a classic file (CDF-1, 2 or 5) claims to have can
/// be within the file. The library asks for memory by these numbers before it looks. Source: NetCDF Classic
/// Format Specification.
bool is_whole_netcdf_header(std::string_view bytes);

}  // namespace opensum
