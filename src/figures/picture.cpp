#include "figures/picture.hpp"

#include <fmt/format.h>
#include <vtkCellCenters.h>
#include <vtkCellData.h>
#include <vtkContourFilter.h>
#include <vtkDataArray.h>
#include <vtkFieldData.h>
#include <vtkFloatArray.h>
#include <vtkImageAppend.h>
#include <vtkImageData.h>
#include <vtkLookupTable.h>
#include <vtkNew.h>
#include <vtkPNGWriter.h>
#include <vtkPointData.h>
#include <vtkPolyData.h>
#include <vtkRenderer.h>
#include <vtkSmartPointer.h>
#include <vtkStaticCellLocator.h>
#include <vtkTextActor.h>
#include <vtkTextProperty.h>
#include <vtkUnsignedCharArray.h>
#include <vtkUnstructuredGrid.h>
#include <vtkWindowToImageFilter.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "case/snapshot_reader.hpp"
#include "figures/actors.hpp"
#include "figures/body.hpp"
#include "figures/flat.hpp"
#include "figures/offscreen.hpp"
#include "figures/page.hpp"
#include "figures/shown.hpp"
#include "results/snapshot_data.hpp"
#include "run/agitators.hpp"

namespace wavy {
namespace {

using Image = vtkSmartPointer<vtkImageData>;

/// What a renderer shows, and nothing of it left in the window.
Image rendered(vtkRenderer* renderer, int width, int height) {
  auto* window = offscreen_window();
  window->SetSize(width, height);
  window->SetMultiSamples(8);
  window->AddRenderer(renderer);
  window->Render();
  vtkNew<vtkWindowToImageFilter> image;
  image->SetInput(window);
  image->ReadFrontBufferOff();
  image->SetShouldRerender(0);
  image->Update();
  auto copy = Image::New();
  copy->DeepCopy(image->GetOutput());
  window->RemoveRenderer(renderer);
  return copy;
}

void write_png(vtkImageData* image, const std::filesystem::path& png) {
  vtkNew<vtkPNGWriter> writer;
  writer->WriteToMemoryOn();
  writer->SetInputData(image);
  writer->Write();
  vtkUnsignedCharArray* bytes = writer->GetResult();
  if (writer->GetErrorCode() != 0 || bytes == nullptr)
    throw failure(fmt::format("the picture '{}' cannot be made", png.string()));
  write_file(png, {reinterpret_cast<const char*>(bytes->GetPointer(0)),  // NOLINT(*-reinterpret-cast): bytes are bytes
                   static_cast<std::size_t>(bytes->GetNumberOfValues())});
}

/// "y = 0.4 m", or "0.707 x + 0.707 y = 0.4 m".
std::string words_of(const SectionPlane& plane) {
  if (const int axis = plane.axis(); axis >= 0)
    return fmt::format("{} = {}", "xyz"[axis],
                       quantity(plane.place / plane.normal[static_cast<std::size_t>(axis)], "m"));
  std::string text;
  for (std::size_t d = 0; d < 3; ++d)
    if (plane.normal[d] != 0) text += fmt::format("{}{:.3g} {}", text.empty() ? "" : " + ", plane.normal[d], "xyz"[d]);
  return text + " = " + quantity(plane.place, "m");
}

/// "pressure = 2 kPa, fraction = 0.5".
std::string words_of(const std::vector<ValueSurface>& surfaces) {
  std::string text;
  for (const auto& one : surfaces)
    text +=
        fmt::format("{}{} = {}", text.empty() ? "" : ", ", one.quantity->name, quantity(one.value, one.quantity->unit));
  return text;
}

/// A title that ends within the page.
std::string fitting(const std::string& title, int width) {
  constexpr int letter = 14;  // as wide as one is [pixels]
  const auto most = static_cast<std::size_t>(std::max(4, (width - 60) / letter));
  if (title.size() <= most) return title;
  std::size_t end = most - 1;
  while (end > 0 && (static_cast<unsigned char>(title[end]) & 0xC0U) == 0x80U) --end;  // letters of several bytes
  return title.substr(0, end) + "…";
}

/// With what turns where it was then.
PictureOptions at_time(PictureOptions options, double time) {
  if (options.solids) options.solids = options.solids->at(time);
  return options;
}

/// `what`: is shown, in words behind the time.
Image picture_of(const Shown& shown, double time, const std::string& title, const std::string& what,
                 const PictureOptions& asked) {
  const PictureOptions options = at_time(asked, time);
  if (shown.flat && (options.cut_open || !options.surfaces.empty()))
    throw input_error({"", 0, 0, options.cut_open ? "--cut-open" : "--surface"},
                      options.section ? "a section is flat" : "the run is a 2-D one", "leave it out");
  if (!shown.flat && options.lines > 0)
    throw input_error({"", 0, 0, "--lines"}, "a body seen from outside has none", "add --section");
  const bool logarithmic = options.scale == PictureOptions::Scale::logarithmic;
  const RoundRange range =
      logarithmic ? decade_range(shown.range[0], shown.range[1]) : round_range(shown.range[0], shown.range[1]);
  const auto colours = options.scale == PictureOptions::Scale::symmetric
                           ? two_sided_map(range.least, range.greatest)
                           : colour_map(*options.quantity, range.least, range.greatest);
  if (logarithmic) colours->SetScaleToLog10();

  vtkNew<vtkRenderer> renderer;
  renderer->SetBackground(paper[0], paper[1], paper[2]);
  offscreen_window()->SetSize(options.width, options.height);
  offscreen_window()->AddRenderer(renderer);  // what is placed by the view needs its size
  const std::string words =
      shown.flat ? add_map(renderer, shown, colours, options) : add_body(renderer, shown, colours, options);
  offscreen_window()->RemoveRenderer(renderer);
  if (shown.flat || !is_share(options))
    add_colour_bar(renderer, colours, shown.heading, range, options.width, options.height);
  renderer->AddActor2D(text_at(fitting(title, options.width), 30, options.height - 46, 24));
  std::string subtitle = options.subtitle.empty() ? fmt::format("t = {:.3f} s   {}", time, what) : options.subtitle;
  if (options.section) subtitle += "   section at " + words_of(*options.section);
  if (!options.surfaces.empty()) subtitle += "   where " + words_of(options.surfaces);
  if (options.cut_open) subtitle += "   cut open at " + words_of(*options.cut_open);
  renderer->AddActor2D(text_at(subtitle + words, 30, options.height - 78, 18));
  return rendered(renderer, options.width, options.height);
}

Image picture(vtkUnstructuredGrid* data, double time, const std::string& title, const std::vector<std::string>& phases,
              const PictureOptions& options) {
  vtkObject::GlobalWarningDisplayOff();
  offscreen_window();  // before any object of the picture
  const Quantity& shown = *options.quantity;
  const bool alone = phases.size() > 1 && phases[1].empty();
  // Of the Eulerian model there are more phases, and pressures count from elsewhere.
  const bool many = !phases.empty() && data->GetCellData()->HasArray((phases[0] + "_fraction").c_str()) != 0;
  const std::string& words = alone && !shown.title_alone.empty() ? shown.title_alone
                             : many                              ? shown.heading
                                                                 : shown.title;
  return picture_of(shown_of(data, options, phases), time, title, with_phases(words, phases), options);
}

/// Images of one size, so many in a row.
Image tiled(const std::vector<Image>& images, std::size_t in_a_row) {
  vtkNew<vtkImageAppend> page;
  page->SetAppendAxis(1);
  const std::size_t rows = (images.size() + in_a_row - 1) / in_a_row;
  for (std::size_t row = rows; row-- > 0;) {  // rows are counted from below
    vtkNew<vtkImageAppend> across;
    across->SetAppendAxis(0);
    for (std::size_t i = row * in_a_row; i < (row + 1) * in_a_row; ++i) {
      if (i < images.size()) {
        across->AddInputData(images[i]);
        continue;
      }
      auto blank = Image::New();  // beside the last
      blank->DeepCopy(images[0]);
      blank->GetPointData()->GetScalars()->Fill(255);
      across->AddInputData(blank);
    }
    across->Update();
    page->AddInputData(across->GetOutput());
  }
  page->Update();
  auto whole = Image::New();
  whole->DeepCopy(page->GetOutput());
  return whole;
}

/// Fields of cells by which a picture is drawn.
FieldChoice fields_of(const PictureOptions& options) {
  std::vector<std::string> fields{"open",          "velocity",     options.quantity->name, options.quantity->length_of,
                                  "mean_velocity", "mean_fraction"};
  for (const auto& one : options.surfaces) {
    fields.push_back(one.quantity->name);
    fields.push_back(one.quantity->length_of);
  }
  return fields_named(std::move(fields));
}

}  // namespace

template <int D>
SolidShapes solid_shapes(const Setup<D>& setup) {
  SolidShapes shapes;
  const auto point = [](const std::array<double, 3>& p) {
    Vec<D> result;
    std::copy_n(p.begin(), D, result.begin());
    return result;
  };
  if (setup.symmetry == Symmetry::sector)
    shapes.sector = Sector{{0.5 * setup.size[0], 0.5 * setup.size[1]}, setup.sector};
  if (const auto& vessel_itself = setup.whole ? setup.whole : setup.vessel)
    shapes.vessel = [point, vessel = *vessel_itself](const std::array<double, 3>& p) {
      return vessel.distance(point(p));
    };
  if (!setup.inserts.empty())
    shapes.inserts = [point, inserts = setup.inserts](const std::array<double, 3>& p) {
      double least = 1e300;
      for (const auto& insert : inserts) least = std::min(least, insert.distance(point(p)));
      return least;
    };
  if (!setup.agitator_parts.empty())
    shapes.turning = [point, turned = turned_parts(setup)](double time) {
      return [point, now = turned(time)](const std::array<double, 3>& p) { return now(point(p)); };
    };
  return shapes;
}

SolidShapes SolidShapes::at(double time) const {
  SolidShapes now = *this;
  if (!turning) return now;
  now.inserts = turning(time);
  if (inserts)
    now.inserts = [still = inserts, turned = now.inserts](const std::array<double, 3>& p) {
      return std::min(still(p), turned(p));
    };
  return now;
}

void draw_snapshot(const SnapshotFile& snapshot, const std::string& title, const std::vector<std::string>& phases,
                   const PictureOptions& options, const std::filesystem::path& png) {
  write_png(picture(read_snapshot(snapshot.file, fields_of(options)), snapshot.time, title, phases, options), png);
}

void draw_page(const std::vector<PictureOf>& pictures, std::size_t in_a_row, const std::string& title,
               const std::vector<std::string>& phases, const std::filesystem::path& png) {
  std::vector<Image> images;
  for (const auto& one : pictures)
    images.push_back(picture(read_snapshot(one.snapshot.file, fields_of(one.options)), one.snapshot.time, title, phases,
                             one.options));
  write_png(tiled(images, in_a_row), png);
}

std::array<double, 2> range_of(const SnapshotFile& snapshot, const PictureOptions& options) {
  vtkObject::GlobalWarningDisplayOff();
  PictureOptions any = options;
  any.scale = PictureOptions::Scale::even;  // one of many may have nothing that another scale can show
  return shown_of(read_snapshot(snapshot.file, fields_of(any)), any, {}).own;
}

template <int D>
void draw_model(const VesselModel<D>& model, const std::string& title, const std::vector<std::string>& phases,
                const PictureOptions& options, const std::filesystem::path& png) {
  write_png(picture(snapshot_data(model), model.time(), title, phases, options), png);
}

namespace {

Image interfaces(const std::vector<OverlaidSnapshot>& snapshots, const std::string& title,
                 const PictureOptions& options) {
  vtkNew<vtkRenderer> renderer;
  renderer->SetBackground(paper[0], paper[1], paper[2]);
  Page page;
  double lift = 0;
  std::string times;
  for (std::size_t i = 0; i < snapshots.size(); ++i) {
    const auto& one = snapshots[i];
    const Shown shown = shown_of(read_snapshot(one.snapshot.file, fields_of(options)), options, {});
    if (!shown.flat)
      throw input_error({"", 0, 0, "--interfaces"}, "lines of a 3-D run are those of a section", "add --section");
    PointData points(shown.data);
    if (i == 0) {
      std::array<double, 6> bounds{};
      shown.data->GetBounds(bounds.data());
      page = page_of(bounds, options.width, options.height);
      lift = 1e-3 * (bounds[1] - bounds[0]);
      add_frame(renderer, shown, points, at_time(options, one.snapshot.time), page);
      add_axes(renderer, options, page);
    }
    vtkNew<vtkContourFilter> contour;
    contour->SetInputConnection(options.solids ? points.everywhere->GetOutputPort() : points.inside());
    contour->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "fraction");
    contour->SetValue(0, 0.5);
    const Colour& colour = overlay_colours[i % overlay_colours.size()];
    renderer->AddActor(lines_of(contour->GetOutputPort(), colour, 2.5F, (0.2 + 0.1 * static_cast<double>(i)) * lift));
    // Beside the title, three below each other.
    constexpr std::size_t below = 3;
    constexpr std::size_t column = 240;  // [pixels]
    const std::size_t from_right = i / below * column;
    auto name = text_at(one.name, options.width - 24.0 - static_cast<double>(from_right),
                        options.height - 44 - 24.0 * static_cast<double>(i % below), 18);
    name->GetTextProperty()->SetJustificationToRight();
    name->GetTextProperty()->SetColor(colour.data());
    renderer->AddActor2D(name);
    times = fmt::format("t = {:.3f} s   interfaces laid over each other", one.snapshot.time);
  }
  face_page(renderer, page, options.width, options.height);
  renderer->AddActor2D(text_at(fitting(title, options.width - 240), 30, options.height - 46, 24));
  if (options.section) times += "   section at " + words_of(*options.section);
  renderer->AddActor2D(text_at(options.subtitle.empty() ? times : options.subtitle, 30, options.height - 78, 18));
  return rendered(renderer, options.width, options.height);
}

}  // namespace

