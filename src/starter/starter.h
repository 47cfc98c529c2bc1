// A study to begin with, made from tables as they were read.
#pragma once

#include <string>

#include "study/prepared_study.h"

namespace opensum {

/// The text of a study for the sheets prepared: their files (paths relative to `folder`), how they are read,
/// their columns with what was found of them, doubts as comments, and lines ready to be uncommented. It runs
/// as it stands.
std::string starter_study(const PreparedStudy& prepared, const std::string& folder);

}  // namespace opensum
