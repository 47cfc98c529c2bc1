// What verifying results came to.
#include "report/verification.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "report/folded.h"

namespace opensum {
namespace {

// Of the lines that follow a first one.
constexpr std::size_t kIndent = 13;

void append_files(std::string& out, const char* what, const FilesVerified& files) {
  std::string line = fmt::format("{} {} unchanged", what, files.unchanged);
  if (!files.changed.empty()) line += fmt::format("; changed since: {}", fmt::join(files.changed, ", "));
  if (!files.missing.empty()) line += fmt::format("; missing: {}", fmt::join(files.missing, ", "));
  out += folded(line, kIndent);
}

nlohmann::ordered_json files_json(const FilesVerified& files) {
  return {{"unchanged", files.unchanged}, {"changed", files.changed}, {"missing", files.missing}};
}

}  // namespace

std::string verification_text(const Verification& v) {
  std::string out = folded(fmt::format("{}: computed by {} from {}", v.results, v.computed_by, v.study), 2);
  if (v.computed_by != v.verified_by) out += fmt::format("verified by  {}\n", v.verified_by);
  append_files(out, "inputs      ", v.inputs);
  append_files(out, "outputs     ", v.outputs);
  if (!v.not_computed.empty()) return out + "not computed again: " + v.not_computed + '\n';
  std::string line = fmt::format("again        {} of {} files came out the same", v.reproduced,
                                 v.reproduced + v.differing.size());
  if (!v.differing.empty()) line += fmt::format("; otherwise: {}", fmt::join(v.differing, ", "));
  out += folded(line, kIndent);
  if (!v.differing.empty()) out += '\n' + comparison_text(v.comparison);
  return out;
}

std::string verification_json(const Verification& v) {
  nlohmann::ordered_json out;
  out["results"] = v.results;
  out["study"] = v.study;
  out["computed_by"] = v.computed_by;
  out["verified_by"] = v.verified_by;
  out["good"] = v.good();
  out["inputs"] = files_json(v.inputs);
  out["outputs"] = files_json(v.outputs);
  if (!v.not_computed.empty()) out["not_computed"] = v.not_computed;
  out["reproduced"] = v.reproduced;
  out["differing"] = v.differing;
  if (!v.differing.empty()) out["comparison"] = nlohmann::ordered_json::parse(comparison_json(v.comparison));
  return out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

}  // namespace opensum
