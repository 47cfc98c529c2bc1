// A paragraph for the methods section of a paper, in plain words or as LaTeX.
#pragma once

#include <string>

#include "report/content.h"

namespace opensum {

/// What was measured, how each quantity followed, where values were looked up, how gaps were treated and what
/// was fitted, in sentences. Equations are named by their numbers on the page.
std::string methods_text(const ReportContent& content);

/// The same as a part of a LaTeX document, with the equations and a table of the fits. Needs the packages
/// amsmath, booktabs and siunitx.
std::string methods_tex(const ReportContent& content);

}  // namespace opensum
