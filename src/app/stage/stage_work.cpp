#include "app/stage/stage_work.h"

#include <cmath>

#include "app/document/study_edits.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/stage/lift.h"
#include "core/stage/scene_maps.h"
#include "core/strokes/drawing.h"

namespace hscaffold::app {
namespace {

using stage::Scene;
using stage::Thing;
using stage::Vec3;

/// Names of guides that come from the stage.
constexpr const char *poseName = "Stage pose", *depthName = "Stage depth", *linesName = "Stage lines";
constexpr const char *depthFile = "stage-depth.png", *toneName = "Stage tone", *pictureFile = "stage-picture.png";

/// Where the line of sight meets the ground, or a few metres ahead of the eye.
Vec3 before(const Scene& scene) {
  const auto camera = stage::cameraOf(scene.eye, {64, 64});
  const Vec3 ahead = -camera.look.row(2).transpose();
  constexpr float usual = 4, farthest = 12;
  float along = usual;
  if (ahead.y() < -0.02f) along = std::min(farthest, -scene.eye.at.y() / ahead.y());
  Vec3 at = scene.eye.at + ahead * along;
  at.y() = 0;
  return at;
}

Guide* guideNamed(StudyState& s, const char* name) {
  for (Guide& guide : s.guides)
    if (guide.name == name) return &guide;
  return nullptr;
}

/// Of two guides of that name, of which the last has just come in with a picture of that name, the older one gets the
/// picture and stays; a picture that nobody uses any more goes.
void takeOver(StudyState& s, const char* name, const char* file) {
  Guide* old = guideNamed(s, name);
  if (old == nullptr || s.guides.back().name != name || old == &s.guides.back()) return;
  const std::string before = old->reference;
  old->reference = s.guides.back().reference;
  s.looking.guide = old->id;
  s.guides.pop_back();
  const bool used =
      std::any_of(s.guides.begin(), s.guides.end(), [&](const Guide& guide) { return guide.reference == before; });
  const Reference* reference = s.reference(before);
  if (!used && reference != nullptr && reference->name == file && s.brief.start.reference != before)
    std::erase_if(s.references, [&](const Reference& each) { return each.id == before; });
}

}  // namespace

StageWork::StageWork(Desk& desk, QObject* parent) : QObject(parent), desk_(desk) {
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (!changes.stage && !changes.frame) return;
    if (scene().thing(selected_) == nullptr) selected_.clear();
    emit changed();
  });
}

const Scene& StageWork::scene() const {
  const std::string& text = desk_.document.state().scene;
  if (text == readText_) return read_;
  readText_ = text;
  read_ = {};
  if (text.empty()) return read_;
  try {
    Mended mended;
    read_ = stage::sceneFromText(text, "The stage", &mended);
  } catch (const Problem&) {
    read_ = {};  // the study was read with it, so it can be read
  }
  return read_;
}

void StageWork::edit(const QString& name, const std::function<void(Scene&)>& edit, const std::string& merge) {
  Scene next = scene();
  edit(next);
  std::string text = stage::sceneToText(next);
  if (text == desk_.document.state().scene) return;
  desk_.document.change(
      name, [&](StudyState& s) { s.scene = std::move(text); }, merge);
}

void StageWork::seal() { desk_.document.seal(); }

void StageWork::select(const std::string& id) {
  if (id == selected_) return;
  selected_ = id;
  emit changed();
}

void StageWork::editSelected(const QString& name, const std::function<void(Thing&)>& edit, const std::string& merge) {
  if (selectedThing() == nullptr) return;
  this->edit(
      name,
      [&](Scene& scene) {
        for (Thing& thing : scene.things)
          if (thing.id == selected_) edit(thing);
      },
      merge.empty() ? merge : merge + selected_);
}

void StageWork::put(const QString& name, std::string what, std::variant<stage::Person, stage::Beast, stage::Prop> is) {
  if (scene().things.size() >= stage::mostThings) {
    emit said(QString("A stage takes at most %1 things.").arg(stage::mostThings));
    return;
  }
  const std::string id = stage::newThingId(scene());
  edit(name, [&](Scene& scene) {
    Vec3 at = before(scene);
    // Not into what stands there already.
    const auto taken = [&] {
      return std::any_of(scene.things.begin(), scene.things.end(),
                         [&](const Thing& each) { return (each.place.at - at).norm() < 0.4f; });
    };
    const auto camera = stage::cameraOf(scene.eye, {64, 64});
    for (int tries = 0; tries < 12 && taken(); ++tries) at += camera.look.row(0).transpose() * 0.7f;
    const Vec3 to = scene.eye.at - at;
    // Figures look at the eye, a little aside.
    const bool actor = !std::holds_alternative<stage::Prop>(is);
    const float turn = actor ? std::round(std::atan2(to.x(), to.z()) * 180 / stage::pi + 20) : 0;
    scene.things.push_back({id, std::move(what), {{at.x(), 0, at.z()}, turn}, false, std::move(is)});
  });
  if (scene().thing(id) != nullptr) select(id);
}

