#include "core/stage/panel.h"

#include <algorithm>
#include <cmath>

#include "core/base64.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/image/resample.h"
#include "core/problem.h"
#include "core/recently_used.h"

namespace hscaffold::stage {

PanelPicture::PanelPicture(Image<Rgb8> kept, std::string text)
    : pixels_(std::move(kept)), text_(text.empty() ? base64(encodePng(pixels_.view())) : std::move(text)) {
  levels_.push_back(toLinear(pixels_.view()));
  while (std::max(levels_.back().width(), levels_.back().height()) > 1) {
    const auto& last = levels_.back();
    const Size half{std::max(1, last.width() / 2), std::max(1, last.height() / 2)};
    levels_.push_back(resampled(last.view(), half, Resampling::area));
  }
}

std::shared_ptr<const PanelPicture> PanelPicture::of(View<Rgba16> picture) {
  const Size kept = within({picture.width(), picture.height()}, longest);
  return std::make_shared<const PanelPicture>(toSrgb8(resampled(picture, kept).view()));
}

Rgb PanelPicture::at(float u, float v, float step) const {
  const float texels = step * static_cast<float>(pixels_.width());
  const auto level = static_cast<std::size_t>(
      std::clamp(std::log2(std::max(texels, 1e-3f)) + 0.5f, 0.0f, static_cast<float>(levels_.size() - 1)));
  const auto& from = levels_[level];
  const float x = std::clamp(u, 0.0f, 1.0f) * static_cast<float>(from.width()) - 0.5f,
              y = std::clamp(v, 0.0f, 1.0f) * static_cast<float>(from.height()) - 0.5f;
  const float left = std::floor(x), top = std::floor(y), across = x - left, down = y - top;
  const int column = static_cast<int>(left), row = static_cast<int>(top);
  const auto pixel = [&](int dx, int dy) { return from.view().clamped(column + dx, row + dy); };
  return (pixel(0, 0) * (1 - across) + pixel(1, 0) * across) * (1 - down) +
         (pixel(0, 1) * (1 - across) + pixel(1, 1) * across) * down;
}

std::shared_ptr<const PanelPicture> panelPictureFromText(const std::string& text, const std::string& where) {
  // A scene is read anew at every change of it.
  static RecentlyUsed<std::string, PanelPicture> known(16);
  return known.of(text, [&] {
    const auto bytes = fromBase64(text);
    if (!bytes) throw badInput(where + ": its picture is no base64.");
    const Size size = sizeOfPng(*bytes);
    if (std::max(size.width, size.height) > PanelPicture::longest)
      throw badInput(where + ": its picture has more than 256 pixels along a side.");
    return std::make_shared<const PanelPicture>(decodePngRgb8(*bytes), text);
  });
}

Mesh panel(const Place& place, const Vec3& size, Rgb colour, std::shared_ptr<const PanelPicture> picture) {
  Mesh out = box(place, size, colour);
  if (picture == nullptr) return out;
  // A box begins with the four points of its front: left below, and on round.
  out.across.assign(out.at.size(), {-1, -1});
  constexpr std::array<std::array<float, 2>, 4> front = {{{0, 1}, {1, 1}, {1, 0}, {0, 0}}};
  std::copy(front.begin(), front.end(), out.across.begin());
  std::fill_n(out.colour.begin(), front.size(), Rgb{1, 1, 1});
  out.material.picture = std::move(picture);
  return out;
}

}  // namespace hscaffold::stage
