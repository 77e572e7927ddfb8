// Vessels whose walls cut the grid, and what flows through their openings.
#include <fmt/format.h>

#include "geometry/triangles.hpp"
#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;
/// A ball of diameter 1 m on the origin's level, by meridians and circles of latitude.
Solid<3> ball_of_triangles(int rings) {
  std::vector<Vec<3>> points{{0.5, 0.5, 0}};
  const int sides = 2 * rings;
  for (int i = 1; i < rings; ++i)
    for (int j = 0; j < sides; ++j) {
      const double down = M_PI * i / rings;
      const double round = 2 * M_PI * j / sides;
      points.push_back({0.5 + 0.5 * std::sin(down) * std::cos(round), 0.5 + 0.5 * std::sin(down) * std::sin(round),
                        0.5 - 0.5 * std::cos(down)});
    }
  points.push_back({0.5, 0.5, 1});
  const auto at = [&](int i, int j) { return 1 + (i - 1) * sides + j % sides; };
  std::vector<std::array<int, 3>> triangles;
  for (int j = 0; j < sides; ++j) {
    triangles.push_back({0, at(1, j + 1), at(1, j)});
    triangles.push_back({static_cast<int>(points.size()) - 1, at(rings - 1, j), at(rings - 1, j + 1)});
    for (int i = 1; i + 1 < rings; ++i) {
      triangles.push_back({at(i, j), at(i, j + 1), at(i + 1, j + 1)});
      triangles.push_back({at(i, j), at(i + 1, j + 1), at(i + 1, j)});
    }
  }
  return triangle_solid(points, triangles);
}

ValidationResult rest_in_vessels(bool) {
  ValidationResult result;
  const std::vector<std::pair<std::string, Solid<2>>> vessels{
      {"lying cylinder", ball_solid<2>({0.5, 0.5}, 0.5)},
      {"box tilted 27 degrees", turned(box_solid<2>({0, 0}, {1, 0.6}), {0, 0}, 27 * M_PI / 180)}};
  for (const auto& [name, vessel] : vessels) {
    const Grid<2> grid = grid_over<2>(vessel.lower, vessel.upper, 1.0 / 32);
    sharp::Model<2> model(grid, fluids({1000, 1e-3}, {1.2, 1.8e-5}, Wall::no_slip, {0, -g}),
                          OpenSpace<2>(grid, &vessel, {}, {}));
    cover<2>(grid, model.state().F, BelowLevel<2>{0.511}, model.space());
    stay_at_rest(model, name, result);
  }
  // A ball of triangles, as a surface file would give it.
  const auto ball = ball_of_triangles(16);
  const Grid<3> grid = grid_over<3>(ball.lower, ball.upper, 1.0 / 20);
  sharp::Model<3> model(grid, fluids<3>({1000, 1e-3}, {1.2, 1.8e-5}, Wall::no_slip, {0, 0, -g}),
                        OpenSpace<3>(grid, &ball, {}, {}));
  cover<3>(grid, model.state().F, BelowLevel<3>{0.411}, model.space());
  stay_at_rest(model, "ball of 960 triangles", result);
  return result;
}

/// Volume of a torispherical head (crown d, knuckle d/10) of diameter 1 below a height over its lowest point, by
/// integration of its profile.
double head_volume(double level) {
  const double crown = 1;
  const double knuckle = 0.1;
  const double depth = crown - std::sqrt(std::pow(crown - knuckle, 2) - std::pow(0.5 - knuckle, 2));
  const double joint = crown * (1 - std::sqrt(1 - std::pow((0.5 - knuckle) / (crown - knuckle), 2)));
  const auto radius = [&](double z) {
    if (z < joint) return std::sqrt(crown * crown - std::pow(crown - z, 2));
    if (z < depth) return 0.5 - knuckle + std::sqrt(knuckle * knuckle - std::pow(depth - z, 2));
    return 0.5;
  };
  double sum = 0;
  const int steps = 200000;
  for (int i = 0; i < steps; ++i) sum += M_PI * std::pow(radius(level * (i + 0.5) / steps), 2) * level / steps;
  return sum;
}

