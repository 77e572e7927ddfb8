#include "validation/eulerian_flows.hpp"

#include <omp.h>

#include "base/archive.hpp"
#include "validation/flows.hpp"

namespace wavy::eulerian {

using namespace dispersed;

Drag drag_by(const char* law, const char* hindrance) {
  Drag drag;
  if (law == nullptr)
    drag.constant = 0;
  else
    drag.law = find_law(drag_laws(), law);
  if (hindrance != nullptr) drag.hindrance = find_law(hindrance_laws(), hindrance);
  return drag;
}

double terminal(const Properties& bodies, double diameter, double tension, const Drag& drag, double share) {
  return terminal_slip(
      drag, {water.density, water.viscosity, bodies.density, bodies.viscosity, tension, diameter, gravity, 0, share});
}

Shape<2> below(double level, double tilt) {
  return Covering<2>{[=](const Vec<2>& lower, const Vec<2>& upper) {
    Vec<2> n{-std::sin(tilt) * (upper[0] - lower[0]), std::cos(tilt) * (upper[1] - lower[1])};
    double offset = level + std::sin(tilt) * lower[0] - std::cos(tilt) * lower[1];
    double scale = 0;
    for (double& c : n) {
      if (c < 0) {
        offset -= c;
        c = -c;
      }
      scale += c;
    }
    if (offset <= 0) return 0.0;
    return offset >= scale ? 1.0 : share_below<2>({n[0] / scale, n[1] / scale}, offset / scale);
  }};
}

std::vector<double> profile(const Model<2>& model, std::size_t phase) {
  const CellMap<2> map(model.grid());
  std::vector<double> values;
  for (int j = 0; j < model.grid().cells()[1]; ++j) {
    const CellPlace at = map({1, j});
    values.push_back(model.state().a[phase].block(at.block)[at.at]);
  }
  return values;
}

double slip_in_column(const Properties& bodies, double diameter, double tension, const Drag& drag, double share) {
  const Grid<2> grid({0, 0}, {0.04, 0.6}, partition<2>({0.04, 0.6}, 0.01));
  Model<2> model(grid, bodies_in_water<2>(bodies, diameter, tension, drag));
  fill(model, {1 - share, share});
  model.start();
  run_until(model, 0.6, 0.02);
  const CellPlace at = CellMap<2>(grid)({2, 30});  // before the ends are felt
  const auto& u = model.state().u;
  return u[1][1].block(at.block)[at.at] - u[0][1].block(at.block)[at.at];
}

namespace {

Rest rest_of(Model<2>& model, int steps) {
  const auto start = model.state().a;
  model.start();
  StepLimit limit{};
  for (int step = 0; step < steps; ++step) model.step(std::min(5e-3, model.stable_step(limit)));
  Rest result;
  result.mixed = mixture(model);
  result.h = model.grid().spacing()[1];
  for_cells_in_order<2>(model.grid(), [&](int b, std::ptrdiff_t at, const Index<2>&) {
    if (open_share(model.space(), b, at) == 0) return;
    for (std::size_t i = 0; i < model.phases(); ++i)
      result.change = std::max(result.change, std::abs(model.state().a[i].block(b)[at] - start[i].block(b)[at]));
  });
  return result;
}

}  // namespace

Rest rest_in_box(double tilt, int steps) {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 24));
  auto settings = layers<2>(true);
  settings.body_force = downwards<2>(tilt);
  Model<2> model(grid, settings);
  const Shape<2> oil_and_water = below(0.4651, tilt);
  lay<2>(model, below(0.2137, tilt), &oil_and_water);
  return rest_of(model, steps);
}

Rest rest_in_drum(bool weir, int steps) {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
  const Solid<2> drum{[](const Vec<2>& p) { return std::hypot(p[0] - 0.5, p[1] - 0.5) - 0.48; }, {0, 0}, {1, 1}};
  std::vector<Solid<2>> inserts;
  if (weir) inserts.push_back(box_solid<2>({0.55, 0}, {0.65, 0.35}));
  Model<2> model(grid, layers<2>(true), OpenSpace<2>(grid, &drum, inserts, {}));
  const Shape<2> oil_and_water = BelowLevel<2>{0.4651};
  lay<2>(model, BelowLevel<2>{0.2137}, &oil_and_water);
  return rest_of(model, steps);
}

