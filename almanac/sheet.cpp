// almanac-sheet OUT.png COLUMNS WIDTH PICTURE...: pictures side by side on neutral grey.
#include <cstdio>
#include <cstdlib>
#include <vector>

#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/image/resample.h"

int main(int argc, char** argv) {
  using namespace hscaffold;
  if (argc < 5) {
    std::fprintf(stderr, "usage: almanac-sheet OUT.png COLUMNS WIDTH PICTURE...\n");
    return 2;
  }
  try {
    const int columns = std::max(1, std::atoi(argv[2])), width = std::max(16, std::atoi(argv[3]));
    std::vector<Image<Rgb8>> cells;
    int height = 0;
    for (int i = 4; i < argc; ++i) {
      const auto picture = toLinear(decodePngRgb8(readWholeFile(argv[i])));
      const int rows = std::max(1, width * picture.height() / picture.width());
      cells.push_back(toSrgb8(resampled(picture.view(), {width, rows}, Resampling::area)));
      height = std::max(height, rows);
    }
    constexpr int gap = 8;
    const int lines = (static_cast<int>(cells.size()) + columns - 1) / columns;
    Image<Rgb8> sheet(columns * (width + gap) + gap, lines * (height + gap) + gap, Rgb8{70, 70, 70});
    for (std::size_t i = 0; i < cells.size(); ++i) {
      const int x0 = gap + static_cast<int>(i) % columns * (width + gap),
                y0 = gap + static_cast<int>(i) / columns * (height + gap);
      for (int y = 0; y < cells[i].height(); ++y) std::copy_n(cells[i].row(y), width, sheet.row(y0 + y) + x0);
    }
    writeFileAtomically(argv[1], encodePng(sheet.view()));
    return 0;
  } catch (const std::exception& error) {
    std::fprintf(stderr, "almanac-sheet: %s\n", error.what());
    return 3;
  }
}
