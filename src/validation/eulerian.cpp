// Bubbles, drops and layers that are not followed one by one.
#include <fmt/format.h>
#include <omp.h>

#include "validation/case_run.hpp"
#include "validation/eulerian_flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace eulerian;

constexpr double round_off = 1e-12;  // bar of what is kept

struct Bodies {
  const char* name;
  Properties fluid;
  double tension;
  std::vector<double> diameters;
};

/// Every law of drag, bubbles and drops of all sizes, in the middle of a still column.
ValidationResult terminal_speeds(bool quick) {
  ValidationResult result;
  const std::vector<Bodies> all_bodies{{"bubbles of 1 to 8 mm", air, 0.0728, {1e-3, 2e-3, 4e-3, 8e-3}},
                                       {"drops of 0.1 to 3 mm", oil, 0.025, {1e-4, 3e-4, 1e-3, 3e-3}}};
  for (const auto& law : drag_laws()) {
    const Drag drag = drag_by(law.name.data());
    for (const auto& [name, fluid, tension, diameters] : all_bodies) {
      Finding worst;
      for (const double diameter : diameters) {
        if (quick && diameter != diameters[1]) continue;
        constexpr double share = 0.05;
        const double slip = slip_in_column(fluid, diameter, tension, drag, share);
        const Finding one = close(fmt::format("slip [m/s], {}, {}, worst of {}", law.name, name, diameters.size()),
                                  slip, terminal(fluid, diameter, tension, drag, share), 1e-3);
        if (worst.what.empty() || one.error > worst.error) worst = one;
      }
      result.findings.push_back(worst);
    }
  }
  return result;
}

ValidationResult falling_faucet(bool quick) {
  ValidationResult result;
  result.x_title = "depth [m]";
  result.chart = {{"gas fraction", {}}};
  for (const int cells : quick ? std::vector<int>{96} : std::vector<int>{48, 96, 192, 384}) {
    const Faucet fell = faucet(cells);
    if (cells == 96)
      result.findings.push_back(small("mean error of the gas fraction over its mean, 96 cells", fell.error, 0.03));
    result.findings.push_back(small(fmt::format("greatest gas fraction above that behind the front, {} cells", cells),
                                    std::max(0.0, fell.most - behind_front_of_faucet()), 1e-3));
    result.chart[0].curves.push_back({fmt::format("{} cells", cells), fell.x, fell.gas});
    if (cells >= (quick ? 96 : 384)) result.chart[0].curves.push_back({"reference", fell.x, fell.wanted});
  }
  // The reference takes the gas for weightless: at 1 kg/m3 the fraction is 3e-4 off it, on any grid.
  constexpr double light = 0.01;
  double coarse = faucet(48, light).behind;
  for (const int cells : quick ? std::vector<int>{96} : std::vector<int>{96, 192}) {
    const double fine = faucet(cells, light).behind;
    result.findings.push_back(
        at_least(fmt::format("order behind the front, {} to {} cells, light gas", cells / 2, cells),
                 std::log2(coarse / fine), 1));
    coarse = fine;
  }
  return result;
}

