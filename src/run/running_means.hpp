// Means over time of every quantity, kept beside the flow.
#pragma once

#include "base/archive.hpp"
#include "run/vessel_model.hpp"

namespace wavy {

/// Mean, and root mean square of what swings about it, of every quantity in every cell from a time on: in
/// State::beside under the names of mean_quantities(). A step counts by its length, with the values at its end (West,
/// Commun. ACM 22 (1979) 532).
template <int D>
class RunningMeans {
 public:
  explicit RunningMeans(double from) : from_(from) {}

  /// After a step of this length; does nothing up to `from`.
  void add(const VesselModel<D>& model, double dt);
  /// How long the means go back [s].
  [[nodiscard]] double span() const { return span_; }

  void archive(Archive& a, const VesselModel<D>& model);

 private:
  double from_;
  double span_ = 0;
};

}  // namespace wavy
