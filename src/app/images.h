/// Between the core's images and Qt's.
#pragma once

#include <QColor>
#include <QImage>

#include "core/image/atomic_file.h"
#include "core/image/image.h"
#include "core/kinds.h"

namespace hscaffold::app {

QImage toQImage(View<Rgb8> picture);
/// Puts a part of a picture (RGB32) in its place. @param at  its upper left corner there
void paintInto(QImage& picture, QPoint at, View<Rgb8> part);
Image<Rgb8> fromQImage(const QImage& image);
/// A colour in linear light as it is seen, and back.
QColor toQColor(const Rgb& linear);
Rgb fromQColor(const QColor& colour);
/// Null if it is no picture.
QImage imageFromPng(const Bytes& png);
/// 8 bits, white on black, as the map is.
QImage greyImage(View<std::uint16_t> map);
/// The map's lines in a colour, transparent where it is black.
QImage tintedImage(View<std::uint16_t> map, const QColor& colour);
/// Figures in their inks, transparent where there is only ground.
QImage inkedImage(View<Rgb8> map, Rgb8 background);
/// A decoded reference for showing, at most `longest` pixels on its longer side.
QImage displayImage(View<Rgba16> picture, int longest);

}  // namespace hscaffold::app
