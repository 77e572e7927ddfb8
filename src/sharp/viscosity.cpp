#include <algorithm>
#include <cmath>
#include <utility>
#include <vector>

#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

constexpr double tolerance = 1e-6;  // how far a velocity may be off, as a share of the greatest one
/// Greatest sum over a cell's faces of dt mu / (rho h^2) for which a step is explicit: it is stable and monotone up to
/// 1, and in the bulk of a phase no less accurate in time than in space up to the first of these.
constexpr double explicit_in_bulk = 0.25;
constexpr double explicit_at_interface = 0.9;

template <int D>
bool depends_on_rate(const Settings<D>& settings) {
  return !settings.liquid.rheology.constant() || !settings.gas.rheology.constant();
}

/// A cell at a wall in which the liquid is a film or a drop: it is less than half full, as all beside it are.
template <int D>
bool holds_film(const double* F, const std::array<std::ptrdiff_t, D>& step) {
  constexpr double most = 0.5;
  return *F > pure && *F < most &&
         std::ranges::all_of(step, [F](std::ptrdiff_t s) { return F[s] < most && F[-s] < most; });
}

/// Stress of a wall over the mean speed of a film upon it [Pa s/m]: of laminar flow (Nusselt, Z. VDI 60 (1916) 541), or
/// of turbulent flow by Blasius' law with four times the depth as hydraulic diameter, whichever is more.
template <int D>
double film_friction(const Settings<D>& settings, double depth, double speed) {
  const double mu = viscosity(settings, 1, 3 * speed / depth);
  if (mu <= 0) return 0;
  const double rho = settings.liquid.density;
  const double reynolds = rho * speed * 4 * depth / mu;
  const double turbulent = speed > 0 ? 0.0395 * std::pow(reynolds, -0.25) * rho * speed : 0.0;
  return std::max(3 * mu / depth, turbulent);
}

/// Shear rate sqrt(2 S:S) on the low face of a cell across `axis`, S = (grad u + grad u^T)/2 [1/s]. `radius`: of the
/// cell's middle, where there is an axis of revolution.
template <int D>
double shear_rate(const std::array<const double*, D>& u, const Layout<D>& layout, const Vec<D>& h, int axis,
                  std::ptrdiff_t at, const double* radius = nullptr) {
  const std::ptrdiff_t s = layout.step[static_cast<std::size_t>(axis)];
  std::array<Vec<D>, D> gradient;  // [component][direction]
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      const double* v = u[c] + at;
      const std::ptrdiff_t e = layout.step[d];
      gradient[c][d] =
          static_cast<int>(d) == axis ? (v[0] - v[-s]) / h[d] : (v[e] - v[-e] + v[e - s] - v[-e - s]) / (4 * h[d]);
    }
  double sum = 0;
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      const double s_cd = 0.5 * (gradient[c][d] + gradient[d][c]);
      sum += 2 * s_cd * s_cd;
    }
  if (radius != nullptr) sum += 2 * std::pow(u[0][at] / *radius, 2);
  return std::sqrt(sum);
}

/// Both phases' viscosities at a face.
struct BothViscosities {
  double liquid = 0;
  double gas = 0;
  /// Stress across the layers (they share the stress) and along them (they share the rate of strain).
  [[nodiscard]] double in_series(double share) const {
    if (share <= 0) return gas;
    if (share >= 1) return liquid;
    return liquid > 0 && gas > 0 ? 1 / (share / liquid + (1 - share) / gas) : 0.0;
  }
  [[nodiscard]] double side_by_side(double share) const { return gas + (liquid - gas) * share; }
};

/// The phases' viscosities at a shear rate [1/s].
template <int D>
BothViscosities viscosities_at(const Settings<D>& settings, double rate) {
  const auto own = [rate](const Properties& fluid) {
    return fluid.rheology.constant() ? fluid.viscosity : fluid.rheology(rate);
  };
  return {own(settings.liquid), own(settings.gas)};
}

/// u takes the accelerations of the last step for dt.
template <int D>
void push(const Grid<D>& grid, const OpenSpace<D>& space, State<D>& state, double dt) {
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d) {
      double* u = state.u[d].block(b);
      const double* a = state.acceleration[d].block(b);
      for_open_rows<D>(space, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) u[o + i] += dt * a[o + i];
      });
    }
  });
}

