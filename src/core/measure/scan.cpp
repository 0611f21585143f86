#define ZX_USE_UTF8 1
#include "core/measure/scan.h"

#include <ZXing/ReadBarcode.h>
#include <fmt/format.h>

#include <array>
#include <cmath>
#include <numbers>

#include "core/digest.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/measure/proof_seen.h"
#include "core/recently_used.h"

namespace hscaffold {
namespace {

using Grey = Image<std::uint8_t>;

/// Of what decoders look at: phones take no more.
constexpr int mostLooked = 1280;

constexpr std::array binarizers{ZXing::Binarizer::LocalAverage, ZXing::Binarizer::GlobalHistogram};

ZXing::Result readBy(const Grey& picture, ZXing::Binarizer binarizer) {
  ZXing::DecodeHints hints;
  hints.setFormats(ZXing::BarcodeFormat::QRCode);
  hints.setBinarizer(binarizer);
  hints.setTryHarder(true);
  hints.setTryRotate(true);
  hints.setTryDownscale(false);
  hints.setMaxNumberOfSymbols(1);
  const ZXing::ImageView view(picture.row(0), picture.width(), picture.height(), ZXing::ImageFormat::Lum,
                              static_cast<int>(picture.stride()));
  return ZXing::ReadBarcode(view, hints);
}

Grey greyOf(View<float> encoded) {
  Grey out(encoded.size());
  for (int y = 0; y < out.height(); ++y)
    std::transform(encoded.row(y), encoded.row(y) + out.width(), out.row(y),
                   [](float v) { return static_cast<std::uint8_t>(std::lround(255 * std::clamp(v, 0.0f, 1.0f))); });
  return out;
}

template <typename Change>
Image<float> changed(View<float> light, const Change& change) {
  Image<float> out(light.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = change(light(x, y), x, y);
  return out;
}

Grey asSeen(View<float> light) {
  return greyOf(changed(light, [](float v, int, int) { return linearToSrgb(std::clamp(v, 0.0f, 1.0f)); }));
}

/// Round its middle, on a light page.
Grey through(View<float> light, const Homography& fromMiddle) {
  const Homography back = fromMiddle.inverted();
  const double mx = 0.5 * light.width(), my = 0.5 * light.height();
  return asSeen(changed(light, [&](float, int x, int y) {
    const Point at{x + 0.5 - mx, y + 0.5 - my};
    constexpr float page = 0.8f;
    if (back.weight(at) <= 0) return page;
    const Point from = back(at);
    const double u = from.x + mx - 0.5, v = from.y + my - 0.5;
    const int left = static_cast<int>(std::floor(u)), top = static_cast<int>(std::floor(v));
    if (left < 0 || top < 0 || left + 1 >= light.width() || top + 1 >= light.height()) return page;
    const auto fx = static_cast<float>(u - left), fy = static_cast<float>(v - top);
    return (light(left, top) * (1 - fx) + light(left + 1, top) * fx) * (1 - fy) +
           (light(left, top + 1) * (1 - fx) + light(left + 1, top + 1) * fx) * fy;
  }));
}

Grey turnedBy(View<float> light, double degrees) {
  const double c = std::cos(degrees * std::numbers::pi / 180), s = std::sin(degrees * std::numbers::pi / 180);
  return through(light, Homography({c, -s, 0, s, c, 0, 0, 0, 1}));
}

Grey tiltedBy(View<float> light, double degrees) {
  const double a = degrees * std::numbers::pi / 180, eye = 1.6 * std::max(light.width(), light.height());
  return through(light, Homography({1, 0, 0, 0, std::cos(a), 0, 0, -std::sin(a) / eye, 1}));
}

Grey madeSmall(View<float> light, double times) {
  const Size size{std::max(8, static_cast<int>(std::lround(light.width() / times))),
                  std::max(8, static_cast<int>(std::lround(light.height() / times)))};
  return asSeen(resampled(light, size, Resampling::area).view());
}

/// In a dark room: few levels are left, and the sensor's noise.
Grey inTheDark(View<float> light) {
  constexpr float left = 0.06f, noise = 0.003f;
  return asSeen(changed(light, [](float v, int x, int y) {
    const std::uint32_t dice =
        (static_cast<std::uint32_t>(x) * 73856093u ^ static_cast<std::uint32_t>(y) * 19349663u) * 2654435761u;
    return std::max(0.0f, left * v + noise * (static_cast<float>(dice >> 16) / 65536.0f - 0.5f));
  }));
}

/// Overexposed, with flare.
Grey inGlare(View<float> light) {
  return asSeen(changed(light, [](float v, int, int) { return 2.2f * v + 0.08f; }));
}

Grey madePale(View<float> light) {
  return greyOf(changed(
      light, [](float v, int, int) { return 0.62f + 0.3f * (linearToSrgb(std::clamp(v, 0.0f, 1.0f)) - 0.5f); }));
}

/// Through a printer's screen at 45 degrees, ink spread a little, and a lens.
Grey asPrinted(View<float> light) {
  const auto screened = changed(light, [](float v, int x, int y) {
    constexpr double period = 3.2;
    const double u = (x + y) / period * std::numbers::pi, w = (x - y) / period * std::numbers::pi;
    const auto cell = static_cast<float>(0.5 + 0.25 * (std::cos(u) + std::cos(w)));
    return linearToSrgb(std::clamp(v, 0.0f, 1.0f)) > 0.1f + 0.85f * cell ? 0.85f : 0.03f;
  });
  return asSeen(gaussianBlur(screened.view(), 1.3f).view());
}

/// The pictures of one way of looking.
std::vector<Grey> lookedAt(std::size_t way, View<float> light) {
  std::vector<Grey> out;
  const auto longer = static_cast<float>(std::max(light.width(), light.height()));
  switch (way) {
    case 0:
      out.push_back(asSeen(light));
      break;
    case 1:
    case 2:
    case 3:
      out.push_back(madeSmall(light, static_cast<double>(way) + 1));
      break;
    case 4:
      out.push_back(asSeen(gaussianBlur(light, 0.004f * longer).view()));
      break;
    case 5:
      out.push_back(inTheDark(light));
      break;
    case 6:
      out.push_back(inGlare(light));
      break;
    case 7:
      out.push_back(turnedBy(light, 5));
      out.push_back(turnedBy(light, 10));
      break;
    case 8:
      out.push_back(tiltedBy(light, 40));
      break;
    case 9:
      out.push_back(madePale(light));
      break;
    default:
      out.push_back(asPrinted(light));
      break;
  }
  return out;
}
constexpr std::array<const char*, 11> wayNames{"whole",  "half",   "third",  "quarter", "blurred", "dim",
                                               "bright", "turned", "tilted", "pale",    "printed"};

/// Luminance, as large as decoders look at.
Image<float> lightLooked(View<Rgb8> picture, const StopToken& stop) {
  auto light = luminanceOf(toLinear(picture).view());
  if (std::max(light.width(), light.height()) <= mostLooked) return light;
  return resampled(light.view(), scaledTo(light.size(), mostLooked), Resampling::area, stop);
}

pattern::Correction correctionNamed(const std::string& level) {
  return level == "L"   ? pattern::Correction::lowest
         : level == "M" ? pattern::Correction::low
         : level == "Q" ? pattern::Correction::high
                        : pattern::Correction::highest;
}

/// Mean light of each module, [0, 1], from a picture of any size.
template <typename LightAt>
Image<float> modulesSeen(const FoundCode& code, Size size, const LightAt& lightAt) {
  const int side = code.carries.width();
  Quad corners = code.corners;
  for (Point& p : corners) p = {p.x * size.width, p.y * size.height};
  const Homography onto = Homography::ontoQuad(corners);
  Image<float> out(side, side);
  constexpr int samples = 3;
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      float sum = 0;
      for (int i = 0; i < samples * samples; ++i) {
        // The middle of a module says most.
        const Point at = onto({(x + 0.3 + 0.2 * (i % samples)) / side, (y + 0.3 + 0.2 * (i / samples)) / side});
        sum += lightAt(std::clamp(static_cast<int>(at.x), 0, size.width - 1),
                       std::clamp(static_cast<int>(at.y), 0, size.height - 1));
      }
      out(x, y) = sum / (samples * samples);
    }
  return out;
}

/// Dark or light against what lies about, as decoders decide.
Image<std::uint8_t> decidedModules(const Image<float>& seen) {
  constexpr int about = 4;
  const int side = seen.width();
  Image<std::uint8_t> out(side, side);
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      float least = 1, most = 0, sum = 0;
      int count = 0;
      for (int v = std::max(0, y - about); v <= std::min(side - 1, y + about); ++v)
        for (int u = std::max(0, x - about); u <= std::min(side - 1, x + about); ++u) {
          least = std::min(least, seen(u, v));
          most = std::max(most, seen(u, v));
          sum += seen(u, v);
          ++count;
        }
      const float parted = 0.5f * (0.5f * (least + most) + sum / static_cast<float>(count));
      out(x, y) = seen(x, y) < parted ? 1 : 0;
    }
  return out;
}

/// Modules that carry, in the order of the codewords (ISO/IEC 18004, 7.7.3): pairs of columns from the right, up and
/// down in turn.
std::vector<std::pair<int, int>> carryingInOrder(const Image<std::uint8_t>& carries) {
  const int side = carries.width();
  constexpr int timingColumn = 6;
  std::vector<std::pair<int, int>> out;
  for (int right = side - 1; right >= 1; right -= 2) {
    if (right == timingColumn) --right;
    for (int i = 0; i < side; ++i)
      for (int j = 0; j < 2; ++j) {
        const int x = right - j, y = ((right + 1) & 2) == 0 ? side - 1 - i : i;
        if (carries(x, y) != 0) out.emplace_back(x, y);
      }
  }
  return out;
}

void tellWrong(Scan& scan, const FoundCode& asked, View<Rgb8> picture) {
  const auto seen = modulesSeen(asked, picture.size(), [&](int x, int y) {
    const Rgb8 c = picture(x, y);
    return (0.2126f * static_cast<float>(c.r) + 0.7152f * static_cast<float>(c.g) + 0.0722f * static_cast<float>(c.b)) /
           255;
  });
  const auto decided = decidedModules(seen);
  const int side = decided.width();
  scan.wrongAt = Image<std::uint8_t>(side, side);
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      const bool wrong = decided(x, y) != asked.dark(x, y);
      scan.wrongAt(x, y) = wrong ? 1 : 0;
      scan.wrong += wrong ? 1 : 0;
    }
  constexpr std::size_t bits = 8;
  const auto order = carryingInOrder(asked.carries);
  std::size_t words = order.size() / bits, lost = 0;
  for (std::size_t word = 0; word < words; ++word)
    for (std::size_t bit = 0; bit < bits; ++bit)
      if (const auto& [x, y] = order[word * bits + bit]; scan.wrongAt(x, y) != 0) {
        ++lost;
        break;
      }
  scan.used = static_cast<double>(lost) / (pattern::restorable(asked.correction) * static_cast<double>(words));
}

