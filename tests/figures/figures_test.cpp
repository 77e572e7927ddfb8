#include <doctest/doctest.h>
#include <vtkCell.h>
#include <vtkPoints.h>

#include <cmath>
#include <filesystem>
#include <fstream>

#include "base/error.hpp"
#include "figures/chart.hpp"
#include "figures/drawn_solids.hpp"
#include "figures/picture.hpp"
#include "results/snapshot.hpp"
#include "temporary_folder.hpp"

using namespace wavy;
namespace fs = std::filesystem;

namespace {

std::string read(const fs::path& file) {
  std::ifstream in(file, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

}  // namespace

TEST_CASE("a chart shows its names as they are, quotes and underscores included") {
  const TemporaryFolder temporary;
  const fs::path file = temporary.path() / "chart.svg";
  draw_chart("It's a_title", "time [s]",
             {{"level [m]", {{"front_level", {0, 1, 2}, {0.1, 0.2, 0.1}}}}, {"p [Pa]", {{"constant", {0, 2}, {5, 5}}}}},
             file);
  const std::string svg = read(file);
  CHECK(svg.find("It's a_title") != std::string::npos);
  CHECK(svg.find("front_level") != std::string::npos);
  CHECK(svg.find("level [m]") != std::string::npos);
  CHECK(svg.find("time [s]") != std::string::npos);
}

TEST_CASE("however many panels a chart has, a few round numbers stand beside each") {
  const TemporaryFolder temporary;
  const fs::path file = temporary.path() / "chart.svg";
  for (const int count : {1, 3, 6}) {
    std::vector<Panel> panels;
    for (int p = 0; p < count; ++p) {
      Panel panel;
      panel.y_title = "y";
      panel.curves = {{"curve", {0, 1, 2}, {0.0361, 0.0497, 0.0402}}};
      panels.push_back(panel);
    }
    draw_chart("ticks", "time [s]", panels, file);
    const std::string svg = read(file);
    int ticks = 0;
    for (std::size_t at = svg.find("0.04"); at != std::string::npos; at = svg.find("0.04", at + 1)) ++ticks;
    INFO(count, " panels");
    CHECK(ticks >= count);      // 0.04 itself
    CHECK(ticks <= 5 * count);  // and at most 0.042 to 0.048
  }
}

TEST_CASE("a chart that cannot be written is an error, and leaves nothing behind") {
  const TemporaryFolder temporary;
  CHECK_THROWS_WITH_AS(draw_chart("t", "x", {{"y", {{"c", {0, 1}, {0, 1}}}}}, temporary.path() / "none" / "chart.png"),
                       doctest::Contains("cannot be drawn"), Error);
}

TEST_CASE("the picture of a half-full box is drawn from its snapshot, and what cannot be drawn is an error") {
  const TemporaryFolder temporary;
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 16));
  sharp::Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  settings.body_force = [](double) { return Vec<2>{0, -9.81}; };
  sharp::Model<2> model(grid, settings);
  for_cells_in_order<2>(
      grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) { model.state().F.block(b)[o] = cell[1] < 8 ? 1 : 0; });
  model.start();
  const SnapshotFile snapshot{0, temporary.path() / "s.vtu"};
  write_snapshot(model, snapshot.file);
  CHECK(read(snapshot.file).find("<VTKFile type=\"UnstructuredGrid\"") != std::string::npos);
  for (const char* name : {"fraction", "velocity", "pressure", "dynamic_pressure"})
    CHECK(read(snapshot.file).find(std::string("Name=\"") + name + "\"") != std::string::npos);

  PictureOptions options;
  options.width = 320;
  options.height = 240;
  const fs::path png = temporary.path() / "p.png";
  draw_snapshot(snapshot, "box", {"water", "air"}, options, png);
  CHECK(read(png).size() > 2000);
  CHECK(read(png).substr(1, 3) == "PNG");
  CHECK_FALSE(fs::exists(temporary.path() / "p.png.part"));

  CHECK_THROWS_WITH_AS(draw_snapshot({0, temporary.path() / "none.vtu"}, "", {"a", "b"}, options, png),
                       doctest::Contains("cannot be read"), Error);
  std::ofstream(temporary.path() / "bad.vtu") << "<VTKFile type=\"UnstructuredGrid\"></VTKFile>";
  CHECK_THROWS_WITH_AS(draw_snapshot({0, temporary.path() / "bad.vtu"}, "", {"a", "b"}, options, png),
                       doctest::Contains("cannot be read"), Error);
  CHECK_THROWS_WITH_AS(draw_snapshot(snapshot, "", {"a", "b"}, options, temporary.path() / "no" / "p.png"),
                       doctest::Contains("cannot be written"), Error);
}

namespace {

double area_of(vtkPolyData* body) {
  double sum = 0;
  for (vtkIdType i = 0; i < body->GetNumberOfCells(); ++i) {
    vtkPoints* points = body->GetCell(i)->GetPoints();
    double twice = 0;
    const vtkIdType count = points->GetNumberOfPoints();
    for (vtkIdType k = 0; k < count; ++k) {
      std::array<double, 3> a{};
      std::array<double, 3> b{};
      points->GetPoint(k, a.data());
      points->GetPoint((k + 1) % count, b.data());
      twice += a[0] * b[1] - a[1] * b[0];
    }
    sum += 0.5 * std::abs(twice);
  }
  return sum;
}

}  // namespace

TEST_CASE("solids are drawn from themselves: a wall of one cell, steps and round edges have their area") {
  const std::array<double, 6> bounds{0, 1, 0, 0.6, 0, 0};
  const auto drawn = [&](const Solid<2>& solid) {
    Setup<2> setup;
    setup.inserts = {solid};
    return area_of(solid_area(solid_shapes(setup), true, bounds, std::nullopt, {}).body);
  };
  CHECK(drawn(box_solid<2>({0.5, 0}, {0.52, 0.3})) == doctest::Approx(0.006).epsilon(0.01));
  CHECK(drawn(box_solid<2>({0.503, 0.1}, {0.521, 0.3})) == doctest::Approx(0.0036).epsilon(0.01));
  CHECK(drawn(ball_solid<2>({0.5, 0.3}, 0.1)) == doctest::Approx(M_PI * 0.01).epsilon(1e-3));
  const Solid<2> step = polygon_solid({{0.2, 0.1}, {0.4, 0.1}, {0.4, 0.14}, {0.32, 0.14}, {0.32, 0.22}, {0.2, 0.22}});
  CHECK(drawn(step) == doctest::Approx(0.2 * 0.04 + 0.12 * 0.08).epsilon(2e-3));
  // Beyond the vessel, and its image below a mirror.
  Setup<2> vessel;
  vessel.vessel = ball_solid<2>({0.5, 0.3}, 0.2);
  const auto beyond = solid_area(solid_shapes(vessel), false, bounds, std::nullopt, {{0, 0.5}});
  CHECK(area_of(beyond.body) == doctest::Approx(0.6 - M_PI * 0.04).epsilon(1e-3));
}