Rest rest_beside_plate(double thickness, double lean, int steps) {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
  const double along = std::cos(lean);
  const double across = std::sin(lean);
  const auto side_of = [=](const Vec<2>& p) { return along * (p[0] - 0.51) - across * p[1]; };  // of the plate's middle
  const Solid<2> plate{[=](const Vec<2>& p) {
                         const double up = across * (p[0] - 0.51) + along * p[1];
                         return std::max(std::abs(side_of(p)) - 0.5 * thickness, std::abs(up) - 0.81);
                       },
                       {0, 0},
                       {1, 1}};
  OpenSpace<2> space = lean == 0 && thickness < grid.spacing()[0]
                           ? OpenSpace<2>(grid, nullptr, {}, {{{0.51, 0}, {1, 0}, plate}})
                           : OpenSpace<2>(grid, nullptr, {plate}, {});
  Model<2> model(grid, layers<2>(true), std::move(space));
  // Each cell by the side on which its middle lies: the levels differ by several cells.
  const auto lay_side = [&](bool right, double water_level, double oil_level) {
    const Shape<2> both = BelowLevel<2>{oil_level};
    Model<2> filled(grid, layers<2>(true));
    lay<2>(filled, BelowLevel<2>{water_level}, &both);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      if ((side_of(cell_middle(grid, b, at)) > 0) != right) return;
      for (std::size_t i = 0; i < 3; ++i) model.state().a[i].block(b)[at] = filled.state().a[i].block(b)[at];
    });
  };
  lay_side(false, 0.2137, 0.4651);
  lay_side(true, 0.3512, 0.6233);
  return rest_of(model, steps);
}

Model<2> column(const Grid<2>& grid, double superficial, double share, Settings<2> settings) {
  const double width = grid.upper()[0];
  auto in = opening<2>("air", 1, 0);
  if (share < 1) in.within = AlignedBox<2>{{width * (0.5 - share / 2), -1}, {width * (0.5 + share / 2), 1}};
  in.flow = [=](double) { return superficial * width; };
  auto out = opening<2>("vent", 1, 1);
  out.pressure = [](double) { return 0.0; };
  return Model<2>(grid, std::move(settings), {}, {in, out});
}

Plume plume(int threads, bool stopped) {
  const Grid<2> grid({0, 0}, {0.4, 0.4}, Partition<2>{{160, 160}, {32, 32}});
  omp_set_num_threads(threads);
  const auto go_on = [](Model<2>& model) {
    StepLimit limit{};
    for (int step = 0; step < 15; ++step) model.step(std::min(0.01, model.stable_step(limit)));
  };
  const auto end_of = [&](Model<2>& model) {
    go_on(model);
    Plume result;
    result.gas_speed = model.greatest_speed(1);
    result.cells = grid.cell_count();
    const auto& s = model.state();
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      for (std::size_t i = 0; i < 2; ++i) {
        result.fields.push_back(s.a[i].block(b)[at]);
        for (const auto& component : s.u[i]) result.fields.push_back(component.block(b)[at]);
      }
      result.fields.push_back(s.p.block(b)[at]);
    });
    return result;
  };
  Model<2> model = column(grid, 0.02, 0.25, bubbling<2>());
  lay<2>(model, BelowLevel<2>{0.25}, nullptr);
  model.start();
  go_on(model);
  if (!stopped) return end_of(model);
  Archive a;
  model.archive(a);
  Archive kept(a.numbers(), a.texts());
  Model<2> other = column(grid, 0.02, 0.25, bubbling<2>());
  other.archive(kept);
  return end_of(other);
}

namespace {

constexpr double faucet_time = 0.6;  // [s]

/// Gas fraction at a depth behind the front, where water has fallen freely from 10 m/s.
double gas_in_faucet(double x) { return 1 - 8 / std::sqrt(100 + 2 * gravity * x); }
double front_of_faucet() { return 10 * faucet_time + 0.5 * gravity * faucet_time * faucet_time; }

}  // namespace

double behind_front_of_faucet() { return gas_in_faucet(front_of_faucet()); }

