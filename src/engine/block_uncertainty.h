// Standard uncertainties in a block of rows, by first-order propagation (JCGM 100:2008, 5.1.2 and 5.2.2).
#pragma once

#include "engine/block_values.h"

namespace opensum {

/// Carries what is stated of measured columns through links, fills and equations of one sheet. Several
/// threads may do so at a time.
class BlockUncertainty {
 public:
  BlockUncertainty(const StudyRun& run, const Known& known, std::size_t sheet);

  /// Gives the columns of uncertainties their values in a block in which everything else is computed. The
  /// parts of all columns stay in the block.
  void compute(const std::vector<Task>& tasks, const BlockValues& values, ComputedBlock& block) const;

 private:
  void add_stated(ComputedBlock& block) const;
  void carry_link(std::size_t link, ComputedBlock& block) const;
  void carry_fill(std::size_t fill, ComputedBlock& block) const;
  void carry_derived(const DerivedColumn& derived, const BlockValues& values, ComputedBlock& block) const;
  void write_columns(ComputedBlock& block) const;
  std::vector<double> slope(const LinkPlan& plan, std::size_t link, const LinkedValues& linked,
                            const ComputedBlock& block) const;

  const StudyRun& run_;
  const Known& known_;
  const RunSheet& sheet_;
  const SheetUncertainty& plan_;
  std::size_t number_;
  std::vector<bool> unknown_;  ///< by column
};

}  // namespace opensum
