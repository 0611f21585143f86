// Joints, rings and the menu of the stage's table: what is done with a figure there.
#include <QMenu>
#include <cmath>

#include "app/stage/stage_table.h"
#include "app/widgets/menus.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::isFigure;
using stage::Scene;
using stage::skeletonOf;
using stage::Thing;
using stage::Vec3;

}  // namespace

std::optional<QPointF> StageTable::jointPlace(const char* id) const {
  for (const Handle& each : handles_)
    if (each.id == id) return placeOf(each.at);
  return {};
}

const StageTable::Handle* StageTable::handle() const {
  for (const Handle& each : handles_)
    if (each.id == handle_) return &each;
  return nullptr;
}

std::optional<std::size_t> StageTable::chosenJoint() const {
  const Handle* chosen = handle();
  return chosen != nullptr ? chosen->joint : std::nullopt;
}

void StageTable::chooseJoint(const std::string& id) {
  if (handle_ == id) return;
  handle_ = id;
  update();
  emit jointChanged();
}

void StageTable::findHandles() {
  handles_.clear();
  standing_ = {};
  const Thing* thing = work_.selectedThing();
  if (thing == nullptr || !isFigure(*thing) || thing->hidden) return;
  const auto& skeleton = skeletonOf(*thing);
  standing_ = stage::standingOf(*thing);
  std::vector<bool> found(skeleton.joints.size(), false);
  for (std::size_t i = 0; i < skeleton.points.size() && i < standing_.points.size(); ++i) {
    const bool head = std::find(skeleton.head.begin(), skeleton.head.end(), i) != skeleton.head.end();
    if (!skeleton.isBody(i) || (head && skeleton.points[i].id != "nose")) continue;
    Handle each{skeleton.points[i].id, i, {}, standing_.points[i]};
    for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
      if (!found[j] && skeleton.joints[j].turns > 0 && skeleton.joints[j].rest == skeleton.points[i].rest)
        each.joint = j, found[j] = true;
    handles_.push_back(std::move(each));
  }
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
    if (!found[j] && skeleton.joints[j].turns > 0)
      handles_.push_back({skeleton.joints[j].id, {}, j, standing_.joints[j]});
}

QString StageTable::jointSentence() const {
  const Thing* thing = work_.selectedThing();
  const Handle* chosen = handle();
  if (thing == nullptr || chosen == nullptr) return {};
  const auto& skeleton = skeletonOf(*thing);
  const QString name = readable(chosen->id);
  if (!chosen->point) return name;
  // How far it reaches of what its limb could.
  std::vector<Vec3> chain{chosen->at};
  double length = 0;
  for (auto up = skeleton.parentOf(*chosen->point); up; up = skeleton.parentOf(*up)) {
    length += static_cast<double>((standing_.points[*up] - chain.back()).norm());
    chain.push_back(standing_.points[*up]);
    if (skeleton.points[*up].anchor) break;
  }
  QString out = name;
  if (chain.size() > 2 && length > 1e-3)
    out += QString(": reaches %1 % of its length")
               .arg(std::lround(100 * static_cast<double>((chain.front() - chain.back()).norm()) / length));
  if (const stage::Pin* pin = work_.pinOf(*chosen->point)) {
    const Thing* on = work_.scene().thing(pin->on);
    out += on != nullptr ? QString(", held on %1").arg(QString::fromStdString(on->name)) : QString(", held there");
  }
  return out;
}

const StageTable::Handle* StageTable::handleAt(QPointF at) const {
  const Handle* best = nullptr;
  double least = reach;
  for (const Handle& each : handles_) {
    const auto place = placeOf(each.at);
    if (!place) continue;
    const double away = std::hypot(place->x() - at.x(), place->y() - at.y());
    if (away < least) least = away, best = &each;
  }
  return best;
}

std::vector<std::optional<QPointF>> StageTable::ringAbout(const Vec3& middle, const Vec3& axis, const Vec3& along,
                                                          float least) const {
  const auto camera = wideCamera();
  constexpr float smallest = 44;  // pixels
  const float perMetre =
      camera.millimetres / 36 * static_cast<float>(camera.size.width) / std::max(0.05f, camera.seen(middle).far);
  // It begins where the limb is.
  Vec3 from = along - axis * along.dot(axis);
  if (from.norm() < 0.2f * along.norm()) from = axis.unitOrthogonal();
  from = from.normalized() * std::max(least, smallest / perMetre);
  std::vector<std::optional<QPointF>> out;
  for (int degree = 0; degree < 360; ++degree) {
    const float a = static_cast<float>(degree) / inDegrees;
    out.push_back(placeOf(middle + from * std::cos(a) + axis.cross(from) * std::sin(a)));
  }
  return out;
}

