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

/// A function of the places of a whole grid that a turn round its axis leaves as it is; component -1.
double turned_label(Turn turn, int component, const Vec<3>& p) {
  const double square = p[0] * p[0] + p[1] * p[1];
  const double across = turn == Turn::half ? 2 * p[0] * p[1] : 2 * p[0] * p[1] * (p[0] * p[0] - p[1] * p[1]);
  const double even = std::cos(square + across) + std::cos(2 * M_PI / 1.2 * p[2]);
  if (component == 0) return -p[1] * even + p[0];
  if (component == 1) return p[0] * even + p[1];
  return even;
}

/// Round which upright axis, in several blocks along each axis; periodic along z.
Grid<3> turned_grid(Turn turn) {
  const Vec<3> lower{0, turn == Turn::half ? -1.2 : 0.0, 0};
  const Vec<3> upper{turn == Turn::half ? 1.6 : 2.4, turn == Turn::half ? 1.2 : 2.4, 1.2};
  Partition<3> blocks;
  blocks.cells = {turn == Turn::half ? 16 : 24, 24, 12};
  blocks.block_cells = {8, 8, 6};
  return {lower, upper, blocks, {false, false, true}, turn};
}

/// Whether a place lies beyond an end that is turned, and whether beyond another side across the axis.
struct Lies {
  bool beyond = false;
  bool outside = false;

  Lies(const Grid<3>& grid, const Vec<3>& p) {
    constexpr double hair = 1e-9;
    for (std::size_t d = 0; d < 2; ++d) {
      const bool turned = turns_below(grid.turn(), static_cast<int>(d));
      beyond = beyond || (turned && p[d] <= hair);
      outside = outside || p[d] > grid.upper()[d] - hair || (!turned && p[d] < grid.lower()[d] + hair);
    }
  }
};

/// Greatest error beyond the ends that are turned, `layers` deep; not beyond the other sides, nor where `counts` says
/// no.
template <class Counts>
double worst_beyond(const Grid<3>& grid, const Cells<3>& field, int component, int faces, int layers, Counts&& counts) {
  double wrong = 0;
  long seen = 0;
  for (int b = 0; b < grid.blocks(); ++b) {
    const auto range = with_layers(grid.layout(), layers);
    for_rows<3>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        Vec<3> p = cell_middle<3>(grid, b, at);
        if (faces >= 0) p[static_cast<std::size_t>(faces)] -= 0.05;
        const Lies lies(grid, p);
        if (!lies.beyond || lies.outside || !counts(b, at)) continue;
        ++seen;
        wrong = std::max(wrong, std::abs(field.block(b)[at] - turned_label(grid.turn(), component, p)));
      }
    });
  }
  CHECK(seen > 500);
  return wrong;
}

}  // namespace

