// Bodies from surface files: what several closed surfaces in one file mean, and files that cannot be read.
#include <doctest/doctest.h>

#include <cstring>

#include "about.hpp"
#include "case/case_file.hpp"
#include "mesh/open_space.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

/// Faces of a box in an OBJ file whose points so far are `points` many; `inwards`: wound the other way round.
std::string box(long& points, const Vec<3>& lower, const Vec<3>& upper, bool inwards = false) {
  std::string text;
  for (int n = 0; n < 8; ++n) {
    text += "v";
    for (int d = 0; d < 3; ++d) {
      std::array<char, 40> number{};
      std::snprintf(number.data(), number.size(), " %.17g", (n >> d & 1) != 0 ? upper[d] : lower[d]);
      text += number.data();
    }
    text += "\n";
  }
  static constexpr std::array<std::array<int, 4>, 6> faces{
      {{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}}};
  for (auto face : faces) {
    if (inwards) std::swap(face[1], face[3]);
    text += "f";
    for (const int k : face) text += " " + std::to_string(points + k + 1);
    text += "\n";
  }
  points += 8;
  return text;
}

/// Volume of the vessel in a surface file [m3].
double volume_of(const TemporaryFolder& folder, const std::string& content, const std::string& name = "body.obj",
                 const std::string& cell = "5 cm") {
  folder.write(name, content);
  const CaseFile the_case =
      parse_case("wavy = 1\n[vessel]\nshape = \"surface\"\nfile = \"" + name + "\"\nunit = \"1 m\"\n[grid]\ncell = \"" +
                     cell + "\"\n[[phase]]\nname = \"water\"\nfluid = \"water\"\n[run]\nuntil = \"1 s\"\n",
                 folder / "case.toml");
  const auto& setup = std::get<Setup<3>>(the_case.setup);
  const auto grid = make_grid(setup);
  return make_space(setup, grid).open_volume();
}

void refuses(const std::string& name, const std::string& content, const std::string& words) {
  const TemporaryFolder folder;
  INFO(content.substr(0, 200));
  CHECK_THROWS_WITH_AS(volume_of(folder, content, name), doctest::Contains(words.c_str()), Error);
}

}  // namespace

TEST_CASE("bodies that overlap in one surface file are their union") {
  const TemporaryFolder folder;
  long n = 0;
  const std::string one = box(n, {0, 0, 0}, {1, 1, 1});
  CHECK(volume_of(folder, one) == about(1).epsilon(5e-4));
  const std::string crossing = one + box(n, {0.5, 0.5, 0.5}, {1.5, 1.5, 1.5});
  CHECK(volume_of(folder, crossing) == about(2 - 0.125).epsilon(1e-3));
  n = 8;  // side by side, on a common plane but without common points
  const std::string touching = one + box(n, {1, 0.2, 0.3}, {1.5, 0.7, 0.8});
  CHECK(volume_of(folder, touching) == about(1.125).epsilon(1e-3));
  n = 8;
  const std::string swallowed = one + box(n, {0.2, 0.2, 0.2}, {0.7, 0.7, 0.7});
  CHECK(volume_of(folder, swallowed) == about(1).epsilon(5e-4));
}

TEST_CASE("a surface that is wound inwards within another is a cavity, and one within that is a body again") {
  const TemporaryFolder folder;
  long n = 0;
  std::string shell = box(n, {0, 0, 0}, {1, 1, 1});
  shell += box(n, {0.2, 0.2, 0.2}, {0.8, 0.8, 0.8}, true);
  CHECK(volume_of(folder, shell) == about(1 - 0.216).epsilon(1e-3));
  const std::string core = shell + box(n, {0.4, 0.4, 0.4}, {0.6, 0.6, 0.6});
  CHECK(volume_of(folder, core) == about(1 - 0.216 + 0.008).epsilon(1e-3));
  n = 0;  // all of it inside out
  std::string inverted = box(n, {0, 0, 0}, {1, 1, 1}, true);
  inverted += box(n, {0.2, 0.2, 0.2}, {0.8, 0.8, 0.8});
  CHECK(volume_of(folder, inverted) == about(1 - 0.216).epsilon(1e-3));
}

TEST_CASE("a body far from the origin keeps its volume, or is refused where its digits are gone") {
  const TemporaryFolder folder;
  long n = 0;
  CHECK(volume_of(folder, box(n, {100, -50, 70}, {101, -49, 71})) == about(1).epsilon(5e-4));
  n = 0;
  refuses("body.obj", box(n, {1e6, 0, 0}, {1e6 + 1, 1, 1}), "from the origin");
}

TEST_CASE("surface files that cannot be read are refused with the place") {
  long n = 0;
  const std::string cube = box(n, {0, 0, 0}, {1, 1, 1});
  refuses("body.obj", cube + "f 1 2 99\n", "body.obj:15:1: a face names point 99; there are 8");
  refuses("body.obj", cube + "f 1 2\n", "a face has at least three corners");
  refuses("body.obj", cube + "f 1 a 2\n", "'a' is no number of a point");
  refuses("body.obj", cube + "v 1 nan 2\n", "'nan' is no coordinate");
  refuses("body.stl", "solid a\nfacet\nvertex 0 0 0\nvertex 1 0\n", "body.stl:4:1: a point has three coordinates");
  refuses("body.stl", "solid a\nfacet\nvertex 0 0 0\n", "ends within a face");
  std::string binary(84 + 50 * 4, '\0');
  const std::uint32_t many = 0x7fffffff;
  std::memcpy(binary.data() + 80, &many, sizeof(many));
  refuses("body.stl", binary, "has room for 4");
  refuses("body.stl", "short", "too short");
  // Normals and textures need not be there: nothing is made of them.
  const TemporaryFolder folder;
  n = 0;
  std::string with_normals = box(n, {0, 0, 0}, {1, 1, 1});
  for (std::size_t at = with_normals.find("f "); at != std::string::npos; at = with_normals.find("f ", at + 2))
    for (std::size_t k = 0, from = at + 2; k < 4; ++k) {
      from = with_normals.find_first_of(" \n", from);
      with_normals.insert(from, "/7/9");
      from += 5;
    }
  CHECK(volume_of(folder, with_normals) == about(1).epsilon(5e-4));
}
