// A long XML document cut into pieces of whole rows.
#include "files/sheet_rows.h"

namespace opensum {
namespace {

// So much is parsed at a time.
constexpr std::size_t kPiece = std::size_t{256} << 10U;

}  // namespace

void RowCutter::find_begin() {
  const std::size_t name = text_.find("sheetData");
  if (name == std::string::npos) return;
  const std::size_t tag = text_.rfind('<', name);
  const std::size_t end = text_.find('>', name);
  if (tag == std::string::npos || end == std::string::npos) return;
  const std::string prefix = text_.substr(tag + 1, name - tag - 1);
  whole_ = text_[end - 1] == '/' ||
           prefix.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789:") != std::string::npos;
  row_end_ = "</" + prefix + "row>";
  head_ = text_.substr(0, end + 1);
  text_.erase(0, end + 1);
}

bool RowCutter::take(std::string_view piece) {
  text_ += piece;
  if (row_end_.empty()) find_begin();
  if (whole_ || row_end_.empty() || text_.size() < kPiece) return true;
  // Comments and marked sections may hold what looks like the end of a row.
  whole_ = text_.find("<!") != std::string::npos;
  const std::size_t last = text_.rfind(row_end_);
  if (whole_ || last == std::string::npos) return true;
  const std::size_t end = last + row_end_.size();
  const bool wanted = rows_(std::string_view(text_).substr(0, end));
  text_.erase(0, end);
  return wanted;
}

std::string RowCutter::rest() && { return std::move(head_) + text_; }

}  // namespace opensum
