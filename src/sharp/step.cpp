#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "sharp/parts.hpp"

namespace wavy::sharp {
namespace {

constexpr double capillary_wave_number = 0.25;  ///< dt <= this x sqrt((rho1 + rho2) h^3 / sigma); stable up to 0.36
constexpr int beside_interface = 3;          ///< cells within which accelerations are not carried over to the next step
constexpr double gravity_wave_number = 0.3;  ///< dt <= this x sqrt(h / |G|): waves of two cells are stable up to 1.1

}  // namespace

std::string name_of(StepLimit limit) {
  switch (limit) {
    case StepLimit::advection:
      return "advection";
    case StepLimit::gravity_waves:
      return "gravity waves";
    case StepLimit::capillary_waves:
      return "capillary waves";
  }
  return "";
}

template <int D>
State<D>::State(const Grid<D>& grid) : F(grid), p(grid) {
  for (int d = 0; d < D; ++d) {
    u[d] = Cells<D>(grid);
    acceleration[d] = Cells<D>(grid);
    face_u[d] = Cells<D>(grid);
  }
}

template <int D>
struct Model<D>::Work {
  Boundary<D> boundary;
  WallVelocity<D> walls;

  Advection<D> advect;
  Viscosity<D> diffuse;
  InterfaceForce<D> force;
  PressureSolver<D> pressure;
  Faces<D> acceleration;
  Faces<D> inverse_density;
  CellVectors<D> mean_weight;  // of what passes a cell's two faces in its mean; only where there are solids
  Cells<D> mass;
  Cells<D> rhs;
  Cells<D> last_pressure;
  Cells<D> source;    // what comes through walls [1/s]; only where some openings lie on walls
  Cells<D> inactive;  // 1 in cells of gas that is left out, halo filled; only where it is
  std::vector<CellPlace> at_flows, at_pressures;  // cells beside openings; likewise

  Work(const Grid<D>& grid, const Settings<D>& settings, const OpenSpace<D>& space,
       const std::vector<Opening<D>>& openings)
      : boundary(grid, space, openings),
        walls(grid, space, settings.moving_walls),
        advect(grid, space, &boundary, walls),
        diffuse(grid, space, &boundary, walls),
        force(grid, space),
        pressure(grid),
        mass(grid, 1.0),
        rhs(grid),
        last_pressure(grid) {
    for (int d = 0; d < D; ++d) {
      acceleration[d] = Cells<D>(grid);
      inverse_density[d] = Cells<D>(grid);
    }
    if (!space.is_uncut()) find_mean_weights(grid, space);
    if (boundary.through_walls()) source = Cells<D>(grid);
    if (!settings.free_surface_only) return;
    inactive = Cells<D>(grid);
    at_flows = boundary.cells(true);
    at_pressures = boundary.cells(false);
    advect.leave_out(inactive);
  }