ValidationResult fill_volumes(bool) {
  ValidationResult result;
  const double cell = 1.0 / 32;
  const auto disc = ball_solid<2>({0.5, 0.5}, 0.5);
  const Grid<2> flat = grid_over<2>(disc.lower, disc.upper, cell);
  const OpenSpace<2> room(flat, &disc, {}, {});
  const auto dished = cylinder_solid<3>({0, 0, 0}, {0, 0, 0.5}, 0.5, Head::torispherical);
  const Grid<3> grid = grid_over<3>(dished.lower, dished.upper, cell);
  const OpenSpace<3> inside(grid, &dished, {}, {});
  for (const double level : {0.13, 0.37, 0.68}) {
    Cells<2> F(flat);
    cover<2>(flat, F, BelowLevel<2>{level}, room);
    double area = 0;
    for_cells_in_order<2>(flat, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      area += F.block(b)[o] * room.volume().block(b)[o] * flat.cell_volume();
    });
    const double up = level - 0.5;
    const double exact = M_PI / 8 + up * std::sqrt(0.25 - up * up) + 0.25 * std::asin(2 * up);
    result.findings.push_back(close(fmt::format("lying cylinder filled to {:.2f} d", level), area, exact, 1e-3));
    Cells<3> F3(grid);
    cover<3>(grid, F3, BelowLevel<3>{dished.lower[2] + level}, inside);
    double volume = 0;
    for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t o, const Index<3>&) {
      volume += F3.block(b)[o] * inside.volume().block(b)[o] * grid.cell_volume();
    });
    result.findings.push_back(
        close(fmt::format("dished end filled to {:.2f} d", level), volume, head_volume(level), 1e-3));
  }
  return result;
}

/// Oil along a lying tube that repeats, from rest to steady flow, under 1 m/s2; steps of two h^2 / nu.
ValidationResult lying_tube(bool quick) {
  ValidationResult result;
  result.x_title = "distance from the middle [m]";
  result.chart = {{"speed [m/s]", {}}};
  const double R = 0.457;
  const double nu = 1;
  const Vec<3> middle{0.503, 0, 0.489};  // on no line of the grids
  for (const int cells : quick ? std::vector<int>{12, 24} : std::vector<int>{12, 24, 48}) {
    const Grid<3> grid({0, 0, 0}, {1, 4.0 / cells, 1}, {{cells, 4, cells}, {cells, 4, cells}}, {false, true, false});
    const Vec<3> pull{0, 1, 0};
    sharp::Settings<3> settings;
    settings.liquid = {1000, 1000 * nu};
    settings.gas = {1, 0.02};
    settings.body_force = [pull](double) { return pull; };
    const auto tube = cylinder_solid<3>({middle[0], -1, middle[2]}, {middle[0], 2, middle[2]}, R);
    sharp::Model<3> model(grid, settings, OpenSpace<3>(grid, &tube, {}, {}));
    cover<3>(grid, model.state().F, BelowLevel<3>{2}, model.space());
    model.start();
    while (model.state().time < 2 * R * R / nu) model.step(2.0 / (cells * cells * nu));
    double flow = 0;
    Curve2D curve{fmt::format("{} cells across", cells), {}, {}};
    for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t o, const Index<3>& cell) {
      if (cell[1] != 0) return;
      const double open = model.space().volume().block(b)[o];
      const double speed = model.state().u[1].block(b)[o];
      flow += open * speed / (cells * cells);
      if (open < 1 || cell[2] != cells / 2 || cell[0] < cells / 2) return;
      curve.x.push_back((cell[0] + 0.5) / cells - middle[0]);
      curve.y.push_back(speed);
    });
    result.findings.push_back(close(fmt::format("flow, {} cells across [m3/s]", cells), flow,
                                    M_PI * std::pow(R, 4) / (8 * nu), cells < 24 ? 0.04 : 0.01));
    result.chart.front().curves.push_back(curve);
  }
  Curve2D exact{"Hagen and Poiseuille", {}, {}};
  for (int i = 0; i <= 50; ++i) {
    exact.x.push_back(i * R / 50);
    exact.y.push_back((R * R - exact.x.back() * exact.x.back()) / (4 * nu));
  }
  result.chart.front().curves.push_back(exact);
  return result;
}