/// The interface in a cell as the stress on its faces sees it.
template <int D>
struct Section {
  std::ptrdiff_t at = 0;
  Vec<D> normal{};                            ///< physical, of length 1
  std::array<std::array<double, 2>, D> half;  ///< [axis][lower, upper]: liquid's share of that half of the cell
};

template <int D>
Section<D> section_of(const double* F, std::ptrdiff_t at, const Layout<D>& layout, const Vec<D>& h) {
  Section<D> result;
  result.at = at;
  const Vec<D> out = direction_out<D>(F + at, layout.step);
  double square = 0;
  for (std::size_t d = 0; d < D; ++d) {
    result.normal[d] = out[d] / h[d];
    square += result.normal[d] * result.normal[d];
  }
  if (square <= 0) {
    for (auto& axis : result.half) axis = {F[at], F[at]};
    return result;
  }
  for (double& c : result.normal) c /= std::sqrt(square);
  const Plane<D> plane = plane_through<D>(out, F[at]);
  for (std::size_t d = 0; d < D; ++d) {
    const double lower = slab_share<D>(plane, static_cast<int>(d), 0, 0.5);
    result.half[d] = {2 * lower, 2 * (F[at] - lower)};
  }
  return result;
}

/// How much the stress tau_cd acts across the interface: 1 where it is the shear along an interface of this normal, 0
/// where it is a stress within it or upon it. In 2-D the square of the cosine of twice the angle (shear) or of its
/// sine.
template <int D>
double share_across(const Vec<D>& normal, std::size_t c, std::size_t d) {
  const double a = normal[c] * normal[c];
  const double b = normal[d] * normal[d];
  return std::clamp(c == d ? 4 * a * (1 - a) : a + b - 4 * a * b, 0.0, 1.0);
}

}  // namespace

template <int D>
double viscosity(const Settings<D>& settings, double F, double rate) {
  return viscosities_at(settings, rate).side_by_side(F);
}

template <int D>
Viscosity<D>::Viscosity(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>* boundary,
                        const WallVelocity<D>& walls)
    : space_(&space),
      boundary_(boundary == nullptr || boundary->closed() ? nullptr : boundary),
      walls_(&walls),
      stress_(grid, space, walls) {}

template <int D>
int Viscosity<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& extended_fraction,
                             const Cells<D>& mass, State<D>& state, double dt) {
  const auto inviscid = [](const Properties& fluid) { return fluid.rheology.constant() && fluid.viscosity <= 0; };
  if (inviscid(settings.liquid) && inviscid(settings.gas)) return 0;
  walls_->set_in_solids(grid, false, state.u);
  const bool by_rate = depends_on_rate(settings);
  if (by_rate) fill_halos(grid, settings, state);
  const bool explicitly = set_coefficients(grid, settings, extended_fraction, state, dt);
  finish_coefficients(grid, settings, mass, state, dt, explicitly);
  if (explicitly) {
    push(grid, *space_, state, dt);
    fill_halos(grid, settings, state);
    stress_.step_explicitly(grid, mass, state.u);
    if (settings.records_drag) stress_.record_drag(grid, state.u, dt);
    push(grid, *space_, state, -dt);
    walls_->set_in_solids(grid, true, state.u);
    return 0;
  }
  // The velocity that comes in has the last forces in it and not yet their friction: where the viscosity depends on the
  // shear rate, that of the solution is put in its place (Picard's iteration).
  if (!by_rate) fill_halos(grid, settings, state);
  CellVectors<D> start;
  if (by_rate) start = state.u;
  stress_.set_right_hand_sides(grid, mass, state.u, state.acceleration, dt);
  push(grid, *space_, state, dt);

  double scale = 1e-30;
  for (int d = 0; d < D; ++d) {
    const Cells<D>& u = state.u[d];
    scale = std::max(scale, max_blocks(grid, [&](int b) {
                       const double* v = u.block(b);
                       double greatest = 0;
                       for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd reduction(max : greatest)
                         for (int i = 0; i < n; ++i) greatest = std::max(greatest, std::abs(v[o + i]));
                       });
                       return greatest;
                     }));
  }
  int iterations = 0;
  constexpr int rounds = 3;
  for (int round = 0; round < (by_rate ? rounds : 1); ++round) {
    if (round > 0) {
      fill_halos(grid, settings, state);
      set_coefficients(grid, settings, extended_fraction, state, dt);
      finish_coefficients(grid, settings, mass, state, dt, explicitly);
      stress_.set_right_hand_sides(grid, mass, start, state.acceleration, dt);
    }
    for (int c = 0; c < D; ++c)
      iterations += stress_.solve(grid, settings.walls, c, mass, tolerance * scale, state.u[c]);
  }
  if (settings.records_drag) stress_.record_drag(grid, state.u, dt);
  // The cells of a group go on with one velocity, beside what their wall does by itself: fluid so thick follows it.
  stress_.share_in_groups(grid, mass, state.u);
  push(grid, *space_, state, -dt);
  walls_->set_in_solids(grid, true, state.u);
  return iterations;
}

