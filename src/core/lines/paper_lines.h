/// Line art from drawings on paper.
#pragma once

#include "core/lines/lines.h"

namespace hscaffold {

/// Where the ground of a sheet would be without the drawing, and how much darker the drawing is.
struct Sheet {
  Image<float> density;  ///< 1 - light / ground, [0, 1]: 0 is bare paper
  float grain = 0;       ///< spread of bare paper's density (1.48 x median absolute deviation)
  bool lightOnDark = false;
};

/// Light, about [0, 1], in which coloured marks are faint: each pixel's channel that differs least from the paper's
/// colour, and lighter by how coloured the pixel is. Pencil and ink absorb all channels alike; a coffee ring or a blue
/// rule does not. Empty if most of what is drawn is coloured itself.
Image<float> lightWithoutColour(View<Rgb> picture, StopToken stop = {});

/// Flattens the illumination: the ground is what is left when everything narrower than `widest` is filled with its
/// surroundings (grey closing, Serra 1982), smoothed. Stains and shadows are broader and go with the ground.
/// @param light  linear luminance, [0, 1].
Sheet sheetOf(View<float> light, InkOnPaper polarity, double widest, StopToken stop = {});

/// Marks that are mostly colour lose their density (see `lightWithoutColour`).
void dropColoured(Sheet& sheet, View<Rgb> picture, double widest, StopToken stop = {});

/// Ink, [0, 1]: density within two thresholds, the lower one only where it is joined to the higher (hysteresis).
/// @param amount  50 is what fits the sheet; more takes fainter marks.
/// @param specks  pieces of fewer pixels go.
Image<float> inkOn(const Sheet& sheet, double amount, double specks, StopToken stop = {});

}  // namespace hscaffold