  void find_mean_weights(const Grid<D>& grid, const OpenSpace<D>& space) {
    for (int d = 0; d < D; ++d) {
      mean_weight[d] = Cells<D>(grid);
      const std::ptrdiff_t s = grid.layout().step[d];
      for_blocks(grid, [&](int b) {
        const double* share = space.share().block(b);
        const double* open = space.face_share()[d].block(b);
        for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            const double open_volume = std::max(open[at] + open[at + s], 2 * share[at]);
            mean_weight[d].block(b)[at] = open_volume > 0 ? 1 / open_volume : 0.0;
          }
        });
      });
    }
  }

  /// Where gas is left out: cells with no liquid within two cells, and no given flow. What lies nearer moves along with
  /// the surface, which keeps the velocities free of divergence wherever liquid can come in the next step.
  void mark_inactive(const Grid<D>& grid, const Cells<D>& extended_fraction) {
    constexpr int reach = 2;
    const Layout<D>& layout = grid.layout();
    for_blocks(grid, [&](int b) {
      const double* F = extended_fraction.block(b);
      double* far = inactive.block(b);
      thread_local std::vector<char> near;
      thread_local std::vector<char> wider;
      near.assign(layout.size, 0);
      wider.assign(layout.size, 0);
      Index<D> lo{};
      Index<D> hi = layout.cells;
      for (int d = 0; d < D; ++d) {
        lo[d] -= reach;
        hi[d] += reach;
      }
      for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) near[static_cast<std::size_t>(layout.first + o + i)] = F[o + i] > pure ? 1 : 0;
      });
      for (int d = 0; d < D; ++d) {
        lo[d] = 0;
        hi[d] = layout.cells[d];
        const std::ptrdiff_t s = layout.step[d];
        for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
          const char* from = near.data() + layout.first + o;
          char* to = wider.data() + layout.first + o;
          for (int i = 0; i < n; ++i)
            to[i] = static_cast<char>(from[i - 2 * s] | from[i - s] | from[i] | from[i + s] | from[i + 2 * s]);
        });
        std::swap(near, wider);
      }
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) far[o + i] = near[static_cast<std::size_t>(layout.first + o + i)] != 0 ? 0.0 : 1.0;
      });
    });
    for (const auto& [block, at] : at_flows) inactive.block(block)[at] = 0;
    fill_halo(grid, inactive, 3, all_walls<D>(Mirror::even));
  }

  /// Nothing moves between cells that are left out, nor through the boundary beside them.
  void still_away(const Grid<D>& grid, State<D>& state) {
    const Layout<D>& layout = grid.layout();
    for_blocks(grid, [&](int b) {
      const double* far = inactive.block(b);
      for (int d = 0; d < D; ++d) {
        const std::ptrdiff_t s = layout.step[d];
        double* inverse = inverse_density[d].block(b);
        double* a = acceleration[d].block(b);
        double* face = state.face_u[d].block(b);
        for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at)
            if (far[at] != 0 && far[at - s] != 0) inverse[at] = a[at] = face[at] = 0;
        });
      }
    });
    clear_away(grid, state.p);
    for (auto& component : state.u) clear_away(grid, component);
  }
  void clear_away(const Grid<D>& grid, Cells<D>& field) const {
    for_blocks(grid, [&](int b) {
      const double* far = inactive.block(b);
      double* value = field.block(b);
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) value[o + i] = far[o + i] != 0 ? 0.0 : value[o + i];
      });
    });
  }
  /// The field of cells that are left out; null where none are.
  [[nodiscard]] const Cells<D>* left_out(const Settings<D>& settings) const {
    return settings.free_surface_only ? &inactive : nullptr;
  }

  /// Adds a uniform acceleration to that of the open faces.
  void drive(const Grid<D>& grid, const OpenSpace<D>& space, const Vec<D>& body_force) {
    for_blocks(grid, [&](int b) {
      for (int d = 0; d < D; ++d) {
        if (body_force[d] == 0) continue;
        double* a = acceleration[d].block(b);
        const double* area = space.is_uncut(b) ? nullptr : space.area()[d].block(b);
        for_open_rows<D>(space, b, grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), d),
                         [&](std::ptrdiff_t o, int n) {
                           for (std::ptrdiff_t at = o; at < o + n; ++at)
                             a[at] += body_force[d] * (area == nullptr ? 1.0 : area[at]);
                         });
      }
    });
  }

  /// Velocities on open faces of the boundary and flows through walls, as given at a time.
  void set_given(const Grid<D>& grid, double time, State<D>& state) {
    if (boundary.closed()) return;
    boundary.set_faces(grid, time, state);
    if (boundary.through_walls()) boundary.set_sources(time, source);
  }

  /// Velocities on the faces: the mean of the cells' weighted by their mass, which conserves momentum, plus the force.
  /// Nothing passes the outer walls.
  void predict_faces(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, State<D>& state,
                     double dt) {
    for_blocks(grid, [&](int b) {
      for (int d = 0; d < D; ++d) {
        const double* u = state.u[d].block(b);
        const double* a = acceleration[d].block(b);
        double* face = state.face_u[d].block(b);
        const auto predict = [&, s = grid.layout().step[d]](const auto& weight, const double* area) {
          for_open_rows<D>(space, b, grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), d),
                           [&](std::ptrdiff_t o, int n) {
#pragma omp simd
                             for (int i = 0; i < n; ++i) {
                               const std::ptrdiff_t at = o + i;
                               const double low = weight(at - s);
                               const double high = weight(at);
                               const double mean = (low * u[at - s] + high * u[at]) / (low + high);
                               face[at] = (area == nullptr ? mean : area[at] * mean) + dt * a[at];
                             }
                           });
        };
        if (space.axisymmetric() && !space.is_uncut(b)) {  // by the mass of sections, not of rings
          const double* F = state.F.block(b);
          const double* share = space.share().block(b);
          predict([&](std::ptrdiff_t at) { return share[at] > 0 ? share[at] * density(settings, F[at]) : 1.0; },
                  space.area()[d].block(b));
        } else {
          predict([m = mass.block(b)](std::ptrdiff_t at) { return m[at]; },
                  space.is_uncut(b) ? nullptr : space.area()[d].block(b));
        }
        boundary.close(grid, b, d, face);
      }
    });
  }

  /// First guess of the pressure: on the straight line through the last two, `ahead` times as far beyond.
  void guess_pressure(const Grid<D>& grid, const OpenSpace<D>& space, State<D>& state, double ahead) {
    for_blocks(grid, [&](int b) {
      double* p = state.p.block(b);
      double* last = last_pressure.block(b);
      for_open_rows<D>(space, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const double now = p[o + i];
          p[o + i] += ahead * (now - last[o + i]);
          last[o + i] = now;
        }
      });
    });
  }

  /// rhs = div(face velocity) / dt.
  void divergence(const Grid<D>& grid, const OpenSpace<D>& space, const State<D>& state, double dt) {
    const Layout<D>& layout = grid.layout();
    for_blocks(grid, [&](int b) {
      double* out = rhs.block(b);
      for (int d = 0; d < D; ++d) {
        const std::ptrdiff_t s = layout.step[d];
        const double* face = state.face_u[d].block(b);
        const double factor = 1 / (grid.spacing()[d] * dt);
        for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i)
            out[o + i] = (d == 0 ? 0.0 : out[o + i]) + factor * (face[o + i + s] - face[o + i]);
        });
      }
      if (!boundary.through_walls()) return;
      const double* in = source.block(b);
      for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) out[o + i] -= in[o + i] / dt;
      });
    });
  }

  /// Total acceleration on the faces, a - grad p / rho, in place of a; zero at the walls. p's halo must be filled.
  void add_pressure(const Grid<D>& grid, const OpenSpace<D>& space, const State<D>& state) {
    const Layout<D>& layout = grid.layout();
    for_blocks(grid, [&](int b) {
      const double* p = state.p.block(b);
      for (int d = 0; d < D; ++d) {
        const std::ptrdiff_t s = layout.step[d];
        const double* inverse = inverse_density[d].block(b);
        double* a = acceleration[d].block(b);
        const double factor = 1 / grid.spacing()[d];
        for_open_rows<D>(space, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) a[o + i] -= inverse[o + i] * factor * (p[o + i] - p[o + i - s]);
        });
        boundary.close(grid, b, d, a);
      }
    });
  }

  /// face_u and u take the total acceleration for dt; returns the greatest |div u| dt left.
  double correct(const Grid<D>& grid, const OpenSpace<D>& space, State<D>& state, double dt) {
    const Layout<D>& layout = grid.layout();
    const Cells<D>& extended_fraction = advect.extended_interface().extended_fraction(state);
    return max_blocks(grid, [&](int b) {
      const double* p = state.p.block(b);
      const double* F = extended_fraction.block(b);
      for (int d = 0; d < D; ++d) {
        const std::ptrdiff_t s = layout.step[d];
        const double* inverse = inverse_density[d].block(b);
        const double* a = acceleration[d].block(b);
        double* own = state.acceleration[d].block(b);
        double* face = state.face_u[d].block(b);
        double* u = state.u[d].block(b);
        const double factor = dt / grid.spacing()[d];
        for_open_rows<D>(space, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) face[o + i] -= inverse[o + i] * factor * (p[o + i] - p[o + i - s]);
        });
        boundary.close(grid, b, d, face);
        if (space.is_uncut(b)) {
          for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
            for (int i = 0; i < n; ++i) {
              own[o + i] = 0.5 * (a[o + i] + a[o + i + s]);
              u[o + i] += dt * own[o + i];
            }
          });
        } else {
          // The mean over the open faces; a closed one counts like a wall, as far as the cell reaches it.
          const double* weight = mean_weight[d].block(b);
          const double* open = space.face_share()[d].block(b);
          const double* area = space.area()[d].block(b);
          const bool weighted = space.axisymmetric();
          const auto through = [&](std::ptrdiff_t f) {  // without the weight of the area
            return weighted ? a[f] * (open[f] / (area[f] > 0 ? area[f] : 1.0)) : a[f];
          };
          for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
            for (int i = 0; i < n; ++i) {
              const std::ptrdiff_t at = o + i;
              own[at] = weight[at] * (through(at) + through(at + s));
              u[at] += dt * own[at];
            }
          });
        }
      }
      std::array<double*, D> own;
      for (int d = 0; d < D; ++d) own[d] = state.acceleration[d].block(b);
      for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          double unlike = 0;
          for (std::size_t e = 0; e < D; ++e)
            for (int far = 1; far <= beside_interface; ++far)
              unlike += std::abs(F[o + i] - F[o + i + far * layout.step[e]]) +
                        std::abs(F[o + i] - F[o + i - far * layout.step[e]]);
          for (std::size_t e = 0; e < D; ++e) own[e][o + i] = unlike > pure ? 0.0 : own[e][o + i];
        }
      });
      double greatest = 0;
      const double* in = boundary.through_walls() ? source.block(b) : nullptr;
      const double* far = inactive.data().empty() ? nullptr : inactive.block(b);
      for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) {
          if (far != nullptr && far[o + i] != 0) continue;
          double sum = in == nullptr ? 0.0 : -in[o + i];
          for (int d = 0; d < D; ++d) {
            const double* face = state.face_u[d].block(b) + o + i;
            sum += (face[layout.step[d]] - face[0]) / grid.spacing()[d];
          }
          greatest = std::max(greatest, std::abs(sum) * dt);
        }
      });
      return greatest;
    });
  }
};

