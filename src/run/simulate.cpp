#include "run/simulate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

namespace wavy {
namespace {

using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point start) { return std::chrono::duration<double>(Clock::now() - start).count(); }

/// The step to take now: the physics' limit, growing by at most a quarter, and an even share of the way to `target`.
struct StepChooser {
  double last = 0;

  void archive(Archive& a) { a("last", last); }

  double operator()(double stable, double largest, double time, double target, sharp::StepLimit& limit) {
    double dt = stable;
    if (largest < dt) {
      dt = largest;
      limit = sharp::StepLimit::user;
    }
    if (last > 0 && 1.25 * last < dt) {
      dt = 1.25 * last;
      limit = sharp::StepLimit::growth;
    }
    const double left = target - time;
    const double steps = std::ceil(left / dt * (1 - 1e-9));
    if (steps < 3) {
      last = dt;
      if (left / std::max(1.0, steps) < 0.9 * dt) limit = sharp::StepLimit::output;
      return left / std::max(1.0, steps);
    }
    last = dt;
    return dt;
  }
};

/// Watches for a run that goes out of bounds while its books stay in order: within a few steps the fluid is many times
/// as fast as before, and far faster than all that drives it could make it.
class SpeedWatch {
 public:
  /// `speed` of now, at most; `by_drive`: Model::speed_by_drive. Throws a failure; `place` finds where.
  template <class Place>
  void look(double time, double speed, double by_drive, Place&& place) {
    constexpr double beyond_drive = 3;
    constexpr double jump = 10;
    if (last_.empty()) {
      by_drive_ = speed;  // of the start
      last_.assign(3, speed);
    }
    by_drive_ = std::max(by_drive_, by_drive);
    const double before = *std::min_element(last_.begin(), last_.end());
    if (speed > beyond_drive * by_drive_ && speed > jump * before)
      throw failure(
          fmt::format("the run diverged at t = {:.6g} s near {}: within {} steps the speed rose from {:.2g} to "
                      "{:.2g} m/s, and what drives the flow could bring about {:.2g} m/s at most",
                      time, place(), last_.size(), before, speed, by_drive_),
          "what was written before that is good; try a smaller run.courant, or another grid.cell");
    std::rotate(last_.begin(), last_.begin() + 1, last_.end());
    last_.back() = speed;
  }

  void archive(Archive& a) {
    a("last", last_);
    a("by_drive", by_drive_);
  }

 private:
  std::vector<double> last_;  // speeds of the steps before [m/s]
  double by_drive_ = 0;       // greatest so far, that of the start included [m/s]
};

template <int D>
void close_books(const Setup<D>& setup, sharp::Model<D>& model, Ledger& ledger) {
  const double liquid = model.liquid_volume() * setup.thickness;
  ledger.volume_now = {liquid, model.open_volume() * setup.thickness - liquid};
  ledger.openings.clear();
  ledger.volume_in = ledger.volume_out = {};
  for (std::size_t i = 0; i < setup.openings.size(); ++i) {
    Ledger::Through through{setup.openings[i].opening.name, model.boundary().throughput()[i].in,
                            model.boundary().throughput()[i].out};
    for (std::size_t p = 0; p < 2; ++p) {
      through.in[p] *= setup.thickness;
      through.out[p] *= setup.thickness;
      ledger.volume_in[p] += through.in[p];
      ledger.volume_out[p] += through.out[p];
    }
    ledger.openings.push_back(through);
  }
  ledger.smeared = smeared_share<D>(model.grid(), model.space(), model.state().F);
  ledger.greatest_smeared = std::max(ledger.greatest_smeared, ledger.smeared);
  ledger.kinetic_energy = model.kinetic_energy() * setup.thickness;
  ledger.ended_at = model.state().time;
}

}  // namespace

