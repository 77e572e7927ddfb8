// Viscosity that depends on the shear rate.
#pragma once

#include <functional>
#include <utility>
#include <vector>

namespace wavy {

/// Apparent viscosity [Pa s] as a function of the shear rate sqrt(2 S:S) [1/s], S the symmetric velocity gradient.
class Rheology {
 public:
  /// The same at every rate.
  Rheology() = default;

  /// mu (rate / reference)^(n - 1), between the two limits (Ostwald 1925).
  static Rheology power_law(double mu, double reference, double n, double least, double greatest);
  /// high + (low - high) (1 + (time rate)^2)^((n - 1)/2): Carreau, Trans. Soc. Rheol. 16 (1972) 99.
  static Rheology carreau(double low, double high, double time, double n);
  /// high + (low - high) / (1 + (time rate)^(1 - n)): Cross, J. Colloid Sci. 20 (1965) 417.
  static Rheology cross(double low, double high, double time, double n);
  /// mu (rate / reference)^(n - 1) + stress / rate, the yield stress made regular by 1 - exp(-rate low / stress), so
  /// that the viscosity stays near `low` at rest: Herschel & Bulkley (1926), Papanastasiou, J. Rheol. 31 (1987) 385. n
  /// = 1 is Bingham's.
  static Rheology herschel_bulkley(double stress, double mu, double reference, double n, double low);
  /// Any law, tabulated over rates of 1e-6 to 1e8 1/s and interpolated in log-log. Values must be positive.
  static Rheology tabulated(const std::function<double(double)>& law);

  [[nodiscard]] bool constant() const { return !law_; }
  double operator()(double rate) const { return law_(rate); }

 private:
  explicit Rheology(std::function<double(double)> law) : law_(std::move(law)) {}
  std::function<double(double)> law_;
};

/// Viscosity at a temperature [K] from measured points (temperature [K], rising; viscosity [Pa s]), at least two:
/// ln mu is linear in 1/T between them and beyond (Andrade 1930).
double viscosity_between(const std::vector<std::pair<double, double>>& points, double temperature);

}  // namespace wavy