void draw_interfaces(const std::vector<std::vector<OverlaidSnapshot>>& times, const std::string& title,
                     const PictureOptions& options, const std::filesystem::path& png) {
  vtkObject::GlobalWarningDisplayOff();
  offscreen_window();  // before any object of the picture
  std::vector<Image> images;
  for (const auto& snapshots : times) images.push_back(interfaces(snapshots, title, options));
  write_png(tiled(images, images.size() > 4 ? 3 : images.size() > 1 ? 2 : 1), png);
}

namespace {

/// Middles of cells as points.
vtkSmartPointer<vtkPolyData> middles_of(vtkUnstructuredGrid* data) {
  vtkNew<vtkCellCenters> centres;
  centres->SetInputData(data);
  centres->VertexCellsOff();
  centres->Update();
  auto points = vtkSmartPointer<vtkPolyData>::New();
  points->SetPoints(centres->GetOutput()->GetPoints());
  return points;
}

/// Slopes of the field "shown" in cells of a lattice, by the neighbours that are there; 0 along axes without any.
std::vector<Point3> slopes_of(vtkUnstructuredGrid* data, vtkPolyData* middles) {
  std::array<double, 6> size{};
  data->GetCellBounds(0, size.data());
  Point3 h{};
  for (std::size_t d = 0; d < 3; ++d) h[d] = size[2 * d + 1] - size[2 * d];
  using Key = std::array<long, 3>;
  std::map<Key, vtkIdType> cell_at;
  std::vector<Key> keys;
  for (vtkIdType i = 0; i < middles->GetNumberOfPoints(); ++i) {
    Key key{};
    for (std::size_t d = 0; d < 3; ++d) key[d] = h[d] > 0 ? std::lround(2 * middles->GetPoint(i)[d] / h[d]) : 0;
    keys.push_back(key);
    cell_at.emplace(key, i);
  }
  auto* values = data->GetCellData()->GetArray("shown");
  auto* open = data->GetCellData()->GetArray("open");
  std::vector<Point3> slopes(keys.size());
  for (std::size_t i = 0; i < keys.size(); ++i)
    for (std::size_t d = 0; d < 3; ++d) {
      if (h[d] <= 0) continue;
      std::array<double, 2> value{};
      double apart = 0;
      for (const int side : {0, 1}) {
        Key key = keys[i];
        key[d] += side == 0 ? -2 : 2;
        const auto found = cell_at.find(key);
        const bool there = found != cell_at.end() && (open == nullptr || open->GetComponent(found->second, 0) > 0);
        value[static_cast<std::size_t>(side)] =
            values->GetComponent(there ? found->second : static_cast<vtkIdType>(i), 0);
        apart += there ? h[d] : 0;
      }
      if (apart > 0) slopes[i][d] = (value[1] - value[0]) / apart;
    }
  return slopes;
}

/// The field "shown" of one picture in the middles of the cells of another: of the cell there, straight on by its
/// slopes unless `as_it_is`; NaN where it has none.
std::vector<double> taken_to(vtkUnstructuredGrid* grid, const Shown& other, bool as_it_is) {
  const auto places = middles_of(grid);
  const auto middles = middles_of(other.data);
  const auto slopes = as_it_is ? std::vector<Point3>(static_cast<std::size_t>(other.data->GetNumberOfCells()))
                               : slopes_of(other.data, middles);
  auto* values = other.data->GetCellData()->GetArray("shown");
  auto* open = other.data->GetCellData()->GetArray("open");
  vtkNew<vtkStaticCellLocator> cells;
  cells->SetDataSet(other.data);
  cells->BuildLocator();
  std::vector<double> result(static_cast<std::size_t>(grid->GetNumberOfCells()), std::nan(""));
  for (std::size_t i = 0; i < result.size(); ++i) {
    Point3 p{};
    places->GetPoint(static_cast<vtkIdType>(i), p.data());
    const vtkIdType cell = cells->FindCell(p.data());
    if (cell < 0 || (open != nullptr && open->GetComponent(cell, 0) <= 0)) continue;
    Point3 middle{};
    middles->GetPoint(cell, middle.data());
    result[i] = values->GetComponent(cell, 0);
    for (std::size_t d = 0; d < 3; ++d) result[i] += slopes[static_cast<std::size_t>(cell)][d] * (p[d] - middle[d]);
  }
  return result;
}

}  // namespace