template <int D>
void simulate(const Setup<D>& setup, sharp::Model<D>& model, const Sinks<D>& sinks, Ledger& ledger, Archive* kept) {
  const auto begin = Clock::now();
  Gauges<D> gauges(setup, model);
  const Schedule& schedule = setup.schedule;
  auto& state = model.state();

  ledger = Ledger{};
  ledger.cells = open_cells(model.grid(), model.space());

  int snapshots = 0;
  StepChooser choose;
  SpeedWatch watch;
  double earlier_seconds = 0;  // of the run before it was stopped
  const auto archive = [&](Archive& a) {
    a.within("model", [&] { model.archive(a); });
    a.within("gauges", [&] { gauges.archive(a); });
    a.within("ledger", [&] { ledger.archive(a); });
    a.within("steps", [&] { choose.archive(a); });
    a.within("speeds", [&] { watch.archive(a); });
    a("snapshots", snapshots);
  };
  const auto keep = [&] {
    if (!sinks.checkpoint) return;
    const auto start = Clock::now();
    ledger.wall_seconds = earlier_seconds + seconds_since(begin);
    Archive a;
    archive(a);
    sinks.checkpoint(a);
    ledger.output_seconds += seconds_since(start);
  };

  const auto write_snapshot = [&] {
    const auto start = Clock::now();
    close_books(setup, model, ledger);
    sinks.snapshot(model, snapshots++);
    ledger.output_seconds += seconds_since(start);
  };
  // Openings that hold a level let out what stands above it.
  const auto control = [&](const std::vector<double>& row) {
    for (std::size_t i = 0; i < setup.openings.size(); ++i) {
      const auto& opening = setup.openings[i];
      if (opening.given != OpeningSetup<D>::Given::level) continue;
      const double above = row[opening.gauge + 1] - opening.target;  // the first column is the time
      model.boundary().set_flow(i, -std::clamp(opening.gain * above, 0.0, opening.most) / setup.thickness);
    }
  };
  if (kept != nullptr) {
    archive(*kept);
    *kept = Archive();  // as large as the model's fields
    earlier_seconds = ledger.wall_seconds;
    const double smeared = ledger.greatest_smeared;
    close_books(setup, model, ledger);
    ledger.greatest_smeared = smeared;  // of snapshots alone
  } else {
    model.start();
    close_books(setup, model, ledger);
    ledger.volume_start = ledger.volume_now;
    const auto first = gauges.read(model);
    control(first);
    sinks.history(first);
    write_snapshot();
  }

  const auto finish = [&] {
    close_books(setup, model, ledger);
    ledger.wall_seconds = earlier_seconds + seconds_since(begin);
  };
  try {
    while (state.time < schedule.until) {
      // Multiples, not sums, of the interval: ten intervals of 0.1 s must end at 1 s.
      const double next_snapshot = snapshots * schedule.snapshot_interval;
      const double target = std::min(schedule.until, next_snapshot);
      sharp::StepLimit limit{};
      const double stable = model.stable_step(limit);
      if (stable < schedule.smallest_step)
        throw failure(
            fmt::format("the stable time step fell to {:.3g} s at t = {:.6g} s, below run.smallest_step", stable,
                        state.time),
            "something moves very fast: look at the last snapshot; try a finer grid.cell or a gentler motion");
      // The fastest fluid as the stable step sees it, drops in cut cells included.
      const double fastest = model.settings().courant * model.grid().smallest_spacing() / stable;
      watch.look(state.time, limit == sharp::StepLimit::advection ? fastest : 0.0, model.speed_by_drive(),
                 [&] { return model.fastest_place(); });
      const double dt = choose(stable, schedule.largest_step, state.time, target, limit);
      const sharp::StepReport report = model.step(dt);
      if (std::abs(state.time - target) < 1e-9 * std::max(dt, target)) state.time = target;

      ++ledger.steps;
      ++ledger.limits[sharp::name_of(limit)];
      ledger.smallest_step = ledger.steps == 1 ? dt : std::min(ledger.smallest_step, dt);
      ledger.largest_step = std::max(ledger.largest_step, dt);
      ledger.pressure_iterations += report.pressure_iterations;
      ledger.most_pressure_iterations = std::max(ledger.most_pressure_iterations, report.pressure_iterations);
      ledger.unconverged += report.pressure_converged ? 0 : 1;
      ledger.viscous_iterations += report.viscous_iterations;
      ledger.greatest_divergence = std::max(ledger.greatest_divergence, report.divergence);
      ledger.volume_correction += report.volume_correction * setup.thickness;
      for (std::size_t i = 0; i < report.seconds.size(); ++i) ledger.part_seconds[i] += report.seconds[i];

      const auto row = gauges.read(model);
      control(row);

      ledger.greatest_speed = std::max(ledger.greatest_speed, row.back());
      sinks.history(row);
      if (sinks.progress) sinks.progress({state.time, schedule.until, dt, ledger.steps, seconds_since(begin)});
      const bool stop = sinks.stop && sinks.stop() && state.time < schedule.until;
      const bool last = stop || state.time >= schedule.until;
      if (state.time >= next_snapshot) write_snapshot();
      if (last || (sinks.checkpoint_due && sinks.checkpoint_due())) keep();
      if (last && state.time < next_snapshot) write_snapshot();  // one that a run that goes on does without
      if (stop) {
        ledger.interrupted = true;
        break;
      }
    }
  } catch (...) {
    finish();
    throw;
  }
  finish();
}

template void simulate<2>(const Setup<2>&, sharp::Model<2>&, const Sinks<2>&, Ledger&, Archive*);
template void simulate<3>(const Setup<3>&, sharp::Model<3>&, const Sinks<3>&, Ledger&, Archive*);

}  // namespace wavy
