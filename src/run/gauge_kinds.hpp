// What gauges can measure: one table, from which case files are read and explained, columns get their units and gauges
// their readings.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "run/line_gauges.hpp"
#include "run/vessel_gauges.hpp"

namespace wavy {

struct GaugeKind {
  enum class Of { vessel, line };
  /// Of the case. Zones may be left out, which stands for the whole vessel.
  enum class Needs {
    nothing,
    point,
    upright_line,
    zone,
    surface_over_zone,
    phase_in_zone,
    quantity_at_point,
    quantity_in_zone,  ///< or on a wall
    phase,
    phase_along,
    phase_through_plane,
    formula,
    wall,
    wall_and_point,
    agitator,
    impeller,
    place_in_leg,
    leg
  };

  Of of = Of::vessel;
  std::string name;
  std::string unit;     ///< "1" of a pure number, "" for that of the quantity read
  std::string meaning;  ///< behind "name: "
  Needs needs = Needs::nothing;
  /// What makes a gauge of a setup read; of a vessel those of two and three dimensions, or that of a line.
  std::function<VesselReader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&)> of_flat{};
  std::function<VesselReader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&)> of_solid{};
  std::function<LineReader(const LineGauge&, const LineSetup&)> of_line{};
  enum class In { any, sharp, eulerian };
  In in = In::any;  ///< only in a vessel of that model

  [[nodiscard]] VesselReader<2> reader(const Gauge<2>& gauge, const Setup<2>& setup,
                                       const VesselModel<2>& model) const {
    return of_flat(gauge, setup, model);
  }
  [[nodiscard]] VesselReader<3> reader(const Gauge<3>& gauge, const Setup<3>& setup,
                                       const VesselModel<3>& model) const {
    return of_solid(gauge, setup, model);
  }
};

const std::vector<GaugeKind>& gauge_kinds();

/// Of what the gauge reads.
template <int D>
std::string unit_of(const Gauge<D>& gauge);

/// The kind of this name; null where a vessel or a line has none.
const GaugeKind* find_gauge_kind(std::string_view name, GaugeKind::Of of);
/// The same of a name that is known to be one.
inline const GaugeKind& gauge_kind(std::string_view name, GaugeKind::Of of) { return *find_gauge_kind(name, of); }

}  // namespace wavy
