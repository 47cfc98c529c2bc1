// Fits as people read them and as a table.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/unicode.h"
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
                         with_unit(two_digits(parameter.error_shown), parameter.error_unit));
    } else {
      out += "null\n";
    }
  }
  if (!fit.residual_sd && !fit.reduced_chi2) return out;
  out += fit.reduced_chi2 ? fmt::format("  reduced χ² {}", number_text(*fit.reduced_chi2, kDigits))
                          : "  residual sd " + with_unit(number_text(*fit.residual_sd, kDigits), fit.y_unit);
  out += fmt::format(", {} degrees of freedom", fit.degrees_of_freedom);
  if (fit.r2) out += fmt::format(", r2 {}", number_text(*fit.r2, kDigits));
  if (fit.r) out += fmt::format(", r {}", number_text(*fit.r, kDigits));
  return out + '\n';
}

namespace {

// One fit to each of some sheets or groups, as columns of a table.
std::string side_by_side(const FitFacts* fits, std::size_t count) {
  std::vector<std::vector<std::string>> rows(1, {""});
  for (std::size_t i = 0; i < count; ++i)
    rows[0].push_back(fits[i].sheet + (fits[i].group.empty() ? "" : ", " + fits[i].group));
  const auto in = [](const std::string& unit) {
    return unit.empty() || unit == "1" ? "" : " [" + unit + "]";
  };
  const auto add = [&](const std::string& what, const auto& value) {
    std::vector<std::string>& row = rows.emplace_back(1, what);
    for (std::size_t i = 0; i < count; ++i) row.push_back(value(fits[i]));
  };
  const auto number = [](const std::optional<double>& value) {
    return value ? number_text(*value, kDigits) : std::string("null");
  };
  for (std::size_t p = 0; p < fits[0].parameters.size(); ++p) {
    add(fits[0].parameters[p].name + in(fits[0].parameters[p].unit), [&](const FitFacts& fit) {
      const FitFacts::Parameter& parameter = fit.parameters[p];
      return parameter.value ? number(parameter.value) + " ± " + two_digits(parameter.error_shown) : "null";
    });
  }
  if (fits[0].reduced_chi2) {
    add("reduced χ²", [&](const FitFacts& fit) { return number(fit.reduced_chi2); });
  } else {
    add("residual sd" + in(fits[0].y_unit), [&](const FitFacts& fit) { return number(fit.residual_sd); });
  }
  if (fits[0].r2) add("r2", [&](const FitFacts& fit) { return number(fit.r2); });
  if (fits[0].r) add("r", [&](const FitFacts& fit) { return number(fit.r); });
  add("degrees of freedom", [](const FitFacts& fit) { return std::to_string(fit.degrees_of_freedom); });
  add("points", [](const FitFacts& fit) {
    return std::to_string(fit.points) + (fit.left_out > 0 ? fmt::format(" ({} null)", fit.left_out) : "");
  });
  std::string out =
      fmt::format("fit{}: {} of {} to {}, ± standard error\n", fits[0].name.empty() ? "" : " " + fits[0].name,
                  fits[0].model, fits[0].y, fits[0].x);
  for (const std::vector<std::string>& row : rows) {
    std::string line = " ";
    for (std::size_t c = 0; c < row.size(); ++c) {
      std::size_t width = 0;
      for (const auto& other : rows) width = std::max(width, display_width(other[c]));
      line += ' ' + row[c] + std::string(width - display_width(row[c]) + 1, ' ');
    }
    line.erase(line.find_last_not_of(' ') + 1);
    out += line + '\n';
  }
  return out;
}

}  // namespace

std::string fits_text(const std::vector<FitFacts>& fits) {
  // More stand below one another, for a terminal is only so wide.
  constexpr std::size_t kMostBeside = 4;
  std::string out;
  for (std::size_t begin = 0; begin < fits.size();) {
    std::size_t end = begin + 1;
    while (end < fits.size() && fits[end].name == fits[begin].name) ++end;
    const std::size_t count = end - begin;
    if (count > 1 && count <= kMostBeside) {
      out += side_by_side(&fits[begin], count);
    } else {
      for (std::size_t i = begin; i < end; ++i) out += fit_text(fits[i]);
    }
    begin = end;
  }
  return out;
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
    if (fit.reduced_chi2) {
      out += csv_line(fit, "reduced_chi2", fit.reduced_chi2, std::nullopt, "1");
    } else {
      out += csv_line(fit, "residual_sd", fit.residual_sd, std::nullopt, fit.y_unit);
    }
  }
  return out;
}

}  // namespace opensum
