#include "base/staggered.hpp"

#include <doctest/doctest.h>

#include <cstdint>
#include <numeric>
#include <set>

using namespace wavy;

namespace {

/// Place of an array's first element within a memory page [bytes].
template <class T>
std::uintptr_t place_in_page(const StaggeredArray<T>& array) {
  return reinterpret_cast<std::uintptr_t>(array.data()) % 4096;
}

}  // namespace

TEST_CASE("arrays of one size begin at lines of the cache that differ") {
  std::vector<StaggeredArray<double>> arrays;
  std::set<std::uintptr_t> places;
  for (int k = 0; k < 32; ++k) {
    arrays.emplace_back(4096, 1.0 * k);  // whole pages, so that any common place shows
    CHECK(place_in_page(arrays.back()) % 64 == 0);
    places.insert(place_in_page(arrays.back()));
  }
  CHECK(places.size() == 32);
  for (int k = 0; k < 32; ++k) {
    const auto& array = arrays[static_cast<std::size_t>(k)];
    CHECK(std::accumulate(array.begin(), array.end(), 0.0) == 4096.0 * k);
  }
}

TEST_CASE("staggered arrays grow, are copied and change places like any other") {
  StaggeredArray<float> small{1, 2, 3};
  StaggeredArray<float> large((std::size_t{3} << 20U) / sizeof(float), 7);  // more than a large page
  const StaggeredArray<float> copy = large;
  std::swap(small, large);
  CHECK(small == copy);
  CHECK(large == StaggeredArray<float>{1, 2, 3});
  for (int i = 4; i < 100000; ++i) large.push_back(static_cast<float>(i));
  CHECK(large.back() == 99999);
  CHECK(large[2] == 3);
  small.clear();
  small.shrink_to_fit();
  CHECK(copy.back() == 7);
}
