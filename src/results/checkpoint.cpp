#include "results/checkpoint.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstdint>
#include <fstream>
#include <string_view>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "base/files.hpp"
#include "results/hdf5_handle.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t head_size = 512;  // the least that HDF5 leaves to its users
constexpr std::string_view mark = "wavy checkpoint 1";

/// Properties of a file that lies in memory.
Hdf5Handle in_memory() {
  constexpr std::size_t growth = 1U << 24U;
  H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);  // we tell what is wrong
  const hid_t access = H5Pcreate(H5P_FILE_ACCESS);
  H5Pset_fapl_core(access, growth, false);
  return {access, H5Pclose};
}

/// Of a body of this many bytes.
std::string head_of(std::size_t size, std::uint64_t sum) {
  std::string head = fmt::format("{}\n{} {:016x}\n", mark, size, sum);
  head.resize(head_size, ' ');
  return head;
}

/// The file without its head, whose place is left free.
void write_body(const fs::path& path, const Archive& archive) {
  H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);  // we tell what is wrong
  const Hdf5Handle creation(H5Pcreate(H5P_FILE_CREATE), H5Pclose);
  check_hdf5(H5Pset_userblock(creation, head_size));
  const Hdf5Handle file(H5Fcreate(path.c_str(), H5F_ACC_TRUNC, creation, H5P_DEFAULT), H5Fclose);
  const Hdf5Handle links(H5Pcreate(H5P_LINK_CREATE), H5Pclose);
  check_hdf5(H5Pset_create_intermediate_group(links, 1));
  const auto write = [&](const std::string& name, hid_t stored, hid_t given, std::size_t count, const void* values) {
    const hsize_t size = count;
    const Hdf5Handle space(H5Screate_simple(1, &size, nullptr), H5Sclose);
    const Hdf5Handle data(H5Dcreate2(file, name.c_str(), stored, space, links, H5P_DEFAULT, H5P_DEFAULT), H5Dclose);
    if (size > 0) check_hdf5(H5Dwrite(data, given, H5S_ALL, H5S_ALL, H5P_DEFAULT, values));
  };
  for (const auto& [name, values] : archive.numbers())
    write("/numbers/" + name, H5T_IEEE_F64LE, H5T_NATIVE_DOUBLE, values.size(), values.data());
  for (const auto& [name, text] : archive.texts())
    write("/texts/" + name, H5T_STD_U8LE, H5T_NATIVE_UINT8, text.size(), text.data());
  check_hdf5(H5Fflush(file, H5F_SCOPE_LOCAL));
}

/// Fills in the head from what stands behind it, and brings all of it to the disk. False where that cannot be done.
bool write_head(const fs::path& path) {
  std::fstream file(path, std::ios::binary | std::ios::in | std::ios::out);
  file.seekg(head_size);
  std::vector<char> piece(1U << 20U);
  std::uint64_t sum = checksum("");
  std::size_t size = 0;
  while (file.read(piece.data(), static_cast<std::streamsize>(piece.size())) || file.gcount() > 0) {
    const auto got = static_cast<std::size_t>(file.gcount());
    sum = checksum(std::string_view(piece.data(), got), sum);
    size += got;
  }
  file.clear();
  file.seekp(0);
  file << head_of(size, sum) << std::flush;
  if (!file) return false;
  file.close();
  const int handle = open(path.c_str(), O_RDWR | O_CLOEXEC);
  const bool flushed = handle >= 0 && fsync(handle) == 0;
  if (handle >= 0) close(handle);
  return flushed;
}

/// Whether what stands behind the head is what the head says.
bool has_its_head(std::string_view content) {
  const std::string_view body = content.substr(head_size);
  return content.substr(0, head_size) == head_of(body.size(), checksum(body));
}