template <int D>
void Viscosity<D>::fill_halos(const Grid<D>& grid, const Settings<D>& settings, State<D>& state) const {
  fill_velocity_halo<D>(grid, *space_, settings.walls, *walls_, 1, state.u);
  if (boundary_ == nullptr) return;
  for (int c = 0; c < D; ++c) boundary_->set_velocity_behind(grid, state.face_u, c, state.u[c]);
}

/// What solids and openings change: no stress acts through an opening.
template <int D>
void Viscosity<D>::finish_coefficients(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& mass,
                                       const State<D>& state, double dt, bool explicitly) {
  if (!space_->is_uncut()) hold(grid, settings, mass, state, dt, explicitly);
  if (boundary_ == nullptr) return;
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d)
      for (int c = 0; c < D; ++c)
        boundary_->clear(b, d, stress_.faces()[static_cast<std::size_t>(d)][static_cast<std::size_t>(c)]);
  });
}

/// Momentum that the walls in a wall cell of a block take per velocity in a step [kg/m3].
template <int D>
double Viscosity<D>::wall_friction_coefficient(const Settings<D>& settings, const Layout<D>& layout,
                                               const State<D>& state, double dt, int block, std::size_t number) const {
  const auto& wall = space_->wall_cells(block)[number];
  if (settings.solid_walls == Wall::slip || (boundary_ != nullptr && boundary_->passes(block, wall.at))) return 0;
  const double* F = state.F.block(block) + wall.at;
  const bool film = wall.friction > 0 && wall.area > 0 && holds_film<D>(F, layout.step);
  double speed = 0;  // along the wall
  if (film || (depends_on_rate(settings) && wall.area > 0)) {
    const Vec<D> own = walls_->in_cell(block, number);
    for (std::size_t c = 0; c < D; ++c) speed += std::pow(state.u[c].block(block)[wall.at] - own[c], 2);
    speed = std::sqrt(speed);
  }
  const double rate = speed > 0 ? speed * wall.friction / wall.area : 0.0;
  const double layer = dt * wall.friction * viscosity(settings, *F, rate);
  if (!film) return layer;
  const double depth = *F * space_->volume().block(block)[wall.at] / wall.area;
  return std::max(layer, dt * wall.area * film_friction<D>(settings, depth, speed));
}

/// Friction of all walls, and what it adds to the masses.
template <int D>
void Viscosity<D>::hold(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& mass, const State<D>& state,
                        double dt, bool explicitly) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    auto& friction = stress_.wall_friction(b);
    for (std::size_t k = 0; k < friction.size(); ++k)
      friction[k] = wall_friction_coefficient(settings, layout, state, dt, b, k);
  });
  stress_.set_held(grid, mass, !explicitly || space_->axisymmetric());
  if (!space_->axisymmetric()) return;
  // The stress round the axis, 2 mu u_r / r, pulls along r alone.
  for_blocks(grid, [&](int b) {
    if (space_->is_uncut(b)) return;
    const double* F = state.F.block(b);
    const double* held = stress_.held().block(b);
    double* radial = stress_.held_radial().block(b);
    const double* volume = space_->volume().block(b);
    const Vec<D>& h = grid.geometry(b).spacing;
    std::array<const double*, D> u;
    for (std::size_t c = 0; c < D; ++c) u[c] = state.u[c].block(b);
    for_open_rows<D>(*space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double r = space_->radius_in_cells(b, layout, at) * h[0];
        const double rate = depends_on_rate(settings) ? shear_rate<D>(u, layout, h, 0, at, &r) : 0.0;
        const double mu = viscosity(settings, F[at], rate);
        radial[at] = held[at] + dt * volume[at] * 2 * mu / (r * r);
      }
    });
  });
}

