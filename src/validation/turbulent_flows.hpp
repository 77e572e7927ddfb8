// Turbulent flows with known answers: what their validation cases and their tests share.
#pragma once

#include "physics/turbulence.hpp"

namespace wavy::turbulent {

/// Flow between walls, or in a pipe, driven by a body force of its own friction velocity, 1 m/s, over half its width,
/// or its radius, of 1 m.
struct Developed {
  double friction = 0;  ///< tau_w / (rho U^2/2), U the mean speed; tau_w that which the walls take in the end
  double reynolds = 0;  ///< of the mean speed and the whole width
  double y_plus = 0;    ///< of the first cells' middles, or half a cell
};

/// `re_tau`: of the friction velocity and half the width. Between plane walls along the grid.
Developed channel(const TurbulenceLaw& law, double re_tau, int cells_across, double until = 4);
/// Between walls that cut the cells at a slope of 1 to 2.
Developed slanted_channel(const TurbulenceLaw& law, double re_tau, int cells_across, double until = 4);
/// In space, in a pipe along the first axis; `roughness` over its radius.
Developed pipe(const TurbulenceLaw& law, double re_tau, int cells_across, double roughness, double until = 4);

/// Friction of channels: Dean, J. Fluids Eng. 100 (1978) 215.
double dean_friction(double reynolds);
/// Friction of channels whose whole profile is the law of the wall.
double law_friction(double reynolds);
/// Friction (that of Fanning) of pipes, with sand of `roughness` over the diameter: Colebrook, J. Inst. Civ. Eng. 11
/// (1939) 133.
double colebrook_friction(double reynolds, double roughness);

/// Energy of turbulence that decays where nothing makes it, over that of the start, after `turns` of its first time
/// k/epsilon.
double decay(const TurbulenceLaw& law, double turns);

/// Where the flow behind a step that a wall takes back meets the wall again, in heights of the step: Reynolds number
/// 36 000 of the step, channel 8 of it high before and 9 behind.
double reattachment(const TurbulenceLaw& law, int cells_per_step);

/// Half-width of a free jet per distance, between 30 and 50 openings (plane) or 20 and 30 diameters (round) behind it.
double spreading(const TurbulenceLaw& law, bool round);

}  // namespace wavy::turbulent
