// Metadata beside a table of text (CSV on the Web).
#include <filesystem>
#include <fstream>

#include "bytes.h"
#include "files/csv_reader.h"
#include "files/csvw_reader.h"

using namespace opensum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  static const std::string kFolder =
      std::filesystem::temp_directory_path() / ("opensum-fuzz-" + std::to_string(::getpid()));
  std::filesystem::create_directories(kFolder);
  const std::string path = kFolder + "/t.csv";
  std::ofstream(path + "-metadata.json", std::ios::binary) << text_of(bytes, size);
  Diagnostics diagnostics;
  Inputs inputs;
  const auto metadata = read_metadata(path, inputs, diagnostics);
  require_visible(diagnostics);
  if (!metadata) return 0;
  auto table = read_csv(file_of("a,b\n1,2\n3,4\n"), {}, diagnostics);
  if (table) apply_metadata(*metadata, *table);
  return 0;
}
