// opensum compare: what two tables, or two folders of results, have unlike.
#include <filesystem>
#include <memory>

#include "again/compare_results.h"
#include "base/result.h"
#include "cli/command.h"
#include "cli/file_options.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

struct CompareOptions {
  std::string before;
  std::string after;
  FileOptions reading;
  std::vector<std::string> by;
  std::string within;
  std::string format = "table";
};

Result<CompareHow> how_of(const CompareOptions& options, Diagnostics& diagnostics) {
  CompareHow how;
  for (const std::string& symbol : options.by) how.by.push_back(Passage::whole("--by", symbol));
  if (options.within.empty()) return how;
  how.within = read_quantity(options.within, UnitSystem());
  if (how.within && how.within->value >= 0) return how;
  diagnostics.add(Code::option_value,
                  {"--within", "a share such as 1e-9, or a quantity such as '0.1 K'", options.within});
  return std::nullopt;
}

std::unique_ptr<PreparedStudy> table_at(const std::string& path, const FileOptions& reading,
                                        Diagnostics& diagnostics) {
  FileOptions options = reading;
  options.file = path;
  auto sheet = sheet_of(options, diagnostics);
  return sheet ? held_table(std::move(*sheet), diagnostics) : nullptr;
}

Result<Comparison> compare_files(const CompareOptions& options, const CompareHow& how,
                                 Diagnostics& diagnostics) {
  const auto before = table_at(options.before, options.reading, diagnostics);
  const auto after = before ? table_at(options.after, options.reading, diagnostics) : nullptr;
  if (!after) return std::nullopt;
  const auto table = compare_tables(options.after, *before, *after, how, diagnostics);
  if (!table) return std::nullopt;
  Comparison comparison;
  comparison.before = options.before;
  comparison.after = options.after;
  comparison.tables.push_back(*table);
  return comparison;
}

int compare(const CompareOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  if (options.format != "table" && options.format != "json")
    diagnostics.add(Code::option_value, {"--format", "table or json", options.format});
  const auto how = how_of(options, diagnostics);
  const bool from_folder = std::filesystem::is_directory(options.before);
  if (from_folder != std::filesystem::is_directory(options.after))
    diagnostics.add(Code::compare_unlike, {from_folder ? options.before : options.after,
                                           from_folder ? options.after : options.before});
  if (!how || diagnostics.has_errors()) return report(diagnostics, streams);
  const auto comparison = from_folder ? compare_results(options.before, options.after, *how, diagnostics)
                                      : compare_files(options, *how, diagnostics);
  if (const int code = report(diagnostics, streams); code != 0 || !comparison) return code;
  streams.out << (options.format == "json" ? comparison_json(*comparison) : comparison_text(*comparison));
  return static_cast<int>(comparison->same() ? Exit::done : Exit::different);
}

}  // namespace

void add_compare(CommandLine& command_line) {
  auto options = std::make_shared<CompareOptions>();
  Command command =
      command_line.add("compare", "show what two tables, or two folders of results, have unlike",
                       "  opensum compare opensum-demo/day1.csv opensum-demo/day2.csv\n"
                       "  opensum compare opensum-demo/results opensum-demo/results --within 1e-9");
  command.argument("A", options->before, "a table, or a folder of results").needed().not_empty();
  command.argument("B", options->after, "another one").needed().not_empty();
  command
      .option("--by", options->by,
              "rows with the same value of this column belong together; repeated: of these columns; "
              "without it rows at the same place do")
      .comma_separated()
      .one_value_each()
      .value("SYMBOL");
  command
      .option("--within", options->within,
              "numbers no further apart are the same: a share such as 1e-9 of the greater one, or a "
              "quantity such as '0.1 K' for the columns of its dimension")
      .value("HOW_FAR");
  command.option("--format", options->format, "print as table or json").value("FORM");
  add_read_options(command, options->reading);
  command.runs([options](Streams& streams) { return compare(*options, streams); });
}

}  // namespace opensum
