// The record of a run as JSON.
#include "report/record.h"

#include <fmt/format.h>
#include <sys/utsname.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "table/number_text.h"
#include "version.h"

namespace opensum {
namespace {

using Json = nlohmann::ordered_json;

// Of what other programs may rely on (docs/reference/interface.md).
constexpr int kInterface = 1;

Json columns_json(const std::vector<ColumnFacts>& columns) {
  Json list = Json::array();
  for (const ColumnFacts& column : columns) {
    Json entry;
    entry["symbol"] = column.symbol;
    entry["kind"] = column.kind;
    if (column.kind == "number") entry["unit"] = column.unit;
    if (!column.equation.empty()) entry["equation"] = column.equation;
    entry["known"] = column.known;
    entry["nulls"] = Json::object();
    for (const auto& [reason, count] : column.nulls) entry["nulls"][reason] = count;
    list.push_back(std::move(entry));
  }
  return list;
}

Json links_json(const std::vector<LinkFacts>& links) {
  Json list = Json::array();
  for (const LinkFacts& link : links) {
    list.push_back({{"name", link.name},
                    {"sheet", link.sheet},
                    {"matched", link.matched},
                    {"unmatched", link.unmatched}});
  }
  return list;
}

Json fills_json(const std::vector<FillFacts>& fills) {
  Json list = Json::array();
  for (const FillFacts& fill : fills) {
    Json entry = {
        {"symbol", fill.symbol}, {"gaps", fill.gaps}, {"rules", Json::array()}, {"left", fill.left}};
    for (const auto& [rule, count] : fill.rules)
      entry["rules"].push_back({{"rule", rule}, {"filled", count}});
    list.push_back(std::move(entry));
  }
  return list;
}

Json claims_json(const std::vector<ClaimFacts>& claims) {
  Json list = Json::array();
  for (const ClaimFacts& claim : claims) {
    list.push_back({{"claim", claim.text},
                    {"condition", claim.condition},
                    {"true", claim.held},
                    {"false", claim.broken},
                    {"undecided", claim.undecided}});
  }
  return list;
}

Json fit_json(const FitFacts& fit) {
  const auto number = [](const std::optional<double>& value) { return value ? Json(*value) : Json(nullptr); };
  Json parameters = Json::array();
  for (std::size_t p = 0; p < fit.parameters.size(); ++p) {
    const FitFacts::Parameter& parameter = fit.parameters[p];
    Json& own = parameters.emplace_back();
    own = {{"name", parameter.name},
           {"value", number(parameter.value)},
           {"standard_error", parameter.value ? Json(parameter.standard_error) : Json(nullptr)},
           {"unit", parameter.unit}};
    if (!fit.guessed_start.empty()) own["guessed_start"] = fit.guessed_start[p];
  }
  return {{"name", fit.name},
          {"sheet", fit.sheet},
          {"group", fit.group},
          {"model", fit.model},
          {"x", fit.x},
          {"y", fit.y},
          {"points", fit.points},
          {"left_out", fit.left_out},
          {"degrees_of_freedom", fit.degrees_of_freedom},
          {"parameters", parameters},
          {"residual_sd", number(fit.residual_sd)},
          {"reduced_chi2", number(fit.reduced_chi2)},
          {"r2", number(fit.r2)},
          {"r", number(fit.r)}};
}

Json files_json(const std::vector<InputFacts>& files) {
  Json list = Json::array();
  for (const InputFacts& file : files)
    list.push_back({{"path", file.path}, {"bytes", file.bytes}, {"sha256", file.sha256}});
  return list;
}

Json texts_json(const std::vector<StudyText>& texts) {
  Json list = Json::array();
  for (const StudyText& text : texts) list.push_back({{"path", text.path}, {"text", text.text}});
  return list;
}

Json settings_json(const RunFacts& facts) {
  Json settings;
  settings["uncertainty"] = facts.sampling ? "monte-carlo" : "linear";
  if (facts.sampling) {
    settings["trials"] = facts.sampling->trials;
    settings["seed"] = facts.sampling->seed;
  }
  settings["constants"] = facts.settings.constants;
  settings["only"] = facts.settings.only;
  if (facts.settings.in_database) settings["in_database"] = true;
  return settings;
}

// Bytes that are no UTF-8 cannot be in JSON.
std::string json_text_of(const Json& record) {
  return record.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

}  // namespace

std::string build_text() {
  utsname machine{};
  const std::string processor = ::uname(&machine) == 0 ? machine.machine : "unknown";
#ifdef __clang__
  return fmt::format("clang {}.{}, {}", __clang_major__, __clang_minor__, processor);
#else
  return fmt::format("g++ {}.{}, {}", __GNUC__, __GNUC_MINOR__, processor);
#endif
}

std::string record_json(const RunFacts& facts) {
  Json record;
  record["program"] = "opensum";
  record["version"] = kVersion;
  record["build"] = build_text();
  record["interface"] = kInterface;
  record["title"] = facts.title;
  record["study_folder"] = facts.study_folder;
  record["study"] = texts_json(facts.texts);
  record["settings"] = settings_json(facts);
  record["inputs"] = files_json(facts.inputs);
  record["outputs"] = files_json(facts.outputs);
  if (!facts.computed_there.empty()) record["computed_there"] = facts.computed_there;
  if (!facts.tables.empty()) record["tables"] = facts.tables;
  record["nulls"] = {{"row", facts.policy.row_skips ? "skip" : "propagate"},
                     {"column", facts.policy.column_skips ? "skip" : "propagate"},
                     {"sequence", facts.policy.sequence_skips ? "skip" : "propagate"},
                     {"divide_by_zero", facts.policy.divide_by_zero_is_error ? "error" : "null"},
                     {"domain", facts.policy.domain_is_error ? "error" : "null"}};
  record["constants"] = Json::array();
  for (const ScopeConstant& constant : facts.constants) {
    Json entry = {{"name", constant.name}};
    if (constant.type.kind == Kind::text) {
      entry["value"] = constant.text;
    } else {
      entry["value"] = constant.number;
      entry["unit"] = constant.type.unit.text();
      if (constant.uncertainty() > 0) {
        const Unit unit = difference_unit(constant.type.unit);
        entry["uncertainty"] = conversion(step_unit(constant.type.unit), unit)(constant.uncertainty());
        entry["uncertainty_unit"] = unit.text();
      }
    }
    record["constants"].push_back(std::move(entry));
  }
  record["sheets"] = Json::array();
  for (const SheetFacts& sheet : facts.sheets) {
    record["sheets"].push_back({{"name", sheet.name},
                                {"file", sheet.file},
                                {"rows", sheet.rows},
                                {"rows_of", sheet.rows_of},
                                {"measured", columns_json(sheet.measured)},
                                {"taken", columns_json(sheet.taken)},
                                {"derived", columns_json(sheet.derived)},
                                {"without_unit", sheet.without_unit},
                                {"kept", sheet.selection},
                                {"links", links_json(sheet.links)},
                                {"fills", fills_json(sheet.fills)},
                                {"nulls_left_out", sheet.skipped},
                                {"uncertainties", sheet.uncertainties},
                                {"claims", claims_json(sheet.claims)}});
  }
  record["fits"] = Json::array();
  for (const FitFacts& fit : facts.fits) record["fits"].push_back(fit_json(fit));
  if (facts.sampling)
    record["sampling"] = {{"trials", facts.sampling->trials},
                          {"seed", facts.sampling->seed},
                          {"values", facts.sampling->values.size()},
                          {"differing", facts.sampling->differing()}};
  record["changes"] = facts.changes;
  record["notes"] = facts.notes;
  return json_text_of(record);
}

std::string record_with_part(const std::string& before, const RunFacts& facts) {
  Json record = Json::parse(before, nullptr, false);
  if (!read_record(before)) return record_json(facts);
  record["later"].push_back({{"settings", settings_json(facts)},
                             {"inputs", files_json(facts.inputs)},
                             {"outputs", files_json(facts.outputs)},
                             {"changes", facts.changes}});
  return json_text_of(record);
}

namespace {

std::string string_in(const Json& object, const char* key) {
  const auto found = object.find(key);
  return found != object.end() && found->is_string() ? found->get<std::string>() : "";
}

const Json& list_in(const Json& object, const char* key) {
  static const Json empty = Json::array();
  const auto found = object.find(key);
  return found != object.end() && found->is_array() ? *found : empty;
}

std::string with_blank(const std::string& unit) { return unit.empty() || unit == "1" ? "" : " " + unit; }

std::vector<std::string> strings_in(const Json& object, const char* key) {
  std::vector<std::string> strings;
  for (const Json& item : list_in(object, key)) {
    if (item.is_string()) strings.push_back(item.get<std::string>());
  }
  return strings;
}

std::uint64_t count_in(const Json& object, const char* key) {
  const auto found = object.find(key);
  return found != object.end() && found->is_number_unsigned() ? found->get<std::uint64_t>() : 0;
}

std::vector<InputFacts> files_in(const Json& object, const char* key) {
  std::vector<InputFacts> files;
  for (const Json& file : list_in(object, key)) {
    if (file.is_object())
      files.push_back({string_in(file, "path"), string_in(file, "sha256"), count_in(file, "bytes")});
  }
  return files;
}

RunSettings settings_in(const Json& object) {
  RunSettings settings;
  const auto found = object.find("settings");
  if (found == object.end()) return settings;
  settings.constants = strings_in(*found, "constants");
  settings.only = strings_in(*found, "only");
  settings.in_database = found->value("in_database", false);
  return settings;
}

}  // namespace

std::optional<Recorded> read_record(const std::string& text) {
  const Json record = Json::parse(text, nullptr, false);
  if (!record.is_object() || string_in(record, "program") != "opensum" || !record.contains("outputs"))
    return std::nullopt;
  Recorded out;
  out.version = string_in(record, "version");
  out.build = string_in(record, "build");
  out.study_folder = string_in(record, "study_folder");
  for (const Json& entry : list_in(record, "study")) {
    if (entry.is_object()) out.texts.push_back({string_in(entry, "path"), string_in(entry, "text")});
  }
  if (out.texts.empty()) return std::nullopt;
  out.study = out.texts.front().path;
  out.settings = settings_in(record);
  if (const auto settings = record.find("settings"); settings != record.end()) {
    out.sampled = string_in(*settings, "uncertainty") == "monte-carlo";
    out.trials = count_in(*settings, "trials");
    out.seed = count_in(*settings, "seed");
  }
  out.inputs = files_in(record, "inputs");
  out.outputs = files_in(record, "outputs");
  for (const Json& sheet : list_in(record, "sheets")) {
    for (const Json& column : list_in(sheet, "derived"))
      out.equations.emplace_back(string_in(sheet, "name") + "." + string_in(column, "symbol"),
                                 string_in(column, "equation"));
  }
  for (const Json& constant : list_in(record, "constants")) {
    const auto value = constant.find("value");
    std::string shown;
    if (value != constant.end() && value->is_number()) {
      shown = number_text(value->get<double>());
      shown += with_blank(string_in(constant, "unit"));
      const auto off = constant.find("uncertainty");
      if (off != constant.end() && off->is_number())
        shown +=
            " ± " + number_text(off->get<double>()) + with_blank(string_in(constant, "uncertainty_unit"));
    } else if (value != constant.end() && value->is_string()) {
      shown = value->get<std::string>();
    }
    out.constants.emplace_back(string_in(constant, "name"), shown);
  }
  for (const Json& part : list_in(record, "later"))
    out.parts.push_back({settings_in(part), files_in(part, "outputs")});
  return out;
}

}  // namespace opensum