std::optional<StageTable::Ring> StageTable::wristRing(const Thing& thing) const {
  const auto* person = std::get_if<stage::Person>(&thing.is);
  const bool left = handle_ == "left_wrist";
  if (person == nullptr || (!left && handle_ != "right_wrist")) return {};
  const auto& skeleton = skeletonOf(thing);
  const auto point = [&](const char* of) {
    return standing_.points[*skeleton.find((left ? "left_" : "right_") + std::string(of))];
  };
  // About the line across the knuckles; to the palm is ahead.
  const Vec3 wrist = point("wrist"), along = point("middle_1") - wrist, wide = point("index_1") - point("little_1");
  const Vec3 across = wide - along * (along.dot(wide) / along.squaredNorm());
  if (across.norm() < 1e-4f) return {};
  const Vec3 axis = (left ? -across : across).normalized();
  const double now = static_cast<double>((left ? person->left : person->right).bend);
  return Ring{wristBend, ringAbout(wrist, axis, along, 0.06f * heightOf(thing)),
              static_cast<double>(stage::leastWristBend) - now, static_cast<double>(stage::mostWristBend) - now};
}

std::vector<StageTable::Ring> StageTable::rings() const {
  std::vector<Ring> out;
  const Thing* thing = work_.selectedThing();
  if (thing == nullptr || thing->locked) return out;
  if (auto ring = wristRing(*thing)) out.push_back(std::move(*ring));
  const auto joint = chosenJoint();
  if (!joint) return out;
  const auto& skeleton = skeletonOf(*thing);
  const auto& of = skeleton.joints[*joint];
  const auto angles = stage::anglesOf(*thing);
  const Vec3 middle = standing_.joints[*joint];
  // Where the limb goes from there: a ring begins on its side.
  Vec3 along(0, -1, 0);
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
    if (skeleton.joints[j].parent == static_cast<int>(*joint)) along = standing_.joints[j] - middle;
  for (std::size_t i = 0; i < skeleton.points.size(); ++i)
    if (skeleton.isBody(i) && skeleton.points[i].joint == *joint && (standing_.points[i] - middle).norm() > 0.05f)
      along = standing_.points[i] - middle;
  for (std::size_t t = of.firstTurn; t < of.firstTurn + of.turns; ++t)
    out.push_back({t, ringAbout(middle, standing_.axes[t], along, 0.085f * heightOf(*thing)),
                   skeleton.turns[t].least - angles[t], skeleton.turns[t].most - angles[t]});
  return out;
}

std::optional<QPointF> StageTable::ringPlace(const std::string& turn, double degrees) const {
  const Thing* thing = work_.selectedThing();
  if (thing == nullptr) return {};
  for (const Ring& ring : rings())
    if ((ring.turn == wristBend ? handle_ + ".bend" : skeletonOf(*thing).turns[ring.turn].id) == turn)
      return ring.places[static_cast<std::size_t>(((std::lround(degrees) % 360) + 360) % 360)];
  return {};
}

std::optional<std::size_t> StageTable::degreeAt(const Ring& ring, QPointF at, double within) const {
  std::optional<std::size_t> out;
  for (std::size_t i = 0; i < ring.places.size(); ++i) {
    if (!ring.places[i]) continue;
    const double away = std::hypot(ring.places[i]->x() - at.x(), ring.places[i]->y() - at.y());
    if (away < within) within = away, out = i;
  }
  return out;
}

void StageTable::leadBy(const Thing& start, const Vec3& by, const std::string& merge) {
  const auto& skeleton = skeletonOf(start);
  const auto points = stage::pointsOf(start);
  std::vector<stage::Lead> leads;
  const auto add = [&](std::size_t point) { leads.push_back({point, points[point] + by, 1}); };
  const Handle* chosen = handle();
  if (chosen == nullptr) return;
  if (chosen->point) {
    add(*chosen->point);
  } else if (skeleton.joints[*chosen->joint].parent < 0) {
    // The middle of the body takes what carries it along.
    for (const std::size_t point : skeleton.carried) add(point);
  } else {
    for (const std::size_t point : skeleton.swung) add(point);
  }
  if (leads.empty()) return;
  std::vector<stage::Lead> pins;
  for (const auto& pin : start.pins) {
    const auto point = skeleton.find(pin.point);
    const auto to = stage::placeOfPin(begun_, pin);
    if (!point || !to) continue;
    const bool led =
        std::any_of(leads.begin(), leads.end(), [&](const stage::Lead& each) { return each.point == *point; });
    if (!led) pins.push_back({*point, *to, 1});
  }
  Thing next = start;
  stage::lead(next, leads, pins);
  work_.edit(
      "Pose on the stage",
      [&](Scene& scene) {
        for (Thing& thing : scene.things)
          if (thing.id == next.id) {
            thing = next;
            // Whoever takes a held hand elsewhere holds it there.
            for (auto& pin : thing.pins)
              for (const stage::Lead& each : leads)
                if (pin.point == skeleton.points[each.point].id) pin = stage::pinAt(scene, thing, each.point, pin.on);
          }
      },
      merge);
}