ValidationResult lying_cylinder(bool quick) {
  ValidationResult result;
  result.x_title = "time [s]";
  result.chart = {{"centre of the liquid from its rest [m]", {}}};
  const double R = 0.5;
  const auto vessel = ball_solid<2>({R, R}, R);
  const double tilt = 0.02;
  for (const int cells : quick ? std::vector<int>{64} : std::vector<int>{64, 128}) {
    const Grid<2> grid = grid_over<2>(vessel.lower, vessel.upper, 1.0 / cells);
    auto settings = fluids({1000, 0}, {1, 0}, Wall::slip, {-g * std::sin(tilt), -g * std::cos(tilt)});
    settings.solid_walls = Wall::slip;
    sharp::Model<2> model(grid, settings, OpenSpace<2>(grid, &vessel, {}, {}));
    cover<2>(grid, model.state().F, BelowLevel<2>{R}, model.space());
    model.start();
    const double theory = 2 * M_PI / std::sqrt(1.35573 * g / R);
    const double hanging = R - 4 * R / (3 * M_PI) * std::sin(tilt);  // centre of the half disc along G
    const auto away = [&] {
      double sum = 0;
      double moment = 0;
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
        const double liquid = model.state().F.block(b)[o] * model.space().volume().block(b)[o];
        sum += liquid;
        moment += liquid * (cell[0] + 0.5) * grid.spacing()[0];
      });
      return moment / sum - hanging;
    };
    SwingThroughZero swing(away());
    Curve2D curve{fmt::format("{} cells across", cells), {}, {}};
    while (model.state().time < 4.2 * theory) {
      sharp::StepLimit limit{};
      model.step(std::min(model.stable_step(limit), theory / 100));
      swing.add(model.state().time, away());
      curve.x.push_back(model.state().time);
      curve.y.push_back(away());
    }
    result.findings.push_back(
        close(fmt::format("period, half full, {} cells across [s]", cells), swing.period(), theory, 5e-3));
    result.chart.front().curves.push_back(curve);
  }
  return result;
}

Opening<2> open_side(const std::string& name, int axis, int side) {
  Opening<2> opening;
  opening.name = name;
  opening.axis = axis;
  opening.side = side;
  opening.pressure = [](double) { return 0.0; };
  return opening;
}

