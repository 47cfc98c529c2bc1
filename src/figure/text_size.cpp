// How large a text stands on the page, by Pango.
#include "figure/text_size.h"

#include <fmt/format.h>
#include <pango/pangocairo.h>

#include <array>
#include <memory>
#include <string_view>

#include "files/markup.h"

namespace opensum {
namespace {

struct ReleaseObject {
  void operator()(void* object) const { g_object_unref(object); }
};

// Raised and lowered letters, in sizes of the others.
constexpr double kSmallLetters = 0.7;
constexpr double kRise = 0.36;
constexpr double kDrop = 0.16;

// One layout for all measuring: making one is slow.
PangoLayout* measuring_layout() {
  static const std::unique_ptr<PangoContext, ReleaseObject> context = [] {
    std::unique_ptr<PangoContext, ReleaseObject> made(
        pango_font_map_create_context(pango_cairo_font_map_get_default()));
    // Letters of the same size everywhere: one unit is one pixel, without hints that bend letters to it.
    pango_cairo_context_set_resolution(made.get(), 72);
    cairo_font_options_t* options = cairo_font_options_create();
    cairo_font_options_set_hint_style(options, CAIRO_HINT_STYLE_NONE);
    cairo_font_options_set_hint_metrics(options, CAIRO_HINT_METRICS_OFF);
    pango_cairo_context_set_font_options(made.get(), options);
    cairo_font_options_destroy(options);
    return made;
  }();
  static const std::unique_ptr<PangoLayout, ReleaseObject> layout(pango_layout_new(context.get()));
  return layout.get();
}

struct Raised {
  std::string_view letter;
  std::string_view plain;
};

// Raised letters that fonts draw differently, if they have them at all.
constexpr std::array kRaised = {Raised{"⁰", "0"}, Raised{"¹", "1"}, Raised{"²", "2"}, Raised{"³", "3"},
                                Raised{"⁴", "4"}, Raised{"⁵", "5"}, Raised{"⁶", "6"}, Raised{"⁷", "7"},
                                Raised{"⁸", "8"}, Raised{"⁹", "9"}, Raised{"⁻", "−"}};

// The raised letter with which a text begins; a null pointer when it begins with none.
const Raised* raised_at(std::string_view text) {
  for (const Raised& raised : kRaised) {
    if (text.starts_with(raised.letter)) return &raised;
  }
  return nullptr;
}

// The length of `^{…}` or `_{…}` at the begin of a text; 0 where there is none.
std::size_t shifted_length(std::string_view text) {
  if (!text.starts_with("^{") && !text.starts_with("_{")) return 0;
  const std::size_t end = text.find('}');
  return end == std::string_view::npos ? 0 : end + 1;
}

// The bytes of the first letter of a text.
std::size_t letter_length(std::string_view text) {
  std::size_t length = 1;
  while (length < text.size() && (static_cast<unsigned char>(text[length]) & 0xC0U) == 0x80U) ++length;
  return length;
}

// How many letters of a text no font has.
int letters_missing(std::string_view text) {
  PangoLayout* layout = measuring_layout();
  PangoFontDescription* font = pango_font_description_from_string(kFigureFonts);
  pango_layout_set_font_description(layout, font);
  pango_font_description_free(font);
  constexpr double kAnySize = 20;
  pango_layout_set_markup(layout, text_markup(std::string(text), kAnySize).c_str(), -1);
  return pango_layout_get_unknown_glyphs_count(layout);
}

}  // namespace

std::string letters_without_font(const std::string& text) {
  std::string missing;
  if (letters_missing(text) == 0) return missing;
  for (std::size_t at = 0; at < text.size();) {
    const std::string_view letter =
        std::string_view(text).substr(at, letter_length(std::string_view(text).substr(at)));
    if (letters_missing(letter) > 0 && missing.find(letter) == std::string::npos) missing += letter;
    at += letter.size();
  }
  return missing;
}

std::string text_markup(const std::string& text, double size) {
  std::string out;
  // Given in letters of their own size, for what Pango calls sup depends on the scale of the page.
  const auto shifted = [&](double rise, const auto& append_content) {
    out += fmt::format("<span size=\"{:.0f}\" rise=\"{:.0f}\">", kSmallLetters * size * PANGO_SCALE,
                       rise * size * PANGO_SCALE);
    append_content();
    out += "</span>";
  };
  const std::string_view all = text;
  for (std::size_t at = 0; at < all.size();) {
    const std::string_view rest = all.substr(at);
    const std::size_t length = shifted_length(rest);
    if (length > 0) {
      shifted(rest[0] == '^' ? kRise : -kDrop, [&] { append_escaped(out, rest.substr(2, length - 3)); });
      at += length;
    } else if (raised_at(rest) != nullptr) {
      shifted(kRise, [&] {
        while (const Raised* raised = raised_at(all.substr(at))) {
          out += raised->plain;
          at += raised->letter.size();
        }
      });
    } else {
      const std::size_t letter = letter_length(rest);
      append_escaped(out, rest.substr(0, letter));
      at += letter;
    }
  }
  return out;
}

double text_width(const std::string& text, double size, bool strong) {
  PangoLayout* layout = measuring_layout();
  PangoFontDescription* font = pango_font_description_from_string(kFigureFonts);
  // Measured large: rounding to whole units of Pango would show at small sizes.
  constexpr double kMeasuredAt = 100;
  pango_font_description_set_absolute_size(font, kMeasuredAt * PANGO_SCALE);
  if (strong) pango_font_description_set_weight(font, PANGO_WEIGHT_BOLD);
  pango_layout_set_font_description(layout, font);
  pango_font_description_free(font);
  pango_layout_set_markup(layout, text_markup(text, kMeasuredAt).c_str(), -1);
  int width = 0;
  pango_layout_get_size(layout, &width, nullptr);
  return width / static_cast<double>(PANGO_SCALE) * size / kMeasuredAt;
}

std::string cut_text(const std::string& text, double size, double width) {
  if (text_width(text, size) <= width) return text;
  // The longest beginning that fits, at a border between letters.
  std::vector<std::size_t> borders;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const std::size_t length = shifted_length(std::string_view(text).substr(i));
    if (length > 0) {
      borders.push_back(i);
      i += length - 1;
      continue;
    }
    if ((static_cast<unsigned char>(text[i]) & 0xC0U) != 0x80U) borders.push_back(i);
  }
  std::size_t low = 0;
  std::size_t high = borders.empty() ? 0 : borders.size() - 1;
  const auto cut = [&](std::size_t letters) { return text.substr(0, borders[letters]) + "…"; };
  while (low < high) {
    const std::size_t middle = (low + high + 1) / 2;
    if (text_width(cut(middle), size) <= width) {
      low = middle;
    } else {
      high = middle - 1;
    }
  }
  return borders.empty() ? text : cut(low);
}

std::vector<std::string> wrap_text(const std::string& text, double size, double width, std::size_t lines) {
  std::vector<std::string> out;
  std::size_t begin = 0;
  while (begin < text.size()) {
    const std::string rest = text.substr(begin);
    if (out.size() + 1 >= lines || text_width(rest, size) <= width) {
      out.push_back(cut_text(rest, size, width));
      break;
    }
    std::size_t end = std::string::npos;
    for (std::size_t space = rest.find(' '); space != std::string::npos; space = rest.find(' ', space + 1)) {
      if (text_width(rest.substr(0, space), size) > width) break;
      end = space;
    }
    if (end == std::string::npos) {
      out.push_back(cut_text(rest, size, width));
      break;
    }
    out.push_back(rest.substr(0, end));
    begin += end + 1;
  }
  return out;
}

}  // namespace opensum
