// Whether two CSV files hold the same cells.
#pragma once

#include <string>
#include <string_view>

/// The first difference between two CSV texts, in words; empty when there is none. Cells that are numbers are
/// the same when their values differ by no more than 2e-12 of them: the twelfth digit may be rounded either
/// way.
std::string first_difference(std::string_view one, std::string_view two);
