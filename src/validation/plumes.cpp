// Bubbles that rise in the middle of a column: the plume sways, and the liquid goes round.
#include <fmt/format.h>

#include "base/swings.hpp"
#include "validation/case_run.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

/// Water 0.45 m deep; the sparger a little off the middle, or nothing would begin to sway. `pair`: more on the phases.
std::string column(const char* width, const char* breadth, const char* law, const char* bubbles, const char* sparger,
                   const char* flow, const char* pair, double until) {
  return fmt::format(R"(wavy = 1
model = "eulerian"
[vessel]
size = ["{}", "{}", "45 cm"]
[turbulence]
law = "{}"
[grid]
cell = "10 mm"
{}[[pair]]
between = ["water", "air"]
surface_tension = "72 mN/m"
{}
[[opening]]
name = "sparger"
spread = "box"
{}
volume_flow = "{}"
phase = "air"
[[opening]]
name = "top"
side = "top"
lets_out = "gas"
[run]
until = "{} s"
)",
                     width, breadth, law, water_with_bubbles(bubbles), pair, sparger, flow, until);
}

/// A gauge of the water's velocity along an axis at a point.
std::string probe(const char* name, char axis, const char* at) {
  return gauge_text(name, "value", fmt::format("quantity = \"water_velocity_{}\"\nat = [{}]\n", axis, at));
}

ValidationResult flat_column(bool) {
  constexpr double until = 110;
  constexpr double swaying = 45;  // [s]: from then on it swings as far as it does later
  const CaseRun<3> run(column("20 cm", "5 cm", "k_epsilon", "3 mm",
                              "lower = [\"92 mm\", \"19 mm\", \"1 mm\"]\nupper = [\"110 mm\", \"31 mm\", \"14 mm\"]",
                              "48 L/h", "", until) +
                       probe("across", 'x', R"("10 cm", "2.5 cm", "22.5 cm")"));
  ValidationResult result;
  const auto found = swings(run.column("time"), run.column("across"), swaying, until, 1);
  result.findings.push_back(
      close("period of the plume [s], 10 mm, k-epsilon", found.empty() ? 0.0 : found[0].period, 16, 0.2));
  return result;
}

ValidationResult square_column(bool) {
  constexpr double until = 100;
  constexpr double from = 20;
  const CaseRun<3> run(column("15 cm", "15 cm", "smagorinsky", "4 mm",
                              "lower = [\"61 mm\", \"61 mm\", \"1 mm\"]\nupper = [\"91 mm\", \"91 mm\", \"11 mm\"]",
                              "110.25 mL/s", "lift = \"sphere\"\nturbulent_dispersion = \"none\"", until) +
                       probe("middle", 'z', R"("7.5 cm", "7.5 cm", "25 cm")") +
                       probe("left", 'z', R"("1 cm", "7.5 cm", "25 cm")") +
                       probe("right", 'z', R"("14 cm", "7.5 cm", "25 cm")"));
  ValidationResult result;
  // As published, read off a figure.
  result.findings.push_back(close("mean rise of the water in the middle at 0.25 m [m/s], 10 mm, Smagorinsky",
                                  run.mean_from(from, "middle"), 0.2, 0.25));
  const double beside = 0.5 * (run.mean_from(from, "left") + run.mean_from(from, "right"));
  result.findings.push_back(at_least("mean fall of the water 1 cm off the walls [m/s]", -beside, 0));
  return result;
}

}  // namespace

std::vector<ValidationCase> plume_cases() {
  return {{"flat_column", "a bubble plume sways in a flat column of water",
           "Pfleger et al., Chem. Eng. Sci. 54 (1999) 5091: 16 s", false, flat_column},
          {"square_column", "a bubble plume in a square column stirs the water",
           "Deen, Solberg & Hjertager, Chem. Eng. Sci. 56 (2001) 6341", false, square_column}};
}

}  // namespace wavy
