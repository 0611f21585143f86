#include "core/finish/touch_up.h"

#include <chrono>
#include <cmath>

#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"

namespace hscaffold {
namespace {

/// The smallest picture that engines are asked for, and the largest maps that are made for a touch-up alone.
constexpr int leastJob = 256;
constexpr std::int64_t mostMapPixels = 4'000'000;

/// From where to where a box of this length lies in a picture so that it still shows [from, to).
std::pair<int, int> placed(int from, int to, int length, int whole) {
  length = std::min(length, whole);
  const int left = std::clamp((from + to - length) / 2, 0, whole - length);
  return {left, left + length};
}

float inLinear(std::uint8_t value) { return srgb16ToLinear(static_cast<std::uint16_t>(257 * value)); }

/// `at(x, y)` is a pixel of the picture, `put(x, y, colour)` changes it.
template <typename At, typename Put>
void layOverWith(Size size, const TouchUp& touchUp, View<Rgb8> shown, const Box& box, At&& at, Put&& put) {
  const Box seen = cut(box, size);
  if (seen.empty() || seen != box || shown.empty()) return;
  const auto mask = maskOf(touchUp.region, size, box, touchUp.feather);
  // Seen at the final's size.
  const auto small = resampled(toLinear(shown).view(), box.size(), Resampling::lanczos3);
  parallelRows(box.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < box.width(); ++x) {
        const float share = mask(x, y);
        if (share <= 0) continue;
        const Rgb above = small(x, y), below = at(box.left + x, box.top + y);
        put(box.left + x, box.top + y, share >= 1 ? above : below + (above - below) * share);
      }
  });
}

std::shared_ptr<const Image<Rgb8>> baseOf(const Final& final, const ShownPictures& pictures) {
  if (!final.whole()) throw badInput("The final is not whole yet.");
  auto base = pictures(final.picture);
  if (base->size() != final.size) throw badInput("The picture of the final is not of its size.");
  return base;
}

}  // namespace

TouchView viewOf(const TouchUp& touchUp, Size final, const EngineInfo& engine) {
  const Box region = boundsOf(touchUp.region, final, touchUp.feather);
  if (region.empty()) throw badInput("The region covers nothing: draw it first.");
  const Box rimmed = cut(grown(region, static_cast<int>(std::lround(touchUp.rim))), final);
  const double longest = std::max(rimmed.width(), rimmed.height());
  double detail = touchUp.detail.value_or(
      std::clamp(engine.favourite / longest, limits::touchDetail.least, limits::touchDetail.most));
  // Not smaller than an engine can make it, nor larger.
  detail = std::max(detail, leastJob / longest);
  const std::int64_t most = engine.mostPixels > 0 ? engine.mostPixels : std::int64_t{16'000'000};
  detail = std::min(detail, std::sqrt(static_cast<double>(most) / static_cast<double>(rimmed.size().area())));
  const auto side = [&](int length, int whole) {
    const int step = std::max(1, engine.sizeStep);
    const int least = (smallestSide + step - 1) / step * step;
    int job = std::max(least, static_cast<int>(std::ceil(length * detail / step)) * step);
    // The box grows to what the steps make of it; where it would be larger than the final it is all of that.
    const int box = std::min(whole, std::max(length, static_cast<int>(std::lround(job / detail))));
    while (job - step >= least && static_cast<double>(job) / box > detail * 1.02) job -= step;
    return std::pair{box, job};
  };
  const auto [width, jobWidth] = side(rimmed.width(), final.width);
  const auto [height, jobHeight] = side(rimmed.height(), final.height);
  const auto [left, right] = placed(rimmed.left, rimmed.right, width, final.width);
  const auto [top, bottom] = placed(rimmed.top, rimmed.bottom, height, final.height);
  return {{left, top, right, bottom}, {jobWidth, jobHeight}};
}

