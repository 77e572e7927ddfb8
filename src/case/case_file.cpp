#include "case/case_file.hpp"

#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>
#include <sstream>

#include "base/files.hpp"
#include "base/formula_dimensions.hpp"
#include "base/text.hpp"
#include "case/fills.hpp"
#include "case/gauges.hpp"
#include "case/keys.hpp"
#include "case/line_file.hpp"
#include "case/moving_walls.hpp"
#include "case/openings.hpp"
#include "case/part.hpp"
#include "case/solids.hpp"
#include "case/viscosity.hpp"

namespace wavy {
namespace {

constexpr std::size_t longest_file = 1 << 20;
constexpr double most_cells = 1e9;
constexpr double most_snapshots = 1e5;

/// Reads the whole file in the order of its sections.
class Reader {
 public:
  /// `geometry_only`: vessel, inserts and openings, without what fills them.
  Reader(const toml::table& root, const std::filesystem::path& file, bool geometry_only)
      : root_(root), geometry_only_(geometry_only) {
    out_.file = file;
    top_.file = file.string();
    top_.line = 1;
    top_.column = 1;
  }

  CaseFile read() {
    Part top(&root_, "", "", top_, out_);
    const bool line = root_["model"].value_or(std::string()) == "line";
    if (line)
      top.refuse_unknown(
          {"line", "leg", "source", "valve", "outlet", "constants", "tables", "phase", "pair", "gauge", "run"});
    else
      top.refuse_unknown({"vessel", "grid", "constants", "tables", "phase", "pair", "insert", "moving_wall", "opening",
                          "fill", "motion", "gauge", "run"});
    note_lines(root_, "");
    if (const long format = top.whole_number("wavy"); format != 1)
      throw top.wrong("wavy", fmt::format("this program reads format 1, not {}", format),
                      "a newer program wrote this file: use that one, or set wavy = 1");
    out_.title = top.has("title") ? top.text("title") : out_.file.stem().string();
    if (!top.has("title")) out_.as_run += "title = " + toml_text(out_.title) + "\n";
    top.choice("model", "sharp");
    read_names();
    if (line) {
      read_line_case();
      return std::move(out_);
    }

    Part vessel = section("vessel");
    vessel_place_ = vessel.place();
    vessel.refuse_unknown({"walls"});
    const std::string shape = vessel.choice("shape", "box");
    if (dimensions_of(vessel, shape) == 2)
      read_rest<2>(vessel, shape);
    else
      read_rest<3>(vessel, shape);
    return std::move(out_);
  }

 private:
  Part section(const std::string& name, bool header = true) {
    const toml::node* node = root_.at_path(name).node();
    if (header) out_.as_run += fmt::format("\n[{}]\n", name);
    Place place = top_;
    if (node != nullptr) {
      Part::move_to(place, *node);
      if (!node->is_table()) {
        place.key = name;
        throw input_error(place, fmt::format("a section is needed here, not {}", Part::kind_of(*node)),
                          fmt::format("write [{}] on a line of its own", name));
      }
    }
    return {node == nullptr ? nullptr : node->as_table(), name, name, place, out_};
  }

  /// Every [[name]] in turn.
  template <class Fn>
  void each(const std::string& name, Fn&& fn) {
    const toml::node* node = root_.get(name);
    if (node == nullptr) return;
    Place place = top_;
    Part::move_to(place, *node);
    place.key = name;
    const toml::array* list = node->as_array();
    if (list == nullptr)
      throw input_error(place, fmt::format("this section may stand several times: double brackets are needed"),
                        fmt::format("write [[{}]]", name));
    std::size_t number = 0;
    for (const auto& item : *list) {
      ++number;
      Part::move_to(place, item);
      if (!item.is_table())
        throw input_error(place, fmt::format("a section is needed here, not {}", Part::kind_of(item)),
                          fmt::format("write [[{}]] on a line of its own", name));
      out_.as_run += fmt::format("\n[[{}]]\n", name);
      fn(Part(item.as_table(), name, fmt::format("{}[{}]", name, number), place, out_));
    }
  }

  /// Where everything stands in the file, and what has a name.
  void note_lines(const toml::table& table, const std::string& path) {
    CaseFile::Named named;
    for (const auto& [key, node] : table) {
      const std::string name = path.empty() ? std::string(key.str()) : path + "." + std::string(key.str());
      const int line = static_cast<int>(key.source().begin.line);
      out_.lines[name].push_back(line);
      const auto* list = node.as_array();
      const bool of_sections = list != nullptr && !list->empty() && list->get(0)->is_table();
      if (const auto* inner = node.as_table()) {
        note_lines(*inner, name);
      } else if (of_sections) {
        for (const auto& item : *list)
          if (const auto* entry = item.as_table()) note_lines(*entry, name);
      } else {
        std::ostringstream value;
        node.visit([&](const auto& leaf) { value << toml::toml_formatter(leaf); });
        const CaseFile::Setting setting{name, value.str(), line};
        out_.settings.push_back(setting);
        named.settings.push_back(setting);
        if (path == "constants")
          out_.named.push_back({std::string(key.str()), path, line, {setting}});
        else if (key.str() == "name")
          named.name = node.value_or(std::string());
        if (key.str() == "name") named.line = line;
      }
    }
    if (named.name.empty() && path.starts_with("tables.")) {
      named.name = path.substr(path.find('.') + 1);
      named.line = named.settings.empty() ? 0 : named.settings.front().line;
    }
    if (named.name.empty()) return;
    std::ranges::stable_sort(named.settings, {}, &CaseFile::Setting::line);
    named.section = path;
    out_.named.push_back(std::move(named));
  }

