// Names that are alike but for their numbers, said in few words.
#pragma once

#include <string>
#include <vector>

namespace opensum {

/// A name with its numbers left out: `c_400_nm` and `c_410_nm` have one form.
std::string form_of_name(const std::string& name);

/// Names joined by commas; of many in a row that are alike only the first and the last, and how many they
/// are.
std::string listed_names(const std::vector<std::string>& names);

/// So many names in a row that are alike are too many to be told one by one.
constexpr std::size_t kManyAlike = 8;

}  // namespace opensum
