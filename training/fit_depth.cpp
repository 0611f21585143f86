// fit-depth [--fit | --pictures FOLDER]: --fit finds the weights of the cues of depth on scenes of known depth, and it
// tells how each cue and all of them together fare on scenes kept apart. Prints; changes nothing. --pictures leaves the
// scenes there with their true and their guessed depth, to be looked at.
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>

#include "core/depth/depth.h"
#include "core/image/parallel.h"
#include "core/image/png.h"
#include "depth_trial.h"

namespace {

using namespace hscaffold;

constexpr Size size = {384, 256};
constexpr int perFamily = 24;  // even seeds fit, odd ones judge
constexpr int pairs = 4000;

struct Case {
  almanac::DepthScene scene;
  std::shared_ptr<const depth::Ground> ground;
  depth::Solution first;
  std::vector<float> truth;
  almanac::Pairs pairs;
};

Case made(almanac::DepthFamily family, std::uint64_t seed) {
  Case out;
  out.scene = almanac::depthScene(family, seed, size);
  out.ground = depth::groundOf(out.scene.picture);
  out.first = depth::guessed(*out.ground, depth::Scene::automatic);
  out.truth = almanac::trueNear(out.ground->seen, out.scene.nearness);
  out.pairs = almanac::truePairs(out.truth, pairs, seed);
  return out;
}

/// Of the pairs in which a cue is sure of both, on how many it is right.
std::pair<double, double> cueAlone(const Case& c, const depth::Cue& cue) {
  double right = 0, all = 0;
  for (const auto& [a, b] : c.pairs) {
    const float sure = std::min(cue.sure[static_cast<std::size_t>(a)], cue.sure[static_cast<std::size_t>(b)]);
    if (sure < 0.15f) continue;
    const float apart = cue.near[static_cast<std::size_t>(a)] - cue.near[static_cast<std::size_t>(b)];
    if (std::fabs(apart) < 0.02f) continue;
    all += 1;
    right += apart > 0 ? 1 : 0;
  }
  return {right, all};
}

std::vector<float> guessOf(const Case& c, std::span<const float> weights) {
  return depth::firstSolution(c.ground->seen, depth::joined(c.ground->cues, weights)).near;
}

double meanOf(const std::vector<Case>& cases, bool kept, std::span<const float> weights) {
  std::vector<double> each(cases.size());
  parallelItems(cases.size(), [&](std::size_t i) {
    if ((cases[i].scene.seed % 2 == 1) == kept) each[i] = almanac::inOrder(cases[i].pairs, guessOf(cases[i], weights));
  });
  double sum = 0;
  for (const double e : each) sum += e;
  return 2 * sum / static_cast<double>(cases.size());
}

void leave(const std::filesystem::path& folder, const Case& c) {
  Image<Rgb8> sheet(3 * size.width, size.height);
  const auto truth = depth::overPixels(c.ground->seen, c.truth),
             guess = depth::overPixels(c.ground->seen, c.first.near);
  const auto picture = toSrgb8(c.scene.picture);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const auto grey = [](float v) {
        const auto g = static_cast<std::uint8_t>(255 * std::clamp(v, 0.0f, 1.0f));
        return Rgb8{g, g, g};
      };
      sheet(x, y) = picture(x, y);
      sheet(size.width + x, y) = grey(truth(x, y));
      sheet(2 * size.width + x, y) = grey(guess(x, y));
    }
  std::string name = almanac::nameOf(c.scene.family);
  std::replace(name.begin(), name.end(), ' ', '-');
  writeFileAtomically(folder / (name + "-" + std::to_string(c.scene.seed) + ".png"), encodePng(sheet.view()));
}

using Weights = std::vector<float>;

void tellCuesAlone(const std::vector<Case>& cases) {
  const auto named = depth::cues();
  std::printf("each cue alone where it claims to know: pairs in order (share of all pairs)\n%-10s", "");
  for (const auto family : almanac::depthFamilies) std::printf("  %-24s", almanac::nameOf(family));
  std::printf("\n");
  for (std::size_t k = 0; k < named.size(); ++k) {
    std::printf("  %-8s", named[k].id);
    for (const auto family : almanac::depthFamilies) {
      double right = 0, all = 0, of = 0;
      for (const Case& c : cases) {
        if (c.scene.family != family) continue;
        const auto [r, claimed] = cueAlone(c, c.ground->cues[k]);
        right += r, all += claimed, of += static_cast<double>(c.pairs.size());
      }
      if (all > 0)
        std::printf("  %.3f (%.2f)            ", right / all, all / of);
      else
        std::printf("  says nothing            ");
    }
    std::printf("\n");
  }
}

/// One weight after the other, up and down, while the scenes fitted on come out better.
Weights fitted(const std::vector<Case>& cases, Weights weights) {
  double best = meanOf(cases, false, weights);
  for (int round = 0; round < 4; ++round)
    for (std::size_t k = 0; k < weights.size(); ++k)
      for (const float factor : {0.5f, 0.75f, 1.35f, 2.0f}) {
        auto tried = weights;
        // Drawn scenes have clearer ground than nature: no cue may be given up or become all there is.
        tried[k] = std::clamp(tried[k] * factor, 0.3f, 4.0f);
        const double score = meanOf(cases, false, tried);
        if (score > best + 1e-4) best = score, weights = tried;
      }
  std::printf("weights fitted:");
  const auto named = depth::cues();
  for (std::size_t k = 0; k < named.size(); ++k) std::printf(" %s %.2f", named[k].id, static_cast<double>(weights[k]));
  std::printf("\n");
  return weights;
}

