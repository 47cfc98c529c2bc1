// What a condition for rows looks up in other sheets before anything is computed.
#pragma once

#include <deque>
#include <functional>
#include <map>

#include "compute/links.h"
#include "engine/blocks.h"
#include "engine/study_run.h"

namespace opensum {

/// Whether the condition for the rows of a sheet, or an equation that it needs, looks into other sheets by
/// links.
bool keep_looks_through_links(const SheetModel& sheet);

/// The columns of other sheets that a condition names by way of links: measured ones found by measured keys,
/// under the name LINK.COLUMN. What is not of that kind is left out, and the condition then is refused.
class KeepLinks {
 public:
  /// A sheet with its rows chosen, or a null pointer.
  using Chosen = std::function<RunSheet*(const std::string&)>;

  /// Finds what the condition of a sheet needs. Of the other sheets it holds the keys and the columns that
  /// are named, and nothing else.
  KeepLinks(const RunSheet& sheet, const Chosen& chosen, const PlanContext& context);

  /// Adds the columns to the table of the condition, without values.
  void add_columns(Table& table);
  /// Which columns of the sheet must have values for those that are needed.
  std::vector<bool> with_keys(std::vector<bool> needed) const;
  /// Gives the columns their values in a block whose keys, or places in the source, have theirs.
  void give_values(const std::vector<bool>& needed, Block& to) const;

 private:
  struct Link {
    std::vector<std::size_t> keys;  ///< columns here
    std::optional<RowFinder> by_keys;
    std::optional<PlaceFinder> by_place;
  };
  struct Looked {
    std::string name;
    const Link* link = nullptr;
    const Column* there = nullptr;
    OriginId origin = 0;
    LinkedValues values;
    std::size_t index = 0;  ///< in the table of the condition
  };

  void look_up(const std::string& name, const LinkModel& link, RunSheet& other, std::size_t there);
  const Link* find(const LinkModel& link, RunSheet& other);
  const Column& whole_column(RunSheet& sheet, std::size_t index);

  const RunSheet& sheet_;
  const PlanContext& context_;
  std::map<const LinkModel*, std::optional<Link>> links_;
  std::map<std::pair<const RunSheet*, std::size_t>, Column> held_;
  std::deque<Looked> looked_;
};

/// The rows of a sheet with what its condition looks up in others.
class LinkedBlocks : public BlockSource {
 public:
  LinkedBlocks(BlockSource& rows, const KeepLinks& links) : rows_(rows), links_(links) {}

  std::size_t count() const override { return rows_.count(); }
  RowRange range(std::size_t block) const override { return rows_.range(block); }
  void fetch(std::size_t block, Block& to) const override { rows_.fetch(block, to); }
  void place(std::size_t block, Block& to) override { rows_.place(block, to); }
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override;
  void leave(std::size_t block, const Block& to) override { rows_.leave(block, to); }
  void end_pass() override { rows_.end_pass(); }
  bool lives_on(std::string_view text) const override { return rows_.lives_on(text); }

 private:
  BlockSource& rows_;
  const KeepLinks& links_;
};

}  // namespace opensum
