// Transport of the fractions of all phases at once, by the velocities on the faces.
#pragma once

#include <vector>

#include "dispersed/layers.hpp"
#include "dispersed/model.hpp"

namespace wavy::dispersed {

/// (E4), (E5): moves the fractions by the total flow and by the slips of all pairs; bounded, sum kept.
///
/// The flux of a phase is  phi a(upwind) + sum over others of a(donor) a_other(receiver) (U - U_other):  what one phase
/// gains by slip another loses at the same face, so that the fluxes add up to phi whatever the fractions are. Limited
/// second-order fluxes are corrected (Zalesak, J. Comput. Phys. 31 (1979) 335) with one factor per face for all phases,
/// which keeps the sum.
///
/// Beside the surfaces of layers phases pass each other no more than one faces the other across the face: between cells
/// through which the same level surface goes nothing does.
template <int D>
class FractionTransport {
 public:
  FractionTransport(const Grid<D>& grid, const OpenSpace<D>& space, const Sight<D>& sight, Boundary<D>& boundary,
                    std::size_t phases);

  /// Reads a(2), face_u, phase_u; writes a(0) and the fluxes. `layers`: of these fractions.
  void operator()(const Grid<D>& grid, const Settings<D>& settings, const Layers<D>& layers, double dt,
                  State<D>& state);
  /// Volume of each phase that has passed the low faces of the cells, over the volume of a whole cell.
  [[nodiscard]] const std::vector<Faces<D>>& passed() const { return passed_; }

 private:
  template <int N>
  void find_fluxes(const Grid<D>& grid, const Layers<D>& layers, int block, double dt, const State<D>& state);
  void pass_boundary(const Grid<D>& grid, int block, const Settings<D>& settings, double dt, const State<D>& state);
  void add_sources(const Grid<D>& grid, double dt);
  void take_up(const Grid<D>& grid, int block, std::vector<Cells<D>>& after) const;
  void find_limits(const Grid<D>& grid, int block);
  void correct(const Grid<D>& grid, int block, State<D>& state);
  void repair_groups(const Grid<D>& grid, State<D>& state) const;
  void record(const Grid<D>& grid);

  const OpenSpace<D>& space_;
  const Sight<D>& sight_;
  Boundary<D>& boundary_;
  std::vector<Faces<D>> passed_;
  std::vector<Faces<D>> correction_;
  std::vector<Cells<D>> before_, low_;           // fractions before, and after the low-order fluxes
  std::vector<Cells<D>> most_gain_, most_loss_;  // share of the corrections that a cell can take
};

}  // namespace wavy::dispersed
