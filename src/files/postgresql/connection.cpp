// A connection to a server that speaks PostgreSQL's protocol, by its own library: a module of its own, which
// is loaded where an address asks for it.
#include <libpq-fe.h>

#include <algorithm>

#include "files/database.h"

namespace opensum {
namespace {

struct EndResult {
  void operator()(PGresult* result) const { PQclear(result); }
};
using QueryResult = std::unique_ptr<PGresult, EndResult>;

// The first line of a message, without the word for how bad it is.
std::string first_line(const char* message) {
  std::string text(message == nullptr ? "" : message);
  text.resize(std::min(text.find('\n'), text.size()));
  for (const std::string_view word : {"ERROR:", "FATAL:"}) {
    const std::size_t at = text.find(word);
    if (at == std::string::npos) continue;
    text.erase(at, text.find_first_not_of(' ', at + word.size()) - at);
  }
  return text;
}

class PostgresqlConnection final : public DatabaseConnection {
 public:
  explicit PostgresqlConnection(PGconn* connection) : connection_(connection) {
    // Remarks of the server are no business of standard error.
    PQsetNoticeProcessor(
        connection_, [](void*, const char*) {}, nullptr);
  }
  ~PostgresqlConnection() override { PQfinish(connection_); }

  bool run(const std::string& sql, const std::vector<std::string>& values) override {
    const QueryResult result = carry_out(sql, values);
    const ExecStatusType status = PQresultStatus(result.get());
    return status == PGRES_COMMAND_OK || status == PGRES_TUPLES_OK || failed(result.get());
  }

  bool ask(const std::string& sql, const std::vector<std::string>& values, QueryRows& rows) override {
    const QueryResult result = carry_out(sql, values);
    if (PQresultStatus(result.get()) != PGRES_TUPLES_OK) return failed(result.get());
    for (int row = 0; row < PQntuples(result.get()); ++row) {
      auto& cells = rows.emplace_back();
      for (int column = 0; column < PQnfields(result.get()); ++column) {
        auto& cell = cells.emplace_back();
        if (PQgetisnull(result.get(), row, column) != 0) continue;
        cell = std::string(PQgetvalue(result.get(), row, column),
                           static_cast<std::size_t>(PQgetlength(result.get(), row, column)));
      }
    }
    return true;
  }

  bool describe(const std::string& sql, std::vector<QueryColumn>& columns) override {
    const QueryResult prepared(PQprepare(connection_, "", sql.c_str(), 0, nullptr));
    if (PQresultStatus(prepared.get()) != PGRES_COMMAND_OK) return failed(prepared.get());
    const QueryResult result(PQdescribePrepared(connection_, ""));
    if (PQresultStatus(result.get()) != PGRES_COMMAND_OK) return failed(result.get());
    for (int i = 0; i < PQnfields(result.get()); ++i) {
      columns.push_back({PQfname(result.get(), i), PQftype(result.get(), i), PQftable(result.get(), i),
                         PQftablecol(result.get(), i)});
    }
    return true;
  }

  bool copy_out(const std::string& sql, const std::function<bool(std::string_view)>& take) override {
    const QueryResult begun = carry_out(sql, {});
    if (PQresultStatus(begun.get()) != PGRES_COPY_OUT) return failed(begun.get());
    bool wanted = true;
    char* line = nullptr;
    int length = 0;
    while ((length = PQgetCopyData(connection_, &line, 0)) > 0) {
      std::string_view text(line, static_cast<std::size_t>(length));
      if (text.ends_with('\n')) text.remove_suffix(1);
      wanted = wanted && take(text);
      PQfreemem(line);
    }
    if (length == -2) return failed(nullptr);
    return ended();
  }

  bool begin_copy_in(const std::string& sql) override {
    const QueryResult begun = carry_out(sql, {});
    return PQresultStatus(begun.get()) == PGRES_COPY_IN || failed(begun.get());
  }

  bool put(std::string_view text) override {
    while (!text.empty()) {
      const std::string_view piece = text.substr(0, kPiece);
      if (PQputCopyData(connection_, piece.data(), static_cast<int>(piece.size())) != 1)
        return failed(nullptr);
      text.remove_prefix(piece.size());
    }
    return true;
  }

  bool end_copy_in() override {
    if (PQputCopyEnd(connection_, nullptr) != 1) return failed(nullptr);
    return ended();
  }

  const std::string& fault() const override { return fault_; }
  const std::string& state() const override { return state_; }

 private:
  // What is handed over at a time: the library counts bytes by `int`.
  static constexpr std::size_t kPiece = std::size_t{1} << 20U;

  // By the protocol that takes a single command at a time.
  QueryResult carry_out(const std::string& sql, const std::vector<std::string>& values) {
    std::vector<const char*> pointers;
    pointers.reserve(values.size());
    for (const std::string& value : values) pointers.push_back(value.c_str());
    return QueryResult(PQexecParams(connection_, sql.c_str(), static_cast<int>(values.size()), nullptr,
                                    pointers.data(), nullptr, nullptr, 0));
  }

  // What is left to be said after a COPY.
  bool ended() {
    bool good = true;
    for (QueryResult result(PQgetResult(connection_)); result; result.reset(PQgetResult(connection_))) {
      if (PQresultStatus(result.get()) != PGRES_COMMAND_OK) good = failed(result.get());
    }
    return good;
  }

  bool failed(const PGresult* result) {
    fault_ = first_line(result == nullptr ? PQerrorMessage(connection_) : PQresultErrorMessage(result));
    if (fault_.empty()) fault_ = first_line(PQerrorMessage(connection_));
    const char* const state = result == nullptr ? nullptr : PQresultErrorField(result, PG_DIAG_SQLSTATE);
    state_ = state == nullptr ? "" : state;
    return false;
  }

  PGconn* connection_;
  std::string fault_;
  std::string state_;
};

}  // namespace
}  // namespace opensum

// The way in, as the program finds it by its name.
extern "C" __attribute__((visibility("default"))) opensum::DatabaseConnection* opensum_connect(
    const char* server, std::string* fault) {
  const char* const keywords[] = {"dbname", "client_encoding", "application_name", nullptr};
  const char* const values[] = {server, "UTF8", "opensum", nullptr};
  PGconn* const connection = PQconnectdbParams(keywords, values, 1);
  if (PQstatus(connection) == CONNECTION_OK) return new opensum::PostgresqlConnection(connection);
  *fault = opensum::first_line(PQerrorMessage(connection));
  PQfinish(connection);
  return nullptr;
}