template <int D>
Model<D>::Model(const Grid<D>& grid, Settings<D> settings, OpenSpace<D> space, const std::vector<Opening<D>>& openings)
    : grid_(grid),
      settings_(std::move(settings)),
      space_(std::move(space)),
      state_(grid),
      work_(std::make_unique<Work>(grid, settings_, space_, openings)) {}
template <int D>
Model<D>::~Model() = default;
template <int D>
Boundary<D>& Model<D>::boundary() {
  return work_->boundary;
}
template <int D>
const Boundary<D>& Model<D>::boundary() const {
  return work_->boundary;
}

template <int D>
Vec<D> Model<D>::drag(int block, std::size_t number) const {
  return work_->diffuse.drag(block, number);
}

template <int D>
void Model<D>::start() {
  kept_volume_ = liquid_volume();
  work_->walls.set_time(state_.time);
  set_body_force(state_.time);

  auto& interface = work_->advect.extended_interface();
  interface.update(grid_, settings_, state_, pad);
  find_masses(grid_, space_, settings_, state_.F, work_->mass);
  work_->force(grid_, settings_, interface.sheets(), interface.extended_fraction(state_), state_, G_,
               work_->acceleration, work_->inverse_density);
  work_->drive(grid_, space_, drive_);
  // The pressure that keeps the liquid's acceleration free of divergence, from rest.
  const auto& boundary = work_->boundary;
  if (!boundary.closed())
    boundary.set_coefficients(grid_, settings_, state_, work_->acceleration, work_->inverse_density);
  work_->predict_faces(grid_, space_, settings_, state_, 1.0);
  leave_out_gas_cells();
  work_->pressure.set_coefficients(grid_, work_->inverse_density, boundary.holds_pressure(),
                                   work_->left_out(settings_));
  work_->divergence(grid_, space_, state_, 1.0);
  if (boundary.holds_pressure())
    boundary.subtract_pressure(grid_, settings_, state_, G_, state_.time, work_->inverse_density, work_->rhs);
  double strength = 1e-12;
  for (const double g : G_) strength = std::max(strength, std::abs(g));
  constexpr double at_rest = 1e-13;  // what is left here sets a liquid at rest in motion
  work_->pressure.solve(grid_, work_->rhs, state_.p, at_rest * strength / grid_.smallest_spacing(),
                        settings_.most_iterations);
  for (auto& face : state_.face_u) std::fill(face.data().begin(), face.data().end(), 0.0);
  if (boundary.brings_flow() || greatest_speed() > 0) start_flows();
}

