// The one-dimensional line: two fluids with one pressure in sections of pipe, each of which leads into a next one.
//
// Masses live in the sections, velocities on the faces between them. A face's velocities follow from the pressures on
// its two sides, implicitly in pressure and friction; masses move with the fluid of the section upstream. The pressures
// are those with which the phases fill every section exactly, so that sound does not limit the step. Where the phases
// flow apart (layers, films) each has its own momentum balance; where gas comes in long or small bubbles the mixture
// has one and the gas drifts through it. The former is well-posed as long as layers are stable, which is where it is
// used (inviscid limit of Kelvin and Helmholtz: Taitel & Dukler 1976); the latter always.
#pragma once

#include <array>
#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "base/archive.hpp"
#include "line/closures.hpp"

namespace wavy::line {

struct Section {
  static constexpr int outlet = -1;
  double length = 1;            ///< [m]
  double place = 0;             ///< of its middle along the line [m]
  double rise = 0;              ///< height of its middle, to the bottom of the pipe [m]
  double temperature = 293.15;  ///< [K]
  Bore bore;
  int next = outlet;  ///< section that it leads into, always a later one; `outlet`: out of the line
  int leg = 0;
  [[nodiscard]] double volume() const { return length * bore.area(); }
};

/// A straight piece of pipe.
struct Straight {
  double length = 0;  ///< [m]
  double sine = 0;    ///< of its angle to the horizontal
};
/// Sections of nearly this length along straight pieces that lead one into the other and out of the line.
std::vector<Section> straight_sections(const std::vector<Straight>& pieces, double diameter, double roughness,
                                       double section_length);

/// Mass that comes into a section [kg/s], functions of time.
struct Source {
  std::string name;
  std::size_t section = 0;
  std::function<double(double)> liquid, gas;
  std::function<double(double)> gas_volume{};  ///< instead of `gas`: at the section's pressure [m3/s]
};

/// A choke on the face behind a section: loses (1/(coefficient x opening)^2 - 1) rho j |j| / 2.
struct Valve {
  std::string name;
  std::size_t section = 0;
  std::function<double(double)> opening;  ///< open share of the area, 0 to 1; of time
  double coefficient = 0.84;              ///< of discharge
};

struct Settings {
  double liquid_density = 998;            ///< at `reference_pressure` [kg/m3]
  double sound_speed = 1400;              ///< of the liquid [m/s]
  double gas_density = 1.2;               ///< at the references [kg/m3]
  double compressibility = 1;             ///< of the gas, its factor Z
  double reference_pressure = 101325;     ///< [Pa]
  double reference_temperature = 293.15;  ///< [K]
  double liquid_viscosity = 1e-3, gas_viscosity = 1.8e-5;
  double surface_tension = 0.07;
  std::function<double(double)> outlet_pressure;  ///< absolute, of time [Pa]; none: the end is closed
  /// Slugs are followed one by one along the longest way to the outlet; else their liquid moves by the drift of the
  /// gas.
  bool follow_slugs = false;
  bool slugs_hold_gas = false;  ///< they carry bubbles: 1 / (1 + (j / 8.66 m/s)^1.39) is liquid (Gregory et al. 1978)
  std::vector<double> watched;  ///< places along that way where slugs are written down [m]
  double courant = 0.7;         ///< greatest share of a section that a phase crosses in one step
  double largest_step = 10;     ///< [s]
};

struct State {
  double time = 0;
  std::vector<double> pressure;         ///< absolute, of each section [Pa]
  std::vector<double> liquid, gas;      ///< mass per volume of pipe [kg/m3]
  std::vector<double> u_liquid, u_gas;  ///< on the face behind each section [m/s]
};

/// A body of liquid that fills the pipe, from tail to front along the longest way to the outlet.
struct Slug {
  long number = 0;
  double tail = 0, front = 0;              ///< [m]
  double tail_speed = 0, front_speed = 0;  ///< [m/s]
  double born = 0;                         ///< [s]
  [[nodiscard]] double length() const { return front - tail; }
};

/// A slug that has passed a watched place.
struct Passage {
  std::size_t place = 0;  ///< number of the watched place
  long slug = 0;
  double front_time = 0, tail_time = 0;  ///< [s]
  double length = 0;                     ///< when its tail passed [m]
  double speed = 0;                      ///< of its front, there [m/s]
};

struct StepReport {
  double dt = 0;
  int iterations = 0;
  int run_dry = -1;         ///< section that would have been left with less than no liquid, where a step failed
  double volume_error = 0;  ///< greatest share of a section's volume that the phases miss
};

class Model {
 public:
  /// Every section's next one must come later. Sections that no other leads into begin with a closed end.
  Model(std::vector<Section> sections, std::vector<Source> sources, std::vector<Valve> valves, Settings settings);

  [[nodiscard]] const std::vector<Section>& sections() const { return sections_; }
  [[nodiscard]] const std::vector<Source>& sources() const { return sources_; }
  [[nodiscard]] const std::vector<Valve>& valves() const { return valves_; }
  /// From now on, whatever the formula of time was.
  void set_opening(std::size_t valve, double opening) {
    valves_[valve].opening = [opening](double) { return opening; };
  }
  [[nodiscard]] const Settings& settings() const { return settings_; }
  [[nodiscard]] const State& state() const { return state_; }
  [[nodiscard]] State& state() { return state_; }

