// Drawing a list of marks into a file by cairo, with texts set by Pango.
#include "figure/draw.h"

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <pango/pangocairo.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

#include "figure/text_size.h"

namespace opensum {
namespace {

struct ReleaseDrawing {
  void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
  void operator()(cairo_t* context) const { cairo_destroy(context); }
  void operator()(PangoLayout* layout) const { g_object_unref(layout); }
};
using Surface = std::unique_ptr<cairo_surface_t, ReleaseDrawing>;
using Context = std::unique_ptr<cairo_t, ReleaseDrawing>;

constexpr double kEdgeWidth = 1;

class Pen {
 public:
  Pen(cairo_t* context, const Figure& figure) : cairo_(context), figure_(figure) {}

  void draw(const Mark& mark) {
    const auto part = [](std::uint8_t value) { return value / 255.0; };
    cairo_set_source_rgba(cairo_, part(mark.color.red), part(mark.color.green), part(mark.color.blue),
                          mark.opacity);
    set_dash(mark);
    switch (mark.kind) {
      case MarkKind::line:
        trace(mark);
        cairo_set_line_width(cairo_, mark.width);
        cairo_stroke(cairo_);
        break;
      case MarkKind::area:
        trace(mark);
        cairo_close_path(cairo_);
        fill(mark);
        break;
      case MarkKind::boxes:
        for (std::size_t i = 0; i + 1 < mark.points.size(); i += 2) {
          const Point& one = mark.points[i];
          const Point& two = mark.points[i + 1];
          cairo_rectangle(cairo_, std::min(one.x, two.x), down(std::max(one.y, two.y)),
                          std::fabs(two.x - one.x), std::fabs(two.y - one.y));
        }
        fill(mark);
        break;
      case MarkKind::dots:
        // Lines without length and with round ends: the shortest way to write a disc.
        for (const Point& point : mark.points) {
          cairo_move_to(cairo_, point.x, down(point.y));
          cairo_line_to(cairo_, point.x, down(point.y));
        }
        cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_ROUND);
        cairo_set_line_width(cairo_, mark.width);
        cairo_stroke(cairo_);
        cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_BUTT);
        break;
      case MarkKind::text:
        write(mark);
        break;
    }
  }

 private:
  // Pages of cairo begin at the top.
  double down(double y) const { return figure_.height - y; }

  void trace(const Mark& mark) {
    for (std::size_t i = 0; i < mark.points.size(); ++i) {
      const Point& point = mark.points[i];
      if (i == 0) {
        cairo_move_to(cairo_, point.x, down(point.y));
      } else {
        cairo_line_to(cairo_, point.x, down(point.y));
      }
    }
  }

  void fill(const Mark& mark) {
    if (mark.hollow) {
      cairo_set_line_width(cairo_, mark.width);
      cairo_stroke(cairo_);
      return;
    }
    cairo_fill_preserve(cairo_);
    if (mark.edged) {
      cairo_set_source_rgb(cairo_, 1, 1, 1);
      cairo_set_line_width(cairo_, kEdgeWidth);
      cairo_stroke(cairo_);
    }
    cairo_new_path(cairo_);
  }

  void set_dash(const Mark& mark) {
    static constexpr std::array kDashed = {10.0, 6.0};
    static constexpr std::array kDotted = {2.5, 4.5};
    if (mark.dash == Dash::solid) {
      cairo_set_dash(cairo_, nullptr, 0, 0);
    } else {
      const auto& lengths = mark.dash == Dash::dashed ? kDashed : kDotted;
      cairo_set_dash(cairo_, lengths.data(), static_cast<int>(lengths.size()), 0);
    }
  }

  void write(const Mark& mark) {
    const std::unique_ptr<PangoLayout, ReleaseDrawing> layout(pango_cairo_create_layout(cairo_));
    pango_cairo_context_set_resolution(pango_layout_get_context(layout.get()), 72);
    PangoFontDescription* font = pango_font_description_from_string(kFigureFonts);
    pango_font_description_set_absolute_size(font, mark.size * PANGO_SCALE);
    if (mark.strong) pango_font_description_set_weight(font, PANGO_WEIGHT_BOLD);
    pango_layout_set_font_description(layout.get(), font);
    pango_font_description_free(font);
    pango_layout_set_markup(layout.get(), text_markup(mark.text, mark.size).c_str(), -1);
    int width = 0;
    pango_layout_get_size(layout.get(), &width, nullptr);
    cairo_save(cairo_);
    cairo_translate(cairo_, mark.points.front().x, down(mark.points.front().y));
    if (mark.upward) cairo_rotate(cairo_, -std::acos(0.0));
    // The point is the middle of the small letters' height, whatever is raised or lowered around them.
    constexpr double kMiddleOfLetters = 0.35;
    const double baseline = pango_layout_get_baseline(layout.get()) / static_cast<double>(PANGO_SCALE);
    cairo_move_to(cairo_, -mark.align * width / PANGO_SCALE, kMiddleOfLetters * mark.size - baseline);
    pango_cairo_show_layout(cairo_, layout.get());
    cairo_restore(cairo_);
  }