void StageWork::addPerson(const pose::NamedPose& pose) {
  stage::Person person;
  person.angles = stage::anglesAhead(pose);
  put("Figure onto the stage", pose.name, std::move(person));
}

void StageWork::addAnimal(stage::Animal kind) {
  constexpr std::array<const char*, 5> names = {"Dog", "Fox", "Horse", "Cow", "Cat"};
  constexpr std::array<float, 5> sizes = {0.9f, 0.8f, 2.2f, 2.1f, 0.5f};
  stage::Beast beast;
  beast.kind = kind;
  beast.size = sizes[static_cast<std::size_t>(kind)];
  put("Animal onto the stage", names[static_cast<std::size_t>(kind)], beast);
}

void StageWork::addProp(stage::Prop::Form form) {
  std::string name = stage::idOf(form);
  name[0] = static_cast<char>(std::toupper(name[0]));
  put("Thing onto the stage", name, stage::usualProp(form));
}

void StageWork::takeSet(const stage::NamedScene& set) {
  const auto shots = scene().shots;
  edit(QString("Set: %1").arg(set.name), [&](Scene& scene) {
    scene = set.make();
    scene.shots = shots;
  });
}

bool StageWork::givePose(const pose::NamedPose& pose) {
  const Thing* thing = selectedThing();
  const bool fits =
      thing != nullptr && ((std::holds_alternative<stage::Person>(thing->is) && pose.skeleton == "human") ||
                           (std::holds_alternative<stage::Beast>(thing->is) && pose.skeleton != "human"));
  if (!fits) return false;
  editSelected(QString("Pose: %1").arg(QString::fromStdString(pose.name)), [&](Thing& each) {
    auto angles = stage::anglesAhead(pose);
    if (auto* person = std::get_if<stage::Person>(&each.is))
      person->angles = std::move(angles);
    else if (auto* beast = std::get_if<stage::Beast>(&each.is))
      beast->angles = std::move(angles);
  });
  return true;
}

void StageWork::removeSelected() {
  if (selectedThing() == nullptr) return;
  edit("Off the stage",
       [&](Scene& scene) { std::erase_if(scene.things, [&](const Thing& thing) { return thing.id == selected_; }); });
}

void StageWork::duplicateSelected() {
  const Thing* thing = selectedThing();
  if (thing == nullptr || scene().things.size() >= stage::mostThings) return;
  Thing another = *thing;
  another.id = stage::newThingId(scene());
  another.place.at.x() += 0.6f;
  const std::string id = another.id;
  edit("Once more", [&](Scene& scene) { scene.things.push_back(std::move(another)); });
  select(id);
}

void StageWork::fitEye() {
  edit("All into the frame", [&](Scene& scene) { scene.eye = stage::fittedEye(scene, desk_.document.state().frame); });
}

void StageWork::keepShot() {
  if (scene().shots.size() >= stage::mostShots) return;
  edit("Keep this shot", [](Scene& scene) {
    scene.shots.push_back({QString("Shot %1").arg(scene.shots.size() + 1).toStdString(), scene.eye});
  });
}

void StageWork::takeShot(std::size_t shot) {
  if (shot >= scene().shots.size()) return;
  edit("To a shot", [&](Scene& scene) { scene.eye = scene.shots[shot].eye; });
}

void StageWork::removeShot(std::size_t shot) {
  if (shot >= scene().shots.size()) return;
  edit("Forget a shot",
       [&](Scene& scene) { scene.shots.erase(scene.shots.begin() + static_cast<std::ptrdiff_t>(shot)); });
}

bool StageWork::canLift() const {
  const Guide* guide = desk_.document.state().selectedGuide();
  return guide != nullptr && kindOf(guide->kind).hasSlot(pose::figuresSlot) && guide->work.has(pose::figuresSlot);
}

void StageWork::liftFigures() {
  if (!canLift()) return;
  const auto figures = desk_.maps.figuresOf(*desk_.document.state().selectedGuide());
  if (!figures) return;
  struct Lifted {
    std::optional<Scene> scene;
    QString problem;
  };
  emit said("Putting the figures onto the stage...");
  desk_.tasks.run(
      this, "stage lift", Priority::hand,
      [figures](const StopToken& stop) {
        Lifted out;
        try {
          out.scene = stage::stagedFrom(*figures, {}, stop);
        } catch (const Problem& problem) {
          out.problem = problem.what();
        }
        return out;
      },
      [this](Lifted lifted) {
        if (!lifted.scene) {
          emit said(lifted.problem);
          return;
        }
        edit("Figures onto the stage", [&](Scene& scene) {
          scene.eye = lifted.scene->eye;
          for (Thing& thing : lifted.scene->things) {
            if (scene.things.size() >= stage::mostThings) break;
            thing.id = stage::newThingId(scene);
            scene.things.push_back(std::move(thing));
          }
        });
        emit said("They stand as they were seen, with the eye that saw them.");
      });
}

