// Compressed files of text: gzip (RFC 1952) and Zstandard (RFC 8878).
#pragma once

#include <memory>
#include <string_view>

#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

bool is_compressed(std::string_view bytes);

/// The name of a file without the ending that says how it is compressed.
std::string without_compression(const std::string& path);

/// The text of a compressed file, shown under its name. A null pointer after a reported error.
[[nodiscard]] std::shared_ptr<const InputFile> decompressed(const std::shared_ptr<const InputFile>& file,
                                                            const Place& place, Diagnostics& diagnostics);

}  // namespace opensum
