#include "figures/page.hpp"

#include <fmt/format.h>
#include <vtkAxisActor2D.h>
#include <vtkCamera.h>
#include <vtkColorTransferFunction.h>
#include <vtkNew.h>
#include <vtkProperty2D.h>
#include <vtkScalarBarActor.h>
#include <vtkTextProperty.h>

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

constexpr const char* font_file = "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf";

void style(vtkTextProperty* text, int size, bool bold = false) {
  text->SetFontFamily(VTK_FONT_FILE);
  text->SetFontFile(font_file);
  text->SetFontSize(size);
  text->SetBold(bold ? 1 : 0);
  text->SetItalic(0);
  text->SetShadow(0);
  text->SetColor(ink.data());
}

/// Round numbers for about `wanted` ticks over a range.
double tick_step(double range, int wanted) {
  const double raw = range / wanted;
  const double power = std::pow(10.0, std::floor(std::log10(raw)));
  for (const double factor : {1.0, 2.0, 5.0})
    if (raw <= factor * power * 1.0001) return factor * power;
  return 10 * power;
}

vtkSmartPointer<vtkLookupTable> table_along(vtkColorTransferFunction* path, double least, double greatest) {
  constexpr int steps = 256;
  auto table = vtkSmartPointer<vtkLookupTable>::New();
  table->SetNumberOfTableValues(steps);
  for (int i = 0; i < steps; ++i) {
    Colour c{};
    path->GetColor(static_cast<double>(i) / (steps - 1), c.data());
    table->SetTableValue(i, c[0], c[1], c[2]);
  }
  if (!(greatest > least)) greatest = least + 1;
  table->SetRange(least, greatest);
  table->Build();
  return table;
}

/// Words one below the other where they do not fit into a line; a unit stays with the word before it.
std::string in_lines(const std::string& words, std::size_t wide) {
  std::string text;
  std::size_t line = 0;  // letters in it
  for (std::size_t at = 0; at < words.size();) {
    std::size_t end = words.find(' ', at);
    if (end != std::string::npos && words[end + 1] == '[' && words.size() - at <= wide) end = std::string::npos;
    const std::string word = words.substr(at, end == std::string::npos ? end : end - at);
    if (line > 0 && line + 1 + word.size() > wide) {
      text += '\n';
      line = 0;
    } else if (line > 0) {
      text += ' ';
      ++line;
    }
    text += word;
    line += word.size();
    at = end == std::string::npos ? words.size() : end + 1;
  }
  return text;
}

}  // namespace

/// Colour maps of our own: straight paths through CIELAB with lightness changing evenly, so that equal steps look
/// equal and readers who confuse red and green still see them.
vtkSmartPointer<vtkLookupTable> colour_map(const Quantity& quantity, double least, double greatest) {
  vtkNew<vtkColorTransferFunction> path;
  path->SetColorSpaceToLab();
  if (quantity.scale == Quantity::Scale::share) {  // lighter phase: nearly white; denser phase: lavender
    path->AddRGBPoint(0.0, 0.965, 0.960, 0.945);
    path->AddRGBPoint(0.5, 0.69, 0.66, 0.80);
    path->AddRGBPoint(1.0, 0.40, 0.36, 0.64);
  } else {  // night, sea, straw, cream
    path->AddRGBPoint(0.00, 0.055, 0.110, 0.190);
    path->AddRGBPoint(0.33, 0.090, 0.370, 0.430);
    path->AddRGBPoint(0.67, 0.560, 0.640, 0.370);
    path->AddRGBPoint(1.00, 0.990, 0.930, 0.740);
  }
  return table_along(path, least, greatest);
}

vtkSmartPointer<vtkLookupTable> two_sided_map(double least, double greatest) {
  vtkNew<vtkColorTransferFunction> path;
  path->SetColorSpaceToLab();
  path->AddRGBPoint(0.00, 0.06, 0.22, 0.42);
  path->AddRGBPoint(0.25, 0.38, 0.58, 0.72);
  path->AddRGBPoint(0.50, 0.96, 0.95, 0.93);
  path->AddRGBPoint(0.75, 0.80, 0.56, 0.36);
  path->AddRGBPoint(1.00, 0.42, 0.17, 0.05);
  return table_along(path, least, greatest);
}

