// Bodies from surface files.
#pragma once

#include "case/part.hpp"
#include "geometry/solids.hpp"

namespace wavy {

/// The body that the triangles of an STL or OBJ file enclose (keys file and unit of the section). Points that are the
/// same to a millionth of its size are joined, triangles without area dropped, and normals made to point outward.
/// Throws an input error that says where, if the surface has a hole, or an edge that more than two triangles share.
Solid<3> read_surface(Part& part);

}  // namespace wavy
