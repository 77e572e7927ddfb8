#include "flow/openings.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>

#include "base/error.hpp"

namespace wavy {
namespace {

/// Velocity over what it would be without a profile, but for a factor: the mean over the opening's faces is put right
/// later.
template <int D>
double profile(const Opening<D>& opening, const Vec<D>& p, const Vec<D>& lower, const Vec<D>& upper) {
  using Profile = typename Opening<D>::Profile;
  if (opening.profile == Profile::plug) return 1;
  // By the distance from the middle over that of the edge.
  const auto at = [&](double out) {
    constexpr double power = 1.0 / 7;
    return out >= 1 ? 0.0 : opening.profile == Profile::laminar ? 1 - out * out : std::pow(1 - out, power);
  };
  if (opening.round) {
    double square = 0;
    for (int d = 0; d < D; ++d)
      if (d != opening.axis) square += std::pow((p[d] - opening.round->centre[d]) / opening.round->radius, 2);
    return at(std::sqrt(square));
  }
  double value = 1;
  for (int d = 0; d < D; ++d)
    if (d != opening.axis) value *= at(std::abs(2 * p[d] - lower[d] - upper[d]) / (upper[d] - lower[d]));
  return value;
}

/// Share of a face, from its lower to its upper corner, that lies in the opening. Round an axis of revolution it counts
/// with the circumference.
template <int D>
double share_within(const Opening<D>& opening, const Vec<D>& lower, const Vec<D>& upper, bool axisymmetric) {
  double share = 1;
  if (opening.within)
    for (int d = 0; d < D; ++d) {
      if (d == opening.axis) continue;
      const double from = std::max(lower[d], opening.within->lower[d]);
      const double to = std::min(upper[d], opening.within->upper[d]);
      share *= std::max(0.0, to - from) / (upper[d] - lower[d]);
      if (axisymmetric && d == 0) share *= (from + to) / (lower[d] + upper[d]);
    }
  if constexpr (D == 3)
    if (opening.round) {
      Vec<2> low{};
      Vec<2> high{};
      Ball<2> disc{{}, opening.round->radius};
      std::size_t k = 0;
      for (int d = 0; d < D; ++d) {
        if (d == opening.axis) continue;
        low[k] = lower[d];
        high[k] = upper[d];
        disc.centre[k++] = opening.round->centre[d];
      }
      share *= covered_share<2>(Shape<2>(disc), low, high);
    }
  constexpr double least = 1e-3;
  constexpr double full = 1 - 1e-9;
  return share < least ? 0.0 : share > full ? 1.0 : share;
}

/// Corners of a face of which the opening may take a part.
template <int D>
std::array<Vec<D>, 2> corners_of_face(const Opening<D>& opening, const Vec<D>& middle, const Vec<D>& h) {
  std::array<Vec<D>, 2> corner{middle, middle};
  for (int d = 0; d < D; ++d) {
    if (d == opening.axis) continue;
    corner[0][d] -= 0.5 * h[d];
    corner[1][d] += 0.5 * h[d];
  }
  return corner;
}

}  // namespace

template <int D>
Boundary<D>::Boundary(const Grid<D>& grid, const OpenSpace<D>& space, const std::vector<Opening<D>>& openings,
                      std::size_t phases)
    : openings_(openings),
      set_flow_(openings.size()),
      throughput_(openings.size(), {std::vector<double>(phases), std::vector<double>(phases)}) {
  assert(std::ranges::all_of(openings, [&](const auto& one) { return one.composition.size() == phases; }));
  for (std::size_t i = 0; i < openings.size(); ++i) {
    middle_.emplace_back();
    if (openings_[i].on_wall) {
      area_.push_back(find_on_wall(i, grid, space));
      continue;
    }
    if (openings_[i].zone) {
      area_.push_back(find_in_zone(i, grid, space));
      continue;
    }
    holds_pressure_ = holds_pressure_ || !openings_[i].flow;
    find_on_side(i, grid, space);
  }
  for (auto& list : faces_)
    std::stable_sort(list.begin(), list.end(),
                     [](const OpeningFace<D>& a, const OpeningFace<D>& b) { return a.block < b.block; });
}

/// The faces of an opening in a side of the grid.
template <int D>
void Boundary<D>::find_on_side(std::size_t number, const Grid<D>& grid, const OpenSpace<D>& space) {
  const Layout<D>& layout = grid.layout();
  const Opening<D>& opening = openings_[number];
  const int axis = opening.axis;
  auto& list = faces_[static_cast<std::size_t>(axis)];
  const std::size_t first = list.size();
  for (int b = 0; b < grid.blocks(); ++b) {
    const BlockGeometry<D>& geometry = grid.geometry(b);
    const Vec<D>& h = geometry.spacing;
    for_boundary_faces(grid, b, axis, opening.side, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        OpeningFace<D> face;
        face.opening = number;
        face.block = b;
        face.face = at;
        face.inside = opening.side == 0 ? at : at - layout.step[axis];
        face.behind = opening.side == 0 ? at - layout.step[axis] : at;
        face.area = space.is_uncut() ? 1.0 : space.area()[axis].block(b)[at];
        face.width = h[axis];
        face.whole_area = geometry.cell_volume / h[axis];
        for (int d = 0; d < D; ++d)
          face.middle[d] = geometry.lower[d] + (axis_index<D>(layout, at, d) + (d == axis ? 0.0 : 0.5)) * h[d];
        const auto [low, high] = corners_of_face<D>(opening, face.middle, h);
        face.area *= share_within<D>(opening, low, high, space.axisymmetric());
        if (face.area > 0) list.push_back(face);
      }
    });
  }
  // Areas over those of the faces of root blocks, and weights whose mean over them is 1.
  const double whole = grid.cell_volume() / grid.spacing()[axis];
  const auto size = [whole](const OpeningFace<D>& face) { return face.area * (face.whole_area / whole); };
  double area = 0;
  for (std::size_t k = first; k < list.size(); ++k) area += size(list[k]);
  if (area <= 0)
    throw input_error({}, fmt::format("the opening '{}' touches no open part of the vessel's boundary", opening.name),
                      "move it to where the vessel meets that side of the grid");
  double sum = 0;
  const auto [lower, upper] = corners(number, grid);
  for (std::size_t k = first; k < list.size(); ++k) {
    list[k].weight = profile<D>(opening, list[k].middle, lower, upper);
    sum += list[k].weight * size(list[k]);
  }
  for (std::size_t k = first; k < list.size(); ++k) list[k].weight *= area / sum;
  area_.push_back(area * grid.cell_volume() / grid.spacing()[axis]);
  for (std::size_t k = first; k < list.size(); ++k)
    for (int d = 0; d < D; ++d) middle_.back()[d] += size(list[k]) / area * list[k].middle[d];
}

