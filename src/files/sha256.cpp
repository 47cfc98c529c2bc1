// SHA-256 digests.
#include "files/sha256.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <openssl/evp.h>

#include <array>
#include <cerrno>
#include <new>

#include "files/descriptor.h"

namespace opensum {
namespace {

// What fails here fails in want of memory only.
void require(bool done) {
  if (!done) throw std::bad_alloc();
}

EVP_MD_CTX* in(const std::shared_ptr<void>& context) { return static_cast<EVP_MD_CTX*>(context.get()); }

}  // namespace

Sha256::Sha256()
    : context_(EVP_MD_CTX_new(), [](void* context) { EVP_MD_CTX_free(static_cast<EVP_MD_CTX*>(context)); }) {
  require(context_ != nullptr && EVP_DigestInit_ex(in(context_), EVP_sha256(), nullptr) == 1);
}

void Sha256::add(std::string_view bytes) {
  require(EVP_DigestUpdate(in(context_), bytes.data(), bytes.size()) == 1);
  bytes_ += bytes.size();
}

std::string Sha256::hexadecimal() {
  std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
  unsigned length = 0;
  require(EVP_DigestFinal_ex(in(context_), digest.data(), &length) == 1);
  std::string out;
  for (unsigned i = 0; i < length; ++i) out += fmt::format("{:02x}", digest.at(i));
  return out;
}

std::string sha256(std::string_view text) {
  Sha256 digest;
  digest.add(text);
  return digest.hexadecimal();
}

std::string sha256_of_file(const std::string& path, std::size_t& bytes) {
  constexpr std::size_t kBlock = std::size_t{1} << 20U;
  bytes = 0;
  const Descriptor descriptor(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
  if (descriptor.number() < 0) return "";
  Sha256 digest;
  std::string block(kBlock, '\0');
  for (;;) {
    const ssize_t got = ::read(descriptor.number(), block.data(), block.size());
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) return "";
    if (got == 0) {
      bytes = digest.bytes();
      return digest.hexadecimal();
    }
    digest.add(std::string_view(block).substr(0, static_cast<std::size_t>(got)));
  }
}

}  // namespace opensum
