// Reading files of named arrays and of objects as tables: HDF5, netCDF and JSON lines.
#pragma once

#include <memory>
#include <mutex>
#include <optional>
#include <string>

#include "base/result.h"
#include "files/csv_reader.h"
#include "message/diagnostic.h"
#include "table/raw_table.h"

namespace opensum {

/// Reads a file, or the part of it that is named. Nothing after a reported error.
using ReadSpooled = Result<RawTable> (*)(const std::shared_ptr<const InputFile>& file,
                                         const std::optional<std::string>& part, const Place& place,
                                         Rows rows, Diagnostics& diagnostics);

bool is_json_lines(std::string_view bytes);
Result<RawTable> read_json_lines(const std::shared_ptr<const InputFile>& file,
                                 const std::optional<std::string>& part, const Place& place, Rows rows,
                                 Diagnostics& diagnostics);

/// A list of objects as one JSON document.
bool is_json_list(std::string_view bytes);
Result<RawTable> read_json_list(const std::shared_ptr<const InputFile>& file,
                                const std::optional<std::string>& part, const Place& place, Rows rows,
                                Diagnostics& diagnostics);

/// What readers hold while they read HDF5 and netCDF: their libraries serve one thread at a time, and print
/// what is wrong themselves unless each thread tells them not to.
std::unique_lock<std::recursive_mutex> array_libraries();

/// HDF5, of which a netCDF file of version 4 is one.
bool is_hdf5(std::string_view bytes);
Result<RawTable> read_hdf5(const std::shared_ptr<const InputFile>& file,
                           const std::optional<std::string>& part, const Place& place, Rows rows,
                           Diagnostics& diagnostics);

/// netCDF in its classic forms.
bool is_netcdf(std::string_view bytes);
Result<RawTable> read_netcdf(const std::shared_ptr<const InputFile>& file,
                             const std::optional<std::string>& part, const Place& place, Rows rows,
                             Diagnostics& diagnostics);

}  // namespace opensum
