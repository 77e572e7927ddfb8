#include "physics/bubbles_and_drops.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace wavy {
namespace {

using Bodies = DispersedBodies;

constexpr double cap = 8.0 / 3;  // drag coefficient of a spherical cap
constexpr double least_reynolds = 1e-12;

double bounded_reynolds(const Bodies& of) { return std::max(reynolds(of), least_reynolds); }
double carrier_share(const Bodies& of) { return 1 - of.share; }
bool always(const Bodies&) { return true; }

double sphere(double Re) { return 24 / Re * (1 + 0.15 * std::pow(Re, 0.687)); }

double schiller_naumann(const Bodies& of) { return std::max(sphere(bounded_reynolds(of)), 0.44); }

/// Viscosity of the mixture that a body moves in: Ishii & Zuber 1979, eq. for fluid particles.
double mixture_viscosity(const Bodies& of) {
  const double inner = (of.viscosity + 0.4 * of.carrier_viscosity) / (of.viscosity + of.carrier_viscosity);
  return of.carrier_viscosity * std::pow(carrier_share(of), -2.5 * inner);
}

double ishii_zuber(const Bodies& of) {
  const double mixture = mixture_viscosity(of);
  const double Re = std::max(of.carrier_density * of.slip * of.diameter / mixture, least_reynolds);
  const double spherical = 24 / Re * (1 + 0.1 * std::pow(Re, 0.75));
  const double f = std::sqrt(carrier_share(of)) * of.carrier_viscosity / mixture;
  const double crowd = (1 + 17.67 * std::pow(f, 6.0 / 7)) / (18.67 * f);
  const double distorted = 2.0 / 3 * std::sqrt(eotvos(of)) * crowd * crowd;
  const double churn = cap * carrier_share(of) * carrier_share(of);
  return std::max(spherical, std::min(distorted, churn));
}

double grace(const Bodies& of) {
  constexpr double water = 0.0009;  // [Pa s]
  const double Mo = morton(of);
  const double H = 4.0 / 3 * eotvos(of) * std::pow(Mo, -0.149) * std::pow(of.carrier_viscosity / water, -0.14);
  const double J = H > 59.3 ? 3.42 * std::pow(H, 0.441) : 0.94 * std::pow(H, 0.757);
  // Below H = 2 the correlation has no meaning and the sphere rules.
  const double terminal =
      of.carrier_viscosity / (of.carrier_density * of.diameter) * std::pow(Mo, -0.149) * std::max(J - 0.857, 0.0);
  const double apart = std::abs(of.carrier_density - of.density) / of.carrier_density;
  const double distorted =
      H < 2 || terminal == 0 ? 0.0 : 4.0 / 3 * of.gravity * of.diameter * apart / (terminal * terminal);
  return std::max(schiller_naumann(of), std::min(distorted, cap));
}

double tomiyama_distorted(const Bodies& of) {
  const double Eo = eotvos(of);
  return std::isinf(Eo) ? cap : cap * Eo / (Eo + 4);
}
double tomiyama_clean(const Bodies& of) {
  const double Re = bounded_reynolds(of);
  return std::max(std::min(2.0 / 3 * sphere(Re), 48 / Re), tomiyama_distorted(of));
}
double tomiyama_slightly(const Bodies& of) {
  const double Re = bounded_reynolds(of);
  return std::max(std::min(sphere(Re), 72 / Re), tomiyama_distorted(of));
}
double tomiyama_fully(const Bodies& of) { return std::max(sphere(bounded_reynolds(of)), tomiyama_distorted(of)); }

double barnea_mizrahi(const Bodies& of) {
  const double inner = (of.carrier_viscosity + 2.5 * of.viscosity) / (2.5 * (of.carrier_viscosity + of.viscosity));
  const double K = std::exp(5 * of.share * inner / (3 * carrier_share(of)));
  const double ratio = of.viscosity / of.carrier_viscosity;
  const double mixture = of.carrier_viscosity * K * (2.0 / 3 * K + ratio) / (K + ratio);
  const double Re = std::max(of.carrier_density * of.slip * of.diameter / mixture, least_reynolds);
  const double root = 0.63 + 4.8 / std::sqrt(Re);
  return (1 + std::cbrt(of.share)) * root * root;
}

double kumar_hartland(const Bodies& of) {
  return (0.53 + 24 / bounded_reynolds(of)) * (1 + 4.56 * std::pow(of.share, 0.73));
}

bool is_spherical(const Bodies& of) { return eotvos(of) < 1; }
bool below_800(const Bodies& of) { return reynolds(of) < 800 && is_spherical(of); }
bool grace_range(const Bodies& of) { return eotvos(of) < 40 && reynolds(of) > 0.1 && morton(of) < 1e-3; }
bool tomiyama_range(const Bodies& of) {
  return eotvos(of) > 1e-2 && eotvos(of) < 1e3 && morton(of) > 1e-14 && morton(of) < 1e7 && reynolds(of) < 1e5;
}
bool share_below(const Bodies& of, double most) { return of.share <= most; }

double richardson_zaki(const Bodies& of) {
  const double Re = reynolds(of);
  const double n = Re < 0.2 ? 4.65 : Re < 1 ? 4.35 * std::pow(Re, -0.03) : Re < 500 ? 4.45 * std::pow(Re, -0.1) : 2.39;
  return std::pow(carrier_share(of), n - 1);
}

double no_lift(const Bodies&) { return 0; }
double lift_of_sphere(const Bodies&) { return 0.5; }
double tomiyama_lift(const Bodies& of) {
  const double Eo = eotvos_of_width(of);
  const double large = ((0.00105 * Eo - 0.0159) * Eo - 0.0204) * Eo + 0.474;
  if (Eo < 4) return std::min(0.288 * std::tanh(0.121 * reynolds(of)), large);
  return Eo <= 10 ? large : -0.27;
}
bool tomiyama_lift_range(const Bodies& of) {
  const double Mo = std::log10(morton(of));
  return Mo > -5.5 && Mo < -2.8 && eotvos(of) > 1.39 && eotvos(of) < 5.74;
}

double no_wall(const Bodies&, double) { return 0; }
double antal(const Bodies& of, double y) { return std::max(0.0, -0.01 + 0.05 * of.diameter / y) / of.diameter; }
/// Coefficient of the size: Tomiyama 1998, as extended by Hosokawa et al. to small bubbles.
double wall_size(const Bodies& of) {
  const double Eo = eotvos(of);
  return Eo < 1 ? 0.47 : Eo <= 5 ? std::exp(-0.933 * Eo + 0.179) : Eo <= 33 ? 0.00599 * Eo - 0.0187 : 0.179;
}
double tomiyama_wall(const Bodies& of, double y) { return wall_size(of) * 0.5 * of.diameter / (y * y); }
double frank(const Bodies& of, double y) {
  constexpr double damping = 6.8;
  constexpr double cut = 10;
  const double reach = y / (cut * of.diameter);
  return wall_size(of) * std::max(0.0, (1 - reach) / (damping * y * std::pow(reach, 0.7)));
}

double favre(const Bodies& of, double, double eddy_viscosity, double drag) {
  constexpr double schmidt = 0.9;
  return drag * eddy_viscosity / schmidt / carrier_share(of);
}
double lopez_de_bertodano(const Bodies& of, double energy, double, double) {
  constexpr double coefficient = 0.1;
  return coefficient * of.carrier_density * energy;
}

}  // namespace

