// The line model: friction, layers, settling, severe slugging, receivers.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "line/model.hpp"
#include "line/riser.hpp"
#include "line/surge.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using line::Model;
using line::Settings;

constexpr double g = 9.80665;
constexpr double pi = std::numbers::pi;

line::Source feed(double liquid, double gas) {
  line::Source source;
  source.liquid = [liquid](double) { return liquid; };
  source.gas = [gas](double) { return gas; };
  return source;
}

void run_until(Model& model, double until) {
  while (model.state().time < until) model.step(std::min(model.stable_step(), until - model.state().time + 1e-9));
}

/// Colebrook's equation by repeated substitution, 64/Re where the flow is laminar.
double colebrook(double reynolds, double relative_roughness) {
  if (reynolds < 2000) return 64 / reynolds;
  double f = 0.02;
  for (int i = 0; i < 100; ++i)
    f = 1 / std::pow(2 * std::log10(relative_roughness / 3.7 + 2.51 / (reynolds * std::sqrt(f))), 2);
  return f;
}

ValidationResult friction(bool) {
  ValidationResult result;
  struct Flow {
    const char* name;
    double viscosity, speed, roughness;
  };
  constexpr double D = 0.1;
  const double area = pi / 4 * D * D;
  for (const Flow& flow : {Flow{"laminar, Re 1000", 0.1, 1.0, 0}, Flow{"turbulent and smooth, Re 1e5", 1e-3, 1.0, 0},
                           Flow{"turbulent, roughness D/200, Re 2e5", 1e-3, 2.0, D / 200}}) {
    Settings settings;
    settings.liquid_density = 1000;
    settings.liquid_viscosity = flow.viscosity;
    settings.outlet_pressure = [](double) { return 2e5; };
    Model model(line::straight_sections({{100, 0}}, D, flow.roughness, 2), {feed(1000 * area * flow.speed, 0)}, {},
                settings);
    model.start_at_rest(std::vector<double>(50, 1.0), 2e5);
    run_until(model, 600);
    const auto& p = model.state().pressure;
    const double measured = (p[10] - p[40]) / (30 * 2.0);
    // The weight of a metre of liquid is not at its reference density.
    const double density = model.liquid_density(0.5 * (p[10] + p[40]));
    const double speed = flow.speed * 1000 / density;
    const double f = colebrook(density * speed * D / flow.viscosity, flow.roughness / D);
    result.findings.push_back(close(fmt::format("pressure gradient, {} [Pa/m]", flow.name), measured,
                                    f / D * density * speed * speed / 2, 1e-3));
  }
  return result;
}

/// Depth over diameter at which Taitel and Dukler's balance holds (AIChE J. 22 (1976) 47, eq. 7), the surface as smooth
/// as the gas's wall, with geometry as they write it (their eqs. 10 to 16); the least root.
double taitel_dukler(double D, double sine, double rho_l, double rho_g, double mu_l, double mu_g, double flux_l,
                     double flux_g) {
  const auto off = [&](double h) {
    const double w = 2 * h - 1;
    const double root = std::sqrt(1 - w * w);
    const double A_l = 0.25 * (pi - std::acos(w) + w * root) * D * D;
    const double A_g = 0.25 * (std::acos(w) - w * root) * D * D;
    const double S_l = (pi - std::acos(w)) * D;
    const double S_g = std::acos(w) * D;
    const double S_i = root * D;
    const double A = pi / 4 * D * D;
    const double u_l = flux_l * A / A_l;
    const double u_g = flux_g * A / A_g;
    const double f_l = colebrook(rho_l * u_l * 4 * A_l / S_l / mu_l, 0) / 4;
    const double f_g = colebrook(rho_g * u_g * 4 * A_g / (S_g + S_i) / mu_g, 0) / 4;
    const double tau_l = f_l * rho_l * u_l * u_l / 2;
    const double tau_g = f_g * rho_g * u_g * u_g / 2;
    const double tau_i = f_g * rho_g * (u_g - u_l) * std::abs(u_g - u_l) / 2;
    return tau_g * S_g / A_g - tau_l * S_l / A_l + tau_i * S_i * (1 / A_l + 1 / A_g) - (rho_l - rho_g) * g * sine;
  };
  double low = 1e-4;
  double high = low;
  while (off(high) < 0 && high < 0.9999) {  // a thin film needs more than its weight
    low = high;
    high += 1e-3;
  }
  for (int i = 0; i < 60; ++i) {
    const double middle = 0.5 * (low + high);
    (off(middle) < 0 ? low : high) = middle;
  }
  return 0.5 * (low + high);
}

