// A file that stands in memory.
#pragma once

#include <memory>
#include <string>

#include "files/text_file.h"

namespace opensum {

inline std::shared_ptr<const InputFile> file_of(const std::string& text) {
  auto file = std::make_shared<InputFile>();
  file->path = "test.csv";
  file->hold(text);
  return file;
}

}  // namespace opensum
