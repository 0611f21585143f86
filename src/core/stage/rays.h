/// What a ray meets first: exact answers where a picture of samples only knows about.
#pragma once

#include <span>
#include <vector>

#include "core/stage/mesh.h"

namespace hscaffold::stage {

/// The faces of each mesh in a tree of boxes (split in the middle of the longest side of their centres); rays meet
/// faces by Möller and Trumbore 1997. Faces are kept as they were.
class Rays {
 public:
  explicit Rays(std::span<const Mesh> meshes);

  struct Met {
    float along = 0;           ///< of the direction given
    std::uint16_t object = 0;  ///< of its mesh; 0: nothing
  };
  /// The first face from `from` on along `way`, up to `most` times it. Both sides of faces count.
  [[nodiscard]] Met first(const Vec3& from, const Vec3& way, float most) const;
  /// Whether anything lies on the way before `most`.
  [[nodiscard]] bool blocked(const Vec3& from, const Vec3& way, float most) const;

 private:
  struct Face {
    Vec3 a, ab, ac;
    std::uint16_t object;
  };
  struct Node {
    Vec3 low, high;
    std::uint32_t first = 0, count = 0;  ///< faces of a leaf; else `first` is the second child, the other one follows
  };
  /// One mesh. Its first node is about all of it.
  struct Tree {
    std::vector<Face> faces;
    std::vector<Node> nodes;
  };
  class Grower;
  template <bool any>
  static void meet(const Tree& tree, const Vec3& from, const Vec3& way, Met& out);

  std::vector<Tree> trees_;  ///< none is empty
};

}  // namespace hscaffold::stage
