#include "mesh/forest.hpp"

#include <fmt/format.h>
#include <mpi.h>
#include <p4est_bits.h>
#include <p4est_extended.h>
#include <p8est_bits.h>
#include <p8est_extended.h>

#include <cmath>
#include <cstdlib>
#include <map>
#include <utility>

#include "base/error.hpp"

namespace wavy {
namespace {

/// MPI and p4est live as long as the process. Without a launcher, MPI starts alone and on shared memory only,
/// which takes 26 ms instead of 300 ms and needs no ssh; a launcher's own settings are left as they are.
class MessagePassing {
 public:
  static void start() { static const MessagePassing instance; }

  ~MessagePassing() {
    sc_finalize();
    MPI_Finalize();
  }
  MessagePassing(const MessagePassing&) = delete;
  MessagePassing& operator=(const MessagePassing&) = delete;
  MessagePassing(MessagePassing&&) = delete;
  MessagePassing& operator=(MessagePassing&&) = delete;

 private:
  MessagePassing() {
    const bool launched = std::getenv("OMPI_COMM_WORLD_SIZE") != nullptr || std::getenv("PMI_SIZE") != nullptr;
    if (!launched) {
      setenv("OMPI_MCA_ess_singleton_isolated", "1", 0);
      setenv("OMPI_MCA_pml", "ob1", 0);
      setenv("OMPI_MCA_btl", "vader,self", 0);
      setenv("OMPI_MCA_orte_create_session_dirs", "0", 0);  // several programs at once would race for them
      setenv("HWLOC_HIDE_ERRORS", "2", 0);  // machines that hide their topology are not the user's concern
    }
    int provided = 0;
    if (MPI_Init_thread(nullptr, nullptr, MPI_THREAD_FUNNELED, &provided) != MPI_SUCCESS)
      throw failure("the message-passing library cannot be started", "check the installation of Open MPI");
    int ranks = 1;
    MPI_Comm_size(MPI_COMM_WORLD, &ranks);
    if (ranks > 1) {
      MPI_Finalize();
      throw input_error({}, fmt::format("the program was started on {} ranks; it runs on one", ranks),
                        "start it without a launcher, or on one rank; --threads says how many cores it uses");
    }
    sc_init(MPI_COMM_WORLD, 0, 0, nullptr, SC_LP_ERROR);
    p4est_init(nullptr, SC_LP_ERROR);
  }
};

template <int D>
struct Calls;

template <>
struct Calls<2> {
  using Forest = p4est_t;
  using Connectivity = p4est_connectivity_t;
  using TreeOfForest = p4est_tree_t;
  using Quadrant = p4est_quadrant_t;
  static constexpr int max_level = P4EST_MAXLEVEL;
  static Connectivity* brick(const Index<2>& n, const std::array<bool, 2>& p) {
    return p4est_connectivity_new_brick(n[0], n[1], p[0] ? 1 : 0, p[1] ? 1 : 0);
  }
  static Forest* make(Connectivity* c) { return p4est_new_ext(MPI_COMM_WORLD, c, 0, 0, 1, 0, nullptr, nullptr); }
  static void destroy(Forest* f, Connectivity* c) {
    p4est_destroy(f);
    p4est_connectivity_destroy(c);
  }
  static int corner(const Quadrant& q, int axis) { return axis == 0 ? q.x : q.y; }
};

template <>
struct Calls<3> {
  using Forest = p8est_t;
  using Connectivity = p8est_connectivity_t;
  using TreeOfForest = p8est_tree_t;
  using Quadrant = p8est_quadrant_t;
  static constexpr int max_level = P8EST_MAXLEVEL;
  static Connectivity* brick(const Index<3>& n, const std::array<bool, 3>& p) {
    return p8est_connectivity_new_brick(n[0], n[1], n[2], p[0] ? 1 : 0, p[1] ? 1 : 0, p[2] ? 1 : 0);
  }
  static Forest* make(Connectivity* c) { return p8est_new_ext(MPI_COMM_WORLD, c, 0, 0, 1, 0, nullptr, nullptr); }
  static void destroy(Forest* f, Connectivity* c) {
    p8est_destroy(f);
    p8est_connectivity_destroy(c);
  }
  static int corner(const Quadrant& q, int axis) { return axis == 0 ? q.x : axis == 1 ? q.y : q.z; }
};

}  // namespace

template <int D>
struct Forest<D>::Tree {
  typename Calls<D>::Connectivity* connectivity = nullptr;
  typename Calls<D>::Forest* forest = nullptr;
  Tree(const Index<D>& roots, const std::array<bool, D>& periodic) {
    MessagePassing::start();
    connectivity = Calls<D>::brick(roots, periodic);
    forest = Calls<D>::make(connectivity);
  }
  ~Tree() { Calls<D>::destroy(forest, connectivity); }
  Tree(const Tree&) = delete;
  Tree& operator=(const Tree&) = delete;
  Tree(Tree&&) = delete;
  Tree& operator=(Tree&&) = delete;
};

template <int D>
Forest<D>::Forest(const Index<D>& roots, const std::array<bool, D>& periodic, Turn turn)
    : roots_(roots), turn_(turn), tree_(std::make_unique<Tree>(roots, periodic)) {
  const auto* forest = tree_->forest;
  const auto* connectivity = tree_->connectivity;
  std::map<Index<D>, int> at;
  for (auto number = forest->first_local_tree; number <= forest->last_local_tree; ++number) {
    auto* tree = reinterpret_cast<typename Calls<D>::TreeOfForest*>(
        sc_array_index(forest->trees, static_cast<std::size_t>(number)));
    // The brick's vertices lie on whole numbers: the first vertex of a tree is its place in the brick.
    const auto vertex = connectivity->tree_to_vertex[(1 << D) * number];
    for (std::size_t q = 0; q < tree->quadrants.elem_count; ++q) {
      const auto* quadrant = reinterpret_cast<const typename Calls<D>::Quadrant*>(sc_array_index(&tree->quadrants, q));
      Leaf<D> leaf;
      leaf.level = static_cast<unsigned char>(quadrant->level);
      for (int d = 0; d < D; ++d) {
        const int root = static_cast<int>(std::lround(connectivity->vertices[3 * vertex + d]));
        leaf.position[d] =
            (root << leaf.level) + (Calls<D>::corner(*quadrant, d) >> (Calls<D>::max_level - leaf.level));
      }
      at[leaf.position] = static_cast<int>(leaves_.size());
      leaves_.push_back(leaf);
    }
  }
  neighbours_.assign(leaves_.size() * D * 2, -1);
  for (std::size_t leaf = 0; leaf < leaves_.size(); ++leaf) {
    for (int axis = 0; axis < D; ++axis) {
      for (int side = 0; side < 2; ++side) {
        Index<D> position = leaves_[leaf].position;
        const int across = roots[axis] << leaves_[leaf].level;
        if (!turned(static_cast<int>(leaf), axis, side))
          position[axis] += side == 0 ? -1 : 1;
        else if (turn == Turn::half)
          position[1] = (roots[1] << leaves_[leaf].level) - 1 - position[1];
        else
          std::swap(position[0], position[1]);
        if (periodic[axis]) position[axis] = (position[axis] + across) % across;
        const auto found = at.find(position);
        if (found != at.end()) neighbours_[(leaf * D + axis) * 2 + side] = found->second;
      }
    }
  }
}

template <int D>
Forest<D>::~Forest() = default;

template class Forest<2>;
template class Forest<3>;

}  // namespace wavy
