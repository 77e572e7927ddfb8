// Quantities with units, as users write them ("1.2 m", "15 L/min", "40 rpm"), turned into SI.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>

namespace wavy {

/// What a number measures. `unit` is the SI unit in which the program computes.
struct Dimension {
  std::string_view name;     ///< "length", as messages call it
  std::string_view unit;     ///< "m"; "1" for pure numbers
  std::string_view example;  ///< "0.8 m", as messages suggest it
};

namespace dimension {
inline constexpr Dimension number{"pure number", "1", "0.5"};
inline constexpr Dimension length{"length", "m", "0.8 m"};
inline constexpr Dimension time{"time", "s", "2 s"};
inline constexpr Dimension speed{"speed", "m/s", "0.5 m/s"};
inline constexpr Dimension acceleration{"acceleration", "m/s2", "9.81 m/s^2"};
inline constexpr Dimension density{"density", "kg/m3", "998 kg/m^3"};
inline constexpr Dimension dynamic_viscosity{"dynamic viscosity", "Pa.s", "1 cP"};
inline constexpr Dimension kinematic_viscosity{"kinematic viscosity", "m2/s", "1 mm^2/s"};
inline constexpr Dimension diffusivity{"diffusivity", "m2/s", "2e-9 m^2/s"};
inline constexpr Dimension concentration{"concentration", "kg/m3", "5 mg/L"};
inline constexpr Dimension temperature{"temperature", "K", "20 degC"};
inline constexpr Dimension pressure{"pressure", "Pa", "1.2 bar"};
inline constexpr Dimension volume{"volume", "m3", "50 L"};
inline constexpr Dimension volume_flow{"volume flow", "m3/s", "3 m^3/h"};
inline constexpr Dimension mass_flow{"mass flow", "kg/s", "2 kg/min"};
inline constexpr Dimension surface_tension{"surface tension", "N/m", "72 mN/m"};
inline constexpr Dimension rotation{"rotation", "rad/s", "40 rev/min"};
inline constexpr Dimension force{"force", "N", "10 N"};
inline constexpr Dimension power{"power", "W", "1 kW"};
inline constexpr Dimension energy{"energy", "J", "5 kJ"};
inline constexpr Dimension mass{"mass", "kg", "5 kg"};
inline constexpr Dimension shear_rate{"shear rate", "1/s", "10 1/s"};
inline constexpr Dimension angle{"angle", "rad", "60 deg"};
inline constexpr Dimension area{"area", "m2", "10 cm^2"};
}  // namespace dimension

/// What went wrong while reading a quantity; the caller knows the place.
struct UnitProblem {
  std::string what;
  std::string remedy;
};

/// Reads "NUMBER UNIT" (or a bare number when the dimension is a pure number, or when it is 0) into SI.
/// On success returns the value; otherwise fills `problem`.
std::optional<double> read_quantity(std::string_view text, const Dimension& wanted, UnitProblem& problem);

/// Powers of m, kg, s, K, A, mol and cd in an SI unit. Angles are pure numbers.
using Powers = std::array<double, 7>;

/// Factor and offset from `unit` to the SI unit with these powers: value_si = factor * value + offset. Empty for what
/// is no unit.
struct UnitScale {
  double factor = 1;
  double offset = 0;
  Powers powers{};
};
std::optional<UnitScale> scale_to_si(std::string_view unit);

Powers powers_of(const Dimension& dimension);

/// "a pressure".
std::string kind_of(const Dimension& dimension);
/// "a pressure", or "a quantity in kg/(m s3)" where these powers have no name.
std::string kind_of(const Powers& powers);
/// The SI unit with these powers: "Pa", or "kg/(m s3)" where they have no name; "1" of a pure number.
std::string si_unit_of(const Powers& powers);

}  // namespace wavy
