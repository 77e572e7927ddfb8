#include "flow/viscous_stress.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

namespace wavy {
namespace {

/// One velocity component for all cells of a group, beside that of their walls: what they have of momentum by what they
/// hold. (Cell merging: Ye et al., J. Comput. Phys. 156 (1999) 209.) `mass` and `held`: over the volume of a whole
/// cell. Of the groups within a block, or of those across blocks for the number of blocks.
template <int D>
void share_momentum(const OpenSpace<D>& space, int block, const WallVelocity<D>& walls, std::size_t component,
                    const Cells<D>& mass, const Cells<D>& held, Cells<D>& u) {
  for_groups<D>(space, block, {&mass, &held, &u}, [&](std::size_t number, const auto& group) {
    const double wall = walls.in_group(number)[component];
    double momentum = 0;
    double sum = 0;
    for (const auto& [b, at] : group) {
      momentum += mass.block(b)[at] * (u.block(b)[at] - wall);
      sum += held.block(b)[at];
    }
    for (const auto& [b, at] : group) u.block(b)[at] = momentum / sum + wall;
  });
}

}  // namespace

template <int D>
double greatest_component(const Grid<D>& grid, const std::type_identity_t<CellVectors<D>>& u) {
  double all = 0;
  for (const Cells<D>& component : u)
    all = std::max(all, max_blocks(grid, [&](int b) {
                     const double* v = component.block(b);
                     double greatest = 0;
                     for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd reduction(max : greatest)
                       for (int i = 0; i < n; ++i) greatest = std::max(greatest, std::abs(v[o + i]));
                     });
                     return greatest;
                   }));
  return all;
}

template <int D>
void accelerate(const Grid<D>& grid, const OpenSpace<D>& space,
                const std::type_identity_t<CellVectors<D>>& acceleration, double dt,
                std::type_identity_t<CellVectors<D>>& u) {
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d) {
      double* v = u[d].block(b);
      const double* a = acceleration[d].block(b);
      for_open_rows<D>(space, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) v[o + i] += dt * a[o + i];
      });
    }
  });
}

template <int D>
ViscousStress<D>::ViscousStress(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds,
                                const WallVelocity<D>& walls, const WallElements<D>& elements,
                                TurningSolids<D>* turning)
    : space_(space),
      kinds_(kinds),
      wall_velocity_(walls),
      elements_(elements),
      turning_(turning),
      implicit_(grid, &space) {
  if (!space.is_uncut() || turning_ != nullptr) held_.fill(Cells<D>(grid, 1.0));
  for (int d = 0; d < D; ++d) {
    rhs_[d] = Cells<D>(grid);
    for (auto& face : face_[d]) face = Cells<D>(grid);
  }
  if (space.is_uncut()) return;
  for (int b = 0; b < grid.blocks(); ++b) wall_friction_.emplace_back(this->walls(b).size());
  gradients_.emplace(grid, space, kinds, walls, elements);
  kept_.emplace(grid, *gradients_, [&](std::size_t c) { return velocity_rules<D>(kinds_, static_cast<int>(c)); });
  told_.resize(static_cast<std::size_t>(grid.blocks()));
  const Layout<D>& layout = grid.layout();
  const CellRange<D> near = with_layers(layout, 1);
  for (int b = 0; b < grid.blocks(); ++b)
    for_rows<D>(layout, near.lo, near.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (!gradients_->tells(b, at) || space_.volume().block(b)[at] == 0) continue;
        Told told{.at = at, .kept = kept_->place(b, at)};
        for (int d = 0; d < D; ++d) told.index[d] = axis_index<D>(layout, at, d);
        told_[static_cast<std::size_t>(b)].push_back(told);
      }
    });
}

template <int D>
void ViscousStress<D>::share_in_groups(const Grid<D>& grid, const Cells<D>& mass, CellVectors<D>& u) const {
  for (std::size_t c = 0; c < D; ++c)
    for (int b = 0; b <= grid.blocks(); ++b) share_momentum(space_, b, wall_velocity_, c, mass, mass, u[c]);
}

