#include "case/snapshot_file.hpp"

#include <vtkCellData.h>
#include <vtkDataArray.h>
#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "case/snapshot_reader.hpp"
#include "geometry/clip.hpp"
#include "run/quantities.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy {
namespace {

template <int D>
std::size_t number_of(const Index<D>& cell, const Index<D>& cells) {
  long at = 0;
  for (int d = D - 1; d >= 0; --d) at = at * cells[d] + cell[d];
  return static_cast<std::size_t>(at);
}

}  // namespace

template <int D>
PriorSnapshot<D>::PriorSnapshot(const Vec<D>& lower, const Vec<D>& upper, const Index<D>& cells,
                                std::vector<OfPhase> phases, std::vector<OfTracer> tracers)
    : lower_(lower), cells_(cells), phases_(std::move(phases)), tracers_(std::move(tracers)) {
  for (int d = 0; d < D; ++d) spacing_[d] = (upper[d] - lower[d]) / cells[d];
  if (!is_sharp()) return;
  const std::vector<double>& F = phases_.front().fraction;
  planes_.resize(F.size());
  const Grid<D> grid(lower, upper, {cells, cells});
  Cells<D> field(grid);
  for_cells_in_order<D>(
      grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) { field.block(b)[o] = F[number_of<D>(cell, cells)]; });
  fill_halo(grid, field, 1, all_walls<D>(Mirror::even));
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double* f = field.block(b) + o;
    if (!sharp::is_mixed(*f)) return;
    const Vec<D> normal = sharp::interface_normal<D>(f, grid.layout().step);
    if (dot<D>(normal, normal) > 0) planes_[number_of<D>(cell, cells)] = plane_through<D>(normal, *f);
  });
}

/// fn(number of a cell, lower and upper corner of its part in the box, in the unit cell), for all cells that the box
/// overlaps.
template <int D>
template <class Fn>
void PriorSnapshot<D>::overlaps(const Vec<D>& lower, const Vec<D>& upper, Fn&& fn) const {
  Vec<D> from;
  Vec<D> to;
  Index<D> first;
  Index<D> end;
  constexpr double hair = 1e-9;  // of a cell
  for (int d = 0; d < D; ++d) {
    from[d] = (lower[d] - lower_[d]) / spacing_[d];
    to[d] = (upper[d] - lower_[d]) / spacing_[d];
    first[d] = std::max(0, static_cast<int>(std::floor(from[d] + hair)));
    end[d] = std::min(cells_[d], static_cast<int>(std::ceil(to[d] - hair)));
    if (first[d] >= end[d]) return;
  }
  Index<D> cell = first;
  while (true) {
    Vec<D> low;
    Vec<D> high;
    for (int d = 0; d < D; ++d) {
      low[d] = std::max(0.0, from[d] - cell[d]);
      high[d] = std::min(1.0, to[d] - cell[d]);
    }
    fn(number_of<D>(cell, cells_), low, high);
    int d = 0;
    while (d < D && ++cell[d] == end[d]) {
      cell[d] = first[d];
      ++d;
    }
    if (d == D) return;
  }
}

template <int D>
std::vector<std::string> PriorSnapshot<D>::names() const {
  std::vector<std::string> all;
  for (const auto& phase : phases_) all.push_back(phase.name);
  return all;
}

template <int D>
AlignedBox<D> PriorSnapshot<D>::box() const {
  AlignedBox<D> result{lower_, lower_};
  for (int d = 0; d < D; ++d) result.upper[d] += cells_[d] * spacing_[d];
  return result;
}

template <int D>
bool PriorSnapshot<D>::has_any(std::size_t phase) const {
  constexpr double trace = 1e-12;
  return std::ranges::any_of(phases_[phase].fraction, [](double a) { return a > trace; });
}

