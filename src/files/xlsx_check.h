// Whether a workbook that was just written is whole.
#pragma once

#include <string>
#include <vector>

namespace opensum {

/// Said where a part of a workbook could not be written whole.
constexpr const char* kFullFolder = "; is the folder for temporary files (TMPDIR, or /tmp) full?";

/// The library that writes workbooks gathers their parts in files in a folder for temporary ones, and does
/// not notice when that is full. Reads the parts of the workbook at `path` again: each must end with the tag
/// that closes it, and each sheet hold as many cells as were put into it. Says what is missing; empty when
/// nothing is.
std::string missing_of_xlsx(const std::string& path, const std::vector<std::size_t>& cells);

}  // namespace opensum
