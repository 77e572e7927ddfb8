// Handles of the HDF5 library.
#pragma once

#include <hdf5.h>

#include <cstdint>

#include "base/error.hpp"

namespace wavy {

/// Throws a failure where the library refuses.
inline void check_hdf5(std::int64_t status) {
  if (status < 0) throw failure("a file cannot be made or read: the HDF5 library refuses", "free some space");
}

/// A handle, closed when it goes.
class Hdf5Handle {
 public:
  Hdf5Handle(hid_t id, herr_t (*close)(hid_t)) : id_(id), close_(close) { check_hdf5(id); }
  ~Hdf5Handle() { close_(id_); }
  Hdf5Handle(const Hdf5Handle&) = delete;
  Hdf5Handle& operator=(const Hdf5Handle&) = delete;
  Hdf5Handle(Hdf5Handle&&) = delete;
  Hdf5Handle& operator=(Hdf5Handle&&) = delete;
  operator hid_t() const { return id_; }  // NOLINT(google-explicit-constructor): it stands for the number

 private:
  hid_t id_;
  herr_t (*close_)(hid_t);
};

}  // namespace wavy
