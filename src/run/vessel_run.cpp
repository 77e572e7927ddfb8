#include "run/vessel_run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.hpp"

namespace wavy {

void SpeedWatch::look(double time, double speed, double by_drive, const std::function<std::string()>& place) {
  constexpr double beyond_drive = 3;
  constexpr double jump = 10;
  if (last_.empty()) {
    by_drive_ = speed;  // of the start
    last_.assign(3, speed);
  }
  by_drive_ = std::max(by_drive_, by_drive);
  const double before = *std::min_element(last_.begin(), last_.end());
  if (speed > beyond_drive * by_drive_ && speed > jump * before)
    throw failure(fmt::format("the run diverged at t = {:.6g} s near {}: within {} steps the speed rose from {:.2g} to "
                              "{:.2g} m/s, and what drives the flow could bring about {:.2g} m/s at most",
                              time, place(), last_.size(), before, speed, by_drive_),
                  "what was written before that is good; try a smaller run.courant, or another grid.cell");
  std::rotate(last_.begin(), last_.begin() + 1, last_.end());
  last_.back() = speed;
}

template <int D>
VesselRun<D>::VesselRun(const Setup<D>& setup, const VesselModel<D>& model)
    : setup_(setup), model_(model), gauges_(setup, model), ledger_(model.phases()) {
  ledger_.cells = open_cells(model.grid(), model.space());
  while (columns()[speed_column_].name != "greatest_speed") ++speed_column_;
  if (setup.schedule.means_from) means_.emplace(*setup.schedule.means_from);
}

template <int D>
void VesselRun<D>::start() {
  model_.start();
  close_books();
  ledger_.volume_start = ledger_.volume_now;
  ledger_.tracers_start.clear();
  for (const auto& tracer : ledger_.tracers) ledger_.tracers_start.push_back(tracer.now);
}

template <int D>
std::vector<double> VesselRun<D>::read() {
  std::vector<double> row = gauges_.read(model_);
  // Openings that hold a level let out what stands above it.
  for (std::size_t i = 0; i < setup_.openings.size(); ++i) {
    const auto& opening = setup_.openings[i];
    if (opening.given != OpeningSetup<D>::Given::level) continue;
    const double above = row[opening.gauge + 1] - opening.target;  // the first column is the time
    model_.boundary().set_flow(i, -std::clamp(opening.gain * above, 0.0, opening.most) / setup_.thickness);
  }
  if (ledger_.steps > 0) ledger_.greatest_speed = std::max(ledger_.greatest_speed, row[speed_column_]);
  return row;
}

/// The physics' limit, growing by at most a quarter.
template <int D>
WantedStep VesselRun<D>::wanted_step() {
  constexpr double growth = 1.25;
  const auto [stable, limit] = model_.stable_step();
  if (stable < setup_.schedule.smallest_step)
    throw failure(
        fmt::format("the stable time step fell to {:.3g} s at t = {:.6g} s, below run.smallest_step", stable, time()),
        "something moves very fast: look at the last snapshot; try a finer grid.cell or a gentler motion");
  // The fastest fluid as the stable step sees it, drops in cut cells included.
  const double fastest = model_.courant() * model_.grid().smallest_spacing() / stable;
  watch_.look(time(), limit == name_of(sharp::StepLimit::advection) ? fastest : 0.0, model_.speed_by_drive(),
              [&] { return model_.fastest_place(); });
  WantedStep wanted{stable, limit};
  wanted.at_most(setup_.schedule.largest_step, by_largest_step);
  if (last_step_ > 0) wanted.at_most(growth * last_step_, by_growth);
  last_step_ = wanted.dt;
  return wanted;
}

template <int D>
double VesselRun<D>::step(double dt) {
  const VesselStep report = model_.step(dt);
  ledger_.pressure_iterations += report.pressure_iterations;
  ledger_.most_pressure_iterations = std::max(ledger_.most_pressure_iterations, report.pressure_iterations);
  ledger_.unconverged += report.pressure_converged ? 0 : 1;
  ledger_.viscous_iterations += report.viscous_iterations;
  ledger_.greatest_divergence = std::max(ledger_.greatest_divergence, report.divergence);
  ledger_.volume_correction += report.volume_correction * setup_.thickness;
  for (std::size_t i = 0; i < report.seconds.size(); ++i) ledger_.part_seconds[i] += report.seconds[i];
  if (means_) means_->add(model_, dt);
  return dt;
}

template <int D>
void VesselRun<D>::close_books() {
  ledger_.volume_now = model_.volumes(setup_.thickness);
  ledger_.openings.clear();
  ledger_.volume_in.assign(model_.phases(), 0.0);
  ledger_.volume_out.assign(model_.phases(), 0.0);
  for (std::size_t i = 0; i < setup_.openings.size(); ++i) {
    VesselLedger::Through through{setup_.openings[i].opening.name, model_.boundary().throughput()[i].in,
                                  model_.boundary().throughput()[i].out};
    for (std::size_t p = 0; p < model_.phases(); ++p) {
      through.in[p] *= setup_.thickness;
      through.out[p] *= setup_.thickness;
      ledger_.volume_in[p] += through.in[p];
      ledger_.volume_out[p] += through.out[p];
    }
    ledger_.openings.push_back(through);
  }
  ledger_.tracers.clear();
  for (std::size_t i = 0; i < setup_.tracers.size(); ++i) ledger_.tracers.push_back(tracer_balance(i));
  ledger_.tracer_correction = model_.tracers().greatest_correction();
  ledger_.has_interface = model_.is_sharp();
  if (model_.is_sharp()) ledger_.smeared = smeared_share<D>(model_.grid(), model_.space(), model_.sharp().state().F);
  ledger_.greatest_smeared = std::max(ledger_.greatest_smeared, ledger_.smeared);
  ledger_.wall_units = wall_units_at_walls();
  ledger_.kinetic_energy = model_.kinetic_energy() * setup_.thickness;
}

/// The amount that is there, counted anew, against the books of what came and went.
template <int D>
VesselLedger::Tracer VesselRun<D>::tracer_balance(std::size_t number) const {
  const auto& tracers = model_.tracers();
  const std::size_t phase = setup_.tracers[number].phase;
  const CellNumber share = model_.share(phase, phase + 1);
  const Cells<D>& c = model_.concentrations()[number];
  VesselLedger::Tracer result;
  result.name = setup_.tracers[number].name;
  const Grid<D>& grid = model_.grid();
  result.now = setup_.thickness * grid.cell_volume() * sum_volumes(grid, [&](int b) {
                 const OpenVolumes<D> volume(model_.space(), b);
                 double sum = 0;
                 for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
                   for (std::ptrdiff_t at = o; at < o + n; ++at)
                     if (volume[at] > 0) sum += volume[at] * share(b, at) * c.block(b)[at];
                 });
                 return sum;
               });
  for (std::size_t k = 0; k < setup_.openings.size(); ++k) {
    result.in += setup_.thickness * tracers.passed(number, k).in;
    result.out += setup_.thickness * tracers.passed(number, k).out;
  }
  result.dosed = setup_.thickness * tracers.dosed(number);
  result.dissolved = setup_.thickness * tracers.transferred(number);
  return result;
}

