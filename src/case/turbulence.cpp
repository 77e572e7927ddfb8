#include "case/turbulence.hpp"

#include <algorithm>

#include "physics/bubbles_and_drops.hpp"

namespace wavy {

template <int D>
void read_turbulence(Sections& sections, Setup<D>& setup) {
  if (!sections.root().contains("turbulence")) return;
  Part part = sections.section("turbulence");
  part.refuse_unknown();
  const bool eulerian = sections.root()["model"].value_or(std::string()) == "eulerian";
  auto& turbulence = setup.turbulence;
  const std::string name = part.choice("law");
  if (name == "none") {
    for (const char* key : {"start_intensity", "start_speed", "start_length", "roughness", "interface_damping",
                            "rotation_correction", "bodies_stir"})
      if (part.has(key)) throw part.wrong(key, "the flow is laminar", "leave it out, or give turbulence.law");
    return;
  }
  turbulence.law = find_law(turbulence_laws(), name);
  const bool large_eddy = turbulence.law->second == TurbulenceLaw::Second::none;
  for (const char* key : {"start_intensity", "start_speed", "start_length", "interface_damping"})
    if (large_eddy && part.has(key))
      throw part.wrong(key, name + " keeps no energy of its own", "leave it out, or choose a law of k");
  const double least = *std::ranges::min_element(setup.size);
  turbulence.start.length = mixing_share * least;
  if (!large_eddy) {
    turbulence.start.intensity = part.quantity("start_intensity");
    if (part.has("start_speed")) turbulence.start_speed = part.quantity("start_speed");
    if (part.has("start_length")) turbulence.start.length = part.quantity("start_length");
    if (turbulence.start.length > least)
      throw part.wrong("start_length",
                       fmt::format("eddies of {} are larger than the vessel, {}",
                                   quantity(turbulence.start.length, "m"), quantity(least, "m")),
                       "give a share of it");
  }
  if (part.has("roughness")) turbulence.roughness = part.quantity("roughness");
  if (turbulence.roughness > setup.cell_size)
    throw part.wrong("roughness",
                     fmt::format("{} is more than a cell of {}: such roughness is a shape of its own",
                                 quantity(turbulence.roughness, "m"), quantity(setup.cell_size, "m")),
                     "give a smaller one, or build it of inserts");
  if (part.has("interface_damping") && eulerian)
    throw part.wrong("interface_damping", "the Eulerian model has no sharp interface", "leave it out");
  if (!eulerian && !large_eddy) turbulence.interface_damping = part.quantity("interface_damping");
  const bool sst = turbulence.law->name == k_omega_sst.name;
  if (part.has("rotation_correction") && !sst)
    throw part.wrong("rotation_correction", "it belongs to law = \"k_omega_sst\"", "choose that law, or leave it out");
  if (sst) turbulence.rotation_correction = part.choice("rotation_correction") == "yes";
  if (part.has("bodies_stir") && !eulerian)
    throw part.wrong("bodies_stir", "it belongs to model = \"eulerian\"", "leave it out");
  if (eulerian) setup.bodies_stir = part.choice("bodies_stir") == "yes";
  if (large_eddy && D == 2)
    part.remark(fmt::format("{} is meant for flow in space: in 2-D large eddies do not break up as they do there",
                            turbulence.law->name));
  if (setup.symmetry != Symmetry::none && large_eddy)
    part.remark(
        fmt::format("{} follows eddies that are no images of each other: take the whole vessel", turbulence.law->name));
  const bool all_slip =
      setup.solid_walls == Wall::slip && std::ranges::all_of(setup.walls, [](const auto& axis) {
        return std::ranges::all_of(axis, [](Wall kind) { return kind == Wall::slip || kind == Wall::mirror; });
      });
  if (all_slip) part.remark("all walls slip: they make no turbulence, and what the start and openings bring dies away");
}

template void read_turbulence<2>(Sections&, Setup<2>&);
template void read_turbulence<3>(Sections&, Setup<3>&);

}  // namespace wavy
