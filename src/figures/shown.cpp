#include "figures/shown.hpp"

#include <fmt/format.h>
#include <vtkAppendFilter.h>
#include <vtkCellData.h>
#include <vtkDoubleArray.h>
#include <vtkFieldData.h>
#include <vtkFloatArray.h>
#include <vtkPointData.h>
#include <vtkReflectionFilter.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/error.hpp"
#include "base/text.hpp"
#include "figures/section.hpp"
#include "figures/sector.hpp"

namespace wavy {
namespace {

/// Share of a vessel's extent by which places that are the same may differ in a snapshot.
constexpr double single_precision = 1e-5;

/// Heading of the colour bar and the factor from SI to its unit.
struct Heading {
  std::string text;
  double factor = 1;
};

Heading heading(const Quantity& quantity, double greatest, const std::vector<std::string>& phases) {
  const std::string words = with_phases(quantity.heading, phases);
  if (quantity.unit == "1") return {words, 1};
  const bool kilo = quantity.unit == "Pa" && greatest >= 2000;
  return {fmt::format("{} [{}{}]", words, kilo ? "k" : "", quantity.unit), kilo ? 1e-3 : 1};
}

/// Seen in a mirror across an axis at a place along it; `beside_it`: with what is seen.
vtkSmartPointer<vtkUnstructuredGrid> reflected(vtkUnstructuredGrid* part, int axis, double place, bool beside_it) {
  vtkNew<vtkReflectionFilter> reflection;
  reflection->SetInputData(part);
  if (axis == 0) reflection->SetPlaneToX();
  if (axis == 1) reflection->SetPlaneToY();
  if (axis == 2) reflection->SetPlaneToZ();
  reflection->SetCenter(place);
  reflection->SetCopyInput(beside_it ? 1 : 0);
  reflection->FlipAllInputArraysOn();  // velocities point as in a mirror
  reflection->Update();
  auto result = vtkSmartPointer<vtkUnstructuredGrid>::New();
  result->ShallowCopy(reflection->GetOutput());
  return result;
}

/// A box by its lower and its upper corner.
using Box = std::array<double, 6>;

/// Gives a whole the facts of a part, with the images of its boxes of thin walls and openings: image(box), and
/// are_one(box, image) where both together are one box.
template <class ImageOf, class AreOne>
void take_facts(vtkUnstructuredGrid* part, ImageOf&& image_of, AreOne&& are_one, vtkUnstructuredGrid* whole) {
  vtkNew<vtkFieldData> facts;
  facts->DeepCopy(part->GetFieldData());
  for (const char* name : {"thin_walls", "openings"}) {
    auto* boxes = facts->GetArray(name);
    if (boxes == nullptr) continue;
    const vtkIdType count = boxes->GetNumberOfTuples();
    for (vtkIdType i = 0; i < count; ++i) {
      Box box{};
      boxes->GetTuple(i, box.data());
      const Box image = image_of(box);
      if (!are_one(box, image)) {
        boxes->InsertNextTuple(image.data());
        continue;
      }
      for (std::size_t d = 0; d < 3; ++d) {
        box[d] = std::min(box[d], image[d]);
        box[3 + d] = std::max(box[3 + d], image[3 + d]);
      }
      boxes->SetTuple(i, box.data());
    }
  }
  whole->SetFieldData(facts);
}

/// As seen in a mirror across an axis.
Box reflected(Box box, std::size_t axis, double place) {
  const double low = 2 * place - box[3 + axis];
  box[3 + axis] = 2 * place - box[axis];
  box[axis] = low;
  return box;
}

/// What was computed and its mirror image at the lower end of an axis.
vtkSmartPointer<vtkUnstructuredGrid> with_image(vtkUnstructuredGrid* part, int axis) {
  std::array<double, 6> bounds{};
  part->GetBounds(bounds.data());
  const auto at = static_cast<std::size_t>(axis);
  const double plane = bounds[2 * at];
  const double hair = 1e-9 * (bounds[2 * at + 1] - plane);
  auto whole = reflected(part, axis, plane, true);
  take_facts(
      part, [&](const Box& box) { return reflected(box, at, plane); },
      [&](const Box& box, const Box&) { return box[at] <= plane + hair; }, whole);
  return whole;
}

/// What was computed and the same turned by a quarter or half a turn round an upright axis.
vtkSmartPointer<vtkUnstructuredGrid> with_turned(vtkUnstructuredGrid* part, const std::array<double, 2>& axis,
                                                 bool quarter) {
  vtkNew<vtkUnstructuredGrid> image;
  image->DeepCopy(part);
  const auto turned = [quarter](const Point3& v) {
    return quarter ? quarter_turned(v) : quarter_turned(quarter_turned(v));
  };
  const auto place_of = [&](const Point3& p) {
    const Point3 at = turned({p[0] - axis[0], p[1] - axis[1], p[2]});
    return Point3{axis[0] + at[0], axis[1] + at[1], at[2]};
  };
  for (vtkIdType i = 0; i < part->GetNumberOfPoints(); ++i) {
    Point3 p{};
    part->GetPoint(i, p.data());
    image->GetPoints()->SetPoint(i, place_of(p).data());
  }
  for (int a = 0; a < image->GetCellData()->GetNumberOfArrays(); ++a) {
    auto* values = image->GetCellData()->GetArray(a);
    if (values == nullptr || values->GetNumberOfComponents() != 3) continue;
    const bool has_sign = has_direction(values);
    for (vtkIdType i = 0; i < values->GetNumberOfTuples(); ++i) {
      Point3 v{};
      values->GetTuple(i, v.data());
      v = turned(v);
      for (double& component : v)
        if (!has_sign) component = std::abs(component);
      values->SetTuple(i, v.data());
    }
  }
  vtkNew<vtkAppendFilter> both;
  std::array<double, 6> bounds{};
  part->GetBounds(bounds.data());
  const double hair = single_precision * (bounds[1] - bounds[0]);
  both->MergePointsOn();  // the cells on both sides of the seam are neighbours
  both->SetToleranceIsAbsolute(true);
  both->SetTolerance(hair);
  both->AddInputData(part);
  both->AddInputData(image);
  both->Update();
  auto whole = vtkSmartPointer<vtkUnstructuredGrid>::New();
  whole->ShallowCopy(both->GetOutput());
  const auto image_of = [&](const Box& box) {
    const Point3 one = place_of({box[0], box[1], box[2]});
    const Point3 other = place_of({box[3], box[4], box[5]});
    return Box{std::min(one[0], other[0]), std::min(one[1], other[1]), box[2],
               std::max(one[0], other[0]), std::max(one[1], other[1]), box[5]};
  };
  const auto across_the_seam = [&](const Box& box, const Box& turned_box) {
    const auto alike = [&](std::size_t d) {
      return std::abs(turned_box[d] - box[d]) <= hair && std::abs(turned_box[3 + d] - box[3 + d]) <= hair;
    };
    const auto touch = [&](std::size_t d) {
      return turned_box[3 + d] >= box[d] - hair && turned_box[d] <= box[3 + d] + hair;
    };
    return (touch(0) && alike(1)) || (touch(1) && alike(0));
  };
  take_facts(part, image_of, across_the_seam, whole);
  return whole;
}

/// What a section shows of the data.
vtkSmartPointer<vtkUnstructuredGrid> cut_by(vtkUnstructuredGrid* data, const SectionPlane& plane) {
  std::array<double, 6> bounds{};
  data->GetBounds(bounds.data());
  if (bounds[5] <= bounds[4])
    throw input_error({"", 0, 0, "--section"}, "the run is a 2-D one: it is a section already", "leave it out");
  auto section = section_of(data, plane);
  if (section->GetNumberOfCells() > 0) return section;
  const int axis = plane.axis();
  const auto a = static_cast<std::size_t>(std::max(axis, 0));
  throw input_error({"", 0, 0, "--section"}, "the plane misses the vessel",
                    axis < 0 ? "choose one that passes through it"
                             : fmt::format("it reaches from {} to {} along {}", quantity(bounds[2 * a], "m"),
                                           quantity(bounds[2 * a + 1], "m"), "xyz"[a]));
}

/// The values of a quantity, cell by cell [SI].
std::vector<double> values_of(const Quantity& quantity, vtkUnstructuredGrid* data) {
  const std::string& kept = quantity.length_of.empty() ? quantity.name : quantity.length_of;
  auto* source = data->GetCellData()->GetArray(kept.c_str());
  if (source == nullptr)
    throw input_error(
        {"", 0, 0, "--what"}, fmt::format("this snapshot has no field '{}'", kept),
        "see what the run holds by wavy export; an older program may have written it: then run the case again");
  std::vector<double> values(static_cast<std::size_t>(data->GetNumberOfCells()));
  for (std::size_t i = 0; i < values.size(); ++i) {
    const auto id = static_cast<vtkIdType>(i);
    if (quantity.length_of.empty()) {
      values[i] = source->GetComponent(id, 0);
      continue;
    }
    for (int d = 0; d < source->GetNumberOfComponents(); ++d) values[i] += std::pow(source->GetComponent(id, d), 2);
    values[i] = std::sqrt(values[i]);
  }
  return values;
}

void add_array(const char* name, const std::vector<double>& values, double factor, vtkUnstructuredGrid* data) {
  vtkNew<vtkFloatArray> array;
  array->SetName(name);
  array->SetNumberOfValues(static_cast<vtkIdType>(values.size()));
  for (std::size_t i = 0; i < values.size(); ++i)
    array->SetValue(static_cast<vtkIdType>(i), static_cast<float>(values[i] * factor));
  data->GetCellData()->AddArray(array);
}

}  // namespace

std::array<double, 2> colour_range(const PictureOptions& options, const std::array<double, 2>& own) {
  using Scale = PictureOptions::Scale;
  const Quantity& quantity = *options.quantity;
  std::array<double, 2> range = own;
  if (options.range) {
    range = *options.range;
  } else if (options.scale == Scale::symmetric) {
    const double size = std::max(std::abs(own[0]), std::abs(own[1]));
    range = {-size, size};
  } else if (options.scale == Scale::logarithmic) {
    constexpr double decades = 1e4;  // shown where values reach down to zero
    range[0] = std::max(own[0], own[1] / decades);
  } else {
    if (quantity.scale != Quantity::Scale::free) range[0] = 0;
    if (quantity.scale == Quantity::Scale::share) range[1] = 1;
  }
  if (options.scale == Scale::logarithmic && !(range[0] > 0 && range[1] > 0))
    throw input_error({"", 0, 0, "--scale"},
                      options.range ? "a logarithmic scale begins above 0"
                                    : fmt::format("{} has no values above 0 here", quantity.name),
                      "choose --scale even or symmetric");
  return range;
}

std::string with_phases(const std::string& words, const std::vector<std::string>& phases) {
  return fmt::format(fmt::runtime(words), fmt::arg("denser", phases.empty() ? "" : phases.front()),
                     fmt::arg("lighter", phases.empty() ? "" : phases.back()));
}

void add_quantity(const Quantity& quantity, vtkUnstructuredGrid* data) {
  if (data->GetCellData()->HasArray(quantity.name.c_str()) == 0)
    add_array(quantity.name.c_str(), values_of(quantity, data), 1, data);
}

namespace {

/// As what stands beyond a turned end of a snapshot; none: it has none.
std::optional<TurnedImages> turned_images(vtkUnstructuredGrid* data) {
  for (const bool quarters : {false, true})
    if (auto* axis = data->GetFieldData()->GetArray(quarters ? "quarter_turn" : "half_turn"))
      return TurnedImages{{axis->GetTuple1(0), axis->GetTuple1(1)}, quarters};
  return std::nullopt;
}

}  // namespace

Shown shown_of(vtkUnstructuredGrid* data, const PictureOptions& options, const std::vector<std::string>& phases) {
  const Quantity& quantity = *options.quantity;
  Shown shown;
  shown.data = data;
  if (options.solids && options.solids->sector) {
    shown.images.sector = options.solids->sector;
    shown.data = completed(data, *options.solids->sector);
  } else if (const auto images = turned_images(data)) {
    shown.images.turned = images;
    if (images->quarters) shown.data = with_turned(data, images->axis, true);
    shown.data = with_turned(shown.data, images->axis, false);
  } else if (auto* mirrors = data->GetFieldData()->GetArray("mirrors")) {
    for (vtkIdType i = 0; i < mirrors->GetNumberOfTuples(); ++i) {
      const auto axis = static_cast<int>(mirrors->GetTuple1(i));
      std::array<double, 6> b{};
      shown.data->GetBounds(b.data());
      shown.images.mirrors.push_back({axis, b[2 * static_cast<std::size_t>(axis)]});
      shown.data = with_image(shown.data, axis);
    }
  }
  if (options.section) {
    shown.page = page_of_section(*options.section);
    shown.data = cut_by(shown.data, *options.section);
  }
  std::array<double, 6> bounds{};
  shown.data->GetBounds(bounds.data());
  shown.flat = bounds[5] <= bounds[4];

  if (is_mean(quantity.name) && shown.data->GetCellData()->HasArray("mean_velocity") != 0) {
    shown.fraction = "mean_fraction";
    shown.velocity = "mean_velocity";
  }
  const auto values = values_of(quantity, shown.data);
  auto* cells = shown.data->GetCellData();
  auto* fraction = cells->GetArray("fraction");
  double least = 1e300;
  double greatest = -1e300;
  for (std::size_t i = 0; i < values.size(); ++i) {
    // Of a 3-D run only the denser phase is seen: the scale is its own.
    if (!shown.flat && options.surfaces.empty() && fraction->GetComponent(static_cast<vtkIdType>(i), 0) <= 0.5)
      continue;
    least = std::min(least, values[i]);
    greatest = std::max(greatest, values[i]);
  }
  if (least > greatest) least = greatest = 0;
  shown.own = {least, greatest};
  const auto range = colour_range(options, shown.own);
  const Heading words = heading(quantity, std::max(std::abs(range[0]), std::abs(range[1])), phases);
  shown.factor = words.factor;
  shown.heading = words.text;
  shown.range = {range[0] * words.factor, range[1] * words.factor};
  add_array("shown", values, words.factor, shown.data);
  if (auto* velocity = cells->GetArray(shown.velocity); velocity != nullptr && shown.flat) {
    vtkNew<vtkDoubleArray> on_page;
    on_page->SetName("on_page");
    on_page->SetNumberOfComponents(3);
    on_page->SetNumberOfTuples(shown.data->GetNumberOfCells());
    for (vtkIdType i = 0; i < shown.data->GetNumberOfCells(); ++i) {
      Point3 u{};
      velocity->GetTuple(i, u.data());
      on_page->SetTuple3(i, dot3(u, shown.page.along), dot3(u, shown.page.up), 0);
    }
    cells->AddArray(on_page);
  }
  return shown;
}

PointData::PointData(vtkUnstructuredGrid* cells) {
  everywhere->SetInputData(cells);
  everywhere->PassCellDataOn();
  cut = cells->GetCellData()->HasArray("open") != 0;
  if (!cut) return;
  // Beyond the grid's boundary all is solid: without that a wall that bulges up to the boundary would look flat
  // there.
  everywhere->Update();
  auto* data = everywhere->GetOutput();
  auto* open = data->GetPointData()->GetArray("open");
  std::array<double, 6> b{};
  data->GetBounds(b.data());
  for (vtkIdType i = 0; i < data->GetNumberOfPoints(); ++i) {
    const double* p = data->GetPoint(i);
    bool on_boundary = false;
    for (std::size_t d = 0; d < (b[5] > b[4] ? 3 : 2); ++d) {
      const double hair = single_precision * (b[2 * d + 1] - b[2 * d]);
      on_boundary = on_boundary || p[d] - b[2 * d] < hair || b[2 * d + 1] - p[d] < hair;
    }
    if (on_boundary) open->SetTuple1(i, 0.5 * open->GetTuple1(i));
  }
  cut_off->SetInputData(data);
  cut_off->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "open");
  cut_off->SetValue(half);
}

}  // namespace wavy
