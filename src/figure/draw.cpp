// Drawing a list of marks into a file, by way of PLplot's cairo drivers.
#include "figure/draw.h"

#include <plplot/plplot.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iterator>

namespace opensum {
namespace {

constexpr PLINT kInkSlot = 1;
// The drivers lay text out for 90 dots per inch; a letter's box of one page unit is this many millimetres.
constexpr double kMillimetresPerUnit = 25.4 / 90;

// PLplot takes # for the begin of a command; marks use #u and #d alone.
std::string escaped(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    out += text[i];
    const bool command = i + 1 < text.size() && (text[i + 1] == 'u' || text[i + 1] == 'd');
    if (text[i] == '#' && !command) out += '#';
  }
  return out;
}

void set_color(const Color& color) {
  plscol0(kInkSlot, color.red, color.green, color.blue);
  plcol0(kInkSlot);
}

void draw(const Mark& mark) {
  set_color(mark.color);
  std::vector<PLFLT> x;
  std::vector<PLFLT> y;
  for (const Point& point : mark.points) {
    x.push_back(point.x);
    y.push_back(point.y);
  }
  const auto count = static_cast<PLINT>(x.size());
  switch (mark.kind) {
    case MarkKind::line:
      plwidth(mark.width);
      plline(count, x.data(), y.data());
      break;
    case MarkKind::area:
      plfill(count, x.data(), y.data());
      break;
    case MarkKind::text:
      plschr(mark.size * kMillimetresPerUnit, 1);
      plptex(x[0], y[0], mark.upward ? 0 : 1, mark.upward ? 1 : 0, mark.align, escaped(mark.text).c_str());
      break;
  }
}

// cairo numbers the surfaces of a process in its SVG; the same figure must be the same bytes.
bool remove_surface_numbers(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  const std::string bytes((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
  const std::string name = "surface";
  std::string numberless;
  for (std::size_t at = 0; at < bytes.size();) {
    const std::size_t found = std::min(bytes.find(name, at), bytes.size());
    numberless.append(bytes, at, found - at);
    at = found;
    if (at == bytes.size()) break;
    numberless += name;
    at = std::min(bytes.find_first_not_of("0123456789", at + name.size()), bytes.size());
  }
  std::ofstream out(path, std::ios::binary | std::ios::trunc);
  out << numberless;
  out.close();
  return !bytes.empty() && out.good();
}

// cairo writes the time of drawing into a PDF.
bool remove_date(const std::string& path) {
  std::fstream file(path, std::ios::in | std::ios::out | std::ios::binary);
  const std::string bytes((std::istreambuf_iterator<char>(file)), std::istreambuf_iterator<char>());
  const std::string key = "/CreationDate (D:";
  const std::size_t at = bytes.find(key);
  if (at == std::string::npos) return !bytes.empty();
  const std::string constant = "20000101000000";
  file.clear();
  file.seekp(static_cast<std::streamoff>(at + key.size()));
  file.write(constant.data(), static_cast<std::streamsize>(constant.size()));
  return file.good();
}

}  // namespace

bool draw_figure(const Figure& figure, const std::string& format, const std::string& path) {
  plsdev((format + "cairo").c_str());
  plsfnam(path.c_str());
  plspage(0, 0, static_cast<PLINT>(figure.width), static_cast<PLINT>(figure.height), 0, 0);
  plscol0(0, 255, 255, 255);
  plfontld(1);
  plinit();
  pladv(0);
  plvpor(0, 1, 0, 1);
  plwind(0, figure.width, 0, figure.height);
  plsfont(PL_FCI_SANS, PL_FCI_UPRIGHT, PL_FCI_MEDIUM);
  for (const Mark& mark : figure.marks) draw(mark);
  plend();
  if (format == "pdf") return remove_date(path);
  if (format == "svg") return remove_surface_numbers(path);
  std::error_code error;
  return std::filesystem::file_size(path, error) > 0 && !error;
}

}  // namespace opensum