TEST_CASE("beyond ends that are turned the halo has the cells, vectors and faces of the rest, corners included") {
  for (const Turn turn : {Turn::half, Turn::quarter}) {
    const Grid<3> grid = turned_grid(turn);
    CHECK(grid.turn() == turn);
    const auto everywhere = [](int, std::ptrdiff_t) { return true; };
    const auto labelled = [&](int component, int faces) {
      Cells<3> field(grid, 1e300);
      for (int b = 0; b < grid.blocks(); ++b)
        for_rows<3>(grid.layout(), Index<3>{}, faces < 0 ? grid.layout().cells : faces_end<3>(grid.layout(), faces),
                    [&](std::ptrdiff_t o, int n) {
                      for (std::ptrdiff_t at = o; at < o + n; ++at) {
                        Vec<3> p = cell_middle<3>(grid, b, at);
                        if (faces >= 0) p[static_cast<std::size_t>(faces)] -= 0.05;
                        field.block(b)[at] = turned_label(turn, component, p);
                      }
                    });
      return field;
    };
    Cells<3> scalar = labelled(-1, -1);
    fill_halo(grid, scalar, pad, all_walls<3>(Mirror::even));
    CHECK(worst_beyond(grid, scalar, -1, -1, pad, everywhere) < 1e-12);

    CellVectors<3> vectors{labelled(0, -1), labelled(1, -1), labelled(2, -1)};
    const CellVectors<3> unfilled = vectors;
    fill_halo(grid, vectors, pad, even_vector<3>());
    for (int c = 0; c < 3; ++c)
      CHECK(worst_beyond(grid, vectors[static_cast<std::size_t>(c)], c, -1, pad, everywhere) < 1e-12);
    for (int c = 0; c < 3 && turn == Turn::half; ++c) {
      Cells<3> alone = unfilled[static_cast<std::size_t>(c)];
      fill_component_halo(grid, c, alone, pad, all_walls<3>(Mirror::even));
      CHECK(alone.data() == vectors[static_cast<std::size_t>(c)].data());
    }

    // Across one axis alone; a component that is empty is left out.
    CellVectors<3> across = unfilled;
    across[2] = {};
    for (int axis = 0; axis < (turn == Turn::half ? 1 : 2); ++axis) {
      fill_halo_across(grid, axis, across, 2, even_vector<3>());
      const auto counts = [&](int b, std::ptrdiff_t at) {
        for (int d = 0; d < 3; ++d) {
          const int place = axis_index<3>(grid.layout(), at, d);
          if (d == axis ? place >= 0 : place < 0 || place >= grid.layout().cells[d]) return false;
        }
        return grid.geometry(b).start[axis] == 0;
      };
      for (int c = 0; c < 2; ++c)
        CHECK(worst_beyond(grid, across[static_cast<std::size_t>(c)], c, -1, 2, counts) < 1e-12);
    }

    Faces<3> faces{labelled(-1, 0), labelled(-1, 1), labelled(-1, 2)};
    fill_face_halo(grid, faces, pad);
    for (int d = 0; d < 3; ++d)
      CHECK(worst_beyond(grid, faces[static_cast<std::size_t>(d)], -1, d, pad, everywhere) < 1e-12);

    // What was changed beyond the other sides, here to what a wider grid would have there, is seen from the turned
    // ones.
    fill_halo(grid, vectors, 1, even_vector<3>());
    const auto set_beyond_sides = [&](bool turned_too) {
      for (int b = 0; b < grid.blocks(); ++b) {
        const auto range = with_layers(grid.layout(), 1);
        for_rows<3>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            const Vec<3> p = cell_middle<3>(grid, b, at);
            const Lies lies(grid, p);
            for (int c = 0; c < 3 && lies.outside; ++c) {
              double& value = vectors[static_cast<std::size_t>(c)].block(b)[at];
              const double wanted = turned_label(turn, c, p);
              if (!lies.beyond) value = wanted;
              if (lies.beyond && turned_too) CHECK(std::abs(value - wanted) < 1e-12);
            }
          }
        });
      }
    };
    set_beyond_sides(false);
    fill_turned_edges(grid, vectors);
    set_beyond_sides(true);
  }
}

TEST_CASE("the cell beyond an end that is turned is that of the part turned onto it") {
  const Grid<2> half({0, -1}, {1, 1}, partition<2>({1, 2}, 0.125, Turn::half), {}, Turn::half);
  CHECK(half.cells() == Index<2>{8, 16});
  CHECK(half.beyond({0, 3}, 0, 0) == Index<2>{0, 12});
  CHECK(half.beyond({0, 3}, 1, 0) == Index<2>{0, 2});
  CHECK_FALSE(half.beyond({7, 3}, 0, 1));
  CHECK_FALSE(half.beyond({0, 0}, 1, 0));
  CHECK(half.turning_axis() == Vec<2>{0, 0});
  const Grid<2> quarter({0, 0}, {1, 1}, partition<2>({1, 1}, 0.125, Turn::quarter), {}, Turn::quarter);
  CHECK(quarter.cells() == Index<2>{8, 8});
  CHECK(quarter.beyond({0, 3}, 0, 0) == Index<2>{3, 0});
  CHECK(quarter.beyond({3, 0}, 1, 0) == Index<2>{0, 3});
  CHECK(quarter.beyond({0, 0}, 0, 0) == Index<2>{0, 0});
  CHECK(quarter.beyond({0, 3}, 1, 0) == Index<2>{0, 2});
  CHECK_FALSE(quarter.beyond({7, 3}, 0, 1));
  CHECK(quarter.turning_axis() == Vec<2>{0, 0});
  // Numbers of rows can be halved, whatever the size of cells; those of a quarter are alike, and so are its blocks.
  for (const double cell : {0.04, 0.041, 0.0377, 0.031}) {
    const auto cells = partition<2>({1, 2}, cell, Turn::half).cells;
    CHECK(cells[1] % 4 == 0);
    CHECK(cells[1] == about(2 / cell).epsilon(0.05));
    const auto blocks = partition<3>({1, 1, 3}, 0.5 * cell, Turn::quarter);
    CHECK(blocks.cells[0] == blocks.cells[1]);
    CHECK(blocks.block_cells[0] == blocks.block_cells[1]);
    CHECK(blocks.cells[0] == about(2 / cell).epsilon(0.05));
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
