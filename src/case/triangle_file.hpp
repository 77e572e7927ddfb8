// Triangles from STL and OBJ files.
#pragma once

#include <array>
#include <filesystem>
#include <vector>

#include "geometry/vector.hpp"

namespace wavy {

/// Triangles by the numbers of their corners, as the file winds them. Corners that several triangles share may stand
/// several times.
struct Triangles {
  std::vector<Vec<3>> points;
  std::vector<std::array<int, 3>> corners;
};

/// Reads an STL file (text or binary) or an OBJ file, by its ending; faces of more than three corners fall into
/// triangles, all else of an OBJ file than points and faces is passed over. Throws an input error that names the file,
/// and in text the line, for what cannot be.
Triangles read_triangles(const std::filesystem::path& file);

}  // namespace wavy
