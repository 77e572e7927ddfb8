// Published problems with their references, run through the same parts as a user's case.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "figures/chart.hpp"

namespace wavy {

/// One figure held against its reference.
struct Finding {
  std::string what;  ///< with unit
  double measured = 0;
  double reference = 0;  ///< from a formula or the literature, never from the code under test
  double error = 0;      ///< as the bar counts it
  double bar = 0;        ///< greatest error allowed
  [[nodiscard]] bool passed() const { return error <= bar; }  // false for not-a-number
};

struct ValidationResult {
  std::vector<Finding> findings;
  std::string x_title;
  std::vector<Panel> chart;
};

struct ValidationCase {
  std::string name;
  std::string what;
  std::string source;
  bool quick = false;  ///< part of --quick
  std::function<ValidationResult(bool quick)> run;
};

const std::vector<ValidationCase>& validation_cases();

/// A value whose reference is 0: the error is its size.
Finding small(const std::string& what, double measured, double bar);
/// A value held against a reference, relative error.
Finding close(const std::string& what, double measured, double reference, double bar);
/// A value that must reach at least the reference (an order of convergence): the error is what is missing.
Finding at_least(const std::string& what, double measured, double reference);

// The groups of cases, one file each.
std::vector<ValidationCase> interface_cases();
std::vector<ValidationCase> rest_cases();
std::vector<ValidationCase> wave_cases();
std::vector<ValidationCase> violent_cases();
std::vector<ValidationCase> bubble_cases();
std::vector<ValidationCase> vessel_cases();
std::vector<ValidationCase> axisymmetric_cases();
std::vector<ValidationCase> drop_cases();
std::vector<ValidationCase> eulerian_cases();
std::vector<ValidationCase> turbulence_cases();
std::vector<ValidationCase> stirred_cases();
std::vector<ValidationCase> plume_cases();
std::vector<ValidationCase> tracer_cases();
std::vector<ValidationCase> line_cases();

}  // namespace wavy
