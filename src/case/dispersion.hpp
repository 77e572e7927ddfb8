// What the Eulerian model asks of phases and pairs: who carries whom, in bubbles or drops of what size, and the
// closures between them.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "case/sections.hpp"

namespace wavy {

/// How a phase stands in the others.
struct PhaseForm {
  enum class As { carrier, bubbles, drops };
  As as = As::carrier;
  std::vector<double> diameters;  ///< of its bubbles or drops, one for each size class; of a carrier none or one [m]
  std::vector<double> shares;     ///< of each class in the phase, by volume
  double packing = 1;             ///< greatest share of a place that its bubbles or drops reach
};

/// A fluid as the file has it, that becomes a phase for each of its size classes.
struct FormedFluid {
  std::string name;
  Properties properties;
  bool gas = false;
  PhaseForm form;
  Place place;
};

/// Throws an input error where shares do not add up to 1.
void check_shares(const Part& part, const char* key, const std::vector<double>& shares);
PhaseForm read_form(Part& part);
/// Throws where a phase or a pair of another model has a key of the Eulerian one.
void refuse_dispersion(const Part& part);
/// Throws an input error where these fluids, the densest first, cannot make up an Eulerian model on cells of this size;
/// `last`: where the last one stands in the file.
void check_forms(const std::vector<FormedFluid>& fluids, double cell_size, const Place& last);
/// Their phases, a fluid with several classes as NAME_1, NAME_2 and so on.
Eulerian formed_phases(const std::vector<FormedFluid>& fluids);

/// What a case says of a pair of fluids, or leaves to the program.
struct PairClosures {
  std::array<std::size_t, 2> fluids;  ///< their numbers
  double surface_tension = 0;
  std::string drag{};  ///< name of a law, "constant"; empty: to be chosen
  double drag_coefficient = 0.44;
  std::string hindrance{};  ///< likewise
  double swarm_exponent = 0;
  std::string lift = "none";
  std::string wall_lubrication = "none";
  std::string turbulent_dispersion{};  ///< empty: to be chosen
  double virtual_mass = -1;            ///< below 0: to be chosen
};

/// Of a pair of these fluids. `turbulence`: law of it; null: laminar.
PairClosures read_closures(Part& part, const std::array<std::size_t, 2>& pair, const std::vector<FormedFluid>& fluids,
                           const TurbulenceLaw* turbulence);
/// Of all pairs of phases of which one carries the other, given or not; what was chosen where it was not is told.
void add_pairs(const std::vector<FormedFluid>& fluids, const std::vector<PairClosures>& given,
               const TurbulenceLaw* turbulence, Eulerian& eulerian, CaseFile& out);

}  // namespace wavy