void StageWork::addWords() {
  desk_.tasks.run(
      this, "stage words", Priority::hand,
      [scene = scene(), frame = desk_.document.state().frame](const StopToken& stop) {
        constexpr double enough = 256;
        return stage::wordsFor(scene, stage::lookAt(scene, within(frame, enough), stop));
      },
      [this](const std::string& words) {
        const std::string& prompt = desk_.document.state().brief.prompt;
        if (words.empty() || prompt.find(words) != std::string::npos) {
          emit said(words.empty() ? QString("There is nothing on the stage that words are known for.")
                                  : QString("The prompt says that already."));
          return;
        }
        desk_.document.change("Words of the stage", [&](StudyState& s) {
          s.brief.prompt = fittedText(s.brief.prompt + (s.brief.prompt.empty() ? "" : ", ") + words, longestPrompt);
        });
        emit said("In the prompt: " + QString::fromStdString(words));
      });
}

void StageWork::useLight() {
  desk_.tasks.run(
      this, "stage light", Priority::hand,
      [scene = scene(), frame = desk_.document.state().frame](const StopToken& stop) {
        return encodePng(toSrgb8(stage::lookAt(scene, frame, stop).seen.colour.view()).view());
      },
      [this](Bytes picture) {
        Guide tone;
        tone.kind = "tone";
        tone.name = toneName;
        const Kind& kind = kindOf("tone");
        tone.weight = kind.startWeight.value_or(0.5);
        tone.range = kind.startRange;
        bringIn(desk_, std::move(picture), pictureFile, {tone}, [](StudyState& s) {
          takeOver(s, toneName, pictureFile);
          s.lookAtWhatIsThere();
        });
        emit said("The stage's light is a tone guide on the Bench, and its picture a reference.");
      });
}

void StageWork::useOnBench() {
  struct Maps {
    Bytes depth;
    std::shared_ptr<const pose::Figures> figures;
    std::shared_ptr<const Drawing> lines;
  };
  const Size frame = desk_.document.state().frame;
  desk_.tasks.run(
      this, "stage maps", Priority::hand,
      [scene = scene(), frame](const StopToken& stop) {
        Maps out;
        const auto look = stage::lookAt(scene, frame, stop);
        out.depth = encodePng(stage::depthMap(look).view());
        out.figures = std::make_shared<const pose::Figures>(stage::figuresIn(scene, look));
        Drawing lines{true, frame, {}, stage::strokesOf(stage::linesOf(look.set.meshes, look.camera, {}, stop))};
        out.lines = std::make_shared<const Drawing>(std::move(lines));
        return out;
      },
      [this](Maps maps) {
        Guide depth;
        depth.kind = "depth";
        depth.name = depthName;
        depth.weight = 0.7;
        const auto& guess = fieldNamed(*kindOf("depth").fields, "guess");
        depth.tuning["guess"] = tuningValueFromText(guess, "finished map");
        bringIn(desk_, std::move(maps.depth), depthFile, {depth},
                [&desk = desk_, figures = maps.figures, lines = maps.lines](StudyState& s) {
                  // Kept in the moment in which the study gets to know of them.
                  WorkStore& work = desk.document.work();
                  const auto kept = [&](const WorkForm& form, const auto& piece, bool any) {
                    return any ? work.keep(form, std::any(piece)) : std::string();
                  };
                  const std::string posed = kept(pose::figuresForm(), figures, !figures->figures.empty());
                  const std::string drawn = kept(drawingForm(), lines, !lines->strokes.empty());
                  takeOver(s, depthName, depthFile);
                  const auto take = [&](const char* name, const char* kind, const char* slot, const std::string& piece,
                                        double weight) {
                    if (piece.empty()) return;
                    Guide* guide = guideNamed(s, name);
                    if (guide == nullptr) {
                      Guide fresh;
                      fresh.id = newId(s, "g");
                      fresh.kind = kind;
                      fresh.name = name;
                      fresh.weight = weight;
                      s.guides.push_back(std::move(fresh));
                      guide = &s.guides.back();
                    }
                    if (guide->kind == kind) guide->work.put(slot, piece);
                  };
                  take(poseName, "pose", pose::figuresSlot, posed, 0.9);
                  take(linesName, "lines", drawingSlot, drawn, 0.7);
                  if (const Guide* first = guideNamed(s, posed.empty() ? depthName : poseName))
                    s.looking.guide = first->id;
                  s.lookAtWhatIsThere();
                });
        emit said("Pose, depth and lines of the stage are guides on the Bench. Press again to bring them up to date.");
      });
}

}  // namespace hscaffold::app
