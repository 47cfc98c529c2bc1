// Command lines, one word a line, in a folder with a study and a table.
#include <fcntl.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <vector>

#include "bytes.h"

/// The program's own main, by another name.
int opensum_main(int argc, char** argv);

using namespace opensum;

namespace {

void enter_folder() {
  const std::filesystem::path made =
      std::filesystem::temp_directory_path() / ("opensum-fuzz-" + std::to_string(::getpid()));
  std::filesystem::create_directories(made);
  std::filesystem::current_path(made);
  std::ofstream("t.csv") << "t [s],x [m],name\n1,2,a\n2,,b\n3,7,a\n";
  std::ofstream("study.toml") << "[sheet.run]\ndata = 't.csv'\nequations = 'v = x / t'\n";
  const int nowhere = ::open("/dev/null", O_RDWR);
  ::dup2(nowhere, STDIN_FILENO);
  ::dup2(nowhere, STDOUT_FILENO);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  static const bool kEntered = (enter_folder(), true);
  (void)kEntered;
  std::vector<std::string> words = {"opensum"};
  std::string text = text_of(bytes, size);
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    words.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  std::vector<char*> argv;
  for (std::string& word : words) {
    // Nothing outside of the folder is read or written.
    const bool leaves = word.find('/') != std::string::npos || word.find('\0') != std::string::npos;
    // Watching has no end.
    if (leaves || word == "demo" || word == "watch") return 0;
    argv.push_back(word.data());
  }
  const int count = static_cast<int>(argv.size());
  argv.push_back(nullptr);
  const int code = opensum_main(count, argv.data());
  require(code >= 0 && code <= 5 && code != 1,
          "a command ends with a documented code, not " + std::to_string(code));
  return 0;
}
