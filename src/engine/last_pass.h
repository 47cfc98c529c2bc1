// What is found out about the rows of a sheet in the last pass over them: nulls, claims, fills, links, rows
// that are errors, and what is written.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "engine/pass_work.h"
#include "message/diagnostic.h"

namespace opensum {

class LastPass {
 public:
  LastPass(StudyRun& run, const Known& known, const PassWork& work);

  /// Finds out what there is to say of a computed block; several threads may do so at a time.
  void judge(const BlockValues& values, PassBlock& block) const;
  /// Takes up blocks in their order.
  void take(PassBlock& block);
  /// Says what was found, after the last one.
  void finish(Diagnostics& diagnostics);

 private:
  // What the functions of whole columns of a fill or a derived column met.
  struct Noted {
    const Program* program = nullptr;
    EvaluationNotes notes;
    std::map<std::size_t, std::string> quoted;  ///< rows in words
  };
  // A function that a curve gives, and the column that uses it.
  struct CurveUse {
    const Stage* stage = nullptr;
    OriginId own = 0;
    Noted* noted = nullptr;
  };

  void judge_equations(const BlockValues& values, PassBlock& block) const;
  void note(const Program& program, OriginId own, Noted& noted);
  void note_stages(const Program& program, OriginId own, Noted& noted);
  QuotedRows in_words(const Noted& noted, RowList rows) const;
  void quote(const PassBlock& block);
  void keep_first_rows(const PassBlock& block);
  void keep_rows_of_links_and_fills(const PassBlock& block);
  void report_order(const Noted& noted, const Place& place, Diagnostics& diagnostics) const;
  void report_useless_fill(std::size_t index, Diagnostics& diagnostics) const;
  void report_errors(std::size_t derived, Reason reason, const std::vector<QuotedRows>& own, Code code,
                     Diagnostics& diagnostics) const;

  StudyRun& run_;
  const Known& known_;
  const PassWork& work_;
  RunSheet& sheet_;
  std::vector<std::vector<Noted>> fills_;  // by fill and rule
  std::vector<Noted> derived_;
  std::vector<CurveUse> curves_;
  std::vector<QuotedRows> divided_by_zero_;
  std::vector<QuotedRows> out_of_domain_;
  std::vector<RowStore> first_rows_;
};

}  // namespace opensum
