// Every study that the tests run with success, once more with its data on a database server: computed here
// and computed there, and compared.
#pragma once

#include <string>
#include <vector>

#include "files/temp_folder.h"

namespace opensum {

/// Where OPENSUM_ALSO_IN_DATABASE names the folder of a server's socket: puts the data of the study that
/// `args` ran in `folder` on that server, computes it here and there, fails the test where cells or reasons
/// of nulls differ, and appends to `compared` in that folder a line of what was counted: the studies that
/// were compared, the cells, the nulls, and why a study was not compared.
void also_in_database(const TempFolder& folder, const std::vector<std::string>& args);

}  // namespace opensum
