// Text that grows by small pieces: its memory stays when it is cleared, and is not filled beforehand.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstring>
#include <initializer_list>
#include <memory>
#include <string_view>

namespace opensum {

class TextBuffer {
 public:
  /// A place at the end with room for so many bytes.
  char* room(std::size_t bytes) {
    if (capacity_ - size_ < bytes) grow(bytes);
    return bytes_.get() + size_;
  }
  /// Says that the text ends there now, which lies in the room that was made.
  void end_at(const char* place) { size_ = static_cast<std::size_t>(place - bytes_.get()); }

  void add(char c) {
    *room(1) = c;
    ++size_;
  }
  void add(std::string_view text) {
    if (text.empty()) return;
    std::memcpy(room(text.size()), text.data(), text.size());
    size_ += text.size();
  }
  /// Several texts, one after the other.
  void add(std::initializer_list<std::string_view> texts) {
    std::size_t bytes = 0;
    for (const std::string_view text : texts) bytes += text.size();
    char* to = room(bytes);
    for (const std::string_view text : texts) to = std::copy_n(text.data(), text.size(), to);
    end_at(to);
  }
  void clear() { size_ = 0; }
  /// The same, and memory of more than so many bytes is given back.
  void clear_to(std::size_t most) {
    clear();
    if (capacity_ <= most) return;
    bytes_.reset();
    capacity_ = 0;
  }
  std::size_t size() const { return size_; }
  std::string_view view() const { return {bytes_.get(), size_}; }

 private:
  void grow(std::size_t bytes) {
    constexpr std::size_t kLeast = 4096;
    const std::size_t capacity = std::max({2 * capacity_, size_ + bytes, kLeast});
    auto larger = std::make_unique_for_overwrite<char[]>(capacity);
    if (size_ > 0) std::memcpy(larger.get(), bytes_.get(), size_);
    bytes_ = std::move(larger);
    capacity_ = capacity;
  }

  std::unique_ptr<char[]> bytes_;
  std::size_t size_ = 0;
  std::size_t capacity_ = 0;
};

}  // namespace opensum
