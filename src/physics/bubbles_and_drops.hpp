// What acts between a carrier and the bubbles or drops dispersed in it: closures of the Eulerian model, each a function
// of numbers at one place, and the tables from which they are named, explained and checked.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace wavy {

/// Bubbles or drops of one size in their carrier, at one place.
struct DispersedBodies {
  double carrier_density = 0;    ///< [kg/m3]
  double carrier_viscosity = 0;  ///< [Pa s]
  double density = 0;            ///< of the bodies [kg/m3]
  double viscosity = 0;          ///< of the bodies [Pa s]
  double surface_tension = 0;    ///< [N/m]
  double diameter = 0;           ///< of a sphere of their volume [m]
  double gravity = 9.81;         ///< [m/s2]
  double slip = 0;               ///< speed relative to the carrier [m/s]
  double share = 0;              ///< of the volume that all bodies take together
};

/// Reynolds number of the slip, rho_c slip d / mu_c.
double reynolds(const DispersedBodies& of);
/// Eotvos number |rho_c - rho_d| g d^2 / sigma; infinite without surface tension.
double eotvos(const DispersedBodies& of);
/// Eotvos number of the longest axis, which is longer than d by Wellek, Agrawal & Skelland, AIChE J. 12 (1966) 854.
double eotvos_of_width(const DispersedBodies& of);
/// Morton number g mu_c^4 |rho_c - rho_d| / (rho_c^2 sigma^3).
double morton(const DispersedBodies& of);

/// Something that can be chosen between a carrier and its bodies.
struct Closure {
  std::string_view name;
  std::string_view equation;
  std::string_view source;
  std::string_view range;  ///< in words
  double (*value)(const DispersedBodies&) = nullptr;
  bool (*in_range)(const DispersedBodies&) = nullptr;
};

/// Drag coefficient C: force per volume of the mixture  3/4 C rho_c slip^2 share / d  against the slip.
const std::vector<Closure>& drag_laws();
/// How much the bodies around one slow it down: its terminal slip among them over that of one alone in the carrier.
const std::vector<Closure>& hindrance_laws();
/// Lift coefficient C: force per volume  -C rho_c share (u_d - u_c) x curl u_c.
const std::vector<Closure>& lift_laws();
/// Wall lubrication coefficient C at a distance y from the wall: force per volume  C rho_c share slip^2, off the wall
/// [1/m].
struct WallLubrication {
  std::string_view name;
  std::string_view equation;
  std::string_view source;
  std::string_view range;
  double (*value)(const DispersedBodies&, double y) = nullptr;
};
const std::vector<WallLubrication>& wall_lubrication_laws();
/// Turbulent dispersion coefficient D: force per volume  -D grad share  upon the bodies. It needs what turbulence says.
struct TurbulentDispersion {
  std::string_view name;
  std::string_view equation;
  std::string_view source;
  /// `energy` k [m2/s2], `eddy_viscosity` of the carrier [m2/s], `drag` per volume and slip [kg/(m3 s)].
  double (*value)(const DispersedBodies&, double energy, double eddy_viscosity, double drag) = nullptr;
};
const std::vector<TurbulentDispersion>& turbulent_dispersion_laws();

/// The closure of that name in one of the tables; null where there is none.
template <class Laws>
auto* find_law(const Laws& laws, std::string_view name) {
  for (const auto& law : laws)
    if (law.name == name) return &law;
  return static_cast<decltype(&laws.front())>(nullptr);
}

/// What makes the drag between a carrier and its bodies.
struct Drag {
  const Closure* law = nullptr;        ///< null: a constant coefficient
  double constant = 0.44;              ///< which is this
  const Closure* hindrance = nullptr;  ///< null: by the law alone
  double swarm_exponent = 0;           ///< n: the coefficient is multiplied by (1 - share)^n
};

/// Drag per volume, slip and share: the force per volume against the slip is this times share times slip [kg/(m3 s)].
double drag_rate(const Drag& drag, DispersedBodies of);
/// Slip at which drag carries the weight less buoyancy in the mixture, |rho_c - rho_d| g (1 - share) [m/s].
double terminal_slip(const Drag& drag, const DispersedBodies& of);

}  // namespace wavy
