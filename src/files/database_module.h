// Connections to database servers, by the module that is loaded for them.
#pragma once

#include <memory>
#include <string>

#include "files/database.h"
#include "files/database_address.h"
#include "message/diagnostic.h"

namespace opensum {

/// Opens a connection to the server of an address; null after a reported error.
std::shared_ptr<DatabaseConnection> connect_database(const DatabaseAddress& address, const Place& place,
                                                     Diagnostics& diagnostics);

}  // namespace opensum
