// Compressed files of text.
#include "files/compressed.h"

#include <zlib.h>
#include <zstd.h>

#include <algorithm>
#include <cerrno>
#include <vector>

#include "files/spool.h"

namespace opensum {
namespace {

constexpr std::size_t kStep = std::size_t{1} << 18U;

bool is_gzip(std::string_view bytes) { return bytes.starts_with("\x1F\x8B"); }
bool is_zstd(std::string_view bytes) { return bytes.starts_with("\x28\xB5\x2F\xFD"); }

// Why a file could not be read to its end; empty where it could.
std::string unpack_gzip(const InputFile& file, Spool& out) {
  constexpr int kGzip = 16 + MAX_WBITS;
  z_stream stream{};
  if (::inflateInit2(&stream, kGzip) != Z_OK) return "there is not enough memory";
  const std::unique_ptr<z_stream, decltype(&::inflateEnd)> ends(&stream, &::inflateEnd);
  std::vector<char> block(kStep);
  std::size_t at = 0;
  int state = Z_OK;
  while (at < file.text.size() || state == Z_OK) {
    const std::string_view piece = file.text.substr(at, kStep);
    stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(piece.data()));
    stream.avail_in = static_cast<uInt>(piece.size());
    do {
      stream.next_out = reinterpret_cast<Bytef*>(block.data());
      stream.avail_out = static_cast<uInt>(block.size());
      state = ::inflate(&stream, Z_NO_FLUSH);
      if (state == Z_BUF_ERROR && piece.empty()) return "it ends too early";
      if (state != Z_OK && state != Z_STREAM_END && state != Z_BUF_ERROR) return "its bytes are damaged";
      out.write({block.data(), block.size() - stream.avail_out});
    } while (state == Z_OK && stream.avail_out == 0);
    const std::size_t used = piece.size() - stream.avail_in;
    file.forget(at, at + used);
    at += used;
    if (piece.empty() && state != Z_STREAM_END) return "it ends too early";
    // Another member may follow.
    if (state == Z_STREAM_END) {
      if (at >= file.text.size()) return {};
      if (!is_gzip(file.text.substr(at))) return "something else follows its end";
      ::inflateReset(&stream);
      state = Z_OK;
    }
  }
  return {};
}

std::string unpack_zstd(const InputFile& file, Spool& out) {
  const std::unique_ptr<ZSTD_DCtx, decltype(&ZSTD_freeDCtx)> context(ZSTD_createDCtx(), &ZSTD_freeDCtx);
  if (!context) return "there is not enough memory";
  std::vector<char> block(ZSTD_DStreamOutSize());
  ZSTD_inBuffer in{file.text.data(), file.text.size(), 0};
  std::size_t state = 0;
  while (in.pos < in.size || state != 0) {
    ZSTD_outBuffer to{block.data(), block.size(), 0};
    const std::size_t before = in.pos;
    state = ZSTD_decompressStream(context.get(), &to, &in);
    if (ZSTD_isError(state) != 0) return "its bytes are damaged";
    out.write({block.data(), to.pos});
    file.forget(before, in.pos);
    if (in.pos == in.size && to.pos < to.size && state != 0) return "it ends too early";
  }
  return {};
}

}  // namespace

bool is_compressed(std::string_view bytes) { return is_gzip(bytes) || is_zstd(bytes); }

std::string without_compression(const std::string& path) {
  for (const std::string_view ending : {".gz", ".zst"}) {
    if (path.size() > ending.size() && path.ends_with(ending))
      return path.substr(0, path.size() - ending.size());
  }
  return path;
}

std::shared_ptr<const InputFile> decompressed(const std::shared_ptr<const InputFile>& file,
                                              const Place& place, Diagnostics& diagnostics) {
  Spool spool;
  const bool gzip = is_gzip(file->text);
  const std::string fault = gzip ? unpack_gzip(*file, spool) : unpack_zstd(*file, spool);
  if (!fault.empty()) {
    diagnostics.add(Code::file_damaged, place, {file->path, gzip ? "gzip" : "Zstandard", fault});
    return nullptr;
  }
  auto text = spool.finish(*file);
  if (!text) diagnostics.add(Code::file_damaged, place, {file->path, "text", system_reason(errno)});
  return text;
}

}  // namespace opensum