Holding codeHolding(const FoundCode& asked, const ProofSeen& proof, StopToken stop) {
  const Scan scan = scanned(proof.pixels(), &asked, stop);
  Holding out;
  out.hold = scan.margin;
  out.means = fmt::format("scan margin: {} of {} ways of looking", scan.readings(), scan.ways.size());
  if (scan.wrongAt.empty()) return out;
  out.means +=
      fmt::format(", {} of the correction used up", scan.used > 1 ? "all" : fmt::format("{:.0f} %", 100 * scan.used));
  out.misses = Map(proof.size());
  const int side = scan.wrongAt.width();
  Quad corners = asked.corners;
  for (Point& p : corners) p = {p.x * proof.size().width, p.y * proof.size().height};
  const Homography back = Homography::ontoQuad(corners).inverted();
  for (int y = 0; y < out.misses.height(); ++y)
    for (int x = 0; x < out.misses.width(); ++x) {
      const Point at{x + 0.5, y + 0.5};
      if (back.weight(at) <= 0) continue;
      const Point in = back(at);
      if (in.x < 0 || in.y < 0 || in.x >= 1 || in.y >= 1) continue;
      if (scan.wrongAt(static_cast<int>(in.x * side), static_cast<int>(in.y * side)) != 0) out.misses(x, y) = 65535;
    }
  return out;
}

}  // namespace

