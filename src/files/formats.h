// The formats in which tables are written and read: one list of each.
#pragma once

#include <span>
#include <string>
#include <string_view>

#include "files/array_reader.h"
#include "files/cell_grid.h"
#include "files/table_writer.h"
#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

/// What a file of a format holds.
enum class FileHolds : std::uint8_t {
  rows,    ///< the rows of a sheet as text, written while they are computed
  sheet,   ///< one sheet as text
  sheets,  ///< all sheets that ask for it, in one file
};

/// A format in which sheets are written.
struct WrittenFormat {
  std::string_view name;  ///< in a study, and as the ending of a file
  FileHolds holds{};
  bool in_studies = true;                                    ///< `write` may name it
  char delimiter = 0;                                        ///< of rows
  std::string (*text)(const WrittenSheet& sheet) = nullptr;  ///< of a whole sheet
  std::size_t most_rows = SIZE_MAX;                          ///< that a sheet may have
  /// Of formats that take up rows while these are computed: the form in which they do, and the begin of a
  /// file that is more than these one after the other.
  void (*append_rows)(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) = nullptr;
  std::unique_ptr<GrowingTables> (*begin)(const std::string& path,
                                          const std::vector<WrittenSheet>& sheets) = nullptr;
};
std::span<const WrittenFormat> written_formats();

/// The format of a name; a null pointer for none.
const WrittenFormat* format_named(std::string_view name);
/// The format that the ending of a path says; a null pointer for none.
const WrittenFormat* format_of_path(std::string_view path);

/// A format of files that hold tables as grids of cells, known by their first bytes.
struct GridFormat {
  bool (*is)(std::string_view bytes) = nullptr;
  std::shared_ptr<CellGrid> (*read)(const std::shared_ptr<const InputFile>& file,
                                    const std::optional<std::string>& part, const Place& place,
                                    Diagnostics& diagnostics) = nullptr;
  const char* words = "";
};
std::span<const GridFormat> grid_formats();

/// A format of files whose tables are laid out as text and read in blocks, known by their first bytes.
struct SpooledFormat {
  bool (*is)(std::string_view bytes) = nullptr;
  ReadSpooled read = nullptr;
  const char* words = "";
};
std::span<const SpooledFormat> spooled_formats();

}  // namespace opensum
