// The table of operations.
#include "equation/operation.h"

#include <iterator>
#include <stdexcept>
#include <string>

namespace opensum {
namespace {

constexpr bool in_order_and_complete() {
  if (std::size(kOperations) != static_cast<std::size_t>(Op::count_)) return false;
  for (std::size_t i = 0; i < std::size(kOperations); ++i) {
    if (static_cast<std::size_t>(kOperations[i].op) != i) return false;
  }
  return true;
}
static_assert(in_order_and_complete(), "each operation has its line, in the order of Op");

}  // namespace

const char* name_of(Op op) { return kOperations[static_cast<std::size_t>(op)].name; }

OpFamily family_of(Op op) { return kOperations[static_cast<std::size_t>(op)].family; }

bool is_reduction(Op op) {
  return family_of(op) == OpFamily::down_column || family_of(op) == OpFamily::cell_of_column;
}

bool is_sequence(Op op) {
  switch (family_of(op)) {
    case OpFamily::neighbour:
    case OpFamily::so_far:
    case OpFamily::moving:
    case OpFamily::along_column:
    case OpFamily::ranking:
      return true;
    case OpFamily::leaf:
    case OpFamily::arithmetic:
    case OpFamily::comparison:
    case OpFamily::comparison_of_texts:
    case OpFamily::logic:
    case OpFamily::of_numbers:
    case OpFamily::choice:
    case OpFamily::of_dates:
    case OpFamily::of_texts:
    case OpFamily::along_row:
    case OpFamily::down_column:
    case OpFamily::cell_of_column:
    case OpFamily::of_fit:
      return false;
  }
  return false;
}

bool needs_whole_column(Op op) {
  return is_reduction(op) || is_sequence(op) || family_of(op) == OpFamily::of_fit;
}

void not_computed(Op op, const char* where) {
  throw std::logic_error(std::string("the operation ") + name_of(op) + " is not computed in " + where);
}

}  // namespace opensum