  static double read_surface_tension(Part& pair, const std::string& standard) {
    constexpr double most = 1e6;  // [N/m]: in scaled units it may be far from that of any liquid
    const double value = pair.quantity("surface_tension", standard);
    if (!(value >= 0 && value < most))
      throw pair.wrong("surface_tension", fmt::format("the surface tension must lie between 0 and {:g} N/m", most));
    return value;
  }

  void read_line_case() {
    LineSetup setup;
    const FormulaNames& names = out_.names;
    Place last = top_;
    std::vector<std::string> origins;
    std::vector<double> temperatures;
    const std::vector<Phase> phases = read_phase_list(names, last, origins, temperatures);
    last.key = "phase";
    if (phases.size() != 2)
      throw input_error(
          last,
          fmt::format("a line takes a liquid and a gas; {} given", phases.empty()       ? "none is"
                                                                   : phases.size() == 1 ? "one is"
                                                                                        : "more are"),
          "write two [[phase]] sections, for example one with fluid = \"water\" and one with fluid = \"air\"");
    const std::size_t dense = phases[0].properties.density >= phases[1].properties.density ? 0 : 1;
    setup.phases = {phases[dense], phases[1 - dense]};
    setup.gas_temperature = temperatures[1 - dense];
    out_.phase_origins = {origins[dense], origins[1 - dense]};
    for (const auto& phase : setup.phases)
      if (!phase.properties.rheology.constant())
        throw input_error(last, fmt::format("in a line '{}' cannot thin or thicken with shear", phase.name),
                          "give it one viscosity");
    for (const auto& phase : setup.phases)
      if (!(phase.properties.viscosity > 0))
        throw input_error(last, fmt::format("in a line '{}' needs a viscosity above 0", phase.name), "give viscosity");
    Part pair = section("pair");
    pair.refuse_unknown();
    for (const char* key : {"contact_angle", "slip_length"})
      if (pair.has(key)) throw pair.wrong(key, "a line has no such setting", "leave it out");
    setup.surface_tension = read_surface_tension(pair, "72 mN/m");
    read_line({[&](const std::string& name) { return section(name); },
               [&](const std::string& name, const std::function<void(Part)>& fn) { each(name, fn); }, top_},
              names, setup);
    out_.setup = std::move(setup);
  }

  /// 2 or 3: as many as there are lengths or coordinates, else as the shape is or the user says.
  static int dimensions_of(Part& vessel, const std::string& shape) {
    const auto* symmetry = vessel.find("symmetry");
    const bool round = symmetry != nullptr && symmetry->value_or(std::string()) == "round";
    std::size_t found = shape == "circle" || (shape == "cylinder" && round) ? 2 : 3;
    const char* from = "shape";
    if (shape == "box") {
      const auto* list = vessel.find("size") == nullptr ? nullptr : vessel.find("size")->as_array();
      if (list == nullptr) {
        if (vessel.has("size")) vessel.quantities("size");  // says what is wrong with it
        throw vessel.wrong("", "the key 'size' is missing", "write, for example, size = [\"1.2 m\", \"0.8 m\"]");
      }
      from = "size";
      found = list->size();
      if (found != 2 && found != 3)
        throw vessel.wrong("size", fmt::format("{} {} given; two are needed for 2-D, three for 3-D", found,
                                               found == 1 ? "length is" : "lengths are"));
    } else if (shape == "pipe" || shape == "polygon") {
      const auto* list = vessel.find("points") == nullptr ? nullptr : vessel.find("points")->as_array();
      const auto* row = list == nullptr || list->empty() ? nullptr : list->get(0)->as_array();
      if (row != nullptr && (row->size() == 2 || row->size() == 3)) found = row->size();
      if (shape == "polygon") found = vessel.has("upper_end") ? 3 : 2;
      from = "points";
    }
    if (vessel.has("dimensions")) {
      const long wanted = vessel.whole_number("dimensions");
      if (wanted != 2 && wanted != 3) throw vessel.wrong("dimensions", fmt::format("{} is not 2 or 3", wanted));
      if (shape == "cylinder") return static_cast<int>(wanted);
      if (wanted != static_cast<long>(found))
        throw vessel.wrong("dimensions", fmt::format("'{}' makes this a {}-D vessel", from, found), "leave it out");
    }
    return static_cast<int>(found);
  }

