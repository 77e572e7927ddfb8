// What phases carry in themselves: dyes, salts, dissolved gases. A tracer stays in its phase, within the bounds that it
// has there, and none of it is lost (docs/method.md, (C1) to (C5)).
#pragma once

#include <algorithm>
#include <array>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/archive.hpp"
#include "flow/implicit_diffusion.hpp"
#include "flow/openings.hpp"
#include "geometry/shapes.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "physics/mass_transfer.hpp"

namespace wavy {

/// An amount that is put into what the phase fills of a zone, evenly.
template <int D>
struct Dose {
  Shape<D> zone;
  double amount = 0;  ///< [kg per thickness]
  double from = 0;    ///< [s]
  double lasts = 0;   ///< 0: all at once [s]
  std::string name;   ///< in messages
};

template <int D>
struct TracerSettings {
  std::string name;
  std::size_t phase = 0;           ///< that carries it
  double diffusivity = 0;          ///< of molecules [m2/s]
  double turbulent_schmidt = 0.7;  ///< eddy viscosity over eddy diffusivity
  /// Concentration at the start, in the phase [kg/m3]; empty: none.
  std::function<double(const Vec<D>&)> start{};
  /// By opening: concentration in what comes in of the phase [kg/m3]; none: as it is inside.
  std::vector<std::optional<double>> inflow{};
  std::vector<Dose<D>> doses{};
};

/// A gas that dissolves, as far as the liquid takes it: a tracer of the liquid goes to what would be at rest beside the
/// gas.
struct GasTransfer {
  std::size_t tracer = 0;
  std::vector<std::size_t> bodies{};  ///< Eulerian: phases of the gas's bubbles; else it passes the interface
  double saturation = 0;              ///< beside that gas at standard pressure [kg/m3]
  bool by_pressure = true;            ///< in proportion to the pressure (Henry's law)
  const TransferLaw* law = nullptr;   ///< null: `coefficient`
  double coefficient = 0;             ///< kL [m/s]

  [[nodiscard]] double kL(const TransferAt& here) const {
    return law == nullptr ? coefficient : law->coefficient(here);
  }
};

/// Number of the transfer that a tracer takes part in; none where it does not dissolve.
inline std::optional<std::size_t> find_transfer(const std::vector<GasTransfer>& transfers, std::size_t tracer) {
  const auto found = std::ranges::find(transfers, tracer, &GasTransfer::tracer);
  if (found == transfers.end()) return std::nullopt;
  return static_cast<std::size_t>(found - transfers.begin());
}

/// How much of a cell's open part a phase fills.
template <int D>
struct PhaseShare {
  const Cells<D>* of;
  bool rest = false;  ///< it is what `of` leaves
  double operator()(int block, std::ptrdiff_t at) const {
    const double share = of->block(block)[at];
    return std::clamp(rest ? 1 - share : share, 0.0, 1.0);
  }
};

/// The tracers of one model. Concentrations are those in the phase [kg/m3], 0 where there is none of it; amounts are
/// per thickness [kg/m^(3-D)].
template <int D>
class Tracers {
 public:
  /// Space and boundary must outlive it.
  Tracers(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary,
          std::vector<TracerSettings<D>> settings);

  [[nodiscard]] bool none() const { return settings_.empty(); }
  [[nodiscard]] const std::vector<TracerSettings<D>>& settings() const { return settings_; }
  /// Whether something is carried by a phase.
  [[nodiscard]] bool in_phase(std::size_t phase) const;

  /// Concentrations of the start, where none are there yet as their settings say. `shares`: by phase.
  void start(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares, std::vector<Cells<D>>& concentrations);

  // A step, in this order.

  /// Before anything moves.
  void begin(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares,
             const std::vector<Cells<D>>& concentrations);
  /// What comes in (`incoming`), or leaves, through walls and in zones within dt.
  void pass_walls(const Grid<D>& grid, double dt, bool incoming, std::vector<Cells<D>>& concentrations);
  /// Moves along the axes [first, end) with what passes the faces of each phase, over the volume of a whole cell; faces
  /// of closed sides are not read. May be called for one axis after the other.
  void move(const Grid<D>& grid, int first, int end, const std::vector<const Faces<D>*>& passed,
            std::vector<Cells<D>>& concentrations);
  /// Once the phases have moved: `shares` as they are then.
  void finish(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares, std::vector<Cells<D>>& concentrations);
  /// Diffusion within the phase, by molecules and by eddies (`eddy_viscosity`, one layer of halo; null: none), and
  /// doses from `time` on. Throws a failure where a dose finds nothing of the phase in its zone.
  void spread(const Grid<D>& grid, double time, double dt, const Cells<D>* eddy_viscosity,
              std::vector<Cells<D>>& concentrations);
  /// (C5) A gas dissolves for dt: `rate` is its kLa per volume of the vessel [1/s], `pressure` over that of the
  /// surroundings [Pa].
  void dissolve(const Grid<D>& grid, const GasTransfer& given, const Cells<D>& rate, const Cells<D>& pressure,
                double dt, std::vector<Cells<D>>& concentrations);