/// What holds the fluid beside solids: its mass and their friction. In explicit steps only cells beside walls and in
/// groups are asked for, but round an axis and where solids turn.
template <int D>
void ViscousStress<D>::set_held(const Grid<D>& grid, const Cells<D>& mass, bool implicitly) {
  if (held_[0].data().empty()) return;
  const Layout<D>& layout = grid.layout();
  const bool everywhere = implicitly || space_.axisymmetric() || turning_ != nullptr;
  if (!everywhere)
    for (Cells<D>& component : held_)
      for (const auto& group : space_.groups())
        for (const auto& [b, at] : group) component.block(b)[at] = mass.block(b)[at];
  for_blocks(grid, [&](int b) {
    const double* m = mass.block(b);
    for (std::size_t c = 0; c < D; ++c) {
      double* held = held_[c].block(b);
      if (everywhere)
        for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) { std::copy_n(m + o, n, held + o); });
      if (space_.is_uncut(b)) continue;
      for (const auto& cell : space_.wall_cells(b)) held[cell.at] = m[cell.at];
      const auto own = walls(b);
      const auto& friction = wall_friction_[static_cast<std::size_t>(b)];
      for (std::size_t k = 0; k < own.size(); ++k)
        if (rubs(own[k], c)) held[own[k].at] += friction[k];
    }
  });
  if (turning_ == nullptr) return;
  turning_->find_penalties(grid, mass, face_);
  turning_->part_stress(grid, face_);
  if (!implicitly) return;
  for_blocks(grid, [&](int b) {
    for (const auto& cell : turning_->cells(b))
      for (Cells<D>& component : held_) component.block(b)[cell.at] += cell.penalty * mass.block(b)[cell.at];
  });
}

/// After an explicit step to u: cells in turning solids take their velocity.
template <int D>
void ViscousStress<D>::penalise(const Grid<D>& grid, std::size_t c, const Cells<D>& mass, Cells<D>& u) {
  if (turning_ == nullptr) return;
  for_blocks(grid, [&](int b) {
    for (auto& cell : turning_->cells(b)) {
      const double m = mass.block(b)[cell.at];
      const double held = held_[c].block(b)[cell.at];
      double& own = u.block(b)[cell.at];
      const double free = held * own;
      own = (free + m * cell.pull(c)) / (held + cell.penalty * m);
      cell.momentum[c] = free - (held - m) * own - m * cell.gain[c];
    }
  });
}

/// With all but the solid: what came in, the stress, and what walls take.
template <int D>
void ViscousStress<D>::keep_turning_momenta(const Grid<D>& grid, const Cells<D>& mass, const CellVectors<D>& u) {
  if (turning_ == nullptr) return;
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    for (auto& cell : turning_->cells(b)) {
      const std::ptrdiff_t a = cell.at;
      const double m = mass.block(b)[a];
      for (std::size_t c = 0; c < D; ++c) {
        const double by_walls = held_[c].block(b)[a] - m * (1 + cell.penalty);
        const double* v = u[c].block(b);
        double stress = 0;
        for (std::size_t d = 0; d < D; ++d) {
          const std::ptrdiff_t s = layout.step[d];
          const double* face = face_[d][c].block(b);
          const double flux = face[a + s] * (v[a + s] - v[a]) - face[a] * (v[a] - v[a - s]);
          stress += d == c ? 2 * flux : flux;
        }
        cell.momentum[c] += stress - by_walls * v[a] - m * cell.gain[c];
      }
    }
  });
}

/// fn(offset, momentum) for every wall that moves beside a cell of a block: what it gives to the fluid [kg/(m2 s)].
template <int D>
template <class Fn>
void ViscousStress<D>::for_moving_wall_momentum(int block, Fn&& fn) const {
  if (wall_velocity_.none() || space_.is_uncut()) return;
  const auto own = walls(block);
  const auto& friction = wall_friction_[static_cast<std::size_t>(block)];
  for (std::size_t k = 0; k < own.size(); ++k) {
    if (own[k].motion == MovingWalls<D>::none) continue;
    Vec<D> momentum = wall_velocity_.of(own[k]);
    for (double& c : momentum) c *= friction[k];
    fn(own[k].at, momentum);
  }
}

/// At walls that are met by their law the fluid is so fast that these say nothing of its gradient.
template <int D>
void ViscousStress<D>::find_gradients(const CellVectors<D>& u, bool law_of_wall) {
  if (!gradients_) return;
  kept_->keep([&](std::size_t piece) {
    const auto fits = gradients_->fit(gradients_->pieces()[piece], u, !law_of_wall);
    typename KeptGradients<D>::Matrix gradients;
    for (std::size_t c = 0; c < D; ++c) gradients[c] = fits[c].gradient;
    return gradients;
  });
}

