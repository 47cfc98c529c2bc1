// Runs the built program on files in a fresh folder.
#pragma once

#include <string>
#include <vector>

#include "files/temp_folder.h"

namespace opensum {

struct Outcome {
  int code = -1;
  std::string out;
  std::string err;
};

/// Runs `opensum ARGS` in a folder and waits for it.
Outcome run_program(const TempFolder& folder, const std::vector<std::string>& args,
                    const std::string& input = "");

}  // namespace opensum
