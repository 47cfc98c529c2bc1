// Put before a run by the benchmark: digests are left out, to measure what they take. OpenSSL's function, by
// its name and form.
#include <cstddef>

extern "C" int EVP_DigestUpdate(void* /*context*/, const void* /*bytes*/, std::size_t /*size*/) { return 1; }