/// dt mu / h^2 on the faces, times the space's conductances (where walls slip, areas), for every component. Returns
/// whether they allow an explicit step. Halos of F (2) and, where viscosities depend on the shear rate, u (1) must be
/// filled.
template <int D>
bool Viscosity<D>::set_coefficients(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& extended_fraction,
                                    const State<D>& state, double dt) {
  const Layout<D>& layout = grid.layout();
  auto& faces = stress_.faces();
  const BothViscosities constant{settings.liquid.viscosity, settings.gas.viscosity};
  const bool by_rate = depends_on_rate(settings);
  const auto at_rate = [&](double rate) { return viscosities_at(settings, rate); };
  constexpr int faces_of_cell = 2 * (D - 1) + 4;  // of a cell, those across the component's own axis counted twice
  const double strongest = max_blocks(grid, [&](int b) {  // as a share of what an explicit step allows
    const Vec<D>& h = grid.geometry(b).spacing;
    const double* F = extended_fraction.block(b);
    std::array<const double*, D> u;
    for (std::size_t c = 0; c < D; ++c) u[c] = state.u[c].block(b);
    const auto rate_at = [&](int axis, std::ptrdiff_t at) {
      if (!space_->axisymmetric()) return shear_rate<D>(u, layout, h, axis, at);
      const double radius = space_->radius_in_cells(b, layout, at) * h[0];
      return shear_rate<D>(u, layout, h, axis, at, &radius);
    };
    std::array<const double*, D> face_conductance{};
    const auto& face_conductances = settings.solid_walls == Wall::slip ? space_->area() : space_->face_conductance();
    if (!space_->is_uncut(b))
      for (std::size_t d = 0; d < D; ++d) face_conductance[d] = face_conductances[d].block(b);
    // Away from the interface, where all components see the same.
    double bulk = 0;
    for (std::size_t d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double factor = dt / (h[d] * h[d]);
      double* first = faces[d][0].block(b);
      for_open_rows<D>(
          *space_, b, layout, Index<D>{}, faces_end<D>(layout, static_cast<int>(d)), [&](std::ptrdiff_t o, int n) {
            if (by_rate) {
              for (std::ptrdiff_t at = o; at < o + n; ++at) {
                const auto mu = at_rate(rate_at(static_cast<int>(d), at));
                first[at] = factor * mu.side_by_side(0.5 * (F[at] + F[at - s]));
                bulk = std::max(bulk, first[at] / std::min(density(settings, F[at]), density(settings, F[at - s])));
              }
            } else {
#pragma omp simd
              for (int i = 0; i < n; ++i)
                first[o + i] = factor * constant.side_by_side(0.5 * (F[o + i] + F[o + i - s]));
            }
            if (face_conductance[d] != nullptr) {
#pragma omp simd
              for (int i = 0; i < n; ++i) first[o + i] *= face_conductance[d][o + i];
            }
            for (std::size_t c = 1; c < D; ++c) std::copy_n(first + o, n, faces[d][c].block(b) + o);
          });
      if (!by_rate)
        bulk = std::max(
            {bulk, factor * constant.liquid / settings.liquid.density, factor * constant.gas / settings.gas.density});
    }
    // Faces beside the interface.
    thread_local std::vector<std::ptrdiff_t> beside;  // the cells of this block that have one
    beside.clear();
    const auto set_face = [&](std::size_t d, std::ptrdiff_t at, double share, const Vec<D>& normal) {
      const double factor = dt / (h[d] * h[d]) * (face_conductance[d] == nullptr ? 1.0 : face_conductance[d][at]);
      const BothViscosities mu = by_rate ? at_rate(rate_at(static_cast<int>(d), at)) : constant;
      const double series = mu.in_series(share);
      const double parallel = mu.side_by_side(share);
      for (std::size_t c = 0; c < D; ++c) {
        const double across = share_across<D>(normal, c, d);
        faces[d][c].block(b)[at] = factor * (across * series + (1 - across) * parallel);
      }
      for (const std::ptrdiff_t cell : {at, at - layout.step[d]}) {
        const int place = axis_index<D>(layout, cell, static_cast<int>(d));
        if (place >= 0 && place < layout.cells[d]) beside.push_back(cell);
      }
    };
    thread_local std::vector<Section<D>> sections;
    thread_local std::vector<int> number;  // of the section in a cell, -1 where there is none
    sections.clear();
    number.resize(layout.size, -1);
    int* of = number.data() + layout.first;
    Index<D> lo{};
    Index<D> hi = layout.cells;
    for (std::size_t d = 0; d < D; ++d) {
      --lo[d];
      ++hi[d];
    }
    for_open_rows<D>(*space_, b, layout, lo, hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (!is_mixed(F[at])) continue;
        of[at] = static_cast<int>(sections.size());
        sections.push_back(section_of<D>(F, at, layout, h));
      }
    });
    for (std::size_t d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      for_open_rows<D>(*space_, b, layout, Index<D>{}, faces_end<D>(layout, static_cast<int>(d)),
                       [&](std::ptrdiff_t o, int n) {
                         for (std::ptrdiff_t at = o; at < o + n; ++at) {
                           const int high = of[at];
                           const int low = of[at - s];
                           if (high < 0 && low < 0 && std::abs(F[at] - F[at - s]) < 0.5) continue;
                           Vec<D> normal{};
                           double share = 0;
                           if (low >= 0) {
                             const auto& section = sections[static_cast<std::size_t>(low)];
                             share += 0.5 * section.half[d][1];
                             for (std::size_t e = 0; e < D; ++e) normal[e] += section.normal[e];
                           } else {
                             share += 0.5 * F[at - s];
                           }
                           if (high >= 0) {
                             const auto& section = sections[static_cast<std::size_t>(high)];
                             share += 0.5 * section.half[d][0];
                             for (std::size_t e = 0; e < D; ++e) normal[e] += section.normal[e];
                           } else {
                             share += 0.5 * F[at];
                           }
                           const double length = std::sqrt(dot<D>(normal, normal));
                           if (length > 0)
                             for (double& c : normal) c /= length;
                           else
                             normal[d] = 1;  // the face itself is the interface
                           set_face(d, at, share, normal);
                         }
                       });
    }
    for (const auto& section : sections) of[section.at] = -1;
    double interface = 0;  // light cells there feel the other phase's viscosity
    const OpenVolumes<D> open_volumes(*space_, b);
    for (const std::ptrdiff_t at : beside) {
      const double weight = space_->is_uncut(b) ? 1.0 : space_->weight(b, layout, at);
      const double mass = std::max(open_volumes[at], OpenSpace<D>::small * weight) * density(settings, F[at]);
      for (std::size_t c = 0; c < D; ++c) {
        double sum = 0;
        for (std::size_t d = 0; d < D; ++d) {
          const double* face = faces[d][c].block(b) + at;
          sum += (d == c ? 2 : 1) * (face[0] + face[layout.step[d]]);
        }
        interface = std::max(interface, sum / mass);
      }
    }
    return std::max(faces_of_cell * bulk / explicit_in_bulk, interface / explicit_at_interface);
  });
  return strongest <= 1;
}

