// Trees of XML as text.
#pragma once

#include <cstdint>
#include <string>

namespace pugi {
class xml_document;
class xml_node;
}  // namespace pugi

namespace opensum {

/// The text of a tree without blanks between its elements; with the line `<?xml …?>` before it or not.
enum class XmlDeclaration : std::uint8_t { none, first };
std::string xml_text(const pugi::xml_document& document, XmlDeclaration declaration);
/// That of an element alone.
std::string xml_text(const pugi::xml_node& element);

}  // namespace opensum