ValidationResult tank_draining(bool) {
  // Half of a plane tank, 8 b wide, with a slot of half width b in its thin floor at y = 0; the axis is at x = 0. The
  // jet falls through air.
  ValidationResult result;
  result.x_title = "time [s]";
  const double b = 0.05;
  const int cells = 10;  // per half width
  const double width = 8 * b;
  const Grid<2> grid({0, -4 * b}, {width, 12 * b}, partition<2>({width, 16 * b}, b / cells));
  const ThinWall<2> floor{{0, 0}, {0, 1}, box_solid<2>({b, -b}, {2 * width, b})};
  Opening<2> beside = open_side("beside", 0, 1);  // above the floor that side is the tank's wall
  beside.within = AlignedBox<2>{{0, -4 * b}, {0, 0}};
  sharp::Model<2> model(grid, fluids({1000, 0}, {1.2, 0}, Wall::slip, {0, -g}),
                        OpenSpace<2>(grid, nullptr, {}, {floor}),
                        {open_side("top", 1, 1), open_side("below", 1, 0), beside});
  const auto height = [&](const Index<2>& c) { return grid.lower()[1] + (c[1] + 0.5) * grid.spacing()[1]; };
  for_cells_in_order<2>(grid, [&](int block, std::ptrdiff_t o, const Index<2>& c) {
    model.state().F.block(block)[o] = height(c) > 0 && height(c) < 10 * b ? 1 : 0;
  });
  model.start();
  const double place = -1.5 * b;
  // Level in the tank, and speed of the jet on its axis.
  const auto look = [&] {
    std::array<double, 2> seen{};
    for_cells_in_order<2>(grid, [&](int block, std::ptrdiff_t o, const Index<2>& c) {
      if (height(c) > 0) seen[0] += model.state().F.block(block)[o] * grid.cell_volume() / width;
      if (c[0] == 0 && std::abs(height(c) - place) <= 0.5001 * grid.spacing()[1])
        seen[1] = -model.state().u[1].block(block)[o];
    });
    return seen;
  };
  const double from = 0.2;
  const double until = 0.4;
  Curve2D measured{"jet on its axis 1.5 b below the floor [m/s]", {}, {}};
  Curve2D theory{"sqrt(2 g (h + 1.5 b))", {}, {}};
  double left = 0;  // level lost since `from`, and what an ideal full slot would have taken
  double ideal = 0;
  double worst = 0;
  double last = look()[0];
  while (model.state().time < until) {
    sharp::StepLimit limit{};
    const double dt = model.stable_step(limit);
    model.step(dt);
    const auto [level, speed] = look();
    const double expected = std::sqrt(2 * g * (level - place));
    measured.x.push_back(model.state().time);
    measured.y.push_back(speed);
    theory.x.push_back(model.state().time);
    theory.y.push_back(expected);
    if (model.state().time > from) {
      left += (last - level) * width;
      ideal += dt * b * std::sqrt(g * (level + last));
      worst = std::max(worst, std::abs(speed / expected - 1));
    }
    last = level;
  }
  result.chart = {{"speed [m/s]", {measured, theory}}};
  result.findings.push_back({"speed of the jet / Torricelli, greatest error", 1 + worst, 1, worst, 0.02});
  result.findings.push_back(close("contraction of the jet", left / ideal, M_PI / (M_PI + 2), 0.03));
  return result;
}

ValidationResult cavity_in_channel(bool) {
  // A channel full of water, closed at its left end; at t = 0 its right end is opened.
  ValidationResult result;
  result.x_title = "time [s]";
  const double H = 0.1;
  const int cells = 48;
  const double length = 8 * H;
  const Grid<2> grid = box(length, H, 8 * cells);
  sharp::Model<2> model(grid, fluids({1000, 0}, {1.2, 0}, Wall::slip, {0, -g}), {}, {open_side("end", 0, 1)});
  for (double& F : model.state().F.data()) F = 1;
  model.start();
  // Foremost air under the lid.
  const auto nose = [&] {
    double x = length;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
      const double F = model.state().F.block(b)[o];
      if (c[1] == grid.cells()[1] - 2 && F < 0.5) x = std::min(x, (c[0] + F) * grid.spacing()[0]);
    });
    return x;
  };
  Curve2D curve{"nose of the cavity [m]", {}, {}};
  const double fast = std::sqrt(g * H);
  std::size_t first = 0;  // where its speed begins to count
  for (double x = length; x > 2 * H && model.state().time < 20 * H / fast;) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
    x = nose();
    if (x >= length - 3 * H) first = curve.x.size() + 1;
    curve.x.push_back(model.state().time);
    curve.y.push_back(x);
  }
  result.chart = {{"nose of the cavity [m]", {curve}}};
  const double speed = (curve.y.at(first) - curve.y.back()) / (curve.x.back() - curve.x.at(first));
  result.findings.push_back(close("speed of the cavity / sqrt(g H)", speed / fast, 0.5, 0.04));
  return result;
}

