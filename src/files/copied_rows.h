// Cells as a database server copies them: as text between tabs.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace opensum {

/// How a null is copied.
inline const std::string kCopiedNull = "\\N";

/// A cell with its escapes undone; nothing for a null.
std::optional<std::string> copied_cell(std::string_view field);

}  // namespace opensum
