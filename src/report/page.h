// The report page: everything that a run says, on one page that needs nothing else.
#pragma once

#include <string>

#include "report/content.h"

namespace opensum {

/// The page as HTML. It runs no script and loads nothing; with `reload` it asks the browser to load it again
/// every so many seconds.
std::string page_html(const ReportContent& content, int reload = 0);

}  // namespace opensum
