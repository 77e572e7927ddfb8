#include <GL/glew.h>
// GLEW must come before every other OpenGL header.
#include <EGL/egl.h>
#include <EGL/eglext.h>
#include <vtkObjectFactory.h>
#include <vtkOpenGLRenderWindow.h>

#include <array>
#include <cstdlib>

#include "base/error.hpp"
#include "figures/offscreen.hpp"

namespace wavy {
namespace {

constexpr const char* remedy = "install the packages libegl1 and libgl1-mesa-dri";

/// Debian's VTK knows only X; Mesa's surfaceless platform needs neither X nor a graphics card.
class Context {
 public:
  Context() {
    setenv("EGL_LOG_LEVEL", "fatal", 0);
    display_ = eglGetPlatformDisplay(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
    if (display_ == EGL_NO_DISPLAY || eglInitialize(display_, nullptr, nullptr) == EGL_FALSE)
      throw failure("pictures cannot be drawn: EGL does not start", remedy);
    constexpr std::array<EGLint, 5> wanted{EGL_RENDERABLE_TYPE, EGL_OPENGL_BIT, EGL_SURFACE_TYPE, 0, EGL_NONE};
    EGLConfig config = nullptr;
    EGLint count = 0;
    eglChooseConfig(display_, wanted.data(), &config, 1, &count);
    eglBindAPI(EGL_OPENGL_API);
    constexpr std::array<EGLint, 7> version{
        EGL_CONTEXT_MAJOR_VERSION,           3,       EGL_CONTEXT_MINOR_VERSION, 2, EGL_CONTEXT_OPENGL_PROFILE_MASK,
        EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT, EGL_NONE};
    context_ = eglCreateContext(display_, count > 0 ? config : nullptr, EGL_NO_CONTEXT, version.data());
    if (context_ == EGL_NO_CONTEXT) throw failure("pictures cannot be drawn: no OpenGL 3.2", remedy);
    make_current();
    glewExperimental = GL_TRUE;
    const GLenum status = glewInit();
    // GLEW looks for GLX, which is not needed here.
    if ((status != GLEW_OK && status != GLEW_ERROR_NO_GLX_DISPLAY) || !GLEW_VERSION_3_2)
      throw failure("pictures cannot be drawn: OpenGL functions are missing", remedy);
  }
  ~Context() {
    eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
    eglDestroyContext(display_, context_);
    eglTerminate(display_);
  }
  Context(const Context&) = delete;
  Context& operator=(const Context&) = delete;
  Context(Context&&) = delete;
  Context& operator=(Context&&) = delete;

  void make_current() const { eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, context_); }
  [[nodiscard]] bool is_current() const { return eglGetCurrentContext() == context_; }

 private:
  EGLDisplay display_ = EGL_NO_DISPLAY;
  EGLContext context_ = EGL_NO_CONTEXT;
};

Context& context() {
  static Context instance;
  return instance;
}

// VTK's objects are counted and never deleted through this type.
// NOLINTNEXTLINE(cppcoreguidelines-virtual-class-destructor)
class OffscreenWindow : public vtkGenericOpenGLRenderWindow {
 public:
  vtkTypeMacro(OffscreenWindow, vtkGenericOpenGLRenderWindow) static OffscreenWindow* New() {
    auto* window = new OffscreenWindow;
    window->InitializeObjectBase();
    return window;
  }
  OffscreenWindow(const OffscreenWindow&) = delete;
  OffscreenWindow& operator=(const OffscreenWindow&) = delete;
  OffscreenWindow(OffscreenWindow&&) = delete;
  OffscreenWindow& operator=(OffscreenWindow&&) = delete;

  void OpenGLInitContext() override {
    this->GlewInitValid = true;
    this->Initialized = true;
  }
  void MakeCurrent() override { context().make_current(); }
  bool IsCurrent() override { return context().is_current(); }
  int SupportsOpenGL() override { return 1; }
  void Frame() override {}

 protected:
  OffscreenWindow() {
    this->SetOwnContext(1);
    this->SetReadyForRendering(true);
    this->SetMapped(1);
    this->SetOffScreenRendering(1);
    this->SetFrameBlitModeToNoBlit();
  }
  ~OffscreenWindow() override = default;
};

}  // namespace

vtkGenericOpenGLRenderWindow* offscreen_window() {
  context();  // before any object of VTK's, and destroyed after them
  static vtkSmartPointer<OffscreenWindow> window = vtkSmartPointer<OffscreenWindow>::Take(OffscreenWindow::New());
  return window;
}

}  // namespace wavy
