/// Hand work by content: layers, their tiles and drawings, each named by a digest, so that guides, undo and recipes
/// hold names only and equal work is kept once.
#pragma once

#include <functional>
#include <set>
#include <string>
#include <vector>

#include "core/image/atomic_file.h"
#include "core/pose/inks.h"
#include "core/retouch/layer.h"

namespace hscaffold {

/// A piece as it is kept in a file. A layer names its tiles, which come before it.
struct EditPart {
  std::string id;    ///< XXH3 (128 bits, hexadecimal) of the content
  std::string kind;  ///< "tile" (PNG), "layer", "drawing", "figures" or "inks" (JSON)
  Bytes bytes;
};

class EditStore {
 public:
  /// Brings a piece from where it is kept; empty if it is not there.
  using Loader = std::function<Bytes(const std::string& id)>;
  explicit EditStore(Loader loader = {}) : loader_(std::move(loader)) {}

  /// From now on only what is in memory is known: for copies that go to another thread.
  void detach() { loader_ = {}; }

  /// @return the name; empty for an empty layer.
  std::string keep(Layer layer);
  std::string keep(Drawing drawing);
  /// A pose guide without any figure is kept too: its name is never empty.
  std::string keep(pose::Figures figures);
  /// @param text  JSON. @throws Problem (badInput) if it is no inks.
  std::string keepInks(const std::string& text, const std::string& where);
  /// Null for an empty name. @throws Problem (badInput) if it is missing or damaged.
  std::shared_ptr<const Layer> layer(const std::string& id);
  std::shared_ptr<const Drawing> drawing(const std::string& id);
  std::shared_ptr<const pose::Figures> figures(const std::string& id);
  std::shared_ptr<const pose::Inks> inks(const std::string& id);

  /// What has been kept since it was last saved and is needed for `ids`, tiles before their layers.
  [[nodiscard]] std::vector<EditPart> unsaved(const std::set<std::string>& ids) const;
  void saved(const std::vector<EditPart>& parts);
  /// The given names with those of all tiles they need. @throws Problem (badInput) if a layer is missing or damaged.
  std::set<std::string> withTiles(const std::set<std::string>& ids);

 private:
  Bytes load(const std::string& id, const char* what);
  std::string tileId(const std::shared_ptr<const Tile>& tile);

  Loader loader_;
  std::map<std::string, std::shared_ptr<const Layer>> layers_;
  std::map<std::string, std::vector<std::string>> tilesOf_;  ///< by layer
  std::map<std::string, std::shared_ptr<const Drawing>> drawings_;
  std::map<std::string, std::shared_ptr<const pose::Figures>> figures_;
  struct KeptInks {
    std::string text;
    std::shared_ptr<const pose::Inks> inks;
  };
  std::map<std::string, KeptInks> inks_;
  std::map<std::string, std::shared_ptr<const Tile>> tiles_;
  std::map<const Tile*, std::string> tileIds_;  ///< of tiles that are alive in `tiles_`
  std::set<std::string> saved_;
};

}  // namespace hscaffold
