// Guides of the study that come from the stage: made, brought up to date, frozen, joined with a picture's depth.
#include "app/document/study_edits.h"
#include "app/stage/stage_work.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/stage/photograph.h"
#include "core/stage/scene_maps.h"
#include "core/strokes/drawing.h"
#include "files/study_job.h"

namespace hscaffold::app {

const Guide* StageWork::guideOf(const std::string& map) const {
  for (const Guide& guide : desk_.document.state().guides)
    if (guide.stage.map == map) return &guide;
  return nullptr;
}

void StageWork::freeze(const std::string& map, bool frozen) {
  if (guideOf(map) == nullptr) return;
  desk_.document.change(frozen ? "Freeze a guide of the stage" : "Follow the stage", [&](StudyState& s) {
    for (Guide& guide : s.guides)
      if (guide.stage.map == map) guide.stage.frozen = frozen;
  });
  emit changed();
  if (!frozen) follow();
}

namespace {

/// A guide for a map of the stage, as it begins.
std::string addGuideFor(StudyState& s, const stage::StageMap& map) {
  Guide guide;
  guide.id = newId(s, "g");
  guide.kind = map.kind;
  guide.name = map.name;
  const Kind& kind = kindOf(map.kind);
  guide.weight = kind.startWeight.value_or(map.weight);
  guide.range = kind.startRange;
  if (std::string(map.kind) == "depth")
    guide.tuning["guess"] = tuningValueFromText(fieldNamed(*kind.fields, "guess"), "finished map");
  guide.stage.map = map.id;
  s.guides.push_back(guide);
  return guide.id;
}

/// The picture of a guide: in the reference that it alone has, or in one of its own.
void givePicture(StudyState& s, const std::string& id, const PictureFile& picture, const char* name) {
  const std::string before = s.guide(id)->reference;
  Reference* reference = s.reference(before);
  const auto users =
      std::count_if(s.guides.begin(), s.guides.end(), [&](const Guide& each) { return each.reference == before; });
  if (reference != nullptr && users == 1 && s.brief.start.reference != before) {
    reference->content = picture.content;
    reference->size = s.frame;
    reference->placement = {};
    return;
  }
  const std::string looked = s.looking.reference;
  const std::string added = addReference(s, picture, s.frame, name);
  if (s.reference(looked) != nullptr) s.looking.reference = looked;
  s.guide(id)->reference = added;
}

}  // namespace

QStringList StageWork::give(StudyState& s, const Brought& brought, bool fresh) {
  QStringList owned;
  WorkStore& work = desk_.document.work();
  for (const auto& map : stage::stageMaps()) {
    const auto found = brought.maps.find(map.id);
    if (found == brought.maps.end()) continue;
    const stage::MadeMap& made = found->second;
    std::vector<std::string> following;
    for (Guide& each : s.guides) {
      if (each.stage.map != map.id || each.stage.frozen) continue;
      if (stage::isOwned(s, each)) {
        // Worked on by hand: that stays, and follows nothing any more.
        each.stage.frozen = true;
        owned << QString::fromStdString(each.name);
      } else {
        following.push_back(each.id);
      }
    }
    const bool nothing =
        (made.figures && made.figures->figures.empty()) || (made.drawing && made.drawing->strokes.empty());
    if (following.empty() && fresh && !nothing) following.push_back(addGuideFor(s, map));
    if (following.empty()) continue;
    std::string piece;
    if (made.figures)
      piece = work.keep(pose::figuresForm(), std::any(made.figures));
    else if (made.drawing)
      piece = work.keep(drawingForm(), std::any(made.drawing));
    std::optional<PictureFile> picture;
    if (!made.picture.empty()) {
      picture = pictureFile(made.picture);
      desk_.document.keepPicture(*picture);
      piece = picture->content;
    }
    for (const std::string& id : following) {
      if (picture)
        givePicture(s, id, *picture, map.file);
      else
        s.guide(id)->work.put(made.figures ? pose::figuresSlot : drawingSlot, piece);
      s.guide(id)->stage.piece = piece;
      s.guide(id)->stage.made = brought.digest;
      for (const stage::FastenedWork& each : brought.fastened)
        if (each.guide == id && !stage::giveFastened(*s.guide(id), placeOf(s, *s.guide(id)), each, work))
          s.guide(id)->stage.made.clear();  // worked on meanwhile: it follows once more
    }
  }
  s.lookAtWhatIsThere();
  return owned;
}

std::function<StageWork::Brought(const StopToken&)> StageWork::bringer(const std::vector<std::string>& maps) {
  const auto& state = desk_.document.state();
  std::vector<std::string> guides;
  for (const Guide& guide : state.guides)
    if (!guide.stage.frozen && std::find(maps.begin(), maps.end(), guide.stage.map) != maps.end())
      guides.push_back(guide.id);
  return [scene = scene(), frame = state.frame, digest = stage::sceneDigest(state), maps,
          fastened = stage::takeFastened(state, guides, desk_.document.work())](const StopToken& stop) {
    Brought out{digest, stage::madeMaps(scene, frame, maps, stop), fastened};
    for (stage::FastenedWork& each : out.fastened) {
      throwIfStopped(stop);
      stage::layAlong(each, scene, frame);
    }
    return out;
  };
}

void StageWork::use(const std::vector<std::string>& maps) {
  desk_.tasks.run(this, "stage maps", Priority::hand, bringer(maps), [this](const Brought& brought) {
    QStringList owned;
    desk_.document.change("Use the stage on the Bench", [&](StudyState& s) {
      owned = give(s, brought, true);
      const std::string* first = nullptr;
      for (const auto& map : stage::stageMaps())
        for (const Guide& guide : s.guides)
          if (first == nullptr && guide.stage.map == map.id && brought.maps.contains(map.id) && !guide.stage.frozen)
            first = &guide.id;
      if (first != nullptr) s.looking.guide = *first;
    });
    emit changed();
    // Changed again meanwhile: that follows.
    followSoon();
    QString sentence =
        brought.maps.contains("tone") ? "The stage's light is a tone guide on the Bench, and its picture a reference."
        : brought.maps.size() == 1    ? "That map of the stage is a guide on the Bench, and follows it."
                                      : "Pose, depth and lines of the stage are guides on the Bench, and follow it.";
    if (!owned.isEmpty()) sentence += QString(" Worked on by hand, so left as it was: %1.").arg(owned.join(", "));
    emit said(sentence);
  });
}

std::vector<std::string> StageWork::joinable() const {
  std::vector<std::string> out;
  for (const Guide& guide : desk_.document.state().guides)
    if (guide.kind == "depth" && guide.stage.map.empty()) out.push_back(guide.id);
  return out;
}

void StageWork::joinDepth(const std::string& id) {
  const Guide* guide = desk_.document.state().guide(id);
  const auto* shown = desk_.maps.mapOf(id);
  if (guide == nullptr || shown == nullptr || !shown->map) {
    emit said("The depth of that guide is not made yet.");
    return;
  }
  const QString name = QString::fromStdString(guide->name);
  struct Joined {
    Bytes picture;
  };
  desk_.tasks.run(
      this, "stage join", Priority::hand,
      [scene = scene(), map = shown->map](const StopToken& stop) {
        Joined out;
        if (const auto joined = stage::joinedDepth(map->view(), stage::lookAt(scene, map->size(), stop)))
          out.picture = encodePng(joined->view());
        return out;
      },
      [this, name](Joined joined) {
        if (joined.picture.empty()) {
          emit said("Too little ground is seen in both to match their scales.");
          return;
        }
        Guide depth;
        depth.kind = "depth";
        depth.name = fittedText(name.toStdString() + " with stage", 24);
        depth.weight = 0.7;
        const auto& guess = fieldNamed(*kindOf("depth").fields, "guess");
        depth.tuning["guess"] = tuningValueFromText(guess, "finished map");
        bringIn(desk_, std::move(joined.picture), "joined-depth.png", {depth}, [](StudyState&) {});
        emit said("The depth of both is a guide on the Bench.");
      });
}

void StageWork::useLight() { use({"tone"}); }

void StageWork::useOnBench() { use({"pose", "depth", "lines"}); }

void StageWork::hold(bool held) {
  held_ = held;
  if (!held) followSoon();
}

void StageWork::followSoon() {
  if (!stage::staleGuides(desk_.document.state()).empty()) followLater_.start();
}

void StageWork::follow() {
  const auto& state = desk_.document.state();
  const auto stale = stage::staleGuides(state);
  if (stale.empty() || held_ || desk_.document.forLooking()) return;
  followLater_.stop();
  std::vector<std::string> maps;
  for (const std::string& id : stale) maps.push_back(state.guide(id)->stage.map);
  desk_.tasks.run(this, "stage follow", Priority::hand, bringer(maps), [this](const Brought& brought) {
    // Changed again meanwhile: that is coming.
    if (brought.digest != stage::sceneDigest(desk_.document.state()) || held_) return;
    QStringList owned;
    // No step of its own: undo takes back what was done on the stage, and guides follow that.
    desk_.document.changeQuietly([&](StudyState& s) { owned = give(s, brought, false); });
    emit changed();
    followSoon();
    if (!owned.isEmpty())
      emit said(QString("Worked on by hand, so it no longer follows the stage: %1.").arg(owned.join(", ")));
  });
}

}  // namespace hscaffold::app
