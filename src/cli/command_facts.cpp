// What is told of commands.
#include "cli/command_facts.h"

namespace opensum {

std::string OptionFacts::form() const {
  if (!argument.empty()) return argument;
  std::string form;
  for (const std::string& name : short_names) form += (form.empty() ? "" : ", ") + name;
  for (const std::string& name : long_names) form += (form.empty() ? "" : ", ") + name;
  return value.empty() ? form : form + " " + value;
}

std::vector<std::string> CommandFacts::long_options() const {
  std::vector<std::string> names;
  for (const OptionFacts& option : options)
    names.insert(names.end(), option.long_names.begin(), option.long_names.end());
  return names;
}

}  // namespace opensum
