// Whether results are what their record says, and come out the same again.
#pragma once

#include <optional>
#include <string>

#include "base/result.h"
#include "message/diagnostic.h"
#include "report/verification.h"

namespace opensum {

/// Compares the inputs, the study and the outputs of a folder of results with its record, then computes
/// everything again in a temporary folder and compares that. `study` is where the study is now, if it is not
/// where the record has it; empty if it is. Nothing after a reported error.
Result<Verification> verify_results(const std::string& results, const std::string& study,
                                    Diagnostics& diagnostics);

}  // namespace opensum
