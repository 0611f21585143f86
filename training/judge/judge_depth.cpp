// judge-depth: how a first guess of depth fares on scenes of known depth, how little it hangs on how the picture was
// taken, and whether true hints ever make it worse.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <QBuffer>
#include <QImage>
#include <algorithm>
#include <filesystem>
#include <fstream>
#include <functional>
#include <map>
#include <numeric>

#include "core/depth/depth.h"
#include "core/engine/standin/noise.h"
#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/image/png.h"
#include "core/image/resample.h"
#include "depth_trial.h"
#include "files/picture_reader.h"
#include "scene.h"

namespace {

using namespace hscaffold;

constexpr double base = 768;  ///< pixels on the longer side that all others are compared with

std::string renderedName(std::uint64_t seed) {
  return fmt::format("rendered {} ({})", seed, training::nameOf(training::themeFor(seed, training::Use::depth)));
}

std::uint64_t renderedSeed(int k, bool fitting) {
  return static_cast<std::uint64_t>((fitting ? 7'000'000 : 8'000'000) + k);
}

// ---- how little it hangs on how the picture was taken

/// A picture taken otherwise, and where what is at a share of the base lies in it.
struct Taken {
  std::string how;
  Image<Rgb> picture;
  double left = 0, top = 0, width = 1, height = 1;  ///< what it shows of the base
};

Image<Rgb> sized(View<Rgb> picture, double longest) {
  return resampled(picture, scaledTo(picture.size(), longest), Resampling::area);
}

Image<Rgb> asJpeg(const Image<Rgb>& picture, int quality) {
  const auto plain = toSrgb8(picture);
  QImage image(plain.width(), plain.height(), QImage::Format_RGB888);
  for (int y = 0; y < plain.height(); ++y)
    for (int x = 0; x < plain.width(); ++x) image.setPixel(x, y, qRgb(plain(x, y).r, plain(x, y).g, plain(x, y).b));
  QBuffer buffer;
  buffer.open(QIODevice::ReadWrite);
  image.save(&buffer, "JPEG", quality);
  const auto back = QImage::fromData(buffer.data(), "JPEG").convertToFormat(QImage::Format_RGB888);
  Image<Rgb8> out(plain.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      const auto c = back.pixel(x, y);
      out(x, y) = {static_cast<std::uint8_t>(qRed(c)), static_cast<std::uint8_t>(qGreen(c)),
                   static_cast<std::uint8_t>(qBlue(c))};
    }
  return toLinear(out);
}

Image<Rgb> exposed(const Image<Rgb>& picture, float stops) {
  auto out = picture.clone();
  const float factor = std::pow(2.0f, stops);
  for (int y = 0; y < out.height(); ++y)
    for (Rgb& c : out.line(y))
      c = {std::min(1.0f, c.r * factor), std::min(1.0f, c.g * factor), std::min(1.0f, c.b * factor)};
  // Bits are as few as a camera's.
  return toLinear(toSrgb8(out));
}

Image<Rgb> part(const Image<Rgb>& picture, int left, int top, int right, int bottom) {
  Image<Rgb> out(picture.width() - left - right, picture.height() - top - bottom);
  for (int y = 0; y < out.height(); ++y) std::copy_n(picture.row(y + top) + left, out.width(), out.row(y));
  return out;
}

std::vector<Taken> otherwise(const Image<Rgb>& full) {
  std::vector<Taken> out;
  const int longest = std::max(full.width(), full.height());
  for (const int side : {384, 512, 640, 896, 1024, 1280})
    if (side <= longest) out.push_back({fmt::format("{} px", side), sized(full, side)});
  const auto middle = sized(full, base);
  const int x = std::max(1, middle.width() / 50), y = std::max(1, middle.height() / 50);
  const auto cropped = [&](const std::string& how, int l, int t, int r, int b) {
    const double w = middle.width(), h = middle.height();
    out.push_back({how, part(middle, l, t, r, b), l / w, t / h, (w - l - r) / w, (h - t - b) / h});
  };
  cropped("2 % off the left", x, 0, 0, 0);
  cropped("2 % off the top", 0, y, 0, 0);
  cropped("2 % off the right", 0, 0, x, 0);
  cropped("2 % off the bottom", 0, 0, 0, y);
  out.push_back({"JPEG at 80", asJpeg(middle, 80)});
  out.push_back({"a third darker", exposed(middle, -1.0f / 3)});
  out.push_back({"a third lighter", exposed(middle, 1.0f / 3)});
  return out;
}

Image<float> mapOf(const Image<Rgb>& picture) {
  const auto reading = depth::readingOf(picture);
  return depth::overPixels(reading.seen, depth::guessed(reading, depth::Scene::automatic).near);
}

/// On a grid of places that the taken picture shows; NaN elsewhere.
std::vector<float> onGrid(const Image<float>& map, const Taken& taken) {
  std::vector<float> out;
  for (int j = 0; j < 24; ++j)
    for (int i = 0; i < 32; ++i) {
      const double u = ((i + 0.5) / 32 - taken.left) / taken.width, v = ((j + 0.5) / 24 - taken.top) / taken.height;
      if (u < 0 || v < 0 || u >= 1 || v >= 1)
        out.push_back(std::numeric_limits<float>::quiet_NaN());
      else
        out.push_back(map(static_cast<int>(u * map.width()), static_cast<int>(v * map.height())));
    }
  return out;
}

struct Shaken {
  std::string name;
  std::vector<std::pair<std::string, double>> each, every;  ///< pairs that are apart; all pairs
};

Shaken shaken(const std::string& name, const Image<Rgb>& full) {
  Shaken out{name, {}, {}};
  const auto plain = onGrid(mapOf(sized(full, base)), {});
  for (const Taken& taken : otherwise(full)) {
    const auto there = onGrid(mapOf(taken.picture), taken);
    out.each.emplace_back(taken.how, almanac::turned(plain, there, 0.03f));
    out.every.emplace_back(taken.how, almanac::turned(plain, there, 0));
  }
  return out;
}

void tellShaken(const std::vector<Shaken>& all, bool each) {
  std::map<std::string, std::vector<double>> byHow;
  std::vector<double> apart, every;
  for (const Shaken& one : all) {
    double worst = 0;
    for (const auto& [how, share] : one.each) {
      byHow[how].push_back(share);
      apart.push_back(share);
      worst = std::max(worst, share);
    }
    for (const auto& [how, share] : one.every) every.push_back(share);
    if (each) {
      fmt::print("  {:<28} worst {:5.1f} %:", one.name, 100 * worst);
      for (const auto& [how, share] : one.each) fmt::print(" {:.1f}", 100 * share);
      fmt::print("\n");
    }
  }
  const auto share = [](const std::vector<double>& v, double most) {
    return 100.0 * static_cast<double>(std::count_if(v.begin(), v.end(), [&](double s) { return s <= most; })) /
           static_cast<double>(std::max<std::size_t>(1, v.size()));
  };
  const auto mean = [](const std::vector<double>& v) {
    return 100 * std::accumulate(v.begin(), v.end(), 0.0) / static_cast<double>(std::max<std::size_t>(1, v.size()));
  };
  fmt::print("{} pictures: order changes in % of pairs (more than 3 % apart)\n", all.size());
  for (const auto& [how, values] : byHow)
    fmt::print("  {:<20} mean {:5.2f}  worst {:5.1f}  at most 2 %: {:5.1f} % of pictures\n", how, mean(values),
               100 * *std::max_element(values.begin(), values.end()), share(values, 0.02));
  fmt::print(
      "  all                  mean {:5.2f}  at most 2 %: {:5.1f} %, at most 5 %: {:5.1f} %, at most 10 %: {:5.1f} %\n",
      mean(apart), share(apart, 0.02), share(apart, 0.05), share(apart, 0.1));
  fmt::print("  all pairs, however close: mean {:5.2f}  at most 2 %: {:5.1f} %\n", mean(every), share(every, 0.02));
}

// ---- against the truth

struct Known {
  std::string family, name;
  Image<Rgb> picture;
  Image<float> nearness;
};

/// Drawn once and found again: tracing rays takes its time.
Known drawnOrKept(const std::filesystem::path& folder, Known known, Size size,
                  const std::function<void(Known& known)>& draw) {
  if (folder.empty()) {
    draw(known);
    return known;
  }
  const auto file = folder / fmt::format("{} {}x{}.numbers", known.name, size.width, size.height);
  known.picture = Image<Rgb>(size);
  known.nearness = Image<float>(size);
  const auto each = [&](auto&& does) {
    for (int y = 0; y < size.height; ++y) {
      does(reinterpret_cast<char*>(known.picture.row(y)), size.width * sizeof(Rgb));
      does(reinterpret_cast<char*>(known.nearness.row(y)), size.width * sizeof(float));
    }
  };
  if (std::ifstream in(file, std::ios::binary); in) {
    each([&](char* to, std::size_t bytes) { in.read(to, static_cast<std::streamsize>(bytes)); });
    if (in) return known;
  }
  draw(known);
  std::filesystem::create_directories(folder);
  std::ofstream out(file, std::ios::binary);
  each([&](const char* from, std::size_t bytes) { out.write(from, static_cast<std::streamsize>(bytes)); });
  return known;
}

std::vector<Known> tracedScenes(int perFamily, Size size, bool fitting, const std::filesystem::path& kept) {
  std::vector<Known> out;
  for (const auto family : almanac::depthFamilies)
    for (int k = 0; k < perFamily; ++k) {
      const auto seed = static_cast<std::uint64_t>(fitting ? 2 * k : 3001 + 2 * k);
      const std::string name = almanac::nameOf(family);
      out.push_back(drawnOrKept(kept, {name, fmt::format("{} {}", name, seed), {}, {}}, size, [&](Known& known) {
        auto scene = almanac::depthScene(family, seed, size);
        known.picture = std::move(scene.picture);
        known.nearness = std::move(scene.nearness);
      }));
    }
  return out;
}

std::vector<Known> drawnScenes(int perFamily, Size size, bool fitting, const std::filesystem::path& kept) {
  auto out = tracedScenes(perFamily, size, fitting, kept);
  for (int k = 0; k < 2 * perFamily; ++k) {
    const auto seed = renderedSeed(k, fitting);
    out.push_back(drawnOrKept(kept, {"rendered", renderedName(seed), {}, {}}, size, [&](Known& known) {
      auto scene = training::sceneOf(seed, size, training::Use::depth);
      known.picture = toLinear(scene.picture);
      known.nearness = std::move(scene.near);
    }));
  }
  return out;
}

/// How the truth is put into [0, 1]: it has no scale of its own.
enum class Scale { toNearest, stretched, root, ranks };
constexpr Scale scales[] = {Scale::toNearest, Scale::stretched, Scale::root, Scale::ranks};

std::vector<float> scaled(const std::vector<float>& near, Scale scale) {
  auto out = near;
  auto sorted = near;
  std::sort(sorted.begin(), sorted.end());
  const float low = sorted[sorted.size() / 50], high = sorted[sorted.size() - 1 - sorted.size() / 50];
  for (float& v : out) switch (scale) {
      case Scale::toNearest:
        break;
      case Scale::stretched:
        v = std::clamp((v - low) / std::max(1e-4f, high - low), 0.0f, 1.0f);
        break;
      case Scale::root:
        v = std::sqrt(v);
        break;
      case Scale::ranks:
        v = static_cast<float>(std::lower_bound(sorted.begin(), sorted.end(), v) - sorted.begin()) /
            static_cast<float>(sorted.size());
    }
  return out;
}

struct Dabbed {
  std::vector<double> order;  ///< before any, after each
  double worstDrop = 0;
  int drops = 0;  ///< by more than 0.01
};

/// Ten true dabs, one after the other: where the map is most wrong, or anywhere.
Dabbed dabbed(const depth::Ground& ground, const depth::Solution& first, const std::vector<float>& truth,
              const almanac::Pairs& pairs, bool worst, std::uint64_t seed) {
  Dabbed out;
  depth::Hints hints{ground.seen.size, {}, {}};
  auto near = first.near;
  out.order.push_back(almanac::inOrder(pairs, near));
  for (int h = 0; h < 10; ++h) {
    const int cell = worst ? almanac::worstPlace(ground.seen, truth, near)
                           : static_cast<int>(standin::mixed(seed, static_cast<std::uint64_t>(h)) % truth.size());
    const auto& at = ground.seen.patches.cells[static_cast<std::size_t>(cell)];
    depth::Hint hint;
    hint.spots = {{static_cast<double>(at.x), static_cast<double>(at.y)}};
    hint.width = 9;
    hint.near = static_cast<double>(truth[static_cast<std::size_t>(cell)]);
    hints.hints.push_back(hint);
    near = depth::withHints(ground.seen, first, depth::constraintsOf(hints, ground.seen)).near;
    out.order.push_back(almanac::inOrder(pairs, near));
    const double drop = out.order[out.order.size() - 2] - out.order.back();
    out.worstDrop = std::max(out.worstDrop, drop);
    out.drops += drop > 0.01 ? 1 : 0;
  }
  return out;
}

struct Row {
  double count = 0, lower = 0, guess = 0;
  std::vector<double> atWorst = std::vector<double>(11), anywhere = std::vector<double>(11);
  int drops = 0, steps = 0;
  double worstDrop = 0;
  std::string where;

