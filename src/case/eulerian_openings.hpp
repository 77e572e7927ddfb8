// What openings of the Eulerian model have beside: mixtures, degassing surfaces, and spargers whose holes are not
// resolved.
#pragma once

#include "case/part.hpp"

namespace wavy {

/// What comes in, of many phases. `flow`: it is given.
template <int D>
void read_mixture(const Setup<D>& setup, Part& part, bool flow, OpeningSetup<D>& made);

/// A degassing surface. `chosen`: key of a flow or pressure that stands beside it, or empty.
template <int D>
void read_degassing(const Setup<D>& setup, Part& part, const std::string& chosen, OpeningSetup<D>& made);

/// A zone over which an opening is spread.
template <int D>
void read_zone(const Setup<D>& setup, Part& part, OpeningSetup<D>& made);

/// Throws where what comes in through a wall or in a zone is not given.
template <int D>
void check_source(const Part& part, const OpeningSetup<D>& made);

}  // namespace wavy