/// Two sizes of drops in one column: where each has left the bottom, by the jumps across both fronts.
void cream_two_sizes(ValidationResult& result) {
  constexpr double height = 0.5;
  constexpr double time = 8;
  constexpr int cells = 100;
  const std::array<double, 2> share{0.02, 0.1};
  const std::array<double, 2> diameter{2e-4, 4e-4};
  const Drag drag = drag_by("schiller_naumann");
  dispersed::Settings<2> settings;
  settings.phases = {{"water", water, true, 0}, {"fine", oil, false, diameter[0]}, {"coarse", oil, false, diameter[1]}};
  settings.pairs = {{0, 1, 0.025, {}, drag, 0}, {0, 2, 0.025, {}, drag, 0}};
  settings.body_force = downwards<2>();
  settings.walls = all<2>(Wall::slip);
  const Vec<2> size{4 * height / cells, height};
  const Grid<2> grid({0, 0}, size, partition<2>(size, height / cells));
  dispersed::Model<2> model(grid, settings);
  fill(model, {1 - share[0] - share[1], share[0], share[1]});
  const std::array<double, 2> volume{model.volume(1), model.volume(2)};
  model.start();
  run_until(model, time, 0.05);
  // Each slips through the water as its law says under what all lift; together they move nothing.
  const auto slip = [&](std::size_t k, double all_drops) { return terminal(oil, diameter[k], 0.025, drag, all_drops); };
  const double both = share[0] + share[1];
  const double back = share[0] * slip(0, both) + share[1] * slip(1, both);
  const double fine = slip(0, both) - back;
  const double coarse = slip(1, both) - back;
  // Behind the coarse front: what crosses it of the fine ones, a (coarse - fine), crosses it on both sides.
  double alone = share[0];
  for (int i = 0; i < 50; ++i) alone = share[0] * (coarse - fine) / (coarse - (1 - alone) * slip(0, alone));
  const double slow = (1 - alone) * slip(0, alone);
  // Fronts from what is missing below half the height.
  std::array<double, 2> missing{};
  for (std::size_t k = 0; k < 2; ++k) {
    const auto drops = profile(model, k + 1);
    for (std::size_t j = 0; j < cells / 2; ++j) missing[k] += (share[k] - drops[j]) * height / cells;
  }
  const double coarse_front = missing[1] / share[1];
  const double fine_front = (missing[0] - (share[0] - alone) * coarse_front) / alone;
  result.findings.push_back(
      close("front of coarse drops [m], two sizes, 2 and 10 %", coarse_front, coarse * time, 0.02));
  result.findings.push_back(close("front of fine drops [m], two sizes, 2 and 10 %", fine_front, slow * time, 0.02));
  for (std::size_t k = 0; k < 2; ++k)
    result.findings.push_back(small(fmt::format("volume of {} drops, two sizes", k == 0 ? "fine" : "coarse"),
                                    model.volume(k + 1) / volume[k] - 1, round_off));
}

ValidationResult batch_creaming(bool quick) {
  ValidationResult result;
  result.x_title = "height [m]";
  result.chart = {{"fraction of drops", {}}};
  const int cells = quick ? 50 : 100;
  for (const double share : {0.01, 0.1, 0.4}) {
    const Creaming creamed = creaming(share, 30, cells);
    result.findings.push_back(close(fmt::format("clear height [m] after 30 s, {:g} %", 100 * share), creamed.clear,
                                    creamed.clear_wanted, 0.02));
    result.findings.push_back(
        small(fmt::format("volume of drops, {:g} %", 100 * share), creamed.volume_error, round_off));
    Curve2D curve{fmt::format("{:g} %", 100 * share), {}, creamed.drops};
    for (int j = 0; j < cells; ++j) curve.x.push_back((j + 0.5) * 0.5 / cells);
    result.chart[0].curves.push_back(curve);
  }
  cream_two_sizes(result);
  return result;
}

ValidationResult settling_tank(bool) {
  ValidationResult result;
  for (const double diameter : {5e-5, 1e-4}) {
    const PlugFlow tank = plug_flow(diameter);
    result.findings.push_back(
        close(fmt::format("share of drops of {:g} um taken out", 1e6 * diameter), tank.removed, tank.wanted, 0.03));
  }
  return result;
}

