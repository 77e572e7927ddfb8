// The model of a vessel's run, whichever it is: what the loop over time, gauges, snapshots and pictures ask of it.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include "dispersed/model.hpp"
#include "sharp/model.hpp"

namespace wavy {

/// Of a cell: the value in a block at an offset.
using CellNumber = std::function<double(int block, std::ptrdiff_t at)>;

/// What one step did, of either model.
struct VesselStep {
  int pressure_iterations = 0;
  bool pressure_converged = true;
  int viscous_iterations = 0;
  double divergence = 0;            ///< greatest |div u| dt of a cell after the projection
  double volume_correction = 0;     ///< liquid put back onto the interface [m^D]
  std::array<double, 4> seconds{};  ///< wall time: advection, viscosity, forces, projection
};

/// A reference to a model; the model must outlive it.
template <int D>
class VesselModel {
 public:
  VesselModel(sharp::Model<D>& model) : model_(&model) {}      // NOLINT(google-explicit-constructor)
  VesselModel(dispersed::Model<D>& model) : model_(&model) {}  // NOLINT(google-explicit-constructor)

  [[nodiscard]] bool is_sharp() const { return std::holds_alternative<sharp::Model<D>*>(model_); }
  /// The model itself; it must be that one.
  [[nodiscard]] sharp::Model<D>& sharp() const { return *std::get<sharp::Model<D>*>(model_); }
  [[nodiscard]] dispersed::Model<D>& dispersed() const { return *std::get<dispersed::Model<D>*>(model_); }
  /// fn(model), the model itself.
  template <class Fn>
  decltype(auto) visit(Fn&& fn) const {
    return std::visit([&](auto* model) -> decltype(auto) { return fn(*model); }, model_);
  }

  [[nodiscard]] const Grid<D>& grid() const {
    return visit([](auto& m) -> const Grid<D>& { return m.grid(); });
  }
  [[nodiscard]] const OpenSpace<D>& space() const {
    return visit([](auto& m) -> const OpenSpace<D>& { return m.space(); });
  }
  [[nodiscard]] Boundary<D>& boundary() const {
    return visit([](auto& m) -> Boundary<D>& { return m.boundary(); });
  }
  [[nodiscard]] const WallKinds<D>& walls() const {
    return visit([](auto& m) -> const WallKinds<D>& { return m.settings().walls; });
  }
  [[nodiscard]] const WallElements<D>& wall_elements() const {
    return visit([](auto& m) -> const WallElements<D>& { return m.wall_elements(); });
  }
  /// Force of friction on a piece of wall, over the volume of a cell [N/m3].
  [[nodiscard]] Vec<D> drag(const WallElement<D>& element) const {
    return visit([&](auto& m) { return m.drag(element); });
  }
  /// What walls of solids took of the fluid in the last step; empty where there are none [N/m3].
  [[nodiscard]] CellVectors<D>& wall_drag() const {
    return visit([](auto& m) -> auto& { return m.state().wall_drag; });
  }
  [[nodiscard]] bool free_surface_only() const { return is_sharp() && sharp().settings().free_surface_only; }
  [[nodiscard]] double courant() const {
    return visit([](auto& m) { return m.settings().courant; });
  }