  template <int D>
  void read_rest(Part& vessel, const std::string& shape) {
    Setup<D> setup;
    setup.vessel_place = vessel_place_;
    setup.symmetry = read_symmetry<D>(vessel);
    const bool round = setup.symmetry == Symmetry::round;
    if (setup.symmetry == Symmetry::sector) {
      vessel.need("sector", "give the angle of the wedge, such as sector = \"30 deg\"");
      setup.sector = vessel.quantity("sector");
      const double times = std::numbers::pi / setup.sector;
      constexpr double most = 36;
      if (!(setup.sector > 0) || times > most + 1e-9 || times < 2 - 1e-9 || std::abs(times - std::round(times)) > 1e-6)
        throw vessel.wrong("sector",
                           fmt::format("{:.4g} deg does not go into 180 deg a whole number of times, 2 to {:.0f}",
                                       setup.sector * 180 / std::numbers::pi, most),
                           "choose 90, 60, 45, 36, 30 ... deg");
    }
    Solid<D> body = placed<D>(vessel, read_solid<D>(vessel, shape, true));
    if (round && (shape == "polygon" || shape == "pipe") && body.lower[0] < 0)
      throw vessel.wrong("points", "a distance from the axis must not be negative",
                         "x counts from the axis of revolution outwards");
    Vec<D> back;
    for (std::size_t d = 0; d < D; ++d) {
      back[d] = round && d == 0 ? 0.0 : -body.lower[d];
      setup.size[d] = body.upper[d] + back[d];
    }
    body = moved<D>(body, back);
    setup.upper = setup.size;
    const bool plain = shape == "box" && !vessel.has("tilted");
    read_repeats(vessel, setup, plain);
    if (round) {
      if (vessel.has("thickness"))
        throw vessel.wrong("thickness", "a vessel turned round an axis has no thickness", "leave it out");
    } else if constexpr (D == 2) {
      setup.thickness = vessel.quantity("thickness", "1 m");
      if (!(setup.thickness > 0)) throw vessel.wrong("thickness", "the thickness must be positive");
    } else if (vessel.has("thickness")) {
      throw vessel.wrong("thickness", "a 3-D vessel has no thickness", "leave it out, or give size only two lengths");
    }
    read_walls(setup);
    read_grid(setup);
    if (!plain) setup.vessel = body;
    const FormulaNames& names = out_.names;
    read_phases(setup, names);
    Part pair = section("pair");
    pair.refuse_unknown();
    setup.surface_tension = read_surface_tension(pair, "0 N/m");
    setup.contact_angle = pair.quantity("contact_angle", "90 deg");
    constexpr double degree = std::numbers::pi / 180;
    if (!(setup.contact_angle >= 5 * degree && setup.contact_angle <= 175 * degree))
      throw pair.wrong("contact_angle", fmt::format("a contact angle of {:.4g} deg is outside 5 to 175 deg",
                                                    setup.contact_angle / degree));
    if (std::abs(setup.contact_angle - 90 * degree) > 1e-9 && setup.surface_tension == 0)
      throw pair.wrong("contact_angle", "a contact angle does nothing without a surface tension",
                       "give pair.surface_tension, or leave it out");
    if (pair.has("slip_length")) {
      setup.slip_length = pair.quantity("slip_length");
      if (!(setup.slip_length > 0 && setup.slip_length < setup.cell_size))
        throw pair.wrong("slip_length", fmt::format("a slip length of {} must lie between 0 and the cell of {}",
                                                    quantity(setup.slip_length, "m"), quantity(setup.cell_size, "m")));
    }
    const Solid<D> inside = read_inserts<D>(setup, body, shape == "surface" ? back : Vec<D>{});
    each("moving_wall", [&](Part part) { setup.moving_walls.push_back(read_moving_wall(setup, part, names)); });
    read_motion(setup, names);
    read_gauges(setup);
    read_openings(setup, Shell<D>{inside, plain}, names);
    if (geometry_only_) {
      take_part(setup);
      out_.setup = std::move(setup);
      return;
    }
    each("fill", [&](Part part) { setup.fills.push_back(read_fill(setup, part, names)); });
    choose_outside(setup, out_.notes);
    read_schedule(setup);
    take_part(setup);
    double cells = 1;  // with all that inserts and stubs add
    for (std::size_t d = 0; d < D; ++d) cells *= std::max(4.0, (setup.upper[d] - setup.lower[d]) / setup.cell_size);
    check_cells(setup, cells);
    out_.setup = std::move(setup);
  }

  template <int D>
  static Symmetry read_symmetry(Part& vessel) {
    const std::string name = vessel.choice("symmetry", "none");
    if (name == "round") {
      if (D != 2)
        throw vessel.wrong("symmetry", "round belongs to a 2-D section, from the axis outwards",
                           "give two lengths (radius and height), or dimensions = 2");
      if (vessel.has("tilted"))
        throw vessel.wrong("tilted", "a section that is turned round the upright axis cannot be tilted",
                           "leave it out, or describe the vessel in 3-D");
      return Symmetry::round;
    }
    if ((name == "quarter" || name == "sector") && D == 2)
      throw vessel.wrong("symmetry", fmt::format("a 2-D vessel has no {}", name), "write \"half\"");
    if (name != "sector" && vessel.has("sector"))
      throw vessel.wrong("sector", "an angle belongs to symmetry = \"sector\"", "leave it out, or set symmetry");
    if (name == "sector") return Symmetry::sector;
    return name == "half" ? Symmetry::half : name == "quarter" ? Symmetry::quarter : Symmetry::none;
  }