/// Gas all over the bottom of a column of 0.5 m of water, and what is held in its middle half.
template <int D>
double held_in_column(double superficial) {
  constexpr double width = 0.1;
  constexpr double h = 0.0125;
  Vec<D> upper;
  upper.fill(width);
  upper[D - 1] = 0.8;
  const Grid<D> grid(Vec<D>{}, upper, partition<D>(upper, h));
  auto in = opening<D>("air", D - 1, 0);
  in.flow = [=](double) { return superficial * std::pow(width, D - 1); };
  auto out = opening<D>("vent", D - 1, 1);
  out.pressure = [](double) { return 0.0; };
  dispersed::Model<D> model(grid, bubbling<D>(), {}, {in, out});
  lay<D>(model, BelowLevel<D>{0.5}, nullptr);
  model.start();
  // Longer than the gas takes to pass, and the mean over swings of what the column does.
  run_until(model, 5, 0.02);
  double sum = 0;
  constexpr int readings = 20;
  for (int k = 1; k <= readings; ++k) {
    run_until(model, 5 + 0.1 * k, 0.02);
    double held = 0;
    int cells = 0;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>& cell) {
      if (cell[D - 1] < 10 || cell[D - 1] >= 30) return;
      held += model.state().a[1].block(b)[at];
      ++cells;
    });
    sum += held / cells / readings;
  }
  return sum;
}

ValidationResult sparged_column(bool quick) {
  ValidationResult result;
  for (const double superficial : {0.005, 0.02, 0.04}) {
    const double wanted = drift_flux_holdup(superficial);
    result.findings.push_back(close(fmt::format("holdup at {:g} mm/s of gas, one dimension", 1e3 * superficial),
                                    held_in_column<2>(superficial), wanted, 5e-3));
    if (!quick)
      result.findings.push_back(close(fmt::format("holdup at {:g} mm/s of gas, in space", 1e3 * superficial),
                                      held_in_column<3>(superficial), wanted, 0.03));
  }
  return result;
}

ValidationResult three_layers(bool quick) {
  ValidationResult result;
  const int steps = quick ? 200 : 1000;
  const auto stays = [&](const Rest& rest, const std::string& name) {
    result.findings.push_back(small(fmt::format("speed / sqrt(g H), {}, {} steps", name, steps),
                                    rest.mixed.speed / std::sqrt(gravity), 1e-9));
    result.findings.push_back(small(fmt::format("level / H, {}", name), rest.change * rest.h, 1e-6));
  };
  for (const double degrees : {0.0, 27.0})
    stays(rest_in_box(degrees * M_PI / 180, steps), fmt::format("box tilted {:g} degrees", degrees));
  for (const bool weir : {false, true})
    stays(rest_in_drum(weir, steps), weir ? "lying cylinder with a weir" : "lying cylinder");
  constexpr double cell = 1.0 / 32;
  stays(rest_beside_plate(0.1 * cell, 0, steps), "levels apart beside a plate of 0.1 cells");
  stays(rest_beside_plate(cell, 20 * M_PI / 180, steps), "levels apart beside a leaning plate of one cell");
  return result;
}

