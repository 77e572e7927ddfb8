#include "linear/conjugate_gradients.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

using namespace wavy;

namespace {

using Vector = std::vector<double>;

/// A matrix with known eigenvalues, sign times: Q diag(1..n) Q^T with Q = I - 2 v v^T.
struct Dense {
  double sign = 1;
  std::vector<Vector> A;
  Vector x, r, d, q, z;
  double goal = 0;

  Dense(std::size_t n, double sign_of, std::size_t different) : sign(sign_of), A(n, Vector(n)) {
    Vector v(n);
    double square = 0;
    for (std::size_t i = 0; i < n; ++i) square += std::pow(v[i] = std::sin(1.0 + static_cast<double>(i)), 2);
    for (double& c : v) c /= std::sqrt(square);
    const auto Q = [&](std::size_t i, std::size_t k) { return (i == k ? 1.0 : 0.0) - 2 * v[i] * v[k]; };
    for (std::size_t i = 0; i < n; ++i)
      for (std::size_t j = 0; j < n; ++j)
        for (std::size_t k = 0; k < n; ++k)
          A[i][j] += sign * Q(i, k) * (1.0 + static_cast<double>(k % different)) * Q(j, k);
    x.assign(n, 0.0);
    d = q = z = x;
    for (std::size_t i = 0; i < n; ++i) r.push_back(std::cos(3.0 * static_cast<double>(i)));
  }
  static double dot(const Vector& a, const Vector& b) {
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i) sum += a[i] * b[i];
    return sum;
  }
  [[nodiscard]] bool more(int) const {
    return std::ranges::any_of(r, [&](double value) { return std::abs(value) > goal; });
  }
  double precondition() {
    for (std::size_t i = 0; i < r.size(); ++i) z[i] = sign * r[i];
    return dot(r, z);
  }
  void turn(double beta) {
    for (std::size_t i = 0; i < d.size(); ++i) d[i] = z[i] + beta * d[i];
  }
  double apply() {
    for (std::size_t i = 0; i < d.size(); ++i) q[i] = dot(A[i], d);
    return dot(d, q);
  }
  void advance(double alpha) {
    for (std::size_t i = 0; i < x.size(); ++i) {
      x[i] += alpha * d[i];
      r[i] -= alpha * q[i];
    }
  }
  [[nodiscard]] double worst() const {  // of b - A x
    double most = 0;
    for (std::size_t i = 0; i < x.size(); ++i)
      most = std::max(most, std::abs(std::cos(3.0 * static_cast<double>(i)) - dot(A[i], x)));
    return most;
  }
};

}  // namespace

TEST_CASE("as many iterations as there are different eigenvalues solve a system, of either sign") {
  for (const double sign : {1.0, -1.0})
    for (const std::size_t different : {1U, 3U, 7U}) {
      CAPTURE(sign);
      CAPTURE(different);
      Dense system(20, sign, different);
      system.goal = 1e-11;
      CHECK(conjugate_gradients(system, 100) == static_cast<int>(different));
      CHECK(system.worst() < 1e-10);
    }
}

TEST_CASE("iterations end where nothing is left, where they may be no more, and where numbers are none") {
  Dense done(5, 1, 5);
  done.goal = 2;
  CHECK(conjugate_gradients(done, 100) == 0);
  CHECK(done.x == Vector(5, 0.0));
  Dense few(20, 1, 7);
  CHECK(conjugate_gradients(few, 3) == 3);
  Dense wrong_sign(5, 1, 5);
  wrong_sign.sign = -1;
  CHECK(conjugate_gradients(wrong_sign, 100) == 0);
  Dense broken(5, 1, 5);
  broken.r[2] = std::numeric_limits<double>::quiet_NaN();
  CHECK(conjugate_gradients(broken, 100) == 0);
  CHECK(broken.x == Vector(5, 0.0));
}