  template <int D>
  static void read_repeats(Part& vessel, Setup<D>& setup, bool plain) {
    const std::string along = vessel.choice("repeats", "none");
    if (along == "none") return;
    if (!plain) throw vessel.wrong("repeats", "only a box that is not tilted can repeat", "leave it out");
    for (const char axis : along) {
      const auto d = static_cast<std::size_t>(axis - 'x');
      if (d >= D) throw vessel.wrong("repeats", "a 2-D vessel has no z axis", "write \"x\" or \"y\"");
      if (mirrored(setup, static_cast<int>(d)))
        throw vessel.wrong("repeats", fmt::format("along {} the vessel ends at a mirror", axis),
                           "leave out repeats, or vessel.symmetry");
      setup.periodic[d] = true;
    }
  }

  /// Leaves the part of the vessel that is computed, and makes its volumes those of the whole.
  template <int D>
  void take_part(Setup<D>& setup) {
    if (setup.symmetry == Symmetry::none) return;
    const bool sector = setup.symmetry == Symmetry::sector;
    const int axes = setup.symmetry == Symmetry::quarter || sector ? 2 : 1;
    std::string part;
    for (int d = 0; d < axes; ++d) {
      const auto axis = static_cast<std::size_t>(d);
      // Along x a sector ends at the axis alone, and what is beyond is no image of it.
      setup.walls[axis][0] = sector && d == 0 ? Wall::slip : Wall::mirror;
      setup.lower[axis] = setup.symmetry == Symmetry::round ? 0.0 : 0.5 * setup.size[axis];
      for (auto& gauge : setup.gauges)
        if (gauge.at[axis] < setup.lower[axis]) gauge.at[axis] = setup.size[axis] - gauge.at[axis];
      if (setup.symmetry == Symmetry::round || sector) continue;
      part += fmt::format("{}from {} along {}", d == 0 ? "" : " and ", quantity(setup.lower[axis], "m"), "xyz"[axis]);
      for (const auto& given : setup.openings)
        if (given.opening.axis == d && given.wall.empty())
          out_.notes.push_back(fmt::format("'{}' stands for itself and its mirror image: its flows are those of both",
                                           given.opening.name));
    }
    setup.thickness /= share_of_vessel(setup);
    if (setup.symmetry == Symmetry::round)
      setup.thickness = 2 * std::numbers::pi * setup.upper[0];
    else if (sector)
      take_sector(setup);
    else
      out_.notes.push_back(fmt::format("computed {}; volumes, flows and forces are those of the whole vessel", part));
  }

  /// The wedge between the mirror at the middle of y and the one that is turned from it.
  template <int D>
  void take_sector(Setup<D>& setup) {
    setup.whole = setup.vessel ? *setup.vessel : box_solid<D>(setup.lower, setup.upper);
    Solid<D> wedge{[copy = setup](const Vec<D>& p) { return beyond_sector(copy, p); }, setup.lower, setup.upper};
    setup.vessel = intersection<D>(*setup.whole, wedge);
    for (const auto& given : setup.openings)
      if (given.opening.axis != D - 1 && given.wall.empty())
        out_.notes.push_back(fmt::format("'{}' stands for itself and its images: its flows are those of all {:.0f}",
                                         given.opening.name, setup.thickness));
    out_.notes.push_back(
        fmt::format("computed a sector of {:.4g} deg; volumes, flows and forces are those of the whole vessel, "
                    "pictures show the sector and its mirror image",
                    setup.sector * 180 / std::numbers::pi));
  }

  template <int D>
  void read_walls(Setup<D>& setup) {
    Part walls = section("vessel.walls");
    walls.refuse_unknown();
    const std::string all = walls.choice("all", "no-slip");
    setup.solid_walls = all == "slip" ? Wall::slip : Wall::no_slip;
    for (const char* name : {"front", "back"})
      if (D == 2 && walls.has(name))
        throw walls.wrong(name, "a 2-D vessel has no such wall", "leave it out, or give vessel.size three lengths");
    for (int d = 0; d < D; ++d)
      if (mirrored(setup, d) && walls.has(side_name<D>(d, 0)))
        throw walls.wrong(side_name<D>(d, 0), "there is no such wall in the part of the vessel that is computed",
                          "leave it out; see vessel.symmetry");
    for (int d = 0; d < D; ++d)
      for (int side = 0; side < 2; ++side)
        if (setup.periodic[static_cast<std::size_t>(d)] && walls.has(side_name<D>(d, side)))
          throw walls.wrong(side_name<D>(d, side), "there is no such wall where the vessel repeats", "leave it out");
    for (int d = 0; d < D; ++d)
      for (int side = 0; side < 2; ++side) {
        if (setup.periodic[static_cast<std::size_t>(d)] || (side == 0 && mirrored(setup, d))) continue;
        setup.walls[static_cast<std::size_t>(d)][static_cast<std::size_t>(side)] =
            walls.choice(side_name<D>(d, side), all) == "slip" ? Wall::slip : Wall::no_slip;
      }
  }

