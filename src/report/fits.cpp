// Fits as people read them and as a table.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/unicode.h"
#include "files/csv_writer.h"
#include "report/summary.h"
#include "report/words.h"
#include "table/header.h"
#include "table/number_text.h"
#include "table/value_with_error.h"

namespace opensum {
namespace {

// What the brackets of value_with_error are, said once below all fits.
constexpr const char* kBrackets = "in brackets: the standard error, in the last digits\n";

// The scatter about a curve: three digits, for no more are known of it.
std::string scatter_text(double value) { return number_text(value, 3); }

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
      out += with_unit(value_with_error(*parameter.value, parameter.standard_error), parameter.unit);
      if (parameter.by_stated && !fit.reduced_chi2)
        out += "  from the stated uncertainties of its points " +
               with_unit(number_text(*parameter.by_stated, 2), parameter.unit_of_uncertainty);
      out += '\n';
    } else {
      out += "null\n";
    }
  }
  if (!fit.guessed_start.empty()) {
    out += "  start guessed from the points:";
    for (std::size_t p = 0; p < fit.guessed_start.size(); ++p)
      out += fmt::format("{} {} = {}", p == 0 ? "" : ",", fit.parameters[p].name,
                         with_unit(number_text(fit.guessed_start[p], 3), fit.parameters[p].unit));
    out += '\n';
  }
  if (!fit.residual_sd && !fit.reduced_chi2) return out;
  out += fit.reduced_chi2 ? "  reduced χ² " + scatter_text(*fit.reduced_chi2)
                          : "  residual sd " + with_unit(scatter_text(*fit.residual_sd), fit.y_unit);
  if (fit.by_x) out += " (weighted by u(y) and u(x), effective variance)";
  out += fmt::format(", {} degrees of freedom", fit.degrees_of_freedom);
  if (fit.r2) out += ", r2 " + share_text(*fit.r2);
  if (fit.r) out += ", r " + share_text(*fit.r);
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
  const auto number = [](const std::optional<double>& value, const auto& text) {
    return value ? text(*value) : std::string("null");
  };
  for (std::size_t p = 0; p < fits[0].parameters.size(); ++p) {
    add(fits[0].parameters[p].name + in(fits[0].parameters[p].unit), [&](const FitFacts& fit) {
      const FitFacts::Parameter& parameter = fit.parameters[p];
      return parameter.value ? value_with_error(*parameter.value, parameter.standard_error) : "null";
    });
    if (fits[0].parameters[p].by_stated) {
      add("u(" + fits[0].parameters[p].name + ") from stated" + in(fits[0].parameters[p].unit_of_uncertainty),
          [&](const FitFacts& fit) {
            return number(fit.parameters[p].by_stated, [](double u) { return number_text(u, 2); });
          });
    }
  }
  for (std::size_t p = 0; p < fits[0].guessed_start.size(); ++p) {
    add(fits[0].parameters[p].name + ", start guessed", [&](const FitFacts& fit) {
      return fit.guessed_start.empty() ? std::string() : number_text(fit.guessed_start[p], 3);
    });
  }
  if (fits[0].reduced_chi2) {
    add("reduced χ²", [&](const FitFacts& fit) { return number(fit.reduced_chi2, scatter_text); });
  } else {
    add("residual sd" + in(fits[0].y_unit),
        [&](const FitFacts& fit) { return number(fit.residual_sd, scatter_text); });
  }
  if (fits[0].r2) add("r2", [&](const FitFacts& fit) { return number(fit.r2, share_text); });
  if (fits[0].r) add("r", [&](const FitFacts& fit) { return number(fit.r, share_text); });
  add("degrees of freedom", [](const FitFacts& fit) { return std::to_string(fit.degrees_of_freedom); });
  add("points", [](const FitFacts& fit) {
    return std::to_string(fit.points) + (fit.left_out > 0 ? fmt::format(" ({} null)", fit.left_out) : "");
  });
  std::string out = fmt::format("fit{}: {} of {} to {}\n", fits[0].name.empty() ? "" : " " + fits[0].name,
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
  const bool any = std::any_of(fits.begin(), fits.end(), [](const FitFacts& fit) {
    return std::any_of(fit.parameters.begin(), fit.parameters.end(),
                       [](const FitFacts::Parameter& p) { return p.value.has_value(); });
  });
  return any ? out + kBrackets : out;
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

std::string fits_csv_with(std::string_view before, const std::vector<FitFacts>& fits) {
  const std::string own = fits_csv(fits);
  const std::size_t header = own.find('\n') + 1;
  if (!before.starts_with(std::string_view(own).substr(0, header))) return own;
  const auto is_new = [&](std::string_view line) {
    return std::any_of(fits.begin(), fits.end(), [&](const FitFacts& fit) {
      return line.size() > fit.name.size() && line.starts_with(fit.name) && line[fit.name.size()] == ',';
    });
  };
  std::string out = own.substr(0, header);
  bool placed = false;
  const auto place = [&] {
    if (!std::exchange(placed, true)) out += std::string_view(own).substr(header);
  };
  before.remove_prefix(header);
  while (!before.empty()) {
    // A line ends outside of quotes.
    std::size_t end = 0;
    for (bool quoted = false; end < before.size() && (quoted || before[end] != '\n'); ++end)
      quoted = quoted != (before[end] == '"');
    const std::string_view line = before.substr(0, std::min(end + 1, before.size()));
    if (is_new(line)) {
      place();
    } else {
      out += line;
    }
    before.remove_prefix(line.size());
  }
  place();
  return out;
}

}  // namespace opensum
