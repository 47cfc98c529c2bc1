// The options that every command with a FILE takes.
#include "cli/file_options.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>

#include "base/limits.h"
#include "base/result.h"
#include "cli/command.h"
#include "cli/help.h"
#include "files/compressed.h"
#include "files/database_address.h"
#include "files/line_form.h"
#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// `SYMBOL=REST` of an option, the rest as a passage of its own.
struct Assignment {
  std::string symbol;
  Place place;
  Passage rest;
};

Result<Assignment> split_option(const std::string& option, const std::string& argument, const char* what,
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

// Several assignments in one argument, `v=m/s,t=s`: a comma before a name and its sign of equality divides
// them.
std::vector<std::string> assignments_in(const std::vector<std::string>& arguments) {
  std::vector<std::string> all;
  for (const std::string& argument : arguments) {
    std::size_t begin = 0;
    for (std::size_t comma = argument.find(','); comma != std::string::npos;
         comma = argument.find(',', comma + 1)) {
      const std::size_t equals = argument.find('=', comma);
      if (equals == std::string::npos) break;
      const std::string name = argument.substr(comma + 1, equals - comma - 1);
      if (name.empty() || symbol_of(name) != name) continue;
      all.push_back(argument.substr(begin, comma - begin));
      begin = comma + 1;
    }
    all.push_back(argument.substr(begin));
  }
  return all;
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

void add_file_options(Command& command, FileOptions& options) {
  command
      .argument(
          "FILE", options.file,
          "the table: CSV, TSV or JSON lines (also as .gz or .zst), - for standard input, book.ods#Sheet,\n"
          "book.xlsx#Sheet!B4:F40, base.sqlite#name, run.h5#/group, run.nc, postgresql://HOST/BASE#table")
      .needed();
  add_read_options(command, options);
}

void add_read_options(Command& command, FileOptions& options) {
  const auto option = [&](const char* name, auto& into, const char* help) {
    return command.option(name, into, help).about_reading();
  };
  const auto repeated = [&](const char* name, std::vector<std::string>& into, const char* help,
                            const char* type) { option(name, into, help).one_value_each().value(type); };
  option("--skip-rows", options.skip_rows, "lines of the file before the table")
      .whole_number(0, kMostLines)
      .value("N");
  option("--skip-end", options.skip_end, "lines of the file below the table")
      .whole_number(0, kMostLines)
      .value("N");
  option("--header", options.header, "the line that holds the headers, two lines such as 2,3, or none")
      .value("LINE");
  option("--units-row", options.units_row, "the line that holds the units")
      .whole_number(1, kMostLines)
      .value("LINE");
  option("--encoding", options.encoding, "of the file, such as latin-1 or utf-16; default: UTF-8")
      .value("NAME");
  option("--delimiter", options.delimiter,
         "what separates the fields: a character, tab or blanks; default: found by itself")
      .value("CHARACTER");
  option("--comment", options.comment,
         "what lines begin with that are comments, or none; default: found above the table")
      .value("SIGN");
  option("--short-rows", options.short_rows, "rows of fewer fields than the header: error or null")
      .value("RULE");
  option("--decimal-char", options.decimal_char, "the decimal sign of the file's numbers; default: a point")
      .value("SIGN");
  option("--group-char", options.group_char, "the sign between thousands; default: none").value("SIGN");
  repeated("--date-format", options.date_formats,
           "how dates are written, such as %d.%m.%Y; or those of one column: day=%d.%m.%Y", "FORMAT");
  repeated("--missing", options.missing,
           "tokens that stand for missing values, instead of the usual ones, such as x,err", "TOKENS");
  repeated("--missing-also", options.missing_also,
           "tokens that stand for missing values, too, such as -999,err", "TOKENS");
  option("--unreadable", options.unreadable, "cells that are no numbers, where used: error or null")
      .value("RULE");
  repeated("--unit", options.units, "the unit of a column, such as v=m/s; of several v=m/s,t=s",
           "SYMBOL=UNIT");
  repeated("--column", options.columns, "a symbol for a column, such as 'v=Wind speed (m/s)'",
           "SYMBOL=HEADER");
  repeated("--kind", options.kinds, "the kind of a column: number, date, duration, truth or text",
           "SYMBOL=KIND");
  repeated("--uncertainty", options.uncertainties,
           "the standard uncertainty of a column, such as 't=0.1 K' or 'v=2 % + 0.1 m/s'", "SYMBOL=U");
  repeated("--label", options.labels, "a label for a column, as it is written", "SYMBOL=LABEL");
}

namespace {

// A whole number from 1; nothing for anything else.
std::optional<std::size_t> whole_number(std::string_view text) {
  const NumberReading number = read_number(trimmed(text));
  const bool whole =
      number.fault == NumberFault::none && number.value >= 1 && number.value == std::floor(number.value);
  return whole ? std::optional(static_cast<std::size_t>(number.value)) : std::nullopt;
}

void read_lines(const FileOptions& options, ReadSettings& read, Diagnostics& diagnostics) {
  read.skip_rows = options.skip_rows;
  read.skip_end = options.skip_end;
  read.encoding = options.encoding;
  read.units_row = options.units_row;
  if (options.header.empty()) return;
  const std::size_t comma = options.header.find(',');
  const auto first = whole_number(options.header.substr(0, comma));
  const auto second =
      comma == std::string::npos ? std::nullopt : whole_number(options.header.substr(comma + 1));
  if (options.header == "none") {
    read.no_header = true;
  } else if (first && second && *first < *second) {
    read.header_line = first;
    read.second_header_line = second;
  } else if (first && comma == std::string::npos) {
    read.header_line = first;
  } else {
    diagnostics.add(Code::option_value,
                    {"--header", "the number of a line, from 1, two such as 2,3, or none", options.header});
  }
}

// A sign of one character.
void read_sign(const char* option, const std::string& given, char& into, Diagnostics& diagnostics) {
  if (given.size() == 1) {
    into = given[0];
  } else {
    diagnostics.add(Code::option_value, {option, "one character", given});
  }
}

void read_signs(const FileOptions& options, ReadSettings& read, Diagnostics& diagnostics) {
  if (!options.delimiter.empty()) {
    read.delimiter = delimiter_of(options.delimiter);
    if (!read.delimiter)
      diagnostics.add(Code::option_value, {"--delimiter", "one character, tab or blanks", options.delimiter});
  }
  read.comment = options.comment == "none" ? std::optional<std::string>("") : options.comment;
  if (options.short_rows != "error" && options.short_rows != "null")
    diagnostics.add(Code::option_value, {"--short-rows", "error or null", options.short_rows});
  read.short_rows_are_null = options.short_rows == "null";
  if (!options.decimal_char.empty())
    read_sign("--decimal-char", options.decimal_char, read.style.decimal, diagnostics);
  read.style.group = options.group_char;
  if (!read.style.is_possible()) {
    diagnostics.add(Code::option_value,
                    {"--group-char", "one character other than the decimal sign", options.group_char});
  }
}

// The tokens of a list such as `-999,err`, or of several. An empty one stands for empty cells.
std::vector<std::string> tokens_of(const char* option, const std::vector<std::string>& given,
                                   const FileOptions& options, Diagnostics& diagnostics) {
  std::vector<std::string> tokens;
  for (const std::string& list : given) {
    if (list.empty()) tokens.emplace_back();
    for (std::size_t begin = 0; begin < list.size();) {
      const std::size_t comma = std::min(list.find(',', begin), list.size());
      const bool in_number = comma > 0 && comma + 1 < list.size() &&
                             std::isdigit(static_cast<unsigned char>(list[comma - 1])) != 0 &&
                             std::isdigit(static_cast<unsigned char>(list[comma + 1])) != 0;
      if (in_number && options.decimal_char == ",") {
        diagnostics.add(
            Code::option_value,
            {option, "one token each time where the decimal sign is a comma, without the comma", list});
        return tokens;
      }
      tokens.push_back(list.substr(begin, comma - begin));
      begin = comma + 1;
    }
  }
  return tokens;
}

// `FORMAT` for all dates, `SYMBOL=FORMAT` for those of one column.
void read_date_formats(const FileOptions& options, SheetModel& sheet, Diagnostics& diagnostics) {
  for (const std::string& argument : options.date_formats) {
    const std::string symbol = argument.substr(0, argument.find('='));
    if (symbol.size() == argument.size() || symbol.empty() || symbol_of(symbol) != symbol) {
      sheet.read.date_format = Passage::whole("--date-format", argument);
    } else if (const auto parts = split_option("--date-format", argument, "SYMBOL=FORMAT", diagnostics)) {
      settings_for(sheet, *parts).format = parts->rest;
    }
  }
}

}  // namespace

void add_format_option(Command& command, std::string& format) {
  command.option("--format", format, "print as table, markdown, csv or json").value("FORM");
}

Result<TableForm> form_of(const std::string& word, Diagnostics& diagnostics) {
  for (const auto& [name, form] :
       {std::pair("table", TableForm::table), std::pair("markdown", TableForm::markdown),
        std::pair("csv", TableForm::csv), std::pair("json", TableForm::json)}) {
    if (word == name) return form;
  }
  diagnostics.add(Code::option_value, {"--format", "table, markdown, csv or json", word});
  return std::nullopt;
}

Result<SheetModel> sheet_of(const FileOptions& options, Diagnostics& diagnostics) {
  SheetModel sheet;
  sheet.name = symbol_of(is_database_address(options.file)
                             ? table_name(options.file)
                             : std::filesystem::path(without_compression(options.file)).stem().string());
  if (sheet.name.empty()) sheet.name = "table";
  sheet.data.emplace_back(nullptr, 0, options.file);
  if (!options.missing.empty())
    sheet.read.missing = tokens_of("--missing", options.missing, options, diagnostics);
  sheet.read.missing_also = tokens_of("--missing-also", options.missing_also, options, diagnostics);
  read_lines(options, sheet.read, diagnostics);
  read_signs(options, sheet.read, diagnostics);
  if (options.unreadable != "error" && options.unreadable != "null") {
    diagnostics.add(Code::option_value, {"--unreadable", "error or null", options.unreadable});
  }
  sheet.read.unreadable_is_null = options.unreadable == "null";
  for (const std::string& argument : assignments_in(options.columns)) {
    if (const auto parts = split_option("--column", argument, "SYMBOL=HEADER", diagnostics)) {
      if (symbol_of(parts->symbol) != parts->symbol) {
        diagnostics.add(Code::bad_name, parts->place, {parts->symbol});
        continue;
      }
      settings_for(sheet, *parts).header = parts->rest;
    }
  }
  for (const std::string& argument : assignments_in(options.units)) {
    if (const auto parts = split_option("--unit", argument, "SYMBOL=UNIT", diagnostics)) {
      settings_for(sheet, *parts).unit = parts->rest;
    }
  }
  for (const std::string& argument : assignments_in(options.kinds)) {
    const auto parts = split_option("--kind", argument, "SYMBOL=KIND", diagnostics);
    if (!parts) continue;
    std::optional<Kind> kind;
    const bool duration = parts->rest.text() == "duration";
    if (duration) kind = Kind::number;
    for (const Kind candidate : {Kind::number, Kind::date, Kind::truth, Kind::text}) {
      if (parts->rest.text() == kind_name(candidate)) kind = candidate;
    }
    if (!kind) {
      diagnostics.add(Code::option_value,
                      {"--kind", "number, date, duration, truth or text", parts->rest.text()});
      continue;
    }
    ColumnSettings& settings = settings_for(sheet, *parts);
    settings.kind = kind;
    settings.duration = duration;
  }
  for (const std::string& argument : assignments_in(options.uncertainties)) {
    if (const auto parts = split_option("--uncertainty", argument, "SYMBOL=U", diagnostics))
      settings_for(sheet, *parts).uncertainty = UncertaintyModel{parts->rest};
  }
  read_date_formats(options, sheet, diagnostics);
  for (const std::string& argument : assignments_in(options.labels)) {
    if (const auto parts = split_option("--label", argument, "SYMBOL=LABEL", diagnostics)) {
      settings_for(sheet, *parts).label = parts->rest.text();
    }
  }
  if (diagnostics.has_errors()) return std::nullopt;
  return sheet;
}

}  // namespace opensum
