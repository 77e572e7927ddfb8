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
template <int D>
class Carried {
 public:
  Carried(double size, int cells)
      : grid_(Vec<D>{}, filled(size), partition<D>(filled(size), size / cells)), state_(grid_), advect_(grid_) {
    settings_.liquid = settings_.gas = {1, 0};
    for (auto& axis : settings_.walls) axis = {Wall::slip, Wall::slip};
  }
  sharp::State<D>& state() { return state_; }
  [[nodiscard]] const Grid<D>& grid() const { return grid_; }

  void start() {
    first_ = state_.F;
    volume_ = sum([](double f, double) { return f; });
  }
  /// flow(axis, lower corner of the face, h): mean velocity over the face; must be free of divergence to round-off.
  template <class Flow>
  void step(Flow&& flow, double dt) {
    const double h = grid_.spacing()[0];
    for (int axis = 0; axis < D; ++axis)
      for_blocks(grid_, [&](int b) {
        const Vec<D> lower = grid_.geometry(b).lower;
        double* face = state_.face_u[static_cast<std::size_t>(axis)].block(b);
        for_rows<D>(grid_.layout(), Index<D>{}, faces_end<D>(grid_.layout(), axis), [&](std::ptrdiff_t o, int n) {
          Vec<D> corner;
          for (int d = 0; d < D; ++d) corner[d] = lower[d] + axis_index<D>(grid_.layout(), o, d) * h;
          for (int i = 0; i < n; ++i, corner[0] += h) face[o + i] = flow(axis, corner, h);
        });
      });
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
  static Vec<D> filled(double size) {
    Vec<D> v;
    v.fill(size);
    return v;
  }
  template <class Fn>
  double sum(Fn&& fn) const {
    double total = 0;
    for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
      total += fn(state_.F.block(b)[o], first_.data().empty() ? 0.0 : first_.block(b)[o]);
    });
    return total;
  }
  Grid<D> grid_;
  sharp::Settings<D> settings_;
  sharp::State<D> state_;
  sharp::Advection<D> advect_;
  Cells<D> first_;
  double volume_ = 0;
  double beyond_ = 0;
  int steps_ = 0;
};

/// The flow of a stream function.
template <class Psi>
auto stream(Psi psi) {
  return [psi](int axis, const Vec<2>& at, double h) {
    const double here = psi(at[0], at[1]);
    return (axis == 0 ? psi(at[0], at[1] + h) - here : here - psi(at[0] + h, at[1])) / h;
  };
}

template <int D>
void add_conservation(std::vector<Finding>& findings, const Carried<D>& carried, const std::string& which) {
  findings.push_back(small("volume drift" + which, carried.drift(), 1e-12));
  findings.push_back(small("F beyond 0..1" + which, carried.beyond(), 1e-12));
}

ValidationResult slotted_disc(bool) {
  // Radius 15, slot 5 wide and 25 deep, in a box of 100: one turn in 628 (Zalesak 1979).
  const int n = 200;
  Carried<2> carried(100, n);
  for_cells_in_order<2>(carried.grid(), [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double disc = covered_share<2>(carried.grid(), cell, Ball<2>{{50, 75}, 15});
    const double slot = covered_share<2>(carried.grid(), cell, AlignedBox<2>{{47.5, 55}, {52.5, 85}});
    carried.state().F.block(b)[o] = std::max(0.0, disc - slot);
  });
  carried.start();
  const double turn = 200 * M_PI;
  const int steps = 8 * n;  // Courant number at most 0.45 on the disc
  for (int s = 0; s < steps; ++s)
    carried.step(stream([](double x, double y) { return 0.5 * 0.01 * ((x - 50) * (x - 50) + (y - 50) * (y - 50)); }),
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
    Carried<2> carried(1, n);
    cover<2>(carried.grid(), carried.state().F, Ball<2>{{0.5, 0.75}, 0.15});
    carried.start();
    const double period = 8;
    // Steps of equal displacement (the flow swings as cos(pi t / T)), so that each has a Courant number near 1/2.
    const int half = 13 * n / 2;
    const double step = period / M_PI / half;
    for (int s = 0; s < 2 * half; ++s) {
      const double turn = s < half ? 1 : -1;
      carried.step(stream([turn](double x, double y) {
                     return -turn / M_PI * std::pow(std::sin(M_PI * x) * std::sin(M_PI * y), 2);
                   }),
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

ValidationResult deformation_3d(bool) {
  ValidationResult result;
  Curve2D found{"found", {}, {}, true};
  std::array<double, 2> errors{};
  for (std::size_t level = 0; level < 2; ++level) {
    const int n = 64 << level;
    Carried<3> carried(1, n);
    cover<3>(carried.grid(), carried.state().F, Ball<3>{{0.35, 0.35, 0.35}, 0.15});
    carried.start();
    // u = 2 sin^2(pi x) sin(2 pi y) sin(2 pi z) and so on, exact means over the faces; steps of equal displacement.
    const double period = 3;
    const int half = 4 * n;
    for (int s = 0; s < 2 * half; ++s) {
      const double turn = s < half ? 1 : -1;
      const auto flow = [turn](int axis, const Vec<3>& at, double h) {
        double product = axis == 0 ? 2 * turn : -turn;
        for (int d = 0; d < 3; ++d) {
          const double x = at[static_cast<std::size_t>(d)];
          product *= d == axis ? std::pow(std::sin(M_PI * x), 2)
                               : (std::cos(2 * M_PI * x) - std::cos(2 * M_PI * (x + h))) / (2 * M_PI * h);
        }
        return product;
      };
      carried.step(flow, period / M_PI / half);
    }
    errors[level] = carried.difference() * carried.grid().cell_volume();
    found.x.push_back(n);
    found.y.push_back(errors[level]);
    add_conservation(result.findings, carried, fmt::format(" at {}^3", n));
  }
  result.findings.push_back(
      at_least(fmt::format("order between 64^3 (L1 error {:.3g}) and 128^3 ({:.3g})", errors[0], errors[1]),
               std::log2(errors[0] / errors[1]), 1.8));
  result.x_title = "cells across";
  result.chart = {{"L1 error", {found}}};
  return result;
}

}  // namespace

std::vector<ValidationCase> interface_cases() {
  return {
      {"slotted_disc", "a disc with a slot turns once", "Zalesak, J. Comput. Phys. 31 (1979) 335", true, slotted_disc},
      {"reversed_vortex", "a circle is drawn into a spiral and back, T = 8",
       "Rider & Kothe, J. Comput. Phys. 141 (1998) 112", true, reversed_vortex},
      {"deformation_3d", "a sphere is drawn into a sheet and back, T = 3",
       "LeVeque, SIAM J. Numer. Anal. 33 (1996) 627; Enright et al., J. Comput. Phys. 183 (2002) 83", false,
       deformation_3d}};
}

}  // namespace wavy