template <int D>
void Model<D>::archive(Archive& a) {
  a("time", state_.time);
  wavy::archive<D>(a, "F", state_.F);
  wavy::archive<D>(a, "p", state_.p);
  wavy::archive<D>(a, "last_pressure", work_->last_pressure);
  for (std::size_t d = 0; d < D; ++d) {
    wavy::archive<D>(a, fmt::format("u{}", d), state_.u[d]);
    wavy::archive<D>(a, fmt::format("acceleration{}", d), state_.acceleration[d]);
    wavy::archive<D>(a, fmt::format("face_u{}", d), state_.face_u[d]);
  }
  a("G", G_);
  a("drive", drive_);
  a("kept_volume", kept_volume_);
  a("steps", steps_);
  a("last_step", last_step_);
  a.within("boundary", [&] { work_->boundary.archive(a); });
  if (!a.reading()) return;
  // What follows from it, as the last step has left it.
  work_->walls.set_time(state_.time);
  work_->advect.extended_interface().update(grid_, settings_, state_, pad);
  leave_out_gas_cells();
}

template <int D>
void Model<D>::set_body_force(double time) {
  G_ = settings_.body_force(time);
  for (std::size_t d = 0; d < D; ++d) drive_[d] = grid_.periodic()[d] ? std::exchange(G_[d], 0.0) : 0.0;
}