  /// Inserts in their order. Returns the vessel's inside as it then is, without those that block. `of_files`: how far
  /// the vessel was moved from where its surface file has it; other surface files go along.
  template <int D>
  Solid<D> read_inserts(Setup<D>& setup, const Solid<D>& body, const Vec<D>& of_files) {
    Solid<D> shell = body;
    std::size_t number = 0;
    each("insert", [&](Part part) {
      part.refuse_unknown();
      ++number;
      const std::string name = part.text("name", fmt::format("insert {}", number));
      const std::string does = part.choice("does", "blocks");
      const std::string shape = part.choice("shape", "box");
      Solid<D> solid = placed<D>(part, read_solid<D>(part, shape, false));
      if (shape == "surface" && !part.has("moved")) solid = moved<D>(solid, of_files);
      for (std::size_t d = 0; d < D; ++d)  // as far as earlier inserts have opened it
        if (solid.upper[d] <= setup.lower[d] || solid.lower[d] >= setup.upper[d])
          throw part.wrong("", fmt::format("'{}' lies outside the vessel", name),
                           fmt::format("the vessel reaches from {} to {} along {}", quantity(setup.lower[d], "m"),
                                       quantity(setup.upper[d], "m"), "xyz"[d]));
      if (does != "blocks" && std::ranges::any_of(setup.periodic, [](bool repeats) { return repeats; }))
        throw part.wrong("does", "a vessel that repeats stays a box",
                         "leave out vessel.repeats, or let the insert block");
      if (does == "opens") {
        shell = union_of<D>(shell, solid);
        setup.vessel = shell;
        for (std::size_t d = 0; d < D; ++d) {
          setup.lower[d] = std::min(setup.lower[d], solid.lower[d]);
          setup.upper[d] = std::max(setup.upper[d], solid.upper[d]);
        }
        return;
      }
      if (does == "confines") {
        shell = intersection<D>(shell, solid);
        setup.vessel = shell;
        return;
      }
      // A box thinner than a cell along one axis: a wall on faces, at its middle.
      int thin = -1;
      for (int d = 0; d < D; ++d)
        if (solid.upper[d] - solid.lower[d] < setup.cell_size) thin = d;
      if (shape == "box" && !part.has("tilted") && thin >= 0) {
        ThinWall<D> wall;
        wall.normal[thin] = 1;
        wall.point = solid.lower;
        wall.point[thin] = 0.5 * (solid.lower[thin] + solid.upper[thin]);
        Vec<D> lower = solid.lower;
        Vec<D> upper = solid.upper;
        lower[thin] = wall.point[thin] - setup.cell_size;
        upper[thin] = wall.point[thin] + setup.cell_size;
        wall.extent = box_solid<D>(lower, upper);
        setup.thin_walls.push_back(wall);
        setup.thin_wall_names.push_back(name);

        out_.notes.push_back(
            fmt::format("'{}' is thinner ({}) than a cell: it stands as a wall on the faces between cells", name,
                        quantity(solid.upper[thin] - solid.lower[thin], "m")));
        return;
      }
      setup.inserts.push_back(solid);
      setup.insert_names.push_back(name);
    });
    return shell;
  }

  template <int D>
  void read_openings(Setup<D>& setup, Shell<D> shell, const FormulaNames& names) {
    using Given = typename OpeningSetup<D>::Given;
    Place last = top_;
    bool flows = false;
    bool relief = false;
    each("opening", [&](Part part) {
      last = part.place();
      setup.openings.push_back(read_opening(setup, part, names, shell, out_.notes));
      (setup.openings.back().given == Given::pressure ? relief : flows) = true;
    });
    if (shell.nozzles) setup.vessel = shell.open;
    last.key = "opening";
    find_back_pressures(setup, out_.notes, last);

    if (flows && !relief && !setup.free_surface_only) {
      throw input_error(last, "fluid is let in or out, but no opening lets the vessel breathe",
                        "add an opening with pressure = \"0 Pa\", such as a vent or an open top");
    }
  }

  template <int D>
  void read_grid(Setup<D>& setup) {
    Part grid = section("grid");
    grid.refuse_unknown();
    setup.cell_size = grid.quantity("cell");
    if (!(setup.cell_size > 0)) throw grid.wrong("cell", "the cell size must be positive");
    double cells = 1;
    for (const double length : setup.size) {
      cells *= std::max(4.0, length / setup.cell_size);
      if (setup.cell_size > length / 4 * (1 + 1e-9))
        throw grid.wrong("cell",
                         fmt::format("a cell of {} is more than a quarter of the vessel's {}",
                                     quantity(setup.cell_size, "m"), quantity(length, "m")),
                         "choose a cell so small that at least 4, better 40, fit into the vessel");
    }
    setup.grid_place = grid.place("cell");
    check_cells(setup, cells);
  }

