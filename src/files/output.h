// Writing files whole or not at all.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

/// A descriptor that is closed when it goes out of scope.
class OwnedDescriptor {
 public:
  explicit OwnedDescriptor(int number = -1) : number_(number) {}
  ~OwnedDescriptor();
  OwnedDescriptor(OwnedDescriptor&& other) noexcept : number_(other.release()) {}
  OwnedDescriptor& operator=(OwnedDescriptor&& other) noexcept;
  OwnedDescriptor(const OwnedDescriptor&) = delete;
  OwnedDescriptor& operator=(const OwnedDescriptor&) = delete;
  int number() const { return number_; }
  bool is_open() const { return number_ >= 0; }
  int release();

 private:
  int number_;
};

/// Whether runs that write into one folder take turns.
enum class Sharing : std::uint8_t { alone, with_others };

/// Files that are written under temporary names and take their own names together, once all of them are
/// complete: all do, or none. What was not committed is removed again; what a program that was killed left
/// behind is removed by the next one that writes the same file.
class OutputFiles {
 public:
  /// Outputs that are the same file as one of the inputs are refused. With `replace` false, so are outputs
  /// that exist; in any case links, devices, pipes and files that are protected from writing. Alone, nobody
  /// else writes results into the same folders meanwhile.
  /// `advice` says what to do about one that exists.
  OutputFiles(const Inputs& inputs, bool replace, Sharing sharing = Sharing::with_others,
              std::string advice = "choose another name")
      : inputs_(inputs), replace_(replace), sharing_(sharing), advice_(std::move(advice)) {}
  ~OutputFiles();
  OutputFiles(const OutputFiles&) = delete;
  OutputFiles& operator=(const OutputFiles&) = delete;

  /// Checks that a path may be written, makes its folder, and gives the temporary path to write to. Empty
  /// after a reported error.
  std::string stage(const std::string& path, Diagnostics& diagnostics);
  /// Stages a file with a content. False after a reported error, after which nothing can be committed.
  bool write(const std::string& path, std::string_view content, Diagnostics& diagnostics);
  /// Stages a file that `fill` writes into an open one; it gives the error number of a failure, else 0.
  bool write(const std::string& path, const std::function<int(int descriptor)>& fill,
             Diagnostics& diagnostics);
  /// Gives all staged files their names, durably. False after a reported error, when the files are as before.
  bool commit(Diagnostics& diagnostics);
  /// The paths staged so far, as they will be called.
  std::vector<std::string> paths() const;
  /// Their sizes and SHA-256; all of them must be complete.
  struct Digest {
    std::string path;
    std::size_t bytes = 0;
    std::string sha256;
  };
  std::vector<Digest> digests(Diagnostics& diagnostics) const;
  /// Says what those of a staged file are that is complete, so that it need not be read for them.
  void set_digest(const Digest& digest);

 private:
  struct Staged {
    std::string path;
    std::string temporary;
    OwnedDescriptor claim;  ///< holds the lock that says whose the temporary file is
    bool renamed = false;
    bool swapped = false;  ///< the file from before has the temporary name
    std::optional<Digest> digest = std::nullopt;
  };
  struct Folder {
    std::string path;
    OwnedDescriptor lock;
  };
  std::string try_to_stage(const std::string& path, Diagnostics& diagnostics);
  Result<void> may_write(const std::string& path, Diagnostics& diagnostics) const;
  Result<void> make_folder(const std::string& path, Diagnostics& diagnostics);
  Result<void> lock_folder(const std::string& path, Diagnostics& diagnostics);
  void take_back();

  const Inputs& inputs_;
  bool replace_;
  bool complete_ = true;  ///< nothing failed so far
  Sharing sharing_;
  std::string advice_;
  std::vector<Staged> staged_;
  std::vector<Folder> folders_;       ///< written into
  std::vector<std::string> created_;  ///< folders made on the way
};

/// Whether a path is a temporary one.
bool is_temporary(const std::string& path);

/// Writes all of a text to an open file, in spite of short writes; the error number of a failure, else 0.
int write_all(int descriptor, std::string_view text);

/// Opens a file without a name beside the one at a path, to write and to read again; not open where that
/// failed, and errno says why.
OwnedDescriptor open_unnamed(const std::string& path);

/// Reads so many bytes from a place in an open file; the error number of a failure, else 0.
int read_all(int descriptor, std::uint64_t begin, char* to, std::size_t size);

/// Writes a text into a file that there is; the error number of a failure, else 0.
int write_file(const std::string& path, std::string_view text);

}  // namespace opensum
