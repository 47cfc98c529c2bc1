// Studies on small tables: read, planned and run.
#include <filesystem>
#include <fstream>

#include "bytes.h"
#include "results/written_sheets.h"
#include "run/compute.h"
#include "run/prepare.h"

using namespace opensum;

namespace {

// A folder with a study and the tables that it may name.
const std::string& folder() {
  static const std::string kFolder =
      [] {
        const std::filesystem::path made =
            std::filesystem::temp_directory_path() / ("opensum-fuzz-" + std::to_string(::getpid()));
        std::filesystem::create_directories(made);
        std::ofstream(made / "t.csv")
            << "t [s],x [m],T [degC],name,day\n1,2,20,a,2031-01-01\n2,,21,b,2031-01-02\n"
               "3,7,,a,2031-01-03\n4,9.5,23,c,\n";
        std::ofstream(made / "w.csv")
            << "T [degC],cp [kJ/(kg K)],u(T) [K]\n0,4.21,0.1\n20,4.18,0.1\n40,4.179,0.2\n";
        return made.string();
      }();
  return kFolder;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  const std::string path = folder() + "/study.toml";
  std::ofstream(path, std::ios::binary) << text_of(bytes, size);
  Diagnostics diagnostics;
  const auto prepared = prepare_study_file(path, diagnostics);
  if (prepared && !diagnostics.has_errors()) {
    std::size_t rows = 0;
    for (const auto& sheet : prepared->sheets) rows += sheet->table().rows;
    constexpr std::size_t kMostRows = 2000;
    if (rows < kMostRows) {
      std::vector<LastWishes> wishes;
      for (const auto& sheet : prepared->sheets) wishes.emplace_back().held = all_written(*sheet);
      compute(*prepared, wishes, diagnostics);
      report_claims(*prepared, diagnostics);
    }
  }
  require_visible(diagnostics);
  require(prepared != nullptr || diagnostics.has_errors(), "what is not read is said");
  return 0;
}
