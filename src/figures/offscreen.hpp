// A window of VTK's without a display: one EGL context for the process.
#pragma once

#include <vtkGenericOpenGLRenderWindow.h>

namespace wavy {

/// The process's only render window. The first call makes the EGL context (about 50 ms) and throws a failure when the
/// machine cannot draw.
vtkGenericOpenGLRenderWindow* offscreen_window();

}  // namespace wavy
