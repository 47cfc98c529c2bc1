// Reading a plot of a study from its TOML table.
#pragma once

#include <optional>

#include "base/result.h"
#include "files/toml_text.h"
#include "message/diagnostic.h"
#include "model/plot_model.h"

namespace opensum {

/// The plot that an entry of `[plot]` describes; nothing after a reported error that leaves none.
Result<PlotModel> read_plot(const TomlText::Entry& entry, const TomlText& toml, Diagnostics& diagnostics);

}  // namespace opensum
