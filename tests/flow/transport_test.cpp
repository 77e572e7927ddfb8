// Transport of carried quantities by given mass fluxes, along one row.
#include "flow/transport.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <numeric>

#include "about.hpp"

using namespace wavy;

namespace {

constexpr int halo = 4;

/// A row of fluid of density 1 that goes round, with two quantities.
struct Row {
  explicit Row(int count) : cells(count), rows(static_cast<std::size_t>(count + 2 * halo), halo) {
    for (auto& v : values) v.assign(static_cast<std::size_t>(count + 2 * halo), 0.0);
    none.assign(static_cast<std::size_t>(count + 2 * halo), 0.0);
  }
  int cells;
  std::array<std::vector<double>, 2> values;
  std::vector<double> none;
  TransportRows<2> rows;

  double& at(std::size_t c, int i) { return values[c][static_cast<std::size_t>(halo + i)]; }

  /// By a uniform Courant number.
  void step(double courant) {
    for (std::size_t c = 0; c < 2; ++c)
      for (int i = 1; i <= 2; ++i) {
        at(c, -i) = at(c, cells - i);
        at(c, cells - 1 + i) = at(c, i - 1);
      }
    Carried<2> carried;
    for (std::size_t c = 0; c < 2; ++c) {
      carried.value[c] = values[c].data() + halo;
      carried.start[c] = carried.gain[c] = none.data() + halo;
    }
    const std::vector<double> C(values[0].size(), courant);
    const auto& row = rows.rows[0];
    find_slopes<false>(carried, row, nullptr, 0, 1, -1, cells + 1);
    for (int i = 0; i <= cells; ++i) {
      row.mass[i] = courant;
      row.weight[i] = 0.5 * (1 - std::abs(courant)) * std::abs(courant);
    }
    carry_through_faces(carried, row.at(-1), row, C.data() + halo, 0, 1, 0, cells + 1);
    for (int i = 0; i < cells; ++i) {
      rows.held[i] = rows.after[i] = 1;
      rows.dilated[i] = 0;
    }
    take_up(carried, row, row.at(1), rows, 0, 0, cells);
  }
  double sum(std::size_t c) {
    double total = 0;
    for (int i = 0; i < cells; ++i) total += at(c, i);
    return total;
  }
};

}  // namespace

TEST_CASE("a wave that is carried once round comes back, by second order, in either direction") {
  for (const double courant : {0.25, -0.25}) {
    std::array<double, 2> off{};
    for (std::size_t finer = 0; finer < 2; ++finer) {
      const int cells = finer == 0 ? 64 : 128;
      Row row(cells);
      const auto wave = [&](int i) { return std::sin(2 * M_PI * (i + 0.5) / cells); };
      for (int i = 0; i < cells; ++i) {
        row.at(0, i) = 3 + wave(i);
        row.at(1, i) = -1;
      }
      const double before = row.sum(0);
      for (int n = 0; n < 4 * cells; ++n) row.step(courant);
      CHECK(row.sum(0) == about(before).epsilon(1e-13));
      for (int i = 0; i < cells; ++i) {
        off[finer] += std::abs(row.at(0, i) - 3 - wave(i)) / cells;
        CHECK(row.at(1, i) == about(-1).epsilon(1e-13));
      }
    }
    CHECK(off[0] < 0.02);
    CHECK(off[1] < off[0] / 3.3);
  }
}

TEST_CASE("a step that is carried stays within what it was, and sharp") {
  Row row(100);
  for (int i = 20; i < 60; ++i) row.at(0, i) = 1;
  for (int n = 0; n < 200; ++n) row.step(0.4);
  int between = 0;
  for (int i = 0; i < 100; ++i) {
    CHECK(row.at(0, i) >= -1e-14);
    CHECK(row.at(0, i) <= 1 + 1e-14);
    between += row.at(0, i) > 0.05 && row.at(0, i) < 0.95 ? 1 : 0;
  }
  CHECK(row.sum(0) == about(40).epsilon(1e-13));
  CHECK(between <= 14);
}

TEST_CASE("the limited slope is exact for lines and 0 at extremes") {
  CHECK(limited_slope(1, 3, 5) == 2);
  CHECK(limited_slope(5, 3, 1) == -2);
  CHECK(limited_slope(1, 3, 2) == 0);
  CHECK(limited_slope(0, 0, 9) == 0);
  CHECK(limited_slope(0, 1, 9) == 2);
}