/// Where the faces of a block begin and end, as they are sorted by blocks.
template <int D>
typename Boundary<D>::FaceRange Boundary<D>::range(int block, int axis) const {
  const auto& faces = faces_[static_cast<std::size_t>(axis)];
  const auto first =
      std::partition_point(faces.begin(), faces.end(), [&](const auto& face) { return face.block < block; });
  return {first, std::partition_point(first, faces.end(), [&](const auto& face) { return face.block == block; })};
}

template <int D>
std::array<Vec<D>, 2> Boundary<D>::corners(std::size_t opening, const Grid<D>& grid) const {
  std::array<Vec<D>, 2> result;
  result[0].fill(1e300);
  result[1].fill(-1e300);
  for (const auto& cell : wall_cells_)
    for (int d = 0; d < D && cell.opening == opening; ++d) {
      result[0][d] = std::min(result[0][d], cell.middle[d]);
      result[1][d] = std::max(result[1][d], cell.middle[d]);
    }
  if (openings_[opening].on_wall || openings_[opening].zone) return result;

  const int axis = openings_[opening].axis;
  for (const auto& face : faces_[static_cast<std::size_t>(axis)]) {
    if (face.opening != opening) continue;
    const auto [low, high] = corners_of_face<D>(openings_[opening], face.middle, grid.geometry(face.block).spacing);
    for (int d = 0; d < D; ++d) {
      result[0][d] = std::min(result[0][d], low[d]);
      result[1][d] = std::max(result[1][d], high[d]);
    }
  }
  if (const auto& within = openings_[opening].within)
    for (int d = 0; d < D; ++d) {
      if (d == axis) continue;
      result[0][d] = std::max(result[0][d], within->lower[d]);
      result[1][d] = std::min(result[1][d], within->upper[d]);
    }
  return result;
}

