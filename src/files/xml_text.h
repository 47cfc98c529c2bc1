// Trees of XML as text.
#pragma once

#include <cstdint>
#include <string>

namespace pugi {
class xml_document;
}

namespace opensum {

/// The text of a tree without blanks between its elements; with the line `<?xml …?>` before it or not.
enum class XmlDeclaration : std::uint8_t { none, first };
std::string xml_text(const pugi::xml_document& document, XmlDeclaration declaration);

}  // namespace opensum