  void add(const Row& other) {
    count += other.count, lower += other.lower, guess += other.guess;
    for (std::size_t i = 0; i < 11; ++i) atWorst[i] += other.atWorst[i], anywhere[i] += other.anywhere[i];
    drops += other.drops, steps += other.steps;
    if (other.worstDrop > worstDrop) worstDrop = other.worstDrop, where = other.where;
  }
  void tell(const std::string& name) const {
    fmt::print(
        "{:<26} {:.3f}  {:.3f} | {:.3f} {:.3f} {:.3f} {:.3f} | {:.3f} {:.3f} {:.3f} | {:3} of {:4}, worst {:.3f} {}\n",
        name, lower / count, guess / count, atWorst[1] / count, atWorst[3] / count, atWorst[6] / count,
        atWorst[10] / count, anywhere[3] / count, anywhere[6] / count, anywhere[10] / count, drops, steps, worstDrop,
        where);
  }
};

Row judged(const Known& known, const std::vector<Scale>& truths) {
  Row row;
  const auto ground = depth::groundOf(known.picture);
  const auto first = depth::guessed(*ground, depth::Scene::automatic);
  const auto plain = almanac::trueNear(ground->seen, known.nearness);
  const auto pairs = almanac::truePairs(plain, 4000, standin::hashOf(known.name));
  for (const Scale scale : truths) {
    const auto truth = scaled(plain, scale);
    row.count += 1;
    row.lower += almanac::inOrder(pairs, ground->seen.y);
    row.guess += almanac::inOrder(pairs, first.near);
    for (const bool worst : {true, false}) {
      const auto one = dabbed(*ground, first, truth, pairs, worst, standin::hashOf(known.name));
      auto& sums = worst ? row.atWorst : row.anywhere;
      for (std::size_t i = 0; i < 11; ++i) sums[i] += one.order[i];
      row.drops += one.drops;
      row.steps += 10;
      if (one.worstDrop > row.worstDrop)
        row.worstDrop = one.worstDrop,
        row.where = fmt::format("{} scale {}{}", known.name, static_cast<int>(scale), worst ? "" : ", anywhere");
    }
  }
  return row;
}

void tellTruth(const std::vector<Known>& scenes, const std::vector<Scale>& truths, bool each) {
  std::vector<Row> rows(scenes.size());
  parallelItems(scenes.size(), [&](std::size_t i) { rows[i] = judged(scenes[i], truths); });
  fmt::print(
      "{:<26} lower  guess | 1, 3, 6, 10 dabs at the worst | 3, 6, 10 anywhere | dabs that cost more than 0.01\n", "");
  if (each)
    for (std::size_t i = 0; i < rows.size(); ++i) rows[i].tell(scenes[i].name);
  std::vector<std::string> families;
  Row all;
  for (const Known& one : scenes)
    if (std::find(families.begin(), families.end(), one.family) == families.end()) families.push_back(one.family);
  for (const auto& family : families) {
    Row sum;
    for (std::size_t i = 0; i < rows.size(); ++i)
      if (scenes[i].family == family) sum.add(rows[i]);
    sum.tell(family);
    all.add(sum);
  }
  all.tell("all");
}

void leave(const std::filesystem::path& folder, const Known& known) {
  std::filesystem::create_directories(folder);
  const auto ground = depth::groundOf(known.picture);
  const auto truth = depth::overPixels(ground->seen, almanac::trueNear(ground->seen, known.nearness)),
             guess = depth::overPixels(ground->seen, depth::guessed(*ground, depth::Scene::automatic).near);
  const auto picture = toSrgb8(ground->seen.picture);
  Image<Rgb8> sheet(3 * picture.width(), picture.height());
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) {
      const auto grey = [](float v) {
        const auto g = static_cast<std::uint8_t>(255 * std::clamp(v, 0.0f, 1.0f));
        return Rgb8{g, g, g};
      };
      sheet(x, y) = picture(x, y);
      sheet(picture.width() + x, y) = grey(truth(x, y));
      sheet(2 * picture.width() + x, y) = grey(guess(x, y));
    }
  std::string name = known.name;
  std::replace(name.begin(), name.end(), ' ', '-');
  writeFileAtomically(folder / (name + ".png"), encodePng(sheet.view()));
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app{"Judges first guesses of depth and what true hints make of them."};
  std::vector<std::string> files;
  int perFamily = 8, steady = 0, width = 384;
  bool each = false, fitting = false, allScales = false;
  std::string keep, found;
  app.add_option("pictures", files, "Pictures, to be taken in other sizes, crops and lights");
  app.add_option("--scenes", perFamily, "Drawn scenes of each family");
  app.add_option("--steady", steady, "Drawn scenes to be taken otherwise, too");
  app.add_option("--width", width, "Of drawn scenes, pixels");
  app.add_flag("--each", each, "A line for each picture");
  app.add_flag("--fitting", fitting, "The scenes that weights are set on, not those kept apart");
  app.add_flag("--all-scales", allScales, "True values in four scales, not one");
  app.add_option("--keep", keep, "Leave picture, truth and guess of each scene in this folder");
  app.add_option("--drawn", found, "Where drawn scenes are kept and found again");
  CLI11_PARSE(app, argc, argv);
  try {
    std::vector<Shaken> all;
    for (const auto& file : files) {
      const auto picture = readPicture(file).picture;
      all.push_back(shaken(std::filesystem::path(file).filename().string(),
                           resampled(picture.view(), picture.size(), Resampling::area)));
    }
    for (int k = 0; k < steady; ++k)
      all.push_back(
          shaken(renderedName(renderedSeed(k, fitting)),
                 toLinear(training::sceneOf(renderedSeed(k, fitting), {1280, 864}, training::Use::depth).picture)));
    if (steady > 0)
      for (const Known& known : tracedScenes((steady + 5) / 6, {1152, 768}, fitting, found))
        all.push_back(shaken(known.name, known.picture));
    if (!all.empty()) tellShaken(all, each);
    if (perFamily > 0) {
      const auto scenes = drawnScenes(perFamily, {width, width * 2 / 3}, fitting, found);
      if (!keep.empty())
        for (const Known& one : scenes) leave(keep, one);
      tellTruth(scenes,
                allScales ? std::vector<Scale>(std::begin(scales), std::end(scales)) : std::vector{Scale::toNearest},
                each);
    }
  } catch (const std::exception& problem) {
    fmt::print(stderr, "judge-depth: {}\n", problem.what());
    return 1;
  }
}
