// The options that every command with a FILE takes.
#include "cli/file_options.h"

#include <algorithm>
#include <filesystem>

#include "table/header.h"

namespace opensum {
namespace {

// `SYMBOL=REST` of an option, the rest as a passage of its own.
struct Assignment {
  std::string symbol;
  Place place;
  Passage rest;
};

std::optional<Assignment> split(const std::string& option, const std::string& argument, const char* what,
                                Diagnostics& diagnostics) {
  const std::size_t equals = argument.find('=');
  if (equals == std::string::npos || equals == 0) {
    diagnostics.add(Code::option_value, {option, what, argument});
    return std::nullopt;
  }
  auto source = std::make_shared<const Source>(option, argument);
  Assignment assignment;
  assignment.symbol = argument.substr(0, equals);
  assignment.place = {source, {0, equals}};
  assignment.rest = Passage(source, equals + 1, argument.substr(equals + 1));
  return assignment;
}

ColumnSettings& settings_for(SheetModel& sheet, const Assignment& assignment) {
  const auto found = std::find_if(sheet.columns.begin(), sheet.columns.end(),
                                  [&](const ColumnSettings& c) { return c.symbol == assignment.symbol; });
  if (found != sheet.columns.end()) return *found;
  ColumnSettings settings;
  settings.symbol = assignment.symbol;
  settings.place = assignment.place;
  sheet.columns.push_back(std::move(settings));
  return sheet.columns.back();
}

}  // namespace

void add_file_options(CLI::App& command, FileOptions& options) {
  command.add_option("FILE", options.file, "the table: CSV or TSV, - for standard input")->required();
  const auto repeated = [&](const char* name, std::vector<std::string>& into, const char* help,
                            const char* type) {
    command.add_option(name, into, help)->allow_extra_args(false)->type_name(type);
  };
  command.add_option("--delimiter", options.delimiter, "what separates the fields; default: found by itself")
      ->type_name("CHARACTER");
  repeated("--missing", options.missing, "a token that stands for a missing value, instead of the usual ones",
           "TOKEN");
  repeated("--missing-also", options.missing_also, "a token that stands for a missing value, too", "TOKEN");
  command
      .add_option("--unreadable", options.unreadable, "cells that are no numbers, where used: error or null")
      ->type_name("RULE");
  repeated("--unit", options.units, "the unit of a column, such as v=m/s", "SYMBOL=UNIT");
  repeated("--name", options.names, "a symbol for a column, such as 'v=Wind speed (m/s)'", "SYMBOL=HEADER");
  repeated("--type", options.types, "the kind of a column: number, date, truth or text", "SYMBOL=KIND");
}

std::optional<SheetModel> sheet_of(const FileOptions& options, Diagnostics& diagnostics) {
  SheetModel sheet;
  sheet.name = symbol_of(std::filesystem::path(options.file).stem().string());
  if (sheet.name.empty()) sheet.name = "table";
  sheet.data = Passage(nullptr, 0, options.file);
  if (!options.missing.empty()) sheet.read.missing = options.missing;
  sheet.read.missing_also = options.missing_also;
  const std::string delimiter =
      options.delimiter == "\\t" || options.delimiter == "tab" ? "\t" : options.delimiter;
  if (delimiter.size() > 1) {
    diagnostics.add(Code::option_value, {"--delimiter", "one character", options.delimiter});
  } else if (!delimiter.empty()) {
    sheet.read.delimiter = delimiter[0];
  }
  if (options.unreadable != "error" && options.unreadable != "null") {
    diagnostics.add(Code::option_value, {"--unreadable", "error or null", options.unreadable});
  }
  sheet.read.unreadable_is_null = options.unreadable == "null";
  for (const std::string& argument : options.names) {
    if (const auto parts = split("--name", argument, "SYMBOL=HEADER", diagnostics)) {
      if (symbol_of(parts->symbol) != parts->symbol) {
        diagnostics.add(Code::bad_name, parts->place, {parts->symbol});
        continue;
      }
      settings_for(sheet, *parts).header = parts->rest;
    }
  }
  for (const std::string& argument : options.units) {
    if (const auto parts = split("--unit", argument, "SYMBOL=UNIT", diagnostics)) {
      settings_for(sheet, *parts).unit = parts->rest;
    }
  }
  for (const std::string& argument : options.types) {
    const auto parts = split("--type", argument, "SYMBOL=KIND", diagnostics);
    if (!parts) continue;
    std::optional<Kind> kind;
    for (const Kind candidate : {Kind::number, Kind::date, Kind::truth, Kind::text}) {
      if (parts->rest.text() == kind_name(candidate)) kind = candidate;
    }
    if (!kind) {
      diagnostics.add(Code::option_value, {"--type", "number, date, truth or text", parts->rest.text()});
      continue;
    }
    settings_for(sheet, *parts).kind = kind;
  }
  if (diagnostics.has_errors()) return std::nullopt;
  return sheet;
}

}  // namespace opensum
