#include "core/engine/standin/standin.h"

#include <chrono>
#include <cmath>

#include "core/engine/standin/assembly.h"
#include "core/engine/standin/layout.h"
#include "core/engine/standin/lexicon.h"
#include "core/engine/standin/look_words.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"
#include "core/engine/standin/start.h"
#include "core/engine/standin/variation.h"
#include "core/image/filter.h"
#include "core/image/resample.h"

namespace hscaffold {
namespace {

using namespace standin;

/// The lexicon as others are told of it.
const std::shared_ptr<const EngineWords>& knownWords() {
  static const auto known = [] {
    auto words = std::make_shared<EngineWords>();
    for (const auto& [word, group] : lexiconWords()) {
      const std::string name(word);
      words->groups[std::string(group)].push_back(name);
      const bool manner =
          group == "season" || group == "time of day" || group == "weather" || group == "medium" || group == "mood";
      for (const std::string& form : {name, name + "s", name + "es"}) {
        if (meaningOf(form).meaning == nullptr) continue;
        words->all.insert(form);
        if (manner) words->manner.insert(form);
      }
    }
    return std::shared_ptr<const EngineWords>(std::move(words));
  }();
  return known;
}

/// Everything is composed and decided at one scale, whatever the frame: only painting knows how large it is.
Size layoutSize(Size frame) {
  constexpr double longest = 384;
  const Size size = scaledTo(frame, longest);
  return {std::max(16, size.width), std::max(16, size.height)};
}

/// One picture on its way: what its words ask for, and its layout as far as it has settled.
struct Work {
  Wishes wishes;
  std::uint64_t seed;
  Composition picture;
  Layout layout;
  Palette palette;
};

/// Finds the thing whose parts the words call by name, where guides say what lies where. Without a thing to be seen in
/// what they say nothing tells where its parts are: they keep the colour of all.
void findNamed(const AllGuides& all, const Wishes& wishes, Composition& picture, Palette& palette) {
  if (all.guides.empty() || !namesParts(wishes)) return;
  picture.named = largestThing(picture.fields);
  if (!picture.named) palette.bandShares.fill(0);
}

/// @param lamp   whether sun or moon are seen
/// @param litAs  in which colours light and shade of tone guides are meant; null: in the picture's own.
/// @param mood   its colours and light are what light and shade are reckoned in from then on; empty: none
Work begun(const EngineJob& job, Wishes wishes, const AllGuides& all, Remembered& lately, bool lamp = true,
           const Palette* litAs = nullptr, View<Rgb> mood = {}) {
  const Brief& brief = job.recipe.brief;
  const std::uint64_t seed = mixed(0x5ca4f01d, brief.seed), variation = mixed(seed, brief.variation, 0x7a);
  Composition place = lately.places.composed(wishes, seed, layoutSize(job.recipe.mapsSize()));
  vary(place, variation, brief.vary);
  Palette palette = paletteFrom(wishes, seed);
  vary(palette, variation, brief.vary);
  paintWith(palette, brief.colours, wishes);
  if (!lamp) palette.glow = 0;
  // Whatever a start picture shows: values stay as they are planned.
  const Palette planned = paletteFrom(wishesFrom(brief), seed);
  std::vector<Wanted> wanted;
  std::vector<LoadCurve> loads;
  for (std::size_t g = 0; g < all.guides.size(); ++g) {
    const Guide& guide = all.guides[g].guide;
    loads.emplace_back(guide, brief.guidance, brief.steps);
    wanted.push_back(wantedBy(guide.kind, {*all.inputs[g], place, planned, loads.back(), mixed(seed, 500),
                                           lately.readings, &guide.tuning, flatnessFrom(brief.avoid)}));
  }
  palette.tints = tintsOf(wanted, loads);
  Composition picture = assembled(place, wanted, loads);
  findNamed(all, wishes, picture, palette);
  if (!mood.empty()) {
    const float strength = colourKept(brief.start);
    colourFrom(palette, mood, picture.fields, strength);
    gradeTo(palette, mood, picture, strength);
  }
  const Medium medium = wishes.medium();
  const bool drawn = medium == Medium::ink || medium == Medium::woodcut || medium == Medium::pencil;
  for (Wanted& each : wanted) lightUp(each, picture, litAs != nullptr ? *litAs : palette, drawn);
  Layout layout(picture, std::move(wanted), all.guides, brief.guidance, brief.steps, mixed(seed, 9));
  return {std::move(wishes), seed, std::move(picture), std::move(layout), palette};
}

/// Share of the steps in which the start picture's layout acts.
double layoutKept(const StartPicture& start) {
  if (!start.given() || start.moodOnly) return 0;
  return start.wordsToWords() ? 1 - std::max(0.0, 2 * start.change - 1) : 1 - start.change;
}

Work begun(const EngineJob& job, StopToken stop, Remembered& lately) {
  const StartPicture& start = job.recipe.brief.start;
  const bool mood = start.given() && start.moodOnly;
  Work work = begun(job, wishesFrom(job.recipe.brief), guidesOf(job, layoutKept(start), stop), lately, true, nullptr,
                    mood ? job.start.view() : View<Rgb>());
  if (start.given() && !mood) colourFrom(work.palette, job.start.view(), work.picture.fields, colourKept(start));
  return work;
}

Size previewSize(Size frame) { return within(frame, 256); }

/// The plan as the steps have it now.
Plan planOf(const Work& work, Size size) { return planFrom(work.layout.current(), work.picture, work.palette, size); }

/// The steps, each told of with a picture of how far it is. @param start  the start picture's bands at that picture's
/// size; none if it has no say
void takeSteps(Work& work, int steps, Size small, const StartBands* start, const EngineSink& sink,
               const StopToken& stop) {
  for (int step = 0; step < steps; ++step) {
    throwIfStopped(stop);
    work.layout.advance(step);
    if (!sink) continue;
    EngineProgress progress{step + 1, steps, {}};
    if (step + 1 < steps)
      progress.preview = [&] {
        Plan plan = planOf(work, small);
        if (start != nullptr) start->putInto(plan);
        return toSrgb8(planPicture(plan));
      };
    sink(std::move(progress));
  }
  throwIfStopped(stop);
}

/// Whether a start picture is seen in what is painted.
bool showsStart(const StartPicture& start) { return start.given() && !start.moodOnly && start.change < 1; }

/// All of a picture but its paint.
Work decided(const EngineJob& job, const EngineSink& sink, StopToken stop, Remembered& lately) {
  const StartPicture& start = job.recipe.brief.start;
  Work work = begun(job, stop, lately);
  const Size small = previewSize(job.recipe.frame);
  std::optional<StartBands> reduced;
  if (showsStart(start) && sink) reduced.emplace(resampled(job.start.view(), small).view(), start.change);
  takeSteps(work, job.recipe.brief.steps, small, reduced ? &*reduced : nullptr, sink, stop);
  return work;
}

/// What guides say of detail, in a picture of this size or a part of it.
DetailBands detailOf(const EngineJob& job, Size whole, const Box& part) {
  return {job.recipe.guides, job.inputs, job.recipe.brief.guidance, job.recipe.brief.steps, whole, part};
}

Image<Rgb> fromScratchOrStart(const EngineJob& job, const EngineSink& sink, StopToken stop, Remembered& lately) {
  const StartPicture& start = job.recipe.brief.start;
  const bool bands = showsStart(start);
  if (bands && start.change <= 0) return job.start.clone();
  const Work work = decided(job, sink, stop, lately);
  std::optional<StartBands> whole;
  if (bands) whole.emplace(job.start.view(), start.change);
  Plan plan = planOf(work, job.recipe.frame);
  if (bands) whole->putInto(plan);
  const DetailBands detail = detailOf(job, job.recipe.frame, boxOf(job.recipe.frame));
  detail.putInto(plan);
  throwIfStopped(stop);
  auto picture = painted(plan, work.wishes, mixed(work.seed, 31), stop);
  return detail.putInto(bands ? whole->putInto(picture) : std::move(picture));
}

/// A picture whose steps are done.
class ComposedByStandin final : public Composed {
 public:
  ComposedByStandin(Work work, const EngineJob& job, Size whole)
      : fields_(work.layout.current()),
        picture_(std::move(work.picture)),
        palette_(work.palette),
        wishes_(std::move(work.wishes)),
        seed_(work.seed),
        whole_(whole) {
    for (std::size_t i = 0; i < job.inputs.size(); ++i) {
      if (job.recipe.guides[i].guide.kind != "detail") continue;
      job_.recipe.guides.push_back(job.recipe.guides[i]);
      job_.inputs.push_back(job.inputs[i].clone());
    }
    job_.recipe.brief.guidance = job.recipe.brief.guidance;
    job_.recipe.brief.steps = job.recipe.brief.steps;
    constexpr double longest = 384;
    auto small = std::make_shared<Plan>(planFrom(fields_, picture_, palette_, within(whole, longest)));
    const StartPicture& start = job.recipe.brief.start;
    if (showsStart(start)) {
      change_ = start.change;
      const Size size = small->colour.size();
      StartBands(resampled(job.start.view(), size, Resampling::area).view(), start.change).putInto(*small);
    }
    small_ = std::move(small);
  }

