// What the fuzzed bytes are turned into, and how a broken promise ends the program.
#pragma once

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <memory>
#include <string>
#include <string_view>

#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

inline std::string text_of(const std::uint8_t* bytes, std::size_t size) {
  return {reinterpret_cast<const char*>(bytes), size};
}

/// A file that was read, of these bytes.
inline std::shared_ptr<const InputFile> file_of(std::string bytes) {
  auto file = std::make_shared<InputFile>();
  file->path = "fuzzed";
  file->hold(std::move(bytes));
  return file;
}

/// Ends the program where something is not as promised.
inline void require(bool holds, const std::string& promise) {
  if (holds) return;
  std::fprintf(stderr, "broken: %s\n", promise.c_str());
  std::abort();
}

/// All messages can be shown, and hold nothing that a terminal obeys.
void require_visible(const Diagnostics& diagnostics);

}  // namespace opensum