/// Mean speeds into the vessel of given flows, 0 where none is given [m/s].
template <int D>
std::vector<double> Boundary<D>::speeds(double time) const {
  std::vector<double> result;
  for (std::size_t i = 0; i < openings_.size(); ++i)
    result.push_back(openings_[i].flow ? set_flow_[i].value_or(openings_[i].flow(time)) / area_[i] : 0.0);
  return result;
}

template <int D>
double Boundary<D>::greatest_speed(double time) const {
  const std::vector<double> speed = speeds(time);
  double greatest = 0;
  for (const auto& list : faces_)
    for (const auto& face : list) greatest = std::max(greatest, std::abs(speed[face.opening]) * face.weight);
  for (const auto& cell : wall_cells_)
    if (!openings_[cell.opening].zone) greatest = std::max(greatest, std::abs(speed[cell.opening]));

  return greatest;
}

template <int D>
double Boundary<D>::given_flow(double time) const {
  const std::vector<double> speed = speeds(time);
  double sum = 0;
  for (std::size_t i = 0; i < speed.size(); ++i) sum += std::abs(speed[i]) * area_[i];
  return sum;
}

template <int D>
double Boundary<D>::greatest_pressure(double time) const {
  double greatest = 0;
  for (const double pressure : pressures(time)) greatest = std::max(greatest, std::abs(pressure));
  return greatest;
}

template <int D>
double Boundary<D>::speed_by_drive(const Grid<D>& grid, double time, const Vec<D>& body_force, double heaviest,
                                   double lightest, double more) const {
  double across = 0;
  for (int d = 0; d < D; ++d) across += std::pow(grid.upper()[d] - grid.lower()[d], 2);
  const double pressure =
      heaviest * std::sqrt(dot<D>(body_force, body_force) * across) + greatest_pressure(time) + more;
  const double face = grid.cell_volume() / grid.smallest_spacing();  // all flow may have to go through one
  return given_flow(time) / face + std::sqrt(2 * pressure / lightest);
}

template <int D>
std::vector<CellPlace> Boundary<D>::cells(bool with_flow) const {
  std::vector<CellPlace> result;
  for (const auto& list : faces_)
    for (const auto& face : list)
      if (static_cast<bool>(openings_[face.opening].flow) == with_flow) result.push_back({face.block, face.inside});
  for (const auto& cell : wall_cells_)
    if (with_flow) result.push_back({cell.block, cell.at});
  return result;
}

template <int D>
bool Boundary<D>::brings_flow() const {
  return std::ranges::any_of(openings_, [](const auto& opening) { return static_cast<bool>(opening.flow); });
}

template <int D>
void Boundary<D>::archive(Archive& a) {
  for (std::size_t i = 0; i < openings_.size(); ++i)
    a.within(fmt::format("{}", i), [&] {
      a("in", std::span(throughput_[i].in));
      a("out", std::span(throughput_[i].out));
      bool is_set = set_flow_[i].has_value();
      double flow = set_flow_[i].value_or(0);
      a("is_set", is_set);
      a("flow", flow);
      set_flow_[i] = is_set ? std::optional(flow) : std::nullopt;
    });
}

template <int D>
void Boundary<D>::set_flow(std::size_t opening, double flow) {
  assert(opening < openings_.size());
  set_flow_[opening] = flow;
}

