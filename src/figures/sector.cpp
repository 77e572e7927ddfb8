#include "figures/sector.hpp"

#include <vtkCellData.h>
#include <vtkCellType.h>
#include <vtkDataArray.h>
#include <vtkFieldData.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkPoints.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace wavy {
namespace {

using Key = std::array<int, 3>;

/// The cells of a wedge by their number along each axis from the vessel's axis and from below.
struct Lattice {
  Point3 origin{};
  Point3 spacing{};
  std::map<Key, vtkIdType> cells;
  Key most{};

  Lattice(vtkUnstructuredGrid* data, const Sector& sector) {
    std::array<double, 6> b{};
    data->GetBounds(b.data());
    origin = {sector.middle[0], sector.middle[1], b[4]};
    for (vtkIdType i = 0; i < data->GetNumberOfCells(); ++i) {
      std::array<double, 6> cell{};
      data->GetCellBounds(i, cell.data());
      Key key{};
      for (std::size_t d = 0; d < 3; ++d) {
        if (i == 0) spacing[d] = cell[2 * d + 1] - cell[2 * d];
        key[d] = static_cast<int>(std::lround((cell[2 * d] - origin[d]) / spacing[d]));
        most[d] = std::max(most[d], key[d]);
      }
      cells[key] = i;
    }
  }
  /// The lower corner of a cell [m].
  [[nodiscard]] Point3 place(const Key& key) const {
    Point3 corner = origin;
    for (std::size_t d = 0; d < 3; ++d) corner[d] += key[d] * spacing[d];
    return corner;
  }
};

/// Share of a cell of the plan that lies in the wedge.
double share_in_wedge(const Lattice& lattice, const Key& key, const Sector& sector) {
  constexpr int parts = 8;
  const double width = lattice.spacing[0] / parts;
  double inside = 0;
  for (int column = 0; column < parts; ++column)
    for (int row = 0; row < parts; ++row) {
      const double x = (key[0] + (column + 0.5) / parts) * lattice.spacing[0];
      const double y = (key[1] + (row + 0.5) / parts) * lattice.spacing[1];
      const double before_mirror = std::sin(sector.angle) * x - std::cos(sector.angle) * y;
      inside += std::clamp(0.5 + before_mirror / width, 0.0, 1.0);
    }
  return inside / (parts * parts);
}

constexpr vtkIdType solid = -1;  // in place of the number of a cell that was left out

struct Source {
  vtkIdType cell = solid;
  double weight = 0;
};

/// Cells of the wedge round a place in it, with weights by distance.
std::vector<Source> sources_at(const Lattice& lattice, const Point3& place, int layer) {
  std::array<int, 2> low{};
  std::array<double, 2> beyond{};
  for (std::size_t d = 0; d < 2; ++d) {
    const double at = (place[d] - lattice.origin[d]) / lattice.spacing[d] - 0.5;
    low[d] = static_cast<int>(std::floor(at));
    beyond[d] = at - low[d];
  }
  std::vector<Source> sources;
  for (int corner = 0; corner < 4; ++corner) {
    Key key{0, 0, layer};
    double weight = 1;
    for (std::size_t d = 0; d < 2; ++d) {
      const int up = (corner >> d) & 1;
      key[d] = std::max(low[d] + up, 0);  // what lies below is a mirror's image
      weight *= up == 1 ? beyond[d] : 1 - beyond[d];
    }
    if (weight == 0) continue;
    const auto found = lattice.cells.find(key);
    sources.push_back({found == lattice.cells.end() ? solid : found->second, weight});
  }
  return sources;
}

/// The boxes of thin walls and openings with their images: of one round the axis the box round all of it.
void add_images_of_boxes(vtkFieldData* facts, const Sector& sector) {
  const auto images = std::lround(2 * std::numbers::pi / sector.angle);
  for (const char* name : {"thin_walls", "openings"}) {
    auto* boxes = facts->GetArray(name);
    if (boxes == nullptr) continue;
    const vtkIdType count = boxes->GetNumberOfTuples();
    for (vtkIdType i = 0; i < count; ++i) {
      std::array<double, 6> given{};
      boxes->GetTuple(i, given.data());
      const auto x = [&](int side) { return given[static_cast<std::size_t>(3 * side)] - sector.middle[0]; };
      const auto y = [&](int side) { return given[static_cast<std::size_t>(3 * side + 1)] - sector.middle[1]; };
      const double hair = 1e-6 * (x(1) + y(1));
      if (x(0) < hair && y(0) < hair) {
        const double reach = x(1);
        boxes->SetTuple6(i, sector.middle[0] - reach, sector.middle[1] - reach, given[2], sector.middle[0] + reach,
                         sector.middle[1] + reach, given[5]);
        continue;
      }
      for (long image = 1; image < images; ++image) {
        const bool mirrored = image % 2 == 1;
        const Sector::Image seen{{}, static_cast<double>(mirrored ? image + 1 : image) * sector.angle, mirrored};
        std::array<double, 6> box{1e300, 1e300, given[2], -1e300, -1e300, given[5]};
        for (int corner = 0; corner < 4; ++corner) {
          const Point3 at = seen.turned({x(corner % 2), y(corner / 2), 0});
          for (std::size_t d = 0; d < 2; ++d) {
            box[d] = std::min(box[d], sector.middle[d] + at[d]);
            box[3 + d] = std::max(box[3 + d], sector.middle[d] + at[d]);
          }
        }
        boxes->InsertNextTuple(box.data());
      }
    }
  }
}

/// Share that is open of the vessel in each cell of the wedge, the second mirror being no wall; `says_nothing` where
/// the mirror takes nearly all of the cell.
constexpr double says_nothing = -1;
std::vector<double> vessel_shares(vtkUnstructuredGrid* wedge, const Lattice& lattice, const Sector& sector) {
  std::vector<double> shares(static_cast<std::size_t>(wedge->GetNumberOfCells()), 1.0);
  auto* open = wedge->GetCellData()->GetArray("open");
  if (open == nullptr) return shares;
  for (const auto& [key, cell] : lattice.cells) {
    constexpr double least = 0.1;
    const double share = share_in_wedge(lattice, key, sector);
    shares[static_cast<std::size_t>(cell)] =
        share > least ? std::min(1.0, open->GetTuple1(cell) / share) : says_nothing;
  }
  return shares;
}

/// A cell of the whole vessel, and where its values come from.
struct WholeCell {
  std::vector<Source> sources;
  Sector::Image image;
};

/// Adds the cells all round the axis to a grid.
std::vector<WholeCell> add_cells(const Lattice& lattice, const Sector& sector, vtkUnstructuredGrid* whole) {
  std::vector<WholeCell> cells;
  vtkNew<vtkPoints> points;
  points->SetDataTypeToDouble();
  std::map<Key, vtkIdType> corners;
  const auto corner_at = [&](const Key& key) {
    const auto [known, is_new] = corners.try_emplace(key, points->GetNumberOfPoints());
    if (is_new) points->InsertNextPoint(lattice.place(key).data());
    return known->second;
  };
  const int reach = std::max(lattice.most[0], lattice.most[1]) + 1;
  for (int k = 0; k <= lattice.most[2]; ++k)
    for (int j = -reach; j < reach; ++j)
      for (int i = -reach; i < reach; ++i) {
        const auto image = sector.image_of({lattice.origin[0] + (i + 0.5) * lattice.spacing[0],
                                            lattice.origin[1] + (j + 0.5) * lattice.spacing[1], 0});
        auto sources = sources_at(lattice, image.place, k);
        if (std::ranges::all_of(sources, [](const Source& source) { return source.cell == solid; })) continue;
        std::array<vtkIdType, 8> ids{};
        for (int corner = 0; corner < 8; ++corner)  // round each square face in turn, as hexahedra are numbered
          ids[static_cast<std::size_t>(corner)] =
              corner_at({i + (corner + 1) / 2 % 2, j + corner / 2 % 2, k + corner / 4});
        whole->InsertNextCell(VTK_HEXAHEDRON, 8, ids.data());
        cells.push_back({std::move(sources), image});
      }
  whole->SetPoints(points);
  return cells;
}

/// Mean by the sources' weights times those of their cells; 0 where nothing counts.
template <class Weight, class Value>
double mean(const std::vector<Source>& sources, Weight&& weight_of, Value&& value_of) {
  double weights = 0;
  double sum = 0;
  for (const auto& source : sources) {
    const double weight = source.weight * weight_of(source.cell);
    weights += weight;
    if (weight > 0) sum += weight * value_of(source.cell);
  }
  return weights > 0 ? sum / weights : 0.0;
}

}  // namespace