template <int D>
double PriorSnapshot<D>::share(std::size_t phase, const Vec<D>& lower, const Vec<D>& upper) const {
  double sum = 0;
  double box = 1;
  for (int d = 0; d < D; ++d) box *= (upper[d] - lower[d]) / spacing_[d];
  overlaps(lower, upper, [&](std::size_t at, const Vec<D>& low, const Vec<D>& high) {
    double part = 1;
    for (int d = 0; d < D; ++d) part *= high[d] - low[d];
    if (!planes_.empty() && cuts(planes_[at]))
      sum += clipped_volume<D>(low, high, std::array<Plane<D>, 1>{planes_[at]});
    else
      sum += part * phases_[phase].fraction[at];
  });
  return std::clamp(sum / box, 0.0, 1.0);
}

template <int D>
Vec<D> PriorSnapshot<D>::velocity(std::size_t phase, const Vec<D>& lower, const Vec<D>& upper) const {
  Vec<D> sum{};
  double room = 0;
  overlaps(lower, upper, [&](std::size_t at, const Vec<D>& low, const Vec<D>& high) {
    double part = 1;
    for (int d = 0; d < D; ++d) part *= high[d] - low[d];
    room += part;
    for (int d = 0; d < D; ++d) sum[d] += part * phases_[phase].velocity[at][d];
  });
  for (double& u : sum) u = room > 0 ? u / room : 0.0;
  return sum;
}

template <int D>
std::vector<std::string> PriorSnapshot<D>::tracer_names() const {
  std::vector<std::string> all;
  for (const auto& tracer : tracers_) all.push_back(tracer.name);
  return all;
}

template <int D>
std::optional<double> PriorSnapshot<D>::concentration(std::size_t tracer, std::size_t phase, const Vec<D>& lower,
                                                      const Vec<D>& upper) const {
  constexpr double trace = 1e-12;
  double sum = 0;
  double room = 0;
  overlaps(lower, upper, [&](std::size_t at, const Vec<D>& low, const Vec<D>& high) {
    double content = phases_[phase].fraction[at];
    if (content <= trace) return;
    for (int d = 0; d < D; ++d) content *= high[d] - low[d];
    room += content;
    sum += content * tracers_[tracer].concentration[at];
  });
  if (room <= 0) return std::nullopt;
  return sum / room;
}

namespace {

/// The last snapshot of a run folder, as its summary has it; a run that did not end well is remarked on.
std::filesystem::path last_snapshot(Part& part, const char* key, const std::filesystem::path& folder) {
  constexpr std::uintmax_t longest = 1U << 28U;
  const auto text = read_file(folder / "summary.json", longest);
  const auto summary = nlohmann::json::parse(text.value_or(""), nullptr, false);
  const auto broken = part.wrong(key, fmt::format("'{}' is no run folder with snapshots", folder.filename().string()),
                                 "give the folder of a run, as 'wavy run' has written it");
  try {
    const std::string status = summary.at("status").get<std::string>();
    const auto& last = summary.at("snapshots").back();
    if (status != "done")
      part.remark(fmt::format("{}: the run in '{}' is not done ({}); its snapshot at {} is taken", part.place(key).key,
                              folder.filename().string(), status, quantity(last.at("time_s").get<double>(), "s")));
    return folder / last.at("file").get<std::string>();
  } catch (const nlohmann::json::exception&) {
    throw Error(broken);
  }
}

}  // namespace

