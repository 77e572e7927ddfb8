#include "case/snapshot_reader.hpp"

#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDataArray.h>
#include <vtkDataArraySelection.h>
#include <vtkFieldData.h>
#include <vtkNew.h>
#include <vtkObject.h>
#include <vtkPoints.h>
#include <vtkUnsignedCharArray.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridReader.h>

#include <algorithm>
#include <cmath>
#include <csignal>
#include <cstdint>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <optional>
#include <string>

#include "base/error.hpp"
#include "base/files.hpp"

namespace wavy {
namespace {

constexpr std::uintmax_t longest_snapshot = 1ULL << 36U;
constexpr std::string_view seal_begins = "<!-- checksum ";

constexpr double most_per_byte = 100;  // values, as far as they can be packed

/// The number in quotation marks behind a word in a file's head; `standard` where it is not there.
double number_behind(const std::string& content, std::string_view word, std::size_t from, double standard) {
  const std::size_t at = content.find(word, from);
  return at == std::string::npos ? standard : std::strtod(content.c_str() + at + word.size(), nullptr);
}

/// Whether the sizes of all blocks of values in a file are possible: VTK takes memory for what they say.
bool block_sizes_possible(const std::string& content) {
  const std::size_t appended = content.find("<AppendedData");
  const std::size_t begin = appended == std::string::npos ? appended : content.find('_', appended);
  if (begin == std::string::npos) return false;
  const bool wide = content.find("header_type=\"UInt64\"") != std::string::npos;
  const std::size_t size = wide ? 8 : 4;
  const double room = most_per_byte * static_cast<double>(content.size());
  for (std::size_t at = content.find("offset=\""); at != std::string::npos && at < appended;
       at = content.find("offset=\"", at + 1)) {
    const double offset = number_behind(content, "offset=\"", at, -1);
    if (!(offset >= 0 && offset < static_cast<double>(content.size()))) return false;
    const std::size_t head = begin + 1 + static_cast<std::size_t>(offset);
    if (head + 3 * size > content.size()) return false;
    const auto word = [&](std::size_t k) {
      std::uint64_t value = 0;
      std::memcpy(&value, content.data() + head + k * size, size);
      return static_cast<double>(value);
    };
    const double blocks = word(0);
    if (blocks * word(1) > 8 * room || word(2) > word(1) || blocks > static_cast<double>(content.size())) return false;
  }
  return true;
}

/// What is wrong with the bytes of a file, before anything is made of them; nothing where all is well.
std::optional<std::string> fault_of(const std::string& content) {
  constexpr std::string_view end = "</VTKFile>";
  const std::size_t last = content.rfind(end);
  if (last == std::string::npos) return "it is cut off, or no snapshot";
  const std::size_t seal = content.rfind(seal_begins);
  if (seal != std::string::npos && seal > last) {
    const std::string_view all(content);
    return all.substr(seal) == snapshot_seal(all.substr(0, seal)) ? std::nullopt
                                                                  : std::optional<std::string>("it is damaged");
  }
  // One that an earlier version or another program has written: its sizes must be possible.
  for (const std::string_view count : {"NumberOfPoints=\"", "NumberOfCells=\""}) {
    const double number = number_behind(content, count, 0, 0);
    if (!(number > 0) || number > most_per_byte * static_cast<double>(content.size()))
      return "its sizes are impossible";
  }
  if (!block_sizes_possible(content)) return "its sizes are impossible";
  return std::nullopt;
}

bool finite(vtkDataArray* array) {
  for (vtkIdType i = 0; i < array->GetNumberOfTuples(); ++i)
    for (int c = 0; c < array->GetNumberOfComponents(); ++c)
      if (!std::isfinite(array->GetComponent(i, c))) return false;
  return true;
}

/// What is wrong with the data.
std::optional<std::string> fault_of(vtkUnstructuredGrid* data, const FieldChoice& wanted = {}) {
  const vtkIdType cells = data->GetNumberOfCells();
  const vtkIdType points = data->GetNumberOfPoints();
  if (cells < 1 || points < 4 || data->GetCells() == nullptr) return "it holds no cells";
  vtkDataArray* ids = data->GetCells()->GetConnectivityArray();
  vtkDataArray* offsets = data->GetCells()->GetOffsetsArray();
  const int type = data->GetCellType(0);
  if (type != VTK_QUAD && type != VTK_HEXAHEDRON) return "its cells are neither squares nor cubes";
  const vtkIdType corners = type == VTK_QUAD ? 4 : 8;
  if (offsets->GetNumberOfTuples() != cells + 1 || ids->GetNumberOfTuples() != corners * cells ||
      data->GetCellTypesArray()->GetNumberOfTuples() != cells)
    return "its cells do not fit its corners";
  for (vtkIdType i = 0; i <= cells; ++i) {
    if (static_cast<vtkIdType>(offsets->GetComponent(i, 0)) != corners * i) return "its cells do not fit its corners";
    if (i < cells && data->GetCellType(i) != type) return "its cells are of several kinds";
  }
  for (vtkIdType i = 0; i < ids->GetNumberOfTuples(); ++i) {
    const double id = ids->GetComponent(i, 0);
    if (!(id >= 0 && id < static_cast<double>(points))) return "a cell has a corner that is not there";
  }
  if (!finite(data->GetPoints()->GetData())) return "it has points that are nowhere";
  for (const std::string name : {"fraction", "velocity"})
    if (data->GetCellData()->HasArray(name.c_str()) == 0 && (name == "fraction" || !wanted || wanted(name)))
      return fmt::format("it has no field '{}'", name);
  for (const VesselQuantity* one : quantities_in(data)) {
    const VesselQuantity& quantity = *one;
    const std::string& name = quantity.name;
    auto* array = data->GetCellData()->GetArray(name.c_str());
    if (array->GetNumberOfTuples() != cells || array->GetNumberOfComponents() != quantity.components)
      return fmt::format("its field '{}' does not fit its cells", name);
    if (!finite(array)) return fmt::format("its field '{}' is not finite everywhere", name);
  }
  for (const char* name : {"open", "wall_drag"}) {
    auto* array = data->GetCellData()->GetArray(name);
    if (array != nullptr && (array->GetNumberOfTuples() != cells || !finite(array)))
      return fmt::format("its field '{}' is damaged", name);
  }
  for (const char* name : {"thin_walls", "openings"}) {
    auto* boxes = data->GetFieldData()->GetArray(name);
    if (boxes != nullptr && (boxes->GetNumberOfComponents() != 6 || !finite(boxes)))
      return fmt::format("its boxes '{}' are damaged", name);
  }
  auto* names = data->GetFieldData()->GetAbstractArray("opening_names");
  auto* openings = data->GetFieldData()->GetArray("openings");
  if (names != nullptr && (openings == nullptr || names->GetNumberOfValues() > openings->GetNumberOfTuples()))
    return "its openings have more names than places";
  if (auto* mirrors = data->GetFieldData()->GetArray("mirrors"))
    for (vtkIdType i = 0; i < mirrors->GetNumberOfTuples(); ++i)
      if (const double axis = mirrors->GetTuple1(i); axis != 0 && axis != 1 && axis != 2)
        return "its mirrors are damaged";
  for (const char* name : {"half_turn", "quarter_turn"})
    if (auto* axis = data->GetFieldData()->GetArray(name))
      if (axis->GetNumberOfTuples() != 2 || axis->GetNumberOfComponents() != 1 || !finite(axis))
        return "its turn is damaged";
  constexpr double hair = 1e-6;
  auto* fraction = data->GetCellData()->GetArray("fraction");
  for (vtkIdType i = 0; i < cells; ++i)
    if (const double F = fraction->GetComponent(i, 0); F < -hair || F > 1 + hair) return "a fraction is outside 0 to 1";
  return std::nullopt;
}

bool is_sealed(const std::string& content) { return content.rfind(seal_begins) != std::string::npos; }

/// VTK's reader on what is in memory; null where it finds something wrong.
vtkSmartPointer<vtkUnstructuredGrid> read_with_vtk(const std::string& content, const FieldChoice& wanted = {}) {
  vtkObject::GlobalWarningDisplayOff();
  vtkNew<vtkXMLUnstructuredGridReader> reader;
  reader->ReadFromInputStringOn();
  reader->SetInputString(content);
  if (wanted) {
    reader->UpdateInformation();
    auto* choice = reader->GetCellDataArraySelection();
    for (int i = 0; i < choice->GetNumberOfArrays(); ++i) {
      const std::string name = choice->GetArrayName(i);
      if (name != "fraction" && !wanted(name)) choice->DisableArray(name.c_str());
    }
  }
  reader->Update();
  return reader->GetErrorCode() == 0 ? reader->GetOutput() : nullptr;
}

/// From now on this process gets no more memory than a file of this many bytes can hold: where its sizes are damaged
/// VTK asks for any amount. The address sanitizer's own memory cannot be told from ours: there it has no effect.
void limit_memory(std::size_t bytes) {
  double pages = 0;  // of data that it has now, the sixth figure there
  std::ifstream figures("/proc/self/statm");
  for (int k = 0; k < 6; ++k) figures >> pages;
  constexpr double always = 256e6;
  const double most = pages * static_cast<double>(sysconf(_SC_PAGESIZE)) + always +
                      2 * sizeof(double) * most_per_byte * static_cast<double>(bytes);
  const rlimit limit{static_cast<rlim_t>(most), static_cast<rlim_t>(most)};
#ifndef __SANITIZE_ADDRESS__
  if (figures) setrlimit(RLIMIT_DATA, &limit);
#else
  static_cast<void>(limit);
#endif
}

/// Whether VTK survives the reading. It takes most of what it reads for true, and what is not sealed may be anything:
/// it is read in a process of its own first.
bool can_be_read(const std::string& content) {
  const pid_t child = fork();
  if (child == 0) {
    for (const int signal : {SIGSEGV, SIGBUS, SIGABRT, SIGFPE, SIGILL}) std::signal(signal, SIG_DFL);
    constexpr unsigned longest = 60;  // [s]
    alarm(longest);
    limit_memory(content.size());
    bool good = false;
    try {
      const auto data = read_with_vtk(content);
      good = data != nullptr && !fault_of(data);
    } catch (const std::exception&) {
      good = false;
    }
    _exit(good ? 0 : 1);
  }
  int status = 1;
  return child > 0 && waitpid(child, &status, 0) == child && WIFEXITED(status) && WEXITSTATUS(status) == 0;
}

}  // namespace

std::vector<const VesselQuantity*> quantities_in(vtkUnstructuredGrid* data) {
  std::vector<const VesselQuantity*> found;
  for (const auto* quantity : all_quantities())
    if (data->GetCellData()->HasArray(quantity->name.c_str()) != 0) found.push_back(quantity);
  for (int i = 0; i < data->GetCellData()->GetNumberOfArrays(); ++i) {
    const char* name = data->GetCellData()->GetArrayName(i);
    const auto* quantity = name == nullptr ? nullptr : find_quantity(name);
    if (quantity != nullptr && std::ranges::find(found, quantity) == found.end()) found.push_back(quantity);
  }
  return found;
}

std::string snapshot_seal(std::string_view content) {
  return fmt::format("{}{:016x} -->\n", seal_begins, checksum(content));
}

FieldChoice fields_named(std::vector<std::string> names) {
  return [names = std::move(names)](const std::string& name) { return std::ranges::find(names, name) != names.end(); };
}

vtkSmartPointer<vtkUnstructuredGrid> read_snapshot(const std::filesystem::path& file, const FieldChoice& wanted) {
  const auto broken = [&](const std::string& what) {
    return input_error({file.string(), 0, 0, ""}, fmt::format("the snapshot cannot be read: {}", what),
                       "give another snapshot, or run the case again");
  };
  const auto content = read_file(file, longest_snapshot);
  if (!content) throw broken("it is missing, or no plain file");
  if (const auto fault = fault_of(*content)) throw broken(*fault);
  if (!is_sealed(*content) && !can_be_read(*content)) throw broken("it is damaged");
  auto data = read_with_vtk(*content, wanted);
  if (data == nullptr) throw broken("it is damaged");
  if (const auto fault = fault_of(data, wanted)) throw broken(*fault);
  return data;
}

}  // namespace wavy