ValidationResult layers(bool) {
  ValidationResult result;
  constexpr double D = 0.1;
  const double area = pi / 4 * D * D;
  struct Flow {
    double degrees, liquid, gas;
  };
  for (const Flow& flow : {Flow{-1, 0.05, 2}, Flow{-5, 0.2, 1}, Flow{0, 0.03, 3}, Flow{0.1, 0.01, 4}}) {
    const double sine = std::sin(flow.degrees * pi / 180);
    Settings settings;
    settings.liquid_density = 1000;
    settings.outlet_pressure = [](double) { return 101325.0; };
    constexpr int count = 40;
    Model model(line::straight_sections({{80, sine}}, D, 0, 80.0 / count),
                {feed(1000 * area * flow.liquid, 1.2 * area * flow.gas)}, {}, settings);
    model.start_at_rest(std::vector<double>(count, 0.3), 101325);
    run_until(model, 2500);
    constexpr std::size_t middle = count / 3;
    const auto media = model.media(middle);
    const double depth = taitel_dukler(D, sine, media.liquid_density, media.gas_density, settings.liquid_viscosity,
                                       settings.gas_viscosity, flow.liquid * 1000 / media.liquid_density,
                                       flow.gas * 1.2 / media.gas_density);
    const double w = 2 * depth - 1;
    const double reference = (pi - std::acos(w) + w * std::sqrt(1 - w * w)) / pi;
    result.findings.push_back(
        close(fmt::format("holdup at {:g} deg, liquid {:g} m/s, gas {:g} m/s", flow.degrees, flow.liquid, flow.gas),
              model.holdup(middle), reference, 5e-3));
  }
  return result;
}

ValidationResult settling(bool) {
  ValidationResult result;
  // Two arms that meet in a dip; a fifth of each is liquid, which runs together there.
  constexpr double D = 0.1;
  const double sine = std::sin(6 * pi / 180);
  Settings settings;
  settings.liquid_density = 1000;
  Model model(line::straight_sections({{20, -sine}, {20, sine}}, D, 0, 1), {}, {}, settings);
  model.start_at_rest(std::vector<double>(40, 0.2), 101325);
  const auto before = model.held();
  Curve2D curve{"liquid in the lowest 8 m [share of all]", {}, {}};
  const auto in_dip = [&] {
    double sum = 0;
    for (std::size_t i = 16; i < 24; ++i) sum += model.sections()[i].volume() * model.state().liquid[i];
    return sum;
  };
  while (model.state().time < 900) {
    model.step(std::min(model.stable_step(), 0.5));
    curve.x.push_back(model.state().time);
    curve.y.push_back(in_dip() / before[0]);
  }
  const auto after = model.held();
  for (std::size_t k = 0; k < 2; ++k)
    result.findings.push_back(small(fmt::format("relative change of the mass of {}", k == 0 ? "liquid" : "gas"),
                                    after[k] / before[k] - 1, 1e-10));
  // 8 m hold it all; the surfaces in both arms stand at one height.
  const auto surface = [&](int from, int step) {
    double length = 0;
    for (int i = from; i >= 0 && i < 40; i += step) length += model.holdup(static_cast<std::size_t>(i));
    return length * sine;
  };
  result.findings.push_back(close("liquid in the lowest 8 m over all of it", in_dip() / before[0], 1, 0.01));
  result.findings.push_back(close("height of the surface, left over right arm", surface(19, -1), surface(20, 1), 0.02));
  result.x_title = "time [s]";
  result.chart = {{"share", {curve}}};
  return result;
}

/// What a riser does at given rates.
struct Cycles {
  double swing = 0;     ///< of the pressure at the beginning, greatest less least [Pa]
  double period = 0;    ///< mean [s]
  double fullest = 0;   ///< greatest share of the riser that liquid fills
  double emptiest = 1;  ///< least
  double holdup = 0;    ///< in the middle of the pipeline
  Curve2D pressure;
};

struct RiserCase {
  double pipeline, height, top, liquid, gas;  ///< [m], [m], [Pa], superficial velocities at 101325 Pa [m/s]
};

constexpr double riser_diameter = 0.05;

