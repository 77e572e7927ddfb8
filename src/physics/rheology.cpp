#include "physics/rheology.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace wavy {

Rheology Rheology::power_law(double mu, double reference, double n, double least, double greatest) {
  return Rheology([=](double rate) {
    if (rate <= 0) return n < 1 ? greatest : n > 1 ? least : std::clamp(mu, least, greatest);
    return std::clamp(mu * std::pow(rate / reference, n - 1), least, greatest);
  });
}

Rheology Rheology::carreau(double low, double high, double time, double n) {
  return Rheology([=](double rate) {
    const double x = time * rate;
    return high + (low - high) * std::pow(1 + x * x, 0.5 * (n - 1));
  });
}

Rheology Rheology::cross(double low, double high, double time, double n) {
  return Rheology([=](double rate) { return high + (low - high) / (1 + std::pow(time * rate, 1 - n)); });
}

Rheology Rheology::herschel_bulkley(double stress, double mu, double reference, double n, double low) {
  return Rheology([=](double rate) {
    const double x = rate * low / stress;
    const double yield = x < 1e-8 ? low : low * -std::expm1(-x) / x;
    const double flow = n == 1 ? mu : rate > 0 ? mu * std::pow(rate / reference, n - 1) : n < 1 ? low : 0.0;
    return yield + std::min(flow, low);
  });
}

Rheology Rheology::tabulated(const std::function<double(double)>& law) {
  constexpr double first = -6;  // log10 of the rates
  constexpr double last = 8;
  constexpr int per_decade = 50;
  std::vector<double> logs;
  for (int i = 0; i <= (last - first) * per_decade; ++i)
    logs.push_back(std::log(law(std::pow(10.0, first + static_cast<double>(i) / per_decade))));
  return Rheology([logs = std::move(logs)](double rate) {
    const double place = (std::log10(std::max(rate, 1e-300)) - first) * per_decade;
    const double inside = std::clamp(place, 0.0, static_cast<double>(logs.size()) - 1.000001);
    const auto i = static_cast<std::size_t>(inside);
    const double share = inside - static_cast<double>(i);
    return std::exp((1 - share) * logs[i] + share * logs[i + 1]);
  });
}

double viscosity_between(const std::vector<std::pair<double, double>>& points, double temperature) {
  std::size_t i = 1;
  while (i + 1 < points.size() && temperature > points[i].first) ++i;
  const auto [T0, mu0] = points[i - 1];
  const auto [T1, mu1] = points[i];
  const double slope = std::log(mu1 / mu0) / (1 / T1 - 1 / T0);
  return mu1 * std::exp(slope * (1 / temperature - 1 / T1));
}

}  // namespace wavy