  template <int D>
  static void check_cells(const Setup<D>& setup, double cells) {
    if (cells > most_cells)
      throw input_error(setup.grid_place,
                        fmt::format("a cell of {} makes {:.2g} cells, more than {:.0g}", quantity(setup.cell_size, "m"),
                                    cells, most_cells),
                        "choose a larger cell");
  }

  /// Constants and tables, which all other sections may use.
  void read_names() {
    FormulaNames& names = out_.names;
    std::set<std::string> reserved{"t", "x", "y", "z", "pi", "e"};
    for (const auto& function : formula_functions()) reserved.insert(function.name);
    const auto check_name = [&](const std::string& name, const Place& where) {
      if (!is_name(name))
        throw input_error(where, "a name may have letters, digits and _ and starts with a letter",
                          "write, for example, braking = \"-3 m/s^2\"");
      if (reserved.contains(name))
        throw input_error(where, fmt::format("the name '{}' has a meaning in formulas already", name),
                          "choose another name");
    };
    Part constants = section("constants", root_.contains("constants"));
    if (const auto* table = root_.get("constants") != nullptr ? root_.get("constants")->as_table() : nullptr) {
      for (const auto& [key, node] : *table) {
        const std::string name(key.str());
        Place where = constants.place(name);
        where.key = "constants." + name.substr(0, 60);
        Part::move_to(where, key.source());
        check_name(name, where);
        const bool number = node.is_number();
        if (!number && !node.is_string())
          throw input_error(where, fmt::format("a number or a quantity in quotation marks is needed here, not {}",
                                               Part::kind_of(node)));
        const std::string text =
            number ? fmt::format("{}", node.template value<double>().value_or(0)) : node.as_string()->get();
        const Formula constant(text, {}, dimension::number, where, Formula::any_dimension);
        names.constants[name] = {constant(0), number ? std::nullopt : constant.powers()};
        out_.as_run += fmt::format("{} = {}\n", name, number ? text : toml_text(text));
      }
    }
    Part tables = section("tables", false);
    if (const auto* table = root_.get("tables") != nullptr ? root_.get("tables")->as_table() : nullptr) {
      for (const auto& [key, node] : *table) {
        const std::string name(key.str());
        Place where = tables.place();
        where.key = "tables." + name.substr(0, 60);
        Part::move_to(where, key.source());
        check_name(name, where);
        if (!node.is_table())
          throw input_error(where, fmt::format("a section is needed here, not {}", Part::kind_of(node)),
                            fmt::format("write [tables.{}] and below it file = \"data.csv\"", name));
        out_.as_run += fmt::format("\n[tables.{}]\n", name);
        names.tables.emplace(name, read_table(Part(node.as_table(), "tables", "tables." + name, where, out_)));
      }
    }
  }

  [[nodiscard]] static NamedCurve read_table(Part part) {
    part.refuse_unknown();
    const Table table = part.table("file");
    const std::string file = part.text_of("file");
    const auto column = [&](const char* key, std::size_t standard, std::optional<Powers>& powers) {
      const std::string name = part.has(key) ? part.text(key) : "";
      int at = static_cast<int>(standard);
      if (!name.empty()) at = table.find(name);
      if (at < 0 || static_cast<std::size_t>(at) >= table.columns.size())
        throw part.wrong(part.has(key) ? key : "file",
                         name.empty() ? fmt::format("'{}' has only one column", file)
                                      : fmt::format("'{}' has no column '{}'", file, name),
                         fmt::format("its columns are {}", listing(table.names, "and")));
      const auto index = static_cast<std::size_t>(at);
      std::vector<double> values = table.columns[index];
      if (const std::string& unit = table.units[index]; !unit.empty()) {
        const auto scale = scale_to_si(unit);
        if (!scale)
          throw part.wrong("file", fmt::format("the unit '{}' in the header of '{}' is not known", unit, file),
                           "write, for example, t [s],ax [m/s^2]");
        for (double& value : values) value = scale->factor * value + scale->offset;
        powers = scale->powers;
      }
      return values;
    };
    std::optional<Powers> of_times;
    std::optional<Powers> of_values;
    std::vector<double> x = column("time", 0, of_times);
    std::vector<double> y = column("value", 1, of_values);
    if (of_times && *of_times != powers_of(dimension::time))
      throw part.wrong("file",
                       fmt::format("the times in '{}' are {}; a time is needed there", file, kind_of(*of_times)),
                       "write, for example, t [s],ax [m/s^2], or name the columns with time and value");
    for (std::size_t i = 1; i < x.size(); ++i)
      if (!(x[i] > x[i - 1]))
        throw part.wrong("file",
                         fmt::format("the times in '{}' must rise from row to row; row {} does not", file, i + 1),
                         "sort the rows by time");
    return {Curve(std::move(x), std::move(y)), of_values};
  }