double reynolds(const Bodies& of) { return of.carrier_density * of.slip * of.diameter / of.carrier_viscosity; }

double eotvos(const Bodies& of) {
  if (of.surface_tension == 0) return std::numeric_limits<double>::infinity();
  return std::abs(of.carrier_density - of.density) * of.gravity * of.diameter * of.diameter / of.surface_tension;
}

double eotvos_of_width(const Bodies& of) {
  const double Eo = eotvos(of);
  return Eo * std::pow(1 + 0.163 * std::pow(Eo, 0.757), 2.0 / 3);
}

double morton(const Bodies& of) {
  if (of.surface_tension == 0) return std::numeric_limits<double>::infinity();
  return of.gravity * std::pow(of.carrier_viscosity, 4) * std::abs(of.carrier_density - of.density) /
         (of.carrier_density * of.carrier_density * std::pow(of.surface_tension, 3));
}

const std::vector<Closure>& drag_laws() {
  static const std::vector<Closure> table{
      {"schiller_naumann", "C = max(24/Re (1 + 0.15 Re^0.687), 0.44)", "Schiller & Naumann 1933",
       "spheres: Re below 800, Eo below 1", schiller_naumann, below_800},
      {"ishii_zuber",
       "C = max(24/Re_m (1 + 0.1 Re_m^0.75), min(2/3 sqrt(Eo) ((1 + 17.67 f^(6/7))/(18.67 f))^2, 8/3 (1-a)^2)), "
       "mu_m = mu_c (1-a)^(-2.5 (mu_d + 0.4 mu_c)/(mu_d + mu_c)), f = sqrt(1-a) mu_c/mu_m",
       "Ishii & Zuber, AIChE J. 25 (1979) 843", "bubbles and drops of all shapes, in swarms, to a churning flow",
       ishii_zuber, always},
      {"grace",
       "C = max(Schiller-Naumann, min(4/3 g d |drho|/(rho_c U^2), 8/3)), U = mu_c/(rho_c d) Mo^-0.149 (J - 0.857), "
       "J = 0.94 H^0.757 (2 < H < 59.3) or 3.42 H^0.441, H = 4/3 Eo Mo^-0.149 (mu_c/0.0009 Pa s)^-0.14",
       "Clift, Grace & Weber, Bubbles, Drops and Particles (1978) ch. 7",
       "one bubble or drop in a liquid that is not very clean: Mo below 1e-3, Eo below 40, Re above 0.1", grace,
       grace_range},
      {"tomiyama_clean", "C = max(min(16/Re (1 + 0.15 Re^0.687), 48/Re), 8/3 Eo/(Eo + 4))",
       "Tomiyama et al., JSME Int. J. B 41 (1998) 472", "bubbles in a clean liquid: Eo from 0.01 to 1000",
       tomiyama_clean, tomiyama_range},
      {"tomiyama_slightly_contaminated", "C = max(min(24/Re (1 + 0.15 Re^0.687), 72/Re), 8/3 Eo/(Eo + 4))",
       "Tomiyama et al., JSME Int. J. B 41 (1998) 472", "bubbles in tap water: Eo from 0.01 to 1000", tomiyama_slightly,
       tomiyama_range},
      {"tomiyama_contaminated", "C = max(24/Re (1 + 0.15 Re^0.687), 8/3 Eo/(Eo + 4))",
       "Tomiyama et al., JSME Int. J. B 41 (1998) 472", "bubbles in a dirty liquid: Eo from 0.01 to 1000",
       tomiyama_fully, tomiyama_range},
      {"barnea_mizrahi",
       "C = (1 + a^(1/3)) (0.63 + 4.8/sqrt(Re_m))^2, mu_m = mu_c K (2/3 K + mu_d/mu_c)/(K + mu_d/mu_c), "
       "K = exp(5/3 a/(1-a) (mu_c + 2.5 mu_d)/(2.5 mu_c + 2.5 mu_d))",
       "Barnea & Mizrahi, Trans. Inst. Chem. Eng. 53 (1975) 61", "drops that settle or cream together, share up to 0.6",
       barnea_mizrahi, [](const Bodies& of) { return share_below(of, 0.6) && eotvos(of) < 5; }},
      {"kumar_hartland", "C = (0.53 + 24/Re) (1 + 4.56 a^0.73)", "Kumar & Hartland, Can. J. Chem. Eng. 63 (1985) 368",
       "drops in swarms, share up to 0.75", kumar_hartland, [](const Bodies& of) { return share_below(of, 0.75); }},
  };
  return table;
}

