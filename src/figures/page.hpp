// What stands round a picture: its colours, text, axes and the colour bar.
#pragma once

#include <vtkLookupTable.h>
#include <vtkRenderer.h>
#include <vtkSmartPointer.h>
#include <vtkTextActor.h>

#include <array>
#include <string>
#include <vector>

#include "run/quantities.hpp"

namespace wavy {

using Colour = std::array<double, 3>;
inline constexpr Colour ink{0.13, 0.12, 0.16};
inline constexpr Colour paper{1, 1, 1};
inline constexpr Colour interface_colour{0.80, 0.27, 0.10};
inline constexpr Colour liquid_colour{0.66, 0.62, 0.88};
inline constexpr Colour opening_colour{0.05, 0.45, 0.42};
inline constexpr Colour insert_colour{0.66, 0.65, 0.63};

/// Colours from the least to the greatest value of a quantity.
vtkSmartPointer<vtkLookupTable> colour_map(const Quantity& quantity, double least, double greatest);

/// Colours of a range about 0, which is light: what is below is blue, what is above brown.
vtkSmartPointer<vtkLookupTable> two_sided_map(double least, double greatest);

/// Of lines that must be told apart.
inline constexpr std::array<Colour, 6> overlay_colours{{{0.36, 0.29, 0.60},
                                                        {0.77, 0.33, 0.11},
                                                        {0.12, 0.48, 0.43},
                                                        {0.69, 0.54, 0.12},
                                                        {0.55, 0.18, 0.37},
                                                        {0.29, 0.33, 0.38}}};

/// Words at a place on the page [pixels].
vtkSmartPointer<vtkTextActor> text_at(const std::string& words, double x, double y, int size);

/// The range widened to round numbers, and how many labels they make.
struct RoundRange {
  double least, greatest;
  int labels;
};

RoundRange round_range(double least, double greatest);
/// The same to whole powers of ten, of a range above 0.
RoundRange decade_range(double least, double greatest);
/// About so many round values within a range, its ends left out.
std::vector<double> round_values(double least, double greatest, int wanted);
/// The powers of ten within a range above 0.
std::vector<double> decades_within(double least, double greatest);

/// Where the map lies on the page, and how world maps to pixels.
struct Page {
  double left = 0, bottom = 0, scale = 1;  // pixels
  std::array<double, 6> bounds{};
};

/// Of data with these bounds on a page of that size [pixels].
Page page_of(const std::array<double, 6>& bounds, int width, int height);
/// Looks straight at it.
void face_page(vtkRenderer* renderer, const Page& page, int width, int height);

/// Ticks with numbers along the left (1) or lower (0) side of a map, and a title.
void add_axis(vtkRenderer* renderer, const Page& page, int axis, const char* title);

/// At the right of a page of that size [pixels].
void add_colour_bar(vtkRenderer* renderer, vtkLookupTable* colours, const std::string& heading, const RoundRange& range,
                    int width, int height);

}  // namespace wavy
