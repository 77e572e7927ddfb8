// The end of an earlier run, laid onto another grid.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "case/part.hpp"
#include "mesh/grid.hpp"

namespace wavy {

/// Fields of a snapshot on the grid that they were computed on. Nothing outside it, and nothing in its solids.
template <int D>
class PriorSnapshot {
 public:
  /// Of one phase, in grid order (the first axis fastest); 0 where nothing is known.
  struct OfPhase {
    std::string name;  ///< empty: the denser one of the sharp model
    std::vector<double> fraction;
    std::vector<Vec<D>> velocity;  ///< [m/s]
  };
  struct OfTracer {
    std::string name;
    std::vector<double> concentration;  ///< in its phase [kg/m3]
  };
  /// Only the denser phase of the sharp model, or all of the Eulerian model.
  PriorSnapshot(const Vec<D>& lower, const Vec<D>& upper, const Index<D>& cells, std::vector<OfPhase> phases,
                std::vector<OfTracer> tracers);

  [[nodiscard]] bool is_sharp() const { return phases_.front().name.empty(); }
  [[nodiscard]] std::vector<std::string> names() const;
  [[nodiscard]] AlignedBox<D> box() const;
  /// Whether there is anything of a phase anywhere.
  [[nodiscard]] bool has_any(std::size_t phase) const;
  /// Share of the box lower..upper that a phase filled: in the sharp model below the planes of its interface, so that
  /// volumes are kept; else as if it were even in each cell.
  [[nodiscard]] double share(std::size_t phase, const Vec<D>& lower, const Vec<D>& upper) const;
  /// Mean of a phase's velocity in the box [m/s].
  [[nodiscard]] Vec<D> velocity(std::size_t phase, const Vec<D>& lower, const Vec<D>& upper) const;
  [[nodiscard]] std::vector<std::string> tracer_names() const;
  /// Mean of a tracer's concentration in its phase in the box; none where there is nothing of that [kg/m3].
  [[nodiscard]] std::optional<double> concentration(std::size_t tracer, std::size_t phase, const Vec<D>& lower,
                                                    const Vec<D>& upper) const;

 private:
  template <class Fn>
  void overlaps(const Vec<D>& lower, const Vec<D>& upper, Fn&& fn) const;

  Vec<D> lower_;
  Vec<D> spacing_;
  Index<D> cells_;
  std::vector<OfPhase> phases_;
  std::vector<OfTracer> tracers_;
  std::vector<Plane<D>> planes_;  // of the sharp model's; their normal is 0 where the cell is not cut
};

/// Reads the snapshot that a key names: a file, or a run folder, of which it is the last one. Throws an input error
/// when it cannot be read or has another number of dimensions.
template <int D>
PriorSnapshot<D> read_earlier(Part& part, const char* key);

}  // namespace wavy
