/// Hand work by content: layers, their tiles and all other forms, each named by a digest, so that guides, undo and
/// recipes hold names only and equal work is kept once.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "core/guides/work.h"
#include "core/image/atomic_file.h"
#include "core/retouch/layer.h"

namespace hscaffold {

/// A piece as it is kept in a file. A layer names its tiles, which come before it.
struct WorkPart {
  std::string id;    ///< XXH3 (128 bits, hexadecimal) of the content
  std::string kind;  ///< "tile" (PNG), "layer" or the id of another form (JSON)
  Bytes bytes;
};

class WorkStore {
 public:
  /// Beyond so much it is time to `forget`.
  static constexpr std::size_t mostBytes = std::size_t{48} << 20;

  /// Brings a piece from where it is kept; empty if it is not there.
  using Loader = std::function<Bytes(const std::string& id)>;
  explicit WorkStore(Loader loader = {}) : loader_(std::move(loader)) {}

  /// @return the name; empty for an empty layer.
  std::string keep(Layer layer);
  /// @param piece  of `form`.
  std::string keep(const WorkForm& form, std::any piece);
  template <typename T>
  std::string keep(const WorkForm& form, T piece) {
    return keep(form, std::any(std::shared_ptr<const T>(std::make_shared<const T>(std::move(piece)))));
  }
  /// Null for an empty name. @throws Problem (badInput) if it is missing or damaged.
  std::shared_ptr<const Layer> layer(const std::string& id);
  /// Without a value for an empty name. @throws Problem (badInput) if it is missing or damaged.
  std::any piece(const WorkForm& form, const std::string& id);
  /// Null for an empty name. @throws Problem (badInput) if it is missing or damaged.
  template <typename T>
  std::shared_ptr<const T> get(const WorkForm& form, const std::string& id) {
    const std::any found = piece(form, id);
    return found.has_value() ? std::any_cast<std::shared_ptr<const T>>(found) : nullptr;
  }

  /// What has been kept since it was last saved and is needed for `ids`, tiles before their layers.
  [[nodiscard]] std::vector<WorkPart> unsaved(const std::set<std::string>& ids) const;
  void saved(const std::vector<WorkPart>& parts);
  /// Bytes in memory, about.
  [[nodiscard]] std::size_t bytes() const;
  /// Lets go of what is saved, is not in `needed`, and can be brought again; what others hold stays theirs.
  void forget(const std::set<std::string>& needed);
  /// The given names with those of all tiles they need. @throws Problem (badInput) if a layer is damaged.
  std::set<std::string> withTiles(const std::set<std::string>& ids);

 private:
  Bytes load(const std::string& id, const std::string& what);
  std::string tileId(const std::shared_ptr<const Tile>& tile);

  struct Piece {
    const WorkForm* form = nullptr;
    std::string text;  ///< as it is kept
    std::any value;
  };
  Loader loader_;
  std::map<std::string, std::shared_ptr<const Layer>> layers_;
  std::map<std::string, std::vector<std::string>> tilesOf_;  ///< by layer
  std::map<std::string, Piece> pieces_;
  std::map<std::string, std::shared_ptr<const Tile>> tiles_;
  std::map<const Tile*, std::string> tileIds_;  ///< of tiles that are alive in `tiles_`
  std::set<std::string> saved_;
};

}  // namespace hscaffold