/// `opening`: of a choke at the top.
Cycles watch(const RiserCase& c, double section, double opening = 1) {
  const double area = pi / 4 * riser_diameter * riser_diameter;
  Settings settings;
  settings.liquid_density = 1000;
  settings.outlet_pressure = [top = c.top](double) { return top; };
  settings.largest_step = 1;
  const auto sections =
      line::straight_sections({{c.pipeline, -std::sin(3 * pi / 180)}, {c.height, 1}}, riser_diameter, 0, section);
  std::vector<line::Valve> chokes;
  if (opening < 1) chokes.push_back({"choke", sections.size() - 1, [=](double) { return opening; }});
  Model model(sections, {feed(1000 * area * c.liquid, 1.2 * area * c.gas)}, chokes, settings);
  model.start_steady();
  Cycles result;
  result.pressure.name =
      fmt::format("{:g} m, liquid {:g}, gas {:g} m/s, {:.2g} bar", c.pipeline, c.liquid, c.gas, c.top / 1e5);
  const auto foot = static_cast<std::size_t>(std::lround(c.pipeline / section));
  const double settled = 900;
  const double until = 3000;
  double least = 1e300;
  double greatest = 0;
  std::vector<double> blows;  // times at which the pressure falls through its middle
  std::vector<std::array<double, 2>> trace;
  while (model.state().time < until) {
    model.step(model.stable_step());
    if (model.state().time < settled) continue;
    const double p = model.state().pressure[0];
    least = std::min(least, p);
    greatest = std::max(greatest, p);
    trace.push_back({model.state().time, p});
    double filled = 0;
    for (std::size_t i = foot; i < model.sections().size(); ++i)
      filled += model.holdup(i) / static_cast<double>(model.sections().size() - foot);
    result.fullest = std::max(result.fullest, filled);
    result.emptiest = std::min(result.emptiest, filled);
  }
  for (std::size_t i = 1; i < trace.size(); ++i) {
    const double middle = 0.5 * (least + greatest);
    if (trace[i - 1][1] > middle && trace[i][1] <= middle && (blows.empty() || trace[i][0] > blows.back() + 5))
      blows.push_back(trace[i][0]);
    if (i % 4 == 0) {
      result.pressure.x.push_back(trace[i][0] - settled);
      result.pressure.y.push_back(trace[i][1] / 1e5);
    }
  }
  result.swing = greatest - least;
  if (blows.size() > 1) result.period = (blows.back() - blows.front()) / static_cast<double>(blows.size() - 1);
  result.holdup = model.holdup(foot / 3);
  return result;
}

/// Time of a cycle without inertia and friction: liquid fills the riser, and gas of the pipeline is compressed behind
/// it until it bears the full column, when it breaks in (the balances of Taitel et al., Int. J. Multiphase Flow 16
/// (1990) 57); the blow-out counts for nothing. `left`: height of liquid in the riser after a blow-out.
double quasi_steady_period(const RiserCase& c, double holdup, double left) {
  constexpr double rho = 1000;
  const double filling = (c.height - left) / c.liquid;
  const double compressing = rho * g * (c.height - left) * c.pipeline * (1 - holdup) / (101325 * c.gas);
  return std::max(filling, compressing);
}

ValidationResult severe_slugging(bool quick) {
  ValidationResult result;
  Panel panel{"pressure at the beginning [bar]", {}};
  int right = 0;
  int tried = 0;
  std::vector<RiserCase> cases{{60, 15, 101325, 0.1, 0.3}, {60, 15, 101325, 0.3, 3.0}, {15, 15, 101325, 0.1, 1.0}};
  if (!quick)
    for (const RiserCase& more :
         {RiserCase{60, 15, 101325, 0.1, 0.1}, RiserCase{60, 15, 101325, 0.2, 0.5}, RiserCase{60, 15, 8e5, 0.1, 0.3},
          RiserCase{120, 15, 101325, 0.1, 0.5}, RiserCase{60, 15, 8e5, 0.2, 1.0}})
      cases.push_back(more);
  for (const auto& c : cases) {
    const Cycles seen = watch(c, 1.0);
    line::Riser riser{c.pipeline, seen.holdup, c.height, c.top, 1000, c.liquid, 101325 * c.gas};
    const bool blocks = line::blocking_ratio(riser) < 1;
    const bool blows = line::steady_pressure(riser) > c.top;
    const bool expected = blocks && blows;
    const bool cycles = seen.swing > 0.5 * 1000 * g * c.height;
    ++tried;
    right += expected == cycles ? 1 : 0;
    panel.curves.push_back(seen.pressure);
    if (!expected) continue;
    const std::string name = fmt::format("{:g} m, liquid {:g}, gas {:g} m/s", c.pipeline, c.liquid, c.gas);
    result.findings.push_back(at_least("fullest riser, " + name, seen.fullest, 0.95));
    result.findings.push_back(
        close("period [s], " + name, seen.period, quasi_steady_period(c, seen.holdup, seen.emptiest * c.height), 0.15));
  }
  result.findings.push_back(
      small(fmt::format("points of {} on the wrong side of the criteria", tried), tried - right, 0));
  result.x_title = "time [s]";
  panel.curves.resize(std::min<std::size_t>(panel.curves.size(), 4));
  result.chart = {panel};
  return result;
}

