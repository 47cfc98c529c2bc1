// The record of a run: what was read, how it was computed and what was written, so that it can be verified.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "report/summary.h"

namespace opensum {

/// The record of a run as JSON: program, study, settings, inputs and outputs with their SHA-256, policy,
/// counts.
std::string record_json(const RunFacts& facts);

/// The record of a whole run with a later run of a part of it noted; where `before` is no record, that of the
/// part alone.
std::string record_with_part(const std::string& before, const RunFacts& facts);

/// What is read back of a record.
struct Recorded {
  std::string version;
  std::string build;
  std::string study;         ///< its path, from the study's folder
  std::string study_folder;  ///< from where the record stands
  RunSettings settings;
  bool sampled = false;
  std::size_t trials = 0;
  std::uint64_t seed = 0;
  std::vector<StudyText> texts;
  std::vector<InputFacts> inputs;
  std::vector<InputFacts> outputs;
  /// By name: `sheet.column`, and the names of constants with their values.
  std::vector<std::pair<std::string, std::string>> equations;
  std::vector<std::pair<std::string, std::string>> constants;
  /// Later runs of a part: what was asked for, and what they wrote.
  struct Part {
    RunSettings settings;
    std::vector<InputFacts> outputs;
  };
  std::vector<Part> parts;
};

/// Reads a record; nothing for what is none.
std::optional<Recorded> read_record(const std::string& text);

/// With what the program was built: compiler and processor, on which last digits of functions may depend.
std::string build_text();

}  // namespace opensum