Recipe touchRecipe(const Recipe& final, const TouchUp& touchUp, Size whole, const TouchView& view, std::uint32_t seed) {
  Recipe recipe = final;
  recipe.engine.clear();
  recipe.frame = view.job;
  recipe.mapsFrame = {};
  recipe.part = RecipePart{whole, view.box};
  Brief& brief = recipe.brief;
  if (!touchUp.words.empty()) {
    brief.prompt = touchUp.words;
    brief.emphasis.clear();
  }
  if (!touchUp.withBrief) {
    brief.styles.clear();
    brief.avoid.clear();
  }
  brief.seed = seed;
  brief.variation = 0;
  brief.vary = 0;
  brief.start = {};
  if (touchUp.start != TouchStart::noise) {
    brief.start.from = StartPicture::From::below;
    brief.start.change = touchUp.change;
    brief.start.moodOnly = touchUp.start == TouchStart::colours;
  }
  std::vector<RecipeGuide> guides;
  for (RecipeGuide& entry : recipe.guides) {
    if (const auto own = touchUp.guides.find(entry.guide.id); own != touchUp.guides.end()) {
      if (!own->second.on) continue;
      entry.guide.weight = own->second.weight;
    }
    entry.mapDigest.clear();
    guides.push_back(std::move(entry));
  }
  recipe.guides = std::move(guides);
  return recipe;
}

EngineJob touchJob(Recipe recipe, const TouchUp& touchUp, const EngineJob& maps, View<Rgb8> below) {
  EngineJob job;
  const Box& box = recipe.part->box;
  for (const RecipeGuide& entry : recipe.guides) {
    const auto& all = maps.recipe.guides;
    const auto found =
        std::find_if(all.begin(), all.end(), [&](const RecipeGuide& g) { return g.guide.id == entry.guide.id; });
    if (found == all.end()) throw badInput("The guide \"" + entry.guide.name + "\" has no map.");
    job.inputs.push_back(
        cutInput(maps.inputs[static_cast<std::size_t>(found - all.begin())], recipe.part->whole, box, recipe.frame));
  }
  if (recipe.brief.start.given()) {
    auto start = resampled(toLinear(below).view(), recipe.frame, Resampling::lanczos3);
    if (touchUp.start == TouchStart::colours)
      start = gaussianBlur(start.view(), static_cast<float>(std::max(recipe.frame.width, recipe.frame.height)) / 16);
    job.start = asHandedOver(toSrgb16(start.view()).view());
  }
  job.recipe = std::move(recipe);
  return job;
}

Recipe mapsRecipe(const Recipe& final, Size whole, double detail) {
  const double most = std::sqrt(static_cast<double>(mostMapPixels) / static_cast<double>(whole.area()));
  const double times = std::max(1.0, std::min(detail, most));
  Recipe recipe = final;
  recipe.brief.start = {};
  recipe.part = {};
  if (times <= 1) return recipe;
  const auto side = [&](int length) { return std::min(largestSide, static_cast<int>(std::lround(length * times))); };
  // Whole multiples of the final's own ratio, as near as pixels allow.
  return atSize(std::move(recipe), {side(whole.width), side(whole.height)});
}

void layOver(MutableView<Rgb8> picture, const TouchUp& touchUp, View<Rgb8> shown, const Box& box) {
  layOverWith(
      picture.size(), touchUp, shown, box,
      [&](int x, int y) {
        const Rgb8 c = picture(x, y);
        return Rgb{inLinear(c.r), inLinear(c.g), inLinear(c.b)};
      },
      [&](int x, int y, Rgb c) {
        picture(x, y) = {linearToSrgb8(c.r), linearToSrgb8(c.g), linearToSrgb8(c.b)};
      });
}

void layOver(MutableView<Rgba16> picture, const TouchUp& touchUp, View<Rgb8> shown, const Box& box) {
  layOverWith(
      picture.size(), touchUp, shown, box,
      [&](int x, int y) {
        const Rgba16 c = picture(x, y);
        return Rgb{srgb16ToLinear(c.r), srgb16ToLinear(c.g), srgb16ToLinear(c.b)};
      },
      [&](int x, int y, Rgb c) {
        picture(x, y) = {linearToSrgb16(c.r), linearToSrgb16(c.g), linearToSrgb16(c.b), 0xffff};
      });
}

