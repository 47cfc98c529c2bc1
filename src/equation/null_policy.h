// What a study says about nulls as a whole.
#pragma once

namespace opensum {

/// What a study says about nulls.
struct NullPolicy {
  bool row_skips = false;
  bool column_skips = true;
  bool sequence_skips = false;
  bool divide_by_zero_is_error = false;
  bool domain_is_error = false;
};

}  // namespace opensum
