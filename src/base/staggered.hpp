// Memory for arrays that are gone through side by side.
//
// Arrays of one size that all begin at the same place of a memory page keep the same element in the same few lines of
// the cache, where loops over many of them push each other out. Here each array begins elsewhere; and large ones lie in
// large pages, of which the processor knows the places of more memory at once.
#pragma once

#include <sys/mman.h>

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <new>
#include <vector>

namespace wavy {

/// An allocator whose arrays begin at the start of a cache line, the lines spread evenly over a page.
template <class T>
struct Staggered {
  using value_type = T;

  Staggered() = default;
  template <class U>
  Staggered(const Staggered<U>&) noexcept {}  // NOLINT(google-explicit-constructor): what allocators must allow

  T* allocate(std::size_t count) {
    static std::atomic<unsigned> arrays{0};
    const std::size_t place = line * (spread * arrays++ % lines);  // in a page
    const std::size_t bytes = count * sizeof(T) + page + line;
    const std::align_val_t alignment{bytes < large_page ? line : large_page};
    auto* base = static_cast<std::byte*>(::operator new(bytes, alignment));
    if (bytes >= large_page) madvise(base, bytes, MADV_HUGEPAGE);  // a wish: without it all works as well
    std::byte* start = base + line;
    start += (page + place - reinterpret_cast<std::uintptr_t>(start) % page) % page;
    reinterpret_cast<Origin*>(start)[-1] = {base, alignment};
    return reinterpret_cast<T*>(start);
  }
  void deallocate(T* start, std::size_t) noexcept {
    const Origin origin = reinterpret_cast<Origin*>(start)[-1];
    ::operator delete(origin.base, origin.alignment);
  }
  template <class U>
  bool operator==(const Staggered<U>&) const noexcept {
    return true;
  }

 private:
  struct Origin {
    std::byte* base;
    std::align_val_t alignment;
  };
  static constexpr std::size_t line = 64;               // [bytes]
  static constexpr std::size_t page = 4096;             // [bytes]
  static constexpr std::size_t large_page = 1U << 21U;  // [bytes]
  static constexpr unsigned lines = page / line;
  // Lines from one array to the next: without a common divisor with `lines`, and far apart.
  static constexpr unsigned spread = 27;
};

template <class T>
using StaggeredArray = std::vector<T, Staggered<T>>;

}  // namespace wavy
