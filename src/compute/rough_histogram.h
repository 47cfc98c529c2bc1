// How values are spread, found in one pass without knowing their range before.
#pragma once

#include <array>
#include <cstddef>
#include <string>
#include <vector>

namespace opensum {

class RoughHistogram {
 public:
  /// Takes up a finite value.
  void add(double value);
  /// The counts of bins of one width between two values, the least and the greatest of those taken up.
  std::vector<std::size_t> counts(std::size_t bins, double least, double greatest) const;

 private:
  static constexpr std::size_t kBins = 256;
  static constexpr std::size_t kFirst = 512;

  void begin();
  void count(double value);
  /// Makes bins twice as wide, so that the range goes on below or above.
  void widen(bool below);

  std::vector<double> first_;  ///< until the range is begun
  std::array<std::size_t, kBins> bins_{};
  double low_ = 0;
  double width_ = 0;  ///< of a bin; 0 until the range is begun
};

/// Counts as a row of blocks, as high as they are many: `▁▃█▅`.
std::string bars_of(const std::vector<std::size_t>& counts);

}  // namespace opensum
