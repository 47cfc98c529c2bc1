// The report page: everything that a run says, on one page that needs nothing else.
#pragma once

#include <string>

#include "report/content.h"

namespace opensum {

/// The page as HTML. It runs no script and loads nothing.
std::string page_html(const ReportContent& content);

}  // namespace opensum
