#include "core/retouch/work_store.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/digest.h"
#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"
#include "core/image/parallel.h"
#include "core/image/png.h"

namespace hscaffold {
namespace {

constexpr int side = Tile::side;

Bytes tileBytes(const Tile& tile) {
  Image<Rgba16> picture(side, side);
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      const Touch& t = tile.at(x, y);
      picture(x, y) = {t.value, t.cover, t.under, 0xffff};
    }
  return encodePngQuickly(picture);
}

std::shared_ptr<const Tile> tileFrom(std::span<const std::byte> bytes) {
  const auto picture = decodePng(bytes).picture;
  if (picture.size() != Size{side, side}) throw badInput("A tile of the retouch has a wrong size.");
  auto tile = std::make_shared<Tile>();
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) tile->at(x, y) = {picture(x, y).r, picture(x, y).g, picture(x, y).b};
  return tile;
}

/// @param nameOfTile  for a tile that is kept already.
template <typename NameOfTile>
nlohmann::json layerToJson(const Layer& layer, NameOfTile&& nameOfTile) {
  nlohmann::json tiles = nlohmann::json::array();
  for (const auto& [place, tile] : layer.tiles) tiles.push_back({place.first, place.second, nameOfTile(tile.get())});
  return {{"width", layer.frame.width},
          {"height", layer.frame.height},
          {"placing", affineToJson(layer.placing)},
          {"tiles", std::move(tiles)}};
}

}  // namespace

std::string WorkStore::tileId(const std::shared_ptr<const Tile>& tile) {
  if (const auto known = tileIds_.find(tile.get()); known != tileIds_.end()) return known->second;
  const std::string id = digestOf(std::as_bytes(std::span(tile->touches)));
  const auto& kept = tiles_.try_emplace(id, tile).first->second;
  tileIds_[kept.get()] = id;
  return id;
}

std::string WorkStore::keep(Layer layer) {
  std::erase_if(layer.tiles, [this](const auto& entry) {
    return !tileIds_.contains(entry.second.get()) &&
           std::all_of(entry.second->touches.begin(), entry.second->touches.end(),
                       [](const Touch& touch) { return touch.cover == 0; });
  });
  if (layer.empty()) return {};
  std::vector<std::string> names;
  for (auto& [place, tile] : layer.tiles) {
    names.push_back(tileId(tile));
    tile = tiles_.at(names.back());
  }
  const auto json = layerToJson(layer, [this](const Tile* tile) { return tileIds_.at(tile); });
  const std::string text = json.dump(), id = digestOf(bytesOf(text));
  tilesOf_[id] = std::move(names);
  layers_.try_emplace(id, std::make_shared<const Layer>(std::move(layer)));
  return id;
}

std::string WorkStore::keep(const WorkForm& form, std::any value) {
  std::string text = form.write(value), id = digestOf(bytesOf(text));
  pieces_.try_emplace(id, Piece{&form, std::move(text), std::move(value)});
  return id;
}

Bytes WorkStore::load(const std::string& id, const std::string& what) {
  Bytes bytes = loader_ ? loader_(id) : Bytes();
  if (bytes.empty()) throw badInput(what + " of a guide is missing from the study.");
  saved_.insert(id);
  return bytes;
}

std::any WorkStore::piece(const WorkForm& form, const std::string& id) {
  if (id.empty()) return {};
  if (const auto found = pieces_.find(id); found != pieces_.end()) {
    if (found->second.form != &form) throw badInput(form.name + " of a guide is something else in the study.");
    return found->second.value;
  }
  std::string text = textOf(load(id, form.name));
  std::any value = form.read(text);
  return pieces_.try_emplace(id, Piece{&form, std::move(text), std::move(value)}).first->second.value;
}