  [[nodiscard]] double time() const {
    return visit([](auto& m) { return m.state().time; });
  }
  void set_time(double time) const {
    visit([&](auto& m) { m.state().time = time; });
  }
  /// Solids that turn in the fluid.
  [[nodiscard]] TurningSolids<D>& turning_solids() const {
    return visit([](auto& m) -> auto& { return m.turning_solids(); });
  }
  [[nodiscard]] const Tracers<D>& tracers() const {
    return visit([](auto& m) -> const Tracers<D>& { return m.tracers(); });
  }
  /// Their concentrations [kg/m3].
  [[nodiscard]] std::vector<Cells<D>>& concentrations() const {
    return visit([](auto& m) -> auto& { return m.state().tracers; });
  }
  [[nodiscard]] const std::vector<GasTransfer>& transfers() const {
    return visit([](auto& m) -> const auto& { return m.settings().transfers; });
  }
  /// Number of the tracer of that name; none where there is no such one.
  [[nodiscard]] std::optional<std::size_t> find_tracer(std::string_view name) const;
  /// What others keep beside the flow, by name and component; no halos.
  [[nodiscard]] std::map<std::string, std::vector<Cells<D>>>& beside() const {
    return visit([](auto& m) -> auto& { return m.state().beside; });
  }
  /// Body force of the last step, along axes that do not repeat [m/s2].
  [[nodiscard]] const Vec<D>& body_force() const {
    return visit([](auto& m) -> const Vec<D>& { return m.body_force(); });
  }

  void start() const {
    visit([](auto& m) { m.start(); });
  }
  /// Greatest stable step of the physics [s], and what limits it.
  [[nodiscard]] std::pair<double, std::string> stable_step() const;
  [[nodiscard]] VesselStep step(double dt) const;
  void archive(Archive& a) const {
    visit([&](auto& m) { m.archive(a); });
  }
  void recall(const Vec<D>& body_force) const {
    visit([&](auto& m) { m.recall(body_force); });
  }

  /// How many phases the model has, the densest first.
  [[nodiscard]] std::size_t phases() const { return is_sharp() ? 2 : dispersed().phases(); }
  /// Share of a cell's open part that the phases from `first` up to and without `end` fill. The model must outlive it.
  [[nodiscard]] CellNumber share(std::size_t first, std::size_t end) const;
  /// Velocity along an axis of the phases from `first` up to and without `end`, by what each fills; a single one's own.
  [[nodiscard]] CellNumber velocity(std::size_t first, std::size_t end, int axis) const;
  /// Of each phase, thickness included [m3].
  [[nodiscard]] std::vector<double> volumes(double thickness) const;
  [[nodiscard]] double open_volume() const {
    return visit([](auto& m) { return m.open_volume(); });
  }
  [[nodiscard]] double greatest_speed() const {
    return visit([](auto& m) { return m.greatest_speed(); });
  }
  [[nodiscard]] double speed_by_drive() const {
    return visit([](auto& m) { return m.speed_by_drive(); });
  }
  [[nodiscard]] std::string fastest_place() const {
    return visit([](auto& m) { return m.fastest_place(); });
  }
  [[nodiscard]] double kinetic_energy() const {
    return visit([](auto& m) { return m.kinetic_energy(); });
  }
  [[nodiscard]] double potential_energy(const Vec<D>& gravity) const {
    return visit([&](auto& m) { return m.potential_energy(gravity); });
  }
  [[nodiscard]] double reference_pressure() const {
    return visit([](auto& m) { return m.reference_pressure(); });
  }
  [[nodiscard]] Cells<D> true_pressure() const {
    return visit([](auto& m) { return m.true_pressure(); });
  }
  /// The pressure without rho G.x [Pa].
  [[nodiscard]] Cells<D>& reduced_pressure() const {
    return visit([](auto& m) -> Cells<D>& { return m.state().p; });
  }
  /// rho G.x at a place [Pa]; rho is of what mean(fraction of a phase) says, a field.
  template <class Mean>
  [[nodiscard]] double hydrostatic_pressure(Mean&& mean, const Vec<D>& place) const {
    if (is_sharp()) return sharp().hydrostatic_pressure(mean(sharp().state().F), place);
    double rho = 0;
    for (std::size_t i = 0; i < phases(); ++i)
      rho += dispersed().settings().phases[i].fluid.density * mean(dispersed().state().a[i]);
    return rho * dot<D>(body_force(), place);
  }

 private:
  std::variant<sharp::Model<D>*, dispersed::Model<D>*> model_;
};

}  // namespace wavy
