// Upper and lower case in any script.
#pragma once

#include <string>
#include <string_view>

namespace opensum {

/// Every letter by itself in upper or lower case, as Unicode maps single characters. Valid UTF-8 in and out.
std::string upper_case(std::string_view text);
std::string lower_case(std::string_view text);

}  // namespace opensum
