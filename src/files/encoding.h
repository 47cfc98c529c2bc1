// The encoding of a text file: whatever it is, the table is read from UTF-8.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "base/result.h"
#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

/// A file as UTF-8 without a byte order mark, and what it was.
struct DecodedFile {
  std::shared_ptr<const InputFile> file;
  std::string encoding;
};

/// Decodes a file by its byte order mark, else as `encoding` says, else as UTF-8. A file that is UTF-8
/// already is not copied. Nothing after a reported error, which names the first place that cannot be decoded.
Result<DecodedFile> decode(const std::shared_ptr<const InputFile>& file,
                           const std::optional<std::string>& encoding, Diagnostics& diagnostics);

/// Whether a file is to be taken for UTF-8, by its byte order mark or what `encoding` says.
bool is_utf8(const InputFile& file, const std::optional<std::string>& encoding);

/// A file in UTF-8 without its byte order mark, unchecked.
std::optional<DecodedFile> without_mark(const std::shared_ptr<const InputFile>& file);

/// The offset of the first byte that is not UTF-8, or npos.
std::size_t find_invalid_utf8(std::string_view text);

/// A place in a data file, quoting the one line it stands on.
Place line_place(const InputFile& file, std::size_t offset, std::size_t length);

}  // namespace opensum
