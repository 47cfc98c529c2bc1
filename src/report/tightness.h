// How equations hold together where they are drawn.
#pragma once

#include "equation/tree.h"

namespace opensum {

/// How tightly a node binds where it is drawn: a fraction holds together by itself.
inline int drawn_tightness(const Node& node) {
  const bool fraction = node.is(Operator::divide);
  return fraction ? kTightest : tightness(node);
}

}  // namespace opensum
