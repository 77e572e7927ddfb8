#include "mesh/grid.hpp"

#include <doctest/doctest.h>
#include <omp.h>

#include <cmath>
#include <set>

#include "about.hpp"

using namespace wavy;

namespace {

/// A value that tells every cell from every other.
template <int D>
double label(const Index<D>& cell) {
  double value = 1;
  for (int d = 0; d < D; ++d) value = 1000 * value + cell[d];
  return value;
}

/// Index mirrored at the walls of n cells; `flips` counts mirrorings along axes with odd rules.
int mirrored(int i, int n, bool& flipped) {
  if (i < 0) {
    flipped = true;
    return -1 - i;
  }
  if (i >= n) {
    flipped = true;
    return 2 * n - 1 - i;
  }
  return i;
}

template <int D>
void check_halo(const Vec<D>& extent, double h) {
  const Grid<D> grid(Vec<D>{}, extent, partition<D>(extent, h));
  CHECK(grid.blocks() > 1);
  Cells<D> field(grid);
  for_cells_in_order<D>(grid,
                        [&](int b, std::ptrdiff_t o, const Index<D>& cell) { field.block(b)[o] = label<D>(cell); });
  HaloRules<D> rules = all_walls<D>(Mirror::even);
  rules.walls[0] = {Mirror::odd, Mirror::even};
  fill_halo(grid, field, pad, rules);
  long wrong = 0;
  for (int b = 0; b < grid.blocks(); ++b) {
    const Index<D> start = grid.geometry(b).start;
    Index<D> lo;
    Index<D> hi = grid.layout().cells;
    for (int d = 0; d < D; ++d) {
      lo[d] = -pad;
      hi[d] += pad;
    }
    for_rows<D>(grid.layout(), lo, hi, [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) {
        Index<D> cell;
        double sign = 1;
        for (int d = 0; d < D; ++d) {
          const int global = start[d] + axis_index<D>(grid.layout(), o + i, d);
          bool flipped = false;
          cell[d] = mirrored(global, grid.cells()[d], flipped);
          if (d == 0 && flipped && global < 0) sign = -1;
        }
        if (field.block(b)[o + i] != sign * label<D>(cell)) ++wrong;
      }
    });
  }
  CHECK(wrong == 0);
}

}  // namespace

TEST_CASE("the halo holds the neighbours' cells and the mirrored ones, corners included, in 2-D and 3-D") {
  check_halo<2>({1.28, 0.96}, 0.01);
  check_halo<3>({0.8, 0.4, 0.6}, 0.01);
}

TEST_CASE("the partition takes the cell size asked for where it divides the vessel, and says so little otherwise") {
  const auto exact = partition<2>({1.2, 0.8}, 0.0125);
  CHECK(exact.cells == Index<2>{96, 64});
  for (const double length : {0.1, 0.37, 1.0, 1.234, 9.7, 44.0}) {
    const auto p = partition<2>({length, 1.0}, 0.01);
    CHECK(p.cells[0] % p.block_cells[0] == 0);
    CHECK(p.block_cells[0] <= 64);
    CHECK(p.block_cells[0] >= std::min(4, p.cells[0]));
    if (length > 0.3) CHECK(p.block_cells[0] >= 16);
    CHECK(std::abs(p.cells[0] - 100 * length) <= std::max(2.0, 0.04 * 100 * length));
  }
}

TEST_CASE("blocks in space are long, and short where there would be too few to share") {
  CHECK(partition<3>({1, 1, 1}, 1.0 / 64).block_cells == Index<3>{64, 32, 32});
  CHECK(partition<3>({1, 0.5, 0.5}, 1.0 / 64).block_cells == Index<3>{32, 32, 32});
  CHECK(partition<3>({1, 0.5, 0.5}, 1.0 / 96).block_cells == Index<3>{48, 24, 24});
}

TEST_CASE("every cell is in one block, and blocks meet their neighbours") {
  const Grid<3> grid({0, 0, 0}, {1, 0.5, 0.5}, partition<3>({1, 0.5, 0.5}, 1.0 / 72));
  std::set<Index<3>> cells;
  for_cells_in_order<3>(grid, [&](int, std::ptrdiff_t, const Index<3>& cell) { cells.insert(cell); });
  CHECK(static_cast<long>(cells.size()) == grid.cell_count());
  for (int b = 0; b < grid.blocks(); ++b)
    for (int axis = 0; axis < 3; ++axis)
      if (const int next = grid.forest().neighbour(b, axis, 1); next >= 0) {
        CHECK(grid.forest().neighbour(next, axis, 0) == b);
        CHECK(grid.geometry(next).start[static_cast<std::size_t>(axis)] ==
              grid.geometry(b).start[static_cast<std::size_t>(axis)] +
                  grid.layout().cells[static_cast<std::size_t>(axis)]);
      }
}

TEST_CASE("sums over blocks have the same bits on one and on two threads") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 256));
  Cells<2> field(grid);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    field.block(b)[o] = std::sin(cell[0] + 0.37 * cell[1]);
  });
  const auto sum = [&] {
    return sum_blocks(grid, [&](int b) {
      double s = 0;
      for_rows<2>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) s += field.block(b)[o + i];
      });
      return s;
    });
  };
  omp_set_num_threads(1);
  const double one = sum();
  omp_set_num_threads(2);
  CHECK(sum() == one);
}

namespace {

/// A function of the places of a whole grid that half a turn round its axis leaves as it is, or changes the sign of.
double turned_label(const Vec<3>& p, bool changes) {
  const double even = std::cos(p[0] * p[0] + 2 * p[0] * p[1]) + std::cos(2 * M_PI / 1.2 * p[2]);
  return changes ? p[0] * even + p[1] : even;
}

}  // namespace