/// Sets `mass` in the open rows of all blocks and one layer round them, by the volume of what is open in each cell.
template <int D>
void set_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                const Cells<D>& volumes, Cells<D>& mass) {
  Index<D> lo;
  Index<D> hi = grid.layout().cells;
  lo.fill(-1);
  for (int& end : hi) ++end;
  for_blocks(grid, [&](int b) {
    const double* f = F.block(b);
    double* m = mass.block(b);
    const double* volume = space.is_uncut(b) ? nullptr : volumes.block(b);
    for_open_rows<D>(space, b, grid.layout(), lo, hi, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        const double rho = density(settings, f[o + i]);
        m[o + i] = volume == nullptr ? rho : volume[o + i] > 0 ? volume[o + i] * rho : 1.0;
      }
    });
  });
}

template <int D>
void find_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                 Cells<D>& mass) {
  set_masses(grid, space, settings, F, space.volume(), mass);
}

template <int D>
void find_section_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                         Cells<D>& mass) {
  set_masses(grid, space, settings, F, space.share(), mass);
}

template void find_masses<2>(const Grid<2>&, const OpenSpace<2>&, const Settings<2>&, const Cells<2>&, Cells<2>&);
template void find_masses<3>(const Grid<3>&, const OpenSpace<3>&, const Settings<3>&, const Cells<3>&, Cells<3>&);
template void find_section_masses<2>(const Grid<2>&, const OpenSpace<2>&, const Settings<2>&, const Cells<2>&,
                                     Cells<2>&);
template void find_section_masses<3>(const Grid<3>&, const OpenSpace<3>&, const Settings<3>&, const Cells<3>&,
                                     Cells<3>&);
template double viscosity<2>(const Settings<2>&, double, double);
template double viscosity<3>(const Settings<3>&, double, double);
template class Viscosity<2>;
template class Viscosity<3>;

}  // namespace wavy::sharp
