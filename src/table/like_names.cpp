// Names that are alike but for their numbers.
#include "table/like_names.h"

#include <fmt/format.h>

namespace opensum {

std::string form_of_name(const std::string& name) {
  std::string form;
  for (const char c : name) {
    const bool digit = c >= '0' && c <= '9';
    if (!digit) {
      form += c;
    } else if (form.empty() || form.back() != '0') {
      form += '0';
    }
  }
  return form;
}

std::string listed_names(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < names.size();) {
    const std::string form = form_of_name(names[i]);
    std::size_t end = i + 1;
    while (end < names.size() && form_of_name(names[end]) == form) ++end;
    if (!text.empty()) text += ", ";
    if (end - i >= kManyAlike) {
      text += fmt::format("{} … {} ({} columns)", names[i], names[end - 1], end - i);
    } else {
      end = i + 1;
      text += names[i];
    }
    i = end;
  }
  return text;
}

}  // namespace opensum
