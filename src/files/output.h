// Writing files whole or not at all.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

/// Files that are written under temporary names and take their own names together, once all of them are
/// complete. What was not committed is removed again.
class OutputFiles {
 public:
  /// Outputs that are the same file as one of the inputs are refused. With `replace` false, so are outputs
  /// that exist.
  /// `advice` says what to do about one that exists.
  OutputFiles(const Inputs& inputs, bool replace, std::string advice = "choose another name")
      : inputs_(inputs), replace_(replace), advice_(std::move(advice)) {}
  ~OutputFiles();
  OutputFiles(const OutputFiles&) = delete;
  OutputFiles& operator=(const OutputFiles&) = delete;

  /// Checks that a path may be written, makes its folder, and gives the temporary path to write to. Empty
  /// after a reported error.
  std::string stage(const std::string& path, Diagnostics& diagnostics);
  /// Stages a file with a content.
  bool write(const std::string& path, std::string_view content, Diagnostics& diagnostics);
  /// Stages a file that `fill` writes into an open one; it gives the error number of a failure, else 0.
  bool write(const std::string& path, const std::function<int(int descriptor)>& fill,
             Diagnostics& diagnostics);
  /// Gives all staged files their names. False after a reported error.
  bool commit(Diagnostics& diagnostics);
  /// The paths staged so far, as they will be called.
  std::vector<std::string> paths() const;

 private:
  struct Staged {
    std::string path;
    std::string temporary;
  };
  const Inputs& inputs_;
  bool replace_;
  std::string advice_;
  std::vector<Staged> staged_;
  std::vector<std::string> folders_;  ///< made on the way
};

/// Writes all of a text to an open file, in spite of short writes; the error number of a failure, else 0.
int write_all(int descriptor, std::string_view text);

}  // namespace opensum
