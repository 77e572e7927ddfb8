#include "validation/turbulent_flows.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "flow/turbulence.hpp"
#include "geometry/solids.hpp"
#include "sharp/model.hpp"
#include "validation/case_run.hpp"

namespace wavy::turbulent {
namespace {

/// One fluid of density 1 and a friction velocity of 1, driven along `along`, so that the walls take `force` of it per
/// volume.
template <int D>
sharp::Settings<D> driven(const TurbulenceLaw& law, double re_tau, const Vec<D>& along, double force) {
  sharp::Settings<D> settings;
  settings.liquid = {1, 1 / re_tau};
  settings.gas = {0.5, 1 / re_tau};
  for (auto& axis : settings.walls) axis = {Wall::no_slip, Wall::no_slip};
  Vec<D> push;
  for (int d = 0; d < D; ++d) push[d] = force * along[d];
  settings.body_force = [push](double) { return push; };
  settings.turbulence.law = &law;
  settings.turbulence.start.length = 0.1;
  return settings;
}

/// From the profile of the law of the wall until the time given. `distance`: from the nearest wall; `width` for the
/// Reynolds number.
template <int D>
Developed develop(sharp::Model<D>& model, const Vec<D>& along, double re_tau, double width, double until) {
  const Grid<D>& grid = model.grid();
  const auto distance = model.settings().turbulence.wall_distance;
  for (auto& F : model.state().F.data()) F = 1;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>&) {
    const double y = std::max(distance(cell_middle<D>(grid, b, at)), 0.0);
    for (int d = 0; d < D; ++d) model.state().u[d].block(b)[at] = along[d] * wall_law(y * re_tau);
  });
  model.start();
  while (model.state().time < until) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  double flow = 0;
  double volume = 0;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>&) {
    const double open = open_share(model.space(), b, at);
    volume += open;
    for (int d = 0; d < D; ++d) flow += open * along[d] * model.state().u[d].block(b)[at];
  });
  double force = 0;
  double wall = 0;
  for (const auto& elements : model.wall_elements())
    for (const auto& element : elements) {
      force += dot<D>(model.drag(element), along);
      wall += element.area;
    }
  const double speed = flow / volume;
  return {force / wall / (0.5 * speed * speed), speed * width * re_tau, re_tau * 0.5 * grid.smallest_spacing()};
}

}  // namespace

Developed channel(const TurbulenceLaw& law, double re_tau, int cells_across, double until) {
  const double h = 2.0 / cells_across;
  const Grid<2> grid({0, 0}, {4 * h, 2}, partition<2>({4 * h, 2}, h), {true, false});
  auto settings = driven<2>(law, re_tau, {1, 0}, 1);
  settings.turbulence.wall_distance = [](const Vec<2>& p) { return std::min(p[1], 2 - p[1]); };
  sharp::Model<2> model(grid, settings);
  return develop<2>(model, {1, 0}, re_tau, 2, until);
}

Developed slanted_channel(const TurbulenceLaw& law, double re_tau, int cells_across, double until) {
  // Channels of a width of 2 side by side, each 2.5 from the next, in a box that repeats.
  constexpr double apart = 2.5;
  const double root = std::sqrt(5.0);
  const Vec<2> size{root * apart, 0.5 * root * apart};
  const Grid<2> grid({0, 0}, size, partition<2>(size, 2.0 / cells_across), {true, true});
  const auto beyond = [=](const Vec<2>& p) {  // the wall, negative in the channel
    const double s = (2 * p[1] - p[0]) / root;
    return std::abs(s - apart * std::round(s / apart)) - 1;
  };
  const Solid<2> wall{[=](const Vec<2>& p) { return -beyond(p); }, {0, 0}, size};
  auto settings = driven<2>(law, re_tau, {2 / root, 1 / root}, 1);
  settings.turbulence.wall_distance = [=](const Vec<2>& p) { return -beyond(p); };
  sharp::Model<2> model(grid, settings, OpenSpace<2>(grid, nullptr, {wall}, {}));
  return develop<2>(model, {2 / root, 1 / root}, re_tau, 2, until);
}

