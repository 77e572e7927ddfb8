#include "base/files.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <utility>

namespace wavy {

namespace fs = std::filesystem;

Error cannot_write(const fs::path& file, int reason, const std::string& way_out) {
  return failure(fmt::format("'{}' cannot be written{}", file.string(),
                             reason != 0 ? fmt::format(": {}", std::strerror(reason)) : ""),
                 "free some space, check the rights, or " + way_out);
}

void write_file(const fs::path& file, std::string_view content, std::string_view end) {
  const fs::path part = file.string() + ".part";
  const auto give_up = [&](int handle) {
    const int reason = errno;
    if (handle >= 0) close(handle);
    std::error_code ignored;
    fs::remove(part, ignored);
    throw cannot_write(file, reason);
  };
  errno = 0;
  constexpr mode_t rights = 0666;
  const int handle = open(part.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, rights);
  if (handle < 0) give_up(handle);
  for (std::string_view left : {content, end})
    while (!left.empty()) {
      const ssize_t written = write(handle, left.data(), left.size());
      if (written < 0 && errno == EINTR) continue;
      if (written <= 0) give_up(handle);
      left.remove_prefix(static_cast<std::size_t>(written));
    }
  if (close(handle) != 0) give_up(-1);
  take_into_place(part, file);
}

void take_into_place(const fs::path& part, const fs::path& file) {
  std::error_code status;
  fs::rename(part, file, status);
  if (!status) return;
  std::error_code ignored;
  fs::remove(part, ignored);
  throw cannot_write(file, status.value());
}

std::optional<std::string> read_file(const fs::path& file, std::uintmax_t longest) {
  std::error_code status;
  if (!fs::is_regular_file(file, status)) return std::nullopt;
  const auto size = fs::file_size(file, status);
  if (status || size > longest) return std::nullopt;
  std::ifstream in(file, std::ios::binary);
  std::string content(size, '\0');
  in.read(content.data(), static_cast<std::streamsize>(size));
  if (!in) return std::nullopt;
  return content;
}

bool is_longer_than(const fs::path& file, std::uintmax_t longest) {
  std::error_code status;
  return fs::is_regular_file(file, status) && fs::file_size(file, status) > longest && !status;
}

ScratchFolder::ScratchFolder() {
  std::error_code status;
  std::string name = (std::filesystem::temp_directory_path(status) / "wavy_XXXXXX").string();
  if (status || mkdtemp(name.data()) == nullptr)
    throw failure("no folder for files in between can be made", "free some space, or set TMPDIR");
  path_ = name;
}

ScratchFolder::~ScratchFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
}

std::string base64(std::string_view bytes) {
  constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string text;
  text.reserve((bytes.size() + 2) / 3 * 4);
  for (std::size_t at = 0; at < bytes.size(); at += 3) {
    std::uint32_t three = 0;
    for (std::size_t k = 0; k < 3; ++k)
      three = three << 8U | (at + k < bytes.size() ? static_cast<unsigned char>(bytes[at + k]) : 0U);
    for (std::size_t k = 0; k < 4; ++k) text += at + k <= bytes.size() ? letters[three >> (18 - 6 * k) & 63U] : '=';
  }
  return text;
}

std::uint64_t checksum(std::string_view content, std::uint64_t before) {
  std::uint64_t sum = before;
  constexpr std::uint64_t prime = 0x100000001b3U;
  for (const char c : content) sum = (sum ^ static_cast<unsigned char>(c)) * prime;
  return sum;
}

FileLock::FileLock(const fs::path& file) {
  constexpr mode_t rights = 0666;
  const int handle = open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, rights);
  if (handle < 0) return;
  if (flock(handle, LOCK_EX | LOCK_NB) == 0)
    handle_ = handle;
  else
    close(handle);
}

FileLock::~FileLock() {
  if (handle_ >= 0) close(handle_);
}

FileLock::FileLock(FileLock&& other) noexcept : handle_(std::exchange(other.handle_, -1)) {}

FileLock& FileLock::operator=(FileLock&& other) noexcept {
  std::swap(handle_, other.handle_);
  return *this;
}

bool FileLock::held_by_another(const fs::path& file) {
  const int handle = open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (handle < 0) return false;
  const bool another = flock(handle, LOCK_SH | LOCK_NB) != 0 && errno == EWOULDBLOCK;
  close(handle);
  return another;
}

}  // namespace wavy
