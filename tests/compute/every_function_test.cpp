// Every function of the table of signatures, called as its usage shows, over columns of every kind and with
// each of its named arguments: the evaluator against the plain one. A function without a case in either fails
// here.
#include <gtest/gtest.h>

#include <algorithm>
#include <iostream>

#include "compute/against_plain.h"
#include "equation/functions.h"

namespace opensum {
namespace {

const std::vector<std::string>& operands() {
  static const std::vector<std::string> list = {"a",   "b",     "n",     "t",         "yes",        "word",
                                                "day", "order", "clock", "n * 1 [m]", "n * 1 [deg]"};
  return list;
}

// The parts of a call: names that stand for operands, at odd places, and what is between them. Names of
// functions and of arguments are none, and neither is what stands in quotes or in brackets of a unit.
std::vector<std::string> parts_of(const std::string& call) {
  const auto is_letter = [](char c) { return (c >= 'a' && c <= 'z') || c == '_'; };
  std::vector<std::string> parts = {""};
  for (std::size_t at = 0; at < call.size();) {
    std::size_t end = at + 1;
    if (call[at] == '"' || call[at] == '[') {
      end = call.find(call[at] == '"' ? '"' : ']', at + 1) + 1;
    } else if (is_letter(call[at])) {
      while (end < call.size() && (is_letter(call[end]) || (call[end] >= '0' && call[end] <= '9'))) ++end;
      if (call[end] != '(' && call[end] != ':') {
        parts.push_back(call.substr(at, end - at));
        parts.emplace_back();
        at = end;
        continue;
      }
    }
    parts.back() += call.substr(at, end - at);
    at = end;
  }
  return parts;
}

// The names in a call, once each.
std::vector<std::string> names_in(const std::string& call) {
  const std::vector<std::string> parts = parts_of(call);
  std::vector<std::string> names;
  for (std::size_t i = 1; i < parts.size(); i += 2) {
    if (std::find(names.begin(), names.end(), parts[i]) == names.end()) names.push_back(parts[i]);
  }
  return names;
}

// A call with every operand in the place of every name.
std::vector<std::string> filled(const std::string& call, const std::vector<std::string>& names) {
  const std::vector<std::string> parts = parts_of(call);
  std::size_t choices = 1;
  for (std::size_t i = 0; i < names.size(); ++i) choices *= operands().size();
  std::vector<std::string> calls;
  for (std::size_t choice = 0; choice < choices; ++choice) {
    std::string made;
    for (std::size_t i = 0; i < parts.size(); ++i) {
      const auto name = std::find(names.begin(), names.end(), parts[i]);
      if (i % 2 == 0 || name == names.end()) {
        made += parts[i];
        continue;
      }
      std::size_t rest = choice;
      for (auto before = names.begin(); before != name; ++before) rest /= operands().size();
      made += operands()[rest % operands().size()];
    }
    calls.push_back(std::move(made));
  }
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
    // Curves need a fit, and uncertainties a study: the tests of these have them.
    if (signature.family == Family::fits || signature.rule == Rule::uncertainty) continue;
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
