// How much of anything is taken from files and studies: beyond it a message says so, before memory or time
// run out. Real tables and studies stay far below; docs/security.md lists them for users.
#pragma once

#include <cstddef>
#include <cstdint>

namespace opensum {

// What tables hold.

/// More columns than this are taken for a file that is no table.
constexpr std::size_t kMostColumns = 20'000;
/// The greatest number of a line that anybody names (`skip_rows`).
constexpr std::size_t kMostLines = 1'000'000'000'000;
/// Rows that a study makes by itself (`rows = N`).
constexpr std::size_t kMostMadeRows = 10'000'000;
/// What is read from a pipe, in bytes; files may be longer, for they need not be held.
constexpr std::size_t kMostPipedBytes = std::size_t{4} << 30U;
/// A line of a text file, in bytes.
constexpr std::size_t kLongestLine = std::size_t{16} << 20U;

// What workbooks and databases hold, whose small files can claim much.

/// The number of a row and of cells of a sheet.
constexpr std::size_t kMostSheetRows = 100'000'000;
constexpr std::size_t kMostCells = 200'000'000;
/// A sheet may take up so much memory; beyond kFreeGridBytes also no more than kMostGridRatio times the bytes
/// that it was read from.
constexpr std::size_t kFreeGridBytes = std::size_t{256} << 20U;
constexpr std::size_t kMostGridRatio = 64;
/// Blanks that one element of a workbook stands for.
constexpr std::size_t kMostBlanks = 1'000'000;
/// Elements of XML inside one another.
constexpr int kDeepestXml = 64;
/// A part of a zip file may unpack to so many bytes; beyond kFreeBytes also to no more than kMostRatio times
/// its packed size.
constexpr std::size_t kMostPartBytes = std::size_t{2} << 30U;
constexpr std::size_t kFreeBytes = std::size_t{16} << 20U;
constexpr std::size_t kMostRatio = 400;
/// Steps of the machine inside the database: those that a table or a view may take in any case, and for each
/// byte of the file. A plain table takes less than one a byte.
constexpr std::uint64_t kFreeDatabaseSteps = 100'000'000;
constexpr std::uint64_t kDatabaseStepsPerByte = 100;
/// Groups of HDF5 and netCDF, and values of JSON, inside one another.
constexpr int kDeepestGroups = 20;
constexpr std::size_t kDeepestJson = 1000;

// What studies hold.

/// Tables of a study inside one another, as in `a.b.c`.
constexpr std::size_t kDeepestTable = 16;
/// An expression: the depth of its tree, so that walking one needs little stack, and the operations in it
/// once the formulas that it uses are spelt out.
constexpr int kDeepestTree = 500;
constexpr std::size_t kMostOperations = 100'000;
/// Exponents of units: up to this, as fractions of whole numbers up to this.
constexpr std::int64_t kMostExponent = 99;
/// Bins of a histogram.
constexpr std::size_t kMostBins = 100'000;
/// Panels beside one another in a figure.
constexpr std::size_t kMostPanelColumns = 100;
/// Series of one plot, and curves of one fit, by the values of a column.
constexpr std::size_t kMostGroups = 10'000;

// Messages.

/// Nearest names that are looked for in one go; those of further misspelt words are not offered.
constexpr std::size_t kMostNearest = 100;

}  // namespace opensum