template <int D>
void Boundary<D>::close(const Grid<D>& grid, int block, int axis, double* value) const {
  thread_local std::vector<double> kept;
  kept.clear();
  each(block, axis, [&](const OpeningFace<D>& face) { kept.push_back(value[face.face]); });
  for (int side = 0; side < 2; ++side)
    for_boundary_faces(grid, block, axis, side, [&](std::ptrdiff_t o, int n) { std::fill_n(value + o, n, 0.0); });
  std::size_t k = 0;
  each(block, axis, [&](const OpeningFace<D>& face) { value[face.face] = kept[k++]; });
}

template <int D>
void Boundary<D>::set_faces(const Grid<D>& grid, double time, const CellVectors<D>& u, Faces<D>& face_u) const {
  const std::vector<double> speed = speeds(time);
  for_blocks(grid, [&](int b) {
    for (int axis = 0; axis < D; ++axis)
      each(b, axis, [&](const OpeningFace<D>& face) {
        const bool given = static_cast<bool>(openings_[face.opening].flow);
        face_u[axis].block(b)[face.face] =
            face.area * (given ? sign(face) * speed[face.opening] * face.weight : u[axis].block(b)[face.inside]);
      });
  });
}

template <int D>
void Boundary<D>::set_coefficients(const Grid<D>& grid, const std::function<double(const OpeningFace<D>&)>& density,
                                   Faces<D>& acceleration, Faces<D>& inverse_density) const {
  for_blocks(grid, [&](int b) {
    for (int axis = 0; axis < D; ++axis) {
      double* inverse = inverse_density[axis].block(b);
      for (auto* field : {&inverse_density[axis], &acceleration[axis]}) {
        clear(b, axis, *field);
        close(grid, b, axis, field->block(b));
      }
      each(b, axis, [&](const OpeningFace<D>& face) {
        if (!openings_[face.opening].flow) inverse[face.face] = face.area / density(face);
      });
    }
  });
}

template <int D>
std::vector<double> Boundary<D>::pressures(double time) const {
  std::vector<double> values;
  for (const auto& opening : openings_) values.push_back(opening.flow ? 0.0 : opening.pressure(time));
  return values;
}

template <int D>
double Boundary<D>::incoming_share(const OpeningFace<D>& face, std::size_t phase, double inside) const {
  using Outside = typename Opening<D>::Outside;
  const auto& opening = openings_[face.opening];
  assert(phase < opening.composition.size());
  if (opening.share_outside) {
    const std::size_t lightest = opening.composition.size() - 1;
    switch (opening.outside) {
      case Outside::air:
        break;
      case Outside::inside:
        return std::clamp(inside, 0.0, 1.0);
      case Outside::liquid:
        return phase == opening.column_phase ? 1 : 0;
      case Outside::level:
        return phase == (face.middle[D - 1] < opening.outside_level ? opening.column_phase : lightest) ? 1 : 0;
    }
  }
  return opening.composition[phase];
}

/// p (the pressure less rho G.x) on a face whose pressure is given. That pressure is over air at rest outside, which
/// weighs too: else a vessel full of air and open above and below would drain of it. Where a column of something else
/// stands outside it is over air at the height at which the pressure is given.
template <int D>
double Boundary<D>::outside(const OpeningFace<D>& face, const FluidAtOpenings<D>& fluid, const Faces<D>& face_u,
                            const std::vector<double>& pressures) const {
  if (without_pressures_) return 0;
  using Outside = typename Opening<D>::Outside;

  const auto& opening = openings_[face.opening];
  const DensitiesAtOpening density = fluid.densities(face);
  // What comes in was at rest outside: it has spent pressure on its speed (Bernoulli). Without that a draught between
  // two openings would feed itself.
  const double speed = sign(face) * face_u[opening.axis].block(face.block)[face.face] / face.area;
  const double spent = speed > 0 ? 0.5 * density.incoming * speed * speed : 0.0;
  if (opening.outside == Outside::air)
    return pressures[face.opening] - spent - (density.inside - fluid.air_density) * dot<D>(fluid.G, face.middle);
  Vec<D> from = middle_[face.opening];  // where the pressure is given
  if (opening.outside == Outside::level) {
    from = face.middle;
    from[D - 1] = opening.outside_level;
  }
  return pressures[face.opening] - spent + fluid.air_density * dot<D>(fluid.G, from) +
         density.column * dot<D>(fluid.G, minus<D>(face.middle, from)) - density.inside * dot<D>(fluid.G, face.middle);
}