/// Where gas is left out: finds out where, and stills what is there.
template <int D>
void Model<D>::leave_out_gas_cells() {
  if (!settings_.free_surface_only) return;
  work_->mark_inactive(grid_, work_->advect.extended_interface().extended_fraction(state_));
  work_->still_away(grid_, state_);
  space_.narrow(grid_, work_->inactive, work_->at_pressures);
}

template <int D>
double Model<D>::computed_share() const {
  if (!settings_.free_surface_only) return 1;
  const double inactive = sum_blocks(grid_, [&](int b) {
    double sum = 0;
    const OpenVolumes<D> open_volumes(space_, b);
    for_rows<D>(grid_.layout(), [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) sum += open_volumes[o + i] * work_->inactive.block(b)[o + i];
    });
    return sum;
  });
  return 1 - inactive * grid_.cell_volume() / open_volume();
}

/// Velocities on the faces from those in the cells, and what given flows set in motion at once: else the first step
/// would bring nothing.
template <int D>
void Model<D>::start_flows() {
  auto& s = state_;
  auto& boundary = work_->boundary;
  const Cells<D> pressure = s.p;
  std::fill(s.p.data().begin(), s.p.data().end(), 0.0);
  for (auto& a : work_->acceleration) std::fill(a.data().begin(), a.data().end(), 0.0);
  StepLimit limit{};
  const double dt = stable_step(limit);
  fill_velocity_halo<D>(grid_, space_, settings_.walls, work_->walls, 1, s.u);

  work_->predict_faces(grid_, space_, settings_, s, dt);
  if (settings_.free_surface_only) work_->still_away(grid_, s);
  boundary.leave_out_pressures(true);
  work_->set_given(grid_, s.time, s);

  work_->divergence(grid_, space_, s, dt);
  work_->pressure.solve(grid_, work_->rhs, s.p, settings_.projection_tolerance / (dt * dt), settings_.most_iterations);
  fill_halo(grid_, s.p, 1, all_walls<D>(Mirror::even), space_.open_spans());
  if (boundary.holds_pressure()) boundary.set_pressure_behind(grid_, settings_, s, G_, s.time);
  work_->add_pressure(grid_, space_, s);
  work_->correct(grid_, space_, s, dt);
  if (boundary.holds_pressure() && !settings_.free_surface_only) boundary.balance(grid_, s);
  boundary.leave_out_pressures(false);
  for (auto& a : s.acceleration) std::fill(a.data().begin(), a.data().end(), 0.0);
  s.p = pressure;
}