/// fn(name within `group`, dataset) for all datasets below a group of the file.
template <class Fn>
void for_datasets(hid_t file, const std::string& group, Fn&& fn) {
  if (H5Lexists(file, group.c_str(), H5P_DEFAULT) <= 0) return;
  const Hdf5Handle opened(H5Gopen2(file, group.c_str(), H5P_DEFAULT), H5Gclose);
  H5G_info_t info;
  check_hdf5(H5Gget_info(opened, &info));
  for (hsize_t i = 0; i < info.nlinks; ++i) {
    std::array<char, 256> name{};
    check_hdf5(H5Lget_name_by_idx(opened, ".", H5_INDEX_NAME, H5_ITER_INC, i, name.data(), name.size(), H5P_DEFAULT));
    const std::string path = group + "/" + name.data();
    const Hdf5Handle object(H5Oopen(file, path.c_str(), H5P_DEFAULT), H5Oclose);
    if (H5Iget_type(object) == H5I_GROUP) {
      for_datasets(file, path, fn);
      continue;
    }
    const Hdf5Handle space(H5Dget_space(object), H5Sclose);
    fn(path, object, static_cast<std::size_t>(H5Sget_simple_extent_npoints(space)));
  }
}

}  // namespace

void write_checkpoint(const fs::path& folder, const Archive& archive) {
  const fs::path fresh = folder / "checkpoint.new.h5";
  errno = 0;
  const auto give_up = [&] {
    const int reason = errno;
    std::error_code ignored;
    fs::remove(fresh, ignored);
    return cannot_write(fresh, reason);
  };
  try {
    write_body(fresh, archive);
  } catch (const Error&) {
    throw give_up();
  }
  if (!write_head(fresh)) throw give_up();
  // The newest gets a second name, so that there is one at every moment.
  std::error_code status;
  if (fs::exists(folder / checkpoint_name, status)) {
    fs::remove(folder / checkpoint_before_name, status);
    fs::create_hard_link(folder / checkpoint_name, folder / checkpoint_before_name, status);
    if (status) fs::rename(folder / checkpoint_name, folder / checkpoint_before_name, status);
  }
  take_into_place(fresh, folder / checkpoint_name);
}

Archive read_checkpoint(const fs::path& file) {
  constexpr std::uintmax_t longest = std::uintmax_t{1} << 40U;
  auto content = read_file(file, longest);
  const auto wrong = [&](const std::string& what) { return input_error({file.string(), 0, 0, ""}, what); };
  if (!content) throw wrong("there is no checkpoint here that can be read");
  if (content->size() < head_size || !content->starts_with(mark))
    throw wrong("this is no checkpoint, or its head is damaged");
  if (!has_its_head(*content)) throw wrong("this checkpoint is damaged: its checksum is not right");
  const Hdf5Handle access = in_memory();
  // NOLINTNEXTLINE(clang-analyzer-cplusplus.InnerPointer): the text stays as it is from when it was read
  check_hdf5(H5Pset_file_image(access, content->data(), content->size()));
  const Hdf5Handle opened(H5Fopen("checkpoint", H5F_ACC_RDONLY, access), H5Fclose);
  Archive::Numbers numbers;
  Archive::Texts texts;
  const auto inner = [](const std::string& path, std::string_view group) { return path.substr(group.size() + 1); };
  for_datasets(opened, "/numbers", [&](const std::string& path, hid_t data, std::size_t size) {
    auto& values = numbers[inner(path, "/numbers")];
    values.resize(size);
    if (size > 0) check_hdf5(H5Dread(data, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data()));
  });
  for_datasets(opened, "/texts", [&](const std::string& path, hid_t data, std::size_t size) {
    auto& text = texts[inner(path, "/texts")];
    text.resize(size);
    if (size > 0) check_hdf5(H5Dread(data, H5T_NATIVE_UINT8, H5S_ALL, H5S_ALL, H5P_DEFAULT, text.data()));
  });
  return {std::move(numbers), std::move(texts)};
}

double time_of(Archive& checkpoint) {
  double time = 0;
  checkpoint.within("model", [&] { checkpoint("time", time); });
  return time;
}

}  // namespace wavy
