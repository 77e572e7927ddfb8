// Closures of bubbles and drops against values of their published formulas, worked out apart from the program.
#include "physics/bubbles_and_drops.hpp"

#include <doctest/doctest.h>

#include <array>
#include <cmath>
#include <string>
#include <vector>

#include "about.hpp"

using namespace wavy;

namespace {

struct Values {
  const char* what;
  DispersedBodies of;
  // Drag in the order of the table, Richardson & Zaki, lift, and walls 3 mm away: Tomiyama, Antal, Frank.
  std::array<double, 13> wanted;
};
const std::vector<Values> values{
    {"bubble",
     {998.2, 0.001002, 1.204, 1.813e-05, 0.0728, 0.004, 9.81, 0.22, 0.1},
     {0.45909034240806734, 1.0396650791833344, 0.8581514797211574, 0.932127256044946, 0.932127256044946,
      0.932127256044946, 0.8637370997314184, 1.0306515199970527, 0.863767955075232, 0.288, 35.770791646610725,
      14.166666666666666, 44.74141822734242}},
    {"small",
     {998.2, 0.001002, 1.204, 1.813e-05, 0.0728, 0.001, 9.81, 0.1, 0.02},
     {1.0936582871187834, 1.0095799427304795, 1.0936582871187834, 0.4818272891204168, 0.7227409336806252,
      1.0936582871187834, 1.3414045716818186, 0.9730863263158193, 0.9641164363233198, 0.28799999998048564,
      26.11111111111111, 6.666666666666666, 37.461128159628615}},
    {"large",
     {998.2, 0.001002, 1.204, 1.813e-05, 0.0728, 0.008, 9.81, 0.24, 0.3},
     {0.44, 1.3066666666666664, 1.9616880064004465, 1.819989489349521, 1.819989489349521, 1.819989489349521,
      0.8996950921793819, 1.569856824415783, 0.6090967407541262, -0.27, 14.579391160888893, 15.416666666666666,
      15.41241127751661}},
    {"drop",
     {998.2, 0.001002, 885.0, 0.0021, 0.025, 0.0005, 9.81, 0.004, 0.2},
     {14.947008769342077, 21.14693576082137, 14.947008769342077, 9.964672512894719, 14.947008769342077,
      14.947008769342077, 30.326854196351952, 30.286894747356985, 0.4947514017551856, 0.0681170991334514,
      13.055555555555555, 0.0, 13.177159614664195}},
    {"fine",
     {998.2, 0.001002, 885.0, 0.0021, 0.025, 0.0001, 9.81, 0.0001, 0.4},
     {2424.3706226866093, 6754.978961869004, 2424.3706226866093, 1616.2470817910726, 2424.3706226866093,
      2424.3706226866093, 8220.772517779324, 8038.592798418338, 0.15497158107973152, 0.000347158251019516,
      2.6111111111111107, 0.0, 0.0}},
};

const DispersedBodies oil_drop{998.2, 1.002e-3, 885, 2.1e-3, 0.025, 5e-5, 9.81, 0, 0};

}  // namespace

TEST_CASE("every drag law, hindrance, lift and wall law gives the values of its published formula") {
  REQUIRE(drag_laws().size() == 8);
  for (const auto& [what, of, wanted] : values) {
    std::vector<double> found;
    for (const auto& law : drag_laws()) found.push_back(law.value(of));
    found.push_back(find_law(hindrance_laws(), "richardson_zaki")->value(of));
    found.push_back(find_law(lift_laws(), "tomiyama")->value(of));
    for (const char* name : {"tomiyama", "antal", "frank"})
      found.push_back(find_law(wall_lubrication_laws(), name)->value(of, 3e-3));
    REQUIRE(found.size() == wanted.size());
    for (std::size_t i = 0; i < found.size(); ++i) {
      INFO(what << ", number " << i);
      CHECK(std::abs(found[i] - wanted[i]) <= 1e-12 * std::max(1.0, std::abs(wanted[i])));
    }
  }
  CHECK(find_law(lift_laws(), "sphere")->value(values[0].of) == 0.5);
  CHECK(find_law(lift_laws(), "none")->value(values[0].of) == 0);
  CHECK(find_law(wall_lubrication_laws(), "none")->value(values[0].of, 1e-3) == 0);
  CHECK(find_law(drag_laws(), "nothing") == nullptr);
}

