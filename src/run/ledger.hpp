// The ledger: what a run says about its own quality.
#pragma once

#include <array>
#include <map>
#include <string>
#include <vector>

#include "sharp/model.hpp"

namespace wavy {

/// What the ledgers of all models have.
struct RunLedger {
  long steps = 0;
  double smallest_step = 0;  ///< [s]
  double largest_step = 0;
  std::map<std::string, long> limits;  ///< how many steps each limit ruled
  long cells = 0;                      ///< open ones
  double ended_at = 0;                 ///< [s]
  double wall_seconds = 0;             ///< of the whole run, output included
  double output_seconds = 0;
  bool interrupted = false;
  bool settled = false;    ///< the run ended because of that
  std::string settling{};  ///< where gauges were to settle: what they did, in words

  /// One more step [s], which this limit ruled.
  void count_step(double dt, const std::string& limit);
  /// What a run that goes on cannot find out again.
  void archive(Archive& a);
};

struct VesselLedger : RunLedger {
  explicit VesselLedger(std::size_t phases = 2)
      : volume_start(phases), volume_now(phases), volume_in(phases), volume_out(phases) {}

  std::vector<double> volume_start;  ///< of each phase, the densest first [m3]
  std::vector<double> volume_now;
  std::vector<double> volume_in;  ///< through openings
  std::vector<double> volume_out;
  struct Through {
    std::string opening;
    std::vector<double> in;
    std::vector<double> out;
  };
  std::vector<Through> openings;  ///< what passed through each [m3]
  struct Tracer {
    std::string name;
    double now = 0;
    double in = 0, out = 0;  ///< through openings
    double dosed = 0;
    double dissolved = 0;  ///< from gas
  };
  std::vector<Tracer> tracers;        ///< amounts [kg]
  std::vector<double> tracers_start;  ///< as many
  double tracer_correction = 0;       ///< greatest share of a tracer that a step had to put back
  bool has_interface = true;          ///< it is followed sharply
  double smeared = 0;           ///< share of the denser phase in mixed cells more than one cell from the interface
  double greatest_smeared = 0;  ///< the same, greatest at any snapshot
  /// Of a turbulent flow: y+ of the first cells beside walls at the end, the least, the middle one and the greatest;
  /// all 0 where there are none.
  std::array<double, 3> wall_units{};
  double greatest_divergence = 0;  ///< |div u| dt after the projection
  double volume_correction = 0;  ///< liquid put back onto the interface over the run, because div u is not quite 0 [m3]
  double kinetic_energy = 0;     ///< at the end [J]
  double greatest_speed = 0;     ///< over the run [m/s]
  long pressure_iterations = 0;
  int most_pressure_iterations = 0;
  long unconverged = 0;  ///< steps whose pressure did not reach the tolerance
  long viscous_iterations = 0;
  std::array<double, 4> part_seconds{};  ///< advection, viscosity, forces, projection

  void archive(Archive& a);

  /// Change of a phase's volume that no opening explains, over what was there at the start or came in.
  [[nodiscard]] double drift(int phase) const;
  /// Change of a tracer's amount that nothing explains, over what was there at the start or came in.
  [[nodiscard]] double tracer_drift(std::size_t tracer) const;
  /// How long a phase stays: what is held now over the mean flow that has left through openings; 0 where nothing has,
  /// or nothing came in [s].
  [[nodiscard]] double residence(std::size_t phase) const;
  [[nodiscard]] double nanoseconds_per_cell_and_step() const;
};

struct LineLedger : RunLedger {
  std::array<double, 2> mass_start{}, mass_now{}, mass_in{}, mass_out{};  ///< liquid, gas [kg]
  long iterations = 0;
  double greatest_volume_error = 0;  ///< greatest share of a cell's volume that the phases miss

  void archive(Archive& a);

  /// Relative change of a phase's mass that no source and no outlet explains.
  [[nodiscard]] double drift(std::size_t phase) const;
};

/// Share of the denser phase that sits in mixed cells (1e-6 < F < 1 - 1e-6) none of whose 3^D neighbours, itself
/// included, lies on the other side of F = 1/2 from another of them, cells at walls apart: how smeared the interface
/// is. Reads one layer of F's halo, which it fills.
template <int D>
double smeared_share(const Grid<D>& grid, const OpenSpace<D>& space, Cells<D>& F);

}  // namespace wavy
