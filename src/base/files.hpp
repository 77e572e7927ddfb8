// Files that are written as a whole, or not at all, and locks on folders.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

#include "base/error.hpp"

namespace wavy {

/// The failure of a file that cannot be written. `reason`: of the system (errno), 0 where it gives none.
Error cannot_write(const std::filesystem::path& file, int reason, const std::string& way_out = "name another place");

/// Writes a file, the content and then its end, beside its place and renames it, so that there is the old one or the
/// new one, whole. Throws a failure that names the file and the reason; nothing is left of the new one then.
void write_file(const std::filesystem::path& file, std::string_view content, std::string_view end = {});

/// The same for a file that somebody else has written as `part`: takes it into its place.
void take_into_place(const std::filesystem::path& part, const std::filesystem::path& file);

/// Reads a whole file; nothing where it cannot be read, is no plain file or is longer than `longest` bytes.
std::optional<std::string> read_file(const std::filesystem::path& file, std::uintmax_t longest);

/// A plain file with more than `longest` bytes.
bool is_longer_than(const std::filesystem::path& file, std::uintmax_t longest);

/// A number made of all bytes of a text (Fowler, Noll & Vo's hash), by which damage is seen. `before`: of what stands
/// before it, where it is given in pieces.
std::uint64_t checksum(std::string_view content, std::uint64_t before = 0xcbf29ce484222325U);

/// A folder of the system's for files in between, which goes away with it. Throws a failure where none can be made.
class ScratchFolder {
 public:
  ScratchFolder();
  ~ScratchFolder();
  ScratchFolder(const ScratchFolder&) = delete;
  ScratchFolder& operator=(const ScratchFolder&) = delete;
  ScratchFolder(ScratchFolder&&) = delete;
  ScratchFolder& operator=(ScratchFolder&&) = delete;

  [[nodiscard]] const std::filesystem::path& path() const { return path_; }

 private:
  std::filesystem::path path_;
};

/// Bytes as text (RFC 4648, base 64).
std::string base64(std::string_view bytes);

/// While it lives nobody else can lock the file of this name. The system takes the lock off when the process ends,
/// however it ends.
class FileLock {
 public:
  FileLock() = default;
  /// Makes the file where there is none. Not held where another holds it, or where files cannot be locked.
  explicit FileLock(const std::filesystem::path& file);
  ~FileLock();
  FileLock(const FileLock&) = delete;
  FileLock& operator=(const FileLock&) = delete;
  FileLock(FileLock&& other) noexcept;
  FileLock& operator=(FileLock&& other) noexcept;

  [[nodiscard]] bool held() const { return handle_ >= 0; }
  /// Whether somebody holds the lock of this name now.
  static bool held_by_another(const std::filesystem::path& file);

 private:
  int handle_ = -1;
};

}  // namespace wavy
