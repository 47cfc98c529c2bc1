// Standard uncertainties in a block of rows, by first-order propagation (JCGM 100:2008, 5.1.2 and 5.2.2).
#pragma once

#include "engine/block_values.h"
#include "plan/uncertain_programs.h"

namespace opensum {

/// Carries what is stated of measured columns through links, fills and equations of one sheet. Several
/// threads may do so at a time.
class BlockUncertainty {
 public:
  BlockUncertainty(const StudyRun& run, const Known& known, std::size_t sheet);

  /// Gives the columns that the source gives their deviations; before anything is computed.
  void begin(ComputedBlock& block) const;
  /// Gives those that a task has just computed theirs, and the columns of their uncertainties the values.
  void carry(const Task& task, const BlockValues& values, ComputedBlock& block) const;
  /// The deviations of a program in the rows of a block. `own` is the origin of nulls that begin there.
  UncertaintyParts parts_of(const Program& program, OriginId own, const BlockValues& values,
                            const ComputedBlock& block) const;

 private:
  void add_stated(ComputedBlock& block) const;
  void add_taken(ComputedBlock& block) const;
  void carry_link(std::size_t link, ComputedBlock& block) const;
  void carry_fill(std::size_t fill, const BlockValues& values, ComputedBlock& block) const;
  void write(std::size_t column, ComputedBlock& block) const;
  UncertaintyParts stage_parts(const Stage& stage, OriginId own, const BlockValues& values,
                               const ComputedBlock& block) const;
  UncertaintyParts curve_parts(const Stage& stage, OriginId own, const BlockValues& values,
                               const ComputedBlock& block) const;
  double slope(const LinkPlan& plan, std::size_t link, std::size_t borrowed, std::size_t row,
               const ComputedBlock& block) const;

  const StudyRun& run_;
  const Known& known_;
  const KnownUncertainty& uncertainty_;
  const RunSheet& sheet_;
  const SheetUncertainty& plan_;
  UncertainPrograms programs_;
  std::size_t number_;
  std::vector<bool> unknown_;                               ///< by column
  std::vector<std::optional<std::size_t>> uncertainty_of_;  ///< by column: the one that holds its uncertainty
};

}  // namespace opensum