int Scan::readings() const {
  return static_cast<int>(std::count_if(ways.begin(), ways.end(), [](const ScanWay& way) { return way.reads(); }));
}

std::optional<FoundCode> codeIn(View<std::uint16_t> map, StopToken stop) {
  const double times = std::max(1.0, std::max(map.width(), map.height()) / static_cast<double>(mostLooked));
  Image<float> light(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), light.row(y),
                   [](std::uint16_t v) { return static_cast<float>(v) / 65535.0f; });
  if (times > 1) light = resampled(light.view(), scaledTo(map.size(), mostLooked), Resampling::area, stop);
  const Grey grey = greyOf(light.view());
  for (const auto binarizer : binarizers) {
    throwIfStopped(stop);
    const auto result = readBy(grey, binarizer);
    if (!result.isValid() || result.text().empty()) continue;
    FoundCode out;
    out.text = result.text();
    out.correction = correctionNamed(result.ecLevel());
    const auto& at = result.position();
    for (std::size_t i = 0; i < 4; ++i)
      out.corners[i] = {static_cast<double>(at[i].x) / grey.width(), static_cast<double>(at[i].y) / grey.height()};
    try {
      pattern::Code code = pattern::codeOf(out.text, out.correction);
      out.carries = std::move(code.carries);
      const auto seen = modulesSeen(out, light.size(), [&](int x, int y) { return light(x, y); });
      out.dark = Image<std::uint8_t>(code.side(), code.side());
      // What the map leaves to the picture is wanted as the code itself has it.
      int other = 0;
      for (int y = 0; y < seen.height(); ++y)
        for (int x = 0; x < seen.width(); ++x) {
          const bool asks = std::abs(seen(x, y) - 0.5f) > 0.2f;
          out.dark(x, y) = asks ? seen(x, y) < 0.5f : code.dark(x, y);
          other += asks && out.dark(x, y) != code.dark(x, y) ? 1 : 0;
        }
      // Laid out in another way, as codes of other makers may be: where its codewords are is not certain.
      constexpr double mostOther = 0.2;
      if (other > mostOther * static_cast<double>(code.dark.size().area())) out.forgetModules();
    } catch (const Problem&) {
      out.forgetModules();
    }
    return out;
  }
  return {};
}