vtkSmartPointer<vtkTextActor> text_at(const std::string& words, double x, double y, int size) {
  auto actor = vtkSmartPointer<vtkTextActor>::New();
  actor->SetInput(words.c_str());
  style(actor->GetTextProperty(), size);
  actor->GetPositionCoordinate()->SetCoordinateSystemToDisplay();
  actor->SetPosition(x, y);
  return actor;
}

RoundRange round_range(double least, double greatest) {
  if (!(greatest > least)) greatest = least + std::max(1e-12, 1e-6 * std::abs(least));
  const double step = tick_step(greatest - least, 5);
  const double low = std::floor(least / step + 1e-6);
  const double high = std::ceil(greatest / step - 1e-6);
  return {low * step, high * step, static_cast<int>(std::lround(high - low)) + 1};
}

RoundRange decade_range(double least, double greatest) {
  const double low = std::floor(std::log10(least) + 1e-6);
  const double high = std::max(low + 1, std::ceil(std::log10(greatest) - 1e-6));
  return {std::pow(10, low), std::pow(10, high), static_cast<int>(std::lround(high - low)) + 1};
}

std::vector<double> round_values(double least, double greatest, int wanted) {
  std::vector<double> values;
  if (!(greatest > least)) return values;
  const double step = tick_step(greatest - least, wanted);
  for (double k = std::ceil(least / step + 1e-6); k * step < greatest - 1e-6 * step; ++k) values.push_back(k * step);
  return values;
}

std::vector<double> decades_within(double least, double greatest) {
  std::vector<double> values;
  for (double k = std::ceil(std::log10(least) - 1e-6); std::pow(10, k) <= greatest * (1 + 1e-6); ++k)
    values.push_back(std::pow(10, k));
  return values;
}

void add_axis(vtkRenderer* renderer, const Page& page, int axis, const char* title) {
  const auto a = static_cast<std::size_t>(axis);
  const double lower = page.bounds[2 * a];
  const double upper = page.bounds[2 * a + 1];
  const double length = (upper - lower) * page.scale;
  const double room = axis == 0 ? 85 : 50;  // that a number takes [pixels]
  const double step = tick_step(upper - lower, std::clamp(static_cast<int>(length / room), 1, axis == 0 ? 7 : 5));
  const int digits = std::max(0, static_cast<int>(std::ceil(-std::log10(step) - 1e-9)));
  constexpr int label_size = 17;
  const auto first = std::lround(std::ceil(lower / step - 1e-6));
  const auto last = std::lround(std::floor(upper / step + 1e-6));
  double free_from = -1;  // pixels along the axis
  for (long tick_number = first; tick_number <= last; ++tick_number) {
    const double value = static_cast<double>(tick_number) * step;
    const double along = (value - lower) * page.scale;
    const std::string number = fmt::format("{:.{}f}", value, digits);
    const double wide = axis == 0 ? 11.0 * static_cast<double>(number.size()) : 22.0;  // [pixels]
    if (along < free_from) continue;                                                   // no room beside the last one
    free_from = along + wide;
    auto label = text_at(number, 0, 0, label_size);
    if (axis == 0) {
      label->SetPosition(page.left + along, page.bottom - 14);
      label->GetTextProperty()->SetJustificationToCentered();
      label->GetTextProperty()->SetVerticalJustificationToTop();
    } else {
      label->SetPosition(page.left - 14, page.bottom + along);
      label->GetTextProperty()->SetJustificationToRight();
      label->GetTextProperty()->SetVerticalJustificationToCentered();
    }
    renderer->AddActor2D(label);
    vtkNew<vtkAxisActor2D> tick;  // a short line
    tick->SetAdjustLabels(0);
    tick->SetLabelVisibility(0);
    tick->SetTickVisibility(0);
    tick->GetProperty()->SetColor(ink.data());
    tick->GetProperty()->SetLineWidth(1.6F);
    for (auto* coordinate : {tick->GetPositionCoordinate(), tick->GetPosition2Coordinate()}) {
      coordinate->SetCoordinateSystemToDisplay();
      coordinate->SetReferenceCoordinate(nullptr);
    }
    if (axis == 0) {
      tick->GetPositionCoordinate()->SetValue(page.left + along, page.bottom - 8);
      tick->GetPosition2Coordinate()->SetValue(page.left + along, page.bottom);
    } else {
      tick->GetPositionCoordinate()->SetValue(page.left - 8, page.bottom + along);
      tick->GetPosition2Coordinate()->SetValue(page.left, page.bottom + along);
    }
    renderer->AddActor2D(tick);
  }
  auto name = text_at(title, 0, 0, 19);
  name->GetTextProperty()->SetJustificationToCentered();
  if (axis == 0) {
    name->SetPosition(page.left + length / 2, page.bottom - 66);
  } else {
    name->SetPosition(page.left - 76, page.bottom + length / 2);
    name->SetOrientation(90);
  }
  renderer->AddActor2D(name);
}

