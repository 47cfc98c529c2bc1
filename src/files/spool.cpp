// Text made from a file of another form.
#include "files/spool.h"

#include <cerrno>

#include "base/mapped_file.h"

namespace opensum {

Spool::Spool() : file_(std::tmpfile()), failed_(file_ == nullptr) {}

Spool::~Spool() {
  if (file_ != nullptr) std::fclose(file_);
}

void Spool::write(std::string_view text) {
  if (failed_) return;
  failed_ = std::fwrite(text.data(), 1, text.size(), file_) != text.size();
  size_ += text.size();
}

std::shared_ptr<const InputFile> Spool::finish(const InputFile& shown_as) {
  if (failed_ || std::fflush(file_) != 0) return nullptr;
  auto input = std::make_shared<InputFile>(shown_as);
  input->mapped = false;
  if (size_ == 0) {
    input->hold("");
    return input;
  }
  auto mapping = std::make_shared<const MappedFile>(::fileno(file_), size_);
  if (!mapping->good()) return nullptr;
  input->text = mapping->text();
  input->bytes = std::move(mapping);
  input->mapped = true;
  return input;
}

}  // namespace opensum