/// Chokes that should just keep a riser steady by the linear theory, and that should just not.
ValidationResult choked_riser(bool) {
  ValidationResult result;
  Panel panel{"pressure at the beginning [bar]", {}};
  for (const RiserCase& c : {RiserCase{60, 15, 101325, 0.1, 0.3}, RiserCase{60, 15, 101325, 0.2, 0.5}}) {
    const double holdup = watch(c, 1.0, 0.02).holdup;
    const line::Riser riser{c.pipeline, holdup, c.height, c.top, 1000, c.liquid, 101325 * c.gas};
    const double limit = line::steady_opening(riser, {riser_diameter, 0, 1}, line::Valve{}.coefficient);
    for (const double share : {0.85, 1.25}) {
      Cycles seen = watch(c, 1.0, share * limit);
      const double swing = seen.swing / (1000 * g * c.height);
      const std::string name = fmt::format("swing / rho g H, {:g} of the opening {:.3g}, liquid {:g}, gas {:g} m/s",
                                           share, limit, c.liquid, c.gas);
      result.findings.push_back(share < 1 ? small(name, swing, 0.02) : at_least(name, swing, 0.2));
      seen.pressure.name = fmt::format("{:.3g} open, liquid {:g}, gas {:g} m/s", share * limit, c.liquid, c.gas);
      panel.curves.push_back(seen.pressure);
    }
  }
  result.x_title = "time [s]";
  result.chart = {panel};
  return result;
}

/// How often slugs pass in a level pipe of 50 mm, beside what was measured with water and gas; that law scatters by
/// some 60 % about later measurements (Zabaras, SPE J. 5 (2000) 252).
ValidationResult slug_frequency(bool) {
  ValidationResult result;
  constexpr double D = 0.05;
  const double area = pi / 4 * D * D;
  Curve2D lengths{"lengths at 80 m", {}, {}, true};
  for (const auto& [liquid, gas] : {std::array{1.0, 3.0}, std::array{0.5, 2.0}, std::array{0.3, 4.0}}) {
    Settings settings;
    settings.outlet_pressure = [](double) { return 1.2e5; };
    settings.follow_slugs = true;
    settings.watched = {80};
    line::Source source;
    source.liquid = [=, liquid = liquid](double) { return 998 * area * liquid; };
    source.gas_volume = [=, gas = gas](double) { return area * gas; };
    Model model(line::straight_sections({{100, 0}}, D, 0, 10 * D), {source}, {}, settings);
    model.start_steady();
    const double settled = 150;
    const double until = 350;
    while (model.state().time < until) model.step(model.stable_step());
    int count = 0;
    for (const auto& passed : model.passages()) {
      if (passed.front_time < settled) continue;
      ++count;
      lengths.x.push_back(passed.front_time);
      lengths.y.push_back(passed.length / D);
    }
    const double flux = liquid + gas;
    const double law = 0.0226 * std::pow(liquid / (g * D) * (19.75 / flux + flux), 1.2);
    const std::string rates = fmt::format("liquid {:g}, gas {:g} m/s", liquid, gas);
    result.findings.push_back(close("slugs per second, " + rates, count / (until - settled), law, 0.6));
  }
  result.x_title = "time [s]";
  result.chart = {{"length / diameter", {lengths}}};
  return result;
}

