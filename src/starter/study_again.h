// A study of earlier results, made ready for other data.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "message/diagnostic.h"
#include "report/record.h"

namespace opensum {

/// What is written for a study made from another.
struct StudyAgain {
  std::string text;
  /// Files that it uses and that are no longer where they were, to be written beside it: names and contents.
  std::vector<StudyText> used;
};

/// The study of a record, word by word, but for its paths: a sheet named in `files` reads that file, all
/// others and what it uses are where they were, seen from `folder`. A lone file with an empty name is for the
/// only sheet that reads one. What does not fit is reported.
StudyAgain study_again(const Recorded& record, const std::string& results,
                       const std::map<std::string, std::string>& files, const std::string& folder,
                       Diagnostics& diagnostics);

}  // namespace opensum