/// Puts the gradients at walls in the place of what `out`, of a component, has of differences along its axis of the
/// other components: these look through walls, and into groups of cells that have one velocity. `mass`: divides what is
/// put in; null: nothing does.
template <int D>
void ViscousStress<D>::put_gradients(const Grid<D>& grid, int block, std::size_t c, const CellVectors<D>& u,
                                     const double* mass, double* out) const {
  if (!gradients_) return;
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.geometry(block).spacing;
  const std::ptrdiff_t sc = layout.step[c];
  for (const auto& [at, index, place] : told_[static_cast<std::size_t>(block)]) {
    if (index[c] < 0 || index[c] >= layout.cells[c]) continue;
    for (std::size_t d = 0; d < D; ++d) {
      if (d == c) continue;
      const double* v = u[d].block(block) + at;
      const double more = 2 * h[c] * (*kept_)[place][d][c] - (v[sc] - v[-sc]);
      const double* face = face_[d][c].block(block) + at;
      const std::ptrdiff_t s = layout.step[d];
      const int i = index[d];
      const int last = layout.cells[d] - 1;
      const auto add = [&, to_flux = h[d] / (4 * h[c]) * more](std::ptrdiff_t to, double flux) {
        flux *= to_flux;
        out[to] += mass == nullptr ? flux : flux / mass[to];
      };
      if (i > 0) add(at - s, face[0]);
      if (i >= 0 && i <= last) add(at, face[s] - face[0]);
      if (i < last) add(at + s, -face[s]);
    }
  }
}

/// u += dt/rho div(mu (grad u + grad u^T)), all of it with the components as they were.
template <int D>
void ViscousStress<D>::step_explicitly(const Grid<D>& grid, const Cells<D>& mass, bool law_of_wall,
                                       CellVectors<D>& velocity) {
  find_gradients(velocity, law_of_wall);
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const Vec<D>& h = grid.geometry(b).spacing;
    const double* m = mass.block(b);
    std::array<const double*, D> u;
    for (std::size_t c = 0; c < D; ++c) u[c] = velocity[c].block(b);
    for (std::size_t c = 0; c < D; ++c) {
      double* out = rhs_[c].block(b);
      const double* own = u[c];
      const std::ptrdiff_t sc = layout.step[c];
      std::array<const double*, D> face;
      for (std::size_t d = 0; d < D; ++d) face[d] = face_[d][c].block(b);
      for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          double sum = 0;
          for (std::size_t d = 0; d < D; ++d) {
            const std::ptrdiff_t s = layout.step[d];
            const double low = face[d][a];
            const double high = face[d][a + s];
            if (d == c) {
              sum += 2 * (high * (own[a + s] - own[a]) - low * (own[a] - own[a - s]));
            } else {
              const double* v = u[d] + a;
              const double factor = h[d] / (4 * h[c]);
              sum += high * (own[a + s] - own[a] + factor * (v[sc + s] - v[-sc + s] + v[sc] - v[-sc])) -
                     low * (own[a] - own[a - s] + factor * (v[sc] - v[-sc] + v[sc - s] - v[-sc - s]));
            }
          }
          out[a] = own[a] + sum / m[a];
        }
      });
      put_gradients(grid, b, c, velocity, m, out);
      if (space_.is_uncut(b)) continue;
      // Friction at walls, implicit; of groups that on all their cells.
      const Cells<D>& masses = this->held(static_cast<int>(c), mass);
      const double* held = masses.block(b);
      const double* grouped = space_.grouped().block(b);
      for_moving_wall_momentum(b, [&](std::ptrdiff_t a, const Vec<D>& momentum) { out[a] += momentum[c] / m[a]; });
      const auto slow_down = [&](std::ptrdiff_t a) { out[a] *= grouped[a] == 0 ? m[a] / held[a] : 1.0; };
      if (is_radial(static_cast<int>(c))) {
        for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t a = o; a < o + n; ++a) slow_down(a);
        });
      } else {
        for (const auto& wall : space_.wall_cells(b)) slow_down(wall.at);
      }
      share_momentum(space_, b, walls_at_rest<D>(), c, mass, masses, rhs_[c]);
    }
  });
  for (std::size_t c = 0; c < D; ++c) {
    share_momentum(space_, grid.blocks(), walls_at_rest<D>(), c, mass, held(static_cast<int>(c), mass), rhs_[c]);
    penalise(grid, c, mass, rhs_[c]);
    std::swap(velocity[c].data(), rhs_[c].data());
  }
}

