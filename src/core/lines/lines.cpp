#include "core/lines/lines.h"

#include <cmath>

#include "core/image/colour.h"
#include "core/image/components.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/lines/line_flow.h"
#include "core/lines/paper_lines.h"
#include "core/lines/photo_lines.h"
#include "core/lines/straight_lines.h"
#include "core/strokes/trace.h"

namespace hscaffold {
namespace {

/// Pieces of fewer pixels than `least` are taken out of the ink.
void dropSpecks(Image<float>& ink, double least) {
  if (least <= 1) return;
  Image<std::uint8_t> mask(ink.size());
  parallelRows(ink.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < ink.width(); ++x) mask(x, y) = ink(x, y) > 0.2f ? 1 : 0;
  });
  const auto pieces = componentsOf(mask, Connected::eight);
  parallelRows(ink.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < ink.width(); ++x)
        if (const auto piece = pieces.label(x, y);
            piece < 0 || static_cast<double>(pieces.all[static_cast<std::size_t>(piece)].area) < least)
          ink(x, y) = 0;
  });
}

Image<std::uint16_t> mapFrom(const Image<float>& ink) {
  Image<std::uint16_t> map(ink.size());
  parallelRows(map.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < map.width(); ++x) map(x, y) = static_cast<std::uint16_t>(ink(x, y) * 65535.0f + 0.5f);
  });
  return map;
}

Image<std::uint16_t> evened(const Image<std::uint16_t>& map, double width, const StopToken& stop) {
  TraceTuning trace;
  trace.tolerance = 0.7;
  auto strokes = traced(map, trace, stop).strokes;
  for (auto& stroke : strokes) {
    Stroke even = *stroke;
    std::fill(even.widths.begin(), even.widths.end(), width);
    stroke = std::make_shared<const Stroke>(std::move(even));
  }
  return drawnStrokes(strokes, map.size(), stop);
}

constexpr double leastInk = 0.0005;  ///< share of the picture: with less there is next to no line

double inkShare(const Image<float>& ink) {
  double sum = 0;
  for (int y = 0; y < ink.height(); ++y)
    for (const float v : ink.line(y)) sum += v > 0.4f ? 1 : 0;
  return sum / static_cast<double>(ink.size().area());
}

Image<float> inkOnPaper(View<Rgb> picture, const LineTuning& tuning, LineFindings& findings, StopToken stop) {
  auto sheet = sheetOf(luminanceOf(picture), tuning.polarity, tuning.widest, stop);
  findings.lightOnDark = sheet.lightOnDark;
  if (tuning.removeRuled) findings.ruledLines = removeStraightLines(sheet.density, sheet.grain, stop);
  if (tuning.removeColour && !sheet.lightOnDark) dropColoured(sheet, picture, tuning.widest, stop);
  // Pencil skips over the paper's tooth: along the line there is enough.
  if (tuning.flow > 0)
    sheet.density = alongFlow(sheet.density, lineFlow(sheet.density, 4), static_cast<float>(tuning.flow) / 2,
                              std::max(0.03f, 5 * sheet.grain), stop);
  return inkOn(sheet, tuning.ink, tuning.specks, stop);
}

Image<float> inkInPhotograph(View<Rgb> picture, const LineTuning& tuning, StopToken stop) {
  auto light = luminanceOf(picture);
  parallelRows(light.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (float& v : light.line(y)) v = linearToSrgb(v);
  });
  auto ink = photoInk(light, tuning, stop);
  dropSpecks(ink, tuning.specks);
  return ink;
}

}  // namespace

const TuningFields& lineTuningFields() {
  static const TuningFields fields = [] {
    const std::vector<int> photo = {1}, paper = {2};
    TuningFields all = {
        {"source", "Taken from", "", 0, 2, 0, 1, 0, {"automatic", "photograph", "paper"}, "What the picture is"},
        {"ink", "Ink", "%", 0, 100, 50, 1, 0, {}, "How much becomes line; 50 is what was found to fit"},
        {"fineness",
         "Fineness",
         "px",
         0.5,
         5,
         1.2,
         0.1,
         1,
         {},
         "Photographs: small finds fine lines, large broad ones"},
        {"contrast", "Hardness", "%", 0, 100, 60, 1, 0, {}, "Photographs: how hard lines end"},
        {"flow", "Flow", "px", 0, 16, 4, 0.5, 1, {}, "Smooths lines along their course, so that gaps in them close"},
        {"darks", "Dark areas", "%", 0, 100, 0, 1, 0, {}, "Photographs: how much of the dark is filled"},
        {"polarity",
         "Ink is",
         "",
         0,
         2,
         0,
         1,
         0,
         {"automatic", "dark-on-light", "light-on-dark"},
         "Paper: which of drawing and ground is dark"},
        {"widest", "Widest line", "px", 3, 80, 14, 1, 0, {}, "Paper: broader dark places are stains or shadows"},
        {"colour", "Coloured marks", "", 0, 1, 0, 1, 0, {"remove", "keep"}, "Paper: stains and coloured rules"},
        {"ruled", "Ruled lines", "", 0, 1, 0, 1, 0, {"remove", "keep"}, "Paper: lines printed on the sheet, and folds"},
        {"weight", "Line weight", "", 0, 1, 0, 1, 0, {"kept", "evened"}, "As drawn, or all of one width"},
        {"width", "Width", "px", 0.5, 12, 2, 0.1, 1, {}, "Of evened lines"},
        {"specks", "Drop specks", "px", 0, 600, 24, 1, 0, {}, "Separate pieces of fewer pixels go"},
    };
    for (TuningField& field : all) {
      if (field.help.starts_with("Photographs")) field.shownWhen = {{"source", photo}};
      if (field.help.starts_with("Paper")) field.shownWhen = {{"source", paper}};
      if (field.id == "width") field.shownWhen = {{"weight", {1}}};
    }
    return all;
  }();
  return fields;
}

