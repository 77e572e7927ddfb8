#include "run/vessel_model.hpp"

namespace wavy {

template <int D>
std::pair<double, std::string> VesselModel<D>::stable_step() const {
  return visit([](auto& m) {
    using Limit = std::conditional_t<std::is_same_v<std::decay_t<decltype(m)>, sharp::Model<D>>, sharp::StepLimit,
                                     dispersed::StepLimit>;
    Limit limit{};
    const double dt = m.stable_step(limit);
    return std::pair(dt, name_of(limit));
  });
}

template <int D>
VesselStep VesselModel<D>::step(double dt) const {
  const auto common = [](const auto& report) {
    return VesselStep{.pressure_iterations = report.pressure_iterations,
                      .pressure_converged = report.pressure_converged,
                      .viscous_iterations = report.viscous_iterations,
                      .divergence = report.divergence,
                      .volume_correction = 0,
                      .seconds = report.seconds};
  };
  if (!is_sharp()) return common(dispersed().step(dt));
  const sharp::StepReport report = sharp().step(dt);
  VesselStep result = common(report);
  result.volume_correction = report.volume_correction;
  return result;
}

template <int D>
std::optional<std::size_t> VesselModel<D>::find_tracer(std::string_view name) const {
  const auto& list = tracers().settings();
  const auto found = std::ranges::find(list, name, &TracerSettings<D>::name);
  if (found == list.end()) return std::nullopt;
  return static_cast<std::size_t>(found - list.begin());
}

template <int D>
CellNumber VesselModel<D>::share(std::size_t first, std::size_t end) const {
  if (is_sharp()) {
    const Cells<D>& F = sharp().state().F;
    if (first == 0 && end == 1) return [&F](int block, std::ptrdiff_t at) { return F.block(block)[at]; };
    if (first == 1 && end == 2) return [&F](int block, std::ptrdiff_t at) { return 1 - F.block(block)[at]; };
    return [](int, std::ptrdiff_t) { return 1.0; };
  }
  return [&a = dispersed().state().a, first, end](int block, std::ptrdiff_t at) {
    double sum = 0;
    for (std::size_t i = first; i < end; ++i) sum += a[i].block(block)[at];
    return sum;
  };
}

template <int D>
CellNumber VesselModel<D>::velocity(std::size_t first, std::size_t end, int axis) const {
  const auto d = static_cast<std::size_t>(axis);
  if (is_sharp()) return [&u = sharp().state().u[d]](int block, std::ptrdiff_t at) { return u.block(block)[at]; };
  const auto& state = dispersed().state();
  if (end == first + 1) return [&u = state.u[first][d]](int block, std::ptrdiff_t at) { return u.block(block)[at]; };
  return [&state, first, end, d](int block, std::ptrdiff_t at) {
    double flow = 0;
    double share = 0;
    for (std::size_t i = first; i < end; ++i) {
      flow += state.a[i].block(block)[at] * state.u[i][d].block(block)[at];
      share += state.a[i].block(block)[at];
    }
    return share > 0 ? flow / share : 0.0;
  };
}

template <int D>
std::vector<double> VesselModel<D>::volumes(double thickness) const {
  if (is_sharp()) {
    const double liquid = sharp().liquid_volume() * thickness;
    return {liquid, open_volume() * thickness - liquid};
  }
  std::vector<double> result;
  for (std::size_t i = 0; i < phases(); ++i) result.push_back(dispersed().volume(i) * thickness);
  return result;
}

template class VesselModel<2>;
template class VesselModel<3>;

}  // namespace wavy