namespace {

/// Lays what shows of a touch-up.
template <typename Pixel>
void layUsed(MutableView<Pixel> picture, const TouchUp& touchUp, const ShownPictures& pictures) {
  if (const TouchTry* used = touchUp.on ? touchUp.usedTry() : nullptr; used != nullptr)
    layOver(picture, touchUp, pictures(used->picture)->view(), used->box);
}

}  // namespace

ShownPictures shownFrom(PictureBytes pictures) {
  return [pictures = std::move(pictures)](const std::string& content) {
    return std::make_shared<const Image<Rgb8>>(decodePngRgb8(*pictures(content)));
  };
}

Image<Rgb8> composedFinal(const Final& final, const ShownPictures& pictures, std::size_t until,
                          const std::function<void(std::size_t number, View<Rgb8> picture)>& after) {
  auto picture = baseOf(final, pictures)->clone();
  if (after) after(0, std::as_const(picture).view());
  for (std::size_t i = 0; i < std::min(until, final.touchUps.size()); ++i) {
    layUsed(picture.view(), final.touchUps[i], pictures);
    if (after) after(i + 1, std::as_const(picture).view());
  }
  return picture;
}

Image<Rgba16> composedInSixteen(const Final& final, const ShownPictures& pictures) {
  const auto base = baseOf(final, pictures);
  Image<Rgba16> picture(base->size());
  const auto wide = [](std::uint8_t value) { return static_cast<std::uint16_t>(257 * value); };
  for (int y = 0; y < picture.height(); ++y)
    std::transform(base->row(y), base->row(y) + base->width(), picture.row(y), [&](Rgb8 c) {
      return Rgba16{wide(c.r), wide(c.g), wide(c.b), 0xffff};
    });
  for (const TouchUp& touchUp : final.touchUps) layUsed(picture.view(), touchUp, pictures);
  return picture;
}

FinishedTry pullTry(Engine& engine, const Recipe& final, const TouchUp& touchUp, View<Rgb8> below, std::uint32_t seed,
                    const JobSources& sources, MadeMaps* made, const EngineSink& sink, StopToken stop) {
  const auto begun = std::chrono::steady_clock::now();
  const EngineInfo info = engine.info();
  const TouchView view = viewOf(touchUp, below.size(), info);
  Recipe recipe = touchRecipe(final, touchUp, below.size(), view, seed);
  Recipe forMaps = mapsRecipe(final, below.size(), view.detail());
  std::erase_if(forMaps.guides, [&](const RecipeGuide& entry) {
    return std::none_of(recipe.guides.begin(), recipe.guides.end(),
                        [&](const RecipeGuide& used) { return used.guide.id == entry.guide.id; });
  });
  const PreparedJob maps = jobFrom(std::move(forMaps), sources, stop, made);
  const EngineJob job = touchJob(std::move(recipe), touchUp, maps.job, partOf(below, view.box));
  FinishedTry out;
  out.picture = engine.generate(job, sink, stop);
  Recipe of = job.recipe;
  of.engine = info.id;
  out.png = encodePng(out.picture.view(), textsFor(of));
  out.info.box = view.box;
  out.info.seed = seed;
  out.info.change = touchUp.change;
  out.info.words = touchUp.words;
  out.info.milliseconds = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
  return out;
}

TouchUp atSize(TouchUp touchUp, Size from, Size to) {
  const double across = static_cast<double>(to.width) / from.width, down = static_cast<double>(to.height) / from.height;
  const double times = std::sqrt(across * down);
  touchUp.feather *= times;
  touchUp.rim *= times;
  keepWithin(touchUp.feather, limits::touchFeather);
  keepWithin(touchUp.rim, limits::touchRim);
  const auto moved = [](int at, double by, int most) {
    return std::clamp(static_cast<int>(std::lround(at * by)), 0, most);
  };
  for (TouchTry& one : touchUp.tries)
    one.box = {moved(one.box.left, across, to.width), moved(one.box.top, down, to.height),
               moved(one.box.right, across, to.width), moved(one.box.bottom, down, to.height)};
  return touchUp;
}

}  // namespace hscaffold