template <int D>
double Model<D>::stable_step(StepLimit& limit) const {
  const Layout<D>& layout = grid_.layout();
  const double rate = max_blocks(grid_, [&](int b) {
    double greatest = 0;
    const OpenVolumes<D> open_volumes(space_, b);
    const double* F = state_.F.block(b);
    const double least_content = settings_.free_surface_only ? pure : 0.0;
    std::array<const double*, D> face;
    for (int d = 0; d < D; ++d) face[d] = state_.face_u[d].block(b);
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      const double weight = space_.is_uncut(b) ? 1.0 : space_.weight(b, layout, o);
      const double grows = space_.is_uncut(b) ? 0.0 : space_.weight(b, layout, o + 1) - weight;  // from cell to cell
#pragma omp simd reduction(max : greatest)
      for (int i = 0; i < n; ++i) {
        double sum = 0;
        for (std::size_t d = 0; d < D; ++d) {
          const double low = std::abs(face[d][o + i]);
          const double high = std::abs(face[d][o + i + layout.step[d]]);
          sum += (low > high ? low : high) / grid_.spacing()[d];
        }
        // What crosses a cut cell, as a share of its room; small cells share that of their group.
        const double least = OpenSpace<D>::small * (weight + i * grows);
        const double own =
            F[o + i] < least_content ? 0.0 : sum / (open_volumes[o + i] > least ? open_volumes[o + i] : least);
        greatest = own > greatest ? own : greatest;
      }
    });
    return greatest;
  });
  const double driven = std::max(work_->boundary.greatest_speed(state_.time), work_->walls.greatest_speed(grid_));
  const double incoming = driven / grid_.smallest_spacing();

  const Vec<D> G = settings_.body_force(state_.time);
  const double strength = std::sqrt(dot<D>(G, G));
  const double fastest = std::max(rate, incoming);
  const double advection = fastest > 0 ? settings_.courant / fastest : 1e30;
  const double waves = strength > 0 ? gravity_wave_number * std::sqrt(grid_.smallest_spacing() / strength) : 1e30;
  const double h = grid_.smallest_spacing();
  const double inertia = settings_.liquid.density + settings_.gas.density;
  const double sigma = settings_.surface_tension;
  const double capillary = sigma > 0 ? capillary_wave_number * std::sqrt(inertia * h * h * h / sigma) : 1e30;
  const double least = std::min({advection, waves, capillary});
  limit = least == advection ? StepLimit::advection
          : least == waves   ? StepLimit::gravity_waves
                             : StepLimit::capillary_waves;
  return least;
}

template <int D>
double Model<D>::speed_by_drive() const {
  const Vec<D> G = settings_.body_force(state_.time);
  double across = 0;
  for (int d = 0; d < D; ++d) across += std::pow(grid_.upper()[d] - grid_.lower()[d], 2);
  const double pressure = settings_.liquid.density * std::sqrt(dot<D>(G, G) * across) +
                          work_->boundary.greatest_pressure(state_.time) +
                          settings_.surface_tension / grid_.smallest_spacing();
  const double lightest = settings_.free_surface_only ? settings_.liquid.density : settings_.gas.density;
  const double face = grid_.cell_volume() / grid_.smallest_spacing();  // all flow may have to go through one
  return work_->boundary.given_flow(state_.time) / face + work_->walls.greatest_speed(grid_) +
         std::sqrt(2 * pressure / lightest);
}