ValidationResult one_slug(bool) {
  ValidationResult result;
  // Gas pushes a slug of 12 m along a level pipe over a layer at rest, which it takes in.
  constexpr double D = 0.1;
  constexpr double j = 2.0;
  constexpr double layer = 0.2;
  const double area = pi / 4 * D * D;
  Settings settings;
  settings.liquid_density = 1000;
  settings.outlet_pressure = [](double) { return 5e5; };
  settings.largest_step = 0.2;
  settings.follow_slugs = true;
  line::Source source;
  source.gas_volume = [=](double) { return j * area; };
  constexpr int count = 100;
  Model model(line::straight_sections({{200, 0}}, D, 0, 2), {source}, {}, settings);
  std::vector<double> holdup(count, layer);
  for (std::size_t i = 5; i < 11; ++i) holdup[i] = 1;
  model.start_at_rest(holdup, 5e5);
  model.add_slug(10, 22);
  const double start = model.held()[0];
  Curve2D front{"front", {}, {}};
  Curve2D tail{"tail", {}, {}};
  const double settled = 5;
  while (model.state().time < 40 && !model.slugs().empty()) {
    model.step(std::min(model.stable_step(), 0.1));
    if (model.state().time < settled || model.slugs().empty()) continue;
    const line::Slug& slug = model.slugs().back();
    front.x.push_back(model.state().time);
    front.y.push_back(slug.front);
    tail.x.push_back(model.state().time);
    tail.y.push_back(slug.tail);
  }
  const auto speed = [](const Curve2D& curve) {
    return curve.x.size() < 2 ? 0.0 : (curve.y.back() - curve.y.front()) / (curve.x.back() - curve.x.front());
  };
  const double gas_density = 1.2 * 5e5 / 101325;
  const double c = std::sqrt(g * D * (1000 - gas_density) / 1000);
  result.findings.push_back(
      close("speed of the tail [m/s], 1.05 j + 0.54 sqrt(g D)", speed(tail), 1.05 * j + 0.54 * c, 0.02));
  result.findings.push_back(close("speed of the front [m/s], j / (1 - layer)", speed(front), j / (1 - layer), 0.02));
  const double now = model.held()[0] + model.outflow_total()[0];
  result.findings.push_back(small("relative change of the liquid's mass", now / start - 1, 1e-10));
  result.x_title = "time [s]";
  result.chart = {{"place [m]", {front, tail}}};
  return result;
}

ValidationResult receivers(bool) {
  ValidationResult result;
  // The outflow of a line that slugs.
  const double area = pi / 4 * riser_diameter * riser_diameter;
  Settings settings;
  settings.outlet_pressure = [](double) { return 101325.0; };
  Model model(line::straight_sections({{60, -std::sin(3 * pi / 180)}, {15, 1}}, riser_diameter, 0, 1),
              {feed(1000 * area * 0.1, 1.2 * area * 0.3)}, {}, settings);
  model.start_steady();
  std::vector<double> time{0};
  std::vector<double> flow{0};
  while (model.state().time < 900) {
    model.step(model.stable_step());
    time.push_back(model.state().time);
    flow.push_back(model.liquid_flow(model.sections().size() - 1) / 998.0);
  }
  const double mean = line::mean_flow(time, flow);
  // Greatest rise of the sum of (flow - drain) dt between any two times.
  const auto reference = [&](double drain) {
    double sum = 0;
    double lowest = 0;
    double most = 0;
    for (std::size_t i = 1; i < time.size(); ++i) {
      sum += (flow[i] - drain) * (time[i] - time[i - 1]);
      lowest = std::min(lowest, sum);
      most = std::max(most, sum - lowest);
    }
    return most;
  };
  for (const double share : {0.5, 1.0, 1.5})
    result.findings.push_back(close(fmt::format("receiver drained at {:g} of the mean [m3]", share),
                                    line::surge_volume(time, flow, share * mean), reference(share * mean), 1e-12));
  double sum = 0;
  for (std::size_t i = 1; i < time.size(); ++i) sum += std::max(0.0, flow[i]) * (time[i] - time[i - 1]);
  result.findings.push_back(
      close("receiver that is not drained over all that came [m3]", line::surge_volume(time, flow, 0), sum, 1e-12));
  return result;
}

}  // namespace

std::vector<ValidationCase> line_cases() {
  return {
      {"line_friction", "one phase in a pipe: laminar, turbulent, smooth and rough", "Darcy; Colebrook 1939", true,
       friction},
      {"line_layers", "liquid and gas in layers in an inclined pipe", "Taitel & Dukler 1976", true, layers},
      {"line_settling", "liquid runs together in the dip of a shut line", "volumes", true, settling},
      {"line_severe_slugging", "a riser that slugs, and one that does not", "Boe 1981; Taitel 1986; Taitel et al. 1990",
       true, severe_slugging},
      {"line_choked_riser", "a choke at the top of a riser, a little more and a little less open than keeps it steady",
       "linear theory", false, choked_riser},
      {"line_slug_frequency", "slugs in a level pipe, sections of 10 diameters",
       "Gregory & Scott, AIChE J. 15 (1969) 933", false, slug_frequency},
      {"line_slug", "a slug runs over a layer at rest", "mass balance of the front; Bendiksen 1984", true, one_slug},
      {"line_receivers", "size of a receiver from the recorded outflow", "running sum", true, receivers}};
}

}  // namespace wavy