Faucet faucet(int cells, double gas_density) {
  constexpr double height = 12;
  const Vec<2> size{4 * height / cells, height};
  const Grid<2> grid({0, 0}, size, partition<2>(size, height / cells));
  Settings<2> settings;
  settings.phases = {{"water", {1000, 1e-12}, true, 0},
                     {"gas", {gas_density, 0}, false, 1e-3}};  // no stress to speak of
  const Drag none = drag_by(nullptr);
  settings.pairs = {{0, 1, 0, none, none, 0}};
  settings.walls = all<2>(Wall::slip);
  settings.body_force = downwards<2>();
  auto in = opening<2>("in", 1, 1);
  in.flow = [&](double) { return 8 * size[0]; };  // water at 10 m/s in 0.8 of the pipe
  in.composition = {1, 0};
  auto out = opening<2>("out", 1, 0);
  out.pressure = [](double) { return 0.0; };
  out.outside = Opening<2>::Outside::inside;
  settings.inlet_fractions = {{0.8, 0.2}, {}};
  Model<2> model(grid, settings, {}, {in, out});
  fill(model, {0.8, 0.2});
  for (auto& value : model.state().u[0][1].data()) value = -10;
  model.start();
  run_until(model, faucet_time, 0.01);
  Faucet result;
  result.gas = profile(model, 1);
  std::reverse(result.gas.begin(), result.gas.end());
  double mean = 0;
  double smooth = 0;
  for (int j = 0; j < cells; ++j) {
    const double x = (j + 0.5) * height / cells;
    const double wanted = x < front_of_faucet() ? gas_in_faucet(x) : 0.2;
    const double a = result.gas[static_cast<std::size_t>(j)];
    result.error += std::abs(a - wanted);
    mean += wanted;
    if (x < 0.5 * front_of_faucet()) {
      result.behind += std::abs(a - wanted);
      smooth += wanted;
    }
    result.most = std::max(result.most, a);
    result.x.push_back(x);
    result.wanted.push_back(wanted);
  }
  result.error /= mean;
  result.behind /= smooth;
  return result;
}

Creaming creaming(double share, double time, int cells) {
  constexpr double height = 0.5;
  constexpr double diameter = 2e-4;
  constexpr double tension = 0.025;
  const Drag drag = drag_by("schiller_naumann", "richardson_zaki");
  const Vec<2> size{4 * height / cells, height};
  const Grid<2> grid({0, 0}, size, partition<2>(size, height / cells));
  Model<2> model(grid, bodies_in_water<2>(oil, diameter, tension, drag));
  fill(model, {1 - share, share});
  const double volume = model.volume(1);
  model.start();
  run_until(model, time, 0.05);
  Creaming result;
  result.drops = profile(model, 1);
  for (int j = 0; j < cells / 2; ++j)
    result.clear += std::max(0.0, 1 - result.drops[static_cast<std::size_t>(j)] / share) * height / cells;
  // Drops rise at (1 - a) times the slip; what they have left behind is clear, with a shock.
  result.clear_wanted = (1 - share) * terminal(oil, diameter, tension, drag, share) * time;
  result.volume_error = model.volume(1) / volume - 1;
  result.mixed = mixture(model);
  return result;
}

PlugFlow plug_flow(double diameter) {
  constexpr double length = 2;
  constexpr double height = 0.25;
  constexpr double through = 0.01;  // [m/s]
  constexpr double tension = 0.025;
  constexpr double share = 1e-4;
  const Drag drag = drag_by("schiller_naumann");
  const Grid<2> grid({0, 0}, {length, height}, partition<2>({length, height}, height / 8));
  auto settings = bodies_in_water<2>(oil, diameter, tension, drag);
  settings.phases[1].gas = true;  // what reaches the top is skimmed
  settings.degassing = {2};
  auto in = opening<2>("in", 0, 0);
  in.flow = [](double) { return through * height; };
  in.composition = {1 - share, share};
  auto out = opening<2>("out", 0, 1);
  out.pressure = [](double) { return 0.0; };
  out.outside = Opening<2>::Outside::inside;
  auto top = opening<2>("top", 1, 1);
  top.flow = [](double) { return 0.0; };
  Model<2> model(grid, settings, {}, {in, out, top});
  fill(model, {1, 0});
  model.start();
  run_until(model, 2 * length / through, 2);
  const auto before = model.boundary().throughput();
  run_until(model, 3 * length / through, 2);
  const auto after = model.boundary().throughput();
  const double came = after[0].in[1] - before[0].in[1];
  const double left = after[1].out[1] - before[1].out[1];
  return {1 - left / came, terminal(oil, diameter, tension, drag, 0) * length / (through * height)};
}

