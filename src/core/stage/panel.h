/// A panel that shows a picture: a backdrop, a photograph on a wall, a page to stand before.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/image/image.h"
#include "core/stage/props.h"

namespace hscaffold::stage {

/// What it shows: kept small, and in halves of that for where it is seen small (mip maps: Williams 1983, "Pyramidal
/// parametrics").
class PanelPicture {
 public:
  static constexpr int longest = 256;  ///< pixels, of the longer side
  /// @param kept  not empty, at most `longest` along each side
  /// @param text  the same for a scene's file; made where it is empty
  explicit PanelPicture(Image<Rgb8> kept, std::string text = {});
  /// Made as small as that. @param picture  not empty
  static std::shared_ptr<const PanelPicture> of(View<Rgba16> picture);

  /// As it is kept, sRGB-encoded.
  [[nodiscard]] const Image<Rgb8>& pixels() const { return pixels_; }
  /// A PNG in base64.
  [[nodiscard]] const std::string& text() const { return text_; }
  /// Linear light at a place. @param u, v  [0, 1], from its left and its top @param step  how much of its width lies
  /// between two samples of the screen
  [[nodiscard]] Rgb at(float u, float v, float step) const;

 private:
  Image<Rgb8> pixels_;
  std::string text_;
  std::vector<Image<Rgb>> levels_;  ///< linear; each half of the one before it
};

/// From the text of a scene's file. What was read lately is the very same again. @throws Problem (badInput)
std::shared_ptr<const PanelPicture> panelPictureFromText(const std::string& text, const std::string& where);

/// A board on the ground that faces +z and shows a picture in front, or only its colour.
Mesh panel(const Place& place, const Vec3& size, Rgb colour, std::shared_ptr<const PanelPicture> picture);

}  // namespace hscaffold::stage