TEST_CASE("beyond an end that is turned the halo has the cells and faces of the other half, corners included") {
  // Several blocks along each axis; periodic along z.
  const Vec<3> lower{0, -1.2, 0};
  const Vec<3> upper{1.6, 1.2, 1.2};
  Partition<3> blocks;
  blocks.cells = {16, 24, 12};
  blocks.block_cells = {8, 8, 6};
  const Grid<3> grid(lower, upper, blocks, {false, false, true}, true);
  CHECK(grid.half_turn());
  const double h = 0.1;
  const auto place_of = [&](int b, std::ptrdiff_t at, int faces) {
    Vec<3> p = cell_middle<3>(grid, b, at);
    if (faces >= 0) p[static_cast<std::size_t>(faces)] -= 0.5 * h;
    return p;
  };
  for (int faces = -1; faces < 3; ++faces)
    for (const bool turns : {false, true}) {
      if (faces >= 0 && turns) continue;  // shares have no sign
      Cells<3> field(grid, 1e300);
      for (int b = 0; b < grid.blocks(); ++b)
        for_rows<3>(grid.layout(), Index<3>{}, faces < 0 ? grid.layout().cells : faces_end<3>(grid.layout(), faces),
                    [&](std::ptrdiff_t o, int n) {
                      for (std::ptrdiff_t at = o; at < o + n; ++at)
                        field.block(b)[at] = turned_label(place_of(b, at, faces), turns);
                    });
      if (faces < 0) {
        HaloRules<3> rules = all_walls<3>(Mirror::even);
        rules.turns = turns;
        fill_halo(grid, field, pad, rules);
      } else {
        fill_face_halo(grid, faces, field, pad);
      }
      long seen = 0;
      double wrong = 0;
      for (int b = 0; b < grid.blocks(); ++b) {
        if (grid.geometry(b).start[0] != 0) continue;
        const auto range = with_layers(grid.layout(), pad);
        for_rows<3>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            const Vec<3> p = place_of(b, at, faces);
            if (p[0] > 0 || std::abs(p[1]) > 1.2 - 1e-9) continue;
            ++seen;
            wrong = std::max(wrong, std::abs(field.block(b)[at] - turned_label(p, turns)));
          }
        });
      }
      CHECK(seen > 1000);
      CHECK(wrong < 1e-12);
    }
  // A component across the axis is one that changes its sign; one along it does not.
  CHECK(even_vector<3>(0).turns);
  CHECK(even_vector<3>(1).turns);
  CHECK_FALSE(even_vector<3>(2).turns);
}

TEST_CASE("the cell beyond an end that is turned is the one as far from the other end") {
  const Grid<2> grid({0, -1}, {1, 1}, partition<2>({1, 2}, 0.125, true), {}, true);
  CHECK(grid.cells() == Index<2>{8, 16});
  CHECK(grid.beyond({0, 3}, 0, 0) == Index<2>{0, 12});
  CHECK(grid.beyond({0, 3}, 1, 0) == Index<2>{0, 2});
  CHECK_FALSE(grid.beyond({7, 3}, 0, 1));
  CHECK_FALSE(grid.beyond({0, 0}, 1, 0));
  // Numbers of rows can be halved, whatever the size of cells.
  for (const double cell : {0.04, 0.041, 0.0377, 0.031}) {
    const auto cells = partition<2>({1, 2}, cell, true).cells;
    CHECK(cells[1] % 4 == 0);
    CHECK(cells[1] == about(2 / cell).epsilon(0.05));
  }
}

TEST_CASE("along a periodic axis the halo comes from the other end") {
  for (const int cells : {8, 256}) {  // one block, and several
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / cells), {true, false});
    Cells<2> field(grid);
    for_cells_in_order<2>(
        grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) { field.block(b)[o] = cell[0] + 1000.0 * cell[1]; });
    fill_halo(grid, field, 2, all_walls<2>(Mirror::odd));
    for (int b = 0; b < grid.blocks(); ++b) {
      const Index<2> start = grid.geometry(b).start;
      CHECK(grid.forest().neighbour(b, 0, 0) >= 0);
      if (start[0] == 0) CHECK(field.block(b)[-2] == cells - 2 + 1000.0 * start[1]);
      if (start[1] == 0) CHECK(field.block(b)[-grid.layout().step[1]] == -field.block(b)[0]);
    }
  }
}

TEST_CASE("cells have the size that is wanted, to a percent, and are square, whatever their number") {
  CHECK(partition<2>({1, 1}, 0.02).cells == Index<2>{50, 50});
  CHECK(partition<2>({1.3, 1.3}, 0.01).cells == Index<2>{130, 130});
  CHECK(partition<2>({0.67, 0.71}, 0.01).cells == Index<2>{67, 71});
  CHECK(partition<3>({0.5, 0.37, 0.97}, 0.01).cells == Index<3>{50, 37, 97});
  for (int n = 4; n < 3000; ++n) {
    CAPTURE(n);
    const auto flat = partition<2>({1.0 * n, 64}, 1);
    CHECK(std::abs(flat.cells[0] - n) <= 0.01 * n);
    CHECK(flat.cells[0] % flat.block_cells[0] == 0);
    CHECK(flat.block_cells[0] >= std::min(16, n));
    const auto solid = partition<3>({64, 1.0 * n, 64}, 1);
    CHECK(std::abs(solid.cells[1] - n) <= 0.01 * n);
    CHECK(solid.block_cells[1] >= std::min(8, n));
    CHECK(solid.block_cells[1] <= 128);
  }
}
