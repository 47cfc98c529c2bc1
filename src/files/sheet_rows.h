// A long XML document cut into pieces of whole rows, so that no tree of all of it is needed.
#pragma once

#include <functional>
#include <string>
#include <string_view>

namespace opensum {

/// Takes up the XML of a sheet as it is unpacked. Whole rows go to `rows` as soon as there are many; what is
/// left, which is a document of its own, is given at the end.
class RowCutter {
 public:
  /// `rows` takes a text of whole row elements and says whether to go on.
  explicit RowCutter(std::function<bool(std::string_view)> rows) : rows_(std::move(rows)) {}

  /// Takes up some of the document; false where `rows` was.
  bool take(std::string_view piece);
  /// The document without the rows that were given away.
  std::string rest() &&;

 private:
  /// Finds the begin of the rows and the tag that ends one.
  void find_begin();

  std::function<bool(std::string_view)> rows_;
  std::string head_;
  std::string row_end_;  ///< `</row>`, with the prefix that the document has; empty before it is known
  std::string text_;     ///< after the head
  bool whole_ = false;   ///< there is what only a reader of all XML understands: nothing is cut
};

}  // namespace opensum