  /// All phases, where each comes from and at which temperature it is; `last`: place of the last one.
  std::vector<Phase> read_phase_list(const FormulaNames& names, Place& last, std::vector<std::string>& origins,
                                     std::vector<double>& temperatures) {
    std::vector<Phase> phases;
    each("phase", [&](Part part) {
      part.refuse_unknown();
      last = part.place();
      Phase phase;
      phase.name = part.text("name");
      if (!is_name(phase.name))
        throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
      for (const auto& other : phases)
        if (other.name == phase.name)
          throw part.wrong("name", fmt::format("two phases are called '{}'", phase.name),
                           "give each phase a name of its own");
      std::string origin = "own values";
      temperatures.push_back(293.15);
      if (part.has("fluid")) {
        const std::string fluid = part.text("fluid");
        const double temperature = part.quantity("temperature", "20 degC");
        temperatures.back() = temperature;
        const Fluid* known = find_fluid(fluid);
        if (known == nullptr) {
          std::vector<std::string> known_names;
          for (const auto& f : fluids()) known_names.push_back(f.name);
          const std::string near = nearest(fluid, known_names);
          throw part.wrong("fluid", fmt::format("'{}' is not in the built-in list", fluid.substr(0, 60)),
                           near.empty()
                               ? fmt::format("known are {}; or give density and viscosity", listing(known_names, "and"))
                               : fmt::format("did you mean '{}'?", near));
        }
        if (temperature < known->coldest - 1e-9 || temperature > known->hottest + 1e-9)
          throw part.wrong("temperature",
                           fmt::format("{:.4g} degC is outside the range of '{}', {:.4g} to {:.4g} degC",
                                       temperature - 273.15, fluid, known->coldest - 273.15, known->hottest - 273.15),
                           "choose a temperature in the range, or give density and viscosity yourself");
        phase.properties = *properties_of(fluid, temperature);
        origin = fmt::format("{} at {:.4g} °C", fluid, temperature - 273.15);
      } else {
        if (part.has("temperature") && !part.has("measured_viscosity"))
          throw part.wrong("temperature", "a temperature needs a fluid of the built-in list or measured viscosities",
                           "add, for example, fluid = \"water\", or measured_at and measured_viscosity");
        if (!part.has("density"))
          throw part.wrong("", fmt::format("phase '{}' has neither a fluid nor a density", phase.name),
                           "add fluid = \"water\" (see: wavy fluids), or density and viscosity");
      }
      if (part.has("density")) phase.properties.density = part.quantity("density");
      if (!(phase.properties.density > 0)) throw part.wrong("density", "the density must be positive");
      if (!part.has("density")) part.note("density", fmt::format("\"{} kg/m^3\"", phase.properties.density));
      read_viscosity(part, phase, names);
      if (phase.properties.density > 1e6 || phase.properties.viscosity > 1e9)
        throw part.wrong("",
                         fmt::format("density {:.3g} kg/m3 and viscosity {:.3g} Pa s are beyond any fluid",
                                     phase.properties.density, phase.properties.viscosity),
                         "check the units");
      if (!part.has("viscosity") && !part.has("kinematic_viscosity") && !part.has("measured_viscosity") &&
          phase.properties.rheology.constant())
        part.note("viscosity", fmt::format("\"{} Pa.s\"", phase.properties.viscosity));
      phases.push_back(phase);
      origins.push_back(origin);
    });
    return phases;
  }

  template <int D>
  void read_phases(Setup<D>& setup, const FormulaNames& names) {
    std::vector<std::string> origins;
    std::vector<double> temperatures;
    Place last = top_;
    std::vector<Phase> phases = read_phase_list(names, last, origins, temperatures);
    if (phases.size() == 1) {  // the space over the liquid's surface holds nothing that would matter
      constexpr double next_to_nothing = 1e-3;
      setup.free_surface_only = true;
      phases.emplace_back();
      phases[1].properties.density = next_to_nothing * phases[0].properties.density;
      origins.emplace_back();
    }
    if (phases.size() != 2) {
      last.key = "phase";
      throw input_error(
          last,
          fmt::format("the sharp model takes two phases, or one liquid alone; {} given",
                      phases.empty() ? "none is" : "more are"),
          "write two [[phase]] sections, for example one with fluid = \"water\" and one with fluid = \"air\"");
    }
    const std::size_t dense = phases[0].properties.density >= phases[1].properties.density ? 0 : 1;
    setup.phases = {phases[dense], phases[1 - dense]};
    out_.phase_origins = {origins[dense], origins[1 - dense]};
  }