FieldDifference compare_fields(const SnapshotFile& first, const SnapshotFile& second, const std::string& title,
                               const PictureOptions& options, const std::filesystem::path& png) {
  vtkObject::GlobalWarningDisplayOff();
  offscreen_window();  // before any object of the picture
  Shown own = shown_of(read_snapshot(first.file, fields_of(options)), options, {});
  const Shown other = shown_of(read_snapshot(second.file, fields_of(options)), options, {});
  const auto theirs = taken_to(own.data, other, is_share(options));
  auto* shown = own.data->GetCellData()->GetArray("shown");
  auto* open = own.data->GetCellData()->GetArray("open");
  FieldDifference result;
  double volume = 0;
  vtkNew<vtkFloatArray> difference;
  difference->SetName("shown");
  difference->SetNumberOfValues(own.data->GetNumberOfCells());
  for (std::size_t i = 0; i < theirs.size(); ++i) {
    const auto id = static_cast<vtkIdType>(i);
    difference->SetValue(id, 0);
    const double share = open == nullptr ? 1.0 : open->GetComponent(id, 0);
    if (std::isnan(theirs[i]) || share <= 0) continue;
    const double value = shown->GetComponent(id, 0) / own.factor;
    const double off = value - theirs[i] / other.factor;
    difference->SetValue(id, static_cast<float>(off * own.factor));
    volume += share;
    result.mean_square += share * off * off;
    result.size += share * value * value;
    if (std::abs(off) <= std::abs(result.greatest)) continue;
    result.greatest = off;
    std::array<double, 6> b{};
    own.data->GetCellBounds(id, b.data());
    result.place = {(b[0] + b[1]) / 2, (b[2] + b[3]) / 2, (b[4] + b[5]) / 2};
    if (options.section) result.place = own.page.at(result.place[0], result.place[1]);
  }
  if (volume == 0)
    throw input_error({second.file.string(), 0, 0, ""}, "the two runs share no place", "compare runs of one vessel");
  result.mean_square = std::sqrt(result.mean_square / volume);
  result.size = std::sqrt(result.size / volume);
  if (png.empty()) return result;
  own.data->GetCellData()->AddArray(difference);  // in its place
  const double size = options.range ? std::max(std::abs(options.range->front()), std::abs(options.range->back()))
                                    : std::abs(result.greatest);
  own.range = {-size * own.factor, size * own.factor};
  PictureOptions how = options;
  how.scale = PictureOptions::Scale::symmetric;
  how.unsmoothed = true;
  write_png(picture_of(own, first.time, title, "difference of " + options.quantity->name, how), png);
  return result;
}

template SolidShapes solid_shapes<2>(const Setup<2>&);
template SolidShapes solid_shapes<3>(const Setup<3>&);
template void draw_model<2>(const VesselModel<2>&, const std::string&, const std::vector<std::string>&,
                            const PictureOptions&, const std::filesystem::path&);
template void draw_model<3>(const VesselModel<3>&, const std::string&, const std::vector<std::string>&,
                            const PictureOptions&, const std::filesystem::path&);

}  // namespace wavy
