// Reading a sheet of a workbook: OpenDocument (ISO/IEC 26300) and Office Open XML (ISO/IEC 29500).
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "base/result.h"
#include "files/cell_grid.h"
#include "files/zip_parts.h"

namespace opensum {

/// A workbook whose sheets can be read one by one.
class Workbook {
 public:
  virtual ~Workbook() = default;
  virtual const std::vector<std::string>& sheets() const = 0;
  /// The cells of a sheet; null where it cannot be read, which `fault` then says.
  virtual std::shared_ptr<CellGrid> read(std::size_t sheet, ReadFault& fault) = 0;
};

/// Opens a workbook of either format; null where it cannot be read, which `fault` then says.
std::unique_ptr<Workbook> open_ods(ZipParts& parts, ReadFault& fault);
std::unique_ptr<Workbook> open_xlsx(ZipParts& parts, ReadFault& fault);

/// Whether the bytes are those of a zip file, or of a container of which only its own program reads the
/// workbook: encrypted, or in the old binary format.
bool is_zip(std::string_view bytes);
bool is_locked_workbook(std::string_view bytes);

/// The place of a part (a sheet, a table) among the names of those that a file has; without a name it must be
/// the only one. Nothing after a reported error.
Result<std::size_t> find_part(const std::string& file, const char* what,
                              const std::vector<std::string>& names, const std::optional<std::string>& wanted,
                              const Place& place, Diagnostics& diagnostics);
/// Reports that a file has no part of this name.
void report_no_part(const std::string& file, const char* what, const std::vector<std::string>& names,
                    const std::string& wanted, const Place& place, Diagnostics& diagnostics);

/// The grid of a workbook's sheet, by its name; without one the workbook must have a single sheet. Null after
/// a reported error.
[[nodiscard]] std::shared_ptr<CellGrid> read_workbook(const std::shared_ptr<const InputFile>& file,
                                                      const std::optional<std::string>& sheet,
                                                      const Place& place, Diagnostics& diagnostics);

/// Whether a number is stored as a plain decimal number of up to 15 digits.
bool is_short_decimal(std::string_view stored);

/// A number of a workbook as text: as it is stored where that is a plain decimal number of up to 15 digits,
/// else the shortest that gives the same double.
std::string stored_number_text(std::string_view stored);

/// Seconds since midnight as hh:mm:ss, with fractions where there are any.
std::string clock_text(double seconds);

}  // namespace opensum