  template <int D>
  void read_motion(Setup<D>& setup, const FormulaNames& names) {
    Part motion = section("motion");
    motion.refuse_unknown();
    std::array<std::string, D> down;
    std::array<std::string, D> none;
    for (std::size_t d = 0; d < D; ++d) none[d] = down[d] = "0 m/s^2";
    down[D - 1] = "-9.80665 m/s^2";
    setup.gravity = motion.formulas<D>("gravity", down, names);
    setup.acceleration = motion.formulas<D>("acceleration", none, names);
    const auto refuse_across = [&](const char* name, const std::array<Formula, D>& pull) {
      for (std::size_t d = 0; d < D; ++d)
        if (mirrored(setup, static_cast<int>(d)) && !(pull[d].is_constant() && pull[d](0) == 0))
          throw motion.wrong(name, fmt::format("a pull along {} does not go with vessel.symmetry", "xyz"[d]),
                             "leave that symmetry out, or set this component to \"0 m/s^2\"");
    };
    refuse_across("gravity", setup.gravity);
    refuse_across("acceleration", setup.acceleration);
  }

  template <int D>
  void read_gauges(Setup<D>& setup) {
    std::set<std::string> taken{"time", "greatest_speed", setup.phases[0].name + "_volume",
                                setup.phases[1].name + "_volume"};
    each("gauge", [&](Part part) { setup.gauges.push_back(read_gauge(setup, part, taken)); });
  }

  template <int D>
  void read_schedule(Setup<D>& setup) {
    Part run = section("run");
    run.refuse_unknown();
    Schedule& schedule = setup.schedule;
    read_times(run, schedule, 20, most_snapshots);
    if (run.has("largest_step")) schedule.largest_step = run.quantity("largest_step");
    schedule.smallest_step = run.quantity("smallest_step", "1 ns");
    if (!(schedule.largest_step > 0)) throw run.wrong("largest_step", "the step must be positive");
    if (!(schedule.smallest_step > 0)) throw run.wrong("smallest_step", "the step must be positive");
    if (schedule.smallest_step >= schedule.largest_step)
      throw run.wrong("smallest_step", "the smallest step must be below the largest");
    read_checkpoint_interval(run, schedule);
    setup.courant = run.quantity("courant", "0.4");
    if (!(setup.courant >= 0.05 && setup.courant <= 0.5))
      throw run.wrong("courant", fmt::format("{:g} is outside 0.05 to 0.5", setup.courant));
    setup.projection_tolerance = run.quantity("projection_tolerance", "1e-6");
    if (!(setup.projection_tolerance >= 1e-13 && setup.projection_tolerance <= 1e-3))
      throw run.wrong("projection_tolerance", fmt::format("{:g} is outside 1e-13 to 1e-3", setup.projection_tolerance));
  }

  const toml::table& root_;
  bool geometry_only_;
  Place top_;
  Place vessel_place_;
  CaseFile out_;
};

/// The first line with a key of more parts, or brackets, than any case has; 0 where there is none. Reading it would
/// take more of the stack than there is.
int line_of_deep_key(std::string_view text) {
  constexpr long most = 100;
  int line = 1;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    const std::string_view key = text.substr(0, std::min(text.find('='), end));
    const auto marks = std::ranges::count_if(key, [](char c) { return c == '.' || c == '['; });
    if (marks > most) return line;
    text.remove_prefix(std::min(end + 1, text.size()));
    ++line;
  }
  return 0;
}

Error too_long(const std::filesystem::path& file) {
  return input_error({file.string(), 0, 0, ""}, "the file is larger than 1 MB: this is not a case file",
                     "give the name of a case file in TOML");
}

CaseFile parse(std::string_view text, const std::filesystem::path& file, bool geometry_only) {
  if (text.size() > longest_file) throw too_long(file);
  if (const int line = line_of_deep_key(text); line > 0)
    throw input_error({file.string(), line, 1, ""}, "a key of so many parts is none that a case has",
                      "write section and key, as in grid.cell");
  try {
    const toml::table root = toml::parse(text, file.string());
    return Reader(root, file, geometry_only).read();
  } catch (const toml::parse_error& error) {
    const auto& at = error.source().begin;
    throw input_error({file.string(), static_cast<int>(at.line), static_cast<int>(at.column), ""},
                      std::string(error.description()),
                      "this is not valid TOML; text and quantities stand in quotation marks, as in cell = \"10 mm\"");
  }
}

std::string text_of(const std::filesystem::path& file) {
  std::error_code status;
  if (std::filesystem::is_directory(file, status))
    throw input_error({file.string(), 0, 0, ""}, "this is a folder, not a case file",
                      "give the name of a case file, such as tote.toml");
  auto text = read_file(file, longest_file);
  if (!text)
    throw is_longer_than(file, longest_file) ? too_long(file)
                                             : input_error({file.string(), 0, 0, ""}, "the case file cannot be read",
                                                           "check its name; 'wavy new' writes a first one");
  return std::move(*text);
}

}  // namespace

CaseFile parse_case(std::string_view text, const std::filesystem::path& file) { return parse(text, file, false); }

CaseFile read_case(const std::filesystem::path& file) { return parse(text_of(file), file, false); }

CaseFile read_geometry(const std::filesystem::path& file) { return parse(text_of(file), file, true); }

}  // namespace wavy
