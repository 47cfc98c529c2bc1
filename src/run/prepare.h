// First step of a run: read the study and its tables, and check everything that can be known without
// computing.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "files/csv_reader.h"
#include "message/diagnostic.h"
#include "model/study_changes.h"
#include "study/prepared_study.h"

namespace opensum {

/// Reads a study file and prepares it; null when it cannot be read at all. Everything wrong is reported.
[[nodiscard]] std::unique_ptr<PreparedStudy> prepare_study_file(const std::string& path,
                                                                Diagnostics& diagnostics,
                                                                Rows rows = Rows::read,
                                                                std::optional<Trial> trial = std::nullopt,
                                                                const StudyChanges& changes = {});

/// Prepares a study that was put together in memory.
[[nodiscard]] std::unique_ptr<PreparedStudy> prepare(Study study, std::string folder, Inputs inputs,
                                                     Diagnostics& diagnostics, Rows rows = Rows::read,
                                                     std::optional<Trial> trial = std::nullopt,
                                                     InDatabase in_database = InDatabase::never);

/// Whether some sheet was only looked at in part: what seems wrong may be right, and the other way round.
bool is_guess(const PreparedStudy& prepared);

/// Does work that begins with a look at the first rows of long files only. Where it gives nothing, as
/// something seemed wrong, or later rows are not what the first ones were taken for, it is done once more
/// with a look at all rows. Gives what the work gives.
int with_first_look(const std::function<std::optional<int>(Rows)>& work);

}  // namespace opensum
