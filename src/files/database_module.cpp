// Connections to database servers, by the module that is loaded for them.
#include "files/database_module.h"

#include <dlfcn.h>

#include <filesystem>

#include "version.h"

namespace opensum {
namespace {

constexpr const char* kModule = "opensum_postgresql.so";

// The module lies beside the program where it was built, and in a folder of libraries where it is installed.
ConnectDatabase module_entry() {
  std::error_code error;
  const std::filesystem::path here = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
  for (const std::filesystem::path& folder : {here, here / kModuleFolder}) {
    const std::filesystem::path path = folder / kModule;
    if (!std::filesystem::exists(path, error)) continue;
    // It stays until the program ends.
    void* const module = ::dlopen(path.c_str(), RTLD_NOW | RTLD_LOCAL);
    if (module == nullptr) continue;
    return reinterpret_cast<ConnectDatabase>(::dlsym(module, kConnectDatabase));
  }
  return nullptr;
}

}  // namespace

std::shared_ptr<DatabaseConnection> connect_database(const DatabaseAddress& address, const Place& place,
                                                     Diagnostics& diagnostics) {
  if (has_password(address.server)) {
    // Without the place: the line would be shown.
    diagnostics.add(Code::password_in_address, {without_password(address.server)});
    return nullptr;
  }
  static const ConnectDatabase connect = module_entry();
  if (connect == nullptr) {
    diagnostics.add(Code::no_database_module, place, {address.server});
    return nullptr;
  }
  std::string fault;
  std::shared_ptr<DatabaseConnection> connection(connect(address.server.c_str(), &fault));
  if (!connection) diagnostics.add(Code::cannot_connect, place, {address.server, fault});
  return connection;
}

}  // namespace opensum
