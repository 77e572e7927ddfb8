// Drops that nothing holds: how they swing, and what they lose by it.
#include <fmt/format.h>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;

constexpr double gas_density = 1e-3;  // of the gas round a drop of density, radius and surface tension 1

/// The extremes of a swing and the peaks of its kinetic energy, as steps bring them.
class SwingRecord {
 public:
  /// `period`: what is expected.
  explicit SwingRecord(double period) : period_(period) {}

  void add(double time, double deflection, double energy) {
    times_.push_back(time);
    deflections_.push_back(deflection);
    energies_.push_back(energy);
  }
  struct Found {
    double period = 0;
    double damping = 0;    ///< of the swing [1/s]
    double growth = 0;     ///< greatest ratio of a peak of the kinetic energy to the one before
    double remaining = 0;  ///< last peak over the first
  };
  [[nodiscard]] Found found() const {
    const auto extremes = find_extremes();
    Found result;
    result.period = 2 * (extremes.back()[0] - extremes.front()[0]) / static_cast<double>(extremes.size() - 1);
    // A straight line through the logarithms of what lies between one extreme and the next, which no offset changes.
    double n = 0;
    double t = 0;
    double y = 0;
    double tt = 0;
    double ty = 0;
    for (std::size_t k = 1; k < extremes.size(); ++k) {
      const double at = 0.5 * (extremes[k][0] + extremes[k - 1][0]);
      const double value = std::log(std::abs(extremes[k][1] - extremes[k - 1][1]));
      n += 1;
      t += at;
      y += value;
      tt += at * at;
      ty += at * value;
    }
    result.damping = -(n * ty - t * y) / (n * tt - t * t);
    const auto peaks = find_peaks();
    for (std::size_t k = 1; k < peaks.size(); ++k) result.growth = std::max(result.growth, peaks[k] / peaks[k - 1]);
    result.remaining = peaks.back() / peaks.front();
    return result;
  }

 private:
  /// Times and values, each by a parabola through three steps.
  [[nodiscard]] std::vector<std::array<double, 2>> find_extremes() const {
    std::vector<std::array<double, 2>> extremes{{times_[0], deflections_[0]}};
    for (std::size_t k = 1; k + 1 < times_.size(); ++k) {
      const double before = deflections_[k - 1] - deflections_[k];
      const double after = deflections_[k + 1] - deflections_[k];
      if (before * after <= 0) continue;
      const double a = times_[k - 1] - times_[k];
      const double b = times_[k + 1] - times_[k];
      const double first = (before * b * b - after * a * a) / (a * b * b - b * a * a);
      const double second = (before - first * a) / (a * a);
      const double place = -first / (2 * second);
      constexpr double apart = 0.3;  // of a period: nothing that only trembles
      if (times_[k] + place - extremes.back()[0] > apart * period_)
        extremes.push_back({times_[k] + place, deflections_[k] + place * (first + place * second)});
    }
    return extremes;
  }
  [[nodiscard]] std::vector<double> find_peaks() const {
    std::vector<double> peaks;
    constexpr double near = 0.2;  // of a period
    for (std::size_t k = 0; k < times_.size(); ++k) {
      bool highest = times_[k] > near * period_ && times_[k] < times_.back() - near * period_;
      for (std::size_t j = k; highest && j-- > 0 && times_[k] - times_[j] < near * period_;)
        highest = energies_[j] < energies_[k];
      for (std::size_t j = k; highest && ++j < times_.size() && times_[j] - times_[k] < near * period_;)
        highest = energies_[j] <= energies_[k];
      if (highest) peaks.push_back(energies_[k]);
    }
    return peaks;
  }

  double period_;
  std::vector<double> times_, deflections_, energies_;
};

/// Deflection of the surface by the angle from the axis of its mode.
double mode_of_plane(int n, double cosine) {
  return n == 2 ? 2 * cosine * cosine - 1 : cosine * (4 * cosine * cosine - 3);
}
double mode_of_ball(int n, double cosine) {
  return n == 2 ? 1.5 * cosine * cosine - 0.5 : 0.5 * cosine * (5 * cosine * cosine - 3);
}

template <int D>
struct Drop {
  int mode = 2;
  double swing = 0.02;  ///< share of the radius
  double mu = 1e-3;     ///< Ohnesorge number
  bool round = false;   ///< in 2-D: about the axis x = 0
  double across = 32;   ///< cells

  [[nodiscard]] bool is_ball() const { return D == 3 || round; }
  [[nodiscard]] double deflection(double cosine) const {
    return is_ball() ? mode_of_ball(mode, cosine) : mode_of_plane(mode, cosine);
  }
  /// Lamb, Hydrodynamics (1932), sec. 275 and 355, with the gas; in the plane likewise.
  [[nodiscard]] double period() const {
    const double n = mode;
    const double square =
        is_ball() ? n * (n - 1) * (n + 2) / (1 + gas_density * n / (n + 1)) : n * (n * n - 1) / (1 + gas_density);
    return 2 * M_PI / std::sqrt(square);
  }
  [[nodiscard]] double damping() const {
    const double n = mode;
    return mu * (is_ball() ? (n - 1) * (2 * n + 1) : 2 * n * (n - 1));
  }
};