/// All walls of a vessel turn about the last axis.
template <int D>
MovingWalls<D> turning(double omega, const Vec<D>& about) {
  MovingWalls<D> moving;
  moving.motions = {[=](double) { return RigidMotion<D>{{}, {0, 0, omega}, about}; }};
  moving.solid = [](const Vec<D>&) { return 0; };
  if constexpr (D == 3) moving.sides[2][0] = 0;
  return moving;
}

ValidationResult turning_bucket(bool) {
  // Thick oil at rest with a level surface; the bucket turns from the start on and drags it along.
  ValidationResult result;
  result.x_title = "distance from the axis [m]";
  const double R = 0.1;
  const double omega = 10;
  const double fill = 0.06;
  const auto bucket = cylinder_solid<3>({R, R, 0}, {R, R, 0.12}, R);
  const Grid<3> grid = grid_over<3>({0, 0, 0}, {2 * R, 2 * R, 0.12}, 2 * R / 48);
  auto settings = fluids<3>({900, 5}, {1.2, 1.8e-5}, Wall::no_slip, {0, 0, -g});
  settings.walls[2][1] = Wall::slip;
  settings.moving_walls = turning<3>(omega, {R, R, 0});
  sharp::Model<3> model(grid, settings, OpenSpace<3>(grid, &bucket, {}, {}));
  cover<3>(grid, model.state().F, BelowLevel<3>{fill}, model.space());
  model.start();
  // The slowest mode of the spin-up, and behind it the rim, which climbs a wall that holds the oil: at 8 times the
  // former it still lags by more than the bar.
  const double relaxation = R * R / (std::pow(3.8317, 2) * 5 / 900);
  run_until(model, 12 * relaxation);
  // Heights over the columns that no wall cuts.
  std::vector<double> height(static_cast<std::size_t>(grid.cells()[0]) * static_cast<std::size_t>(grid.cells()[1]));
  std::vector<bool> whole(height.size(), true);
  for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t o, const Index<3>& cell) {
    const auto column = static_cast<std::size_t>(cell[0] + grid.cells()[0] * cell[1]);
    height[column] += model.state().F.block(b)[o] * grid.spacing()[2];
    if (open_share(model.space(), b, o) < 1) whole[column] = false;
  });
  const double dip = omega * omega * R * R / (2 * g);
  const double mean = model.liquid_volume() / (M_PI * R * R);
  Curve2D computed{"computed [m]", {}, {}};
  Curve2D reference{"reference [m]", {}, {}};
  double worst = 0;
  for (int j = 0; j < grid.cells()[1]; ++j)
    for (int i = 0; i < grid.cells()[0]; ++i) {
      const auto column = static_cast<std::size_t>(i + grid.cells()[0] * j);
      if (!whole[column]) continue;
      const double x = (i + 0.5) * grid.spacing()[0] - R;
      const double y = (j + 0.5) * grid.spacing()[1] - R;
      const double square = x * x + y * y + std::pow(grid.spacing()[0], 2) / 6;  // its mean over the column
      const double expected = mean + omega * omega * (square - R * R / 2) / (2 * g);
      worst = std::max(worst, std::abs(height[column] - expected));
      if (j != grid.cells()[1] / 2) continue;
      computed.x.push_back(x);
      computed.y.push_back(height[column]);
      reference.x.push_back(x);
      reference.y.push_back(expected);
    }
  result.chart = {{"height of the surface [m]", {computed, reference}}};
  result.findings.push_back(small("greatest error of the height / depth of the dip", worst / dip, 0.01));
  return result;
}

