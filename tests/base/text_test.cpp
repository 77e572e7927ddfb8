#include "base/text.hpp"

#include <doctest/doctest.h>

using namespace wavy;

TEST_CASE("the nearest word is the one that was meant, or none") {
  const std::vector<std::string> words{"volume_flow", "mass_flow", "vessel_volumes", "speed"};
  CHECK(nearest("volumeflow", words) == "volume_flow");
  CHECK(nearest("Mass_Flow", words) == "mass_flow");
  CHECK(nearest("seped", words) == "speed");  // neighbours swapped count once
  CHECK(nearest("viscosity", words).empty());
  CHECK(nearest("", words).empty());
  CHECK(nearest(std::string(100000, 'x'), words).empty());  // and soon
}

TEST_CASE("words are listed as in a sentence") {
  CHECK(listing({}).empty());
  CHECK(listing({"a"}) == "a");
  CHECK(listing({"a", "b"}) == "a or b");
  CHECK(listing({"a", "b", "c"}, "and") == "a, b and c");
}

TEST_CASE("columns stand under each other, whatever letters they hold") {
  CHECK(aligned({{"µm", "one"}, {"longer", "two"}}) == "  µm      one\n  longer  two\n");
  CHECK(aligned({{"a", "b", ""}, {"aa", ""}}) == "  a   b\n  aa\n");  // no blanks at the ends of lines
  CHECK(aligned({}).empty());
}

TEST_CASE("a quantity is shown in the unit in which an engineer would say it") {
  CHECK(quantity(0.0125, "m") == "12.5 mm");
  CHECK(quantity(12500, "m") == "12.5 km");
  CHECK(quantity(-0.3, "m") == "-300 mm");
  CHECK(quantity(0.99999, "m") == "1 m");  // not 1000 mm
  CHECK(quantity(3e-6, "m") == "3 µm");
  CHECK(quantity(101325, "Pa") == "101.3 kPa");
  CHECK(quantity(2.5e6, "Pa") == "25 bar");
  CHECK(quantity(1.002e-3, "Pa.s") == "1.002 mPa·s");
  CHECK(quantity(0.2258, "m3") == "225.8 L");
  CHECK(quantity(2e-5, "m3/s") == "20 mL/s");
  CHECK(quantity(998.2, "kg/m3") == "998.2 kg/m³");
  CHECK(quantity(0.5, "1") == "0.5");
  CHECK(quantity(7, "rev") == "7 rev");  // unknown to it: as it is
  CHECK(quantity(0, "m3") == "0 m³");
  CHECK(quantity(-0.0, "m3/s") == "0 m³/s");
  CHECK(quantity(1.0 / 3, "m", 2) == "3.3e+02 mm");
}

TEST_CASE("times are told in the words of a clock") {
  CHECK(duration(0.84) == "0.8 s");
  CHECK(duration(9.97) == "10 s");
  CHECK(duration(59.97) == "1 min 0 s");
  CHECK(duration(200) == "3 min 20 s");
  CHECK(duration(7500) == "2 h 5 min");
  CHECK(duration(1e6) == "11 days");
  CHECK(duration(1e300) == "11574074074 days");
}

TEST_CASE("long text is broken between words") {
  CHECK(wrapped("one two three", 8, "") == "one two\nthree\n");
  CHECK(wrapped("one  two", 80, "> ") == "> one two\n");
  CHECK(wrapped("unbreakable", 4, "") == "unbreakable\n");
  CHECK(wrapped("µµµ µµµ", 7, "") == "µµµ µµµ\n");  // counted as it is seen
}
