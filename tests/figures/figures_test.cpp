#include <doctest/doctest.h>
#include <vtkCell.h>
#include <vtkCellData.h>
#include <vtkPoints.h>

#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <memory>
#include <utility>

#include "about.hpp"
#include "base/error.hpp"
#include "figures/chart.hpp"
#include "figures/drawn_solids.hpp"
#include "figures/interface_shape.hpp"
#include "figures/page.hpp"
#include "figures/picture.hpp"
#include "figures/section.hpp"
#include "figures/sector.hpp"
#include "figures/shown.hpp"
#include "results/snapshot.hpp"
#include "results/snapshot_data.hpp"
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
  write_snapshot<2>(model, snapshot.file);
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
    return area_of(solid_area(solid_shapes(setup), true, bounds, PagePlane{}, {}).body);
  };
  CHECK(drawn(box_solid<2>({0.5, 0}, {0.52, 0.3})) == about(0.006).epsilon(0.01));
  CHECK(drawn(box_solid<2>({0.503, 0.1}, {0.521, 0.3})) == about(0.0036).epsilon(0.01));
  CHECK(drawn(ball_solid<2>({0.5, 0.3}, 0.1)) == about(M_PI * 0.01).epsilon(1e-3));
  const Solid<2> step = polygon_solid({{0.2, 0.1}, {0.4, 0.1}, {0.4, 0.14}, {0.32, 0.14}, {0.32, 0.22}, {0.2, 0.22}});
  CHECK(drawn(step) == about(0.2 * 0.04 + 0.12 * 0.08).epsilon(2e-3));
  // Beyond the vessel, and its image below a mirror.
  Setup<2> vessel;
  vessel.vessel = ball_solid<2>({0.5, 0.3}, 0.2);
  const auto beyond =
      solid_area(solid_shapes(vessel), false, bounds, PagePlane{}, {.mirrors = {{0, 0.5}}, .turned = {}, .sector = {}});
  CHECK(area_of(beyond.body) == about(0.6 - M_PI * 0.04).epsilon(1e-3));
}

TEST_CASE("the page of a section keeps heights where it is upright, and lies in the plane in any case") {
  for (const Point3& n : {Point3{1, 1, 0}, Point3{1, -2, 0}, Point3{-1, 0.5, 2}, Point3{0, 1, 1}}) {
    SectionPlane plane{n, 0.3};
    const double length = std::sqrt(dot3(n, n));
    for (double& c : plane.normal) c /= length;
    CHECK(plane.axis() == -1);
    const PagePlane page = page_of_section(plane);
    CHECK(std::abs(dot3(page.along, page.up)) < 1e-14);
    CHECK(dot3(page.along, page.along) == about(1));
    CHECK(dot3(page.up, page.up) == about(1));
    CHECK(page.along[2] == 0);
    CHECK(page.along[0] >= 0);
    CHECK(page.up[2] > 0);
    for (const auto& [x, y] : {std::pair{0.0, 0.0}, {1.5, -0.2}, {-0.4, 2.0}})
      CHECK(dot3(page.at(x, y), plane.normal) == about(0.3));
    if (n[2] == 0) CHECK(page.at(0.7, 0.25)[2] == about(0.25));
  }
  const PagePlane across = page_of_section(SectionPlane::across(1, 0.4));
  CHECK(across.at(0.1, 0.2) == Point3{0.1, 0.4, 0.2});
}

namespace {

/// A tank of unit edges whose velocity along x is `speed` at a place and whose lower half is water.
template <int D>
std::unique_ptr<sharp::Model<D>> tank_with(const Grid<D>& grid, const std::function<double(const Vec<D>&)>& speed) {
  sharp::Settings<D> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  auto model = std::make_unique<sharp::Model<D>>(grid, settings);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const Vec<D> p = cell_middle<D>(grid, b, o);
    model->state().F.block(b)[o] = p[D - 1] < 0.5 ? 1 : 0;
    model->state().u[0].block(b)[o] = speed(p);
  });
  return model;
}

