#include "results/checkpoint.hpp"

#include <fmt/format.h>
#include <hdf5.h>

#include <array>
#include <charconv>
#include <string_view>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "base/files.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t head_size = 512;  // the least that HDF5 leaves to its users
constexpr std::string_view mark = "wavy checkpoint 1";

/// A handle of the HDF5 library, closed when it goes.
class Handle {
 public:
  Handle(hid_t id, herr_t (*close)(hid_t)) : id_(id), close_(close) {
    if (id < 0) throw failure("a checkpoint cannot be made or read: the HDF5 library refuses");
  }
  ~Handle() { close_(id_); }
  Handle(const Handle&) = delete;
  Handle& operator=(const Handle&) = delete;
  Handle(Handle&&) = delete;
  Handle& operator=(Handle&&) = delete;
  operator hid_t() const { return id_; }  // NOLINT(google-explicit-constructor): it stands for the number

 private:
  hid_t id_;
  herr_t (*close_)(hid_t);
};

void check(herr_t status) {
  if (status < 0) throw failure("a checkpoint cannot be made or read: the HDF5 library refuses");
}

/// Properties of a file that lies in memory.
Handle in_memory() {
  constexpr std::size_t growth = 1U << 24U;
  H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);  // we tell what is wrong
  const hid_t access = H5Pcreate(H5P_FILE_ACCESS);
  H5Pset_fapl_core(access, growth, false);
  return {access, H5Pclose};
}

std::string head_of(std::string_view body) {
  std::string head = fmt::format("{}\n{} {:016x}\n", mark, body.size(), checksum(body));
  head.resize(head_size, ' ');
  return head;
}

/// The file as HDF5 would write it, without a head.
std::string image_of(const Archive& archive) {
  const Handle access = in_memory();
  const Handle file(H5Fcreate("checkpoint", H5F_ACC_TRUNC, H5P_DEFAULT, access), H5Fclose);
  const Handle links(H5Pcreate(H5P_LINK_CREATE), H5Pclose);
  check(H5Pset_create_intermediate_group(links, 1));
  for (const auto& [name, values] : archive.numbers()) {
    const hsize_t size = values.size();
    const Handle space(H5Screate_simple(1, &size, nullptr), H5Sclose);
    const Handle data(
        H5Dcreate2(file, ("/numbers/" + name).c_str(), H5T_IEEE_F64LE, space, links, H5P_DEFAULT, H5P_DEFAULT),
        H5Dclose);
    if (size > 0) check(H5Dwrite(data, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data()));
  }
  for (const auto& [name, text] : archive.texts()) {
    const hsize_t size = text.size();
    const Handle space(H5Screate_simple(1, &size, nullptr), H5Sclose);
    const Handle data(
        H5Dcreate2(file, ("/texts/" + name).c_str(), H5T_STD_U8LE, space, links, H5P_DEFAULT, H5P_DEFAULT), H5Dclose);
    if (size > 0) check(H5Dwrite(data, H5T_NATIVE_UINT8, H5S_ALL, H5S_ALL, H5P_DEFAULT, text.data()));
  }
  check(H5Fflush(file, H5F_SCOPE_LOCAL));
  std::string image(static_cast<std::size_t>(H5Fget_file_image(file, nullptr, 0)), '\0');
  if (H5Fget_file_image(file, image.data(), image.size()) < 0) check(-1);
  return image;
}

/// fn(name within `group`, dataset) for all datasets below a group of the file.
template <class Fn>
void for_datasets(hid_t file, const std::string& group, Fn&& fn) {
  if (H5Lexists(file, group.c_str(), H5P_DEFAULT) <= 0) return;
  const Handle opened(H5Gopen2(file, group.c_str(), H5P_DEFAULT), H5Gclose);
  H5G_info_t info;
  check(H5Gget_info(opened, &info));
  for (hsize_t i = 0; i < info.nlinks; ++i) {
    std::array<char, 256> name{};
    if (H5Lget_name_by_idx(opened, ".", H5_INDEX_NAME, H5_ITER_INC, i, name.data(), name.size(), H5P_DEFAULT) < 0)
      check(-1);
    const std::string path = group + "/" + name.data();
    const Handle object(H5Oopen(file, path.c_str(), H5P_DEFAULT), H5Oclose);
    if (H5Iget_type(object) == H5I_GROUP) {
      for_datasets(file, path, fn);
      continue;
    }
    const Handle space(H5Dget_space(object), H5Sclose);
    fn(path, object, static_cast<std::size_t>(H5Sget_simple_extent_npoints(space)));
  }
}

}  // namespace

void write_checkpoint(const fs::path& folder, const Archive& archive) {
  const std::string image = image_of(archive);
  const fs::path fresh = folder / "checkpoint.new.h5";
  write_file(fresh, head_of(image) + image, true);
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
  const auto content = read_file(file, longest);
  const auto wrong = [&](const std::string& what) { return input_error({file.string(), 0, 0, ""}, what); };
  if (!content) throw wrong("there is no checkpoint here that can be read");
  if (content->size() < head_size || !content->starts_with(mark))
    throw wrong("this is no checkpoint, or its head is damaged");
  std::string image = content->substr(head_size);
  if (content->substr(0, head_size) != head_of(image))
    throw wrong("this checkpoint is damaged: its checksum is not right");
  const Handle access = in_memory();
  check(H5Pset_file_image(access, image.data(), image.size()));
  const Handle opened(H5Fopen("checkpoint", H5F_ACC_RDONLY, access), H5Fclose);
  Archive::Numbers numbers;
  Archive::Texts texts;
  const auto inner = [](const std::string& path, std::string_view group) { return path.substr(group.size() + 1); };
  for_datasets(opened, "/numbers", [&](const std::string& path, hid_t data, std::size_t size) {
    auto& values = numbers[inner(path, "/numbers")];
    values.resize(size);
    if (size > 0) check(H5Dread(data, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data()));
  });
  for_datasets(opened, "/texts", [&](const std::string& path, hid_t data, std::size_t size) {
    auto& text = texts[inner(path, "/texts")];
    text.resize(size);
    if (size > 0) check(H5Dread(data, H5T_NATIVE_UINT8, H5S_ALL, H5S_ALL, H5P_DEFAULT, text.data()));
  });
  return {std::move(numbers), std::move(texts)};
}

}  // namespace wavy
