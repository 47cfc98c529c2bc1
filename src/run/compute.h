// Second step of a run: the fills, derived columns and claims of every sheet.
#pragma once

#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// What stays in memory after computing: everything, or what is written. Values that links and groups looked
/// up on the way are let go as soon as nothing reads them any more. `streamed` is `needed`, but sheets whose
/// rows can stay in their file are left to be computed while they are written.
enum class Memory : std::uint8_t { all, needed, streamed };

/// Computes all fills and derived columns and tests the claims. Where the study takes a division by zero or a
/// left domain for an error, the rows are reported.
void compute(PreparedStudy& prepared, Memory memory, Diagnostics& diagnostics);

/// What a claim came to in some rows, by the values of its condition; and the first rows of which something
/// is to be said, in words.
ClaimResult claim_result(const std::vector<Chunk>& condition, std::size_t rows);
void quote_rows(const SheetPlan& plan, const Table& table, const Program& condition, ClaimResult& result);

/// The keys of a link that goes by keys, from a table like that of its sheet to the one there.
std::vector<LinkKey> link_keys(const LinkPlan& plan, const Table& here, const Table& there);

/// Reports keys there that are not unique.
void report_repeated_keys(const PreparedStudy& prepared, const LinkPlan& plan,
                          const std::vector<LinkKey>& keys, const RepeatedKeys& repeated,
                          Diagnostics& diagnostics);

/// Warns of a fill that closed no gap.
void report_useless_fill(const RunSheet& sheet, std::size_t index, Diagnostics& diagnostics);

/// Fits the curve of a task of that kind.
void compute_fit(PreparedStudy& prepared, const Task& task, Diagnostics& diagnostics);

/// Reports the claims that are broken or undecided, with their rows.
void report_claims(const PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
