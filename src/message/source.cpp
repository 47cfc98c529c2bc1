// Texts that messages point into.
#include "message/source.h"

#include <algorithm>
#include <utility>

namespace opensum {

Source::Source(std::string name, std::string text, std::size_t first_line)
    : name_(std::move(name)), text_(std::move(text)), first_line_(first_line) {
  line_begins_.push_back(0);
  for (std::size_t i = 0; i < text_.size(); ++i) {
    if (text_[i] == '\n') line_begins_.push_back(i + 1);
  }
}

Position Source::position(std::size_t offset) const {
  offset = std::min(offset, text_.size());
  const auto after = std::upper_bound(line_begins_.begin(), line_begins_.end(), offset);
  Position position;
  const auto index = static_cast<std::size_t>(after - line_begins_.begin());
  position.line = index + first_line_ - 1;
  for (std::size_t i = line_begins_[index - 1]; i < offset; ++i) {
    // Continuation bytes of UTF-8 do not begin a character.
    if ((static_cast<unsigned char>(text_[i]) & 0xC0U) != 0x80U) ++position.column;
  }
  return position;
}

std::string_view Source::line(std::size_t number) const {
  number = number + 1 - first_line_;
  if (number == 0 || number > line_begins_.size()) return {};
  const std::size_t begin = line_begins_[number - 1];
  std::size_t end = number < line_begins_.size() ? line_begins_[number] - 1 : text_.size();
  if (end > begin && text_[end - 1] == '\r') --end;
  return std::string_view(text_).substr(begin, end - begin);
}

std::size_t Source::line_begin(std::size_t number) const {
  number = number + 1 - first_line_;
  if (number == 0) return 0;
  return number <= line_begins_.size() ? line_begins_[number - 1] : text_.size();
}

Passage::Passage(std::shared_ptr<const Source> source, std::size_t begin, std::string text)
    : source_(std::move(source)),
      text_(std::make_shared<const std::string>(std::move(text))),
      begin_(begin) {}

Passage::Passage(std::shared_ptr<const Source> source, std::vector<std::size_t> offsets, std::string text)
    : source_(std::move(source)),
      text_(std::make_shared<const std::string>(std::move(text))),
      offsets_(std::make_shared<const std::vector<std::size_t>>(std::move(offsets))) {}

Passage Passage::whole(std::string name, std::string text) {
  auto source = std::make_shared<const Source>(std::move(name), text);
  return {std::move(source), 0, std::move(text)};
}

Place Passage::place(Span span) const {
  if (!offsets_) return {source_, {begin_ + span.begin, begin_ + span.end}};
  const std::size_t last = offsets_->size() - 1;
  return {source_, {(*offsets_)[std::min(span.begin, last)], (*offsets_)[std::min(span.end, last)]}};
}

}  // namespace opensum
