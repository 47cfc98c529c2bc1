// Trees of XML as text.
#include "files/xml_text.h"

#include <new>
#include <pugixml.hpp>

namespace opensum {
namespace {

// The library leaves out elements for which it gets no memory, and streams stop in the middle: both would
// pass for done. Here each want of memory is an exception.
const bool kMemoryIsAskedForInEarnest = [] {
  pugi::set_memory_management_functions([](std::size_t size) { return ::operator new(size); },
                                        [](void* memory) { ::operator delete(memory); });
  return true;
}();

class TextWriter : public pugi::xml_writer {
 public:
  void write(const void* data, std::size_t size) override {
    text_.append(static_cast<const char*>(data), size);
  }
  std::string take() { return std::move(text_); }

 private:
  std::string text_;
};

}  // namespace

std::string xml_text(const pugi::xml_document& document, XmlDeclaration declaration) {
  static_cast<void>(kMemoryIsAskedForInEarnest);
  const unsigned plain = pugi::format_raw;
  TextWriter writer;
  document.save(writer, "", declaration == XmlDeclaration::none ? plain | pugi::format_no_declaration : plain,
                pugi::encoding_utf8);
  return writer.take();
}

std::string xml_text(const pugi::xml_node& element) {
  static_cast<void>(kMemoryIsAskedForInEarnest);
  TextWriter writer;
  element.print(writer, "", pugi::format_raw, pugi::encoding_utf8);
  return writer.take();
}

}  // namespace opensum
