// First step of a run: read the study and its tables, and check everything that can be known without
// computing.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "engine/study_run.h"
#include "files/csv_reader.h"
#include "files/text_file.h"
#include "message/diagnostic.h"

namespace opensum {

/// A study with its files.
struct PreparedStudy : StudyRun {
  std::string folder;  ///< of the study, with its last slash; empty for the current one
  std::string output;  ///< folder for everything written
  Inputs inputs;
};

/// What the equations of a sheet see of the others once everything is planned.
class PlannedOthers : public OtherSheets {
 public:
  PlannedOthers(const StudyRun& run, const RunSheet& sheet) : prepared_(run), sheet_(sheet) {}
  int linked(const Node& member, const Passage& passage, Diagnostics& diagnostics) override;
  std::optional<OtherScope> scope_of(const std::string& sheet) const override;
  bool has_link(const std::string& name) const override;
  std::optional<OtherScope> grouped() const override;
  FitView fit(const std::string& name, const std::string& sheet) const override;

 private:
  const StudyRun& prepared_;
  const RunSheet& sheet_;
};

/// Reads a study file and prepares it; null when it cannot be read at all. Everything wrong is reported.
std::unique_ptr<PreparedStudy> prepare_study_file(const std::string& path, Diagnostics& diagnostics,
                                                  Rows rows = Rows::read);

/// Prepares a study that was put together in memory.
std::unique_ptr<PreparedStudy> prepare(Study study, std::string folder, Inputs inputs,
                                       Diagnostics& diagnostics, Rows rows = Rows::read);

/// Whether some sheet was only looked at in part: what seems wrong may be right, and the other way round.
bool is_guess(const PreparedStudy& prepared);

/// Does work that begins with a look at the first rows of long files only. Where it gives nothing, as
/// something seemed wrong, or later rows are not what the first ones were taken for, it is done once more
/// with a look at all rows. Gives what the work gives.
int with_first_look(const std::function<std::optional<int>(Rows)>& work);

}  // namespace opensum
