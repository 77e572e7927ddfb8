// The end of an earlier run, laid onto another grid.
#pragma once

#include <string>
#include <vector>

#include "case/part.hpp"
#include "mesh/grid.hpp"

namespace wavy {

/// Fields of a snapshot on the grid that they were computed on. Nothing outside it, and nothing in its solids.
template <int D>
class PriorSnapshot {
 public:
  /// F and velocities in grid order (the first axis fastest); 0 where nothing is known.
  PriorSnapshot(const Vec<D>& lower, const Vec<D>& upper, const Index<D>& cells, const std::vector<double>& F,
                std::vector<Vec<D>> velocity);

  /// Share of the box lower..upper that the denser phase filled: below the planes of its interface, so that volumes are
  /// kept.
  [[nodiscard]] double liquid(const Vec<D>& lower, const Vec<D>& upper) const;
  /// Mean velocity in the box [m/s].
  [[nodiscard]] Vec<D> velocity(const Vec<D>& lower, const Vec<D>& upper) const;

 private:
  struct Content {
    double F = 0;
    Plane<D> plane;  // its normal is 0 where the cell is not cut
  };
  template <class Fn>
  void overlaps(const Vec<D>& lower, const Vec<D>& upper, Fn&& fn) const;

  Vec<D> lower_;
  Vec<D> spacing_;
  Index<D> cells_;
  std::vector<Content> content_;
  std::vector<Vec<D>> velocity_;
};

/// Reads the snapshot that a key names: a file, or a run folder, of which it is the last one. Throws an input error
/// when it cannot be read or has another number of dimensions.
template <int D>
PriorSnapshot<D> read_earlier(Part& part, const char* key);

}  // namespace wavy