void StageTable::dragJoint(QPointF to, bool level) {
  const Thing* start = begun_.thing(work_.selected());
  const Handle* chosen = handle();
  if (start == nullptr || chosen == nullptr || !isFigure(*start)) return;
  if (start->locked) {
    grip_ = Grip::none;
    emit work_.said(QString("%1 is locked.").arg(QString::fromStdString(start->name)));
    return;
  }
  const auto standing = stage::standingOf(*start);
  const Vec3 from = chosen->point ? standing.points[*chosen->point] : standing.joints[*chosen->joint];
  const auto camera = wideCamera();
  std::optional<Vec3> there;
  if (level) {
    there = onLevel(to, from.y());
  } else {
    // The plane through it that faces the eye.
    const float focal = camera.millimetres / 36 * static_cast<float>(camera.size.width);
    const float far = camera.seen(from).far;
    const Vec3 seen(static_cast<float>(to.x() - 0.5 * width()) / focal * far,
                    static_cast<float>(0.5 * height() - to.y()) / focal * far, -far);
    there = camera.eye + camera.look.transpose() * seen;
  }
  if (there) leadBy(*start, *there - from, "stage joint " + std::to_string(drags_));
}

void StageTable::nudgeJoint(QPointF by, Qt::KeyboardModifiers keys) {
  const Thing* thing = work_.selectedThing();
  if (thing == nullptr || thing->locked) return;
  begun_ = work_.scene();
  const auto camera = stage::cameraOf(work_.scene().eye, {64, 64});
  const float step = keys.testFlag(Qt::ShiftModifier) ? 0.1f : 0.02f;  // metres
  Vec3 right = camera.look.row(0).transpose(), up = camera.look.row(1).transpose();
  if (keys.testFlag(Qt::AltModifier)) {
    // Along the ground: to the right and away from the eye.
    right.y() = 0;
    up = Vec3(-camera.look(2, 0), 0, -camera.look(2, 2));
    up = up.norm() > 1e-3f ? Vec3(up.normalized()) : Vec3(0, 0, -1);
  }
  const Thing start = *thing;
  leadBy(start, (right * static_cast<float>(by.x()) - up * static_cast<float>(by.y())) * step,
         "stage joint nudge " + handle_);
}

void StageTable::dragRing(QPointF to) {
  const Thing* start = begun_.thing(work_.selected());
  if (start == nullptr) return;
  for (const Ring& ring : rings()) {
    if (ring.turn != turn_) continue;
    const auto degree = degreeAt(ring, to, 1e9);
    if (!degree) return;
    // Rings begin where the limb is now: what was taken lies where it did on it.
    double by = static_cast<double>(*degree) - static_cast<double>(degree_);
    by = std::remainder(by, 360.0);
    work_.editSelected(
        "Turn a joint",
        [&](Thing& thing) {
          if (turn_ == wristBend) {
            auto& person = std::get<stage::Person>(thing.is);
            float& bend = (handle_ == "left_wrist" ? person.left : person.right).bend;
            bend = std::clamp(bend + static_cast<float>(by), stage::leastWristBend, stage::mostWristBend);
            return;
          }
          auto angles = stage::anglesOf(thing);
          const auto& turn = skeletonOf(thing).turns[turn_];
          angles[turn_] = std::clamp(angles[turn_] + by, turn.least, turn.most);
          stage::setAngles(thing, std::move(angles));
        },
        "stage ring " + std::to_string(drags_));
    return;
  }
}

bool StageTable::nextJoint(bool forward) {
  if (handles_.empty()) return false;
  const auto count = static_cast<int>(handles_.size());
  int now = forward ? -1 : count;
  for (int i = 0; i < count; ++i)
    if (handles_[static_cast<std::size_t>(i)].id == handle_) now = i;
  now += forward ? 1 : -1;
  // After the last one the keys go on to the next part of the window.
  if (now < 0 || now >= count) {
    chooseJoint({});
    return false;
  }
  chooseJoint(handles_[static_cast<std::size_t>(now)].id);
  return true;
}

bool StageTable::focusNextPrevChild(bool next) {
  if (work_.selectedThing() != nullptr && nextJoint(next)) return true;
  return QWidget::focusNextPrevChild(next);
}