/// Width and height of a PNG [pixels].
std::array<int, 2> size_of(const fs::path& png) {
  const std::string bytes = read(png);
  const auto number = [&](std::size_t at) {
    int value = 0;
    for (std::size_t k = 0; k < 4; ++k) value = 256 * value + static_cast<unsigned char>(bytes[at + k]);
    return value;
  };
  return {number(16), number(20)};
}

}  // namespace

TEST_CASE("an oblique section has the area of the plane within the body, and the values of the cells that it cuts") {
  const Grid<3> grid({0, 0, 0}, {1, 1, 1}, partition<3>({1, 1, 1}, 1.0 / 8));
  const auto model = tank_with<3>(grid, [](const Vec<3>& p) { return p[2]; });
  const auto data = snapshot_data<3>(*model);
  const double root = std::sqrt(0.5);
  const auto area = [](vtkUnstructuredGrid* section) {
    double sum = 0;
    for (vtkIdType i = 0; i < section->GetNumberOfCells(); ++i) {
      vtkPoints* points = section->GetCell(i)->GetPoints();
      const vtkIdType count = points->GetNumberOfPoints();
      double twice = 0;
      for (vtkIdType k = 0; k < count; ++k) {
        Point3 a{};
        Point3 b{};
        points->GetPoint(k, a.data());
        points->GetPoint((k + 1) % count, b.data());
        twice += a[0] * b[1] - a[1] * b[0];
      }
      sum += 0.5 * std::abs(twice);
    }
    return sum;
  };
  CHECK(area(section_of(data, {{root, root, 0}, 0.9 * root})) == about(0.9 * std::sqrt(2.0)));
  CHECK(area(section_of(data, SectionPlane::across(2, 0.3))) == about(1));
  CHECK(section_of(data, {{root, root, 0}, 3})->GetNumberOfCells() == 0);
  // Upright: a cell's value is the height of its middle.
  const auto upright = section_of(data, {{root, root, 0}, 0.9 * root});
  auto* velocity = upright->GetCellData()->GetArray("velocity");
  for (vtkIdType i = 0; i < upright->GetNumberOfCells(); ++i) {
    std::array<double, 6> b{};
    upright->GetCellBounds(i, b.data());
    CHECK(velocity->GetComponent(i, 0) == about((b[2] + b[3]) / 2));
  }
}

TEST_CASE("fields on two grids are told apart by what differs, not by their cells") {
  const TemporaryFolder temporary;
  const auto kept = [&](const char* name, int cells, double more) {
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / cells));
    const auto model = tank_with<2>(grid, [&](const Vec<2>& p) { return 2 + p[1] + more * p[0]; });
    const SnapshotFile file{0, temporary.path() / name};
    write_snapshot<2>(*model, file.file);
    return file;
  };
  const auto fine = kept("fine.vtu", 48, 0);
  const auto coarse = kept("coarse.vtu", 20, 0);
  const auto other = kept("other.vtu", 48, 0.1);
  PictureOptions options;
  options.quantity = find_quantity("speed");
  options.width = 320;
  options.height = 240;
  CHECK(compare_fields(fine, fine, "", options, "").greatest == 0);
  const auto by_grid = compare_fields(fine, coarse, "", options, "");
  CHECK(by_grid.mean_square < 1e-6);  // the field is linear
  CHECK(by_grid.size == about(2.5).epsilon(0.02));
  const auto found = compare_fields(other, fine, "more", options, temporary.path() / "d.png");
  CHECK(found.greatest == about(0.1).epsilon(0.02));
  CHECK(found.mean_square == about(0.1 / std::sqrt(3.0)).epsilon(0.02));
  CHECK(found.place[0] > 0.95);
  CHECK(size_of(temporary.path() / "d.png") == std::array{320, 240});
}