TEST_CASE("turbulent dispersion by Favre and by Lopez de Bertodano") {
  const DispersedBodies& of = values[0].of;  // a tenth of the volume
  CHECK(find_law(turbulent_dispersion_laws(), "favre")->value(of, 0.02, 1e-4, 5e4) ==
        about(5e4 * 1e-4 / 0.81).epsilon(1e-12));
  CHECK(find_law(turbulent_dispersion_laws(), "lopez_de_bertodano")->value(of, 0.02, 1e-4, 5e4) ==
        about(1.9964).epsilon(1e-12));
}

TEST_CASE("a fine drop has Stokes' terminal speed, and in a crowd what Richardson and Zaki leave of it") {
  // At vanishing Reynolds number 24/Re: U = drho g d^2/(18 mu); the 0.15 Re^0.687 takes a little of it.
  Drag drag{find_law(drag_laws(), "schiller_naumann")};
  const double stokes = 113.2 * 9.81 * 25e-10 / (18 * 1.002e-3);
  const double alone = terminal_slip(drag, oil_drop);
  CHECK(alone < stokes);
  CHECK(alone == about(stokes).epsilon(0.01));
  drag.hindrance = find_law(hindrance_laws(), "richardson_zaki");
  for (const double share : {0.0, 0.05, 0.2, 0.4}) {
    DispersedBodies crowd = oil_drop;
    crowd.share = share;
    CHECK(terminal_slip(drag, crowd) == about(alone * std::pow(1 - share, 3.65)).epsilon(1e-9));
  }
}

TEST_CASE("a bubble of 4 mm rises in tap water at about 0.24 m/s, and a constant coefficient does as it says") {
  // Clift, Grace & Weber (1978), fig. 7.3: 0.22 to 0.25 m/s.
  DispersedBodies bubble = values[0].of;
  bubble.share = 0;
  for (const char* name : {"grace", "tomiyama_contaminated", "tomiyama_slightly_contaminated", "ishii_zuber"}) {
    INFO(name);
    const double speed = terminal_slip({find_law(drag_laws(), name)}, bubble);
    CHECK(speed > 0.215);
    CHECK(speed < 0.26);
  }
  Drag constant;
  constant.constant = 0.7;
  const double speed = std::sqrt(4 * 9.81 * 4e-3 * (998.2 - 1.204) / (3 * 0.7 * 998.2));
  CHECK(terminal_slip(constant, bubble) == about(speed).epsilon(1e-12));
  bubble.share = 0.3;
  constant.swarm_exponent = -2;  // C grows like 1/0.49, the mixture lifts 0.7 as much
  CHECK(terminal_slip(constant, bubble) == about(speed * std::sqrt(0.343)).epsilon(1e-12));
}

TEST_CASE("laws say where they hold") {
  for (const auto& law : drag_laws()) {
    INFO(std::string(law.name));
    CHECK(!law.equation.empty());
    CHECK(law.source.find('1') != std::string_view::npos);
    CHECK(!law.range.empty());
  }
  const auto holds = [](const char* name, const DispersedBodies& of) {
    return find_law(drag_laws(), name)->in_range(of);
  };
  CHECK_FALSE(holds("schiller_naumann", values[0].of));  // Re 877
  CHECK(holds("grace", values[0].of));
  CHECK(holds("schiller_naumann", values[3].of));
  CHECK(holds("kumar_hartland", values[3].of));
  CHECK_FALSE(holds("tomiyama_clean", {998, 1e-3, 885, 1e-3, 0, 1e-3, 9.81, 0.1, 0.1}));  // no surface tension
}