/// Oil and water come in on one side of a wall that is open at the bottom; oil leaves there, water beyond the wall.
constexpr const char* decanter = R"(wavy = 1
model = "eulerian"
[vessel]
size = ["1 m", "0.5 m"]
thickness = "0.3 m"
[grid]
cell = "20 mm"
[[phase]]
name = "water"
fluid = "water"
diameter = "1 mm"
[[phase]]
name = "oil"
density = "885 kg/m^3"
viscosity = "2.1 mPa.s"
diameter = "1 mm"
[[phase]]
name = "air"
fluid = "air"
diameter = "3 mm"
[[pair]]
between = ["water", "oil"]
surface_tension = "25 mN/m"
[[pair]]
between = ["water", "air"]
surface_tension = "72 mN/m"
[[pair]]
between = ["oil", "air"]
surface_tension = "30 mN/m"
[[insert]]
name = "wall"
shape = "box"
lower = ["70 cm", "8 cm"]
upper = ["74 cm", "50 cm"]
[[gauge]]
name = "interface"
measures = "level"
phase = "water"
at = ["0.4 m"]
[[gauge]]
name = "oil_top"
measures = "level"
phase = "oil"
at = ["0.4 m"]
[[gauge]]
name = "leg"
measures = "level"
phase = "water"
at = ["0.87 m"]
[[opening]]
name = "feed"
side = "left"
centre = ["10 cm"]
size = ["10 cm"]
volume_flow = "0.3 L/s"
phases = ["water", "oil"]
shares = [0.7, 0.3]
[[opening]]
name = "oil_out"
side = "left"
centre = ["30 cm"]
size = ["6 cm"]
balances = "36 cm"
phase = "oil"
[[opening]]
name = "water_out"
side = "right"
centre = ["14 cm"]
size = ["10 cm"]
balances = "34 cm"
[[opening]]
name = "vent"
side = "top"
centre = ["0.4 m"]
size = ["20 cm"]
pressure = "0 Pa"
phase = "air"
[[opening]]
name = "vent_of_leg"
side = "top"
centre = ["0.87 m"]
size = ["20 cm"]
pressure = "0 Pa"
phase = "air"
[[fill]]
phase = "water"
shape = "box"
lower = ["0 cm", "0 cm"]
upper = ["72 cm", "21 cm"]
[[fill]]
phase = "oil"
shape = "box"
lower = ["0 cm", "21 cm"]
upper = ["72 cm", "37 cm"]
[[fill]]
phase = "water"
shape = "box"
lower = ["72 cm", "0 cm"]
upper = ["1 m", "36 cm"]
[run]
until = "40 s"
)";

ValidationResult decanter_levels(bool) {
  ValidationResult result;
  const CaseRun<2> done(decanter);
  const auto& setup = done.setup();
  const auto& rows = done.rows();
  const auto& columns = done.run().columns();
  result.x_title = "time [s]";
  result.chart = {{"level [m]", {}}};
  // Means over the second half of the run.
  const auto level = [&](const std::string& name) {
    const auto found = std::ranges::find(columns, name, &Column::name);
    const auto k = static_cast<std::size_t>(found - columns.begin());
    Curve2D curve{name, {}, {}};
    double sum = 0;
    double time = 0;
    for (std::size_t i = 1; i < rows.size(); ++i) {
      curve.x.push_back(rows[i][0]);
      curve.y.push_back(rows[i][k]);
      if (rows[i][0] < setup.schedule.until / 2) continue;
      const double dt = rows[i][0] - rows[i - 1][0];
      sum += rows[i][k] * dt;
      time += dt;
    }
    result.chart[0].curves.push_back(curve);
    return sum / time;
  };
  const double interface = level("interface");
  const double top = level("oil_top");
  const double leg = level("leg");
  const auto& phases = done.model().dispersed().settings().phases;
  const double rho_water = phases[0].fluid.density;
  const double rho_oil = phases[1].fluid.density;
  const double rho_air = phases[2].fluid.density;
  const double oil_held = setup.openings[1].target;
  const double water_held = setup.openings[2].target;
  // Both legs weigh the same at the bottom; the air above reaches to the same height.
  const double wanted = ((rho_water - rho_air) * water_held - (rho_oil - rho_air) * oil_held) / (rho_water - rho_oil);
  const double depth = setup.size[1];
  const auto within = [&](const char* what, double measured, double reference) {
    result.findings.push_back({what, measured, reference, std::abs(measured - reference) / depth, 0.01});
  };
  within("level of the oil [m]", top, oil_held);
  within("level of the water beyond the wall [m]", leg, water_held);
  within("interface [m] by the levels of both outlets", interface, wanted);
  return result;
}

/// A closed box of a mixture from rest, under an acceleration along a slant: slip after some time, in its middle.
Vec<2> slip_from_rest(const dispersed::Settings<2>& settings, double share, double time, double dt) {
  const Grid<2> grid({0, 0}, {0.5, 0.5}, partition<2>({0.5, 0.5}, 0.5 / 24));
  dispersed::Model<2> model(grid, settings);
  fill(model, {1 - share, share});
  model.start();
  run_until(model, time, dt);
  const CellPlace at = CellMap<2>(grid)({12, 12});
  Vec<2> slip;
  for (int d = 0; d < 2; ++d)
    slip[d] = model.state().u[1][d].block(at.block)[at.at] - model.state().u[0][d].block(at.block)[at.at];
  return slip;
}

