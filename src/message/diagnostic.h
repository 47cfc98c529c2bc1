// Wrong input as a value: what is wrong, where, and the words that fill its message.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "message/code.h"
#include "message/source.h"

namespace opensum {

/// One thing that is wrong or worth a warning.
struct Diagnostic {
  Code code{};
  /// What fills {0}, {1}, … of the code's texts.
  std::vector<std::string> args;
  /// Where; a place without source is of the command line or a whole file named in the args.
  Place place;
  /// A second span on the same line that takes part, underlined with ~.
  std::optional<Span> second;
  /// Further lines shown under the quoted text, such as cells that are at fault.
  std::vector<std::string> details;
  /// Where the fault was reached from, such as the use of a formula.
  std::string context;
  /// The sheets that it reaches.
  std::vector<std::string> sheets;
};

/// The diagnostics of one study or command, each reported once.
class Diagnostics {
 public:
  Diagnostic& add(Code code, Place place, std::vector<std::string> args = {});
  /// One without a place in a text.
  Diagnostic& add(Code code, std::vector<std::string> args) { return add(code, Place{}, std::move(args)); }

  Diagnostic& add(Diagnostic diagnostic);
  /// What is added from now on is of a sheet; of none for an empty name.
  void set_sheet(std::string name) { sheet_ = std::move(name); }
  /// Puts together what is the same in several sheets, and notes which these are.
  void merge_repeated();

  const std::vector<Diagnostic>& all() const { return all_; }
  bool has_errors() const;
  /// The exit code of the gravest kind of error: the command line before the study before the data.
  int exit_code() const;
  /// Adds those of another list that are not yet here.
  void append(const Diagnostics& other);

 private:
  std::vector<Diagnostic> all_;
  std::string sheet_;
};

/// The message in full, as shown to the researcher: place, severity, message, the quoted line with its
/// underlines, notes and hint. Ends with a line end. `color` adds terminal colours.
std::string render(const Diagnostic& diagnostic, bool color = false);

/// All of them, one after the other.
std::string render(const Diagnostics& diagnostics, bool color = false);

}  // namespace opensum