  /// Steady flow of what the sources bring at time 0, section by section up from the outlet. Nothing moves where
  /// nothing comes.
  void start_steady();
  /// At rest: the liquid's share of each section, under the pressure of the outlet (or this one) and the weight above.
  void start_at_rest(const std::vector<double>& holdup, double pressure);

  [[nodiscard]] double stable_step() const;
  /// Advances by dt, or by less where a section would be emptied of more than it holds. Throws a failure that names
  /// place and time when pressures cannot be found.
  StepReport step(double dt);
  /// All that the next step depends on, openings of valves apart: who has set them sets them again.
  void archive(Archive& a);

  [[nodiscard]] Media media(std::size_t section) const;
  /// What a source brings at a time, at the present pressure of its section: liquid, gas [kg/s].
  [[nodiscard]] std::array<double, 2> brought(const Source& source, double time) const;
  /// Share of a section that the liquid fills.
  [[nodiscard]] double holdup(std::size_t section) const;
  [[nodiscard]] Regime regime(std::size_t face) const;
  /// Mass flows through the face behind a section in the last step, along the line [kg/s].
  [[nodiscard]] double liquid_flow(std::size_t face) const { return flow_[face][0]; }
  [[nodiscard]] double gas_flow(std::size_t face) const { return flow_[face][1]; }
  [[nodiscard]] double liquid_density(double pressure) const;
  [[nodiscard]] double gas_density(double pressure, double temperature) const;
  /// In the order in which they lie, and what has passed the watched places so far.
  [[nodiscard]] const std::vector<Slug>& slugs() const { return slugs_; }
  [[nodiscard]] const std::vector<Passage>& passages() const { return passages_; }
  /// Starts a slug by hand. It must lie in liquid enough and on no other.
  void add_slug(double tail, double front);

  /// In the line now; brought by sources and gone through the outlet since the start [kg], liquid first.
  [[nodiscard]] std::array<double, 2> held() const;
  [[nodiscard]] const std::array<double, 2>& inflow_total() const { return came_; }
  [[nodiscard]] const std::array<double, 2>& outflow_total() const { return went_; }

 private:
  /// What a face's velocities are as functions of the pressure behind it less that before it: u = a - b dp.
  struct Face {
    std::array<double, 2> a{}, b{};  // liquid, gas
    std::array<double, 2> donor{};   // mass per volume that moves [kg/m3]
    double area = 0;
    std::array<double, 2> film_a{}, film_b{}, slug_a{}, slug_b{};  // the same between slugs and in one
    double covered = 0;                                            // share of the step in which it lies in a slug
  };
  static constexpr double trace = 1e-9;  // shares of a phase below this count as none where a speed is asked for
  struct Closure;
  struct FaceFlow;
  struct Balance;
  [[nodiscard]] Closure closure(std::size_t face) const;
  [[nodiscard]] double film_holdup(std::size_t section) const;
  [[nodiscard]] double slug_holdup(double flux) const;
  [[nodiscard]] double flux_before(std::size_t face) const;  // volume flux in the last step [m/s]
  [[nodiscard]] double flux_at(double place) const;
  [[nodiscard]] std::size_t section_on_way(double place) const;
  [[nodiscard]] bool carries_slugs(std::size_t section) const;
  void find_way();
  void cover_faces(double dt);
  void move_slugs(double dt);
  void trim_slugs();
  void drop_slugs(std::size_t section);
  void begin_slugs();
  void archive_slugs(Archive& a);
  void set_face(std::size_t face, double dt, double time);
  [[nodiscard]] FaceFlow flow_before(std::size_t face, const Closure& closure, double dt) const;
  static void add_layers(const Closure& closure, const FaceFlow& flow, Face& face);
  static void add_drift(const Closure& closure, const FaceFlow& flow, double valve_loss, Face& face);
  void add_slug(std::size_t face, const Closure& closure, double dt);
  void set_donors(std::size_t face);
  [[nodiscard]] double behind(std::size_t face) const;  // pressure [Pa]
  bool solve(double dt, double time, StepReport& report);
  void set_velocities(bool first, Balance& balance);
  void move_masses(double dt, Balance& balance) const;
  double find_missing(Balance& balance) const;
  bool keep(const Balance& balance, StepReport& report);
  void link_sections(double dt, Balance& balance) const;
  bool eliminate(Balance& balance) const;

  std::vector<Section> sections_;
  std::vector<Source> sources_;
  std::vector<Valve> valves_;
  Settings settings_;
  State state_;
  std::vector<int> before_;  // a section that leads into each, -1 where none does
  std::vector<int> valve_at_;
  std::vector<Face> faces_;
  std::vector<double> depth_;                  // of a layer in each section, times the pipe's cosine [m]
  std::vector<std::array<double, 2>> supply_;  // by sources [kg/s]
  std::vector<std::array<double, 2>> flow_;
  double outside_ = 0;  // pressure at the outlet [Pa]
  bool open_ = false;
  std::array<double, 2> came_{}, went_{};

  std::vector<Slug> slugs_;
  std::vector<Passage> passages_;
  std::vector<std::vector<std::pair<long, double>>>
      at_places_;  // slugs on each watched place: number, time of the front
  long born_ = 0;
  std::vector<std::size_t> way_;        // sections along the longest way
  std::vector<int> on_way_;             // place in it of each section, -1
  std::vector<double> in_slugs_;        // length of slugs in each section [m]
  std::vector<double> covered_length_;  // share of slugs between the middles on a face's two sides
  std::vector<double> last_begun_;      // when a slug last began in each section [s]
};

}  // namespace wavy::line
