// Text made from a file of another form, kept in a file without a name so that it is read like any long
// table.
#pragma once

#include <cstdio>
#include <memory>
#include <string_view>

#include "files/text_file.h"

namespace opensum {

class Spool {
 public:
  Spool();
  ~Spool();
  Spool(const Spool&) = delete;
  Spool& operator=(const Spool&) = delete;

  void write(std::string_view text);
  /// The text so far as an input that is shown as another one; a null pointer where it could not be kept, and
  /// errno says why.
  std::shared_ptr<const InputFile> finish(const InputFile& shown_as);

 private:
  std::FILE* file_;
  std::size_t size_ = 0;
  bool failed_ = false;
};

}  // namespace opensum
