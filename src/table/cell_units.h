// Numbers with their unit in the cell, such as `10.38 g` or `N + 12.3 g` of a balance.
#pragma once

#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "table/number_text.h"
#include "units/unit_system.h"

namespace opensum {

/// The parts of such a cell.
struct UnitCell {
  std::string number;  ///< with its sign, as written otherwise
  std::string_view unit;
  std::string_view status;  ///< letters before a sign that stands apart: `N`
};

/// Divides a cell; nothing for one that has not this form.
std::optional<UnitCell> split_unit_cell(std::string_view cell, const NumberStyle& style);

/// Reads cells that hold units as numbers in the unit of their column; several threads may do so at a time.
class CellUnits {
 public:
  /// `plain_too`: the header or the study states the unit, which cells without one are in.
  CellUnits(const UnitSystem& units, Unit unit, bool plain_too)
      : units_(units), unit_(std::move(unit)), plain_too_(plain_too) {}

  bool plain_too() const { return plain_too_; }
  /// The value of a cell; nothing for one without a unit, and for units of another dimension.
  std::optional<double> read(std::string_view cell, const NumberStyle& style) const;

 private:
  std::optional<Conversion> conversion_of(std::string_view unit) const;

  const UnitSystem& units_;
  Unit unit_;
  bool plain_too_;
  mutable std::mutex finding_;
  mutable std::map<std::string, std::optional<Conversion>, std::less<>> found_;
};

/// What the first cells of a column say of its unit.
struct UnitOfCells {
  Unit unit;            ///< of the first cell
  std::string example;  ///< the first cell
  std::string status;   ///< what stands before its number
};

/// The unit of a column most of whose cells hold one, where all that hold one hold units of one dimension,
/// which is that of `stated` where that is given. `cells` are known ones.
std::optional<UnitOfCells> unit_of_cells(const std::vector<std::string_view>& cells, const Unit* stated,
                                         const NumberStyle& style, const UnitSystem& units);

}  // namespace opensum
