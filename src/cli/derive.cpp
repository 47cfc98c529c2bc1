// opensum derive: derived columns without a study.
#include <algorithm>
#include <filesystem>
#include <memory>

#include "base/split.h"
#include "cli/command.h"
#include "cli/file_options.h"
#include "cli/text_table.h"
#include "files/csv_writer.h"
#include "files/formats.h"
#include "files/output.h"
#include "results/nulls.h"
#include "results/row_sinks.h"
#include "results/sheet_files.h"
#include "results/written_sheets.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "run/write.h"
#include "table/number_text.h"

namespace opensum {
namespace {

struct DeriveOptions {
  FileOptions file;
  std::vector<std::string> definitions;
  std::vector<std::string> fills;
  std::string keep;
  std::vector<std::string> show;
  std::vector<std::string> sort_by;
  std::string output;
  std::string format;
  bool force = false;
};

// What was asked for weighs most, then what it was made from, then the column that tells the rows apart.
std::vector<int> weights_of(const RunSheet& sheet) {
  std::vector<int> weights(sheet.table().columns.size(), 0);
  if (!weights.empty()) weights[0] = 1;
  for (const DerivedColumn& derived : sheet.plan.derived) {
    weights[derived.index] = 3;
    for (const std::size_t input : all_inputs(derived.program)) weights[input] = std::max(weights[input], 2);
  }
  return weights;
}

TextTable table_of(const RunSheet& sheet) {
  const Table& table = sheet.table();
  const std::vector<int> weights = weights_of(sheet);
  std::vector<TextTable::Heading> headings;
  const std::vector<const Column*> columns = table.written();
  for (const Column* column : columns) {
    const auto index = std::find_if(table.columns.begin(), table.columns.end(),
                                    [&](const Column& c) { return &c == column; }) -
                       table.columns.begin();
    headings.push_back(
        {column->title(), column->kind == Kind::number, weights[static_cast<std::size_t>(index)]});
  }
  TextTable text(std::move(headings));
  for (std::size_t place = 0; place < table.rows; ++place) {
    std::vector<std::string> cells;
    cells.reserve(columns.size());
    for (const Column* column : columns) cells.push_back(cell_text(*column, table.row_at(place)));
    text.add(std::move(cells));
  }
  return text;
}

// Computes the sheet, and what is wished for of it.
void compute_sheet(PreparedStudy& prepared, LastWishes wishes, Diagnostics& diagnostics) {
  compute(prepared, {std::move(wishes)}, diagnostics);
  if (!diagnostics.has_errors()) warn_of_all_null(prepared, diagnostics);
}

LastWishes whole_table(const RunSheet& sheet) {
  LastWishes wishes;
  wishes.held = all_written(sheet);
  return wishes;
}

// Computes the sheet and gives its rows to a file on the way. The number of an error in writing, else 0.
int compute_into(PreparedStudy& prepared, FormatSink& sink, Diagnostics& diagnostics) {
  LastWishes wishes;
  wishes.sinks.push_back(&sink);
  compute_sheet(prepared, std::move(wishes), diagnostics);
  return sink.error();
}

// The same with rows as CSV.
int write_rows(PreparedStudy& prepared, char delimiter, WriteText write, const std::string& beside,
               Diagnostics& diagnostics) {
  CsvOptions options;
  options.delimiter = delimiter;
  CsvSink sink(std::move(write), beside, prepared.sheets.front()->table(), options);
  LastWishes wishes;
  wishes.sinks.push_back(&sink);
  compute_sheet(prepared, std::move(wishes), diagnostics);
  sink.report_formulas("the table", diagnostics);
  return sink.error();
}

int write_file(const DeriveOptions& options, PreparedStudy& prepared, Diagnostics& diagnostics,
               Streams& streams) {
  OutputFiles files(prepared.inputs, options.force, Sharing::with_others,
                    "choose another name, or --force to replace it");
  const RunSheet& run = *prepared.sheets.front();
  const WrittenFormat& format = *format_of_path(options.output);
  bool good = false;
  const WrittenSheet sheet{run.model->name, &run.table(), false, derived_notes(prepared, run)};
  if (format.holds == FileHolds::rows) {
    const auto fill = [&](int descriptor) {
      return write_rows(prepared, format.delimiter, writes_to(descriptor), options.output, diagnostics);
    };
    good = files.write(options.output, fill, diagnostics);
  } else if (format.text != nullptr) {
    compute_sheet(prepared, whole_table(run), diagnostics);
    if (diagnostics.has_errors()) return report(diagnostics, streams);
    good = files.write(options.output, format.text(sheet), diagnostics);
  } else if (format.begin != nullptr) {
    const std::string temporary = files.stage(options.output, diagnostics);
    if (temporary.empty()) return report(diagnostics, streams);
    const auto tables = format.begin(temporary, {sheet});
    FormatSink sink(format, sheet, puts_into(*tables, 0), temporary);
    if (const int error = compute_into(prepared, sink, diagnostics))
      diagnostics.add(Code::cannot_write, {options.output, system_reason(error)});
    good = !diagnostics.has_errors() && finish_tables(*tables, format, {sheet}, options.output, diagnostics);
  } else {
    const auto fill = [&](int descriptor) {
      FormatSink sink(format, sheet, writes_to(descriptor), options.output);
      return compute_into(prepared, sink, diagnostics);
    };
    good = files.write(options.output, fill, diagnostics);
  }
  if (good && !diagnostics.has_errors()) files.commit(diagnostics);
  return report(diagnostics, streams);
}

// Prints the sheet once it is computed; as CSV, while it is.
int print_sheet(PreparedStudy& prepared, TableForm form, Diagnostics& diagnostics, Streams& streams) {
  const RunSheet& run = *prepared.sheets.front();
  if (form == TableForm::csv) {
    const auto write = [&](std::string_view text) {
      streams.out << text;
      return 0;
    };
    const std::string beside = std::filesystem::temp_directory_path() / "opensum";
    const int error = write_rows(prepared, ',', write, beside, diagnostics);
    if (error != 0) diagnostics.add(Code::cannot_write, {beside, system_reason(error)});
    return report(diagnostics, streams);
  }
  compute_sheet(prepared, whole_table(run), diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  const std::size_t width = streams.out_is_terminal ? streams.width : SIZE_MAX;
  if (form == TableForm::json) {
    streams.out << json_text({run.model->name, &run.table(), false, derived_notes(prepared, run)});
  } else {
    streams.out << (form == TableForm::markdown ? table_of(run).markdown() : table_of(run).text(width));
  }
  return static_cast<int>(Exit::done);
}

// `a,b` as its names.
std::vector<std::string> split_names(const std::string& names) {
  std::vector<std::string> out;
  for (const std::string& name : split(names, ',')) out.emplace_back(trimmed(name));
  return out;
}

// `x = RULE`; several rules for one column are tried in order.
void add_fill(const std::string& argument, SheetModel& sheet, Diagnostics& diagnostics) {
  const std::size_t equals = argument.find('=');
  const std::string symbol(trimmed(std::string_view(argument).substr(0, equals)));
  if (equals == std::string::npos || symbol.empty()) {
    diagnostics.add(Code::option_value, {"--fill", "SYMBOL = RULE", argument});
    return;
  }
  const auto source = std::make_shared<const Source>("--fill", argument);
  Passage rule(source, equals + 1, argument.substr(equals + 1));
  for (FillModel& fill : sheet.fills) {
    if (fill.symbol.text() == symbol) return fill.rules.push_back(std::move(rule));
  }
  sheet.fills.push_back({Passage(source, argument.find(symbol), symbol), {std::move(rule)}});
}

std::optional<int> derive(const DeriveOptions& options, Rows rows, Streams& streams) {
  Diagnostics diagnostics;
  if (!options.output.empty() && format_of_path(options.output) == nullptr) {
    diagnostics.add(Code::unknown_format, {options.output});
  }
  const auto form = form_of(!options.format.empty()   ? options.format
                            : streams.out_is_terminal ? "table"
                                                      : "csv",
                            diagnostics);
  auto sheet = sheet_of(options.file, diagnostics);
  if (!sheet || diagnostics.has_errors()) return report(diagnostics, streams);
  for (const std::string& definition : options.definitions) {
    sheet->equations.push_back({Passage::whole("definition", definition), 0});
  }
  for (const std::string& fill : options.fills) add_fill(fill, *sheet, diagnostics);
  for (const std::string& names : options.show) {
    for (const std::string& name : split_names(names)) sheet->show.push_back(Passage::whole("--show", name));
  }
  for (const std::string& key : options.sort_by) sheet->sort_by.push_back(Passage::whole("--sort-by", key));
  if (!options.keep.empty()) sheet->keep = Passage::whole("--keep", options.keep);
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  Study study;
  study.sheets.push_back(std::move(*sheet));
  // What is printed while it is computed cannot be taken back.
  const bool prints_rows = options.output.empty() && form == TableForm::csv;
  const auto prepared =
      prepare(std::move(study), "", {}, diagnostics, prints_rows ? Rows::left_if_long : rows);
  if (diagnostics.has_errors()) {
    if (is_guess(*prepared)) return std::nullopt;
    return report(diagnostics, streams);
  }
  return options.output.empty() ? print_sheet(*prepared, *form, diagnostics, streams)
                                : write_file(options, *prepared, diagnostics, streams);
}

}  // namespace

void add_derive(CommandLine& command_line) {
  auto options = std::make_shared<DeriveOptions>();
  Command command = command_line.add(
      "derive", "add derived columns to a table, without a study",
      "  opensum derive opensum-demo/day1.csv 'rise [K] = Outlet_temperature_A - Inlet_temperature'\n"
      "  opensum derive opensum-demo/day1.csv 'pumping [W] = flow * dp' \\\n"
      "      --column 'flow=Coolant flow' --column 'dp=Pressure drop' --output pumping.csv");
  add_file_options(command, options->file);
  command.argument("DEFINITION", options->definitions, "NAME \"Label\" [UNIT] = EXPRESSION").needed();
  command
      .option("--fill", options->fills,
              "a rule for the nulls of a column, such as 'x = col_mean(self)'; repeated: tried in order")
      .one_value_each()
      .value("RULE");
  command.option("--keep", options->keep, "only rows for which this is true").value("CONDITION");
  command.option("--show", options->show, "only these columns, in this order, such as a,b")
      .one_value_each()
      .value("SYMBOLS");
  command
      .option("--sort-by", options->sort_by,
              "the order of the rows, such as 'x down'; repeated: among equals")
      .one_value_each()
      .value("SYMBOL");
  command
      .option("-o,--output", options->output,
              "write here instead of to the terminal (.csv, .tsv, .json, .ods, .xlsx, .sqlite)")
      .not_empty()
      .value("FILE");
  add_format_option(command, options->format);
  command.flag("--force", options->force, "replace an existing output file");
  command.runs([options](Streams& streams) {
    return with_first_look([&](Rows rows) { return derive(*options, rows, streams); });
  });
}

}  // namespace opensum
