#include "run/laying.hpp"

#include <algorithm>

#include "geometry/clip.hpp"
#include "mesh/cover.hpp"

namespace wavy {
namespace {

/// How many shapes cover a part only.
long partly(const std::vector<double>& covered) {
  return std::ranges::count_if(covered, [](double share) { return share > 0 && share < 1; });
}

/// Where the flat edges of a shape across an axis lie.
template <int D>
std::vector<double> edges_across(const Shape<D>& shape, int axis) {
  if (const auto* level = std::get_if<BelowLevel<D>>(&shape))
    return axis == D - 1 ? std::vector<double>{level->height} : std::vector<double>{};
  if (const auto* box = std::get_if<AlignedBox<D>>(&shape)) return {box->lower[axis], box->upper[axis]};
  return {};
}

}  // namespace

template <int D>
Laying<D>::Laying(const Grid<D>& grid, const OpenSpace<D>& space, std::vector<Fill<D>> fills, std::size_t phases,
                  std::size_t base, std::vector<Carried> tracers)
    : grid_(grid), space_(space), fills_(std::move(fills)), phases_(phases), base_(base), tracers_(std::move(tracers)) {
  for (const auto& fill : fills_) {
    auto& [shares, concentrations] = brought_.emplace_back();
    shares.resize(phases_);
    for (std::size_t c = 0; c < fill.classes.size(); ++c)
      shares[static_cast<std::size_t>(fill.phase) + c] = fill.classes[c];
    for (std::size_t i = 0; i < tracers_.size(); ++i) {
      const auto own = fill.concentrations.empty() ? std::nullopt : fill.concentrations[i];
      concentrations.push_back(own.value_or(tracers_[i].start));
    }
  }
}

template <int D>
typename Laying<D>::Brought Laying<D>::brought_to(int block, std::ptrdiff_t at, const Index<D>& cell) const {
  Brought brought = brought_;
  const auto [from, to] = cell_corners<D>(grid_, cell);
  for (std::size_t k = 0; k < fills_.size(); ++k) {
    auto& [shares, concentrations] = brought[k];
    for (std::size_t i = 0; i < tracers_.size() && fills_[k].concentration; ++i)
      concentrations[i] = fills_[k].concentration(i, from, to).value_or(concentrations[i]);
    if (!fills_[k].mixture) continue;
    double sum = 0;
    for (std::size_t p = 0; p < phases_; ++p) {
      const Covering<D> own{
          [&](const Vec<D>& lower, const Vec<D>& upper) { return fills_[k].mixture(p, lower, upper); }};
      shares[p] = covered_share<D>(grid_, space_, block, at, cell, own);
      sum += shares[p];
    }
    // Beside what was computed there, or in what were solids there.
    if (sum == 0) shares[base_] = sum = 1;
    for (double& share : shares) share /= sum;
  }
  return brought;
}

template <int D>
typename Laying<D>::Held Laying<D>::nothing() const {
  return {std::vector<double>(phases_), std::vector<double>(fills_.size()), std::vector<double>(tracers_.size())};
}

/// Lays the fills in a piece of which each covers a share, as if each lay within those that cover more.
template <int D>
void Laying<D>::add_piece(const Brought& brought, const std::vector<double>& covered, double share, Held& held) const {
  std::vector<double> ends{0.0, 1.0};
  ends.insert(ends.end(), covered.begin(), covered.end());
  std::ranges::sort(ends);
  for (std::size_t e = 0; e + 1 < ends.size(); ++e) {
    const double width = (ends[e + 1] - ends[e]) * share;
    if (width <= 0) continue;
    std::vector<double> here(phases_);
    here[base_] = 1;
    std::vector<double> carried(tracers_.size());
    for (std::size_t i = 0; i < tracers_.size(); ++i) carried[i] = tracers_[i].start * here[tracers_[i].phase];
    bool bare = true;  // of fills
    for (std::size_t k = 0; k < fills_.size(); ++k) {
      if (covered[k] < ends[e + 1]) continue;
      const double taken = fills_[k].share;
      double own = 0;
      for (std::size_t p = 0; p < phases_; ++p)
        if (brought[k].shares[p] > 0) own += here[p];
      if (!bare) held.replaced[k] += width * taken * (1 - own);
      bare = false;
      for (std::size_t p = 0; p < phases_; ++p) here[p] += taken * (brought[k].shares[p] - here[p]);
      for (std::size_t i = 0; i < tracers_.size(); ++i)
        carried[i] += taken * (brought[k].shares[tracers_[i].phase] * brought[k].concentrations[i] - carried[i]);
    }
    for (std::size_t p = 0; p < phases_; ++p) held.shares[p] += width * here[p];
    for (std::size_t i = 0; i < tracers_.size(); ++i) held.amounts[i] += width * carried[i];
  }
}

/// Halves a piece until no two edges lie in it, or it is small.
template <int D>
void Laying<D>::split(const Brought& brought, const Vec<D>& lower, const Vec<D>& upper, double share, int depth,
                      Held& held) const {
  std::vector<double> covered;
  for (const auto& fill : fills_) covered.push_back(covered_share<D>(fill.shape, lower, upper));
  constexpr int deepest = D == 2 ? 5 : 3;
  if (partly(covered) <= 1 || depth == deepest) {
    add_piece(brought, covered, share, held);
    return;
  }
  for (int n = 0; n < 1 << D; ++n) {
    Vec<D> low = lower;
    Vec<D> high = upper;
    for (int d = 0; d < D; ++d) ((n >> d & 1) != 0 ? low : high)[d] = 0.5 * (lower[d] + upper[d]);
    split(brought, low, high, share / (1 << D), depth + 1, held);
  }
}

/// Cuts a piece along the flat edges in it, which are then nobody's.
template <int D>
void Laying<D>::split_at_edges(const Brought& brought, const Vec<D>& lower, const Vec<D>& upper, double share,
                               Held& held) const {
  std::array<std::vector<double>, D> cuts;
  for (int d = 0; d < D; ++d) {
    const auto a = static_cast<std::size_t>(d);
    cuts[a] = {lower[d], upper[d]};
    for (const auto& fill : fills_)
      for (const double edge : edges_across<D>(fill.shape, d))
        if (edge > lower[d] && edge < upper[d]) cuts[a].push_back(edge);
    std::ranges::sort(cuts[a]);
    cuts[a].erase(std::unique(cuts[a].begin(), cuts[a].end()), cuts[a].end());
  }
  Index<D> piece{};
  while (true) {
    Vec<D> low;
    Vec<D> high;
    double part = share;
    for (std::size_t d = 0; d < D; ++d) {
      low[d] = cuts[d][static_cast<std::size_t>(piece[d])];
      high[d] = cuts[d][static_cast<std::size_t>(piece[d]) + 1];
      part *= (high[d] - low[d]) / (upper[d] - lower[d]);
    }
    split(brought, low, high, part, 0, held);
    std::size_t d = 0;
    while (d < D && ++piece[d] + 1 == static_cast<int>(cuts[d].size())) piece[d++] = 0;
    if (d == D) return;
  }
}

template <int D>
typename Laying<D>::Held Laying<D>::in(int block, std::ptrdiff_t at, const Index<D>& cell) const {
  Held held = nothing();
  const bool varies = std::ranges::any_of(
      fills_, [](const auto& fill) { return fill.mixture != nullptr || fill.concentration != nullptr; });
  const Brought own = varies ? brought_to(block, at, cell) : Brought();
  const Brought& brought = varies ? own : brought_;
  std::vector<double> covered;
  for (const auto& fill : fills_) covered.push_back(covered_share<D>(grid_, space_, block, at, cell, fill.shape));
  if (partly(covered) <= 1) {
    add_piece(brought, covered, 1, held);
    return held;
  }
  Held sum = held;
  double open_volume = 0;
  for_pieces<D>(grid_, space_, block, at, cell, [&](const Vec<D>& lower, const Vec<D>& upper, double volume) {
    split_at_edges(brought, lower, upper, volume, sum);
    open_volume += volume;
  });
  if (open_volume <= 0) {
    add_piece(brought, covered, 1, held);
    return held;
  }
  for (auto* values : {&sum.shares, &sum.replaced, &sum.amounts})
    for (double& value : *values) value /= open_volume;
  return sum;
}

template class Laying<2>;
template class Laying<3>;

}  // namespace wavy
