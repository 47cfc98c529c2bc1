// The pages of the manual, made from the definitions of the commands.
#pragma once

#include <string>

namespace CLI {
class App;
}

namespace opensum {

/// The page of the program, or of one of its commands, in the language of the man macros.
std::string manual_page(const CLI::App& app);

}  // namespace opensum
