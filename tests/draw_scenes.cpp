// Draws the almanac's scenes small, once a build, for the tests that look at them: rows of linear RGB floats.
#include <array>
#include <filesystem>

#include "core/image/atomic_file.h"
#include "scenes.h"

int main(int argc, char** argv) {
  using namespace hscaffold;
  if (argc != 2) return 2;
  const std::filesystem::path folder = argv[1];
  std::filesystem::create_directories(folder);
  const std::array all = {almanac::kiteFlyer(), almanac::teaHouse(), almanac::lighthouseStair(), almanac::sailcloth(),
                          almanac::stairInFog()};
  for (std::size_t i = 0; i < all.size(); ++i) {
    const auto picture = almanac::photograph(all[i], {480, 320}, 7);
    Bytes bytes;
    for (int y = 0; y < picture.height(); ++y) {
      const auto row = std::as_bytes(picture.view().line(y));
      bytes.insert(bytes.end(), row.begin(), row.end());
    }
    writeFileAtomically(folder / ("scene-" + std::to_string(i) + ".rgb"), bytes);
  }
}