  [[nodiscard]] Box seenFor(const Box& part) const override {
    // Strokes that begin further away hardly reach it; bands of a pyramid lie alike where corners are multiples.
    constexpr int corners = 64;
    const auto about = static_cast<int>(std::ceil(reachOfMedium(wishes_.medium()) * PartPlace{whole_}.unit()));
    const auto down = [](int value) { return value / corners * corners; };
    const Box round = cut(grown(part, about), whole_);
    return {down(round.left), down(round.top), round.right, round.bottom};
  }

  Image<Rgb8> paint(const Box& part, View<Rgb> start, StopToken stop) override {
    const Box seen = seenFor(part);
    if (change_ && start.size() != seen.size())
      throw badInput("The start picture of a part does not show what belongs to it.");
    const Box within{part.left - seen.left, part.top - seen.top, part.right - seen.left, part.bottom - seen.top};
    if (change_ && *change_ <= 0) return toSrgb8(partOf(start, within));
    Plan plan = planFrom(fields_, picture_, palette_, whole_, seen);
    plan.small = small_;
    std::optional<StartBands> bands;
    if (change_) bands.emplace(start, *change_, whole_).putInto(plan);
    const DetailBands detail = detailOf(job_, whole_, seen);
    detail.putInto(plan);
    throwIfStopped(stop);
    auto made = painted(plan, wishes_, mixed(seed_, 31), stop);
    plan = {};
    if (bands) made = bands->putInto(made);
    made = detail.putInto(std::move(made));
    throwIfStopped(stop);
    return toSrgb8(partOf(std::as_const(made).view(), within));
  }

