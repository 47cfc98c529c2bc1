// Reading a sheet of an Office Open XML workbook as its XML comes, without a tree of it in memory.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "files/cell_grid.h"
#include "files/zip_parts.h"

namespace opensum {

/// A cell as it is stored.
struct StoredCell {
  std::size_t column = 0;  ///< from 0
  std::size_t row = 0;     ///< from 1
  std::string type;        ///< the attribute t
  std::size_t style = 0;
  bool has_value = false;
  std::string value;
  bool has_formula = false;
  std::string formula;
  std::string text;  ///< of an inline string
};

/// Says what stands in a cell, as text.
class CellTexts {
 public:
  virtual ~CellTexts() = default;
  virtual std::string text_of(const StoredCell& cell, CellGrid& grid) const = 0;
};

/// `B12` as column (from 0) and row (from 1); false if it is of another form.
bool read_reference(std::string_view text, std::size_t& column, std::size_t& row);

/// The cells of the sheet in a part of a workbook; a null pointer after a fault.
std::shared_ptr<CellGrid> read_sheet_part(ZipParts& parts, const std::string& part, const CellTexts& texts,
                                          ReadFault& fault);

}  // namespace opensum
