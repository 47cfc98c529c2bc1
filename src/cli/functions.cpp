// opensum functions: what functions there are.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "cli/command.h"
#include "cli/text_table.h"
#include "equation/function_texts.h"
#include "files/shared_files.h"
#include "files/study_reader.h"
#include "message/nearest.h"
#include "message/other_words.h"
#include "plan/plan.h"

namespace opensum {
namespace {

// A word matches a name in part, a purpose in part, or a word of another habit that means the function.
bool matches(const std::string& word, const Signature& signature, const std::string& here) {
  if (word.empty() || std::string_view(signature.name).find(word) != std::string_view::npos) return true;
  if (word.size() > 2 && signature.purpose.find(word) != std::string_view::npos) return true;
  if (word == family_name(signature.family)) return true;
  // A function that the other word is answered with.
  const std::string call = std::string(signature.name) + "(";
  const std::size_t at = here.find(call);
  return at != std::string::npos && (at == 0 || here[at - 1] == ' ' || here[at - 1] == '(');
}

// Where few are found, each is told in full.
void tell(const Signature& signature, std::ostream& out) {
  out << fmt::format("{}\n  {}\n  {}\n  nulls {}\n", signature.usage, signature.purpose,
                     in_and_out(signature), nulls_in(signature));
  if (*signature.named != '\0') {
    std::string named(signature.named);
    std::replace(named.begin(), named.end(), ' ', ',');
    for (std::size_t at = named.find(','); at != std::string::npos; at = named.find(',', at + 2))
      named.replace(at, 1, ": ");
    out << "  takes also " << named << ":\n";
  }
}

// A formula of a file that studies share.
struct SharedFormula {
  std::string form;
  std::string body;
  std::string path;
};

std::vector<SharedFormula> shared_formulas(const std::string& word, Diagnostics& diagnostics) {
  std::vector<SharedFormula> found;
  for (const std::string& path : all_shared()) {
    Inputs inputs;
    const Library library = read_shared(path, inputs, diagnostics);
    for (const Formula& formula : plan_formulas(library.formulas, diagnostics)) {
      if (formula.name.find(word) == std::string::npos) continue;
      found.push_back({fmt::format("{}({})", formula.name, fmt::join(formula.parameters, ", ")),
                       print(*formula.body), path});
    }
  }
  return found;
}

void tell_shared(const std::vector<SharedFormula>& formulas, std::ostream& out) {
  for (const SharedFormula& formula : formulas)
    out << fmt::format("{} = {}\n  from {}\n", formula.form, formula.body, formula.path);
  out << '\n';
}

int list_functions(const std::string& word, bool markdown, Streams& streams) {
  constexpr std::size_t kFew = 4;
  const std::string here = word.empty() ? "" : call_here(word, {});
  std::vector<const Signature*> found;
  for (const Signature& signature : signatures()) {
    if (matches(word, signature, here)) found.push_back(&signature);
  }
  if (!here.empty()) streams.out << fmt::format("{} is {} here\n\n", word, here);
  Diagnostics diagnostics;
  const std::vector<SharedFormula> shared = shared_formulas(word, diagnostics);
  if (!shared.empty()) {
    tell_shared(shared, streams.out);
    if (found.empty()) return report(diagnostics, streams);
  }
  if (found.empty() && here.empty()) {
    diagnostics.add(Code::unknown_function, {word, nearest_name(word, function_names())});
    return report(diagnostics, streams);
  }
  if (found.size() <= kFew && !markdown) {
    for (const Signature* signature : found) tell(*signature, streams.out);
    return static_cast<int>(Exit::done);
  }
  TextTable table({{"function"}, {"gives", false, 1}, {"in → out", false, -1}, {"family", false, -2}});
  for (const Signature* signature : found)
    table.add({signature->usage, std::string(signature->purpose), std::string(in_and_out(*signature)),
               std::string(family_name(signature->family))});
  streams.out << (markdown ? table.markdown()
                           : table.text(streams.out_is_terminal ? streams.width : SIZE_MAX));
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_functions(CommandLine& command_line) {
  auto word = std::make_shared<std::string>();
  Command command = command_line.add("functions", "list what functions there are, or those that a word finds",
                                     "  opensum functions moving\n"
                                     "  opensum functions average");
  command.argument("WORD", *word, "a name, a part of one, what it gives, or what it is called elsewhere");
  auto format = std::make_shared<std::string>("table");
  add_list_format(command, *format);
  command.runs(
      [word, format](Streams& streams) { return list_functions(*word, *format == "markdown", streams); });
}

}  // namespace opensum