ValidationResult accelerated_mixture(bool) {
  ValidationResult result;
  constexpr double share = 0.2;
  constexpr double tilt = 0.6;
  const auto pull = downwards<2>(tilt);
  Drag drag;  // a constant coefficient
  auto settings = bodies_in_water<2>({water.density, oil.viscosity}, 1e-3, 0.025, drag);
  settings.body_force = pull;
  result.findings.push_back(
      small("slip [m/s] between phases of one density", length<2>(slip_from_rest(settings, share, 0.1, 1e-3)), 1e-9));
  struct Case {
    const char* name;
    Properties fluid;
    double diameter, inertia;
  };
  for (const auto& [name, fluid, diameter, virtual_mass] :
       {Case{"drops of 3 mm", oil, 3e-3, 0}, Case{"bubbles of 3 mm with virtual mass", air, 3e-3, 0.5}}) {
    settings = bodies_in_water<2>(fluid, diameter, 0.025, drag);
    settings.body_force = pull;
    settings.pairs[0].virtual_mass = virtual_mass;
    // I w' = P - K w^2 with the mixture at rest as a whole: w = sqrt(P / K) tanh(t sqrt(P K) / I).
    const double inertia =
        fluid.density * (1 - share) + water.density * share + virtual_mass * water.density / (1 - share);
    const double weight = (water.density - fluid.density) * gravity;
    const double K = 0.75 * drag.constant * water.density / diameter / (1 - share);
    const double relaxation = inertia / std::sqrt(weight * K);
    for (const double times : {0.3, 1.0}) {
      const double wanted = std::sqrt(weight / K) * std::tanh(times);
      const Vec<2> slip = slip_from_rest(settings, share, times * relaxation, relaxation / 500);
      result.findings.push_back(close(fmt::format("slip [m/s] after {:g} relaxation times, {}", times, name),
                                      -dot<2>(slip, pull(0)) / gravity, wanted, 5e-3));
      const double across = slip[0] * pull(0)[1] - slip[1] * pull(0)[0];
      result.findings.push_back(
          small(fmt::format("slip [m/s] across the pull over that along it, {:g} relaxation times, {}", times, name),
                across / gravity / wanted, 5e-3));
    }
  }
  return result;
}

ValidationResult degassing_surface(bool quick) {
  ValidationResult result;
  for (const double share : quick ? std::vector{1.0} : std::vector{1.0, 0.25}) {
    const bool even = share == 1;
    const Degassing degassed = degassing(share, even ? 10 : 26);
    const std::string where = even ? "gas all over the bottom" : "gas in a quarter of the bottom";
    if (even)
      result.findings.push_back(close("gas let out over gas let in, " + where, degassed.left, degassed.came, 1e-3));
    result.findings.push_back(close("water lost over gas held, " + where, degassed.lost, degassed.held, round_off));
    result.findings.push_back(small("volume of water, " + where, degassed.volume_error, round_off));
  }
  return result;
}

ValidationResult sloshing_gas_cap(bool quick) {
  ValidationResult result;
  for (const double bubbles : quick ? std::vector{0.03} : std::vector{0.0, 0.03}) {
    const std::string with = fmt::format("{:g} % of bubbles at first", 100 * bubbles);
    const Sloshing sloshed = sloshing(32, bubbles);
    result.findings.push_back(small("period over the linear one, less 1, " + with, sloshed.period_error, 0.02));
    result.findings.push_back(small("width of the surface [cells], " + with, sloshed.width, 1.5));
    result.findings.push_back(small("gas deep in the water after five periods [m2], " + with, sloshed.trapped, 1e-6));
    result.findings.push_back(small("volume of water, " + with, sloshed.volume_error, round_off));
  }
  return result;
}

