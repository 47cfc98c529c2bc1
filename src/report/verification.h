// What verifying results came to.
#pragma once

#include <string>
#include <vector>

#include "report/comparison.h"

namespace opensum {

/// How files stand against their digests in a record.
struct FilesVerified {
  std::size_t unchanged = 0;
  std::vector<std::string> changed;
  std::vector<std::string> missing;
  bool good() const { return changed.empty() && missing.empty(); }
};

struct Verification {
  std::string results;
  std::string study;
  std::string computed_by;  ///< program version and build of the record
  std::string verified_by;  ///< those of this program
  FilesVerified inputs;     ///< the study and what it uses among them
  FilesVerified outputs;
  std::string not_computed;            ///< why nothing was computed again, in words; else empty
  std::vector<std::string> differing;  ///< outputs that came out with other bytes
  std::size_t reproduced = 0;          ///< outputs that came out the same
  Comparison comparison;               ///< of the tables that differ
  bool good() const { return inputs.good() && outputs.good() && not_computed.empty() && differing.empty(); }
};

/// What was found, as people read it.
std::string verification_text(const Verification& verification);
/// The same as JSON.
std::string verification_json(const Verification& verification);

}  // namespace opensum
