#include "case/moving_walls.hpp"

#include <algorithm>

namespace wavy {
namespace {

/// Middle of the body that has the wall.
template <int D>
Vec<D> middle(const Setup<D>& setup, const NamedWall& wall) {
  using Of = NamedWall::Of;
  Vec<D> lower{};
  Vec<D> upper = setup.size;
  if (wall.of == Of::insert) {
    lower = setup.inserts[wall.number].lower;
    upper = setup.inserts[wall.number].upper;
  } else if (wall.of == Of::thin_wall) {
    lower = setup.thin_walls[wall.number].extent.lower;
    upper = setup.thin_walls[wall.number].extent.upper;
  }
  return along<D>(lower, 0.5, minus<D>(upper, lower));
}
}  // namespace

template <int D>
void read_wall_name(const Setup<D>& setup, Part& part, NamedWall& made) {
  using Of = NamedWall::Of;
  made.name = part.text("wall");
  std::vector<std::string> known{"vessel"};
  if (made.name == "vessel") made.of = Of::vessel;
  bool found = made.name == "vessel";
  for (int axis = 0; axis < D; ++axis)
    for (int side = 0; side < 2; ++side) {
      known.push_back(side_name<D>(axis, side));
      if (made.name != known.back()) continue;
      made.of = Of::side;
      made.side = {axis, side};
      found = true;
    }
  for (const auto& [names, of] : {std::pair{&setup.insert_names, Of::insert}, {&setup.thin_wall_names, Of::thin_wall}})
    for (std::size_t i = 0; i < names->size(); ++i) {
      known.push_back((*names)[i]);
      if (made.name != known.back()) continue;
      made.of = of;
      made.number = i;
      found = true;
    }
  if (found) return;
  const std::string near = nearest(made.name, known);
  throw part.wrong(
      "wall", fmt::format("no wall is called '{}'", made.name.substr(0, 60)),
      near.empty() ? fmt::format("known are {}", listing(known, "and")) : fmt::format("did you mean '{}'?", near));
}

template <int D>
MovingWall<D> read_moving_wall(const Setup<D>& setup, Part& part, const FormulaNames& names) {
  using Of = NamedWall::Of;
  part.refuse_unknown();
  MovingWall<D> made;
  made.place = part.place();
  read_wall_name(setup, part, made);
  for (const auto& other : setup.moving_walls)
    if (other.name == made.name)
      throw part.wrong("wall", fmt::format("'{}' moves already", made.name), "say all of its motion in one place");
  if (!part.has("velocity") && !part.has("turning"))
    throw part.wrong("", fmt::format("nothing says how '{}' moves", made.name),
                     "give velocity or turning, such as turning = \"40 rev/min\"");
  std::array<std::string, D> still;
  still.fill("0 m/s");
  if (part.has("velocity")) made.velocity = part.formulas<D>("velocity", still, names);
  for (const char* name : {"about", "axis"})
    if (part.has(name) && !part.has("turning"))
      throw part.wrong(name, fmt::format("'{}' belongs to a wall that turns", name), "add turning, or leave it out");
  if (part.has("turning")) {
    if (setup.symmetry == Symmetry::round)
      throw part.wrong("turning", "a section turned round an axis has no flow round it",
                       "describe the vessel in 3-D to let a wall turn");
    if (setup.symmetry != Symmetry::none)
      throw part.wrong("turning", "a part of the vessel cannot stand for one with a wall that turns",
                       "leave vessel.symmetry out");
    made.turning = part.formula("turning", names);
    const std::string name = part.choice("axis");
    made.axis = name == "x" ? 0 : name == "y" ? 1 : 2;
    if (D == 2 && made.axis != 2)
      throw part.wrong("axis", "in a 2-D vessel walls turn in its plane alone", "leave it out");
    made.about = part.has("about") ? point<D>(part, "about") : middle(setup, made);
  }
  for (int d = 0; d < D; ++d)
    if (cancels_along(setup, d) && !(made.velocity[d].is_constant() && made.velocity[d](0) == 0))
      throw part.wrong("velocity", fmt::format("a velocity along {} does not go with vessel.symmetry", "xyz"[d]),
                       "leave that symmetry out, or set this component to \"0 m/s\"");
  const bool slips =
      made.of == Of::side ? setup.walls[made.side[0]][made.side[1]] == Wall::slip : setup.solid_walls == Wall::slip;
  if (slips)
    throw part.wrong("wall", fmt::format("'{}' slips, so its motion would do nothing", made.name),
                     "make it no-slip in [vessel.walls], or leave the motion out");
  if (setup.pairs[0].slip_length > 0)
    throw part.wrong("wall",
                     "pair.slip_length, by which the contact angle follows the line's speed, counts for "
                     "walls at rest",
                     "leave pair.slip_length out");
  return made;
}

template void read_wall_name<2>(const Setup<2>&, Part&, NamedWall&);
template void read_wall_name<3>(const Setup<3>&, Part&, NamedWall&);
template MovingWall<2> read_moving_wall<2>(const Setup<2>&, Part&, const FormulaNames&);
template MovingWall<3> read_moving_wall<3>(const Setup<3>&, Part&, const FormulaNames&);

}  // namespace wavy
