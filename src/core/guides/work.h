/// Hand work on guides: the forms it takes, and how a guide names it, slot by slot.
#pragma once

#include <any>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>

#include "core/frame/placement.h"
#include "core/image/image.h"

namespace hscaffold {

/// What a guide is made for.
struct GuidePlace {
  Size frame;
  std::optional<Affine> placing;  ///< frame from reference; none for guides without a reference
};

/// A form that hand work takes: how a piece of it is written, read, and brought along when the frame or the placing of
/// its reference is another. A piece travels as `std::any` that holds a `std::shared_ptr<const T>`.
struct WorkForm {
  std::string id;    ///< in files: "drawing"
  std::string name;  ///< in messages: "A drawing"
  std::function<std::string(const std::any& piece)> write;
  /// @throws Problem (badInput)
  std::function<std::any(const std::string& text)> read;
  std::function<std::any(const std::any& piece, Size frame, const std::optional<Affine>& placing)> follow;
};

/// The form of pieces of type T, from plain functions.
template <typename T>
WorkForm workForm(std::string id, std::string name, std::string (*write)(const T&), T (*read)(const std::string&),
                  T (*follow)(const T&, Size, const std::optional<Affine>&)) {
  using Piece = std::shared_ptr<const T>;
  return {std::move(id), std::move(name),
          [write](const std::any& piece) { return write(*std::any_cast<const Piece&>(piece)); },
          [read](const std::string& text) -> std::any { return Piece(std::make_shared<const T>(read(text))); },
          [follow](const std::any& piece, Size frame, const std::optional<Affine>& placing) -> std::any {
            return Piece(std::make_shared<const T>(follow(*std::any_cast<const Piece&>(piece), frame, placing)));
          }};
}

/// A place for hand work in the guides of a kind.
struct WorkSlot {
  std::string name;  ///< in guides and files: "drawing"
  const WorkForm* form = nullptr;
  bool alone = false;  ///< a guide may stand on this alone, without a reference
};

/// Slots that every kind has; both hold layers.
inline constexpr const char* retouchSlot = "retouch";
inline constexpr const char* regionSlot = "region";

/// Names of a guide's hand work in the edit store, by slot; a slot without any is not there.
class WorkNames {
 public:
  /// Empty if there is none.
  [[nodiscard]] const std::string& in(const std::string& slot) const;
  /// An empty name empties the slot.
  void put(const std::string& slot, std::string name);
  void clear(const std::string& slot) { names_.erase(slot); }
  [[nodiscard]] bool has(const std::string& slot) const { return names_.contains(slot); }
  [[nodiscard]] const std::map<std::string, std::string>& all() const { return names_; }
  friend bool operator==(const WorkNames&, const WorkNames&) = default;

 private:
  std::map<std::string, std::string> names_;
};

/// A guide's hand work itself, taken out of the store so that it can go to another thread.
class GuideWork {
 public:
  /// Null if the slot is empty.
  template <typename T>
  [[nodiscard]] std::shared_ptr<const T> get(const std::string& slot) const {
    const auto found = pieces_.find(slot);
    return found != pieces_.end() ? std::any_cast<std::shared_ptr<const T>>(found->second) : nullptr;
  }
  void put(const std::string& slot, std::any piece) { pieces_[slot] = std::move(piece); }
  /// Null if the slot is empty.
  [[nodiscard]] const std::any* find(const std::string& slot) const {
    const auto found = pieces_.find(slot);
    return found != pieces_.end() ? &found->second : nullptr;
  }
  /// The pieces of these slots as they lie in a frame now.
  [[nodiscard]] GuideWork following(std::span<const WorkSlot> slots, Size frame,
                                    const std::optional<Affine>& placing) const;

 private:
  std::map<std::string, std::any> pieces_;
};

}  // namespace hscaffold
