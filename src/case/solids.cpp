#include "case/solids.hpp"

#include <fmt/format.h>

#include <map>
#include <memory>
#include <numbers>
#include <set>

#include "case/surface_file.hpp"
#include "geometry/vessel_parts.hpp"

namespace wavy {
namespace {

constexpr double longest = 1e6;  // [m]

double positive(Part& part, const char* name) {
  part.need(name);
  const double value = part.quantity(name);
  if (!(value > 0 && value < longest))
    throw part.wrong(name, fmt::format("'{}' must be positive and below 1000 km", name));
  return value;
}

template <int D>
std::vector<Vec<D>> points(Part& part, const char* name, std::size_t least) {
  const auto rows = part.quantity_rows(name, D);
  if (rows.size() < least)
    throw part.wrong(name, fmt::format("{} {} given; at least {} are needed", rows.size(),
                                       rows.size() == 1 ? "point is" : "points are", least));
  std::vector<Vec<D>> result;
  for (const auto& row : rows) {
    Vec<D> p{};
    std::copy(row.begin(), row.end(), p.begin());
    result.push_back(p);
  }
  return result;
}

Head head_of(const std::string& name) {
  return name == "flat"            ? Head::flat
         : name == "elliptical"    ? Head::elliptical
         : name == "hemispherical" ? Head::hemispherical
                                   : Head::torispherical;
}

/// A box by its corners; the vessel's from the origin on.
template <int D>
Solid<D> box(Part& part, bool of_vessel) {
  const Vec<D> lower = of_vessel ? Vec<D>{} : point<D>(part, "lower");
  const Vec<D> upper = point<D>(part, of_vessel ? "size" : "upper");
  for (int d = 0; d < D; ++d) {
    if (!(upper[d] > lower[d]))
      throw part.wrong(
          of_vessel ? "size" : "upper",
          of_vessel ? "every length must be positive" : "every length of 'upper' must be greater than that of 'lower'");
    if (upper[d] - lower[d] > longest || std::abs(lower[d]) > longest)
      throw part.wrong(of_vessel ? "size" : "upper", "a box ends within 1000 km", "check the units");
  }
  return box_solid<D>(lower, upper);
}

/// A formula of its own for every thread that asks: one object must not be evaluated by two.
class SharedFormula {
 public:
  explicit SharedFormula(Formula formula) : formula_(std::make_shared<const Formula>(std::move(formula))) {}
  double operator()(double x, double y, double z) const {
    thread_local std::map<std::shared_ptr<const Formula>, Formula> own;
    const double value = own.try_emplace(formula_, *formula_).first->second.unchecked(0, x, y, z);
    return std::isnan(value) ? -1.0 : value;  // what has no value is not positive
  }