  cairo_t* cairo_;
  const Figure& figure_;
};

// Everything on a surface of which `scale` of its own units are one of the page.
bool draw_on(cairo_surface_t* surface, const Figure& figure, double scale) {
  const Context context(cairo_create(surface));
  cairo_scale(context.get(), scale, scale);
  cairo_font_options_t* options = cairo_font_options_create();
  cairo_font_options_set_hint_style(options, CAIRO_HINT_STYLE_NONE);
  cairo_font_options_set_hint_metrics(options, CAIRO_HINT_METRICS_OFF);
  cairo_set_line_join(context.get(), CAIRO_LINE_JOIN_ROUND);
  cairo_set_font_options(context.get(), options);
  cairo_font_options_destroy(options);
  cairo_set_source_rgb(context.get(), 1, 1, 1);
  cairo_paint(context.get());
  Pen pen(context.get(), figure);
  for (const Mark& mark : figure.marks) pen.draw(mark);
  return cairo_status(context.get()) == CAIRO_STATUS_SUCCESS;
}

cairo_status_t append(void* text, const unsigned char* bytes, unsigned int count) {
  static_cast<std::string*>(text)->append(reinterpret_cast<const char*>(bytes), count);
  return CAIRO_STATUS_SUCCESS;
}

// cairo numbers the surfaces of a process in its SVG; the same figure must be the same bytes.
std::string without_surface_numbers(const std::string& svg) {
  const std::string name = "surface";
  std::string out;
  for (std::size_t at = 0; at < svg.size();) {
    const std::size_t found = std::min(svg.find(name, at), svg.size());
    out.append(svg, at, found - at);
    at = found;
    if (at == svg.size()) break;
    out += name;
    at = std::min(svg.find_first_not_of("0123456789", at + name.size()), svg.size());
  }
  return out;
}

}  // namespace

std::string drawn_figure(const Figure& figure, const std::string& format) {
  std::string bytes;
  const double scale = format == "png" ? figure.pixels_per_unit : figure.points_per_unit;
  const double width = figure.width * scale;
  const double height = figure.height * scale;
  Surface surface;
  if (format == "png") {
    surface.reset(cairo_image_surface_create(CAIRO_FORMAT_RGB24, static_cast<int>(std::lround(width)),
                                             static_cast<int>(std::lround(height))));
  } else if (format == "pdf") {
    surface.reset(cairo_pdf_surface_create_for_stream(append, &bytes, width, height));
    cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_TITLE, figure.title.c_str());
    // A PDF has a date; the same figure must be the same bytes whenever it is drawn.
    cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_CREATE_DATE, "2000-01-01T00:00:00Z");
  } else {
    surface.reset(cairo_svg_surface_create_for_stream(append, &bytes, width, height));
  }
  bool good = draw_on(surface.get(), figure, scale);
  if (format == "png") {
    good = good && cairo_surface_write_to_png_stream(surface.get(), append, &bytes) == CAIRO_STATUS_SUCCESS;
  }
  cairo_surface_finish(surface.get());
  good = good && cairo_surface_status(surface.get()) == CAIRO_STATUS_SUCCESS;
  if (!good) return "";
  return format == "svg" ? without_surface_numbers(bytes) : bytes;
}

std::string svg_element(const std::string& svg, const std::string& prefix) {
  const std::size_t begin = std::min(svg.find("<svg"), svg.size());
  std::string out;
  for (std::size_t at = begin; at < svg.size();) {
    std::size_t next = svg.size();
    std::size_t length = 0;
    for (const std::string_view start : {" id=\"", "href=\"#", "url(#"}) {
      const std::size_t found = svg.find(start, at);
      if (found >= next) continue;
      next = found;
      length = start.size();
    }
    out.append(svg, at, next + length - at);
    if (next < svg.size()) out += prefix;
    at = next + length;
  }
  return out;
}

}  // namespace opensum
