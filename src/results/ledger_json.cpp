// Ledgers as JSON.
#include <nlohmann/json.hpp>

#include "results/run_folder.hpp"
#include "run/ledger.hpp"

namespace wavy {
namespace {

void add_settling(nlohmann::ordered_json& json, const RunLedger& ledger) {
  if (!ledger.settling.empty()) json["settled"] = {{"ended_run", ledger.settled}, {"gauges", ledger.settling}};
}

}  // namespace

nlohmann::ordered_json to_json(const LineLedger& ledger, const std::vector<std::string>& phase_names) {
  nlohmann::ordered_json json;
  auto& masses = json["phases"] = nlohmann::ordered_json::array();
  for (std::size_t p = 0; p < 2; ++p)
    masses.push_back({{"name", phase_names[p]},
                      {"mass_start_kg", ledger.mass_start[p]},
                      {"mass_in_kg", ledger.mass_in[p]},
                      {"mass_out_kg", ledger.mass_out[p]},
                      {"mass_now_kg", ledger.mass_now[p]},
                      {"drift", ledger.drift(p)}});
  json["sections"] = ledger.cells;
  json["steps"] = ledger.steps;
  json["smallest_step_s"] = ledger.smallest_step;
  json["largest_step_s"] = ledger.largest_step;
  json["step_limits"] = ledger.limits;
  json["pressure_iterations"] = ledger.iterations;
  json["greatest_volume_error"] = ledger.greatest_volume_error;
  json["wall_time_s"] = ledger.wall_seconds;
  add_settling(json, ledger);
  return json;
}

nlohmann::ordered_json to_json(const VesselLedger& ledger, const std::vector<std::string>& phase_names) {
  nlohmann::ordered_json json;
  auto& volumes = json["phases"] = nlohmann::ordered_json::array();
  for (std::size_t i = 0; i < phase_names.size(); ++i) {
    if (phase_names[i].empty()) continue;  // left out
    volumes.push_back({{"name", phase_names[i]},
                       {"volume_start_m3", ledger.volume_start[i]},
                       {"volume_in_m3", ledger.volume_in[i]},
                       {"volume_out_m3", ledger.volume_out[i]},
                       {"volume_now_m3", ledger.volume_now[i]},
                       {"drift", ledger.drift(static_cast<int>(i))}});
    if (const double time = ledger.residence(i); time > 0) volumes.back()["residence_s"] = time;
  }
  if (!ledger.openings.empty()) {
    auto& openings = json["openings"] = nlohmann::ordered_json::array();
    for (const auto& through : ledger.openings) {
      nlohmann::ordered_json entry{{"name", through.opening}};
      for (std::size_t p = 0; p < phase_names.size() && !phase_names[p].empty(); ++p) {
        entry[phase_names[p] + "_in_m3"] = through.in[p];
        entry[phase_names[p] + "_out_m3"] = through.out[p];
      }
      openings.push_back(entry);
    }
  }
  if (!ledger.tracers.empty()) {
    auto& tracers = json["tracers"] = nlohmann::ordered_json::array();
    for (std::size_t i = 0; i < ledger.tracers.size(); ++i) {
      const auto& one = ledger.tracers[i];
      tracers.push_back({{"name", one.name},
                         {"start_kg", ledger.tracers_start[i]},
                         {"dosed_kg", one.dosed},
                         {"dissolved_kg", one.dissolved},
                         {"in_kg", one.in},
                         {"out_kg", one.out},
                         {"now_kg", one.now},
                         {"drift", ledger.tracer_drift(i)}});
    }
    json["greatest_tracer_correction"] = ledger.tracer_correction;
  }
  if (ledger.has_interface) {
    json["smeared_share"] = ledger.smeared;
    json["greatest_smeared_share"] = ledger.greatest_smeared;
  }
  if (ledger.wall_units[2] > 0) json["wall_units_least_middle_greatest"] = ledger.wall_units;
  json["greatest_divergence_per_step"] = ledger.greatest_divergence;
  if (ledger.has_interface) json["volume_put_back_m3"] = ledger.volume_correction;
  json["kinetic_energy_J"] = ledger.kinetic_energy;
  json["greatest_speed_m_s"] = ledger.greatest_speed;
  json["cells"] = ledger.cells;
  json["steps"] = ledger.steps;
  json["smallest_step_s"] = ledger.smallest_step;
  json["largest_step_s"] = ledger.largest_step;
  json["step_limits"] = ledger.limits;
  json["pressure_iterations"] = ledger.pressure_iterations;
  json["most_pressure_iterations"] = ledger.most_pressure_iterations;
  json["steps_pressure_not_converged"] = ledger.unconverged;
  json["viscous_iterations"] = ledger.viscous_iterations;
  json["wall_time_s"] = ledger.wall_seconds;
  json["nanoseconds_per_cell_and_step"] = ledger.nanoseconds_per_cell_and_step();
  json["wall_time_by_part_s"] = {{"advection", ledger.part_seconds[0]},
                                 {"viscosity", ledger.part_seconds[1]},
                                 {"forces", ledger.part_seconds[2]},
                                 {"pressure", ledger.part_seconds[3]},
                                 {"output", ledger.output_seconds}};
  add_settling(json, ledger);
  return json;
}

}  // namespace wavy
