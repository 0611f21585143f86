// judge-figures: how well the finder does on pictures of known joints, the worst first. A joint is right within a tenth
// of the longer side of its figure's box.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>
#include <map>

#include "core/frame/placement.h"
#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/pose/find/network_finder.h"
#include "files/figure_files.h"
#include "files/picture_reader.h"
#include "scene.h"

namespace {

using namespace hscaffold;

/// A picture and everybody in it.
struct Case {
  std::string name, group;
  Image<Rgb> picture;
  std::vector<pose::Figure> truth;
};

struct Score {
  int joints = 0, right = 0, rightSwapped = 0;  ///< swapped: or where the other side's is
  int figures = 0, found = 0, wrong = 0;
  std::map<int, std::pair<int, int>> bySureness;  ///< tenth of confidence: right, all
  void add(const Score& other) {
    joints += other.joints, right += other.right, rightSwapped += other.rightSwapped;
    figures += other.figures, found += other.found, wrong += other.wrong;
    for (const auto& [tenth, counts] : other.bySureness) {
      bySureness[tenth].first += counts.first;
      bySureness[tenth].second += counts.second;
    }
  }
  [[nodiscard]] double share() const { return joints > 0 ? static_cast<double>(right) / joints : 0; }
};

/// Who is looked for.
struct Judged {
  pose::Sought who = pose::Sought::people;
  training::Use use = training::Use::figures;
  const char* skeleton = "human";
};

/// Joints of `truth` that `found` has right; all wrong if there is none.
Score joints(const pose::Figure& truth, const pose::Figure* found) {
  const auto box = *pose::boundsOf(truth);
  const double near = 0.1 * std::max(box.width(), box.height());
  Score out;
  for (std::size_t p = 0; p < pose::bodyPointsOf(truth.kind()); ++p) {
    if (truth.points[p].presence != pose::Presence::seen) continue;
    ++out.joints;
    if (found == nullptr) continue;
    const auto hits = [&](std::size_t other) {
      const auto& point = found->points[other];
      const Point off = point.at - truth.points[p].at;
      return point.there() && dot(off, off) < near * near;
    };
    const bool right = hits(p);
    out.right += right ? 1 : 0;
    out.rightSwapped += right || hits(truth.kind().points[p].mirror) ? 1 : 0;
    if (!found->points[p].there()) continue;
    auto& counts = out.bySureness[std::min(9, static_cast<int>(10 * found->points[p].confidence))];
    counts.first += right ? 1 : 0;
    ++counts.second;
  }
  return out;
}

Score inBoxes(const Case& of, const Judged& judged) {
  Score out;
  for (const auto& truth : of.truth) {
    pose::NetworkFinderTuning tuning;
    tuning.sought = judged.who;
    tuning.box = pose::boundsOf(truth);
    tuning.faintestFigure = 0;
    const auto found = pose::NetworkFinder(tuning).find(of.picture, {});
    out.add(joints(truth, found.empty() ? nullptr : &found.front()));
  }
  return out;
}

/// @param tell  say of each found figure how sure and how large it is, and whether it is one.
Score withoutBoxes(const Case& of, const Judged& judged, bool tell) {
  auto found = pose::tidied(pose::NetworkFinder({.sought = judged.who}).find(of.picture, {}));
  Score out;
  std::vector<char> used(found.size());
  for (const auto& truth : of.truth) {
    ++out.figures;
    int best = -1, most = 0;
    for (std::size_t f = 0; f < found.size(); ++f) {
      if (used[f]) continue;
      const int right = joints(truth, &found[f]).rightSwapped;
      if (right > most) most = right, best = static_cast<int>(f);
    }
    const Score score = joints(truth, best >= 0 ? &found[static_cast<std::size_t>(best)] : nullptr);
    out.add(score);
    if (best >= 0 && 3 * most >= score.joints) {
      ++out.found;
      used[static_cast<std::size_t>(best)] = 1;
    }
  }
  for (std::size_t f = 0; tell && f < found.size(); ++f)
    fmt::print("found {} {:.3f} {:.0f} {}\n", used[f] ? "right" : "false", pose::confidenceOf(found[f]),
               pose::sizeOf(found[f]), of.name);
  out.wrong = static_cast<int>(std::count(used.begin(), used.end(), 0));
  return out;
}

std::vector<Case> fromFolder(const std::filesystem::path& folder, const Judged& judged) {
  std::vector<Case> out;
  std::vector<std::filesystem::path> files;
  for (const auto& entry : std::filesystem::directory_iterator(folder))
    if (entry.path().extension() == ".png") files.push_back(entry.path());
  std::sort(files.begin(), files.end());
  for (const auto& file : files) {
    auto beside = file;
    beside.replace_extension(".json");
    const auto loaded = decodePicture(readWholeFile(file), file.filename().string());
    Case made{file.stem().string(), {}, place(loaded.picture, {}, loaded.picture.size()), {}};
    made.group = made.name.substr(0, made.name.find_last_of('-'));
    if (std::filesystem::exists(beside))
      for (const auto& figure :
           figuresFromFile(readWholeFile(beside), beside.string(), loaded.picture.size()).figures.figures)
        if (figure->skeleton == judged.skeleton) made.truth.push_back(*figure);
    out.push_back(std::move(made));
  }
  return out;
}

std::vector<Case> fromScenes(std::uint64_t count, const Judged& judged) {
  std::vector<Case> out;
  for (std::uint64_t i = 0; i < count; ++i) {
    const std::uint64_t seed = 3'000'000'000ull + i;
    const auto scene = training::sceneOf(seed, {256, 256}, judged.use);
    Case made{fmt::format("scene {}", i),
              std::string("scenes, ") + training::nameOf(training::themeFor(seed, judged.use)),
              toLinear(scene.picture),
              {}};
    for (const auto& seen : judged.who == pose::Sought::animals ? scene.animals : scene.people) {
      if (std::max(seen.right - seen.left, seen.bottom - seen.top) < 24) continue;
      pose::Figure figure;
      figure.skeleton = judged.skeleton;
      figure.points.resize(figure.kind().points.size());
      for (std::size_t p = 0; p < seen.points.size(); ++p) {
        if (seen.points[p].visibility == training::Visibility::outside) continue;
        figure.points[p].at = {static_cast<double>(seen.points[p].x), static_cast<double>(seen.points[p].y)};
        figure.points[p].presence = seen.points[p].visibility == training::Visibility::hiddenByOther
                                        ? pose::Presence::hidden
                                        : pose::Presence::seen;
      }
      if (pose::boundsOf(figure)) made.truth.push_back(std::move(figure));
    }
    out.push_back(std::move(made));
  }
  return out;
}

void tell(const std::string& name, const Score& boxed, const Score& free) {
  fmt::print("{:<28} {:6.3f} {:8.3f} {:9.3f} {:6}/{:<5} {:5}\n", name, boxed.share(),
             boxed.joints > 0 ? static_cast<double>(boxed.rightSwapped) / boxed.joints : 0.0, free.share(), free.found,
             free.figures, free.wrong);
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app("Scores the finder on pictures of known joints.");
  std::string folder;
  std::uint64_t scenes = 0;
  bool each = false, eachFound = false, animals = false;
  app.add_option("FOLDER", folder, "NAME.png with NAME.json (COCO key points) beside it; none: nobody is in it");
  app.add_option("--scenes", scenes, "So many scenes for learning that are kept from it");
  app.add_flag("--animals", animals, "Four-legged animals instead of people");
  app.add_flag("--each", each, "Tell every picture");
  app.add_flag("--found", eachFound, "Tell every figure that was found");
  CLI11_PARSE(app, argc, argv);
  try {
    const Judged judged = animals ? Judged{pose::Sought::animals, training::Use::animals, "four-legged"} : Judged{};
    auto cases = folder.empty() ? std::vector<Case>() : fromFolder(folder, judged);
    for (auto& more : fromScenes(scenes, judged)) cases.push_back(std::move(more));
    struct Row {
      std::string name;
      Score boxed, free;
    };
    std::map<std::string, Row> groups;
    std::vector<Row> rows;
    Row all{"all", {}, {}};
    for (const Case& one : cases) {
      Row row{one.name, inBoxes(one, judged), withoutBoxes(one, judged, eachFound)};
      for (Row* sum : {&groups[one.group], &all}) {
        sum->boxed.add(row.boxed);
        sum->free.add(row.free);
      }
      rows.push_back(std::move(row));
    }
    fmt::print("{:<28} {:>6} {:>8} {:>9} {:>12} {:>5}\n", "", "in box", "swapped", "no box", "found", "false");
    const auto worse = [](const Row& a, const Row& b) { return a.boxed.share() < b.boxed.share(); };
    std::stable_sort(rows.begin(), rows.end(), worse);
    for (std::size_t i = 0; i < rows.size() && (each || i < 8); ++i) tell(rows[i].name, rows[i].boxed, rows[i].free);
    std::vector<Row> sums;
    for (auto& [name, row] : groups) sums.push_back({name, row.boxed, row.free});
    std::stable_sort(sums.begin(), sums.end(), worse);
    for (const Row& row : sums) tell(row.name, row.boxed, row.free);
    tell(all.name, all.boxed, all.free);
    fmt::print("confidence shown, and share that is right\n");
    for (const auto& [tenth, counts] : all.boxed.bySureness)
      fmt::print("  {:.1f} to {:.1f}   {:.3f}  of {}\n", tenth / 10.0, (tenth + 1) / 10.0,
                 static_cast<double>(counts.first) / counts.second, counts.second);
  } catch (const std::exception& error) {
    fmt::print(stderr, "judge-figures: {}\n", error.what());
    return 1;
  }
  return 0;
}