/// rhs = rho (u + dt a) + dt sum_d d_d(mu d_c u_d), d != c, with all components as they were: those without a are free
/// of divergence, and the sum nearly nothing; with it, it would grow from step to step.
template <int D>
void ViscousStress<D>::set_right_hand_sides(const Grid<D>& grid, const Cells<D>& mass, const CellVectors<D>& u,
                                            const CellVectors<D>& acceleration, double dt, bool law_of_wall) {
  find_gradients(u, law_of_wall);
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const Vec<D>& h = grid.geometry(b).spacing;
    const double* rho = mass.block(b);
    for (int c = 0; c < D; ++c) {
      double* out = rhs_[c].block(b);
      const double* own = u[c].block(b);
      const double* gain = acceleration[c].block(b);
      for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) out[o + i] = rho[o + i] * (own[o + i] + dt * gain[o + i]);
      });
      const std::ptrdiff_t sc = layout.step[c];
      for (int d = 0; d < D; ++d) {
        if (d == c) continue;
        const double* v = u[d].block(b);
        const double* face = face_[d][c].block(b);
        const std::ptrdiff_t s = layout.step[d];
        const double factor = h[d] / (4 * h[c]);
        const auto across = [v, sc, s](std::ptrdiff_t a) {  // 4 h_c times the derivative along c on the low d-face
          return v[a + sc] - v[a - sc] + v[a + sc - s] - v[a - sc - s];
        };
        for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) {
            const std::ptrdiff_t a = o + i;
            out[a] += factor * (face[a + s] * across(a + s) - face[a] * across(a));
          }
        });
      }
      put_gradients(grid, b, static_cast<std::size_t>(c), u, nullptr, out);
      for_moving_wall_momentum(
          b, [&](std::ptrdiff_t a, const Vec<D>& momentum) { out[a] += momentum[static_cast<std::size_t>(c)]; });
      if (turning_ == nullptr) continue;
      for (auto& cell : turning_->cells(b)) {
        const auto component = static_cast<std::size_t>(c);
        cell.momentum[component] = out[cell.at];
        out[cell.at] += rho[cell.at] * cell.pull(component);
      }
    }
  });
  wall_velocity_.set_in_solids(grid, false, rhs_);  // where they have a mass of 1 for themselves
}

/// rho x - dt sum_d d_d(mu d_d x) = rhs for each component, the normal direction counted twice. A quarter of a turn has
/// the first two beside each other.
template <int D>
int ViscousStress<D>::solve(const Grid<D>& grid, const Cells<D>& mass, double allowed, CellVectors<D>& u) {
  const auto equation = [&](int c) {
    std::array<const Cells<D>*, D> faces;
    for (int d = 0; d < D; ++d) faces[d] = &face_[d][c];
    return typename ImplicitDiffusion<D>::Equation{held(c, mass), faces, c, rhs_[c], u[c]};
  };
  int iterations = 0;
  int first = 0;
  if (grid.turn() == Turn::quarter) {
    const VectorRules<D> rules = velocity_rules<D>(kinds_);
    const auto fill = [&] {
      fill_halo(grid, u, 1, rules);
      for (int c = 0; c < 2; ++c) wall_velocity_.add_behind(grid, c, 1, u[c]);
    };
    iterations += implicit_.solve(grid, {equation(0), equation(1)}, allowed, fill,
                                  [&](CellVectors<D>& changes) { fill_halo(grid, changes, 1, rules); });
    first = 2;
  }
  for (int c = first; c < D; ++c) {
    const HaloRules<D> rules = velocity_rules<D>(kinds_, c);
    const auto fill = [&] {
      fill_component_halo(grid, c, u[c], 1, rules);
      wall_velocity_.add_behind(grid, c, 1, u[c]);
    };
    iterations += implicit_.solve(grid, {equation(c)}, allowed, fill,
                                  [&](CellVectors<D>& changes) { fill_component_halo(grid, c, changes[0], 1, rules); });
  }
  return iterations;
}

template double greatest_component<2>(const Grid<2>&, const CellVectors<2>&);
template void accelerate<2>(const Grid<2>&, const OpenSpace<2>&, const CellVectors<2>&, double, CellVectors<2>&);
template class ViscousStress<2>;
template double greatest_component<3>(const Grid<3>&, const CellVectors<3>&);
template void accelerate<3>(const Grid<3>&, const OpenSpace<3>&, const CellVectors<3>&, double, CellVectors<3>&);
template class ViscousStress<3>;

}  // namespace wavy
