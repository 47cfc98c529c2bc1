// The record of a run as JSON.
#include <nlohmann/json.hpp>

#include "report/summary.h"
#include "version.h"

namespace opensum {
namespace {

using Json = nlohmann::ordered_json;

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

}  // namespace

std::string record_json(const RunFacts& facts) {
  Json record;
  record["program"] = "opensum";
  record["version"] = kVersion;
  record["title"] = facts.title;
  record["inputs"] = Json::array();
  for (const InputFacts& input : facts.inputs) {
    record["inputs"].push_back({{"path", input.path}, {"sha256", input.sha256}});
  }
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
  record["notes"] = facts.notes;
  record["written"] = facts.written;
  return record.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

}  // namespace opensum
