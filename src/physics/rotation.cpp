// What rotation and curved flow do to turbulence: they still it where angular momentum grows outwards, and stir it up
// where it falls.
#include <algorithm>
#include <cmath>

#include "geometry/vector.hpp"
#include "physics/turbulence.hpp"

namespace wavy {
namespace {

/// At which the velocity turns along its path in a flow as it stands, u x (u . grad u) / u^2 [rad/s].
Vec<3> turning_rate(const VelocityGradient& g, const Vec<3>& u) {
  Vec<3> along{};
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) along[i] += u[j] * g[i][j];
  const double square = dot<3>(u, u);
  if (square == 0) return {};
  Vec<3> rate = cross(u, along);
  for (double& component : rate) component /= square;
  return rate;
}

}  // namespace

double rotation_factor(const VelocityGradient& g, const Vec<3>& u, double omega) {
  constexpr double c_r1 = 1, c_r2 = 2, c_r3 = 1;
  constexpr double most = 1.25;
  VelocityGradient S, W;  // rates of strain and of rotation
  double rotation_square = 0;
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) {
      S[i][j] = 0.5 * (g[i][j] + g[j][i]);
      W[i][j] = 0.5 * (g[i][j] - g[j][i]);
      rotation_square += 2 * W[i][j] * W[i][j];
    }
  const double strain = strain_rate(g);
  const double rotation = std::sqrt(rotation_square);
  if (strain + rotation == 0) return 1;
  // The axes of strain turn as the velocity does: DS_ij/Dt = T_ik S_kj - S_ik T_kj.
  const Vec<3> rate = turning_rate(g, u);
  const VelocityGradient T{{{0, -rate[2], rate[1]}, {rate[2], 0, -rate[0]}, {-rate[1], rate[0], 0}}};
  double turned = 0;  // W_ik S_jk DS_ij/Dt
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) {
      double both = 0;
      double change = 0;
      for (std::size_t k = 0; k < 3; ++k) {
        both += W[i][k] * S[j][k];
        change += T[i][k] * S[k][j] - S[i][k] * T[k][j];
      }
      turned += both * change;
    }
  const double time_rate = std::max(strain, std::sqrt(c_mu) * omega);
  const double curved = turned == 0 ? 0.0 : 2 * turned / (rotation * std::pow(time_rate, 3));
  const double even = 2 * strain / (strain + rotation);  // 2 r*/(1 + r*), r* = S/W
  return std::clamp((1 + c_r1) * even * (1 - c_r3 * std::atan(c_r2 * curved)) - c_r1, 0.0, most);
}

}  // namespace wavy
