// Texts that messages point into: whole files or command-line arguments, and passages cut from them.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// A half-open range of bytes in a text.
struct Span {
  std::size_t begin = 0;
  std::size_t end = 0;
};

/// A line (from 1) and column (from 1, counted in characters) of a text.
struct Position {
  std::size_t line = 1;
  std::size_t column = 1;
};

/// A named text: a file as read, or an argument of the command line.
class Source {
 public:
  /// `first_line` is the number of the text's first line, for an excerpt of a larger file.
  Source(std::string name, std::string text, std::size_t first_line = 1);

  const std::string& name() const { return name_; }
  const std::string& text() const { return text_; }
  /// Line and column of a byte offset; offsets past the end give the end.
  Position position(std::size_t offset) const;
  /// The text of a line (from 1) without its line end.
  std::string_view line(std::size_t number) const;
  /// The byte offset at which a line (from 1) begins.
  std::size_t line_begin(std::size_t number) const;

 private:
  std::string name_;
  std::string text_;
  std::size_t first_line_;
  std::vector<std::size_t> line_begins_;
};

/// A span in a source.
struct Place {
  std::shared_ptr<const Source> source;
  Span span;
};

/// A decoded piece of a source, for example the content of a TOML string, that remembers where each of
/// its bytes stands in the source. Copies share the text.
class Passage {
 public:
  Passage() = default;
  /// A passage that stands in the source byte for byte, from `begin`.
  Passage(std::shared_ptr<const Source> source, std::size_t begin, std::string text);
  /// A passage whose byte i stands at `offsets[i]`; `offsets` has one entry more than `text`.
  Passage(std::shared_ptr<const Source> source, std::vector<std::size_t> offsets, std::string text);

  /// A passage that is a whole source of its own.
  static Passage whole(std::string name, std::string text);

  /// The same places with other characters, as many as there were.
  Passage with_text(std::string text) const {
    Passage changed = *this;
    changed.text_ = std::make_shared<const std::string>(std::move(text));
    return changed;
  }

  const std::string& text() const { return *text_; }
  const std::shared_ptr<const Source>& source() const { return source_; }
  /// Where a span of this passage stands in the source.
  Place place(Span span) const;
  /// Where all of this passage stands.
  Place place() const { return place({0, text_->size()}); }

 private:
  std::shared_ptr<const Source> source_;
  std::shared_ptr<const std::string> text_ = std::make_shared<const std::string>();
  std::size_t begin_ = 0;
  /// A null pointer for a passage that stands in the source as it is.
  std::shared_ptr<const std::vector<std::size_t>> offsets_;
};

}  // namespace opensum
