// hscaffold-almanac FOLDER: draws the demo's reference pictures into a folder as PNG, those that are not there yet. The
// tree keeps them in almanac/pictures/, as JPEG of quality 96 with full colour, so that the demo need not draw them.
#include <cstdio>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>

#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/pose/coco.h"
#include "scenes.h"

int main(int argc, char** argv) {
  using namespace hscaffold;
  if (argc != 2) {
    std::fprintf(stderr, "usage: hscaffold-almanac FOLDER\n");
    return 2;
  }
  try {
    const std::filesystem::path folder = argv[1];
    std::filesystem::create_directories(folder);
    struct Picture {
      const char* name;
      std::function<Image<Rgb>()> draw;
    };
    const Picture pictures[] = {{"kite-flyer.png",
                                 [] {
                                   return almanac::photograph(almanac::kiteFlyer(), {1200, 800}, 11);
                                 }},
                                {"tea-house.png",
                                 [] {
                                   return almanac::photograph(almanac::teaHouse(), {1200, 800}, 12);
                                 }},
                                {"lighthouse-stair.png",
                                 [] {
                                   return almanac::photograph(almanac::lighthouseStair(), {800, 1200}, 13);
                                 }},
                                {"dune-walk.png",
                                 [] {
                                   return almanac::photograph(almanac::duneWalk(), {1200, 800}, 15);
                                 }},
                                {"sailcloth.png",
                                 [] {
                                   return almanac::photograph(almanac::sailcloth(), {1200, 800}, 16);
                                 }},
                                {"stair-in-fog.png",
                                 [] {
                                   return almanac::photograph(almanac::stairInFog(), {800, 1200}, 17);
                                 }},
                                {"rusted-buoy.png",
                                 [] {
                                   return almanac::photograph(almanac::rustedBuoy(), {1200, 800}, 18);
                                 }},
                                {"sail-cart-sketch.png", [] {
                                   return almanac::sailCartSketch({1500, 1000}, 14);
                                 }}};
    for (const Picture& picture : pictures) {
      const auto path = folder / picture.name;
      if (std::filesystem::exists(path)) continue;
      std::printf("almanac: drawing %s\n", picture.name);
      writeFileAtomically(path,
                          encodePng(toSrgb8(picture.draw()).view(), {{"Title", "The wind almanac of Pellamere"}}));
    }
    const auto figures = folder / "dune-walk.json";
    const std::string text = pose::cocoFrom(almanac::duneWalkFigures({1200, 800})).dump(1) + "\n";
    if (!std::filesystem::exists(figures)) writeFileAtomically(figures, bytesOf(text));
    return 0;
  } catch (const std::exception& error) {
    std::fprintf(stderr, "hscaffold-almanac: %s\n", error.what());
    return 3;
  }
}
