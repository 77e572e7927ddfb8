#include "case/triangle_file.hpp"

#include <fmt/format.h>

#include <bit>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <string>
#include <string_view>

#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"

namespace wavy {
namespace {

constexpr std::uintmax_t longest_triangle_file = 1U << 30U;
static_assert(std::endian::native == std::endian::little, "binary STL files are little-endian");

Error wrong(const std::filesystem::path& file, int line, const std::string& what, const std::string& remedy = "") {
  return input_error({file.string(), line, line > 0 ? 1 : 0, ""}, what,
                     remedy.empty() ? "write the file anew in the program that made it" : remedy);
}

std::string read_whole(const std::filesystem::path& file) {
  auto bytes = read_file(file, longest_triangle_file);
  if (!bytes)
    throw wrong(
        file, 0,
        is_longer_than(file, longest_triangle_file) ? "the file is larger than 1 GB" : "the file cannot be read",
        "check its name and rights, and that it is a surface of triangles");
  return std::move(*bytes);
}

/// The words of a text, line by line.
class Words {
 public:
  explicit Words(std::string_view text) : rest_(text) {}

  /// The words of the next line that has any; false at the end.
  bool next_line() {
    words_.clear();
    while (words_.empty()) {
      if (rest_.empty()) return false;
      const std::size_t end = std::min(rest_.find('\n'), rest_.size());
      split(rest_.substr(0, end));
      rest_.remove_prefix(std::min(end + 1, rest_.size()));
      ++line_;
    }
    return true;
  }
  [[nodiscard]] int line() const { return line_; }
  [[nodiscard]] const std::vector<std::string_view>& words() const { return words_; }

 private:
  void split(std::string_view line) {
    constexpr std::string_view blanks = " \t\r\v\f";
    while (true) {
      const std::size_t from = line.find_first_not_of(blanks);
      if (from == std::string_view::npos || line[from] == '#') return;
      line.remove_prefix(from);
      const std::size_t end = std::min(line.find_first_of(blanks), line.size());
      words_.push_back(line.substr(0, end));
      line.remove_prefix(end);
    }
  }
  std::string_view rest_;
  std::vector<std::string_view> words_;
  int line_ = 0;
};

/// Three coordinates from the words of a line, after the first one.
Vec<3> point_in(const std::filesystem::path& file, const Words& line) {
  if (line.words().size() < 4) throw wrong(file, line.line(), "a point has three coordinates");
  Vec<3> point{};
  for (std::size_t d = 0; d < 3; ++d) {
    std::string_view word = line.words()[d + 1];
    if (word.starts_with('+')) word.remove_prefix(1);
    const auto [end, status] = std::from_chars(word.data(), word.data() + word.size(), point[d]);
    if (status != std::errc{} || end != word.data() + word.size() || !std::isfinite(point[d]))
      throw wrong(file, line.line(), fmt::format("'{}' is no coordinate", word.substr(0, 40)));
  }
  return point;
}

constexpr std::size_t head = 84;    // of a binary file: ends with the number of triangles
constexpr std::size_t record = 50;  // of each of them

std::uint32_t count_in_head(const std::string& bytes) {
  std::uint32_t count = 0;
  std::memcpy(&count, bytes.data() + head - sizeof(count), sizeof(count));
  return count;
}

/// Text begins with "solid"; but so do some binary files, whose length tells them.
bool is_text(const std::string& bytes) {
  const bool fits = bytes.size() >= head && bytes.size() == head + record * std::size_t{count_in_head(bytes)};
  return bytes.starts_with("solid") && !fits;
}

Triangles read_text(const std::filesystem::path& file, const std::string& bytes) {
  Triangles result;
  Words line(bytes);
  int open = 0;  // corners of the face at hand
  while (line.next_line()) {
    const std::string first = lower(line.words().front());
    if (first == "vertex") {
      if (++open > 3) throw wrong(file, line.line(), "a face has more than three corners");
      result.points.push_back(point_in(file, line));
    } else if (first == "endfacet") {
      if (open != 3) throw wrong(file, line.line(), fmt::format("a face has {} corners in place of three", open));
      const auto last = static_cast<int>(result.points.size());
      result.corners.push_back({last - 3, last - 2, last - 1});
      open = 0;
    }
  }
  if (open != 0) throw wrong(file, line.line(), "the file ends within a face");
  return result;
}

Triangles read_binary(const std::filesystem::path& file, const std::string& bytes) {
  if (bytes.size() < head) throw wrong(file, 0, "the file is too short for an STL file");
  const std::uint32_t count = count_in_head(bytes);
  if (bytes.size() < head + record * static_cast<std::size_t>(count))
    throw wrong(file, 0,
                fmt::format("the file says that it holds {} triangles, and has room for {}", count,
                            (bytes.size() - head) / record));
  Triangles result;
  for (std::size_t n = 0; n < count; ++n) {
    std::array<float, 9> values{};
    std::memcpy(values.data(), bytes.data() + head + record * n + 3 * sizeof(float), sizeof(values));
    for (std::size_t k = 0; k < 3; ++k) {
      Vec<3> point{};
      for (std::size_t d = 0; d < 3; ++d) {
        point[d] = static_cast<double>(values[3 * k + d]);
        if (!std::isfinite(point[d])) throw wrong(file, 0, fmt::format("triangle {} has no finite corner", n + 1));
      }
      result.points.push_back(point);
    }
    const auto last = static_cast<int>(result.points.size());
    result.corners.push_back({last - 3, last - 2, last - 1});
  }
  return result;
}

Triangles read_obj(const std::filesystem::path& file, const std::string& bytes) {
  Triangles result;
  Words line(bytes);
  struct Face {
    std::vector<long> corners;
    int line;
  };
  std::vector<Face> faces;  // points may come behind them
  while (line.next_line()) {
    const auto& words = line.words();
    if (words.front() == "v") result.points.push_back(point_in(file, line));
    if (words.front() != "f") continue;
    Face face{{}, line.line()};
    for (std::size_t k = 1; k < words.size(); ++k) {
      const std::string_view word = words[k].substr(0, words[k].find('/'));  // behind it: texture and normal
      long number = 0;
      const auto [end, status] = std::from_chars(word.data(), word.data() + word.size(), number);
      if (status != std::errc{} || end != word.data() + word.size() || number == 0)
        throw wrong(file, line.line(), fmt::format("'{}' is no number of a point", word.substr(0, 40)));
      if (number < 0) number += static_cast<long>(result.points.size()) + 1;  // from the last point so far
      face.corners.push_back(number);
    }
    if (face.corners.size() < 3) throw wrong(file, line.line(), "a face has at least three corners");
    faces.push_back(std::move(face));
  }
  const auto count = static_cast<long>(result.points.size());
  for (const Face& face : faces) {
    for (const long number : face.corners)
      if (number < 1 || number > count)
        throw wrong(file, face.line, fmt::format("a face names point {}; there are {}", number, count));
    for (std::size_t k = 2; k < face.corners.size(); ++k)
      result.corners.push_back({static_cast<int>(face.corners[0] - 1), static_cast<int>(face.corners[k - 1] - 1),
                                static_cast<int>(face.corners[k] - 1)});
  }
  return result;
}

}  // namespace

Triangles read_triangles(const std::filesystem::path& file) {
  const std::string bytes = read_whole(file);
  if (lower(file.extension().string()) == ".obj") return read_obj(file, bytes);
  return is_text(bytes) ? read_text(file, bytes) : read_binary(file, bytes);
}

}  // namespace wavy