std::shared_ptr<const FoundCode> knownCodeIn(View<std::uint16_t> map, StopToken stop) {
  using Read = std::optional<FoundCode>;
  static RecentlyUsed<std::string, Read> kept(32);
  const auto read = kept.of(digestOf(map), [&] { return std::make_shared<const Read>(codeIn(map, stop)); });
  return *read ? std::shared_ptr<const FoundCode>(read, &**read) : nullptr;
}

std::vector<Grey> scanLooks(View<Rgb8> picture, StopToken stop) {
  std::vector<Grey> out;
  const auto light = lightLooked(picture, stop);
  for (std::size_t way = 0; way < wayNames.size(); ++way) {
    throwIfStopped(stop);
    out.push_back(std::move(lookedAt(way, light.view()).back()));
  }
  return out;
}

Scan scanned(View<Rgb8> picture, const FoundCode* asked, StopToken stop) {
  Scan out;
  for (const char* name : wayNames) out.ways.push_back({name, 0});
  if (picture.empty()) return out;
  const auto light = lightLooked(picture, stop);
  std::vector<std::vector<std::string>> read(wayNames.size());
  parallelItems(wayNames.size(), [&](std::size_t way) {
    if (stop.stop_requested()) return;
    for (const Grey& looked : lookedAt(way, light.view()))
      for (const auto binarizer : binarizers) {
        const auto result = readBy(looked, binarizer);
        read[way].push_back(result.isValid() ? result.text() : std::string());
      }
  });
  throwIfStopped(stop);
  // What counts is what was asked for; where nothing was, the first that was read.
  if (asked != nullptr) {
    for (const auto& texts : read)
      if (std::find(texts.begin(), texts.end(), asked->text) != texts.end()) out.text = asked->text;
  } else {
    for (const auto& texts : read)
      for (const std::string& text : texts)
        if (out.text.empty()) out.text = text;
  }
  double sum = 0;
  for (std::size_t way = 0; way < read.size(); ++way) {
    const auto hits = out.text.empty() ? 0 : std::count(read[way].begin(), read[way].end(), out.text);
    out.ways[way].share = static_cast<double>(hits) / static_cast<double>(std::max<std::size_t>(1, read[way].size()));
    sum += out.ways[way].share;
  }
  if (asked != nullptr && !asked->dark.empty()) tellWrong(out, *asked, picture);
  constexpr double mostTaken = 0.5;
  out.margin = 100 * sum / static_cast<double>(read.size()) * (1 - mostTaken * std::min(1.0, out.used));
  return out;
}

Holding patternHolding(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop) {
  if (const auto asked = knownCodeIn(map, stop)) return codeHolding(*asked, proof, stop);
  const Squint squint = squintOf(map, proof, stop);
  return {squint.afar, {}, {}, fmt::format("plain from afar; near by {:.0f}", squint.near)};
}

}  // namespace hscaffold