void StageTable::addChoices(QMenu& menu, const QString& title, bool eye,
                            const std::function<void(const std::string&)>& choose) const {
  auto* inside = menu.addMenu(title);
  if (eye) inside->addAction("The eye", this, [choose] { choose({}); });
  constexpr std::size_t most = 30;
  std::size_t count = 0;
  for (const Thing& thing : work_.scene().things)
    if (thing.id != work_.selected() && count++ < most)
      inside->addAction(QString::fromStdString(stage::calledOf(thing)), this, [choose, id = thing.id] { choose(id); });
  inside->setEnabled(!inside->isEmpty());
}

void StageTable::addFastening(QMenu& menu, const Thing& thing) const {
  auto* inside = menu.addMenu("Hand work goes along");
  inside->setToolTip("Retouch and region of a guide of the stage keep to this, however it or the eye moves");
  const Handle* at = handle();
  const auto add = [&](const Guide& guide, const std::string& joint) {
    const Fastening& to = guide.stage.fastened;
    const bool on = to.thing == thing.id && to.joint == joint;
    QString text = QString::fromStdString(guide.name);
    if (!joint.empty()) text += ", with " + readable(joint);
    auto* action = inside->addAction(
        text, this, [this, id = guide.id, joint, on] { on ? work_.unfasten(id) : work_.fasten(id, joint); });
    action->setCheckable(true);
    action->setChecked(on);
  };
  for (const Guide& guide : work_.study().guides) {
    if (guide.stage.map.empty() || guide.stage.frozen) continue;
    add(guide, {});
    const std::string& joint = guide.stage.fastened.thing == thing.id ? guide.stage.fastened.joint : std::string();
    if (!joint.empty()) add(guide, joint);
    if (isFigure(thing) && at != nullptr && at->point && at->id != joint) add(guide, at->id);
  }
  inside->setEnabled(!inside->isEmpty());
}

void StageTable::showMenu(QPoint global) {
  QMenu* menu = newMenu(*this);
  const Thing* thing = work_.selectedThing();
  if (thing == nullptr) {
    menu->addAction("All into the frame\tF", &work_, &StageWork::fitEye);
    menu->addAction("Keep this shot", &work_, &StageWork::keepShot);
    menu->popup(global);
    return;
  }
  const bool figure = isFigure(*thing);
  if (const Handle* at = handle(); figure && at != nullptr && at->point) {
    menu->addSection(readable(at->id));
    const std::size_t point = *at->point;
    if (work_.pinOf(point) != nullptr)
      menu->addAction("Let go\tP", this, [this, point] { work_.unpin(point); });
    else
      menu->addAction("Hold there\tP", this, [this, point] { work_.pin(point, {}); });
    addChoices(*menu, "Hold on", false, [this, point](const std::string& on) { work_.pin(point, on); });
    menu->addSeparator();
  }
  if (figure) {
    addChoices(*menu, "Look at", true, [this](const std::string& id) { work_.lookAtThing(id); });
    if (thing->gaze.on) menu->addAction("Look where the pose does", &work_, &StageWork::lookNowhere);
  }
  addChoices(*menu, "Face", true, [this](const std::string& id) { work_.face(id); });
  menu->addAction("Let down\tG", &work_, &StageWork::letDownSelected);
  if (figure) {
    menu->addSeparator();
    menu->addAction("Mirror\tX", &work_, &StageWork::mirrorSelected);
    menu->addAction("Relax", &work_, &StageWork::relaxSelected);
  }
  menu->addSeparator();
  addChoices(*menu, "Move together with", false, [this](const std::string& id) { work_.group(id); });
  if (!thing->group.empty()) menu->addAction("Move alone", &work_, &StageWork::ungroup);
  auto* locked = menu->addAction("Locked", this, [this, now = thing->locked] { work_.setLocked(!now); });
  locked->setCheckable(true);
  locked->setChecked(thing->locked);
  auto* limit = menu->addMenu("A guide acts only here");
  for (const Guide& guide : work_.study().guides)
    limit->addAction(QString::fromStdString(guide.name), this, [this, id = guide.id] { work_.limitGuide(id); });
  limit->setEnabled(!limit->isEmpty());
  addFastening(*menu, *thing);
  menu->addSeparator();
  menu->addAction("Cut\tCtrl+X", this, &StageTable::cutAsked);
  menu->addAction("Once more\tCtrl+D", &work_, &StageWork::duplicateSelected);
  menu->addAction("Off the stage\tDel", &work_, &StageWork::removeSelected);
  menu->popup(global);
}

}  // namespace hscaffold::app
