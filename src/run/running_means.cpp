#include "run/running_means.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "run/quantities.hpp"

namespace wavy {
namespace {

/// The fields of a quantity's means, made where there are none yet.
template <int D>
std::vector<Cells<D>>& fields_of(const VesselModel<D>& model, const std::string& name, int components) {
  auto& fields = model.beside()[name];
  while (std::ssize(fields) < components) fields.emplace_back(model.grid());
  return fields;
}

/// Components that a quantity has in so many dimensions.
int components_of(const Quantity& quantity, int dimensions) { return std::min(quantity.components, dimensions); }

}  // namespace

template <int D>
void RunningMeans<D>::add(const VesselModel<D>& model, double dt) {
  const double weight = std::min(dt, model.time() - from_);
  if (!(weight > 0)) return;
  span_ += weight;
  const double share = weight / span_;
  const Grid<D>& grid = model.grid();
  for (const auto* one : quantities_of(model)) {
    const auto& quantity = *one;
    const int components = components_of(quantity, D);
    auto& means = fields_of(model, mean_name(quantity), components);
    auto& swings = fields_of(model, rms_name(quantity), components);
    for (int c = 0; c < components; ++c) {
      const auto value = values_of<D>({&quantity, c}, model);
      const auto k = static_cast<std::size_t>(c);
      for_blocks(grid, [&](int b) {
        double* mean = means[k].block(b);
        double* rms = swings[k].block(b);
        // Also where nothing is computed in this step: gas that is left out now may have been liquid before.
        for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            const double off = value(b, at) - mean[at];
            mean[at] += share * off;
            rms[at] = std::sqrt((1 - share) * (rms[at] * rms[at] + share * off * off));
          }
        });
      });
    }
  }
}

template <int D>
void RunningMeans<D>::archive(Archive& a, const VesselModel<D>& model) {
  a("means_span", span_);
  if (span_ == 0) return;
  for (const auto* quantity : quantities_of(model))
    for (const auto& name : {mean_name(*quantity), rms_name(*quantity)}) {
      auto& fields = fields_of(model, name, components_of(*quantity, D));
      for (std::size_t c = 0; c < fields.size(); ++c) wavy::archive<D>(a, fmt::format("{}{}", name, c), fields[c]);
    }
}

template class RunningMeans<2>;
template class RunningMeans<3>;

}  // namespace wavy
