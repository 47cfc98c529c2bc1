// Words that people bring from elsewhere, and what they are called here.
#include "message/other_words.h"

#include <algorithm>
#include <array>

namespace opensum {
namespace {

struct OtherWord {
  WordFor what;
  const char* word;
  const char* here;
};

constexpr std::array kWords = {
    OtherWord{WordFor::function, "near", "agrees(a, b, within: d)"},
    OtherWord{WordFor::function, "join", "concat(a, \"-\", b)"},
    OtherWord{WordFor::function, "has", "contains(x, \"part\")"},
    OtherWord{WordFor::function, "begins", "starts_with(x, \"part\")"},
    OtherWord{WordFor::function, "ends", "ends_with(x, \"part\")"},
    OtherWord{WordFor::function, "slope",
              "derivative(y, along: x), or fit.NAME.slope for the slope of a line"},
    OtherWord{WordFor::function, "area", "area_so_far(y, along: x)"},
    OtherWord{WordFor::constants, "const", "codata"},
    OtherWord{WordFor::key, "split", "by"},
    OtherWord{WordFor::key, "type", "kind"},
    OtherWord{WordFor::key, "thousands", "group_char"},
    OtherWord{WordFor::key, "decimal", "decimal_char"},
    OtherWord{WordFor::option, "--split", "--by"},
    OtherWord{WordFor::option, "--type", "--kind"},
    OtherWord{WordFor::option, "--thousands", "--group-char"},
    OtherWord{WordFor::option, "--decimal", "--decimal-char"},
    OtherWord{WordFor::option, "--name", "--column"},
    OtherWord{WordFor::option, "--columns", "--show"},
    OtherWord{WordFor::option, "--json", "--format json"},
};

}  // namespace

std::string word_here(WordFor what, std::string_view word) {
  const auto* found = std::find_if(kWords.begin(), kWords.end(),
                                   [&](const OtherWord& w) { return w.what == what && word == w.word; });
  return found == kWords.end() ? std::string() : found->here;
}

}  // namespace opensum