  /// What doses have brought since the start.
  [[nodiscard]] double dosed(std::size_t tracer) const { return dosed_[tracer]; }
  /// What has dissolved since the start.
  [[nodiscard]] double transferred(std::size_t tracer) const { return transferred_[tracer]; }
  /// What has passed an opening since the start.
  struct Passed {
    double in = 0;
    double out = 0;
  };
  [[nodiscard]] const Passed& passed(std::size_t tracer, std::size_t opening) const { return passed_[tracer][opening]; }
  /// What a step had to put back of a tracer, because the phases' volumes are not quite what passed the faces, over the
  /// most that there has been of it: the greatest.
  [[nodiscard]] double greatest_correction() const { return greatest_correction_; }
  /// Keeps the concentrations too; of another model's it makes fields for them.
  void archive(Archive& a, const Grid<D>& grid, std::vector<Cells<D>>& concentrations);

 private:
  static constexpr double trace = 1e-12;  // of a cell's volume: less of a phase carries nothing
  struct Place {
    int block;
    std::ptrdiff_t at;
    double share;
  };
  void set_contents(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares);
  [[nodiscard]] double sum(const Grid<D>& grid, std::size_t tracer, const Cells<D>& c) const;
  [[nodiscard]] std::array<double, 2> bounds(const Grid<D>& grid, std::size_t tracer, const Cells<D>& c) const;
  void find_room(const Grid<D>& grid, int first, int end, const Faces<D>& passed, const Cells<D>& content);
  void move_one(const Grid<D>& grid, int first, int end, std::size_t tracer, const Faces<D>& passed,
                const Cells<D>& content, Cells<D>& c);
  void share_groups(const Grid<D>& grid, std::size_t tracer, bool amounts, Cells<D>& c) const;
  void restore(const Grid<D>& grid, std::size_t tracer, Cells<D>& c);
  void dose(const Grid<D>& grid, double time, double dt, std::size_t tracer, Cells<D>& c);
  void diffuse(const Grid<D>& grid, double dt, const Cells<D>* eddy_viscosity, std::size_t tracer, Cells<D>& c);
  /// fn(axis, face, 1 of the lower and -1 of the upper one) for the open faces of a cell across the axes [first, end).
  template <class Fn>
  void for_open_faces(const Layout<D>& layout, int block, std::ptrdiff_t at, int first, int end, Fn&& fn) const {
    for (int d = first; d < end; ++d) {
      const double* area = areas(d, block);
      const std::ptrdiff_t high = at + layout.step[d];
      if (area == nullptr || area[at] > 0) fn(d, at, 1.0);
      if (area == nullptr || area[high] > 0) fn(d, high, -1.0);
    }
  }
  /// Null where all faces are open.
  [[nodiscard]] const double* areas(int axis, int block) const {
    return space_.is_uncut(block) ? nullptr : space_.area()[static_cast<std::size_t>(axis)].block(block);
  }

  const OpenSpace<D>& space_;
  const Boundary<D>& boundary_;
  std::vector<TracerSettings<D>> settings_;
  std::vector<double> kept_, most_, dosed_, transferred_;  // most_: that there has been
  std::vector<std::vector<Passed>> passed_;
  std::vector<std::array<double, 2>> bounds_;                // of the step
  std::vector<std::vector<std::vector<Place>>> dose_zones_;  // by tracer and dose
  std::vector<std::vector<double>> given_;                   // share of each that has been put in
  double greatest_correction_ = 0;
  std::vector<Cells<D>> contents_;  // by phase: volume over that of a whole cell; empty of those that carry nothing
  Cells<D> room_;                   // how much of its slope a cell may use: 1 where less than half of it leaves
  Faces<D> moved_;                  // what passes the faces
  std::optional<ImplicitDiffusion<D>> implicit_;
  Cells<D> mass_, rhs_;
};

/// What dissolves into the tracers of a field model in a step of dt.
template <class Model, int D>
void dissolve_gases(Model& model, Tracers<D>& tracers, double dt) {
  const auto& transfers = model.settings().transfers;
  if (transfers.empty()) return;
  const Cells<D> pressure = model.true_pressure();
  for (std::size_t i = 0; i < transfers.size(); ++i)
    tracers.dissolve(model.grid(), transfers[i], model.transfer_rate(i), pressure, dt, model.state().tracers);
}

}  // namespace wavy
