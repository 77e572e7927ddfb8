#include "base/archive.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <string>

#include "base/error.hpp"

using wavy::Archive;

namespace {

struct Inner {
  long steps = 0;
  bool open = false;
  std::array<double, 2> volumes{};
  void archive(Archive& a) {
    a("steps", steps);
    a("open", open);
    a("volumes", volumes);
  }
};

struct Outer {
  double time = 0;
  std::vector<double> list;
  std::string name;
  Inner first, second;
  void archive(Archive& a) {
    a("time", time);
    a("list", list);
    a("name", name);
    a.within("first", [&] { first.archive(a); });
    a.within("second", [&] { second.archive(a); });
  }
};

}  // namespace

TEST_CASE("what an archive keeps comes back to the last bit") {
  Outer kept{0.1 + 0.2, {1, -0.0, 1e-310, INFINITY}, "a\nb", {(1L << 53) - 1, true, {1.0 / 3, 2}}, {-4, false, {}}};
  Archive a;
  kept.archive(a);
  CHECK_FALSE(a.reading());
  Archive back(a.numbers(), a.texts());
  CHECK(back.reading());
  Outer found;
  found.archive(back);
  CHECK(found.time == kept.time);
  CHECK(found.list == kept.list);
  CHECK(std::signbit(found.list[1]));
  CHECK(found.name == kept.name);
  CHECK(found.first.steps == kept.first.steps);
  CHECK(found.first.open);
  CHECK(found.first.volumes == kept.first.volumes);
  CHECK(found.second.steps == -4);
  CHECK_FALSE(found.second.open);
}

TEST_CASE("any number of lines of text come back, and none") {
  Archive a;
  std::vector<std::string> kept{"output times", "", "largest_step"};
  std::vector<std::string> none;
  a("lines", kept);
  a("none", none);
  Archive back(a.numbers(), a.texts());
  std::vector<std::string> found{"something else"};
  back("lines", found);
  CHECK(found == kept);
  back("none", found);
  CHECK(found.empty());
}

TEST_CASE("an archive that lacks something, or has another number of values, says which") {
  Archive a;
  Inner inner;
  a.within("gauges", [&] { inner.archive(a); });
  const auto complaint = [&](Archive::Numbers numbers) {
    Archive back(std::move(numbers), {});
    std::string problem;
    try {
      back.within("gauges", [&] { inner.archive(back); });
    } catch (const wavy::Error& error) {
      problem = error.problem();
    }
    return problem;
  };
  CHECK(complaint(a.numbers()).empty());
  auto numbers = a.numbers();
  numbers.erase("gauges/open");
  CHECK(complaint(numbers).find("'gauges/open'") != std::string::npos);
  numbers = a.numbers();
  numbers["gauges/volumes"].push_back(1);
  CHECK(complaint(numbers).find("'gauges/volumes'") != std::string::npos);
  std::string text;
  Archive empty({}, {});
  CHECK_THROWS_AS(empty("case", text), wavy::Error);
  std::vector<double> list;
  CHECK_THROWS_AS(empty("list", list), wavy::Error);
}