double drift_flux_holdup(double superficial) {
  const auto settings = bubbling<2>();
  const Drag& drag = settings.pairs[0].second_in_first;
  double held = 0.01;
  for (int i = 0; i < 100; ++i)
    held = superficial / terminal(air, settings.phases[1].diameter, settings.pairs[0].surface_tension, drag, held);
  return held;
}

Sloshing sloshing(int cells, double bubbles) {
  constexpr double depth = 0.5;
  constexpr double amplitude = 0.03;
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / cells));
  auto settings = layers<2>(false);
  settings.walls = all<2>(Wall::slip);
  Model<2> model(grid, settings);
  lay<2>(model, Covering<2>{[=](const Vec<2>& lower, const Vec<2>& upper) {
           constexpr int parts = 16;
           double sum = 0;
           for (int i = 0; i < parts; ++i) {
             const double x = lower[0] + (i + 0.5) / parts * (upper[0] - lower[0]);
             const double surface = depth + amplitude * std::cos(M_PI * x);
             sum += std::clamp((surface - lower[1]) / (upper[1] - lower[1]), 0.0, 1.0) / parts;
           }
           return sum;
         }},
         nullptr);
  for (auto& value : model.state().a[0].data()) value *= 1 - bubbles;
  for (auto& value : model.state().a[1].data()) value = 1 - (1 - value) * (1 - bubbles);
  const double before = model.volume(0);
  model.start();
  const double period = 2 * M_PI / std::sqrt(gravity * M_PI * std::tanh(M_PI * depth));
  const auto mode = [&] { return validation::mode_amplitude(grid, model.state().a[0], 1); };
  Sloshing result;
  validation::SwingThroughZero swing(mode());
  StepLimit limit{};
  while (model.state().time < 5 * period) {
    model.step(std::min(period / 40, model.stable_step(limit)));
    const double now = mode();
    swing.add(model.state().time, now);
    if (model.state().time > 4 * period) result.amplitude = std::max(result.amplitude, std::abs(now) / amplitude);
  }
  constexpr std::size_t enough = 7;  // passes through 0
  result.period_error = swing.crossings.size() < enough ? std::nan("") : swing.period() / period - 1;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
    const double a = model.state().a[0].block(b)[at];
    result.width += 4 * a * (1 - a) / cells;
    if ((cell[1] + 0.5) / cells < depth - 0.15) result.trapped += (1 - a) / (cells * cells);
  });
  result.volume_error = model.volume(0) / before - 1;
  return result;
}

Degassing degassing(double share, double until) {
  const Grid<2> grid({0, 0}, {0.2, 0.5}, partition<2>({0.2, 0.5}, 0.0125));
  auto settings = bubbling<2>();
  settings.phases[1].carrier = false;
  settings.phases[1].gas = true;
  settings.pairs[0].first_in_second = {};
  auto in = opening<2>("air", 1, 0);
  if (share < 1) in.within = AlignedBox<2>{{0.1 - 0.1 * share, -1}, {0.1 + 0.1 * share, 1}};
  in.flow = [](double) { return 0.01 * 0.2; };
  auto top = opening<2>("top", 1, 1);
  top.flow = [](double) { return 0.0; };
  settings.degassing = {1};
  Model<2> model(grid, settings, {}, {in, top});
  fill(model, {1, 0});
  const double volume = model.volume(0);
  model.start();
  run_until(model, 6, 0.02);
  const auto before = model.boundary().throughput();
  run_until(model, until, 0.02);
  const auto after = model.boundary().throughput();
  Degassing result;
  result.lost = after[1].out[0] - after[1].in[0];  // some comes back where the holdup falls
  result.held = model.volume(1);
  result.came = after[0].in[1] - before[0].in[1];
  result.left = after[1].out[1] - before[1].out[1];
  result.volume_error = (model.volume(0) + result.lost) / volume - 1;
  result.came_back = after[1].in[1];
  result.mixed = mixture(model);
  return result;
}

}  // namespace wavy::eulerian
