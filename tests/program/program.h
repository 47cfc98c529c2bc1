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

/// The program under test: OPENSUM_PROGRAM of the environment, or the one built beside the tests.
std::string program_path();

/// Runs `opensum ARGS` in a folder and waits for it. Standard output goes to the file or device `output`, if
/// one is named.
Outcome run_program(const TempFolder& folder, const std::vector<std::string>& args,
                    const std::string& input = "", const std::string& output = "");

/// The lines of a text, without their ends.
std::vector<std::string> lines_of(const std::string& text);

}  // namespace opensum