Developed pipe(const TurbulenceLaw& law, double re_tau, int cells_across, double roughness, double until) {
  const double h = 2.0 / cells_across;
  const Vec<3> size{4 * h, 2 + 2 * h, 2 + 2 * h};
  const Grid<3> grid({0, 0, 0}, size, partition<3>(size, h), {true, false, false});
  const double middle = 1 + h;
  const auto beyond = [=](const Vec<3>& p) { return std::hypot(p[1] - middle, p[2] - middle) - 1; };
  const Solid<3> inside{beyond, {0, 0, 0}, size};
  auto settings = driven<3>(law, re_tau, {1, 0, 0}, 2);
  settings.turbulence.roughness = roughness;
  settings.turbulence.wall_distance = [=](const Vec<3>& p) { return -beyond(p); };
  sharp::Model<3> model(grid, settings, OpenSpace<3>(grid, &inside, {}, {}));
  return develop<3>(model, {1, 0, 0}, re_tau, 2, until);
}

double dean_friction(double reynolds) { return 0.073 * std::pow(reynolds, -0.25); }

double law_friction(double reynolds) {
  const auto mean = [](double re_tau) {
    constexpr int parts = 4000;
    double sum = 0;
    for (int i = 0; i < parts; ++i) sum += wall_law((i + 0.5) / parts * re_tau);
    return sum / parts;
  };
  double re_tau = 0.05 * reynolds;
  for (int i = 0; i < 60; ++i) re_tau = 0.5 * reynolds / mean(re_tau);
  return 2 / std::pow(mean(re_tau), 2);
}

double colebrook_friction(double reynolds, double roughness) {
  double inverse_root = 7;
  for (int i = 0; i < 60; ++i) inverse_root = -2 * std::log10(roughness / 3.7 + 2.51 * inverse_root / reynolds);
  return 0.25 / (inverse_root * inverse_root);
}

double decay(const TurbulenceLaw& law, double turns) {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 16), {true, true});
  const OpenSpace<2> space;
  const Boundary<2> boundary(grid, space, {});
  const WallElements<2> none(static_cast<std::size_t>(grid.blocks()));
  TurbulenceSettings<2> settings;
  settings.law = &law;
  settings.start = {1, 0.01};
  settings.start_speed = 1;
  Turbulence<2> turbulence(grid, space, boundary, walls_at_rest<2>(), none, settings);
  CellVectors<2> u;
  for (auto& component : u) component = Cells<2>(grid);
  const Faces<2> face_u = u;
  const Cells<2> nu(grid, 1e-6);
  const MeanFlow<2> flow{u, face_u, nu};
  TurbulentState<2> state;
  turbulence.start(grid, flow, state);
  const double k = state.k.block(0)[0];
  const double time = k / turbulence.dissipation(state).block(0)[0];
  constexpr int steps_per_turn = 200;
  const int steps = static_cast<int>(std::lround(turns * steps_per_turn));
  for (int i = 0; i < steps; ++i) turbulence.step(grid, flow, time / steps_per_turn, state);
  return state.k.block(0)[0] / k;
}

