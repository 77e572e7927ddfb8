#include "case/coverings.hpp"

#include <cmath>

#include "geometry/share.hpp"

namespace wavy {

template <int D>
AlignedBox<D> read_box(Part& part, bool flat) {
  const AlignedBox<D> result{point<D>(part, "lower"), point<D>(part, "upper")};
  for (int d = 0; d < D; ++d)
    if (!(result.upper[d] > result.lower[d] || (flat && result.upper[d] == result.lower[d])))
      throw part.wrong("upper", "every length of 'upper' must be greater than that of 'lower'");
  return result;
}

template <int D>
Ball<D> read_ball(Part& part) {
  for (const char* key : {"centre", "diameter"}) part.need(key, "a ball has a centre and a diameter");
  const Vec<D> centre = point<D>(part, "centre");
  return {centre, part.quantity("diameter") / 2};
}

template <int D>
Covering<D> read_covering_where(Part& part, const FormulaNames& names) {
  const Formula where(part.text("where"), names, dimension::length, part.place("where"), Formula::any_dimension);
  if (where.is_constant())
    throw part.wrong("where", "the formula does not depend on the place", "use x, y and z in it");
  return {[where](const Vec<D>& lower, const Vec<D>& upper) {
    return negative_share<D>(corner_values<D>([&](const std::array<double, 3>& place) {
      Vec<D> p = lower;
      for (std::size_t d = 0; d < D; ++d) p[d] += place[d] * (upper[d] - lower[d]);
      return -where(0, p[0], p[1], D == 3 ? p[D - 1] : 0.0);
    }));
  }};
}

template <int D>
Covering<D> covering_of(const Solid<D>& solid) {
  return {[solid](const Vec<D>& lower, const Vec<D>& upper) {
    const Vec<D> extent = minus<D>(upper, lower);
    const double away = solid.distance(along<D>(lower, 0.5, extent));
    if (std::abs(away) > length<D>(extent)) return away < 0 ? 1.0 : 0.0;
    return negative_share<D>(corner_values<D>([&](const std::array<double, 3>& place) {
      Vec<D> p = lower;
      for (std::size_t d = 0; d < D; ++d) p[d] += place[d] * extent[d];
      return solid.distance(p);
    }));
  }};
}

template Covering<2> covering_of<2>(const Solid<2>&);
template Covering<3> covering_of<3>(const Solid<3>&);
template AlignedBox<2> read_box<2>(Part&, bool);
template Ball<2> read_ball<2>(Part&);
template Ball<3> read_ball<3>(Part&);
template Covering<2> read_covering_where<2>(Part&, const FormulaNames&);
template AlignedBox<3> read_box<3>(Part&, bool);
template Covering<3> read_covering_where<3>(Part&, const FormulaNames&);

}  // namespace wavy