/// Lets a drop swing for some periods. The last axis is that of its mode; where the mode is even, there is a mirror
/// across it, as across all others.
template <int D>
SwingRecord::Found let_swing(const Drop<D>& drop, double periods) {
  const double h = 2.0 / drop.across;
  const double half = D == 3 ? 1.5 : 2.0;
  Vec<D> lower{};
  Vec<D> upper;
  upper.fill(half);
  if (drop.mode % 2 != 0) lower[D - 1] = -half;
  const Grid<D> grid = grid_over<D>(lower, upper, h);
  auto settings = fluids<D>({1, drop.mu}, {gas_density, gas_density * drop.mu}, Wall::slip, Vec<D>{});
  settings.surface_tension = 1;
  for (auto& axis : settings.walls) axis[0] = Wall::mirror;
  OpenSpace<D> space;
  if constexpr (D == 2)
    if (drop.round) space = OpenSpace<2>(grid, nullptr, {}, {}, true);
  sharp::Model<D> model(grid, settings, std::move(space));
  auto& F = model.state().F;
  const double reach = 2 * h + std::abs(drop.swing);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const Vec<D> middle = cell_middle<D>(grid, b, o);
    const double away = length<D>(middle);
    if (std::abs(away - 1) > reach) {
      F.block(b)[o] = away < 1 ? 1 : 0;
      return;
    }
    constexpr int samples = D == 3 ? 12 : 32;
    double all = 0;
    double liquid = 0;
    for (int n = 0; n < std::pow(samples, D); ++n) {
      Vec<D> place;
      for (int d = 0, rest = n; d < D; ++d, rest /= samples)
        place[d] = middle[d] + ((rest % samples + 0.5) / samples - 0.5) * h;
      const double r = length<D>(place);
      const double weight = drop.round ? place[0] : 1;
      const double inside = 1 + drop.swing * drop.deflection(place[D - 1] / r) - r;
      all += weight;
      liquid += weight * std::clamp(inside * samples / h + 0.5, 0.0, 1.0);
    }
    F.block(b)[o] = liquid / all;
  });
  model.start();
  SwingRecord record(drop.period());
  const auto note = [&] {
    double moment = 0;
    double energy = 0;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
      const Vec<D> middle = cell_middle<D>(grid, b, o);
      const double r = length<D>(middle);
      const double weight = drop.round ? middle[0] : 1;
      const double share = F.block(b)[o];
      moment += weight * share * std::pow(r, drop.mode) * drop.deflection(middle[D - 1] / r);
      double square = 0;
      for (const auto& u : model.state().u) square += u.block(b)[o] * u.block(b)[o];
      energy += weight * (share + gas_density * (1 - share)) * square;
    });
    record.add(model.state().time, moment, energy);
  };
  note();
  while (model.state().time < periods * drop.period()) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
    note();
  }
  return record.found();
}

template <int D>
void judge(const std::string& name, const Drop<D>& drop, const SwingRecord::Found& found, double bar_of_period,
           double bar_of_damping, ValidationResult& result) {
  if (bar_of_period > 0)
    result.findings.push_back(close(name + ": period", found.period, drop.period(), bar_of_period));
  if (bar_of_damping > 0)
    result.findings.push_back(close(name + ": damping", found.damping, drop.damping(), bar_of_damping));
  result.findings.push_back(
      small(name + ": growth of a peak of the kinetic energy", std::max(found.growth - 1, 0.0), 1e-6));
}

ValidationResult free_drops(bool quick) {
  ValidationResult result;
  for (const bool round : {false, true})
    for (const int mode : quick ? std::vector<int>{2} : std::vector<int>{2, 3})
      for (const int across : quick ? std::vector<int>{32} : std::vector<int>{32, 64}) {
        const Drop<2> drop{.mode = mode, .round = round, .across = static_cast<double>(across)};
        const double bar_of_damping = round ? (across == 32 ? 0.4 : 0.15) : (across == 32 ? 0.6 : 0.25);
        judge(fmt::format("{}, mode {}, {} cells across", round ? "round an axis" : "plane", mode, across), drop,
              let_swing(drop, quick ? 3 : 4), round ? 0.01 : 0.02, bar_of_damping, result);
      }
  for (const int across : quick ? std::vector<int>{} : std::vector<int>{16, 24}) {
    const Drop<3> drop{.across = static_cast<double>(across)};
    judge(fmt::format("in space, mode 2, {} cells across", across), drop, let_swing(drop, 2.5), 0, 0, result);
  }
  return result;
}

}  // namespace

std::vector<ValidationCase> drop_cases() {
  return {{"free_drops", "drops swing by 2 %, Ohnesorge number 0.001", "Lamb, Hydrodynamics (1932), sec. 275 and 355",
           true, free_drops}};
}

}  // namespace wavy
