// Every function of the table of signatures, called as its usage shows, over columns of every kind and with
// each of its named arguments: the evaluator against the plain one. A function without a case in either fails
// here.
#include <gtest/gtest.h>

#include <iostream>
#include <regex>

#include "compute/against_plain.h"
#include "equation/functions.h"

namespace opensum {
namespace {

const std::vector<std::string>& operands() {
  static const std::vector<std::string> list = {"a",   "b",     "n",     "t",         "yes",        "word",
                                                "day", "order", "clock", "n * 1 [m]", "n * 1 [deg]"};
  return list;
}

// Puts an operand in the place of a name.
std::string with(const std::string& call, const std::string& name, const std::string& operand) {
  return std::regex_replace(call, std::regex("\\b" + name + "\\b(?![(:\"])"), "@" + operand + "@");
}

// The names in a call that stand for operands.
std::vector<std::string> names_in(const std::string& call) {
  const std::string bare = std::regex_replace(call, std::regex(R"("[^"]*"|\[[^\]]*\])"), "");
  const std::regex name(R"(\b([a-z][a-z_]*)\b(?![(:]))");
  std::vector<std::string> names;
  for (std::sregex_iterator found(bare.begin(), bare.end(), name), end; found != end; ++found) {
    if (std::find(names.begin(), names.end(), (*found)[1]) == names.end()) names.push_back((*found)[1]);
  }
  return names;
}

// A call with every operand in the place of every name.
std::vector<std::string> filled(const std::string& call, const std::vector<std::string>& names) {
  std::vector<std::string> calls = {call};
  for (const std::string& name : names) {
    std::vector<std::string> more;
    for (const std::string& before : calls) {
      for (const std::string& operand : operands()) more.push_back(with(before, name, operand));
    }
    calls = std::move(more);
  }
  for (std::string& done : calls) std::erase(done, '@');
  return calls;
}

// The call, and with each of the named arguments that every function of a kind has.
std::vector<std::string> with_named(const Signature& signature) {
  const std::string usage = signature.usage;
  std::vector<std::string> calls = {usage};
  const std::string named = std::string(" ") + signature.named + " ";
  const auto add = [&](const char* word, const std::string& argument) {
    const bool takes = named.find(std::string(" ") + word + " ") != std::string::npos;
    if (!takes || usage.find(std::string(word) + ":") != std::string::npos) return;
    const bool alone = usage.find("()") != std::string::npos;
    calls.push_back(usage.substr(0, usage.size() - 1) + (alone ? "" : ", ") + argument + ")");
  };
  add("by", "by: word");
  add("where", "where: yes");
  add("nulls", "nulls: skip");
  add("nulls", "nulls: propagate");
  add("at_least", "nulls: skip, at_least: 2");
  add("weights", "weights: abs(n)");
  return calls;
}

TEST(EveryFunction, AgreesWithThePlainOne) {
  Bench bench(60, 5);
  std::size_t functions = 0;
  std::size_t compared = 0;
  std::size_t rejected = 0;
  for (const Signature& signature : signatures()) {
    // Curves need a fit: the tests of fits have these.
    if (signature.family == Family::fits) continue;
    ++functions;
    for (const std::string& call : with_named(signature)) {
      std::size_t of_call = 0;
      for (const std::string& equation : filled(call, names_in(signature.usage))) {
        const bool passed = bench.compare(equation);
        of_call += passed ? 1 : 0;
        (passed ? compared : rejected)++;
        if (HasFailure()) FAIL() << signature.name << " in " << equation;
      }
      ASSERT_GT(of_call, 0U) << call << " is compared over no kind of columns";
    }
  }
  std::cout << functions << " functions in " << compared << " equations compared, " << rejected
            << " rejected by the checker\n";
}

}  // namespace
}  // namespace opensum