TEST_CASE("a page holds its pictures side by side; lines, arrows and streamlines go with maps, surfaces with bodies") {
  const TemporaryFolder temporary;
  const Grid<2> flat({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 16));
  const SnapshotFile map{0, temporary.path() / "map.vtu"};
  write_snapshot<2>(*tank_with<2>(flat, [](const Vec<2>& p) { return p[1]; }), map.file);
  const Grid<3> solid({0, 0, 0}, {1, 1, 1}, partition<3>({1, 1, 1}, 1.0 / 8));
  const SnapshotFile body{0, temporary.path() / "body.vtu"};
  write_snapshot<3>(*tank_with<3>(solid, [](const Vec<3>& p) { return p[2]; }), body.file);
  const fs::path png = temporary.path() / "p.png";
  PictureOptions options;
  options.quantity = find_quantity("speed");
  options.width = 400;
  options.height = 320;
  draw_page({{map, options}, {map, options}, {map, options}}, 2, "page", {"water", "air"}, png);
  CHECK(size_of(png) == std::array{800, 640});
  const auto picture = [&](const SnapshotFile& snapshot, const PictureOptions& how) {
    draw_snapshot(snapshot, "", {"water", "air"}, how, png);
    return read(png);
  };
  // Each changes what is seen.
  for (const auto& snapshot : {map, body}) {
    const std::string plain = picture(snapshot, options);
    PictureOptions how = options;
    how.arrows = true;
    CHECK(picture(snapshot, how) != plain);
    how = options;
    how.streamlines = true;
    CHECK(picture(snapshot, how) != plain);
    how = options;
    how.scale = PictureOptions::Scale::logarithmic;
    CHECK(picture(snapshot, how) != plain);
  }
  PictureOptions how = options;
  how.lines = 5;
  CHECK(picture(map, how) != picture(map, options));
  CHECK_THROWS_WITH_AS(picture(body, how), doctest::Contains("has none"), Error);
  how = options;
  how.surfaces = {{find_quantity("speed"), 0.4}};
  CHECK(picture(body, how) != picture(body, options));
  CHECK_THROWS_WITH_AS(picture(map, how), doctest::Contains("2-D"), Error);
  how.cut_open = SectionPlane::across(1, 0.5);
  const std::string opened = picture(body, how);
  how.cut_open->place = 0.2;
  CHECK(picture(body, how) != opened);
  how = options;
  how.quantity = find_quantity("pressure");
  how.scale = PictureOptions::Scale::logarithmic;
  how.range = {-1.0, 2.0};
  CHECK_THROWS_WITH_AS(picture(map, how), doctest::Contains("begins above 0"), Error);
  draw_interfaces({{{"one", map}, {"two", map}}}, "over each other", options, png);
  CHECK(size_of(png) == std::array{400, 320});
  CHECK_THROWS_WITH_AS(draw_interfaces({{{"one", body}}}, "", options, png), doctest::Contains("section"), Error);
}

TEST_CASE("round values lie within a range, and decades round it") {
  CHECK(round_values(0, 1, 5) == std::vector<double>{0.2, 0.4, 0.6000000000000001, 0.8});
  CHECK(round_values(3, 3, 5).empty());
  CHECK(decades_within(0.02, 30) == std::vector<double>{0.1, 1, 10});
  const RoundRange range = decade_range(0.02, 30);
  CHECK(range.least == about(0.01));
  CHECK(range.greatest == about(100));
  CHECK(range.labels == 5);
}

