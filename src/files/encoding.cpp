// The encoding of a text file.
#include "files/encoding.h"

#include <iconv.h>
#include <utf8proc.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdint>
#include <cstring>

#include "base/result.h"
#include "files/spool.h"

namespace opensum {
namespace {

constexpr std::size_t kBlock = 1U << 16U;

// The names under which iconv knows encodings that people call otherwise.
std::string iconv_name(const std::string& name) {
  std::string lower = name;
  std::transform(lower.begin(), lower.end(), lower.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  if (lower == "latin-1" || lower == "latin1") return "ISO-8859-1";
  if (lower == "latin-9" || lower == "latin9") return "ISO-8859-15";
  if (lower == "windows-1252") return "CP1252";
  return name;
}

// Closes a converter when it goes out of sight.
class Converter {
 public:
  explicit Converter(const std::string& from) : handle_(::iconv_open("UTF-8", from.c_str())) {}
  ~Converter() {
    if (good()) ::iconv_close(handle_);
  }
  Converter(const Converter&) = delete;
  Converter& operator=(const Converter&) = delete;
  // What iconv_open gives for an encoding that it does not know.
  bool good() const { return reinterpret_cast<std::intptr_t>(handle_) != -1; }

  // Converts a text and gives it piece by piece; the number of bytes of it that could be converted.
  template <typename Sink>
  std::size_t run(std::string_view text, const Sink& sink) {
    std::array<char, kBlock> block{};
    char* in = const_cast<char*>(text.data());
    std::size_t left = text.size();
    while (left > 0) {
      char* to = block.data();
      std::size_t room = block.size();
      const std::size_t result = ::iconv(handle_, &in, &left, &to, &room);
      sink(std::string_view(block.data(), block.size() - room));
      if (result == static_cast<std::size_t>(-1) && errno != E2BIG) break;
    }
    return text.size() - left;
  }

 private:
  iconv_t handle_;
};

std::string mark_of(std::string_view text) {
  if (text.starts_with("\xEF\xBB\xBF")) return "UTF-8";
  if (text.starts_with("\xFF\xFE")) return "UTF-16LE";
  if (text.starts_with("\xFE\xFF")) return "UTF-16BE";
  return {};
}

}  // namespace

// The offset of the first byte that is not UTF-8, or npos.
std::size_t find_invalid_utf8(std::string_view text) {
  std::size_t at = 0;
  while (at < text.size()) {
    std::uint64_t block = 0;
    if (at + sizeof block <= text.size()) {
      std::memcpy(&block, text.data() + at, sizeof block);
      if ((block & 0x8080808080808080ULL) == 0) {
        at += sizeof block;
        continue;
      }
    }
    if (static_cast<unsigned char>(text[at]) < 0x80) {
      ++at;
      continue;
    }
    std::int32_t code = 0;
    const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                         static_cast<utf8proc_ssize_t>(text.size() - at), &code);
    if (length <= 0) return at;
    at += static_cast<std::size_t>(length);
  }
  return std::string_view::npos;
}

// A place in a data file, quoting the one line it stands on.
Place line_place(const InputFile& file, std::size_t offset, std::size_t length) {
  const std::string_view text = file.text;
  offset = std::min(offset, text.size());
  const std::size_t before = offset == 0 ? std::string::npos : text.rfind('\n', offset - 1);
  const std::size_t begin = before == std::string::npos ? 0 : before + 1;
  const std::size_t end = std::min(text.find('\n', offset), text.size());
  const auto number = static_cast<std::size_t>(
                          std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(begin), '\n')) +
                      1;
  std::string line(text.substr(begin, end - begin));
  // Only valid text is quoted; anything else would garble the terminal.
  for (char& c : line) {
    if (c == '\0') c = ' ';
  }
  for (std::size_t bad = 0; (bad = find_invalid_utf8(line)) != std::string::npos;) line[bad] = '?';
  auto source = std::make_shared<const Source>(file.path, std::move(line), number);
  return {std::move(source), {offset - begin, offset - begin + length}};
}

namespace {

// What a file is to be taken for.
std::string wanted_encoding(const InputFile& file, const std::optional<std::string>& encoding) {
  const std::string mark = mark_of(file.text);
  const std::string wanted = !mark.empty() ? mark : encoding ? iconv_name(*encoding) : "UTF-8";
  return wanted == "utf-8" || wanted == "utf8" ? "UTF-8" : wanted;
}

}  // namespace

bool is_utf8(const InputFile& file, const std::optional<std::string>& encoding) {
  return wanted_encoding(file, encoding) == "UTF-8";
}

std::optional<DecodedFile> without_mark(const std::shared_ptr<const InputFile>& file) {
  if (mark_of(file->text).empty()) return DecodedFile{file, "UTF-8"};
  constexpr std::size_t kMark = 3;
  auto rest = std::make_shared<InputFile>(*file);
  rest->text.remove_prefix(kMark);
  return DecodedFile{std::move(rest), "UTF-8"};
}

Result<DecodedFile> decode(const std::shared_ptr<const InputFile>& file,
                           const std::optional<std::string>& encoding, Diagnostics& diagnostics) {
  const std::string wanted = wanted_encoding(*file, encoding);
  if (wanted == "UTF-8") {
    if (const std::size_t nul = file->text.find('\0'); nul != std::string::npos) {
      diagnostics.add(Code::holds_nul, line_place(*file, nul, 1), {file->path});
      return std::nullopt;
    }
    if (const std::size_t bad = find_invalid_utf8(file->text); bad != std::string::npos) {
      diagnostics.add(Code::not_utf8, line_place(*file, bad, 1), {file->path});
      return std::nullopt;
    }
    return without_mark(file);
  }
  std::string_view rest = file->text;
  constexpr std::size_t kMark = 2;
  if (!mark_of(file->text).empty()) rest.remove_prefix(kMark);
  Converter converter(wanted);
  if (!converter.good()) {
    diagnostics.add(Code::unknown_encoding, {encoding.value_or(wanted)});
    return std::nullopt;
  }
  // A long text waits in a file without a name.
  constexpr std::size_t kLong = std::size_t{2} << 20U;
  std::optional<Spool> spool;
  if (rest.size() >= kLong) spool.emplace();
  std::string converted;
  std::size_t line = 1;
  bool holds_nul = false;
  const std::size_t good = converter.run(rest, [&](std::string_view piece) {
    const std::string_view text = piece.substr(0, piece.find('\0'));
    if (!holds_nul) line += static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n'));
    holds_nul = holds_nul || text.size() < piece.size();
    if (spool) {
      spool->write(piece);
    } else {
      converted += piece;
    }
  });
  if (good < rest.size() || holds_nul) {
    diagnostics.add(Code::not_decodable, {file->path, std::to_string(line), encoding.value_or(wanted)});
    return std::nullopt;
  }
  if (spool) {
    auto text = spool->finish(*file);
    if (text) return DecodedFile{std::move(text), wanted};
    diagnostics.add(Code::file_damaged, {file->path, "text", system_reason(errno)});
    return std::nullopt;
  }
  auto decoded = std::make_shared<InputFile>(*file);
  decoded->hold(std::move(converted));
  decoded->mapped = false;
  return DecodedFile{std::move(decoded), wanted};
}

}  // namespace opensum
