// What a step gives that may fail.
#pragma once

#include <optional>
#include <utility>

namespace opensum {

/// A value, or nothing where the step failed; why it failed stands in the diagnostics that it was given. It
/// must be looked at.
template <typename T>
class [[nodiscard]] Result : public std::optional<T> {
 public:
  using std::optional<T>::optional;
  Result(std::optional<T> value) : std::optional<T>(std::move(value)) {}
};

/// Whether a step without a value succeeded.
template <>
class [[nodiscard]] Result<void> {
 public:
  Result(bool succeeded) : succeeded_(succeeded) {}
  explicit operator bool() const { return succeeded_; }

 private:
  bool succeeded_;
};

}  // namespace opensum