TEST_CASE("the interface as a shape: a level lies where it is, faces the lighter phase and has its area") {
  const TemporaryFolder temporary;
  const Grid<3> grid({0, 0, 0}, {1, 1, 1}, partition<3>({1, 1, 1}, 1.0 / 8));
  const fs::path body = temporary.path() / "body.vtu";
  write_snapshot<3>(*tank_with<3>(grid, [](const Vec<3>&) { return 0; }), body);
  const std::string stl = interface_stl(body);
  std::uint32_t count = 0;
  std::memcpy(&count, stl.data() + 80, sizeof count);
  REQUIRE(stl.size() == 84 + 50 * static_cast<std::size_t>(count));
  double area = 0;
  for (std::size_t i = 0; i < count; ++i) {
    std::array<float, 12> triangle{};
    std::memcpy(triangle.data(), stl.data() + 84 + 50 * i, sizeof triangle);
    CHECK(triangle[2] == about(1));  // up, as the corners turn
    for (const std::size_t corner : {3U, 6U, 9U}) CHECK(triangle[corner + 2] == about(0.5));
    area += 0.5 * ((triangle[6] - triangle[3]) * (triangle[10] - triangle[4]) -
                   (triangle[9] - triangle[3]) * (triangle[7] - triangle[4]));
  }
  CHECK(area == about(1));
  CHECK_THROWS_WITH_AS(interface_lines(body), doctest::Contains("surface"), Error);
  const Grid<2> flat({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 16));
  const fs::path map = temporary.path() / "map.vtu";
  write_snapshot<2>(*tank_with<2>(flat, [](const Vec<2>&) { return 0; }), map);
  const Table line = interface_lines(map);
  CHECK(line.columns[0].back() == 1);
  CHECK(line.columns[1].size() == 17);
  for (const double y : line.columns[2]) CHECK(y == about(0.5));
  CHECK_THROWS_WITH_AS(interface_stl(map), doctest::Contains("line"), Error);
}

TEST_CASE("in the image at a mirror velocities point as in a mirror") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 8));
  sharp::Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  settings.walls[0][0] = Wall::mirror;
  sharp::Model<2> model(grid, settings);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    model.state().u[0].block(b)[o] = 1;
    model.state().u[1].block(b)[o] = 2;
  });
  const Shown shown = shown_of(snapshot_data<2>(model), {}, {"water", "air"});
  REQUIRE(shown.images.mirrors.size() == 1);
  auto* velocity = shown.data->GetCellData()->GetArray("on_page");
  REQUIRE(shown.data->GetNumberOfCells() == 128);
  for (vtkIdType i = 0; i < shown.data->GetNumberOfCells(); ++i) {
    std::array<double, 6> b{};
    shown.data->GetCellBounds(i, b.data());
    CHECK(velocity->GetComponent(i, 0) == (b[0] + b[1] > 0 ? 1 : -1));
    CHECK(velocity->GetComponent(i, 1) == 2);
  }
}

TEST_CASE("a part of a vessel is completed by itself, turned: velocities too, and one surface goes through the seam") {
  for (const Turn turn : {Turn::half, Turn::quarter}) {
    const bool four = turn == Turn::quarter;
    CAPTURE(four);
    const Vec<2> lower{0, four ? 0.0 : -1.0};
    const Grid<2> grid(lower, {1, 1}, partition<2>({1, 1 - lower[1]}, 1.0 / 8, turn), {}, turn);
    const auto share = [&](double x, double y) {
      const double lobes = four ? x * x + y * y + x * y * (x * x - y * y) : x * x + 0.5 * x * y;
      return std::clamp(0.5 + 4 * (lobes - 0.2), 0.0, 1.0);
    };
    sharp::Settings<2> settings;
    settings.liquid = {1000, 0};
    settings.gas = {1, 0};
    sharp::Model<2> model(grid, settings);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      const Vec<2> x = cell_middle<2>(grid, b, o);
      model.state().F.block(b)[o] = share(x[0], x[1]);
      model.state().u[0].block(b)[o] = -x[1] + 2 * x[0];
      model.state().u[1].block(b)[o] = x[0] + (four ? 2 * x[1] : 0);
    });
    const Shown shown = shown_of(snapshot_data<2>(model), {}, {"water", "air"});
    REQUIRE(shown.images.turned);
    CHECK(shown.images.computed({-0.3, 0.2, 0}) == (four ? Point3{0.2, 0.3, 0} : Point3{0.3, -0.2, 0}));
    CHECK(shown.images.computed({-0.3, -0.2, 0}) == Point3{0.3, 0.2, 0});
    CHECK(shown.images.computed({0.3, -0.2, 0}) == (four ? Point3{0.2, 0.3, 0} : Point3{0.3, -0.2, 0}));
    CHECK(shown.images.computed({0.3, 0.2, 0}) == Point3{0.3, 0.2, 0});
    auto* velocity = shown.data->GetCellData()->GetArray("on_page");
    auto* fraction = shown.data->GetCellData()->GetArray("fraction");
    REQUIRE(shown.data->GetNumberOfCells() == 256);
    CHECK(shown.data->GetNumberOfPoints() == 17 * 17);
    for (vtkIdType i = 0; i < shown.data->GetNumberOfCells(); ++i) {
      std::array<double, 6> b{};
      shown.data->GetCellBounds(i, b.data());
      const double x = 0.5 * (b[0] + b[1]);
      const double y = 0.5 * (b[2] + b[3]);
      CHECK(velocity->GetComponent(i, 0) == about(-y + 2 * x).epsilon(1e-6));
      CHECK(velocity->GetComponent(i, 1) == about(x + (four ? 2 * y : 0)).epsilon(1e-6));
      CHECK(std::abs(fraction->GetComponent(i, 0) - share(x, y)) < 1e-6);
    }
  }
}

