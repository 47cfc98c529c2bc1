// Whether a workbook that was just written is whole.
#include "files/xlsx_check.h"

#include <fmt/format.h>
#include <zip.h>

#include <algorithm>
#include <memory>
#include <optional>
#include <string_view>

namespace opensum {
namespace {

constexpr std::string_view kCell = "<c r=";

struct PartFacts {
  std::size_t cells = 0;
  bool closed = false;  ///< the last tag closes the first
};

// The name of the element that a part of XML begins with, after its declaration.
std::string root_of(std::string_view text) {
  std::size_t at = text.find('<');
  if (text.substr(at).starts_with("<?")) at = text.find('<', at + 1);
  if (at == std::string_view::npos) return {};
  const std::size_t end = text.find_first_of(" >", at);
  return std::string(text.substr(at + 1, end - at - 1));
}

std::optional<PartFacts> read_part(zip_file_t* part) {
  constexpr std::size_t kBlock = std::size_t{1} << 18U;
  constexpr std::size_t kOverlap = 64;  // more than a tag that may go on in the next block
  PartFacts facts;
  std::string root;
  std::string text;
  std::size_t kept = 0;
  while (true) {
    text.resize(kept + kBlock);
    const zip_int64_t got = zip_fread(part, text.data() + kept, kBlock);
    if (got < 0) return std::nullopt;
    text.resize(kept + static_cast<std::size_t>(got));
    if (got == 0) break;
    if (root.empty()) root = root_of(text);
    for (std::size_t at = text.find(kCell); at != std::string::npos; at = text.find(kCell, at + 1)) {
      if (at + kCell.size() > kept) ++facts.cells;
    }
    kept = std::min(text.size(), kOverlap);
    text.erase(0, text.size() - kept);
  }
  const std::size_t last = text.find_last_not_of('\n');
  facts.closed =
      last != std::string::npos && std::string_view(text).substr(0, last + 1).ends_with("</" + root + ">");
  return facts;
}

}  // namespace

std::string missing_of_xlsx(const std::string& path, const std::vector<std::size_t>& cells) {
  const std::unique_ptr<zip_t, void (*)(zip_t*)> zip(zip_open(path.c_str(), ZIP_RDONLY, nullptr),
                                                     zip_discard);
  if (!zip) return std::string("the workbook is not whole") + kFullFolder;
  const auto parts = static_cast<zip_uint64_t>(zip_get_num_entries(zip.get(), 0));
  for (zip_uint64_t number = 0; number < parts; ++number) {
    const std::string name = zip_get_name(zip.get(), number, 0);
    zip_file_t* part = zip_fopen_index(zip.get(), number, 0);
    const std::optional<PartFacts> facts = part == nullptr ? std::nullopt : read_part(part);
    if (part != nullptr) zip_fclose(part);
    bool whole = facts && facts->closed;
    for (std::size_t sheet = 0; whole && sheet < cells.size(); ++sheet) {
      if (name == fmt::format("xl/worksheets/sheet{}.xml", sheet + 1)) whole = facts->cells == cells[sheet];
    }
    if (!whole) return fmt::format("its part {} is not whole{}", name, kFullFolder);
  }
  return {};
}

}  // namespace opensum