 private:
  Fields fields_;
  Composition picture_;
  Palette palette_;
  Wishes wishes_;
  std::uint64_t seed_;
  Size whole_;
  EngineJob job_;                 ///< what of it is needed for detail
  std::optional<double> change_;  ///< of a start picture that has a say
  std::shared_ptr<const Plan> small_;
};

/// Where something else is than was: another part of the picture, or the subject here and not there.
Image<float> otherPart(const Work& shown, const Work& wanted, Size frame) {
  const Fields a = shown.layout.current(), b = wanted.layout.current();
  Image<float> other(a.size());
  bool any = false;
  for (int y = 0; y < other.height(); ++y)
    for (int x = 0; x < other.width(); ++x) {
      float differs = 0;
      for (std::size_t p = 0; p < partCount; ++p)
        differs = std::max(differs, std::abs(a.part(p)(x, y) - b.part(p)(x, y)));
      other(x, y) = smoothStep(0.3f, 0.6f, differs);
      any = any || other(x, y) > 0.5f;
    }
  if (!any) return {};
  // With the outlines about it.
  auto round = gaussianBlur(other.view(), 0.006f * static_cast<float>(std::max(other.width(), other.height())));
  for (int y = 0; y < round.height(); ++y)
    for (float& v : round.line(y)) v = smoothStep(0.06f, 0.3f, v);
  return resampled(round.view(), frame);
}

/// Where a change from words to words acts: in the regions of the guides that its words call by name; empty:
/// everywhere.
Image<float> boundsOfChange(const EngineJob& job) {
  Image<float> where;
  for (std::size_t i = 0; i < job.recipe.guides.size(); ++i) {
    const Map& region = job.inputs[i].region;
    if (region.empty() || !boundsChange(job.recipe.guides[i].guide, job.recipe.brief.start)) continue;
    if (where.empty()) where = Image<float>(region.size());
    for (int y = 0; y < where.height(); ++y)
      for (int x = 0; x < where.width(); ++x)
        where(x, y) = std::max(where(x, y), static_cast<float>(region(x, y)) / 65535.0f);
  }
  return where.empty() || where.size() == job.recipe.frame ? std::move(where)
                                                           : resampled(where.view(), job.recipe.frame);
}

std::pair<float, float> subjectColourOf(const Wishes& wishes) {
  const WishedColour& wish = wishes.colours[static_cast<std::size_t>(Part::subject)];
  return {wish.strength, wish.colour.h};
}

/// A thing's colour when only the light on it changes: as much darker and duller as the land about it.
OkLch inLightOf(OkLch colour, const Palette& before, const Palette& after) {
  const auto mean = [](const Palette& p, auto channel) { return 0.5f * (channel(p.parts[2]) + channel(p.parts[3])); };
  const auto ratio = [&](auto channel) {
    return std::clamp(mean(after, channel) / std::max(0.02f, mean(before, channel)), 0.3f, 1.6f);
  };
  colour.l = std::clamp(colour.l * ratio([](const OkLch& c) { return c.l; }), 0.05f, 0.97f);
  colour.c *= std::min(1.2f, ratio([](const OkLch& c) { return c.c; }));
  return colour;
}

/// Two pictures of one layout, as the start picture's words say and as those that are wanted say; only what differs
/// between them acts on the start picture.
Image<Rgb> fromWordsToWords(const EngineJob& job, const EngineSink& sink, StopToken stop, Remembered& lately) {
  const Brief& brief = job.recipe.brief;
  const Size frame = job.recipe.frame, small = previewSize(frame);
  const Image<Rgb> smallStart = resampled(job.start.view(), small);
  const auto where = boundsOfChange(job);
  const auto smallWhere = where.empty() ? Image<float>() : resampled(where.view(), small);
  const auto withWords = [&](const std::string& words) {
    Brief with = brief;
    with.prompt += ", " + words;
    return wishesFrom(with);
  };
  Wishes before = withWords(brief.start.shows), after = withWords(brief.start.wanted);
  // A thing that nobody knows is a spot of colour. The composition is that of the prompt.
  if (after.strange != before.strange && after.accent.strength <= 0) {
    const std::uint64_t dice = mixed(after.strange, before.strange, 17);
    after.accent = {{0.45f + 0.3f * unit(dice), 0.13f, 6.2831853f * unit(mixed(dice, 1))}, after.pull};
  }
  before.unknown = after.unknown = wishesFrom(brief).unknown;
  const bool sameAccent =
      after.accent.strength == before.accent.strength && after.accent.colour.h == before.accent.colour.h;
  // A proof of these settings lies as they do: then it is known what is where. Otherwise the picture's own masses say
  // so.
  constexpr float alike = 0.85f;
  AllGuides guides = guidesOf(job, 0, stop);
  const bool sameSubject = subjectColourOf(after) == subjectColourOf(before);
  Work shown = begun(job, before, guides, lately);
  const auto planned = [&](const Palette& palette) {
    return planFrom(shown.picture.fields, shown.picture, palette, small);
  };
  const Plan asShown = planned(shown.palette);
  Palette asWanted = paletteFrom(after, shown.seed);
  findNamed(guides, after, shown.picture, asWanted);
  const float lacking = stillToChange(smallStart.view(), asShown, planned(asWanted), smallWhere.view());
  const bool foreign = likeness(asShown, smallStart.view()) < alike;
  bool sameHour = false;
  if (foreign) {
    constexpr Trait hours[] = {Trait::dawn, Trait::day, Trait::dusk, Trait::night};
    sameHour = std::all_of(std::begin(hours), std::end(hours), [&](Trait hour) { return after[hour] == before[hour]; });
    guides = guidesOf(job, layoutKept(brief.start), stop);
    shown = begun(job, std::move(before), guides, lately, false);
    // What is given a colour now has the picture's own until then.
    Palette seen = shown.palette;
    colourFrom(seen, job.start.view(), shown.picture.fields, 1);
    for (std::size_t p = 0; p < partCount; ++p) {
      const bool part = p == static_cast<std::size_t>(Part::subject) && namesParts(after);
      if (!part && after.colours[p] == shown.wishes.colours[p]) continue;
      shown.palette.parts[p] = seen.parts[p];
      if (p == 0) shown.palette.skyLow = seen.skyLow;
    }
  }
  // A foreign picture's light and shade are those of what it shows: what is wanted may be darker as a whole.
  Work wanted = begun(job, std::move(after), guides, lately, !sameHour, foreign ? &shown.palette : nullptr);
  if (sameAccent) wanted.palette.accent = inLightOf(shown.palette.accent, shown.palette, wanted.palette);
  if (foreign && sameSubject) {
    auto& subject = wanted.palette.parts[static_cast<std::size_t>(Part::subject)];
    subject = inLightOf(shown.palette.parts[static_cast<std::size_t>(Part::subject)], shown.palette, wanted.palette);
  }
  for (int step = 0; step < brief.steps; ++step) {
    throwIfStopped(stop);
    shown.layout.advance(step);
    wanted.layout.advance(step);
    if (!sink) continue;
    EngineProgress progress{step + 1, brief.steps, {}};
    if (step + 1 < brief.steps)
      progress.preview = [&] {
        return toSrgb8(changedBetween(smallStart.view(), planOf(shown, small), planOf(wanted, small), {}, {},
                                      brief.start.change, smallWhere.view(), lacking));
      };
    sink(std::move(progress));
  }
  throwIfStopped(stop);
  const Plan a = planOf(shown, frame), b = planOf(wanted, frame);
  const auto other = otherPart(shown, wanted, frame);
  throwIfStopped(stop);
  const auto fresh = other.empty() ? Image<Rgb>() : painted(b, wanted.wishes, mixed(wanted.seed, 31), stop);
  return changedBetween(job.start.view(), a, b, other.view(), fresh.view(), brief.start.change, where.view(), lacking);
}

double modelMilliseconds(const Recipe& recipe) {
  const double million = static_cast<double>(recipe.frame.area()) / 1e6;
  const double guides = static_cast<double>(recipe.guides.size());
  const StartPicture& start = recipe.brief.start;
  const double pictures = start.wordsToWords() ? 1.5 : 1, bands = start.given() ? 250 * million : 0;
  return 30 + bands +
         pictures * (million * (650 + 60 * guides) + recipe.brief.steps * (2.0 + million * (4 + 2 * guides)));
}

}  // namespace

EngineInfo StandinEngine::info() const {
  EngineInfo info;
  info.name = "stand-in";
  info.id = "stand-in 19";
  info.title = "Built-in stand-in";
  info.note =
      "A simulation without a learned model. It answers to weights, ranges, seeds and words as a generator would, so "
      "that balance can be found cheaply; its pictures are its own.";
  info.mostPixels = 32'000'000;
  info.partPixels = 7'000'000;  // what one part is painted from takes a gigabyte
  info.kinds = knownKinds();
  info.words = knownWords();
  info.lanes = 2;  // small proofs do not fill two cores each
  info.samples = true;
  info.oneScale = true;
  info.understands.colours = true;
  info.composes = true;
  return info;
}

std::vector<std::string> StandinEngine::wordsLeft(const Brief& brief) const {
  Brief all = brief;
  if (brief.start.wordsToWords()) all.prompt += ", " + brief.start.wanted;
  return wishesFrom(all).left;
}

std::vector<std::string> StandinEngine::lookInWords(View<Rgb8> picture) const { return standin::lookInWords(picture); }

std::unique_ptr<Composed> StandinEngine::compose(const EngineJob& job, Size whole, const EngineSink& sink,
                                                 StopToken stop) {
  checkJob(job, info());
  if (job.recipe.brief.start.wordsToWords())
    throw badInput("What is changed from words to words is painted in one piece.");
  return std::make_unique<ComposedByStandin>(decided(job, sink, stop, remembered_), job, whole);
}

double StandinEngine::estimate(const Recipe& recipe) const { return modelMilliseconds(recipe) * correction_.load(); }

Image<Rgb8> StandinEngine::generate(const EngineJob& job, const EngineSink& sink, StopToken stop) {
  checkJob(job, info());
  const auto start = std::chrono::steady_clock::now();
  auto picture = toSrgb8(job.recipe.brief.start.wordsToWords() ? fromWordsToWords(job, sink, stop, remembered_)
                                                               : fromScratchOrStart(job, sink, stop, remembered_));
  const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  correction_ = 0.7 * correction_.load() + 0.3 * took / modelMilliseconds(job.recipe);
  return picture;
}

standin::Fields settledLayout(const EngineJob& job) {
  Remembered lately;
  Work work = begun(job, {}, lately);
  for (int step = 0; step < job.recipe.brief.steps; ++step) work.layout.advance(step);
  return work.layout.current();
}

}  // namespace hscaffold
