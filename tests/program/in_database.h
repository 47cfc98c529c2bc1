// Runs studies here and in a database, and compares all that comes of them.
#pragma once

#include <gtest/gtest.h>

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "program/database_server.h"
#include "program/program.h"

namespace opensum {

/// SQL that makes the table `sweep`, with nulls, zeros, numbers of all sizes, dates, truths and texts, and
/// `prop`, which is linked to.
extern const char* const kSweepTables;

class InDatabase : public ::testing::Test {
 protected:
  void SetUp() override;

  /// Compares two tables of results cell by cell; how many cells there are.
  std::size_t compare(const std::string& name);
  /// Nulls by sheet, row and column, with their reasons.
  std::map<std::string, std::string> nulls(const std::string& folder);
  /// Runs a study here and in the database, compares all that is written, and adds up how much that is.
  void expect_same(const std::string& study, const std::vector<std::string>& tables, std::size_t& cells,
                   std::size_t& reasons);

  struct Swept {
    std::size_t equations = 0;
    std::size_t nulls = 0;
    std::vector<std::string> refused;
  };
  /// Every function on operands that try its corners, over the tables of kSweepTables; prints the counts.
  /// Tables in parts have no order: what follows from one is left out then, and groups are sorted.
  enum class Order : std::uint8_t { stored, none };
  Swept sweep_all(Order order = Order::stored);

  std::unique_ptr<DatabaseServer> server_;
  TempFolder folder_;

 private:
  std::string sweep(const std::vector<std::string>& lines, Order order) const;
};

}  // namespace opensum