double reattachment(const TurbulenceLaw& law, int cells_per_step) {
  const std::string text = fmt::format(R"(wavy = 1
[vessel]
size = ["26 m", "9 m"]
[vessel.walls]
top = "slip"
[grid]
cell = "{} m"
[turbulence]
law = "{}"
[[phase]]
name = "air"
density = "1 kg/m^3"
viscosity = "{} Pa.s"
[[phase]]
name = "none"
density = "0.5 kg/m^3"
viscosity = "{} Pa.s"
[[insert]]
name = "step"
lower = ["0 m", "0 m"]
upper = ["6 m", "1 m"]
[motion]
gravity = ["0 m/s^2", "0 m/s^2"]
[[opening]]
name = "in"
side = "left"
centre = ["5 m"]
size = ["8 m"]
speed = "1 m/s"
profile = "turbulent"
phase = "air"
turbulence_intensity = 0.01
turbulence_length = "0.1 m"
[[opening]]
name = "out"
side = "right"
pressure = "0 Pa"
phase = "air"
outside = "inside"
[[fill]]
phase = "air"
level = "9 m"
[run]
until = "100 s"
)",
                                       1.0 / cells_per_step, law.name, 1.0 / 36000, 1.0 / 36000);
  const CaseRun<2> done(text);
  // The last place along the bottom behind the step where the flow turns.
  const CellMap<2> map(done.grid());
  const auto& u = done.model().sharp().state().u[0];
  const auto along = [&](int i) {
    const CellPlace place = map({i, 0});
    return u.block(place.block)[place.at];
  };
  double found = 0;
  for (int i = 6 * cells_per_step; i + 1 < 20 * cells_per_step; ++i)
    if (along(i) < 0 && along(i + 1) >= 0)
      found = (i + 0.5 + along(i) / (along(i) - along(i + 1))) / cells_per_step - 6;
  return found;
}

double spreading(const TurbulenceLaw& law, bool round) {
  // Along x beside the plane through the jet's middle, or upwards round its axis; openings let in what it takes along.
  constexpr double cell = 0.25;
  constexpr double opening = 0.5;  // its half, or radius [m]
  const double width = round ? 16 : 24;
  const double way = round ? 36 : 60;
  const std::string across = fmt::format("{} m", width);
  const auto opened = [](const char* name, const char* side, double from, double to, const char* more) {
    const std::string part =
        to > from ? fmt::format("centre = [\"{} m\"]\nsize = [\"{} m\"]\n", 0.5 * (from + to), to - from) : "";
    return fmt::format("[[opening]]\nname = \"{}\"\nside = \"{}\"\n{}phase = \"air\"\n{}", name, side, part, more);
  };
  const char* rest = "pressure = \"0 Pa\"\n";
  const char* start = round ? "bottom" : "left";
  const CaseRun<2> done(fmt::format(R"(wavy = 1
[vessel]
size = ["{} m", "{} m"]
symmetry = "{}"
walls.all = "slip"
[grid]
cell = "{} m"
[turbulence]
law = "{}"
start_speed = "0.01 m/s"
[[phase]]
name = "air"
density = "1 kg/m^3"
viscosity = "1e-5 Pa.s"
[[phase]]
name = "none"
density = "0.5 kg/m^3"
viscosity = "1e-5 Pa.s"
[motion]
gravity = ["0 m/s^2", "0 m/s^2"]
[[fill]]
phase = "air"
level = "{} m"
[run]
until = "{} s"
)",
                                    round ? width : way, round ? way : width, round ? "round" : "none", cell, law.name,
                                    round ? way : width, round ? 400 : 800) +
                        opened("jet", start, 0, opening,
                               "speed = \"1 m/s\"\nturbulence_intensity = 0.05\nturbulence_length = \"0.1 m\"\n") +
                        opened("beside", start, opening, width, rest) +
                        opened("along", round ? "right" : "top", 0, 0, rest) +
                        opened("end", round ? "top" : "right", 0, 0, "pressure = \"0 Pa\"\noutside = \"inside\"\n"));
  const CellMap<2> map(done.grid());
  const auto& u = done.model().sharp().state().u[round ? 1 : 0];
  // Where the speed has fallen to half of that in the middle.
  const auto half_width = [&](double at) {
    const int along = static_cast<int>(at / cell);
    const auto speed = [&](int off) {
      const CellPlace place = map(round ? Index<2>{off, along} : Index<2>{along, off});
      return u.block(place.block)[place.at];
    };
    int i = 0;
    while (speed(i + 1) > 0.5 * speed(0)) ++i;
    return cell * (i + 0.5 + (speed(i) - 0.5 * speed(0)) / (speed(i) - speed(i + 1)));
  };
  const double from = round ? 20 : 30;
  const double to = round ? 30 : 50;
  return (half_width(to) - half_width(from)) / (to - from);
}

}  // namespace wavy::turbulent