bool has_direction(vtkDataArray* values) {
  return values->GetNumberOfComponents() == 3 && !std::string_view(values->GetName()).starts_with("rms_");
}

vtkSmartPointer<vtkUnstructuredGrid> completed(vtkUnstructuredGrid* wedge, const Sector& sector) {
  const Lattice lattice(wedge, sector);
  auto whole = vtkSmartPointer<vtkUnstructuredGrid>::New();
  vtkNew<vtkFieldData> facts;
  facts->DeepCopy(wedge->GetFieldData());
  add_images_of_boxes(facts, sector);
  whole->SetFieldData(facts);
  const std::vector<WholeCell> cells = add_cells(lattice, sector, whole);

  vtkCellData* given = wedge->GetCellData();
  auto* open = given->GetArray("open");
  const auto fluid_weight = [&](vtkIdType i) {
    return i == solid ? 0.0 : open == nullptr ? 1.0 : std::max(open->GetTuple1(i), 1e-9);
  };
  const std::vector<double> shares = vessel_shares(wedge, lattice, sector);
  const auto vessel_share = [&](vtkIdType i) { return i == solid ? 0.0 : shares[static_cast<std::size_t>(i)]; };
  const auto tells_share = [&](vtkIdType i) { return vessel_share(i) == says_nothing ? 0.0 : 1.0; };
  for (int a = 0; a < given->GetNumberOfArrays(); ++a) {
    vtkDataArray* from = given->GetArray(a);
    if (from == nullptr) continue;
    const std::string_view name = from->GetName();
    const int components = from->GetNumberOfComponents();
    const auto array = vtkSmartPointer<vtkDataArray>::Take(from->NewInstance());
    array->SetName(from->GetName());
    array->SetNumberOfComponents(components);
    for (const WholeCell& cell : cells) {
      std::array<double, 9> tuple{};
      for (int c = 0; c < components; ++c)
        tuple[static_cast<std::size_t>(c)] =
            name == "open" ? mean(cell.sources, tells_share, vessel_share)
                           : mean(cell.sources, fluid_weight, [&](vtkIdType i) { return from->GetComponent(i, c); });
      if (has_direction(from)) {
        const Point3 turned = cell.image.turned({tuple[0], tuple[1], tuple[2]});
        std::copy(turned.begin(), turned.end(), tuple.begin());
      }
      array->InsertNextTuple(tuple.data());
    }
    whole->GetCellData()->AddArray(array);
  }
  return whole;
}

}  // namespace wavy
