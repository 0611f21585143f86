#include "app/stage/stage_work.h"

#include <cmath>

#include "app/document/study_edits.h"
#include "core/image/atomic_file.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/stage/clip.h"
#include "core/stage/copies.h"
#include "core/stage/leading.h"
#include "core/stage/lift.h"
#include "core/stage/scene_maps.h"
#include "core/strokes/drawing.h"

namespace hscaffold::app {
namespace {

using stage::Scene;
using stage::Thing;
using stage::Vec3;

constexpr int followPause = 700;  // ms after the last change

/// Where what is seen low in the frame stands on the ground, or a few metres ahead of the eye.
Vec3 before(const Scene& scene, Size frame) {
  const auto camera = stage::cameraOf(scene.eye, frame);
  constexpr float usual = 4, farthest = 25, low = 0.36f;  // below the middle, of the frame's height
  const float focal = camera.millimetres / 36 * static_cast<float>(frame.width);
  const Vec3 way = camera.look.transpose() * Vec3(0, -low * static_cast<float>(frame.height) / focal, -1);
  float along = way.y() < -1e-3f ? -scene.eye.at.y() / way.y() : usual;
  if (along > farthest || along < 0.5f) along = usual;
  Vec3 at = scene.eye.at + way * along;
  at.y() = 0;
  return at;
}

bool isHeldOrLooks(const Scene& scene) {
  return std::any_of(scene.things.begin(), scene.things.end(),
                     [](const Thing& thing) { return thing.gaze.on || !thing.pins.empty(); });
}

bool looksAtTheEye(const Scene& scene) {
  return std::any_of(scene.things.begin(), scene.things.end(),
                     [](const Thing& thing) { return thing.gaze.on && thing.gaze.thing.empty(); });
}

}  // namespace

QString readable(const std::string& id) { return QString::fromStdString(id).replace('_', ' '); }

StageWork::StageWork(Desk& desk, QObject* parent) : QObject(parent), desk_(desk) {
  followLater_.setSingleShot(true);
  followLater_.setInterval(followPause);
  connect(&followLater_, &QTimer::timeout, this, &StageWork::follow);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (!changes.stage && !changes.frame) return;
    followSoon();
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
  // Whoever is held too far away to reach is not pulled on with every turn of the eye.
  if (isHeldOrLooks(next) && (looksAtTheEye(next) || next.things != scene().things)) stage::settle(next);
  std::string text = stage::sceneToText(next);
  if (text == desk_.document.state().scene) return;
  // While something is dragged the scene is what it was made, which reading would only round. It is read at the end.
  if (!merge.empty()) {
    merge_ = merge;
    read_ = std::move(next);
    readText_ = text;
    unread_ = true;
  }
  desk_.document.change(
      name, [&](StudyState& s) { s.scene = std::move(text); }, merge);
}

void StageWork::seal() {
  if (std::exchange(unread_, false)) readText_.clear();
  desk_.document.seal();
}

void StageWork::takeBack(const std::string& text) {
  // Joined to the drag's own step, which then has changed nothing, and is none.
  if (!merge_.empty())
    desk_.document.change(
        "As it was", [&](StudyState& s) { s.scene = text; }, merge_);
  seal();
}

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
    Thing thing{id, std::move(what), {}, false, std::move(is)};
    const Vec3 at = stage::placeBeside(scene, before(scene, desk_.document.state().frame), stage::halfBreadthOf(thing));
    const Vec3 to = scene.eye.at - at;
    // Figures look at the eye, a little aside; what is shown faces it.
    const auto* prop = std::get_if<stage::Prop>(&thing.is);
    const bool shown = prop != nullptr && prop->form == stage::Prop::Form::panel;
    const float turn =
        prop == nullptr || shown ? std::round(std::atan2(to.x(), to.z()) * 180 / stage::pi + (shown ? 0 : 20)) : 0;
    thing.place = {{at.x(), 0, at.z()}, turn};
    scene.things.push_back(std::move(thing));
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

void StageWork::addModel(const std::filesystem::path& file) {
  struct Read {
    stage::ReadModel model;
    QString problem;
  };
  const std::string name = file.stem().string();
  emit said(QString("Reading %1...").arg(QString::fromStdString(file.filename().string())));
  desk_.tasks.run(
      this, "stage model " + file.string(), Priority::hand,
      [file](const StopToken&) {
        Read out;
        try {
          constexpr std::uintmax_t most = 256u << 20;
          if (std::filesystem::file_size(file) > most)
            throw badInput(file.filename().string() + " is larger than 256 MB.");
          out.model = stage::modelFrom(readWholeFile(file), file.filename().string());
        } catch (const std::exception& problem) {
          out.problem = problem.what();
        }
        return out;
      },
      [this, name](const Read& read) {
        if (!read.problem.isEmpty()) {
          emit said(read.problem);
          return;
        }
        put("Model onto the stage", fittedText(name, longestName), stage::propOf(read.model));
        const std::size_t kept = read.model.model->faces.size();
        emit said(kept == read.model.faces ? QString("%1 triangles.").arg(kept)
                                           : QString("Of %1 triangles %2 are kept.").arg(read.model.faces).arg(kept));
      });
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

void StageWork::takeClip(const pose::BvhClip& clip, std::size_t frame, const pose::BvhMapping& mapping, double turn,
                         const std::string& name) {
  const Thing* chosen = selectedThing();
  const auto* person = chosen != nullptr ? std::get_if<stage::Person>(&chosen->is) : nullptr;
  stage::Person made = person != nullptr ? *person : stage::Person{};
  try {
    made.angles = stage::anglesOf(clip, frame, mapping, made);
  } catch (const Problem& problem) {
    emit said(problem.what());
    return;
  }
  // The camera went round it to the right: it is turned as much the other way.
  if (const auto root = pose::skeletonOf("human").findTurn("pelvis.turn"))
    made.angles[*root] = std::remainder(made.angles[*root] - turn, 360.0);
  if (person == nullptr) return put("Figure of a clip", fittedText(name, longestName), std::move(made));
  editSelected("Pose of a clip", [&](Thing& thing) { thing.is = std::move(made); });
}

void StageWork::blendPose(const Thing& from, const pose::NamedPose& pose, double share) {
  if (!stage::isFigure(from) || stage::skeletonOf(from).id != pose.skeleton) return;
  editSelected(
      QString("Blend into %1").arg(QString::fromStdString(pose.name)),
      [&](Thing& thing) {
        stage::setAngles(thing, stage::anglesOf(from));
        stage::blendInto(thing, stage::anglesAhead(pose), share);
      },
      "stage blend");
}

void StageWork::moveSelected(const Scene& begun, const Vec3& by, const std::string& merge) {
  const Thing* chosen = selectedThing();
  if (chosen == nullptr) return;
  if (chosen->locked) {
    emit said(QString("%1 is locked.").arg(QString::fromStdString(chosen->name)));
    return;
  }
  const std::string group = chosen->group;
  edit(
      "Move on the stage",
      [&](Scene& scene) {
        for (Thing& thing : scene.things) {
          const bool along = thing.id == selected_ || (!group.empty() && thing.group == group);
          const Thing* from = begun.thing(thing.id);
          if (along && !thing.locked && from != nullptr) thing.place.at = from->place.at + by;
        }
      },
      merge.empty() ? merge : merge + selected_);
}

void StageWork::turnSelected(const Scene& begun, float degrees, const std::string& merge) {
  const Thing* chosen = selectedThing();
  const Thing* middle = begun.thing(selected_);
  if (chosen == nullptr || middle == nullptr) return;
  if (chosen->locked) {
    emit said(QString("%1 is locked.").arg(QString::fromStdString(chosen->name)));
    return;
  }
  const std::string group = chosen->group;
  edit(
      "Turn on the stage",
      [&](Scene& scene) {
        const stage::Place turned{middle->place.at, degrees};
        for (Thing& thing : scene.things) {
          const bool along = thing.id == selected_ || (!group.empty() && thing.group == group);
          const Thing* from = begun.thing(thing.id);
          if (!along || thing.locked || from == nullptr) continue;
          thing.place.turn = std::remainder(from->place.turn + degrees, 360.0f);
          // What is grouped with it goes round it.
          thing.place.at = turned.map(from->place.at - middle->place.at);
        }
      },
      merge.empty() ? merge : merge + selected_);
}

void StageWork::pose(const QString& name, const std::function<void(Thing&)>& edit) {
  const Thing* thing = selectedThing();
  if (thing == nullptr || !stage::isFigure(*thing)) {
    emit said("Choose a figure on the stage.");
    return;
  }
  editSelected(name, edit);
}

void StageWork::mirrorSelected() {
  pose("Mirror on the stage", [](Thing& thing) { stage::mirror(thing); });
}

void StageWork::relaxSelected() {
  constexpr double share = 0.35;
  pose("Relax on the stage", [](Thing& thing) { stage::relax(thing, share); });
}

void StageWork::letDownSelected() {
  if (selectedThing() == nullptr) return;
  edit("Let down", [&](Scene& scene) { stage::letDown(scene, selected_); });
}

void StageWork::lookAtThing(const std::string& thing) {
  pose("Look at", [&](Thing& each) { each.gaze = {true, thing}; });
}

void StageWork::lookNowhere() {
  pose("Look where the pose does", [](Thing& each) { each.gaze = {}; });
}

void StageWork::face(const std::string& thing) {
  const Thing* to = scene().thing(thing);
  const Vec3 at = to != nullptr ? to->place.at : scene().eye.at;
  editSelected("Face", [&](Thing& each) {
    const Vec3 way = at - each.place.at;
    if (std::hypot(way.x(), way.z()) > 1e-3f) each.place.turn = std::atan2(way.x(), way.z()) * 180 / stage::pi;
  });
}

const stage::Pin* StageWork::pinOf(std::size_t point) const {
  const Thing* thing = selectedThing();
  if (thing == nullptr || !stage::isFigure(*thing)) return nullptr;
  const auto& points = stage::skeletonOf(*thing).points;
  if (point >= points.size()) return nullptr;
  for (const auto& pin : thing->pins)
    if (pin.point == points[point].id) return &pin;
  return nullptr;
}

void StageWork::pin(std::size_t point, const std::string& on) {
  const Thing* thing = selectedThing();
  if (thing == nullptr || !stage::isFigure(*thing) || point >= stage::skeletonOf(*thing).points.size()) return;
  const auto pin = stage::pinAt(scene(), *thing, point, on);
  editSelected("Hold", [&](Thing& each) {
    std::erase_if(each.pins, [&](const stage::Pin& other) { return other.point == pin.point; });
    if (each.pins.size() < stage::mostPins) each.pins.push_back(pin);
  });
}

void StageWork::unpin(std::size_t point) {
  const stage::Pin* pin = pinOf(point);
  if (pin == nullptr) return;
  const std::string id = pin->point;
  editSelected("Let go", [&](Thing& each) {
    std::erase_if(each.pins, [&](const stage::Pin& other) { return other.point == id; });
  });
}

void StageWork::group(const std::string& with) {
  const Thing* other = scene().thing(with);
  if (other == nullptr || selectedThing() == nullptr || with == selected_) return;
  const std::string name = !other->group.empty() ? other->group : "with " + with;
  edit("Group", [&](Scene& scene) {
    for (Thing& thing : scene.things)
      if (thing.id == selected_ || thing.id == with) thing.group = name;
  });
}

void StageWork::ungroup() {
  editSelected("Alone again", [](Thing& thing) { thing.group.clear(); });
}

void StageWork::setLocked(bool locked) {
  editSelected(locked ? "Lock" : "Unlock", [&](Thing& thing) { thing.locked = locked; });
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

void StageWork::renewShot(std::size_t shot) {
  if (shot >= scene().shots.size()) return;
  edit("Shot from here", [&](Scene& scene) { scene.shots[shot].eye = scene.eye; });
}

void StageWork::nameShot(std::size_t shot, const QString& name) {
  if (shot >= scene().shots.size() || name.trimmed().isEmpty()) return;
  edit("Name of a shot",
       [&](Scene& scene) { scene.shots[shot].name = fittedText(name.trimmed().toStdString(), longestName); });
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
          stage::putInto(scene, *lifted.scene);
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

}  // namespace hscaffold::app
