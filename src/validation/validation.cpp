#include "validation/validation.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {

const std::vector<ValidationCase>& validation_cases() {
  static const std::vector<ValidationCase> list = [] {
    std::vector<ValidationCase> all;
    for (const auto& group : {interface_cases(), rest_cases(), wave_cases(), violent_cases(), bubble_cases(),
                              vessel_cases(), axisymmetric_cases(), drop_cases(), eulerian_cases(), turbulence_cases(),
                              stirred_cases(), plume_cases(), tracer_cases(), line_cases()})
      all.insert(all.end(), group.begin(), group.end());
    return all;
  }();
  return list;
}

Finding small(const std::string& what, double measured, double bar) {
  return {what, measured, 0, std::abs(measured), bar};
}
Finding close(const std::string& what, double measured, double reference, double bar) {
  return {what, measured, reference, std::abs(measured / reference - 1), bar};
}
Finding at_least(const std::string& what, double measured, double reference) {
  return {what, measured, reference, std::max(0.0, reference - measured), 0};
}

}  // namespace wavy
