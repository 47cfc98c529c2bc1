// The plain evaluator for functions of whole columns: for each row it looks at all rows again.
#include <algorithm>
#include <cmath>

#include "equation/operation.h"
#include "reference/exact.h"
#include "reference/plain_evaluator.h"

namespace opensum::reference {
namespace {

// A row of the group of the row at hand.
struct Member {
  std::size_t row;
  Value value;
  Value along;
};

// The null of another row. What began in the operand itself stands in no cell: the result is the first.
Value from_row(Value value, std::size_t row, OriginId own) {
  if (value.null && !value.began && value.null.origin() != own) value.began = row;
  return value;
}

bool same_key(Kind kind, const Value& a, const Value& b) {
  if (a.null || b.null) return static_cast<bool>(a.null) == static_cast<bool>(b.null);
  return (kind == Kind::number ? typed(a.number) == typed(b.number) : a.number == b.number) &&
         a.text == b.text;
}

std::vector<Member> members_of(const Checked& node, const std::vector<const Column*>& columns,
                               std::size_t row, OriginId own) {
  std::size_t first_key = 1;
  if (node.has_beside) ++first_key;
  const std::size_t where = first_key;
  if (node.has_where) ++first_key;
  std::vector<Member> members;
  for (std::size_t other = 0; other < columns.front()->rows; ++other) {
    bool same = true;
    for (std::size_t k = first_key; k < node.args.size(); ++k) {
      same = same && same_key(node.args[k]->type.kind, evaluate(*node.args[k], columns, row, own),
                              evaluate(*node.args[k], columns, other, own));
    }
    if (!same) continue;
    Member member{other, evaluate(*node.args[0], columns, other, own), {}};
    if (node.has_where) {
      const Value taken = evaluate(*node.args[where], columns, other, own);
      if (taken.null || taken.number == 0) continue;
    }
    if (node.has_beside) member.along = evaluate(*node.args[1], columns, other, own);
    members.push_back(std::move(member));
  }
  return members;
}

// Reductions of two columns, by formulas in 113 bits.
Value reduce_two(const Checked& node, const std::vector<Member>& members, OriginId own) {
  __extension__ using Long = __float128;
  std::vector<std::pair<double, double>> known;
  for (const Member& member : members) {
    if (!member.value.null && !member.along.null) {
      known.emplace_back(member.value.number, member.along.number);
    } else if (!node.nulls.skip) {
      return from_row(member.value.null ? member.value : member.along, member.row, own);
    }
  }
  const std::size_t least = node.op == Op::col_weighted_mean ? 1 : 2;
  if (known.size() < std::max(least, static_cast<std::size_t>(node.nulls.at_least))) {
    return null_value(Null(Reason::too_few, own));
  }
  if (node.op == Op::col_weighted_mean) {
    std::vector<double> products;
    std::vector<double> weights;
    for (const auto& [value, weight] : known) {
      if (weight < 0) return null_value(Null(Reason::domain, own));
      products.push_back(weight * (value - known.front().first));
      weights.push_back(weight);
    }
    if (sum(weights) == 0) return null_value(Null(Reason::divide_by_zero, own));
    return number(known.front().first + sum(products) / sum(weights), own);
  }
  if (node.op == Op::col_area) {
    std::vector<double> strips;
    for (std::size_t i = 1; i < known.size(); ++i) {
      const double width = known[i].second - known[i - 1].second;
      if (!(width > 0)) return null_value(Null(Reason::domain, own));
      strips.push_back(width * (known[i - 1].first / 2 + known[i].first / 2));
    }
    return number(sum(strips), own);
  }
  if (node.op != Op::col_correlation) not_computed(node.op, "the reference of two columns");
  const auto n = static_cast<Long>(known.size());
  Long x = 0;
  Long y = 0;
  for (const auto& [a, b] : known) {
    x += a;
    y += b;
  }
  Long xx = 0;
  Long yy = 0;
  Long xy = 0;
  for (const auto& [a, b] : known) {
    xx += (a - x / n) * (a - x / n);
    yy += (b - y / n) * (b - y / n);
    xy += (a - x / n) * (b - y / n);
  }
  const double all = static_cast<double>(xx) + static_cast<double>(yy);
  if (!std::isfinite(all)) return null_value(Null(Reason::overflow, own));
  if (!(xx > 0) || !(yy > 0)) return null_value(Null(Reason::divide_by_zero, own));
  const double correlation =
      static_cast<double>(xy) / (std::sqrt(static_cast<double>(xx)) * std::sqrt(static_cast<double>(yy)));
  return number(std::clamp(correlation, -1.0, 1.0), own);
}

Value reduce(const Checked& node, const std::vector<Member>& members, OriginId own) {
  if (node.has_beside) return reduce_two(node, members, own);
  const Value too_few = null_value(Null(Reason::too_few, own));
  std::vector<double> known;
  const Member* first_null = nullptr;
  const Member* first_known = nullptr;
  const Member* last_known = nullptr;
  for (const Member& member : members) {
    if (member.value.null) {
      if (first_null == nullptr) first_null = &member;
      continue;
    }
    known.push_back(member.value.number);
    if (first_known == nullptr) first_known = &member;
    last_known = &member;
  }
  const auto at = [&](std::size_t i) {
    return i < members.size() ? from_row(members[i].value, members[i].row, own) : too_few;
  };
  switch (node.op) {
    case Op::col_count:
      return number(static_cast<double>(known.size()), own);
    case Op::col_first:
      return at(0);
    case Op::col_last:
      return at(members.size() - 1);
    case Op::col_at:
      return at(std::get<RowNumber>(node.setting).number - 1);
    case Op::col_first_known:
      return first_known == nullptr ? too_few : first_known->value;
    case Op::col_last_known:
      return last_known == nullptr ? too_few : last_known->value;
    default:
      break;
  }
  if (first_null != nullptr && !node.nulls.skip) return from_row(first_null->value, first_null->row, own);
  const bool spread = node.op == Op::col_sd || node.op == Op::col_sem;
  if (known.size() < std::max<std::size_t>(spread ? 2 : 1, static_cast<std::size_t>(node.nulls.at_least))) {
    return too_few;
  }
  const double n = static_cast<double>(known.size());
  const double least = *std::min_element(known.begin(), known.end());
  const double greatest = *std::max_element(known.begin(), known.end());
  switch (node.op) {
    case Op::col_sum:
      return number(sum(known), own);
    case Op::col_mean:
      return number(mean(node, known), own);
    case Op::col_mad: {
      const double middle = quantile(node, known, 0.5);
      for (double& value : known) value = std::fabs(value - middle);
      return number(quantile(known, 0.5), own);
    }
    case Op::col_rms: {
      // In a power of two near the first that is not zero.
      int exponent = 0;
      for (const double value : known) {
        std::frexp(value, &exponent);
        if (value != 0) break;
      }
      for (double& value : known) value = std::ldexp(value, -exponent) * std::ldexp(value, -exponent);
      return number(std::ldexp(std::sqrt(mean(known)), exponent), own);
    }
    case Op::col_geometric_mean:
      for (double& value : known) {
        if (value <= 0) return null_value(Null(Reason::domain, own));
        value = std::log(value);
      }
      return number(std::exp(mean(known)), own);
    case Op::col_median:
      return number(quantile(node, known, 0.5), own);
    case Op::col_quantile:
      return number(quantile(node, known, std::get<QuantileFraction>(node.setting).share), own);
    case Op::col_min:
      return number(least, own);
    case Op::col_max:
      return number(greatest, own);
    case Op::col_range:
      return number(greatest - least, own);
    case Op::col_sd:
      return number(deviation(known), own);
    case Op::col_sem:
      return number(deviation(known) / std::sqrt(n), own);
    default:
      not_computed(node.op, "the reference of columns");
  }
}

Value so_far(const Checked& node, const std::vector<Member>& members, std::size_t place, OriginId own) {
  std::vector<double> known;
  for (std::size_t i = 0; i <= place; ++i) {
    if (!members[i].value.null) {
      known.push_back(members[i].value.number);
    } else if (!node.nulls.skip) {
      return from_row(members[i].value, members[i].row, own);
    }
  }
  if (known.empty()) return null_value(Null(Reason::too_few, own));
  switch (node.op) {
    case Op::sum_so_far:
      return number(sum(known), own);
    case Op::mean_so_far:
      return number(mean(node, known), own);
    case Op::min_so_far:
      return number(*std::min_element(known.begin(), known.end()), own);
    case Op::max_so_far:
      return number(*std::max_element(known.begin(), known.end()), own);
    default:
      not_computed(node.op, "the reference of values so far");
  }
}

Value window(const Checked& node, const std::vector<Member>& members, std::size_t place, OriginId own) {
  const std::size_t half = rows_of_setting(node.setting) / 2;
  if (place < half || place + half >= members.size()) return null_value(Null(Reason::no_neighbour, own));
  std::vector<double> known;
  for (std::size_t i = place - half; i <= place + half; ++i) {
    if (!members[i].value.null) {
      known.push_back(members[i].value.number);
    } else if (!node.nulls.skip) {
      return from_row(members[i].value, members[i].row, own);
    }
  }
  if (known.size() < (node.op == Op::moving_sd ? 2U : 1U)) return null_value(Null(Reason::too_few, own));
  switch (node.op) {
    case Op::moving_mean:
      return number(mean(node, known), own);
    case Op::moving_median:
      return number(quantile(node, known, 0.5), own);
    case Op::moving_sd:
      return number(deviation(known), own);
    default:
      not_computed(node.op, "the reference of moving windows");
  }
}

Value rank(Kind kind, const std::vector<Member>& members, std::size_t place, OriginId own) {
  const Value& mine = members[place].value;
  if (mine.null) return mine;
  double below = 0;
  double equal = 0;
  for (const Member& member : members) {
    if (member.value.null) continue;
    const bool same = same_key(kind, member.value, mine);
    below += !same && member.value.number < mine.number ? 1 : 0;
    equal += same ? 1 : 0;
  }
  return number(below + (1 + equal) / 2, own);
}

Value sequence(const Checked& node, const std::vector<Member>& members, std::size_t place, OriginId own) {
  const Value none = null_value(Null(Reason::no_neighbour, own));
  const std::size_t distance = rows_of_setting(node.setting);
  const auto taken = [&](std::size_t i) { return from_row(members[i].value, members[i].row, own); };
  switch (node.op) {
    case Op::row_number:
      return number(static_cast<double>(place + 1), own);
    case Op::previous:
      return place < distance ? none : taken(place - distance);
    case Op::next:
      return place + distance >= members.size() ? none : taken(place + distance);
    case Op::change:
      if (members[place].value.null) return members[place].value;
      if (place == 0) return none;
      if (members[place - 1].value.null) return taken(place - 1);
      return number(members[place].value.number - members[place - 1].value.number, own);
    case Op::previous_known:
      for (std::size_t i = place; i-- > 0;) {
        if (!members[i].value.null) return members[i].value;
      }
      return none;
    case Op::next_known:
      for (std::size_t i = place + 1; i < members.size(); ++i) {
        if (!members[i].value.null) return members[i].value;
      }
      return none;
    case Op::sum_so_far:
    case Op::mean_so_far:
    case Op::min_so_far:
    case Op::max_so_far:
      return so_far(node, members, place, own);
    case Op::rank:
      return rank(node.args[0]->type.kind, members, place, own);
    case Op::moving_mean:
    case Op::moving_median:
    case Op::moving_sd:
      return window(node, members, place, own);
    default:
      not_computed(node.op, "the reference of sequences");
  }
}

// derivative, area_so_far and interpolated, over the members that are not left out.
Value along_rows(const Checked& node, const std::vector<Member>& all, std::size_t place, OriginId own) {
  const Member& mine = all[place];
  const auto null_of = [](const Member& member) { return member.value.null ? member.value : member.along; };
  const auto left_out = [&](const Member& member) {
    return node.nulls.skip && (member.along.null || (member.value.null && node.op != Op::interpolated));
  };
  if (left_out(mine)) return null_of(mine);
  std::vector<Member> members;
  std::size_t me = 0;
  double before = -HUGE_VAL;
  bool ordered = true;
  for (const Member& member : all) {
    if (left_out(member)) continue;
    if (member.row == mine.row) me = members.size();
    members.push_back(member);
    if (member.along.null) continue;
    ordered = ordered && member.along.number > before;
    before = member.along.number;
  }
  if (!ordered) return null_value(Null(Reason::domain, own));
  const auto is_null = [&](std::size_t i) { return members[i].value.null || members[i].along.null; };
  const auto x = [&](std::size_t i) { return members[i].along.number; };
  const auto y = [&](std::size_t i) { return members[i].value.number; };
  const Value none = null_value(Null(Reason::no_neighbour, own));
  if (node.op == Op::interpolated) {
    if (!mine.value.null) return mine.value;
    if (mine.along.null) return mine.value;
    std::size_t a = me;
    std::size_t b = me;
    while (a > 0 && is_null(a)) --a;
    while (b + 1 < members.size() && is_null(b)) ++b;
    if (is_null(a) || is_null(b)) return none;
    const double rise = (x(me) - x(a)) / (x(b) - x(a)) * (y(b) - y(a));
    const bool dates = node.args[0]->type.kind == Kind::date;
    return number(dates ? seconds_after(y(a), rise) : y(a) + rise, own);
  }
  if (node.op == Op::area_so_far) {
    std::vector<double> strips;
    for (std::size_t i = 0; i <= me; ++i) {
      if (is_null(i)) return i == me ? null_of(mine) : from_row(null_of(members[i]), members[i].row, own);
      if (i > 0) strips.push_back((x(i) - x(i - 1)) * (y(i - 1) / 2 + y(i) / 2));
    }
    return number(sum(strips), own);
  }
  if (node.op != Op::derivative) not_computed(node.op, "the reference along a column");
  if (is_null(me)) return null_of(mine);
  if (members.size() < 2) return none;
  const std::size_t width = members.size() == 2 ? 2 : 3;
  std::size_t a = me == 0 ? 0 : me - 1;
  if (a + width > members.size()) a = members.size() - width;
  for (std::size_t i = a; i < a + width; ++i) {
    if (is_null(i)) return from_row(null_of(members[i]), members[i].row, own);
  }
  const double left = (y(a + 1) - y(a)) / (x(a + 1) - x(a));
  if (width == 2) return number(left, own);
  const double right = (y(a + 2) - y(a + 1)) / (x(a + 2) - x(a + 1));
  return number(left + (right - left) / (x(a + 2) - x(a)) * ((x(me) - x(a)) + (x(me) - x(a + 1))), own);
}

}  // namespace

Value evaluate_whole(const Checked& node, const std::vector<const Column*>& columns, std::size_t row,
                     OriginId own) {
  const std::vector<Member> members = members_of(node, columns, row, own);
  if (!is_sequence(node.op)) return reduce(node, members, own);
  std::size_t place = 0;
  while (members[place].row != row) ++place;
  return node.has_beside ? along_rows(node, members, place, own) : sequence(node, members, place, own);
}

}  // namespace opensum::reference