TEST_CASE("a sector is completed to the whole vessel: fields, velocities and what is open go on through its mirrors") {
  // Between mirrors at 0 and 45 degrees r^4 cos 4 a and its gradient are their own images.
  const double h = 1.0 / 16;
  const Grid<3> grid({0, 0, 0}, {1, 1, 0.25}, partition<3>({1, 1, 0.25}, h));
  const Sector sector{{0, 0}, M_PI / 4};
  const Solid<3> wedge{[](const Vec<3>& p) { return (p[1] - p[0]) / std::sqrt(2); }, {0, 0, 0}, {1, 1, 0.25}};
  sharp::Settings<3> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  sharp::Model<3> model(grid, settings, OpenSpace<3>(grid, &wedge, {}, {}));
  const auto potential = [](double x, double y) { return std::pow(x, 4) - 6 * x * x * y * y + std::pow(y, 4); };
  for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t o, const Index<3>& cell) {
    const double x = (cell[0] + 0.5) * h;
    const double y = (cell[1] + 0.5) * h;
    model.state().F.block(b)[o] = 0.5 + 0.25 * potential(x, y);
    model.state().u[0].block(b)[o] = 4 * x * x * x - 12 * x * y * y;
    model.state().u[1].block(b)[o] = 4 * y * y * y - 12 * y * x * x;
    model.state().u[2].block(b)[o] = 1;
  });
  const auto whole = completed(snapshot_data<3>(model), sector);
  CHECK(whole->GetNumberOfCells() > 4 * 16 * 16 * 4 - 40);
  auto* fraction = whole->GetCellData()->GetArray("fraction");
  auto* velocity = whole->GetCellData()->GetArray("velocity");
  auto* open = whole->GetCellData()->GetArray("open");
  int directions = 0;
  for (vtkIdType i = 0; i < whole->GetNumberOfCells(); ++i) {
    std::array<double, 6> b{};
    whole->GetCellBounds(i, b.data());
    CHECK(std::abs(b[1] - b[0] - h) < 1e-12);
    const double x = 0.5 * (b[0] + b[1]);
    const double y = 0.5 * (b[2] + b[3]);
    directions |= 1 << (2 * (x > 0 ? 1 : 0) + (y > 0 ? 1 : 0));
    if (std::hypot(x, y) > 0.9) continue;  // beyond the rim there is nothing to interpolate with
    INFO(x << " " << y);
    CHECK(fraction->GetTuple1(i) == about(0.5 + 0.25 * potential(x, y)).epsilon(0.03));
    CHECK(std::abs(velocity->GetComponent(i, 0) - 4 * x * x * x + 12 * x * y * y) < 0.3);
    CHECK(std::abs(velocity->GetComponent(i, 1) - 4 * y * y * y + 12 * y * x * x) < 0.3);
    CHECK(velocity->GetComponent(i, 2) == about(1));
    CHECK(open->GetTuple1(i) > 0.95);  // the mirror is no wall
  }
  CHECK(directions == 15);
}