template <int D>
std::array<double, 3> VesselRun<D>::wall_units_at_walls() const {
  if (model_.visit([](auto& m) { return m.turbulence() == nullptr; })) return {};
  const Cells<D> all = model_.visit([](auto& m) { return m.wall_units(); });
  std::vector<double> values;
  for_cells_in_order<D>(model_.grid(), [&](int b, std::ptrdiff_t at, const Index<D>&) {
    if (all.block(b)[at] > 0) values.push_back(all.block(b)[at]);
  });
  if (values.empty()) return {};
  std::ranges::sort(values);
  return {values.front(), values[values.size() / 2], values.back()};
}

template <int D>
void VesselRun<D>::archive(Archive& a) {
  a.within("model", [&] { model_.archive(a); });
  a.within("gauges", [&] { gauges_.archive(a); });
  a.within("ledger", [&] { ledger_.archive(a); });
  a.within("speeds", [&] { watch_.archive(a); });
  if (means_) a.within("means", [&] { means_->archive(a, model_); });
  a("last_step", last_step_);
  if (!a.reading()) return;
  const double smeared = ledger_.greatest_smeared;
  close_books();
  ledger_.greatest_smeared = smeared;  // of snapshots alone
}

template class VesselRun<2>;
template class VesselRun<3>;
static_assert(Simulation<VesselRun<2>> && Simulation<VesselRun<3>>);

}  // namespace wavy