 private:
  std::shared_ptr<const Formula> formula_;
};

/// Where a formula is positive, within a box. The distance is the formula over its own steepness.
template <int D>
Solid<D> of_formula(Part& part) {
  const Solid<D> within = box<D>(part, false);
  part.need("where", "write, for example, where = \"0.1 m + 2 cm * sin(2 * pi * x / 30 cm) - y\"");
  const Formula where(part.text("where"), part.names(), dimension::length, part.place("where"), Formula::any_dimension);
  if (where.is_constant())
    throw part.wrong("where", "the formula does not depend on the place", "use x, y and z in it");
  const SharedFormula formula(where);
  const double step = 1e-5 * length<D>(minus<D>(within.upper, within.lower));
  const auto value = [formula](const Vec<D>& p) { return formula(p[0], p[1], D == 3 ? p[D - 1] : 0.0); };
  const Solid<D> body{[value, step](const Vec<D>& p) {
                        double square = 0;
                        for (std::size_t d = 0; d < D; ++d) {
                          Vec<D> low = p;
                          Vec<D> high = p;
                          low[d] -= step;
                          high[d] += step;
                          square += std::pow((value(high) - value(low)) / (2 * step), 2);
                        }
                        const double f = value(p);
                        return square > 0 ? -f / std::sqrt(square) : f > 0 ? -1e3 * step : 1e3 * step;
                      },
                      within.lower, within.upper};
  return intersection<D>(body, within);
}

template <int D>
Solid<D> pipe(Part& part, double diameter) {
  const auto line = points<D>(part, "points", 2);
  const double bend = part.has("bend") ? part.quantity("bend") : 0.0;
  if (bend != 0 && bend < diameter / 2)
    throw part.wrong("bend", "the radius of the bends, to the middle of the pipe, must be at least half its diameter");
  // Every leg must hold the tangents of the bends at its ends.
  double before = 0;
  for (std::size_t i = 1; i < line.size(); ++i) {
    Vec<D> leg;
    for (int d = 0; d < D; ++d) leg[d] = line[i][d] - line[i - 1][d];
    const double length = std::sqrt(dot<D>(leg, leg));
    if (!(length > 0)) throw part.wrong("points", fmt::format("points {} and {} are the same", i, i + 1));
    double after = 0;
    if (i + 1 < line.size()) {
      Vec<D> next;
      for (int d = 0; d < D; ++d) next[d] = line[i + 1][d] - line[i][d];
      const double turn =
          std::acos(std::clamp(dot<D>(leg, next) / (length * std::sqrt(dot<D>(next, next))), -1.0, 1.0));
      after = bend * std::tan(turn / 2);
    }
    if (before + after > length * (1 + 1e-9))
      throw part.wrong(
          "bend",
          fmt::format("the leg from point {} to point {} is too short for bends of {}", i, i + 1, quantity(bend, "m")),
          "choose a smaller bend, or points further apart");
    before = after;
  }
  return pipe_solid<D>(line, diameter / 2, bend);
}

/// Throws for keys that do not belong to a shape.
void check_keys_of_shape(const Part& part, const std::string& shape, bool of_vessel) {
  static const std::map<std::string, std::set<std::string>> belongs{
      {"box", {"lower", "upper", "size"}},
      {"cylinder", {"diameter", "length", "axis", "ends", "from", "to"}},
      {"cone", {"from", "to", "diameter", "to_diameter"}},
      {"sphere", {"centre", "diameter"}},
      {"circle", {"centre", "diameter"}},
      {"ring", {"centre", "axis", "diameter", "tube"}},
      {"pipe", {"points", "diameter", "bend"}},
      {"polygon", {"points", "axis", "lower_end", "upper_end"}},
      {"turned", {"points", "centre", "axis"}},
      {"surface", {"file", "unit", "moved"}},
      {"formula", {"where", "lower", "upper"}},
      {"baffles", {"centre", "diameter", "count", "width", "gap", "thickness", "height"}},
      {"coil", {"centre", "diameter", "tube", "turns", "rise"}},
      {"sleeve", {"from", "to", "diameter", "thickness"}},
  };
  for (const auto& [other, names] : belongs)
    for (const auto& name : names) {
      if (name == "thickness" && of_vessel) continue;  // that of a 2-D vessel across its section
      if (part.knows(name) && part.has(name) && !belongs.at(shape).contains(name))
        throw part.wrong(name, fmt::format("a {} has no '{}'", shape == "baffles" ? "set of baffles" : shape, name),
                         "leave the key out, or change shape");
    }
}

/// Number of the axis that a key names.
template <int D>
int axis_of(Part& part, const char* standard) {
  const std::string name = part.choice("axis", standard);
  const int axis = name == "x" ? 0 : name == "y" ? 1 : 2;
  if (axis >= D) throw part.wrong("axis", "a 2-D vessel has the axes x and y");
  return axis;
}

template <int D>
Solid<D> cylinder(Part& part, bool of_vessel) {
  const double radius = positive(part, "diameter") / 2;
  std::array<Head, 2> heads{Head::flat, Head::flat};
  if (part.has("ends")) {
    const auto names = part.texts("ends", 2);
    for (std::size_t i = 0; i < 2; ++i) heads[i] = head_of(names[i]);
  }
  Vec<D> from{};
  Vec<D> to{};
  if (of_vessel) {
    to[axis_of<D>(part, D == 2 ? "y" : "z")] = positive(part, "length");
  } else {
    from = point<D>(part, "from");
    to = point<D>(part, "to");
    if (from == to) throw part.wrong("to", "'from' and 'to' are the same point");
  }
  return cylinder_solid<D>(from, to, radius, heads[0], heads[1]);
}

template <int D>
Solid<D> cone(Part& part) {
  const Vec<D> from = point<D>(part, "from");
  const Vec<D> to = point<D>(part, "to");
  if (from == to) throw part.wrong("to", "'from' and 'to' are the same point");
  const double end = part.quantity("to_diameter");
  return cone_solid<D>(from, to, positive(part, "diameter") / 2, end / 2);
}

/// Shapes that only 3-D vessels have.
std::optional<Solid<3>> in_space(Part& part, const std::string& shape, bool of_vessel) {
  if (shape == "surface") {
    const Solid<3> solid = read_surface(part);
    return part.knows("moved") && part.has("moved") ? wavy::moved<3>(solid, point<3>(part, "moved")) : solid;
  }
  if (shape == "ring") {
    Vec<3> axis{};
    axis[static_cast<std::size_t>(axis_of<3>(part, "z"))] = 1;
    const double ring = positive(part, "diameter") / 2;
    const double tube = positive(part, "tube") / 2;
    if (tube >= ring) throw part.wrong("tube", "the tube is thicker than the ring is wide");
    return torus_solid(point<3>(part, "centre"), axis, ring, tube);
  }
  if (shape == "polygon") {
    const int axis = axis_of<3>(part, "y");
    const double from = of_vessel ? 0.0 : part.quantity("lower_end");
    const double to = part.quantity("upper_end");
    if (!(to > from)) throw part.wrong("upper_end", "'upper_end' must be greater than 'lower_end'");
    return extruded_solid(points<2>(part, "points", 3), axis, from, to);
  }
  if (shape == "turned") {
    const auto profile = points<2>(part, "points", 3);
    for (const auto& p : profile)
      if (p[0] < 0) throw part.wrong("points", "a distance from the axis must not be negative");
    Vec<3> axis{};
    axis[static_cast<std::size_t>(axis_of<3>(part, "z"))] = 1;
    return revolved_solid(profile, of_vessel ? Vec<3>{} : point<3>(part, "centre"), axis);
  }
  if (shape == "sleeve") {
    const Vec<3> from = point<3>(part, "from");
    const Vec<3> to = point<3>(part, "to");
    if (from == to) throw part.wrong("to", "'from' and 'to' are the same point");
    return sleeve_solid(from, to, positive(part, "diameter") / 2, positive(part, "thickness"));
  }
  if (shape == "coil") {
    const double radius = positive(part, "diameter") / 2;
    const double tube = positive(part, "tube");
    if (tube >= 2 * radius) throw part.wrong("tube", "the tube is thicker than the coil is wide");
    const double rise = part.has("rise") ? positive(part, "rise") : 2 * tube;
    if (!part.has("rise")) part.note("rise", fmt::format("\"{} m\"", rise));
    if (rise < tube) throw part.wrong("rise", "turns of the coil would lie in each other", "give at least the tube");
    return coil_solid(point<3>(part, "centre"), radius, tube / 2, part.quantity("turns"), rise);
  }
  return std::nullopt;
}

/// Along the wall of a vessel of this extent; what is left out has the usual proportions for the diameter.
Solid<3> baffles(Part& part, const Vec<3>& vessel) {
  Baffles made;
  const auto measure = [&](const char* key, double usual) { return part.quantity(key, fmt::format("{} m", usual)); };
  const double diameter = measure("diameter", std::min(vessel[0], vessel[1]));
  made.count = static_cast<int>(part.whole_number("count"));
  made.width = measure("width", diameter / 10);
  made.gap = part.quantity("gap");
  made.thickness = measure("thickness", diameter / 50);
  if (made.width + made.gap >= diameter / 2)
    throw part.wrong(part.has("width") ? "width" : "diameter", "the baffles would reach to the vessel's axis");
  if (made.count * made.thickness >= std::numbers::pi * (diameter - 2 * made.width))
    throw part.wrong("count", "there is no room for so many", "take fewer, or thinner ones");
  Vec<3> foot{0.5 * vessel[0], 0.5 * vessel[1], 0};
  if (part.has("centre"))
    foot = point<3>(part, "centre");
  else
    part.note("centre", fmt::format("[\"{} m\", \"{} m\", \"0 m\"]", foot[0], foot[1]));
  made.height = measure("height", vessel[2] - foot[2]);
  // What touches wall, floor or top goes on into it.
  const double into = made.thickness;
  if (made.gap == 0) {
    made.gap = -into;
    made.width += into;
  }
  const double top = foot[2] + made.height;
  if (foot[2] <= 0) foot[2] -= into;
  made.height = (top < vessel[2] ? top : top + into) - foot[2];
  return baffles_solid(made, foot, diameter / 2);
}

}  // namespace

template <int D>
Solid<D> read_solid(Part& part, const std::string& shape, bool of_vessel, const Vec<D>& vessel) {
  check_keys_of_shape(part, shape, of_vessel);
  const auto only_in = [&](int dimensions, const char* instead) {
    if (D != dimensions)
      throw part.wrong("shape", fmt::format("a {} belongs in a {}-D vessel", shape, dimensions),
                       fmt::format("write \"{}\"", instead));
  };
  if (shape == "box") return box<D>(part, of_vessel);
  if (shape == "formula") return of_formula<D>(part);
  if (shape == "cylinder") return cylinder<D>(part, of_vessel);
  if (shape == "cone") return cone<D>(part);
  if (shape == "sphere" || shape == "circle") {
    if (shape == "sphere") only_in(3, "circle");
    if (shape == "circle") only_in(2, "sphere");
    const Vec<D> centre = of_vessel ? Vec<D>{} : point<D>(part, "centre");
    return ball_solid<D>(centre, positive(part, "diameter") / 2);
  }
  if (shape == "pipe") return pipe<D>(part, positive(part, "diameter"));
  if constexpr (D == 2) {
    if (shape == "polygon") return polygon_solid(points<2>(part, "points", 3));
    only_in(3, shape == "ring" || shape == "turned" ? "circle" : "polygon");
  } else {
    if (shape == "baffles") return baffles(part, vessel);
    if (const auto solid = in_space(part, shape, of_vessel)) return *solid;
  }
  throw part.wrong("shape", fmt::format("a {} cannot be made here", shape));
}

template <int D>
Solid<D> placed(Part& part, Solid<D> solid) {
  Vec<D> middle;
  for (int d = 0; d < D; ++d) middle[d] = 0.5 * (solid.lower[d] + solid.upper[d]);
  if (part.has("mirrored")) {
    const std::string name = part.choice("mirrored", "x");
    const int axis = name == "x" ? 0 : name == "y" ? 1 : 2;
    if (axis >= D) throw part.wrong("mirrored", "a 2-D vessel has the axes x and y");
    solid = mirrored<D>(solid, axis, middle[axis]);
  }
  if (part.has("tilted")) {
    const double angle = part.quantity("tilted");
    if constexpr (D == 2) {
      if (part.has("tilted_round")) throw part.wrong("tilted_round", "in 2-D there is only one way to tilt");
      solid = turned(solid, middle, angle);
    } else {
      const std::string name = part.choice("tilted_round");
      Vec<3> axis{};
      axis[name == "x" ? 0 : name == "y" ? 1 : 2] = 1;
      solid = turned(solid, middle, axis, angle);
    }
  }
  return solid;
}

template Solid<2> read_solid<2>(Part&, const std::string&, bool, const Vec<2>&);
template Solid<3> read_solid<3>(Part&, const std::string&, bool, const Vec<3>&);
template Solid<2> placed<2>(Part&, Solid<2>);
template Solid<3> placed<3>(Part&, Solid<3>);

}  // namespace wavy
