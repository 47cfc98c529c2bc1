// The demo study and its data, as they lie in the folder demo/ of the project.
#pragma once

#include <span>

namespace opensum {

struct DemoFile {
  const char* name;
  const char* content;
};

std::span<const DemoFile> demo_files();

}  // namespace opensum
