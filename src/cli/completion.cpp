// What a shell offers to go on with.
#include "cli/completion.h"

#include <algorithm>
#include <map>

#include "cli/command.h"
#include "cli/file_options.h"
#include "model/plot_model.h"
#include "run/prepare.h"

namespace opensum {
namespace {

constexpr const char* kFiles = ":files";
constexpr const char* kStudies = ":studies";
constexpr const char* kFolders = ":folders";

// The words that an option takes, where these are few.
std::vector<std::string> values_of(const std::string& command, const std::string& option) {
  static const std::map<std::string, std::vector<std::string>> words = {
      {"--uncertainty", {"linear", "monte-carlo"}},
      {"--delimiter", {"tab", "blanks"}},
      {"--comment", {"none"}},
      {"--header", {"none"}},
      {"--short-rows", {"error", "null"}},
      {"--unreadable", {"error", "null"}},
      {"--model", {"line", "proportional", "polynomial", "power", "exponential", "logarithm"}},
      {"--fit", {"line", "proportional", "polynomial", "power", "exponential", "logarithm"}},
      {"--weights", {"uncertainty"}}};
  if (option == "--format") {
    if (command == "run" || command == "compare" || command == "verify") return {"table", "json"};
    if (command == "units" || command == "functions") return {"table", "markdown"};
    return {"table", "markdown", "csv", "json"};
  }
  if (option == "--kind" && command == "plot") return plot_kinds();
  if (option == "--legend") return legend_places();
  if (option.ends_with("-scale")) return axis_scales();
  if (option == "--uncertainty" && command != "run") return {};
  const auto found = words.find(option);
  return found == words.end() ? std::vector<std::string>() : found->second;
}

// The columns of a file, as they would be called.
std::vector<std::string> columns_of(const std::string& file) {
  FileOptions options;
  options.file = file;
  Diagnostics ignored;
  auto sheet = sheet_of(options, ignored);
  if (!sheet) return {};
  Study study;
  study.sheets.push_back(std::move(*sheet));
  const auto prepared = prepare(std::move(study), "", {}, ignored, Rows::left_unseen);
  std::vector<std::string> names;
  for (const auto& run : prepared->sheets) {
    for (const Column& column : run->table().columns) names.push_back(column.symbol);
  }
  return names;
}

// What a study has: its sheets, fits and plots, or the columns of its sheets as `sheet.column`.
std::vector<std::string> names_in(const std::string& path, bool columns) {
  Diagnostics ignored;
  const auto prepared = prepare_study_file(path, ignored, Rows::left_unseen);
  std::vector<std::string> names;
  if (!prepared) return names;
  for (const RunSheet* sheet : prepared->shown_sheets()) {
    if (!columns) names.push_back(sheet->model->name);
    for (const Column* column : sheet->table().written()) {
      if (columns) names.push_back(sheet->model->name + "." + column->symbol);
    }
  }
  if (columns) return names;
  for (const FitModel& fit : prepared->study.fits) names.push_back("fit." + fit.name);
  for (const PlotModel& plot : prepared->study.plots) names.push_back("plot." + plot.name);
  return names;
}

class Completer {
 public:
  Completer(const CommandLine& command_line, const std::vector<std::string>& words, std::size_t place)
      : command_line_(command_line),
        words_(words),
        place_(place),
        current_(place < words.size() ? words[place] : "") {}

  std::vector<std::string> run() {
    std::vector<std::string> all = place_ <= 1 ? commands() : of_command();
    if (all.size() == 1 && all.front().starts_with(':')) return all;
    std::erase_if(all, [&](const std::string& word) { return !word.starts_with(current_); });
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    return all;
  }

 private:
  std::vector<std::string> commands() const {
    std::vector<std::string> names = {"--help", "--version"};
    for (const CommandFacts& command : command_line_.commands()) names.push_back(command.name);
    return names;
  }

  std::vector<std::string> of_command() {
    const CommandFacts* found = command_line_.find(words_[1]);
    if (found == nullptr) return {};
    const CommandFacts& command = *found;
    read_arguments(command);
    if (const OptionFacts* option = option_before(command)) return values(command, *option);
    if (current_.starts_with("-")) {
      return command.long_options();
    }
    std::vector<const OptionFacts*> positional;
    for (const OptionFacts& option : command.options) {
      if (!option.argument.empty()) positional.push_back(&option);
    }
    if (positional.empty()) return {};
    const OptionFacts& meant = *positional[std::min(arguments_.size(), positional.size() - 1)];
    if (arguments_.size() >= positional.size() && !meant.repeated) return {};
    const std::string& name = meant.argument;
    if (name == "SHEET.COLUMN") return names_in(study(), true);
    if (name == "STUDY") return {kStudies};
    if (name == "FILE" || name == "A" || name == "B") return {kFiles};
    if (name == "RESULTS" || name == "DIR") return {kFolders};
    return {};
  }

