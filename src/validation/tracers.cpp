// What phases carry: kept, within bounds, and dissolved from gas.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <string>
#include <utility>

#include "sharp/model.hpp"
#include "validation/case_run.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

/// A drop that carries dye falls into water without, and merges.
ValidationResult dyed_drop(bool quick) {
  constexpr double dye = 2;
  const double given = dye * std::numbers::pi * 0.012 * 0.012;  // [kg per metre of thickness]
  const CaseRun<2> run(fmt::format(R"(wavy = 1
[vessel]
size = ["0.1 m", "0.1 m"]
[grid]
cell = "{} m"
[[phase]]
name = "water"
fluid = "water"
[[phase]]
name = "air"
fluid = "air"
[[pair]]
surface_tension = "72 mN/m"
[[fill]]
phase = "water"
level = "0.035 m"
[[fill]]
phase = "water"
shape = "circle"
centre = ["0.05 m", "0.055 m"]
diameter = "0.024 m"
[[tracer]]
name = "dye"
diffusivity = "0 m^2/s"
[[dose]]
amount = "{} kg"
lower = ["0.03 m", "0.041 m"]
upper = ["0.07 m", "0.07 m"]
[[gauge]]
name = "dye"
measures = "amount"
quantity = "dye_concentration"
[[gauge]]
name = "most"
measures = "greatest"
quantity = "dye_concentration"
[run]
until = "0.2 s"
)",
                                   quick ? 0.1 / 48 : 0.1 / 96, given));
  double worst = 0;
  double most = 0;
  for (std::size_t i = 1; i < run.rows().size(); ++i) {
    worst = std::max(worst, std::abs(run.rows()[i][1] / given - 1));
    most = std::max(most, run.rows()[i][2]);
  }
  double in_air = 0;
  double in_pool = 0;
  const auto& state = run.model().sharp().state();
  for_cells_in_order<2>(run.grid(), [&](int b, std::ptrdiff_t o, const Index<2>&) {
    const double c = state.tracers[0].block(b)[o];
    if (state.F.block(b)[o] < 1e-13) in_air = std::max(in_air, c);
    if (cell_middle<2>(run.grid(), b, o)[1] < 0.02) in_pool = std::max(in_pool, c);
  });
  ValidationResult result;
  result.findings.push_back(small("change of the amount, any step", worst, 1e-12));
  result.findings.push_back(small("concentration over that of the drop, less 1", most / dye - 1, 1e-6));
  result.findings.push_back(small("concentration in the air [kg/m3]", in_air, 0));
  result.findings.push_back(at_least("it reaches the pool below [kg/m3]", in_pool, 1e-3));
  return result;
}

/// Oxygen that dissolves from bubbles of 4 mm, at the start the same everywhere. `vessel`: its size and whatever else
/// is to be said of it.
std::string bubbly(const std::string& vessel, double share, const std::string& how, const std::string& more) {
  return fmt::format(R"(wavy = 1
model = "eulerian"
[vessel]
{}
[grid]
cell = "2 cm"
{}[[fill]]
phase = "air"
share = {}
shape = "box"
lower = ["0 m", "0 m"]
upper = ["1 m", "1 m"]
[[tracer]]
name = "oxygen"
phase = "water"
diffusivity = "2e-9 m^2/s"
dissolves_from = "air"
saturation = "8.6 mg/L"
saturation_by_pressure = "no"
{}
)",
                     vessel, water_with_bubbles("4 mm"), share, how) +
         more;
}

/// Bubbles at rest.
ValidationResult absorption(bool) {
  const CaseRun<2> run(bubbly(R"(size = ["0.2 m", "0.2 m"])", 0.05,
                              "dissolves_by = \"constant\"\ntransfer_coefficient = \"0.5 mm/s\"", R"(
[motion]
gravity = ["0 m/s^2", "0 m/s^2"]
[run]
until = "60 s"
largest_step = "1 s"
)" + gauge_text("oxygen", "mean", "quantity = \"oxygen_concentration\"\n")));
  constexpr double kla = 5e-4 * 6 * 0.05 / 4e-3 / 0.95;  // of the liquid
  double worst = 0;
  for (const auto& row : run.rows()) worst = std::max(worst, std::abs(row[1] / 8.6e-3 - (1 - std::exp(-kla * row[0]))));
  ValidationResult result;
  result.findings.push_back(small("distance from 1 - exp(-kLa t), any time", worst, 0.01));
  return result;
}

/// Bubbles that rise through water at rest: kL by penetration at their slip.
ValidationResult sparged(bool) {
  std::string more = R"(
[[pair]]
surface_tension = "72 mN/m"
drag = "tomiyama_contaminated"
[run]
until = "0.5 s"
)";
  for (const auto& [name, quantity] :
       {std::pair{"kla", "oxygen_kla"}, {"air_velocity", "air_velocity_y"}, {"water_velocity", "water_velocity_y"}})
    more += gauge_text(
        name, "mean",
        fmt::format("quantity = \"{}\"\nlower = [\"0 m\", \"0.14 m\"]\nupper = [\"0.1 m\", \"0.26 m\"]\n", quantity));
  const CaseRun<2> run(
      bubbly("size = [\"0.1 m\", \"0.4 m\"]\nrepeats = \"x\"", 0.02, "dissolves_by = \"penetration\"", more));
  const double slip = run.mean_from(0.3, "air_velocity") - run.mean_from(0.3, "water_velocity");
  const double reference = 2 * std::sqrt(2e-9 * slip / (std::numbers::pi * 4e-3)) * 6 * 0.02 / 4e-3;
  ValidationResult result;
  result.findings.push_back(
      close("kLa of rising bubbles over Higbie's at their slip", run.mean_from(0.3, "kla") / reference, 1, 0.01));
  return result;
}

}  // namespace

std::vector<ValidationCase> tracer_cases() {
  return {{"dyed_drop", "a drop that carries dye falls into water and merges", "nothing is lost, nothing leaves it",
           true, dyed_drop},
          {"absorption", "oxygen from uniform bubbles at rest", "1 - exp(-kLa t)", true, absorption},
          {"sparged", "oxygen from bubbles that rise", "Higbie, Trans. AIChE 31 (1935) 365", true, sparged}};
}

}  // namespace wavy
