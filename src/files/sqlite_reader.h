// Reading a table of an SQLite database.
#pragma once

#include <memory>
#include <optional>

#include "files/cell_grid.h"
#include "files/text_file.h"

namespace opensum {

bool is_sqlite(std::string_view bytes);

/// A table or view of the database in a file, its column names as row 1; without a name it must be the only
/// one. Null after a reported error.
[[nodiscard]] std::shared_ptr<CellGrid> read_sqlite(const std::shared_ptr<const InputFile>& file,
                                                    const std::optional<std::string>& name,
                                                    const Place& place, Diagnostics& diagnostics);

}  // namespace opensum
