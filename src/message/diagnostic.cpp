// Collecting diagnostics and turning them into the text that the researcher reads.
#include "message/diagnostic.h"

#include <fmt/args.h>
#include <fmt/format.h>

#include <algorithm>

#include "base/unicode.h"

namespace opensum {
namespace {

constexpr std::size_t kLongestQuotedLine = 160;
constexpr std::size_t kQuoteBefore = 60;

// Texts that somebody wrote may be of any length; of long ones both ends are shown.
std::string shortened(std::string text) {
  constexpr std::size_t kMost = 600;
  if (text.size() <= kMost) return text;
  std::string begin = text.substr(0, kMost / 2);
  std::string end = text.substr(text.size() - kMost / 2);
  // No letter is cut in two.
  const auto goes_on = [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) == 0x80U; };
  while (!begin.empty() && goes_on(text[begin.size()])) begin.pop_back();
  while (!end.empty() && goes_on(end.front())) end.erase(0, 1);
  return begin + " … " + end;
}

std::string fill(const char* text, const std::vector<std::string>& args) {
  fmt::dynamic_format_arg_store<fmt::format_context> store;
  for (const std::string& arg : args) store.push_back(shortened(visible(arg)));
  return fmt::vformat(text, store);
}

// A note or hint that needs a word which is not there says nothing.
bool lacks_word(const char* text, const std::vector<std::string>& args) {
  for (std::size_t i = 0; i < args.size(); ++i) {
    if (args[i].empty() && std::string_view(text).find(fmt::format("{{{}}}", i)) != std::string_view::npos) {
      return true;
    }
  }
  return *text == '\0';
}

std::size_t characters(std::string_view text) {
  return static_cast<std::size_t>(std::count_if(
      text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

// On one line, where tabs would move the underline away from what it marks.
std::string printable(std::string_view text) {
  std::string out(text);
  for (char& c : out) {
    if (c == '\t' || c == '\n' || c == '\r') c = ' ';
  }
  return visible(out);
}

std::size_t character_start(std::string_view text, std::size_t at) {
  while (at > 0 && at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U) --at;
  return at;
}

struct Quote {
  std::string text;
  std::string underline;
};

Quote quote_line(const Diagnostic& diagnostic, const Position& position) {
  const Source& source = *diagnostic.place.source;
  const std::string_view line = source.line(position.line);
  const std::size_t line_begin = source.line_begin(position.line);
  const auto clamp = [&](std::size_t offset) {
    return std::min(offset < line_begin ? 0 : offset - line_begin, line.size());
  };
  std::size_t cut_begin = 0;
  std::size_t cut_end = line.size();
  const std::size_t first = clamp(diagnostic.place.span.begin);
  if (line.size() > kLongestQuotedLine) {
    cut_begin = character_start(line, first > kQuoteBefore ? first - kQuoteBefore : 0);
    cut_end = character_start(line, std::min(cut_begin + kLongestQuotedLine, line.size()));
  }
  const std::string_view shown = line.substr(cut_begin, cut_end - cut_begin);
  Quote quote;
  quote.text = (cut_begin > 0 ? "…" : "") + printable(shown) + (cut_end < line.size() ? "…" : "");
  std::string marks(characters(quote.text) + 1, ' ');
  const std::size_t shift = cut_begin > 0 ? 1 : 0;
  const auto mark = [&](const Span& span, char sign) {
    if (span.begin < line_begin || span.begin > line_begin + line.size()) return;
    const std::size_t begin = std::clamp(clamp(span.begin), cut_begin, cut_end);
    const std::size_t end = std::clamp(clamp(span.end), cut_begin, cut_end);
    std::size_t from = characters(printable(line.substr(cut_begin, begin - cut_begin))) + shift;
    const std::size_t to =
        std::max(from + 1, characters(printable(line.substr(cut_begin, end - cut_begin))) + shift);
    for (; from < to && from < marks.size(); ++from) marks[from] = sign;
  };
  if (diagnostic.second) mark(*diagnostic.second, '~');
  mark(diagnostic.place.span, '^');
  marks.erase(marks.find_last_not_of(' ') + 1);
  quote.underline = marks;
  return quote;
}

}  // namespace

Diagnostic& Diagnostics::add(Code code, Place place, std::vector<std::string> args) {
  Diagnostic diagnostic;
  diagnostic.code = code;
  diagnostic.place = std::move(place);
  diagnostic.args = std::move(args);
  return add(std::move(diagnostic));
}

Diagnostic& Diagnostics::add(Diagnostic diagnostic) {
  if (!sheet_.empty() && diagnostic.sheets.empty()) diagnostic.sheets.push_back(sheet_);
  all_.push_back(std::move(diagnostic));
  return all_.back();
}

bool Diagnostics::has_errors() const {
  return std::any_of(all_.begin(), all_.end(),
                     [](const Diagnostic& d) { return text_of(d.code).severity == Severity::error; });
}

int Diagnostics::exit_code() const {
  int code = 0;
  for (const Diagnostic& diagnostic : all_) {
    const CodeText& text = text_of(diagnostic.code);
    if (text.severity != Severity::error) continue;
    const int own = static_cast<int>(text.fault);
    code = code == 0 ? own : std::min(code, own);
  }
  return code;
}

namespace {

bool same_fault(const Diagnostic& a, const Diagnostic& b) {
  return a.code == b.code && a.args == b.args && a.place.source == b.place.source &&
         a.place.span.begin == b.place.span.begin && a.details == b.details;
}

}  // namespace

void Diagnostics::append(const Diagnostics& other) {
  for (const Diagnostic& diagnostic : other.all_) {
    const bool known =
        std::any_of(all_.begin(), all_.end(), [&](const Diagnostic& d) { return same_fault(d, diagnostic); });
    if (!known) all_.push_back(diagnostic);
  }
}

void Diagnostics::merge_repeated() {
  std::vector<Diagnostic> merged;
  for (Diagnostic& diagnostic : all_) {
    // Faults without a place may be of different files.
    const auto same = std::find_if(merged.begin(), merged.end(), [&](const Diagnostic& d) {
      return diagnostic.place.source && same_fault(d, diagnostic) && d.context == diagnostic.context;
    });
    if (same == merged.end()) {
      merged.push_back(std::move(diagnostic));
      continue;
    }
    for (const std::string& sheet : diagnostic.sheets) {
      if (std::find(same->sheets.begin(), same->sheets.end(), sheet) == same->sheets.end()) {
        same->sheets.push_back(sheet);
      }
    }
  }
  all_ = std::move(merged);
}

std::string render(const Diagnostic& diagnostic, bool color) {
  const CodeText& text = text_of(diagnostic.code);
  const bool is_error = text.severity == Severity::error;
  const auto paint = [&](const char* sgr, const std::string& words) {
    return color ? fmt::format("\x1b[{}m{}\x1b[0m", sgr, words) : words;
  };
  const std::string severity = is_error ? paint("1;31", "error") : paint("1;33", "warning");
  const std::string message = paint("1", fill(text.message, diagnostic.args));
  std::string out;
  std::string indent = "      ";
  if (diagnostic.place.source) {
    const Source& source = *diagnostic.place.source;
    const Position position = source.position(diagnostic.place.span.begin);
    out += fmt::format("{}:{}:{}: {}: {}\n", visible(source.name()), position.line, position.column, severity,
                       message);
    const Quote quote = quote_line(diagnostic, position);
    const std::string number = fmt::format("{:>5}", position.line);
    indent = std::string(number.size() + 1, ' ');
    out += fmt::format("{} | {}\n", number, quote.text);
    out += fmt::format("{}| {}\n", indent, quote.underline);
    if (!lacks_word(text.note, diagnostic.args)) {
      const std::size_t mark = std::min(quote.underline.find_first_of("^~"), quote.underline.size());
      out += fmt::format("{}| {}{}\n", indent, std::string(mark, ' '), fill(text.note, diagnostic.args));
    }
  } else {
    out += fmt::format("opensum: {}: {}\n", severity, message);
    if (!lacks_word(text.note, diagnostic.args)) out += indent + fill(text.note, diagnostic.args) + '\n';
  }
  for (const std::string& detail : diagnostic.details) out += indent + "| " + printable(detail) + '\n';
  if (!diagnostic.context.empty()) out += indent + "in: " + visible(diagnostic.context) + '\n';
  if (diagnostic.sheets.size() > 1)
    out += indent +
           fmt::format("in the sheets {}\n", visible(fmt::format("{}", fmt::join(diagnostic.sheets, ", "))));
  if (!lacks_word(text.hint, diagnostic.args))
    out += indent + "hint: " + fill(text.hint, diagnostic.args) + '\n';
  return out;
}

std::string render(const Diagnostics& diagnostics, bool color) {
  // By source in order of first appearance, and within a source from top to bottom.
  std::vector<const Diagnostic*> in_order;
  std::vector<const Source*> sources;
  for (const Diagnostic& diagnostic : diagnostics.all()) {
    in_order.push_back(&diagnostic);
    const Source* source = diagnostic.place.source.get();
    if (std::find(sources.begin(), sources.end(), source) == sources.end()) sources.push_back(source);
  }
  const auto rank = [&](const Diagnostic* d) {
    const auto found = std::find(sources.begin(), sources.end(), d->place.source.get());
    const std::size_t at = d->place.source ? d->place.source->position(d->place.span.begin).line : 0;
    return std::pair(found - sources.begin(), at);
  };
  std::stable_sort(in_order.begin(), in_order.end(),
                   [&](const Diagnostic* a, const Diagnostic* b) { return rank(a) < rank(b); });
  std::string out;
  for (const Diagnostic* diagnostic : in_order) out += render(*diagnostic, color);
  return out;
}

}  // namespace opensum