void tellEachMissing(const std::vector<Case>& cases, const Weights& weights) {
  std::printf("all cues: scenes fitted on %.4f, kept apart %.4f\n", meanOf(cases, false, weights),
              meanOf(cases, true, weights));
  const auto named = depth::cues();
  for (std::size_t k = 0; k < named.size(); ++k) {
    auto without = weights;
    without[k] = 0;
    std::printf("  without %-8s %.4f  %.4f\n", named[k].id, meanOf(cases, false, without),
                meanOf(cases, true, without));
  }
}

/// How much the network should count, the others as they are.
void tellNetwork(const std::vector<Case>& cases, const Weights& weights) {
  const auto named = depth::cues();
  for (std::size_t k = 0; k < named.size(); ++k) {
    if (named[k].id != std::string(depth::networkCueId)) continue;
    for (const float weight : {0.5f, 1.0f, 2.0f, 4.0f}) {
      auto tried = weights;
      tried[k] = weight;
      std::printf("  network at %-4.1f  %.4f  %.4f\n", static_cast<double>(weight), meanOf(cases, false, tried),
                  meanOf(cases, true, tried));
    }
  }
}

struct Row {
  std::string name;
  double lower = 0, guess = 0, hinted = 0, away = 0;
  std::vector<std::pair<float, bool>> bySure;  ///< of pairs: how sure the less sure is, whether in order

  void add(const Row& other, double share) {
    lower += share * other.lower, guess += share * other.guess;
    hinted += share * other.hinted, away += share * other.away;
    bySure.insert(bySure.end(), other.bySure.begin(), other.bySure.end());
  }
  [[nodiscard]] double third(bool surest) {
    std::sort(bySure.begin(), bySure.end());
    const auto count = bySure.size() / 3, from = surest ? bySure.size() - count : 0;
    double right = 0;
    for (std::size_t i = from; i < from + count; ++i) right += bySure[i].second ? 1 : 0;
    return right / static_cast<double>(std::max<std::size_t>(1, count));
  }
  void tell() {
    std::printf("%-32s %8.3f %8.3f %8.3f %8.3f %8.3f %8.3f\n", name.c_str(), lower, guess, hinted, away, third(true),
                third(false));
  }
};

Row rowOf(const Case& c, const Weights& weights) {
  Row row;
  row.name = almanac::nameOf(c.scene.family) + (" " + std::to_string(c.scene.seed));
  const auto first = depth::firstSolution(c.ground->seen, depth::joined(c.ground->cues, weights));
  row.lower = almanac::inOrder(c.pairs, c.ground->seen.y);
  row.guess = almanac::inOrder(c.pairs, first.near);
  const auto h = almanac::hinted(c.ground->seen, c.truth, first, 6);
  row.hinted = almanac::inOrder(c.pairs, h.near);
  row.away = almanac::inOrder(almanac::awayFrom(c.pairs, c.ground->seen, h.places), h.near);
  for (const auto& [a, b] : c.pairs) {
    const auto i = static_cast<std::size_t>(a), j = static_cast<std::size_t>(b);
    row.bySure.emplace_back(std::min(first.sure[i], first.sure[j]), first.near[i] > first.near[j]);
  }
  return row;
}

/// Scenes kept apart: the bad ones first, then by family, then all.
void tellTable(const std::vector<Case>& cases, const Weights& weights) {
  std::vector<Row> rows;
  std::vector<Row> families;
  Row all;
  all.name = "all";
  for (const auto family : almanac::depthFamilies) {
    Row sum;
    sum.name = almanac::nameOf(family);
    for (const Case& c : cases) {
      if (c.scene.family != family || c.scene.seed % 2 == 0) continue;
      rows.push_back(rowOf(c, weights));
      sum.add(rows.back(), 2.0 / perFamily);
    }
    all.add(sum, 1.0 / static_cast<double>(std::size(almanac::depthFamilies)));
    families.push_back(std::move(sum));
  }
  std::stable_sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.guess < b.guess; });
  std::printf("%-32s %8s %8s %8s %8s %8s %8s\n", "kept apart", "lower", "guess", "6 hints", "away", "surest", "least");
  for (std::size_t i = 0; i < std::min<std::size_t>(10, rows.size()); ++i) rows[i].tell();
  std::printf("by family\n");
  for (Row& row : families) row.tell();
  all.tell();
}

}  // namespace

int main(int argc, char** argv) {
  const std::string wish = argc > 1 ? argv[1] : "";
  if (argc > 3 || (argc == 2 && wish != "--fit") || (argc == 3 && wish != "--pictures")) {
    std::fprintf(stderr, "usage: fit-depth [--fit | --pictures FOLDER]\n");
    return 2;
  }
  std::vector<Case> cases;
  for (const auto family : almanac::depthFamilies)
    for (std::uint64_t seed = 0; seed < perFamily; ++seed) cases.push_back(made(family, seed));
  if (argc == 3) {
    std::filesystem::create_directories(argv[2]);
    for (const Case& c : cases) leave(argv[2], c);
  }
  Weights weights;
  for (const auto& cue : depth::cues()) weights.push_back(cue.weight);
  tellCuesAlone(cases);
  if (wish == "--fit") weights = fitted(cases, weights);
  tellEachMissing(cases, weights);
  tellNetwork(cases, weights);
  tellTable(cases, weights);
}