LineTuning lineTuningFrom(const Tuning& values) {
  const auto value = [&](const char* id) { return valueOf(lineTuningFields(), values, id); };
  LineTuning tuning;
  tuning.source = static_cast<LineSource>(static_cast<int>(value("source")));
  tuning.ink = value("ink");
  tuning.fineness = value("fineness");
  tuning.contrast = value("contrast");
  tuning.flow = value("flow");
  tuning.darks = value("darks");
  tuning.polarity = static_cast<InkOnPaper>(static_cast<int>(value("polarity")));
  tuning.widest = value("widest");
  tuning.removeColour = value("colour") == 0;
  tuning.removeRuled = value("ruled") == 0;
  tuning.weight = static_cast<LineWeight>(static_cast<int>(value("weight")));
  tuning.width = value("width");
  tuning.specks = value("specks");
  return tuning;
}

bool looksLikePaper(View<Rgb> picture) {
  if (picture.width() < 16 || picture.height() < 16) return false;
  // The ground as it is at large: small enough that drawn lines hardly count.
  const double scale = std::min(1.0, 48.0 / std::max(picture.width(), picture.height()));
  const Size small{std::max(4, static_cast<int>(picture.width() * scale)),
                   std::max(4, static_cast<int>(picture.height() * scale))};
  const auto reduced = resampled(picture, small, Resampling::area);
  std::vector<float> lightness, a, b, chroma;
  for (int y = 0; y < reduced.height(); ++y)
    for (const Rgb c : reduced.line(y)) {
      const OkLab lab = linearToOkLab(c);
      lightness.push_back(lab.l);
      a.push_back(lab.a);
      b.push_back(lab.b);
      chroma.push_back(std::hypot(lab.a, lab.b));
    }
  const auto spread = [](std::vector<float>& v, double from, double to) {
    std::sort(v.begin(), v.end());
    const auto at = [&](double share) {
      return v[static_cast<std::size_t>(share * static_cast<double>(v.size() - 1))];
    };
    return std::pair{at(from), at(to)};
  };
  const auto [aLow, aHigh] = spread(a, 0.1, 0.9);
  const auto [bLow, bHigh] = spread(b, 0.1, 0.9);
  const auto [dark, bright] = spread(lightness, 0.12, 0.88);
  constexpr float mostTinted = 0.1f;  // brown wrapping paper has 0.06
  if (spread(chroma, 0.5, 0.5).first > mostTinted) return false;
  const float hues = std::max(aHigh - aLow, 0.75f * (bHigh - bLow));
  // Lit unevenly, a sheet still does not go from light to dark; a black ground with white ink is even, too.
  const bool light = dark > 0.45f && bright - dark < 0.3f;
  const bool darkSheet = bright < 0.62f && bright - dark < 0.25f;
  return (light && hues < 0.03f) || (darkSheet && hues < 0.012f);
}

LineArt extractLines(View<Rgb> picture, const LineTuning& tuning, StopToken stop) {
  LineArt out;
  if (picture.empty()) return out;
  const bool sheetLike = looksLikePaper(picture);
  out.findings.source = tuning.source != LineSource::automatic ? tuning.source
                        : sheetLike                            ? LineSource::paper
                                                               : LineSource::photograph;
  const auto ink = out.findings.source == LineSource::paper ? inkOnPaper(picture, tuning, out.findings, stop)
                                                            : inkInPhotograph(picture, tuning, stop);
  throwIfStopped(stop);
  const double share = inkShare(ink);
  if (share < leastInk)
    out.findings.note = "There is next to no line here: the picture is blank, or the ink is set too low.";
  else if (out.findings.source == LineSource::paper && (share > 0.3 || !sheetLike))
    out.findings.note = "This does not look like a drawing on paper: \"photograph\" may suit it better.";
  out.map = mapFrom(ink);
  if (tuning.weight == LineWeight::evened) out.map = evened(out.map, tuning.width, stop);
  return out;
}

}  // namespace hscaffold
