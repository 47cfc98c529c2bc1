// Means and standard deviations against certified values: the univariate sets of the NIST Statistical
// Reference Datasets of lower, average and higher difficulty.
#include <gtest/gtest.h>

#include <cmath>
#include <iostream>

#include "compute/statistics.h"

namespace opensum {
namespace {

struct Certified {
  const char* name;
  std::vector<double> values;
  double mean;
  double deviation;
  /// Digits of the standard deviation that the data, rounded to doubles, allow.
  double reachable;
};

// The first value, then two others in turn, up to 1001 values.
std::vector<double> alternating(double first, double second, double third) {
  std::vector<double> values = {first};
  for (int i = 0; i < 500; ++i) {
    values.push_back(second);
    values.push_back(third);
  }
  return values;
}

// Velocities of light in air, in thousands of km/s.
std::vector<double> michelson() {
  std::vector<double> values;
  for (const int v : {850,  740, 900, 1070, 930, 850, 950, 980, 980, 880, 1000, 980, 930, 650, 760, 810, 1000,
                      1000, 960, 960, 960,  940, 960, 940, 880, 800, 850, 880,  900, 840, 830, 790, 810, 880,
                      880,  830, 800, 790,  760, 800, 880, 880, 880, 860, 720,  720, 620, 860, 970, 950, 880,
                      910,  850, 870, 840,  840, 850, 840, 840, 840, 890, 810,  810, 820, 800, 770, 760, 740,
                      750,  760, 910, 920,  890, 860, 880, 720, 840, 850, 850,  780, 890, 840, 780, 810, 760,
                      810,  790, 810, 820,  850, 870, 870, 810, 740, 810, 940,  950, 800, 810, 870}) {
    // 299.85 and so on, as the nearest doubles of the published figures.
    values.push_back((299000.0 + v) / 1000);
  }
  return values;
}

double digits(double got, double certified) {
  if (got == certified) return 17;
  return -std::log10(std::fabs(got - certified) / std::fabs(certified));
}

TEST(Statistics, ReproduceCertifiedValues) {
  const Certified sets[] = {
      {"NumAcc1", {10000001, 10000003, 10000002}, 10000002, 1, 15},
      {"NumAcc2", alternating(1.2, 1.1, 1.3), 1.2, 0.1, 15},
      {"NumAcc3", alternating(1000000.2, 1000000.1, 1000000.3), 1000000.2, 0.1, 9},
      {"NumAcc4", alternating(10000000.2, 10000000.1, 10000000.3), 10000000.2, 0.1, 8},
      {"Michelson", michelson(), 299.852400000000, 0.0790105478190518, 13},
  };
  for (const Certified& set : sets) {
    const double mean = digits(mean_of(set.values), set.mean);
    const double deviation = digits(deviation_of(set.values), set.deviation);
    std::cout << set.name << ": mean to " << mean << ", standard deviation to " << deviation << " digits\n";
    EXPECT_GE(mean, 15) << set.name;
    EXPECT_GE(deviation, set.reachable) << set.name;
  }
}

}  // namespace
}  // namespace opensum
