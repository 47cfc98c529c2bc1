// Fits as people read them and as a table.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "files/csv_writer.h"
#include "report/summary.h"
#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr int kDigits = 6;

std::string with_unit(const std::string& number, const std::string& unit) {
  return unit.empty() || unit == "1" ? number : number + " " + unit;
}

// Two significant digits, and zeros for those before the point that are none: 148 as 150.
std::string two_digits(double value) {
  if (value == 0) return "0";
  const double unit = std::pow(10, std::floor(std::log10(std::abs(value))) - 1);
  return number_text(std::round(value / unit) * unit, kDigits);
}

std::string csv_line(const FitFacts& fit, const std::string& parameter, const std::optional<double>& value,
                     const std::optional<double>& error, const std::string& unit) {
  std::string line;
  const auto field = [&](const std::string& text) {
    if (!line.empty()) line += ',';
    append_field(line, text, ',');
  };
  field(fit.name);
  field(fit.sheet);
  field(fit.group);
  field(parameter);
  field(value ? number_text(*value) : "");
  field(error ? number_text(*error) : "");
  field(unit);
  return line + '\n';
}

}  // namespace

std::string fit_text(const FitFacts& fit) {
  std::string out =
      fmt::format("fit{} of {}{}: {} of {} to {}, {} point{}", fit.name.empty() ? "" : " " + fit.name,
                  fit.sheet, fit.group.empty() ? "" : ", " + fit.group, fit.model, fit.y, fit.x, fit.points,
                  fit.points == 1 ? "" : "s");
  if (fit.left_out > 0) out += fmt::format(" ({} left out, null)", fit.left_out);
  out += '\n';
  std::size_t width = 0;
  for (const FitFacts::Parameter& parameter : fit.parameters)
    width = std::max(width, display_width(parameter.name));
  for (const FitFacts::Parameter& parameter : fit.parameters) {
    out += "  " + parameter.name + std::string(width - display_width(parameter.name) + 2, ' ');
    if (parameter.value) {
      out += fmt::format("{}, standard error {}\n",
                         with_unit(number_text(*parameter.value, kDigits), parameter.unit),
                         two_digits(parameter.standard_error));
    } else {
      out += "null\n";
    }
  }
  if (!fit.residual_sd) return out;
  out += fmt::format("  residual sd {}, {} degrees of freedom",
                     with_unit(number_text(*fit.residual_sd, kDigits), fit.y_unit), fit.degrees_of_freedom);
  if (fit.r2) out += fmt::format(", r2 {}", number_text(*fit.r2, kDigits));
  if (fit.r) out += fmt::format(", r {}", number_text(*fit.r, kDigits));
  return out + '\n';
}

std::string fits_csv(const std::vector<FitFacts>& fits) {
  std::string out = "fit,sheet,group,parameter,value,standard_error,unit\n";
  for (const FitFacts& fit : fits) {
    for (const FitFacts::Parameter& parameter : fit.parameters) {
      const std::optional<double> error =
          parameter.value ? std::optional(parameter.standard_error) : std::nullopt;
      out += csv_line(fit, parameter.name, parameter.value, error, parameter.unit);
    }
    out += csv_line(fit, "n", static_cast<double>(fit.points), std::nullopt, "1");
    if (fit.r) out += csv_line(fit, "r", fit.r, std::nullopt, "1");
    if (fit.r2) out += csv_line(fit, "r2", fit.r2, std::nullopt, "1");
    out += csv_line(fit, "residual_sd", fit.residual_sd, std::nullopt, fit.y_unit);
  }
  return out;
}

}  // namespace opensum