const std::vector<Closure>& hindrance_laws() {
  static const std::vector<Closure> table{
      {"richardson_zaki",
       "h = (1-a)^(n-1), n = 4.65 (Re < 0.2), 4.35 Re^-0.03 (< 1), 4.45 Re^-0.1 (< 500), 2.39; Re of one body alone",
       "Richardson & Zaki, Trans. Inst. Chem. Eng. 32 (1954) 35",
       "bodies that settle or cream together, share up to 0.6", richardson_zaki,
       [](const Bodies& of) { return share_below(of, 0.6); }},
  };
  return table;
}

const std::vector<Closure>& lift_laws() {
  static const std::vector<Closure> table{
      {"none", "C = 0", "by definition", "flow without shear", no_lift, always},
      {"sphere", "C = 0.5", "Auton, J. Fluid Mech. 183 (1987) 199", "spheres in weak shear, no viscosity",
       lift_of_sphere, is_spherical},
      {"tomiyama",
       "C = min(0.288 tanh(0.121 Re), f) for E < 4, f to E = 10, then -0.27; f = 0.00105 E^3 - 0.0159 E^2 - 0.0204 E + "
       "0.474, E = Eo (1 + 0.163 Eo^0.757)^(2/3)",
       "Tomiyama et al., Chem. Eng. Sci. 57 (2002) 1849",
       "measured for Eo from 1.39 to 5.74 and log10 Mo from -5.5 to -2.8; used far beyond", tomiyama_lift,
       tomiyama_lift_range},
  };
  return table;
}

