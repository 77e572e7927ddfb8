#include "flow/viscous_stress.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

#include "linear/conjugate_gradients.hpp"

namespace wavy {
namespace {

constexpr int most_iterations = 500;

/// A sum and a greatest value over the blocks, in tree order.
struct SumAndGreatest {
  double sum = 0;
  double greatest = 0;
};

template <int D, class Fn>
SumAndGreatest reduce(const Grid<D>& grid, Fn&& fn) {
  std::vector<SumAndGreatest> parts(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) { parts[static_cast<std::size_t>(b)] = fn(b); });
  SumAndGreatest total;
  for (const auto& part : parts) {
    total.sum += part.sum;
    total.greatest = std::max(total.greatest, part.greatest);
  }
  return total;
}

/// One velocity component for all cells of a group, beside that of their walls: what they have of momentum by what they
/// hold. (Cell merging: Ye et al., J. Comput. Phys. 156 (1999) 209.) `mass` and `held`: over the volume of a whole
/// cell. Of the groups within a block, or of those across blocks for the number of blocks.
template <int D>
void share_momentum(const OpenSpace<D>& space, int block, const WallVelocity<D>& walls, std::size_t component,
                    const Cells<D>& mass, const Cells<D>& held, Cells<D>& u) {
  for_groups<D>(space, block, {&mass, &held, &u}, [&](std::size_t number, const auto& group) {
    double momentum = 0;
    double sum = 0;
    for (std::size_t k = 0; k < group.size(); ++k) {
      const auto& [b, at] = group[k];
      momentum += mass.block(b)[at] * (u.block(b)[at] - walls.in_group(number, k)[component]);
      sum += held.block(b)[at];
    }
    for (std::size_t k = 0; k < group.size(); ++k)
      u.block(group[k].block)[group[k].at] = momentum / sum + walls.in_group(number, k)[component];
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
ViscousStress<D>::ViscousStress(const Grid<D>& grid, const OpenSpace<D>& space, const WallVelocity<D>& walls,
                                const WallElements<D>& elements)
    : space_(space),
      wall_velocity_(walls),
      elements_(elements),
      residual_(grid),
      direction_(grid),
      product_(grid),
      inverse_(grid) {
  if (!space.is_uncut()) {
    held_ = Cells<D>(grid, 1.0);
    for (int b = 0; b < grid.blocks(); ++b) wall_friction_.emplace_back(this->walls(b).size());
  }
  if (space.axisymmetric()) held_radial_ = Cells<D>(grid, 1.0);
  for (int d = 0; d < D; ++d) {
    rhs_[d] = Cells<D>(grid);
    for (auto& face : face_[d]) face = Cells<D>(grid);
  }
}

template <int D>
void ViscousStress<D>::share_in_groups(const Grid<D>& grid, const Cells<D>& mass, CellVectors<D>& u) const {
  for (std::size_t c = 0; c < D; ++c)
    for (int b = 0; b <= grid.blocks(); ++b) share_momentum(space_, b, wall_velocity_, c, mass, mass, u[c]);
}

/// What holds the fluid beside solids: its mass and their friction. `everywhere`: in all cells, not only beside walls
/// and in groups.
template <int D>
void ViscousStress<D>::set_held(const Grid<D>& grid, const Cells<D>& mass, bool everywhere) {
  if (space_.is_uncut()) return;
  const Layout<D>& layout = grid.layout();
  if (!everywhere)
    for (const auto& group : space_.groups())
      for (const auto& [b, at] : group) held_.block(b)[at] = mass.block(b)[at];
  for_blocks(grid, [&](int b) {
    double* held = held_.block(b);
    const double* m = mass.block(b);
    if (everywhere)
      for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) { std::copy_n(m + o, n, held + o); });
    if (space_.is_uncut(b)) return;
    for (const auto& cell : space_.wall_cells(b)) held[cell.at] = m[cell.at];
    const auto own = walls(b);
    const auto& friction = wall_friction_[static_cast<std::size_t>(b)];
    for (std::size_t k = 0; k < own.size(); ++k) held[own[k].at] += friction[k];
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

/// u += dt/rho div(mu (grad u + grad u^T)), all of it with the components as they were.
template <int D>
void ViscousStress<D>::step_explicitly(const Grid<D>& grid, const Cells<D>& mass, CellVectors<D>& velocity) {
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
    std::swap(velocity[c].data(), rhs_[c].data());
  }
}

/// rhs = rho (u + dt a) + dt sum_d d_d(mu d_c u_d), d != c, with all components as they were: those without a are free
/// of divergence, and the sum nearly nothing; with it, it would grow from step to step.
template <int D>
void ViscousStress<D>::set_right_hand_sides(const Grid<D>& grid, const Cells<D>& mass, const CellVectors<D>& u,
                                            const CellVectors<D>& acceleration, double dt) {
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
      for_moving_wall_momentum(
          b, [&](std::ptrdiff_t a, const Vec<D>& momentum) { out[a] += momentum[static_cast<std::size_t>(c)]; });
    }
  });
  wall_velocity_.set_in_solids(grid, false, rhs_);  // where they have a mass of 1 for themselves
}

/// rho x - dt sum_d d_d(mu d_d x) = rhs for one component, the normal direction counted twice. Cells of a group change
/// by the same: their equations count as one, which stands with the first of them. Preconditioned by the diagonal,
/// without the walls' share.
template <int D>
struct ViscousStress<D>::System {
  static constexpr double sign = 1;
  ViscousStress<D>& own;
  const Grid<D>& grid;
  const Cells<D>& mass;
  const int c;
  const WallRules<D> rules;
  const double allowed;
  Cells<D>& x;
  SumAndGreatest now{};  // of r.z, and |z|

