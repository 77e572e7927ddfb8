// Parts of space as they stand in a case file, by what share of a cell they take.
#pragma once

#include "case/part.hpp"
#include "geometry/shapes.hpp"
#include "geometry/solids.hpp"

namespace wavy {

/// By the keys 'lower' and 'upper'. Throws an input error where it has no extent; one that is `flat` may have none
/// along some axes.
template <int D>
AlignedBox<D> read_box(Part& part, bool flat = false);

/// By the keys 'centre' and 'diameter', both of which must be there.
template <int D>
Ball<D> read_ball(Part& part);

/// Where the formula of the place in the key 'where' is positive; it is taken as linear in quarters of a cell. Throws
/// an input error where it does not depend on the place.
template <int D>
Covering<D> read_covering_where(Part& part, const FormulaNames& names);

/// What a solid's distance tells of a cell, taken as linear in quarters of it.
template <int D>
Covering<D> covering_of(const Solid<D>& solid);

}  // namespace wavy
