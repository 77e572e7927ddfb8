// Shapes of vessels and inserts as they stand in a case file.
#pragma once

#include <optional>

#include "case/part.hpp"
#include "geometry/solids.hpp"

namespace wavy {

/// What a section describes: `shape` is one of its choices, the other keys belong to it. `of_vessel`: sizes from the
/// origin instead of corners and places. `vessel`: extent of the vessel, by which baffles stand. Throws an input error
/// for what cannot be.
template <int D>
Solid<D> read_solid(Part& part, const std::string& shape, bool of_vessel, const Vec<D>& vessel = {});

/// Turns and mirrors what the section says, about the middle of the solid.
template <int D>
Solid<D> placed(Part& part, Solid<D> solid);

}  // namespace wavy
