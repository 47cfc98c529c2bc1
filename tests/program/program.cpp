// Runs the built program.
#include "program/program.h"

#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <sstream>
#include <stdexcept>

#include "program/also_in_database.h"

namespace opensum {

std::string program_path() {
  const char* other = std::getenv("OPENSUM_PROGRAM");
  return other ? other : OPENSUM_PROGRAM;
}

Outcome run_program(const TempFolder& folder, const std::vector<std::string>& args, const std::string& input,
                    const std::string& output) {
  // Streams go through files, so that nothing can wait for a full pipe.
  const TempFolder streams;
  streams.write("in", input);
  const pid_t child = ::fork();
  if (child < 0) throw std::runtime_error("cannot start the program");
  if (child == 0) {
    const auto redirect = [&](const std::string& path, int flags, int target) {
      const int file = ::open(path.c_str(), flags, 0600);
      ::dup2(file, target);
    };
    redirect(streams.path("in"), O_RDONLY, STDIN_FILENO);
    redirect(output.empty() ? streams.path("out") : output, O_WRONLY | O_CREAT, STDOUT_FILENO);
    redirect(streams.path("err"), O_WRONLY | O_CREAT, STDERR_FILENO);
    if (::chdir(folder.path().c_str()) != 0) ::_exit(126);
    std::vector<char*> argv = {const_cast<char*>("opensum")};
    for (const std::string& arg : args) argv.push_back(const_cast<char*>(arg.c_str()));
    argv.push_back(nullptr);
    ::execv(program_path().c_str(), argv.data());
    ::_exit(127);
  }
  int status = 0;
  ::waitpid(child, &status, 0);
  Outcome outcome;
  outcome.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  if (output.empty()) outcome.out = streams.read("out");
  outcome.err = streams.read("err");
  if (outcome.code == 0 || outcome.code == 5) also_in_database(folder, args);
  return outcome;
}

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> lines;
  std::istringstream stream(text);
  for (std::string line; std::getline(stream, line);) lines.push_back(line);
  return lines;
}

}  // namespace opensum
