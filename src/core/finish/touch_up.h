/// Touch-ups pulled and laid over a final.
#pragma once

#include "core/finish/pull_final.h"

namespace hscaffold {

/// The part of a final that an engine sees, and how large.
struct TouchView {
  Box box;   ///< of the final
  Size job;  ///< what is pulled, on the engine's step
  [[nodiscard]] double detail() const { return static_cast<double>(job.width) / box.width(); }
};
/// The region with its feather and rim, not smaller than an engine can make it; nothing of it outside of the final.
/// @throws Problem (badInput) for a region that covers nothing
TouchView viewOf(const TouchUp& touchUp, Size final, const EngineInfo& engine);

/// @param final  the final's recipe
Recipe touchRecipe(const Recipe& final, const TouchUp& touchUp, Size whole, const TouchView& view, std::uint32_t seed);

/// @param recipe  as `touchRecipe` makes it
/// @param maps    the whole final's, of any size
/// @param below   what lies in the view's box
EngineJob touchJob(Recipe recipe, const TouchUp& touchUp, const EngineJob& maps, View<Rgb8> below);

/// The recipe after which the whole's maps are made that touch-ups are cut from: at the final's size times the detail,
/// as far as memory allows, so that lines are drawn anew rather than enlarged.
Recipe mapsRecipe(const Recipe& final, Size whole, double detail);

/// Lays a try over what is below it, in linear light; where the mask is 0 nothing changes.
/// @param shown  of the size of the try's job @param box  of the picture that it shows
void layOver(MutableView<Rgb8> picture, const TouchUp& touchUp, View<Rgb8> shown, const Box& box);
/// The same for 16 bits.
void layOver(MutableView<Rgba16> picture, const TouchUp& touchUp, View<Rgb8> shown, const Box& box);

/// PNGs by content, and what they show. @throws Problem
using PictureBytes = std::function<std::shared_ptr<const Bytes>(const std::string& content)>;
using ShownPictures = std::function<std::shared_ptr<const Image<Rgb8>>(const std::string& content)>;
ShownPictures shownFrom(PictureBytes pictures);

/// The final with its touch-ups that are on, up to one of them.
/// @param until  how many of the stack, from below
/// @param after  where given, is shown the picture before the first (0) and after each touch-up (1, 2, ...)
/// @throws Problem where one of its pictures is not there
Image<Rgb8> composedFinal(const Final& final, const ShownPictures& pictures, std::size_t until = mostTouchUps,
                          const std::function<void(std::size_t number, View<Rgb8> picture)>& after = {});
/// The same in 16 bits, all of it.
Image<Rgba16> composedInSixteen(const Final& final, const ShownPictures& pictures);

/// One try pulled.
struct FinishedTry {
  TouchTry info;
  Image<Rgb8> picture;
  Bytes png;  ///< with its recipe
};
/// @param below  the final with what lies below the touch-up, whole @throws Cancelled, Problem
FinishedTry pullTry(Engine& engine, const Recipe& final, const TouchUp& touchUp, View<Rgb8> below, std::uint32_t seed,
                    const JobSources& sources, MadeMaps* made, const EngineSink& sink, StopToken stop);

/// A touch-up brought along to a final of another size.
TouchUp atSize(TouchUp touchUp, Size from, Size to);

inline constexpr const char* finalKeyword = "humble-scaffold-final";
/// What a final is made of, to be written into its PNG: its own recipe, and its touch-ups with theirs.
PngTexts textsFor(const Final& final, const PictureBytes& pictures);

}  // namespace hscaffold
