#include "dispersed/turning.hpp"

#include <algorithm>

namespace wavy::dispersed {

template <int D>
TurningPhases<D>::TurningPhases(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings)
    : space_(space), solids_(grid, space, settings.turning) {
  if (!solids_.none()) cells_.resize(static_cast<std::size_t>(grid.blocks()));
  if (!settings.turning.frames.empty())
    frames_.assign(settings.phases.size(), TurningFrames<D>(grid, space, settings.turning));
}

template <int D>
void TurningPhases<D>::set_time(const Grid<D>& grid, double time) {
  if (solids_.none()) return;
  solids_.set_time(grid, time);
  for (auto& frame : frames_) frame.set_time(time);
  for (int b = 0; b < grid.blocks(); ++b) cells_[static_cast<std::size_t>(b)].assign(solids_.cells(b).size(), Cell{});
}

template <int D>
void TurningPhases<D>::enter_frames(const Grid<D>& grid, State<D>& state) {
  for (std::size_t i = 0; i < frames_.size(); ++i) {
    frames_[i].keep(grid, state.u[i]);
    state.phase_u[i] = frames_[i].seen(grid, std::move(state.phase_u[i]));
  }
  if (has_frames()) state.face_u = frames_[0].seen(grid, std::move(state.face_u));
}

template <int D>
void TurningPhases<D>::find_frame_gains(const Grid<D>& grid, const State<D>& state, double dt) {
  for (std::size_t i = 0; i < frames_.size(); ++i) frames_[i].find_gain(grid, state.u[i], state.acceleration[i], dt);
}

template <int D>
double TurningPhases<D>::mean_frame_gain(const State<D>& state, int axis, int block, std::ptrdiff_t at) const {
  const std::ptrdiff_t s = state.p.layout().step[static_cast<std::size_t>(axis)];
  double sum = 0;
  for (std::size_t i = 0; i < frames_.size(); ++i) {
    const double* a = state.a[i].block(block);
    if (const double* gain = frame_gain(i, axis, block))
      sum += 0.5 * (a[at - s] + a[at]) * (0.5 * (gain[at] + gain[at - s]));
  }
  return sum;
}

template <int D>
void TurningPhases<D>::keep_momenta(std::size_t phase, const Cells<D>& fractions, double least) {
  if (solids_.none()) return;
  for (std::size_t b = 0; b < cells_.size(); ++b) {
    const auto touched = solids_.cells(static_cast<int>(b));
    for (std::size_t k = 0; k < touched.size(); ++k) {
      Cell& own = cells_[b][k];
      own.hold[phase] = touched[k].hold;
      own.there[phase] = fractions.block(static_cast<int>(b))[touched[k].at] >= least;
      for (std::size_t d = 0; d < D && own.there[phase]; ++d) own.momentum[d] += touched[k].momentum[d];
    }
  }
}

template <int D>
void TurningPhases<D>::blend_faces(const State<D>& state, int axis, int block, double dt, const OnFaces& on) const {
  if (solids_.none() || !act_) return;
  const double* area = space_.is_uncut(block) ? nullptr : space_.area()[axis].block(block);
  for (const auto& face : solids_.faces(block, axis)) {
    const double seen = std::max(face.open, TurningSolids<D>::least_open);
    const double open = area == nullptr ? 1.0 : area[face.at];
    if (open == 0) continue;
    on.flow[face.at] = face.blended(on.flow[face.at], open);
    if (has_frames() && seen > face.open)
      on.flow[face.at] += (seen - face.open) * dt * mean_frame_gain(state, axis, block, face.at);
    on.inverse_density[face.at] *= seen;
    for (double* U : on.phase_u) U[face.at] = face.blended(U[face.at]);
    for (double* gain : on.response) gain[face.at] *= seen;
    // What a sheet makes of the flow through a face is no gain of the cells beside it.
    for (std::size_t i = 0; i < on.expected.size() && face.seen < 1; ++i)
      on.expected[i][face.at] = face.seen * on.expected[i][face.at] + (1 - face.seen) * on.phase_u[i][face.at];
  }
}

template <int D>
void TurningPhases<D>::clear(const Grid<D>& grid, const State<D>& state, Cells<D>& rhs) const {
  if (!act_) return;
  FaceGain gain;
  if (has_frames())
    gain = [&](int axis, int block, std::ptrdiff_t at) { return mean_frame_gain(state, axis, block, at); };
  solids_.clear(grid, rhs, gain);
}

template <int D>
void TurningPhases<D>::blend_slips(int axis, int block, std::ptrdiff_t step, const double* beside,
                                   std::span<double* const> phase_u) const {
  if (solids_.none() || !act_) return;
  for (const auto& face : solids_.faces(block, axis)) {
    if (beside[face.at - step] + beside[face.at] == 0) continue;
    for (double* U : phase_u) U[face.at] = face.blended(U[face.at]);
  }
}

template <int D>
Vec<D> TurningPhases<D>::push(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                              const Faces<D>& jump, int block, std::ptrdiff_t at) const {
  Vec<D> sum{};
  const double* p = state.p.block(block);
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = grid.layout().step[d];
    for (const std::ptrdiff_t face : {at, at + s}) {
      if (!space_.is_uncut(block) && space_.area()[d].block(block)[face] == 0) continue;
      double force = jump[d].block(block)[face] - (p[face] - p[face - s]) / grid.geometry(block).spacing[d];
      for (std::size_t i = 0; i < frames_.size(); ++i) {
        const double* a = state.a[i].block(block);
        if (const double* gain = frame_gain(i, d, block))
          force += settings.phases[i].fluid.density * (0.5 * (gain[face] + gain[face - s])) *
                   std::max(0.5 * (a[face - s] + a[face]), 0.0);
      }
      sum[d] += 0.5 * force;
    }
  }
  return sum;
}

template <int D>
void TurningPhases<D>::keep_velocities(const State<D>& state) {
  if (solids_.none()) return;
  for (std::size_t b = 0; b < cells_.size(); ++b) {
    const auto touched = solids_.cells(static_cast<int>(b));
    for (std::size_t k = 0; k < touched.size(); ++k)
      for (std::size_t i = 0; i < state.u.size(); ++i)
        for (std::size_t d = 0; d < D; ++d)
          cells_[b][k].before[i][d] = state.u[i][d].block(static_cast<int>(b))[touched[k].at];
  }
}

template class TurningPhases<2>;
template class TurningPhases<3>;

}  // namespace wavy::dispersed