  [[nodiscard]] std::array<const double*, D> faces(int b) const {
    std::array<const double*, D> face;
    for (int d = 0; d < D; ++d) face[d] = own.face_[d][c].block(b);
    return face;
  }
  static double& at(Cells<D>& field, const CellPlace& place) { return field.block(place.block)[place.at]; }
  void sum_in_groups(Cells<D>& field) const {
    for_all_groups<D>(grid, own.space_, {}, [&](std::size_t, const auto& group) {
      for (std::size_t k = 1; k < group.size(); ++k) at(field, group[0]) += std::exchange(at(field, group[k]), 0.0);
    });
  }

  /// out = operator on v (halo filled); returns v . out of the block.
  double product(const double* v, int b, double* out) const {
    const double* rho = mass.block(b);
    const auto face = faces(b);
    double sum = 0;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      double row = 0;
#pragma omp simd reduction(+ : row)
      for (int i = 0; i < n; ++i) {
        const std::ptrdiff_t a = o + i;
        double value = rho[a] * v[a];
        for (int d = 0; d < D; ++d) {
          const std::ptrdiff_t s = grid.layout().step[d];
          const double flux = face[d][a + s] * (v[a + s] - v[a]) - face[d][a] * (v[a] - v[a - s]);
          value -= d == c ? 2 * flux : flux;
        }
        out[a] = value;
        row += value * v[a];
      }
      sum += row;
    });
    return sum;
  }

  void begin() {
    fill_halo(grid, x, 1, rules);
    own.wall_velocity_.add_behind(grid, c, 1, x);
    for_blocks(grid, [&](int b) {
      double* r = own.residual_.block(b);
      double* diagonal = own.inverse_.block(b);
      const double* f = own.rhs_[c].block(b);
      const double* rho = mass.block(b);
      product(x.block(b), b, r);
      const auto face = faces(b);
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          r[a] = f[a] - r[a];
          diagonal[a] = rho[a];
          for (int d = 0; d < D; ++d) {
            const double both = face[d][a] + face[d][a + grid.layout().step[d]];
            diagonal[a] += d == c ? 2 * both : both;
          }
        }
      });
    });
    sum_in_groups(own.residual_);
    for_all_groups<D>(grid, own.space_, {}, [&](std::size_t, const auto& group) {
      for (std::size_t k = 1; k < group.size(); ++k) at(own.inverse_, group[0]) += at(own.inverse_, group[k]);
    });
    now = measured([&](int b) {
      return [r = own.residual_.block(b), inverse = own.inverse_.block(b)](std::ptrdiff_t a) {
        inverse[a] = 1 / inverse[a];
        return r[a];
      };
    });
  }

  /// r.z and the greatest |z| = |r| / diagonal; of_block(b)(offset) brings up to date and returns r in a cell of a
  /// block.
  template <class OfBlock>
  SumAndGreatest measured(OfBlock&& of_block) const {
    return reduce(grid, [&](int b) {
      const double* inverse = own.inverse_.block(b);
      const auto residual = of_block(b);
      SumAndGreatest part;
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        double sum = 0;
        double greatest = 0;
#pragma omp simd reduction(+ : sum) reduction(max : greatest)
        for (int i = 0; i < n; ++i) {
          const double r = residual(o + i);
          const double z = inverse[o + i] * r;
          sum += r * z;
          greatest = std::max(greatest, std::abs(z));
        }
        part.sum += sum;
        part.greatest = std::max(part.greatest, greatest);
      });
      return part;
    });
  }

  [[nodiscard]] bool more(int) const { return now.greatest > allowed; }
  [[nodiscard]] double precondition() const { return now.sum; }

  void turn(double beta) const {
    for_blocks(grid, [&](int b) {
      double* d = own.direction_.block(b);
      const double* r = own.residual_.block(b);
      const double* inverse = own.inverse_.block(b);
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) d[o + i] = beta * d[o + i] + inverse[o + i] * r[o + i];
      });
    });
  }

  [[nodiscard]] double apply() const {
    for_all_groups<D>(grid, own.space_, {}, [&](std::size_t, const auto& group) {
      for (std::size_t k = 1; k < group.size(); ++k) at(own.direction_, group[k]) = at(own.direction_, group[0]);
    });
    fill_halo(grid, own.direction_, 1, rules);
    const double dAd =
        sum_blocks(grid, [&](int b) { return product(own.direction_.block(b), b, own.product_.block(b)); });
    sum_in_groups(own.product_);
    return dAd;
  }

  void advance(double alpha) {
    now = measured([&](int b) {
      return [alpha, v = x.block(b), r = own.residual_.block(b), d = own.direction_.block(b),
              q = own.product_.block(b)](std::ptrdiff_t a) {
        v[a] += alpha * d[a];
        r[a] -= alpha * q[a];
        return r[a];
      };
    });
  }
};

template <int D>
int ViscousStress<D>::solve(const Grid<D>& grid, const WallKinds<D>& kinds, int c, const Cells<D>& mass, double allowed,
                            Cells<D>& x) {
  assert(c >= 0 && c < D && allowed > 0);
  System system{*this, grid, held(c, mass), c, velocity_rules<D>(kinds, c), allowed, x};
  system.begin();
  return conjugate_gradients(system, most_iterations);
}

template double greatest_component<2>(const Grid<2>&, const CellVectors<2>&);
template class ViscousStress<2>;
template double greatest_component<3>(const Grid<3>&, const CellVectors<3>&);
template class ViscousStress<3>;

}  // namespace wavy