/// Greatest difference of the gas fraction between a place and its mirror image.
double asymmetry(const dispersed::Model<2>& model) {
  const CellMap<2> map(model.grid());
  const Index<2>& cells = model.grid().cells();
  double greatest = 0;
  for (int j = 0; j < cells[1]; ++j)
    for (int i = 0; i < cells[0] / 2; ++i) {
      const CellPlace left = map({i, j});
      const CellPlace right = map({cells[0] - 1 - i, j});
      const auto& a = model.state().a[1];
      greatest = std::max(greatest, std::abs(a.block(left.block)[left.at] - a.block(right.block)[right.at]));
    }
  return greatest;
}

ValidationResult mirrored_plume(bool) {
  ValidationResult result;
  const Grid<2> grid({0, 0}, {0.2, 0.4}, Partition<2>{{32, 64}, {16, 16}});
  auto settings = bubbling<2>();
  settings.projection_tolerance = 1e-12;
  dispersed::Model<2> model = column(grid, 0.02, 0.25, settings);
  lay<2>(model, BelowLevel<2>{0.25}, nullptr);
  model.start();
  run_until(model, 0.5, 0.02);
  result.findings.push_back(
      small("gas fraction less that of the mirror image, pressure to 1e-12, 0.5 s", asymmetry(model), 1e-10));
  return result;
}

ValidationResult same_bits(bool) {
  ValidationResult result;
  const int threads = omp_get_max_threads();
  const auto plain = plume(1, false).fields;
  const auto difference = [&](const std::vector<double>& other) {
    double greatest = 0;
    for (std::size_t i = 0; i < plain.size(); ++i) greatest = std::max(greatest, std::abs(plain[i] - other[i]));
    return greatest;
  };
  result.findings.push_back(small("two threads less one", difference(plume(2, false).fields), 0));
  result.findings.push_back(small("stopped half-way less not", difference(plume(1, true).fields), 0));
  omp_set_num_threads(threads);
  return result;
}

}  // namespace

std::vector<ValidationCase> eulerian_cases() {
  return {
      {"terminal_speeds", "bubbles and drops reach the speed of their law", "weight against drag", true,
       terminal_speeds},
      {"falling_faucet", "water draws together as it falls", "Ransom, Multiphase Sci. Technol. 3 (1987) 465", true,
       falling_faucet},
      {"batch_creaming", "drops rise and leave clear water behind", "Kynch, Trans. Faraday Soc. 48 (1952) 166", false,
       batch_creaming},
      {"settling_tank", "plug flow through a settling tank loses the share of drops that reaches its top",
       "v L / (U H): Hazen, Trans. ASCE 53 (1904) 45", false, settling_tank},
      {"sparged_column", "gas that rises through standing water", "drift flux with the law's slip", false,
       sparged_column},
      {"three_layers", "gas, oil and water at rest in boxes and drums", "hydrostatics", true, three_layers},
      {"decanter_levels", "interface of a decanter by the levels of its outlets", "hydrostatics", false,
       decanter_levels},
      {"accelerated_mixture", "slip in a mixture that is accelerated as a whole", "quadratic drag: tanh", true,
       accelerated_mixture},
      {"degassing_surface", "gas leaves through the top of a full vessel, water makes room for what is held",
       "balance of volumes", false, degassing_surface},
      {"sloshing_gas_cap", "gas sloshes over a liquid with bubbles in it", "linear period", false, sloshing_gas_cap},
      {"mirrored_plume", "a plume on the middle line stays symmetric until it sways by itself", "symmetry", false,
       mirrored_plume},
      {"eulerian_bits", "threads and a stop on the way change no bit", "none is needed", false, same_bits}};
}

}  // namespace wavy