template <int D>
PriorSnapshot<D> read_earlier(Part& part, const char* key) {
  namespace fs = std::filesystem;
  fs::path file = part.file(key);
  std::error_code status;
  if (fs::is_directory(file, status)) file = last_snapshot(part, key, file);
  const auto broken = part.wrong(key, fmt::format("'{}' cannot be read as a snapshot", file.filename().string()),
                                 "give the folder of a run, or one of the files in its snapshots/");
  if (!fs::is_regular_file(file, status)) throw Error(broken);
  vtkSmartPointer<vtkUnstructuredGrid> data;
  try {
    data = read_snapshot(file, [](const std::string& name) {
      return name == "velocity" || name.ends_with("_fraction") || name.ends_with("_velocity") ||
             !tracer_in(name).empty();
    });
  } catch (const Error& error) {
    throw part.wrong(key, fmt::format("'{}': {}", file.string(), error.problem()), error.remedy());
  }
  // Size classes also have their sum, but that has no velocity.
  struct Fields {
    std::string name;
    vtkDataArray *fraction, *velocity;
  };
  std::vector<Fields> fields;
  std::vector<typename PriorSnapshot<D>::OfTracer> tracers;
  std::vector<vtkDataArray*> concentrations;
  auto* of_cells = data->GetCellData();
  for (int k = 0; k < of_cells->GetNumberOfArrays(); ++k) {
    const std::string name = of_cells->GetArrayName(k);
    if (const std::string_view tracer = tracer_in(name); !tracer.empty()) {
      tracers.push_back({std::string(tracer), {}});
      concentrations.push_back(of_cells->GetArray(k));
    }
    if (is_mean(name) || !name.ends_with("_fraction")) continue;
    const std::string phase = name.substr(0, name.rfind('_'));
    auto* velocity = of_cells->GetArray((phase + "_velocity").c_str());
    if (velocity != nullptr) fields.push_back({phase, of_cells->GetArray(k), velocity});
  }
  if (fields.empty()) fields.push_back({"", of_cells->GetArray("fraction"), of_cells->GetArray("velocity")});
  // Points stand in a lattice, the first axis fastest; bounds are those of all of them.
  Vec<D> lower;
  Vec<D> upper;
  Index<D> cells;
  const vtkIdType points = data->GetNumberOfPoints();
  std::array<double, 3> first{};
  std::array<double, 3> last{};
  data->GetPoint(0, first.data());
  data->GetPoint(points - 1, last.data());
  if ((last[2] > first[2]) != (D == 3))
    throw part.wrong(key, fmt::format("that run was {}-D, this vessel is {}-D", D == 3 ? 2 : 3, D),
                     "start from a run of as many dimensions");
  vtkIdType stride = 1;
  for (std::size_t d = 0; d < D; ++d) {
    lower[d] = first[d];
    upper[d] = last[d];
    int count = 1;  // points along the axis
    std::array<double, 3> p{};
    for (vtkIdType at = stride; at < points; at += stride, ++count) {
      data->GetPoint(at, p.data());
      if (p[d] <= first[d]) break;
    }
    cells[d] = count - 1;
    stride *= count;
  }
  if (stride != points || product(cells) < 1) throw Error(broken);
  const auto count = static_cast<std::size_t>(product(cells));
  std::vector<typename PriorSnapshot<D>::OfPhase> phases;
  for (auto& tracer : tracers) tracer.concentration.resize(count);
  for (const auto& field : fields)
    phases.push_back({field.name, std::vector<double>(count), std::vector<Vec<D>>(count)});
  for (vtkIdType i = 0; i < data->GetNumberOfCells(); ++i) {
    vtkIdType of_cell = 0;
    const vtkIdType* corners = nullptr;
    data->GetCellPoints(i, of_cell, corners);
    vtkIdType rest = *std::min_element(corners, corners + of_cell);
    Index<D> cell;
    for (int d = 0; d < D; ++d) {
      cell[d] = static_cast<int>(rest % (cells[d] + 1));
      rest /= cells[d] + 1;
      if (cell[d] >= cells[d]) throw Error(broken);
    }
    const std::size_t at = number_of<D>(cell, cells);
    for (std::size_t p = 0; p < fields.size(); ++p) {
      phases[p].fraction[at] = fields[p].fraction->GetComponent(i, 0);
      for (std::size_t d = 0; d < D; ++d)
        phases[p].velocity[at][d] = fields[p].velocity->GetComponent(i, static_cast<int>(d));
    }
    for (std::size_t k = 0; k < tracers.size(); ++k)
      tracers[k].concentration[at] = concentrations[k]->GetComponent(i, 0);
  }
  return {lower, upper, cells, std::move(phases), std::move(tracers)};
}

template class PriorSnapshot<2>;
template class PriorSnapshot<3>;
template PriorSnapshot<2> read_earlier<2>(Part&, const char*);
template PriorSnapshot<3> read_earlier<3>(Part&, const char*);

}  // namespace wavy