template <int D>
StepReport Model<D>::step(double dt) {
  StepReport report;
  report.dt = dt;
  Stopwatch watch;
  auto& s = state_;

  const auto& boundary = work_->boundary;
  work_->walls.set_time(s.time + dt);
  report.volume_correction = work_->advect(grid_, settings_, s, dt, steps_++, kept_volume_);
  kept_volume_ += work_->advect.gained();
  report.seconds[0] = watch.lap();

  auto& interface = work_->advect.extended_interface();
  if (!space_.is_uncut())
    interface.update(grid_, settings_, s, pad);
  else
    fill_halo(grid_, s.F, 2, all_walls<D>(Mirror::even));
  find_masses(grid_, space_, settings_, s.F, work_->mass);
  report.viscous_iterations = work_->diffuse(grid_, settings_, interface.extended_fraction(s), work_->mass, s, dt);
  report.seconds[1] = watch.lap();

  set_body_force(s.time + 0.5 * dt);
  if (space_.is_uncut()) interface.update(grid_, settings_, s, pad);
  fill_velocity_halo<D>(grid_, space_, settings_.walls, work_->walls, 1, s.u);

  work_->force(grid_, settings_, interface.sheets(), interface.extended_fraction(s), s, G_, work_->acceleration,
               work_->inverse_density);
  work_->drive(grid_, space_, drive_);
  if (!boundary.closed()) boundary.set_coefficients(grid_, settings_, s, work_->acceleration, work_->inverse_density);
  work_->predict_faces(grid_, space_, settings_, s, dt);
  leave_out_gas_cells();
  work_->set_given(grid_, s.time + dt, s);

  work_->divergence(grid_, space_, s, dt);
  if (boundary.holds_pressure())
    boundary.subtract_pressure(grid_, settings_, s, G_, s.time + dt, work_->inverse_density, work_->rhs);
  report.seconds[2] = watch.lap();

  work_->pressure.set_coefficients(grid_, work_->inverse_density, boundary.holds_pressure(),
                                   work_->left_out(settings_));
  work_->guess_pressure(grid_, space_, s, last_step_ > 0 ? dt / last_step_ : 0);
  if (settings_.free_surface_only) work_->clear_away(grid_, s.p);
  last_step_ = dt;
  const SolveReport solved = work_->pressure.solve(grid_, work_->rhs, s.p, settings_.projection_tolerance / (dt * dt),
                                                   settings_.most_iterations);
  report.pressure_iterations = solved.iterations;
  report.pressure_converged = solved.converged;
  fill_halo(grid_, s.p, 1, all_walls<D>(Mirror::even), space_.open_spans());
  if (boundary.holds_pressure()) boundary.set_pressure_behind(grid_, settings_, s, G_, s.time + dt);
  work_->add_pressure(grid_, space_, s);
  report.divergence = work_->correct(grid_, space_, s, dt);
  if (settings_.free_surface_only)
    for (int d = 0; d < D; ++d)
      for (auto* field : {&s.u[d], &s.acceleration[d]}) work_->clear_away(grid_, *field);
  if (boundary.holds_pressure() && !settings_.free_surface_only) boundary.balance(grid_, s);
  report.seconds[3] = watch.lap();

  s.time += dt;
  if (!std::isfinite(report.divergence) || !std::isfinite(solved.residual))
    throw failure(fmt::format("the run diverged at t = {:.6g} s near {}", s.time, fastest_place()),
                  "try a smaller run.courant or run.largest_step, or a finer grid.cell; if a formula drives the "
                  "motion, look for a jump in it");
  return report;
}

template struct State<2>;
template struct State<3>;
template class Model<2>;
template class Model<3>;

}  // namespace wavy::sharp
