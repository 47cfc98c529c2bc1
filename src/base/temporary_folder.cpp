// A folder of its own for as long as it is needed.
#include "base/temporary_folder.h"

#include <cerrno>
#include <cstdlib>

namespace opensum {

TemporaryFolder::TemporaryFolder()
    : path_((std::filesystem::temp_directory_path() / "opensum-XXXXXX").string()) {
  if (::mkdtemp(path_.data()) == nullptr)
    throw std::filesystem::filesystem_error("no temporary folder can be made", path_,
                                            std::error_code(errno, std::generic_category()));
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
}

}  // namespace opensum
