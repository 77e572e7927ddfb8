// Moving an interface, no flow solved.
#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "sharp/parts.hpp"
#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;

/// Moves F through a given velocity field and back, and keeps watch on its bounds and volume.
class Carried {
 public:
  Carried(double size, int cells) : grid_(box(size, size, cells)), state_(grid_), advect_(grid_) {
    settings_ = fluids({1, 0}, {1, 0}, sharp::Wall::slip, {0, 0});
  }
  sharp::State<2>& state() { return state_; }
  [[nodiscard]] const Grid<2>& grid() const { return grid_; }

  void start() {
    first_ = state_.F;
    volume_ = sum([](double f, double) { return f; });
  }
  /// Velocity on the faces from a stream function on the corners, free of divergence to round-off.
  template <class Psi>
  void step(Psi&& psi, double dt) {
    const double h = grid_.spacing()[0];
    for (int axis = 0; axis < 2; ++axis) {
      for (int b = 0; b < grid_.blocks(); ++b) {
        const Index<2> start = grid_.block_start(b);
        for_rows<2>(grid_.layout(), Index<2>{}, faces_end<2>(grid_.layout(), axis), [&](std::ptrdiff_t o, int n) {
          for (int i = 0; i < n; ++i) {
            const double x = (start[0] + axis_index<2>(grid_.layout(), o + i, 0)) * h;
            const double y = (start[1] + axis_index<2>(grid_.layout(), o + i, 1)) * h;
            const double along = axis == 0 ? psi(x, y + h) - psi(x, y) : psi(x, y) - psi(x + h, y);
            state_.face_u[static_cast<std::size_t>(axis)].block(b)[o + i] = along / h;
          }
        });
      }
    }
    advect_(grid_, settings_, state_, dt, steps_++, volume_ * grid_.cell_volume());
    for (const double f : state_.F.data()) beyond_ = std::max({beyond_, -f, f - 1});
  }
  /// sum |F - F0|, in cells.
  [[nodiscard]] double difference() const {
    return sum([](double f, double f0) { return std::abs(f - f0); });
  }
  [[nodiscard]] double volume() const { return volume_; }
  [[nodiscard]] double drift() const {
    return sum([](double f, double) { return f; }) / volume_ - 1;
  }
  [[nodiscard]] double beyond() const { return beyond_; }

 private:
  template <class Fn>
  double sum(Fn&& fn) const {
    double total = 0;
    for_cells_in_order<2>(grid_, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      total += fn(state_.F.block(b)[o], first_.data().empty() ? 0.0 : first_.block(b)[o]);
    });
    return total;
  }
  Grid<2> grid_;
  sharp::Settings<2> settings_;
  sharp::State<2> state_;
  sharp::Advection<2> advect_;
  Cells<2> first_;
  double volume_ = 0;
  double beyond_ = 0;
  int steps_ = 0;
};

void add_conservation(std::vector<Finding>& findings, const Carried& carried, const std::string& which) {
  findings.push_back(small("volume drift" + which, carried.drift(), 1e-12));
  findings.push_back(small("F beyond 0..1" + which, carried.beyond(), 1e-12));
}

ValidationResult slotted_disc(bool) {
  // Radius 15, slot 5 wide and 25 deep, in a box of 100: one turn in 628 (Zalesak 1979).
  const int n = 200;
  Carried carried(100, n);
  for_cells_in_order<2>(carried.grid(), [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double h = 100.0 / n;
    const Vec<2> lower{h * cell[0], h * cell[1]};
    const Vec<2> upper{lower[0] + h, lower[1] + h};
    const double disc = covered_share<2>(Ball<2>{{50, 75}, 15}, lower, upper);
    const double slot = covered_share<2>(AlignedBox<2>{{47.5, 55}, {52.5, 85}}, lower, upper);
    carried.state().F.block(b)[o] = std::max(0.0, disc - slot);
  });
  carried.start();
  const double turn = 200 * M_PI;
  const int steps = 8 * n;  // Courant number at most 0.45 on the disc
  for (int s = 0; s < steps; ++s)
    carried.step([](double x, double y) { return 0.5 * 0.01 * ((x - 50) * (x - 50) + (y - 50) * (y - 50)); },
                 turn / steps);
  ValidationResult result;
  result.findings.push_back(small("sum |F - F0| / sum F0 at 200^2", carried.difference() / carried.volume(), 1.0e-2));
  add_conservation(result.findings, carried, "");
  return result;
}

ValidationResult reversed_vortex(bool) {
  ValidationResult result;
  Curve2D found{"found", {}, {}, true};
  std::array<double, 2> errors{};
  const std::array<double, 2> bars{6.9e-3, 1.5e-3};
  for (std::size_t level = 0; level < 2; ++level) {
    const int n = 64 << level;
    Carried carried(1, n);
    fill_shape<2>(carried.grid(), carried.state().F, Ball<2>{{0.5, 0.75}, 0.15});
    carried.start();
    const double period = 8;
    // Steps of equal displacement (the flow swings as cos(pi t / T)), so that each has a Courant number near 1/2.
    const int half = 13 * n / 2;
    const double step = period / M_PI / half;
    for (int s = 0; s < 2 * half; ++s) {
      const double turn = s < half ? 1 : -1;
      carried.step(
          [turn](double x, double y) { return -turn / M_PI * std::pow(std::sin(M_PI * x) * std::sin(M_PI * y), 2); },
          step);
    }
    errors[level] = carried.difference() * carried.grid().cell_volume();
    found.x.push_back(n);
    found.y.push_back(errors[level]);
    result.findings.push_back(small(fmt::format("L1 error at {}^2", n), errors[level], bars[level]));
    add_conservation(result.findings, carried, fmt::format(" at {}^2", n));
  }
  result.findings.push_back(at_least("order between 64^2 and 128^2", std::log2(errors[0] / errors[1]), 2));
  result.x_title = "cells across";
  result.chart = {{"L1 error", {found, {"published 1998", {64, 128}, {6.96e-3, 1.44e-3}, true}}}};
  return result;
}

}  // namespace

std::vector<ValidationCase> interface_cases() {
  return {
      {"slotted_disc", "a disc with a slot turns once", "Zalesak, J. Comput. Phys. 31 (1979) 335", true, slotted_disc},
      {"reversed_vortex", "a circle is drawn into a spiral and back, T = 8",
       "Rider & Kothe, J. Comput. Phys. 141 (1998) 112", true, reversed_vortex}};
}

}  // namespace wavy