ValidationResult drop_on_tilted_wall(bool) {
  // A half disc is let go on a wall that cuts the grid at 27 degrees; no gravity.
  ValidationResult result;
  const double tilt = 27 * M_PI / 180;
  const Vec<2> along{std::cos(tilt), std::sin(tilt)};
  const Vec<2> up{-std::sin(tilt), std::cos(tilt)};
  for (const double degrees : {60.0, 120.0}) {
    const double theta = degrees * M_PI / 180;
    const double R = radius_of_arc(theta);
    const Grid<2> grid = grid_over<2>({-0.7, -0.45}, {0.7, 0.75}, R / 20);
    const Solid<2> vessel = turned(box_solid<2>({-3, 0}, {3, 3}), {0, 0}, tilt);
    sharp::Model<2> model(grid, fluids_of_drop(R, theta), OpenSpace<2>(grid, &vessel, {}, {}));
    cover<2>(grid, model.state().F, Ball<2>{{0, 0}, 0.25}, model.space());
    const double held = model.liquid_volume();
    settle(model, R);
    // Moments of the liquid along the wall and away from it, beside those of the arc's segment.
    double sum = 0;
    std::array<double, 2> first{};
    double second = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      const double liquid = model.state().F.block(b)[o] * OpenVolumes<2>(model.space(), b)[o];
      Vec<2> p;
      for (int d = 0; d < 2; ++d) p[d] = grid.lower()[d] + (cell[d] + 0.5) * grid.spacing()[d];
      sum += liquid;
      first[0] += liquid * dot<2>(p, along);
      first[1] += liquid * dot<2>(p, up);
      second += liquid * dot<2>(p, along) * dot<2>(p, along);
    });
    const double arc = R * std::sqrt(held / half_disc);  // of the half disc as it lies in the cut cells
    const double height =
        4 * arc * std::pow(std::sin(theta), 3) / (3 * (2 * theta - std::sin(2 * theta))) - arc * std::cos(theta);
    double width = 0;
    const int strips = 20000;
    for (int i = 0; i < strips; ++i) {
      const double y = arc * (1 - std::cos(theta)) * (i + 0.5) / strips + arc * std::cos(theta);
      width += 2.0 / 3 * std::pow(arc * arc - y * y, 1.5) * arc * (1 - std::cos(theta)) / strips;
    }
    const double spread = std::sqrt(second / sum - std::pow(first[0] / sum, 2));
    result.findings.push_back(close(fmt::format("spread along the wall / that of the arc, {:g} degrees", degrees),
                                    spread / std::sqrt(width / held), 1, 0.02));
    result.findings.push_back(close(fmt::format("height of its middle / that of the arc, {:g} degrees", degrees),
                                    first[1] / sum / height, 1, 0.02));
  }
  return result;
}

}  // namespace

std::vector<ValidationCase> vessel_cases() {
  return {{"rest_in_vessels", "a liquid at rest in vessels that cut the grid stays at rest", "hydrostatics", true,
           rest_in_vessels},
          {"fill_volumes", "volumes below a level, 32 cells per diameter", "circular segment; profile of the head",
           true, fill_volumes},
          {"lying_cylinder", "free sloshing of a half-full lying cylinder", "McIver, J. Fluid Mech. 201 (1989) 243",
           true, lying_cylinder},
          {"lying_tube", "oil flows along a tube across the cells, by implicit steps", "Hagen and Poiseuille", true,
           lying_tube},
          {"tank_draining", "a plane tank drains through a slot in its floor",
           "Torricelli; free-streamline contraction pi / (pi + 2)", true, tank_draining},
          {"cavity_in_channel", "a cavity runs into an emptying channel", "Benjamin, J. Fluid Mech. 31 (1968) 209",
           false, cavity_in_channel},
          {"turning_bucket", "a bucket of thick oil begins to turn, 48 cells across", "solid-body rotation", false,
           turning_bucket},
          {"drop_on_tilted_wall", "a drop on a wall that cuts the grid at 27 degrees, no gravity",
           "arc of the same area", false, drop_on_tilted_wall}};
}

}  // namespace wavy
