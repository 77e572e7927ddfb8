// Distance to a closed surface of triangles.
#pragma once

#include <array>
#include <vector>

#include "geometry/solids.hpp"

namespace wavy {

/// The body within a closed surface of triangles, given by the numbers of their corners, counter-clockwise seen from
/// outside. The distance is exact; its sign comes from the angle-weighted normals of faces, edges and corners
/// (Baerentzen & Aanaes, IEEE Trans. Vis. Comput. Graph. 11 (2005) 243).
Solid<3> triangle_solid(const std::vector<Vec<3>>& points, const std::vector<std::array<int, 3>>& triangles);

}  // namespace wavy
