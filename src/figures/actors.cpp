#include "figures/actors.hpp"

#include <vtkAppendPolyData.h>
#include <vtkFieldData.h>
#include <vtkNew.h>
#include <vtkOutlineSource.h>
#include <vtkProperty.h>
#include <vtkStringArray.h>
#include <vtkTextActor.h>
#include <vtkTextProperty.h>

namespace wavy {

vtkSmartPointer<vtkActor> plain_actor(vtkPolyDataMapper* mapper, const Colour& colour, double lift) {
  mapper->ScalarVisibilityOff();
  auto actor = vtkSmartPointer<vtkActor>::New();
  actor->SetMapper(mapper);
  actor->GetProperty()->SetColor(colour[0], colour[1], colour[2]);
  actor->GetProperty()->LightingOff();
  actor->SetPosition(0, 0, lift);
  return actor;
}

vtkSmartPointer<vtkActor> lines_of(vtkAlgorithmOutput* lines, const Colour& colour, float width, double lift) {
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputConnection(lines);
  auto actor = plain_actor(mapper, colour, lift);
  actor->GetProperty()->SetLineWidth(width);
  return actor;
}

vtkSmartPointer<vtkActor> filled(vtkPolyData* area, const Colour& colour, double lift) {
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputData(area);
  return plain_actor(mapper, colour, lift);
}

void add_boxes(vtkRenderer* renderer, const Shown& shown, const char* name, const Colour& colour, float width,
               double lift) {
  auto* boxes = shown.data->GetFieldData()->GetArray(name);
  if (boxes == nullptr) return;
  vtkNew<vtkAppendPolyData> all;
  for (vtkIdType i = 0; i < boxes->GetNumberOfTuples(); ++i) {
    const double* c = boxes->GetTuple(i);
    vtkNew<vtkOutlineSource> outline;
    outline->SetBounds(c[0], c[3], c[1], c[4], c[2], c[5]);
    all->AddInputConnection(outline->GetOutputPort());
  }
  if (boxes->GetNumberOfTuples() > 0) renderer->AddActor(lines_of(all->GetOutputPort(), colour, width, lift));
}

void name_openings(vtkRenderer* renderer, const Shown& shown,
                   const std::function<std::array<double, 2>(const Point3&)>& on_page) {
  auto* boxes = shown.data->GetFieldData()->GetArray("openings");
  auto* names = vtkStringArray::SafeDownCast(shown.data->GetFieldData()->GetAbstractArray("opening_names"));
  if (boxes == nullptr || names == nullptr) return;
  std::array<double, 6> b{};
  shown.data->GetBounds(b.data());
  for (vtkIdType i = 0; i < names->GetNumberOfValues(); ++i) {
    const double* c = boxes->GetTuple(i);
    const std::array<double, 3> middle{(c[0] + c[3]) / 2, (c[1] + c[4]) / 2, (c[2] + c[5]) / 2};
    const auto at = on_page(middle);
    auto label = text_at(names->GetValue(i), 0, 0, 17);
    label->GetTextProperty()->SetColor(opening_colour.data());
    label->GetTextProperty()->SetBackgroundColor(paper.data());
    label->GetTextProperty()->SetBackgroundOpacity(0.8);
    // Inside the picture, beside the opening.
    const bool left = middle[0] <= b[0] + 1e-9 * (b[1] - b[0]);
    const bool right = middle[0] >= b[1] - 1e-9 * (b[1] - b[0]);
    const bool low =
        middle[1] <= b[2] + 1e-9 * (b[3] - b[2]) || (b[5] > b[4] && middle[2] <= b[4] + 1e-9 * (b[5] - b[4]));
    if (left || right) {
      label->SetPosition(at[0] + (left ? 12 : -12), at[1]);
      if (right) label->GetTextProperty()->SetJustificationToRight();
      label->GetTextProperty()->SetVerticalJustificationToCentered();
    } else {
      const auto end = on_page({c[3], c[4], c[5]});
      label->SetPosition(end[0] + 10, at[1] + (low ? 6 : -6));
      if (!low) label->GetTextProperty()->SetVerticalJustificationToTop();
    }
    renderer->AddActor2D(label);
  }
}

}  // namespace wavy
