// The sheets of a study as SQL: each a query over those that it needs, with the reasons of nulls beside
// values in columns of their own.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "engine/study_run.h"
#include "sql/aggregate.h"
#include "sql/expression.h"
#include "table/sql_source.h"

namespace opensum {

/// A column of a sheet as a query has it.
struct SqlColumn {
  SqlValue value;       ///< by the names of columns
  std::string as_read;  ///< the column with the text as it was read; empty for computed ones
};

/// What is counted over the rows of a sheet.
struct SqlCount {
  enum class What : std::uint8_t { left_out, left_out_rows, known, met };
  What what{};
  std::string column;    ///< symbol of the derived column
  std::string function;  ///< of a reduction down the column
  std::string sum;       ///< an expression by row of the sheet, which is summed up
  bool once = false;     ///< the same in all rows
};

/// How many gaps a rule of a fill closed.
struct SqlFill {
  std::size_t fill = 0;
  std::string gaps;
  std::vector<std::string> closed;  ///< conditions by rule
  std::string rule;  ///< the column that says which rule gave the value, -1 where it was measured, their
                     ///< number for none
  std::string left;  ///< why the last one gave none; empty where it always does
};

/// A sheet as a query.
struct SqlSheet {
  std::string name;                          ///< of the query, quoted
  std::map<std::size_t, SqlColumn> columns;  ///< by index in the table
  std::string
      place;  ///< the column that says where a row stands among those of the source; empty where none does
  double rows = 0;  ///< at most
  std::vector<SqlCount> counts;
  std::vector<SqlFill> fills;
  std::vector<SqlValue> claims;
  std::map<std::size_t, std::string> links;  ///< by link: whether a row is matched
  std::string order_by;                      ///< of the rows as they are written
  /// The query whose rows `keep` chooses among, and its condition; empty without one.
  std::string kept_from;
  std::string kept_where;
  /// The table in parts on several servers that it has a row for each row of, which needs no other; else
  /// null.
  const SqlSource* in_parts = nullptr;
};

/// What is counted over all rows of a query.
struct SqlTotal {
  std::string sql;
  const char* of_parts = "sum";  ///< the function that makes one of the totals of several parts
  std::string in_value = "{}";   ///< a format that makes of it what is asked for
};

/// What is known of the numbers of a measured column.
struct SqlKnown {
  Bounds bounds;
  bool may_be_null = true;
  /// Values are what they are as they stand: no NaN among numbers, no words for missing and nothing but
  /// normal form among texts.
  bool plain = true;
};

class SqlStudy {
 public:
  explicit SqlStudy(const StudyRun& run) : run_(run) {}

  /// What is known of the columns of a sheet whose rows are in the database, by index; without it what is
  /// usual.
  void know(std::size_t sheet, double rows, std::map<std::size_t, SqlKnown> columns);
  /// A query that finds it out: the number of rows, and of each column how many values are known, of numbers
  /// and dates the least, the greatest, the nearest to zero how many are infinite, and how many are not what
  /// they are as they stand.
  struct BoundsQuery {
    std::string sql;
    std::vector<std::size_t> columns;
  };
  BoundsQuery bounds_query(std::size_t sheet) const;
  /// A query for totals over the rows of one of the queries of a sheet. Of a table in parts each server is
  /// asked for its part.
  std::string totals(const SqlSheet& sheet, const std::string& query,
                     const std::vector<SqlTotal>& totals) const;
  static constexpr std::size_t kBoundsPerColumn = 6;

  /// A sheet, after those that it needs. Throws NotInSql.
  const SqlSheet& sheet(std::size_t number);
  /// `WITH …`: all queries so far. With `remarks` each column has its equation beside it.
  std::string with(bool remarks = false) const;
  /// Links by equal keys, whose rows there must be unique by these: the sheets and their numbers.
  struct UniqueKeys {
    std::size_t sheet = 0;
    std::size_t link = 0;
  };
  const std::vector<UniqueKeys>& unique_keys() const { return unique_keys_; }
  /// A query that gives how many keys there are repeated.
  std::string repeated_keys_query(const UniqueKeys& keys);

 private:
  struct Query {
    std::string name;
    std::string sql;
    bool kept = false;  ///< computed once where it is used several times
    std::vector<std::string> remarks;
    std::string table;  ///< that it begins with, where it does
  };
  class Builder;

  std::string with_part(const std::string& last, const std::string& table, const std::string& part) const;
  static std::string named(const Query& query, const std::string& table);
  std::string in_words_of_server(const std::string& sql) const;

  const StudyRun& run_;
  std::map<std::size_t, SqlSheet> sheets_;
  std::map<std::size_t, double> rows_;
  std::map<std::size_t, std::map<std::size_t, SqlKnown>> known_;
  std::vector<Query> queries_;
  std::vector<std::string> names_;
  std::vector<UniqueKeys> unique_keys_;
};

}  // namespace opensum