  // The option of which a word is the value; a null pointer for none.
  static const OptionFacts* option_named(const CommandFacts& command, const std::string& word) {
    for (const OptionFacts& option : command.options) {
      if (!option.argument.empty() || option.is_flag()) continue;
      for (const auto* names : {&option.long_names, &option.short_names}) {
        if (std::find(names->begin(), names->end(), word) != names->end()) return &option;
      }
    }
    return nullptr;
  }

  const OptionFacts* option_before(const CommandFacts& command) const {
    // Some shells take the sign = for a word.
    const std::size_t back = words_[place_ - 1] == "=" && place_ > 3 ? 2 : 1;
    return place_ > back + 1 ? option_named(command, words_[place_ - back]) : nullptr;
  }

  // The arguments before this place, and the values of options.
  void read_arguments(const CommandFacts& command) {
    for (std::size_t i = 2; i < std::min(place_, words_.size()); ++i) {
      if (words_[i].starts_with("-")) {
        if (option_named(command, words_[i]) != nullptr && i + 1 < place_) {
          options_[words_[i]] = words_[i + 1];
          ++i;
        }
      } else {
        arguments_.push_back(words_[i]);
      }
    }
  }

  std::string study() const {
    const auto named = options_.find("--study");
    return named == options_.end() ? "study.toml" : named->second;
  }

  std::vector<std::string> values(const CommandFacts& command, const OptionFacts& option) const {
    const std::string& name = option.long_names.front();
    const std::string& type = option.value;
    std::vector<std::string> words = values_of(command.name, name);
    if (name == "--only") return names_in(arguments_.empty() ? "study.toml" : arguments_.front(), false);
    const std::string file = arguments_.empty() ? "" : arguments_.front();
    if (type == "SYMBOL" || type == "SYMBOLS") {
      const std::vector<std::string> columns = columns_of(file);
      words.insert(words.end(), columns.begin(), columns.end());
    }
    // `SYMBOL=UNIT` and its kin.
    if (type.starts_with("SYMBOL=")) {
      for (const std::string& column : columns_of(file)) words.push_back(column + "=");
    }
    if (!words.empty()) return words;
    if (type == "STUDY") return {kStudies};
    if (type == "DIR" || type == "RESULTS") return {kFolders};
    if (type == "FILE") return {kFiles};
    return {};
  }

  const CommandLine& command_line_;
  const std::vector<std::string>& words_;
  std::size_t place_;
  std::string current_;
  std::vector<std::string> arguments_;
  std::map<std::string, std::string> options_;
};

constexpr const char* kBash = R"(# Completion of opensum in bash.
_opensum() {
  local current=${COMP_WORDS[COMP_CWORD]} words
  [ "$current" = "=" ] && current=
  COMPREPLY=()
  mapfile -t words < <(opensum interface words "$COMP_CWORD" "${COMP_WORDS[@]}" 2>/dev/null)
  case ${words[0]} in
    :files) compopt -o filenames; mapfile -t COMPREPLY < <(compgen -f -- "$current") ;;
    :studies)
      compopt -o filenames
      mapfile -t COMPREPLY < <(compgen -f -X '!*.toml' -- "$current"; compgen -d -- "$current") ;;
    :folders) compopt -o filenames; mapfile -t COMPREPLY < <(compgen -d -- "$current") ;;
    *)
      COMPREPLY=("${words[@]}")
      case ${COMPREPLY[0]} in *=) compopt -o nospace ;; esac ;;
  esac
}
complete -F _opensum opensum
)";

constexpr const char* kZsh = R"(#compdef opensum
# Completion of opensum in zsh.
_opensum() {
  local -a found
  found=("${(@f)$(opensum interface words $((CURRENT - 1)) "${words[@]}" 2>/dev/null)}")
  case $found[1] in
    :files) _files ;;
    :studies) _files -g '*.toml' ;;
    :folders) _files -/ ;;
    ?*) compadd -- $found ;;
  esac
}
if [ "$funcstack[1]" = "_opensum" ]; then
  _opensum "$@"
else
  compdef _opensum opensum
fi
)";

constexpr const char* kFish = R"(# Completion of opensum in fish.
function __opensum_words
    set -l words (commandline -opc) (commandline -ct)
    set -l found (opensum interface words (math (count $words) - 1) $words 2>/dev/null)
    switch "$found[1]"
        case ':files' ':studies'
            __fish_complete_path (commandline -ct)
        case ':folders'
            __fish_complete_directories (commandline -ct)
        case '*'
            printf '%s\n' $found
    end
end
complete -c opensum -f -a '(__opensum_words)'
)";

}  // namespace

std::vector<std::string> words_at(const CommandLine& command_line, const std::vector<std::string>& words,
                                  std::size_t place) {
  return Completer(command_line, words, place).run();
}

std::string completion_script(const std::string& shell) {
  if (shell == "bash") return kBash;
  if (shell == "zsh") return kZsh;
  if (shell == "fish") return kFish;
  return "";
}

}  // namespace opensum