const std::vector<WallLubrication>& wall_lubrication_laws() {
  static const std::vector<WallLubrication> table{
      {"none", "C = 0", "by definition", "walls far away", no_wall},
      {"antal", "C = max(0, -0.01 + 0.05 d/y)/d", "Antal, Lahey & Flaherty, Int. J. Multiphase Flow 17 (1991) 635",
       "within 5 diameters of the wall", antal},
      {"tomiyama",
       "C = W d/(2 y^2), W = 0.47 (Eo < 1), exp(-0.933 Eo + 0.179) (to 5), 0.00599 Eo - 0.0187 (to 33), 0.179",
       "Tomiyama, Multiphase Sci. Technol. 10 (1998) 369, the near wall alone; W below Eo = 1 as usual since",
       "bubbles in pipes", tomiyama_wall},
      {"frank", "C = W max(0, (1 - y/(10 d))/(6.8 y (y/(10 d))^0.7)), W as tomiyama",
       "Frank et al., Nucl. Eng. Des. 238 (2008) 647", "bubbles, within 10 diameters of any wall", frank},
  };
  return table;
}

const std::vector<TurbulentDispersion>& turbulent_dispersion_laws() {
  static const std::vector<TurbulentDispersion> table{
      {"favre", "D = K nu_t/0.9/(1-a), K the drag per slip and share",
       "Burns et al., 5th Int. Conf. Multiphase Flow (2004), no. 392", favre},
      {"lopez_de_bertodano", "D = 0.1 rho_c k", "Lopez de Bertodano, Nucl. Eng. Des. 179 (1998) 65",
       lopez_de_bertodano},
  };
  return table;
}

double drag_rate(const Drag& drag, Bodies of) {
  constexpr double least_slip = 1e-12;  // [m/s]: laws go with its inverse
  const double slip = of.slip;
  of.slip = std::max(slip, least_slip);
  const auto coefficient = [&] {
    return (drag.law == nullptr ? drag.constant : drag.law->value(of)) *
           std::pow(carrier_share(of), drag.swarm_exponent);
  };
  if (drag.hindrance == nullptr) return 0.75 * coefficient() * of.carrier_density * of.slip / of.diameter;
  // One body alone, which the carrier's whole density lifts, has the slip `slip` / h under the same force.
  double h = 1;
  for (int repeat = 0; repeat < 4; ++repeat) {
    h = drag.hindrance->value(of);
    of.slip = std::max(slip / h, least_slip);
  }
  const double crowd = carrier_share(of) / h;
  of.share = 0;
  return 0.75 * coefficient() * of.carrier_density * of.slip / of.diameter * crowd;
}

double terminal_slip(const Drag& drag, const Bodies& of) {
  const double weight = std::abs(of.carrier_density - of.density) * of.gravity * carrier_share(of);
  if (weight == 0) return 0;
  double low = 1e-12;
  double high = 1e3;  // [m/s]
  Bodies at = of;
  for (int i = 0; i < 200 && high / low > 1 + 1e-15; ++i) {
    at.slip = std::sqrt(low * high);
    (drag_rate(drag, at) * at.slip < weight ? low : high) = at.slip;
  }
  return std::sqrt(low * high);
}

}  // namespace wavy
