// Agitators and what turns with them, as they stand in a case file.
#pragma once

#include <string>
#include <vector>

#include "case/sections.hpp"

namespace wavy {

/// What is to turn, before the agitators are known.
template <int D>
struct ToTurn {
  AgitatorPart<D> part;
  Solid<D> true_size;  ///< as measured, where the grid gives it another thickness; where it is described
  std::string with;    ///< name of the agitator; empty: the only one
  Place with_place{}, size_place{};
};

/// An insert that turns.
template <int D>
ToTurn<D> read_turning_insert(Part& part, const Setup<D>& setup, const Solid<D>& solid, const std::string& name);

/// All [[impeller]]; solids round the origin.
template <int D>
void read_impellers(Sections& sections, const Setup<D>& setup, std::vector<ToTurn<D>>& to_turn);

/// All [[agitator]], with their shafts and what turns with them. `inside`: of the vessel. Throws an input error where
/// something would turn through a wall.
template <int D>
void read_agitators(Sections& sections, Setup<D>& setup, const Solid<D>& inside, std::vector<ToTurn<D>> to_turn);

/// Once all else is known: warnings of what turns.
template <int D>
void remark_agitators(const Setup<D>& setup, CaseFile& out);

/// What the agitators amount to, a line each: speeds, numbers, the power to be expected.
template <int D>
std::vector<std::string> words_on_agitators(const Setup<D>& setup);

/// Of the zones of frozen frames, a line each.
template <int D>
std::vector<std::string> words_on_frames(const Setup<D>& setup);

/// What a flow of gas [m3/s] into a vessel with so much room [m3] means to the lowest disc turbine; nothing without
/// one.
template <int D>
std::vector<std::string> words_on_gassing(const Setup<D>& setup, double flow, double room);

}  // namespace wavy
