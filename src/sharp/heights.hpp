// Height functions: where the interface is and how it is curved, from sums of fractions along columns of cells.
#pragma once

#include <array>
#include <cstddef>
#include <optional>

#include "geometry/vector.hpp"
#include "mesh/grid.hpp"

namespace wavy::sharp {

/// Direction out of the liquid, in cell units, good enough to choose an axis by: weighted differences of the 3^D cells.
template <int D>
Vec<D> direction_out(const double* F, const std::array<std::ptrdiff_t, D>& step);

/// Axes from the steepest component of a normal down; the normal in cell units, steepness in metres.
template <int D>
std::array<int, D> axes_by_steepness(const Vec<D>& normal, const Vec<D>& spacing);

/// A point on the interface of the cell at F[0], in the cell's own coordinates (0 to 1 inside): from the column along
/// the axis nearest to the normal, four cells each way, else from the plane. F must have four layers round the cell.
template <int D>
Vec<D> interface_point(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing);

/// Along which axes columns are taken: all that are steep enough, or the steepest that has clear ones.
enum class Columns { all, steepest };

/// Curvature there, div of the normal that points out of the liquid [1/m] (2/R for a drop in 3-D), from the heights of
/// the 3^(D-1) columns round the cell, as a mean over axes; nothing where no axis has clear
/// columns within `reach` <= pad cells. Second order (Cummins, Francois & Kothe, Comput. Struct. 83 (2005) 425), and
/// better on round interfaces: in 2-D the circle with these three heights, exact on circles; in 3-D the differences are
/// freed of the errors they have on spheres and on cylinders along an axis, fourth order there.
template <int D>
std::optional<double> height_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step,
                                       const Vec<D>& spacing, Columns columns = Columns::all, int reach = pad);

/// The same from a parabola through the planes of the 3^D cells around, for interfaces that the columns cannot resolve
/// (Popinet, J. Comput. Phys. 228 (2009) 5838, sec. 5.2). At most 2 (D - 1) over the cell size; 0 for specks.
template <int D>
double fitted_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing);

/// The whole curvature of an interface round an axis of revolution (axis 0 points away from it), from shares of rings,
/// all round the cell as many as height_curvature has; nothing where no axis has clear columns. `radius`: of the middle
/// of the cell at F[0], in cells.
std::optional<double> ring_curvature(const double* F, const std::array<std::ptrdiff_t, 2>& step, const Vec<2>& spacing,
                                     double radius);

/// The part of the curvature that an interface round an axis of revolution has across the section: n_r / r [1/m].
/// `radius`: of the middle of the cell at F[0], in cells.
template <int D>
double curvature_round_axis(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing,
                            double radius);

}  // namespace wavy::sharp
