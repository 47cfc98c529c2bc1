// Reading metadata beside a table of text (W3C CSV on the Web).
#pragma once

#include "base/result.h"
#include "files/text_file.h"
#include "message/diagnostic.h"
#include "model/study.h"
#include "table/raw_table.h"

namespace opensum {

/// What metadata say of a file as a whole and of its columns.
struct CsvMetadata {
  struct Described {
    std::vector<std::string> titles;  ///< the header may be any of these
    ColumnMetadata column;
  };
  std::optional<char> delimiter;
  std::vector<Described> columns;
};

/// The metadata in `FILE-metadata.json`, if it is there; what cannot be read is warned about and left aside.
Result<CsvMetadata> read_metadata(const std::string& path, Inputs& inputs, Diagnostics& diagnostics);

/// Gives the columns of a table what the metadata say of them: by header, or by place where none has a title.
void apply_metadata(const CsvMetadata& metadata, RawTable& table);

}  // namespace opensum