void add_colour_bar(vtkRenderer* renderer, vtkLookupTable* colours, const std::string& heading, const RoundRange& range,
                    int width, int height) {
  vtkNew<vtkScalarBarActor> bar;
  bar->SetLookupTable(colours);
  bar->SetUnconstrainedFontSize(true);
  bar->SetNumberOfLabels(range.labels);
  const double step = (range.greatest - range.least) / (range.labels - 1);
  const int digits = std::clamp(static_cast<int>(std::ceil(-std::log10(step) - 1e-9)), 0, 9);
  const bool plain = step >= 1e-5 && std::abs(range.greatest) < 1e6;
  bar->SetLabelFormat(plain ? fmt::format(" %.{}f", digits).c_str() : " %.2e");
  style(bar->GetLabelTextProperty(), 17);
  bar->SetTitle("");
  bar->SetBarRatio(0.28);
  bar->GetPositionCoordinate()->SetCoordinateSystemToNormalizedViewport();
  bar->SetPosition(0.875, 0.16);
  bar->SetWidth(0.105);
  bar->SetHeight(0.62);
  renderer->AddActor2D(bar);
  constexpr double right = 24;   // [pixels]
  constexpr double letter = 10;  // as wide as one is
  const double room = 0.15 * width - right;
  auto title = text_at(in_lines(heading, static_cast<std::size_t>(room / letter)), 0, 0, 18);
  title->GetTextProperty()->SetJustificationToRight();
  title->SetPosition(width - right, 0.805 * height);
  renderer->AddActor2D(title);
}

Page page_of(const std::array<double, 6>& bounds, int width, int height) {
  Page page;
  page.bounds = bounds;
  const double wide = page.bounds[1] - page.bounds[0];
  const double high = page.bounds[3] - page.bounds[2];
  const double room_left = 120;
  const double room_bottom = 100;
  const double room_wide = 0.85 * width - room_left;
  const double room_high = height - room_bottom - 110;
  page.scale = std::min(room_wide / wide, room_high / high);
  page.left = room_left + (room_wide - page.scale * wide) / 2;
  page.bottom = room_bottom + (room_high - page.scale * high) / 2;
  return page;
}

void face_page(vtkRenderer* renderer, const Page& page, int width, int height) {
  auto* camera = renderer->GetActiveCamera();
  camera->ParallelProjectionOn();
  const double world_per_pixel = 1 / page.scale;
  const double centre_x = page.bounds[0] + (0.5 * width - page.left) * world_per_pixel;
  const double centre_y = page.bounds[2] + (0.5 * height - page.bottom) * world_per_pixel;
  camera->SetFocalPoint(centre_x, centre_y, 0);
  camera->SetPosition(centre_x, centre_y,
                      10 * std::max(page.bounds[1] - page.bounds[0], page.bounds[3] - page.bounds[2]));
  camera->SetViewUp(0, 1, 0);
  camera->SetParallelScale(0.5 * height * world_per_pixel);
  renderer->ResetCameraClippingRange();
}

}  // namespace wavy