template <int D>
void Boundary<D>::subtract_pressure(const Grid<D>& grid, const FluidAtOpenings<D>& fluid, double time,
                                    const Faces<D>& face_u, const Faces<D>& inverse_density, Cells<D>& rhs) const {
  const std::vector<double> given = pressures(time);
  for_blocks(grid, [&](int b) {
    for (int axis = 0; axis < D; ++axis)
      each(b, axis, [&](const OpeningFace<D>& face) {
        if (openings_[face.opening].flow) return;
        rhs.block(b)[face.inside] -= 2 * inverse_density[axis].block(b)[face.face] / (face.width * face.width) *
                                     outside(face, fluid, face_u, given);
      });
  });
}

template <int D>
void Boundary<D>::set_pressure_behind(const Grid<D>& grid, const FluidAtOpenings<D>& fluid, double time,
                                      const Faces<D>& face_u, Cells<D>& p) const {
  const std::vector<double> given = pressures(time);
  for_blocks(grid, [&](int b) {
    for (int axis = 0; axis < D; ++axis)
      each(b, axis, [&](const OpeningFace<D>& face) {
        if (openings_[face.opening].flow) return;
        double* value = p.block(b);
        value[face.behind] = 2 * outside(face, fluid, face_u, given) - value[face.inside];
      });
  });
}

template <int D>
void Boundary<D>::balance(const Grid<D>& grid, Faces<D>& face_u) const {
  double surplus = 0;  // volume flow in
  double area = 0;     // of faces with a given pressure
  for (const auto& cell : wall_cells_) surplus += cell.speed * cell.area * grid.geometry(cell.block).cell_volume;
  for (int axis = 0; axis < D; ++axis)
    for (const auto& face : faces_[static_cast<std::size_t>(axis)]) {
      surplus += sign(face) * face_u[axis].block(face.block)[face.face] * face.whole_area;
      if (!openings_[face.opening].flow) area += face.area * face.whole_area;
    }
  for (int axis = 0; axis < D; ++axis)
    for (const auto& face : faces_[static_cast<std::size_t>(axis)])
      if (!openings_[face.opening].flow)
        face_u[axis].block(face.block)[face.face] -= sign(face) * surplus / area * face.area;
}

template <int D>
void Boundary<D>::set_velocity_behind(const Grid<D>& grid, const Faces<D>& face_u, CellVectors<D>& u) const {
  const auto through = [&](int axis, const OpeningFace<D>& face) {
    return face_u[axis].block(face.block)[face.face] / face.area;
  };
  set_behind(grid, through, u);
}

template <int D>
double Boundary<D>::column_density(const OpeningFace<D>& face, double inside, double own, double lightest) const {
  using Outside = typename Opening<D>::Outside;
  const auto& opening = openings_[face.opening];
  if (opening.outside == Outside::inside) return inside;
  if (opening.outside == Outside::level && face.middle[D - 1] >= opening.outside_level) return lightest;
  return own;
}

template <int D>
void Boundary<D>::clear(int block, int axis, Cells<D>& field) const {
  each(block, axis, [value = field.block(block)](const OpeningFace<D>& face) { value[face.face] = 0; });
}

template <int D>
double Boundary<D>::open_share(int block, int axis, std::ptrdiff_t face) const {
  double share = 0;
  each(block, axis, [&](const OpeningFace<D>& one) { share += one.face == face ? one.area : 0.0; });
  return share;
}

template class Boundary<2>;
template class Boundary<3>;

}  // namespace wavy
