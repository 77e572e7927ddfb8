// The interface beside walls thinner than a cell: what lies behind such a sheet is not seen from before it.
//
// Heights, normals and curvatures are taken from a patch of shares round each cell near a sheet. What is seen from the
// cell, along the axes through open faces, is as it is; behind a sheet the patch goes on as behind a wall of the grid:
// as the mirror image, or where a contact angle rules by the plane at that angle (see contact.cpp); across a sheet
// along which the interface runs it goes on full or empty.
#pragma once

#include <algorithm>
#include <array>
#include <cstdlib>
#include <optional>
#include <vector>

#include "geometry/plane.hpp"
#include "mesh/open_space.hpp"
#include "sharp/model.hpp"

namespace wavy::sharp {

/// The plane that goes on behind a wall from the cell where the interface meets it.
template <int D>
struct ContactCell {
  Index<D> cell{};  ///< in its block
  Plane<D> plane;
  int axis = 0;  ///< across the wall
  int side = 0;  ///< of the cell on which the wall is: 0 lower, 1 upper
};

/// The same of the cell at `at` in a block, beside a wall on one of its sides. Nothing where the interface does not end
/// there. `F`: at the block's cell (0, 0, 0), halo filled; `out_of`: direction out of the liquid, in cell units. Reads
/// the velocity where the angle depends on the speed of the line.
template <int D>
std::optional<ContactCell<D>> find_contact(const Grid<D>& grid, const Settings<D>& settings, int block,
                                           std::ptrdiff_t at, const double* F, const Vec<D>& out_of,
                                           const CellVectors<D>& velocity, int axis, int side);

/// Whether the interface meets walls as its own mirror image.
template <int D>
bool meets_walls_upright(const Settings<D>& settings);

/// The sheets of a space.
template <int D>
class Sheets {
 public:
  Sheets() = default;
  Sheets(const Grid<D>& grid, const OpenSpace<D>& space);

  [[nodiscard]] bool none() const { return closed_[0].data().empty(); }
  /// A sheet closes a face within reach of the stencils of a cell.
  [[nodiscard]] bool near(int block, std::ptrdiff_t at) const { return !none() && near_.block(block)[at] != 0; }
  /// One closes a face of the cell itself, and no other wall touches it: the sheet is like a wall of the grid to it.
  [[nodiscard]] bool alone_at(int block, std::ptrdiff_t at) const { return !none() && near_.block(block)[at] == alone; }
  /// One closes a face of the cell itself.
  [[nodiscard]] bool beside(const Layout<D>& layout, int block, std::ptrdiff_t at) const;
  /// Whether a cell near a sheet has no liquid, or nothing else round it, so that none of the interface is seen from
  /// it. `E`: as for SeenShares; the contacts are found.
  [[nodiscard]] bool shows_none(const Layout<D>& layout, int block, std::ptrdiff_t at, const double* E) const;
  /// 1 on the low face of a cell that a sheet closes, halo filled.
  [[nodiscard]] const Faces<D>& closed() const { return closed_; }

  /// Finds where the interface meets the sheets; `F` with all its halo filled.
  void find_contacts(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& F,
                     const CellVectors<D>& velocity);
  [[nodiscard]] const std::vector<ContactCell<D>>& contacts(int block) const {
    return contacts_[static_cast<std::size_t>(block)];
  }

 private:
  static constexpr unsigned char alone = 2;

  Faces<D> closed_;
  Field<unsigned char, D> near_;                       // 1 near a sheet, 2 in cells at one and at no other wall
  std::vector<std::vector<ContactCell<D>>> contacts_;  // by block, halos too
};

/// The shares within `pad` cells of one cell, as seen from it.
template <int D>
class SeenShares {
 public:
  /// `E`: shares at the block's cell (0, 0, 0), with all of its halo filled as far as `reach` looks.
  SeenShares(const Sheets<D>& sheets, const Layout<D>& layout, int block, std::ptrdiff_t at, const double* E,
             int reach = pad);

  /// Share of the cell itself, from which `step` leads on as in a field.
  [[nodiscard]] const double* middle() const { return values_.data() + centre; }
  [[nodiscard]] static const std::array<std::ptrdiff_t, D>& step();
  /// Whether a cell within reach is seen.
  [[nodiscard]] bool sees(const Index<D>& shift) const { return seen_[place(shift)]; }

 private:
  static constexpr int width = 2 * pad + 1;
  static constexpr std::size_t count = D == 2 ? width * width : width * width * width;
  static constexpr std::size_t centre = count / 2;
  static std::size_t place(const Index<D>& shift);

  /// Of what is hidden: the seen cell whose image it is, and the sheet that hides it.
  struct Image {
    Index<D> source{};
    int axis = 0;   // across the sheet
    int layer = 0;  // coordinate along it of the seen cells beside the sheet
    int way = 0;    // towards the sheet: -1 or 1
  };
  [[nodiscard]] bool within(const Index<D>& shift) const {
    return std::ranges::all_of(shift, [this](int s) { return std::abs(s) <= reach_; });
  }
  bool look(const Sheets<D>& sheets, const Layout<D>& layout, int block, std::ptrdiff_t cell, const Index<D>& shift,
            std::array<Image, count>& images);
  [[nodiscard]] std::optional<double> carried_on(const Sheets<D>& sheets, const Layout<D>& layout, int block,
                                                 std::ptrdiff_t at, const Index<D>& shift, const Image& image) const;

  int reach_;
  std::array<double, count> values_{};
  std::array<bool, count> seen_{};
};

}  // namespace wavy::sharp