std::shared_ptr<const Layer> WorkStore::layer(const std::string& id) {
  if (id.empty()) return nullptr;
  if (const auto found = layers_.find(id); found != layers_.end()) return found->second;
  const auto json = parseJson(textOf(load(id, "Retouch")), "The retouch");
  JsonFields fields(json, "The retouch");
  Layer layer;
  layer.frame = workFrameFrom(fields);
  layer.placing = affineFromJson(fields.child("placing"), "The retouch");
  const auto& tiles = fields.child("tiles");
  if (!tiles.is_array()) throw badInput("The retouch: \"tiles\" is not a list.");
  std::vector<std::string> names;
  for (const auto& entry : tiles) {
    if (!entry.is_array() || entry.size() != 3 || !entry[0].is_number_integer() || !entry[1].is_number_integer() ||
        !entry[2].is_string())
      throw badInput("The retouch: a tile is a column, a row and a name.");
    const auto name = entry[2].get<std::string>();
    auto& tile = tiles_[name];
    if (!tile) {
      const Bytes content = loader_(name);
      if (content.empty()) throw badInput("A tile of the retouch is missing from the study.");
      tile = tileFrom(content);
      tileIds_[tile.get()] = name;
      saved_.insert(name);
    }
    layer.tiles[{entry[0].get<int>(), entry[1].get<int>()}] = tile;
    names.push_back(name);
  }
  tilesOf_[id] = std::move(names);
  return layers_.try_emplace(id, std::make_shared<const Layer>(std::move(layer))).first->second;
}

std::vector<WorkPart> WorkStore::unsaved(const std::set<std::string>& ids) const {
  std::map<std::string, std::shared_ptr<const Tile>> tiles;
  std::vector<WorkPart> whole;
  const auto bytesFrom = [](const std::string& text) {
    const auto view = bytesOf(text);
    return Bytes(view.begin(), view.end());
  };
  for (const std::string& id : ids) {
    if (saved_.contains(id)) continue;
    if (const auto layer = layers_.find(id); layer != layers_.end()) {
      for (const auto& [place, tile] : layer->second->tiles)
        if (const std::string& name = tileIds_.at(tile.get()); !saved_.contains(name)) tiles.emplace(name, tile);
      const auto json = layerToJson(*layer->second, [this](const Tile* tile) { return tileIds_.at(tile); });
      whole.push_back({id, "layer", bytesFrom(json.dump())});
    } else if (const auto piece = pieces_.find(id); piece != pieces_.end()) {
      whole.push_back({id, piece->second.form->id, bytesFrom(piece->second.text)});
    }
  }
  const std::vector<std::pair<std::string, std::shared_ptr<const Tile>>> fresh(tiles.begin(), tiles.end());
  std::vector<WorkPart> parts(fresh.size());
  parallelRows(
      static_cast<int>(fresh.size()),
      [&](int first, int end) {
        for (auto i = static_cast<std::size_t>(first); i < static_cast<std::size_t>(end); ++i)
          parts[i] = {fresh[i].first, "tile", tileBytes(*fresh[i].second)};
      },
      4);
  parts.insert(parts.end(), std::make_move_iterator(whole.begin()), std::make_move_iterator(whole.end()));
  return parts;
}

void WorkStore::saved(const std::vector<WorkPart>& parts) {
  for (const WorkPart& part : parts) saved_.insert(part.id);
}

std::size_t WorkStore::bytes() const {
  std::size_t sum = tiles_.size() * sizeof(Tile);
  // A piece is its text and what was read from it.
  for (const auto& [id, piece] : pieces_) sum += 2 * piece.text.size();
  return sum;
}

void WorkStore::forget(const std::set<std::string>& needed) {
  if (!loader_) return;
  const auto lapses = [&](const auto& entry) { return saved_.contains(entry.first) && !needed.contains(entry.first); };
  std::erase_if(layers_, lapses);
  std::erase_if(tilesOf_, lapses);
  std::erase_if(pieces_, lapses);
  std::erase_if(tiles_, [&](const auto& entry) {
    if (!saved_.contains(entry.first) || entry.second.use_count() > 1) return false;
    tileIds_.erase(entry.second.get());
    return true;
  });
}

std::set<std::string> WorkStore::withTiles(const std::set<std::string>& ids) {
  std::set<std::string> all = ids;
  for (const std::string& id : ids) {
    if (!tilesOf_.contains(id) && !pieces_.contains(id) && loader_) {
      const Bytes bytes = loader_(id);
      if (bytes.empty()) continue;
      const auto json = parseJson(textOf(bytes), "Hand work");
      if (json.contains("tiles")) static_cast<void>(layer(id));
    }
    if (const auto found = tilesOf_.find(id); found != tilesOf_.end())
      all.insert(found->second.begin(), found->second.end());
  }
  return all;
}

}  // namespace hscaffold
