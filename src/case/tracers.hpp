// Tracers, their doses and what openings bring of them, as they stand in a case file.
#pragma once

#include <string>
#include <vector>

#include "case/sections.hpp"

namespace wavy {

/// All [[tracer]], once the phases are known.
template <int D>
void read_tracers(Sections& sections, Setup<D>& setup);

/// All [[dose]].
template <int D>
void read_doses(Sections& sections, Setup<D>& setup);

/// What an opening brings, once its flow and mixture are known.
template <int D>
void read_concentrations(const Setup<D>& setup, Part& part, OpeningSetup<D>& made);
/// What a fill brings of them. Without its keys: as they start.
template <int D>
void read_concentrations(const Setup<D>& setup, Part& part, Fill<D>& made);

/// Once all else is known: warnings of tracers.
template <int D>
void remark_tracers(const Setup<D>& setup, CaseFile& out);

/// What the tracers are, a line each.
template <int D>
std::vector<std::string> words_on_tracers(const Setup<D>& setup);

}  // namespace wavy
