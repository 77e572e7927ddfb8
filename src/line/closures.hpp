// What the two phases in a pipe do to its wall and to each other: friction, layers, drift, and which flow there is.
#pragma once

#include <string>

namespace wavy::line {

inline constexpr double gravity = 9.80665;  // [m/s2]

/// What a cross-section of pipe is like.
struct Bore {
  double diameter = 0.1;  ///< [m]
  double roughness = 0;   ///< [m]
  double sine = 0;        ///< of the angle to the horizontal, positive where it rises along the line
  [[nodiscard]] double cosine() const;
  [[nodiscard]] double area() const;  ///< [m2]
};

/// The phases at one place.
struct Media {
  double liquid_density = 1000, gas_density = 1.2;         ///< [kg/m3]
  double liquid_viscosity = 1e-3, gas_viscosity = 1.8e-5;  ///< [Pa.s]
  double surface_tension = 0.07;                           ///< [N/m]
};

enum class Regime { stratified, wavy, annular, slug, bubble, single };
std::string name_of(Regime regime);

/// Darcy friction factor: 64/Re below 2000, Colebrook (1939) above 3000, linear between. Re = 0 gives 64 (per Re 1).
double darcy_factor(double reynolds, double relative_roughness);

/// A layer of liquid on the bottom of a round pipe.
struct Layer {
  double depth = 0;      ///< over the diameter
  double wet = 0;        ///< wall under the liquid over the diameter
  double dry = 0;        ///< wall beside the gas
  double interface = 0;  ///< width of the surface
};
/// By the liquid's share of the cross-section; exact to 1e-9.
Layer layer_of(double holdup);
/// The liquid's share below a depth (over the diameter).
double holdup_of_depth(double depth);

/// Friction per volume of pipe as factors of velocities: force on the wall by the liquid wall_liquid u_l, by the gas
/// wall_gas u_g, between them between (u_g - u_l) [kg/(m3 s)].
struct Friction {
  double wall_liquid = 0, wall_gas = 0, between = 0;
};
/// Layers with a smooth or wavy surface: wall shear with hydraulic diameters 4 A_l / S_l and 4 A_g / (S_g + S_i), the
/// surface as the gas's wall (Taitel & Dukler, AIChE J. 22 (1976) 47), rougher where the gas raises waves (Andritsos &
/// Hanratty, Int. J. Multiphase Flow 13 (1987) 583) if `waves`.
Friction layered_friction(const Bore& bore, const Media& media, double holdup, double u_liquid, double u_gas,
                          bool waves);
/// A film round the wall with gas in its middle; its surface as Wallis (One-Dimensional Two-Phase Flow, 1969, eq.
/// 11.93) has it.
Friction annular_friction(const Bore& bore, const Media& media, double holdup, double u_liquid, double u_gas);
/// Wall friction of the mixture, as a factor of its volume flux [kg/(m3 s)].
double mixed_friction(const Bore& bore, const Media& media, double holdup, double flux);

/// Gas moves at  distribution x volume flux + velocity.
struct Drift {
  double distribution = 1.2;
  double velocity = 0;  ///< along the line [m/s]
};
/// Long bubbles (Bendiksen, Int. J. Multiphase Flow 10 (1984) 467): below a Froude number of 3.5 C0 = 1.05 + 0.15
/// sin^2, drift 0.54 sqrt(g D) cos + 0.35 sqrt(g D) sin; above it 1.2 and the upright part alone. sqrt(g D) counts with
/// the difference of densities.
Drift long_bubble_drift(const Bore& bore, const Media& media, double flux);
/// Small bubbles: 1.53 (sigma g [rho] / rho_l^2)^(1/4) against gravity (Harmathy, AIChE J. 6 (1960) 281), C0 = 1.2, and
/// 1 where nearly all is gas.
Drift bubble_drift(const Bore& bore, const Media& media);

/// Speed of the gas over the liquid at which a layer's surface grows waves up to the top of the pipe: (1 - h/D)
/// sqrt([rho] g cos A_g / (rho_g S_i)) (Taitel & Dukler 1976, eq. 25). [m/s]
double bridging_speed(const Bore& bore, const Media& media, double holdup);

/// Steady flow of given superficial velocities through a uniform pipe.
struct Equilibrium {
  double holdup = 1;  ///< of the liquid
  Regime regime = Regime::single;
  double pressure_gradient = 0;  ///< along the line, friction and weight [Pa/m]
  double layer_holdup = 0;       ///< what layers would have, stable or not
};
/// Layers where their momentum balance is stable (Taitel & Dukler), else bubbles where turbulence breaks the long ones
/// (Barnea, Int. J. Multiphase Flow 13 (1987) 1), an annular film where the layer is thin or the gas lifts drops
/// (Taitel et al., AIChE J. 26 (1980) 345), else slugs by drift. For flow along the line (liquid_flux >= 0). `near`: a
/// layer_holdup found for nearly the same flow, beside which it is looked for first; 0: none.
Equilibrium equilibrium(const Bore& bore, const Media& media, double liquid_flux, double gas_flux, double near = 0);

/// Holdup at which layers balance: the same pressure gradient in both (Taitel & Dukler 1976, eq. 7). The least one
/// where there are several; `near` as above.
double layer_balance(const Bore& bore, const Media& media, double liquid_flux, double gas_flux, bool waves = true,
                     double near = 0);

}  // namespace wavy::line
