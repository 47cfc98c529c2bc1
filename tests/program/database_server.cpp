// A real PostgreSQL server of the system's packages.
#include "program/database_server.h"

#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <iterator>
#include <stdexcept>

namespace opensum {
namespace {

// A server does not run as root.
std::string as_user(const std::string& command) {
  return ::geteuid() == 0 ? "runuser -u postgres -- " + command : command;
}

std::string output_of(const std::string& command) {
  std::FILE* const pipe = ::popen(command.c_str(), "r");
  if (pipe == nullptr) throw std::runtime_error("no pipe");
  std::string text;
  std::array<char, 4096> buffer{};
  while (const std::size_t got = std::fread(buffer.data(), 1, buffer.size(), pipe))
    text.append(buffer.data(), got);
  if (::pclose(pipe) != 0) throw std::runtime_error(command + ": " + text);
  return text;
}

}  // namespace

std::string newest_server_programs() {
  std::string newest;
  std::error_code error;
  for (const auto& version : std::filesystem::directory_iterator("/usr/lib/postgresql", error)) {
    const std::string programs = version.path().string() + "/bin";
    if (std::filesystem::exists(programs + "/initdb", error)) newest = std::max(newest, programs);
  }
  return newest;
}

std::unique_ptr<DatabaseServer> DatabaseServer::start() {
  const std::string programs = newest_server_programs();
  if (programs.empty()) {
    std::cout << "no PostgreSQL server is installed\n";
    return nullptr;
  }
  std::string folder = "/tmp/opensum-server-XXXXXX";
  if (::mkdtemp(folder.data()) == nullptr) throw std::runtime_error("no folder for a server");
  if (::geteuid() == 0) output_of("chown postgres " + folder);
  const std::string data = folder + "/data";
  output_of(as_user(
      fmt::format("{}/initdb -D {} -U lab -A trust --no-sync --encoding=UTF8 --locale=C 2>&1 >/dev/null",
                  programs, data)));
  // One user has a password.
  output_of(as_user(fmt::format("sed -i '1i local all locked scram-sha-256' {}/pg_hba.conf", data)));
  output_of(
      as_user(fmt::format("{}/pg_ctl -D {} -w -l {}/log -o \"-k {} -c listen_addresses='' -c fsync=off -c "
                          "shared_buffers=16MB\" start >/dev/null",
                          programs, data, folder, folder)));
  auto server = std::make_unique<DatabaseServer>(folder, programs);
  server->sql(
      "CREATE USER locked PASSWORD 'open'; CREATE USER guest; CREATE SCHEMA bench; CREATE SCHEMA \"Old "
      "data\"");
  return server;
}

DatabaseServer::~DatabaseServer() {
  try {
    output_of(as_user(fmt::format("{}/pg_ctl -D {}/data -m immediate stop >/dev/null", programs_, folder_)));
  } catch (const std::exception& fault) {
    std::cout << fault.what() << '\n';
  }
  std::error_code error;
  std::filesystem::remove_all(folder_, error);
}

std::string DatabaseServer::sql(const std::string& text) const {
  const std::string path = fmt::format("{}/commands-{}.sql", folder_, ::getpid());
  std::ofstream(path) << text;
  return output_of(fmt::format("{}/psql -qAtX -v ON_ERROR_STOP=1 -h {} -U lab -d postgres -f {} 2>&1",
                               programs_, folder_, path));
}

std::string DatabaseServer::log() const {
  std::ifstream file(folder_ + "/log");
  return {std::istreambuf_iterator<char>(file), {}};
}

std::string DatabaseServer::address(const std::string& table, const std::string& user) const {
  return fmt::format("postgresql://{}@/postgres?host={}#{}", user, folder_, table);
}

}  // namespace opensum
