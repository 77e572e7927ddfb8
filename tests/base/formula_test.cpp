#include "base/formula.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <fstream>

#include "about.hpp"
#include "base/text.hpp"

using namespace wavy;

namespace {

const Place here{"a.toml", 3, 7, "motion.acceleration"};

Formula formula(const std::string& text, const FormulaNames& names = {},
                const Dimension& wanted = dimension::acceleration) {
  return {text, names, wanted, here};
}

std::string complaint(const std::string& text, const FormulaNames& names = {}) {
  try {
    formula(text, names);
  } catch (const Error& error) {
    CHECK(error.fault() == Fault::input);
    CHECK(error.place().line == 3);
    return error.what();
  }
  FAIL("accepted: ", text);
  return "";
}

}  // namespace

TEST_CASE("a formula turns units into SI and follows time") {
  const Formula sway = formula("30 cm/s^2 * sin(2 * pi * t / 1.5 s)");
  CHECK(sway(0.375) == about(0.3));
  CHECK_FALSE(sway.is_constant());
  const Formula quantity = formula("-3 m/s^2");
  CHECK(quantity.is_constant());
  CHECK(quantity(7) == about(-3));
  CHECK(formula("1 ft/s^2 + 1")(0) == about(1.3048));
}

TEST_CASE("ramp, step and pulse do what their names say") {
  const Formula ramp = formula("ramp(t, 1 s, 3 s, 0, 4 m/s^2)");
  CHECK(ramp(0.5) == 0);
  CHECK(ramp(2) == about(2));
  CHECK(ramp(9) == about(4));
  CHECK(formula("step(t, 2 s, 1, 5)")(1.99) == 1);
  CHECK(formula("step(t, 2 s, 1, 5)")(2) == 5);
  const Formula pulse = formula("pulse(t, 1 s, 2 s, 3)");
  CHECK(pulse(0.9) == 0);
  CHECK(pulse(1.5) == 3);
  CHECK(pulse(2) == 0);
}

TEST_CASE("constants and tables can be used, and a copy of a formula works by itself") {
  FormulaNames names;
  names.constants["braking"] = -2;
  names.tables.emplace("road", Curve({0, 1, 2}, {0, 10, 0}));
  const Formula one = formula("braking + road(t)", names);
  const Formula two(one);  // NOLINT(performance-unnecessary-copy-initialization)
  CHECK(one(0.5) == about(3));
  CHECK(two(1.5) == about(3));
  CHECK(two(99) == about(-2));
}

TEST_CASE("a formula that cannot be understood is refused with a remedy") {
  CHECK(complaint("3 m").find("a length") != std::string::npos);
  CHECK(complaint("rampe(t, 0, 1, 2, 3)").find("ramp") != std::string::npos);
  CHECK(complaint("2 +").find("cannot be understood") != std::string::npos);
  CHECK(complaint("5").find("no unit") != std::string::npos);
  CHECK(complaint("1/t * 2 m/s^2").find("not finite") != std::string::npos);
  CHECK(complaint("2 blorps * t").find("not a unit") != std::string::npos);
  CHECK(complaint(std::string(3000, '1')).find("2000") != std::string::npos);
}

TEST_CASE("a value that is not finite stops the run with the formula quoted") {
  const Formula f = formula("1 / (t - 1 s)");
  CHECK(f(0) == about(-1));
  CHECK_THROWS_WITH_AS(f(1), doctest::Contains("1 / (t - 1 s)"), Error);
}

TEST_CASE("a table is read with its units' names, and its faults have a line") {
  const auto file = std::filesystem::temp_directory_path() / "wavy_table_test.csv";
  std::ofstream(file) << "# a comment\nt [s], ax [m/s^2]\n0, 0\n1.5, -3\n";
  const Table table = read_csv(file);
  CHECK(table.find("ax") == 1);
  CHECK(table.units[1] == "m/s^2");
  CHECK(table.columns[1][1] == -3);
  std::ofstream(file) << "t,a\n0,0\n1,x\n";
  CHECK_THROWS_WITH_AS(read_csv(file), doctest::Contains(":3:"), Error);
  std::ofstream(file) << "t,a\n0\n";
  CHECK_THROWS_WITH_AS(read_csv(file), doctest::Contains("2 columns"), Error);
  std::filesystem::remove(file);
}

TEST_CASE("words for people") {
  CHECK(nearest("visocsity", {"density", "viscosity", "volume"}) == "viscosity");
  CHECK(nearest("zzz", {"density", "viscosity"}).empty());
  CHECK(listing({"a", "b", "c"}) == "a, b or c");
  CHECK(quantity(0.0125, "m") == "12.5 mm");
  CHECK(quantity(7850, "Pa") == "7850 Pa");
  CHECK(quantity(0.48, "m3") == "480 L");
  CHECK(duration(75) == "1 min 15 s");
  CHECK(aligned({{"a", "bb"}, {"ccc", "d"}}) == "  a    bb\n  ccc  d\n");
  CHECK(wrapped("one two three", 9, "# ") == "# one two\n# three\n");
}

TEST_CASE("min is a minute behind a number and a function before a bracket") {
  const Formula flow("ramp(t, 0 min, 1 min, 0, 6 L/min)", {}, dimension::volume_flow, {});
  CHECK(flow(30) == about(5e-5));
  const Formula least("min(2 m, 3 m) + 1 m", {}, dimension::length, {});
  CHECK(least(0) == about(3));
  const Formula turns("2 * 30 rev/min", {}, dimension::rotation, {});
  CHECK(turns(0) == about(2 * M_PI));
}
