#include "app/stage/stage_table.h"

#include <QElapsedTimer>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QWheelEvent>
#include <cmath>

#include "app/images.h"
#include "app/theme/theme.h"
#include "app/workbench/arrows.h"
#include "core/image/colour.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::isFigure;
using stage::Scene;
using stage::Thing;
using stage::Vec3;

constexpr double rim = 34;

}  // namespace

float heightOf(const Thing& thing) {
  if (const auto* person = std::get_if<stage::Person>(&thing.is)) return person->size;
  if (const auto* beast = std::get_if<stage::Beast>(&thing.is)) return beast->size;
  return std::get<stage::Prop>(thing.is).size.y();
}

StageTable::StageTable(Desk& desk, StageWork& work, QWidget* parent) : QWidget(parent), desk_(desk), work_(work) {
  setObjectName("stage");
  setAccessibleName("The stage");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  connect(&work_, &StageWork::changed, this, &StageTable::request);
  connect(&desk_.document, &StudyDocument::replaced, this, &StageTable::request);
  connect(&themeSignals(), &ThemeSignals::changed, this, qOverload<>(&QWidget::update));
  connect(&desk_.maps, &MapRoom::picturesChanged, this, qOverload<>(&QWidget::update));
  connect(&desk_.document, &StudyDocument::replaced, this, [this] {
    setGhost({}, ghostShare_);
    showLines(false);
  });
}

QRectF StageTable::frameOnTable() const {
  const Size frame = desk_.document.state().frame;
  QSizeF fitted(frame.width, frame.height);
  fitted.scale(QSizeF(std::max(40.0, width() - 2 * rim), std::max(40.0, height() - 2 * rim)), Qt::KeepAspectRatio);
  return {QPointF((width() - fitted.width()) / 2, (height() - fitted.height()) / 2), fitted};
}

stage::Camera StageTable::wideCamera() const {
  stage::Eye eye = work_.scene().eye;
  auto camera = stage::cameraOf(eye, {std::max(8, width()), std::max(8, height())});
  // The frame's own lens, with more round it.
  camera.millimetres =
      eye.millimetres * static_cast<float>(frameOnTable().width()) / static_cast<float>(camera.size.width);
  return camera;
}

std::optional<QPointF> StageTable::placeOf(const Vec3& at) const {
  const auto seen = wideCamera().seen(at);
  if (!seen.ahead()) return {};
  return QPointF(static_cast<double>(seen.x), static_cast<double>(seen.y));
}

Vec3 StageTable::target() const {
  if (const Thing* thing = work_.selectedThing())
    return thing->place.at + Vec3(0, 0.5f * std::min(2.0f, heightOf(*thing)), 0);
  // What it is about are the figures, all of them together.
  Vec3 sum = Vec3::Zero();
  float count = 0;
  for (const Thing& thing : work_.scene().things)
    if (isFigure(thing) && !thing.hidden) sum += thing.place.at + Vec3(0, 0.5f * heightOf(thing), 0), ++count;
  if (count > 0) return sum / count;
  const auto camera = stage::cameraOf(work_.scene().eye, {64, 64});
  const Vec3 ahead = -camera.look.row(2).transpose();
  constexpr float usual = 4.5f;
  const float along = ahead.y() < -0.05f ? std::min(12.0f, -camera.eye.y() / ahead.y()) : usual;
  return camera.eye + ahead * along;
}

std::optional<Vec3> StageTable::onLevel(QPointF at, float height) const {
  const auto camera = wideCamera();
  const float focal = camera.millimetres / 36 * static_cast<float>(camera.size.width);
  const Vec3 way = camera.look.transpose() * Vec3(static_cast<float>(at.x() - 0.5 * width()) / focal,
                                                  static_cast<float>(0.5 * this->height() - at.y()) / focal, -1);
  if (std::abs(way.y()) < 1e-4f) return {};
  const float along = (height - camera.eye.y()) / way.y();
  constexpr float farthest = 300;
  if (along <= 0.05f || along > farthest) return {};
  return camera.eye + way * along;
}

void StageTable::request() {
  // Joints of the chosen figure follow at once, the picture as soon as it is made.
  findHandles();
  if (handle() == nullptr) handle_.clear();
  const Scene& scene = work_.scene();
  emit jointChanged();
  update();
  if (!isVisible() || width() < 8) return;
  struct Shown {
    StageCanvas::Shown canvas;
    std::vector<std::string> ids;
    QStringList outside;
    double took = 0;  ///< ms
  };
  auto camera = wideCamera();
  // While something is dragged it is seen at once, and as coarsely as that asks. Where the eye goes along, all of it is
  // painted again.
  const bool dragged = grip_ != Grip::none && moved_;
  DragPace* pace = !dragged ? nullptr : isOfEye(grip_) ? &eyePace_ : &thingPace_;
  if (pace != nullptr)
    camera.size = {std::max(8, static_cast<int>(camera.size.width / pace->coarseness())),
                   std::max(8, static_cast<int>(camera.size.height / pace->coarseness()))};
  desk_.tasks.run(
      this, "stage", Priority::hand,
      [scene, camera, dragged, canvas = canvas_, frame = desk_.document.state().frame](const StopToken& stop) {
        Shown out;
        QElapsedTimer clock;
        clock.start();
        out.canvas = canvas->paint(scene, camera, dragged, stop);
        const auto& set = out.canvas.stand->set;
        for (const Thing& thing : scene.things) out.ids.push_back(thing.id);
        for (const std::string& each : stage::whatIsOutside(scene, set, frame))
          out.outside << QString::fromStdString(each);
        out.took = static_cast<double>(clock.nsecsElapsed()) / 1e6;
        if (!dragged)
          for (const std::string& each : stage::whatSinksIn(scene, set)) out.outside << QString::fromStdString(each);
        return out;
      },
      [this, pace](Shown shown) {
        // A picture of another size than the last one is painted whole: it says nothing of the next.
        if (pace != nullptr && (pace == &eyePace_ || !shown.canvas.resized)) pace->keepUp(shown.took);
        picture_ = std::move(shown.canvas.picture);
        object_ = std::move(shown.canvas.object);
        ids_ = std::move(shown.ids);
        if (outside_ != shown.outside) {
          outside_ = std::move(shown.outside);
          emit outsideChanged();
        }
        update();
      });
}

std::string StageTable::thingAt(QPointF at) const {
  if (object_.empty() || width() < 1) return {};
  const int x = std::clamp(static_cast<int>(at.x() * object_.width() / width()), 0, object_.width() - 1),
            y = std::clamp(static_cast<int>(at.y() * object_.height() / height()), 0, object_.height() - 1);
  const std::size_t number = object_(x, y);
  return number > 0 && number <= ids_.size() ? ids_[number - 1] : std::string();
}

void StageTable::setGhost(const std::string& reference, double share) {
  ghost_ = reference;
  ghostShare_ = share;
  update();
}

void StageTable::showLines(bool shown) {
  if (shown)
    lines_ = stage::linesFor(work_.scene().eye, desk_.document.state().frame);
  else
    lines_.reset();
  update();
}

namespace {
/// Both ends of all lines, in their order.
std::array<Point*, 6> endsOf(stage::PictureLines& lines) {
  return {&lines.horizon.a, &lines.horizon.b, &lines.left.a, &lines.left.b, &lines.right.a, &lines.right.b};
}
}  // namespace

std::vector<QPointF> StageTable::lineEnds() const {
  std::vector<QPointF> out;
  if (!lines_) return out;
  const QRectF frame = frameOnTable();
  const double scale = frame.width() / desk_.document.state().frame.width;
  auto lines = *lines_;
  for (const Point* end : endsOf(lines)) out.push_back(frame.topLeft() + QPointF(end->x, end->y) * scale);
  return out;
}

void StageTable::dragLine(QPointF to) {
  if (!lines_) return;
  const QRectF frame = frameOnTable();
  const Size size = desk_.document.state().frame;
  const double scale = frame.width() / size.width;
  *endsOf(*lines_)[end_] = {(to.x() - frame.left()) / scale, (to.y() - frame.top()) / scale};
  update();
  const auto eye = stage::eyeOf(*lines_, size, begun_.eye);
  if (!eye) return;
  work_.edit(
      "Eye of the picture", [&](Scene& scene) { scene.eye = *eye; }, "stage line " + std::to_string(drags_));
}

void StageTable::mousePressEvent(QMouseEvent* event) {
  setFocus();
  pressed_ = event->position();
  begun_ = work_.scene();
  begunText_ = desk_.document.state().scene;
  about_ = target();
  moved_ = false;
  ++drags_;
  if (event->button() != Qt::LeftButton) {
    grip_ = Grip::pan;
    return;
  }
  const auto ends = lineEnds();
  for (std::size_t i = 0; i < ends.size(); ++i)
    if (std::hypot(ends[i].x() - pressed_.x(), ends[i].y() - pressed_.y()) < reach) {
      grip_ = Grip::line;
      end_ = i;
      return;
    }
  if (const Handle* taken = handleAt(pressed_)) {
    chooseJoint(taken->id);
    grip_ = Grip::joint;
    lift_ = placeOf(taken->at).value_or(pressed_) - pressed_;
    return;
  }
  constexpr double ringReach = 6;
  for (const Ring& ring : rings())
    if (const auto degree = degreeAt(ring, pressed_, ringReach)) {
      grip_ = Grip::ring;
      turn_ = ring.turn;
      degree_ = *degree;
      return;
    }
  const std::string under = thingAt(pressed_);
  if (under.empty() || event->modifiers().testFlag(Qt::ControlModifier)) {
    grip_ = event->modifiers().testFlag(Qt::ControlModifier) ? Grip::look : Grip::orbit;
    return;
  }
  if (under != work_.selected()) chooseJoint({});
  work_.select(under);
  const Thing* thing = work_.selectedThing();
  grip_ = thing != nullptr ? Grip::thing : Grip::orbit;
  if (thing == nullptr) return;
  // Wherever it was touched, it is led by where it stands.
  lift_ = placeOf(thing->place.at).value_or(pressed_) - pressed_;
}

void StageTable::orbit(double across, double down, const Vec3& about) {
  const double turn = across * 0.4, tilt = down * 0.3;  // degrees a pixel
  work_.edit(
      "Go round",
      [&](Scene& scene) {
        const stage::Eye& from = begun_.eye;
        const Vec3 off = from.at - about;
        const float far = std::max(0.3f, off.norm());
        const float azimuth = std::atan2(off.x(), off.z()) - static_cast<float>(turn) / inDegrees;
        float high = std::asin(std::clamp(off.y() / far, -1.0f, 1.0f)) + static_cast<float>(tilt) / inDegrees;
        high = std::clamp(high, -1.2f, 1.45f);
        Vec3 at =
            about + far * Vec3(std::sin(azimuth) * std::cos(high), std::sin(high), std::cos(azimuth) * std::cos(high));
        at.y() = std::max(at.y(), 0.05f);
        // What was in the middle stays where it was in the frame.
        const stage::Eye before = stage::lookingFrom(from.at, about, from.millimetres);
        stage::Eye next = stage::lookingFrom(at, about, from.millimetres);
        next.turn += from.turn - before.turn;
        next.tilt = std::clamp(next.tilt + from.tilt - before.tilt, -89.0f, 89.0f);
        next.turn = std::remainder(next.turn, 360.0f);
        next.roll = from.roll;
        scene.eye = next;
      },
      "stage orbit " + std::to_string(drags_));
}

void StageTable::dolly(double factor) {
  const Vec3 about = target();
  work_.edit(
      "Nearer or farther",
      [&](Scene& scene) {
        const Vec3 off = scene.eye.at - about;
        const float far = off.norm(), next = std::clamp(far * static_cast<float>(factor), 0.4f, 200.0f);
        if (far > 1e-3f) scene.eye.at = about + off * (next / far);
        scene.eye.at.y() = std::max(scene.eye.at.y(), 0.05f);
      },
      "stage dolly");
}

void StageTable::lookRound(double across, double down) {
  work_.edit(
      "Look round",
      [&](Scene& scene) {
        scene.eye = begun_.eye;
        const double perPixel = 36 / static_cast<double>(begun_.eye.millimetres) / frameOnTable().width();
        const auto degrees = [&](double pixels) {
          return static_cast<float>(std::atan(pixels * perPixel)) * inDegrees;
        };
        scene.eye.turn = std::remainder(begun_.eye.turn + degrees(across), 360.0f);
        scene.eye.tilt = std::clamp(begun_.eye.tilt + degrees(down), -89.0f, 89.0f);
      },
      "stage look " + std::to_string(drags_));
}

void StageTable::mouseMoveEvent(QMouseEvent* event) {
  if (grip_ == Grip::none) {
    setCursor(handleAt(event->position()) != nullptr ? Qt::PointingHandCursor : Qt::ArrowCursor);
    return;
  }
  const QPointF by = event->position() - pressed_;
  constexpr double least = 3;
  if (!moved_ && std::hypot(by.x(), by.y()) > least) {
    moved_ = true;
    work_.hold(true);
  }
  if (!moved_) return;
  switch (grip_) {
    case Grip::orbit:
      orbit(by.x(), by.y(), about_);
      break;
    case Grip::look:
      lookRound(by.x(), by.y());
      break;
    case Grip::ring:
      dragRing(event->position());
      break;
    case Grip::line:
      dragLine(event->position());
      break;
    case Grip::pan: {
      const auto camera = stage::cameraOf(begun_.eye, {64, 64});
      const float far = (begun_.eye.at - about_).norm();
      const float perPixel = far * 36 / begun_.eye.millimetres / static_cast<float>(frameOnTable().width());
      work_.edit(
          "Move the eye",
          [&](Scene& scene) {
            scene.eye.at = begun_.eye.at - camera.look.row(0).transpose() * (static_cast<float>(by.x()) * perPixel) +
                           camera.look.row(1).transpose() * (static_cast<float>(by.y()) * perPixel);
            scene.eye.at.y() = std::max(scene.eye.at.y(), 0.05f);
          },
          "stage pan " + std::to_string(drags_));
      break;
    }
    case Grip::thing: {
      const Thing* start = begun_.thing(work_.selected());
      if (start == nullptr) break;
      if (event->modifiers().testFlag(Qt::ShiftModifier)) {
        work_.turnSelected(begun_, static_cast<float>(by.x()), "stage drag " + std::to_string(drags_));
        break;
      }
      if (const auto to = onLevel(event->position() + lift_, start->place.at.y())) {
        // Near the horizon a pixel is a field: nothing is lost there by one pull.
        const Vec3& eye = begun_.eye.at;
        const float most = std::max(12.0f, 3 * (start->place.at - eye).norm());
        Vec3 way = *to - eye;
        way *= std::min(1.0f, most / std::max(1e-3f, way.norm()));
        constexpr float edge = 500;
        const Vec3 at = (eye + way).cwiseMax(-edge).cwiseMin(edge);
        const Vec3 move = at - start->place.at;
        work_.moveSelected(begun_, {move.x(), 0, move.z()}, "stage drag " + std::to_string(drags_));
      }
      break;
    }
    case Grip::joint:
      dragJoint(event->position() + lift_, event->modifiers().testFlag(Qt::AltModifier));
      break;
    case Grip::none:
      break;
  }
}

void StageTable::mouseReleaseEvent(QMouseEvent* event) {
  const Grip was = std::exchange(grip_, Grip::none);
  if (was == Grip::none) return;
  if (was == Grip::orbit && !moved_) {
    chooseJoint({});
    work_.select({});
  }
  if (was == Grip::pan && !moved_) {
    // A right click is about what lies there.
    if (const std::string under = thingAt(event->position()); !under.empty()) work_.select(under);
    showMenu(event->globalPosition().toPoint());
  }
  work_.seal();
  work_.hold(false);
  request();
}

void StageTable::wheelEvent(QWheelEvent* event) {
  constexpr double notch = 120, step = 1.12;
  dolly(std::pow(step, -event->angleDelta().y() / notch));
  event->accept();
}

void StageTable::keyPressEvent(QKeyEvent* event) {
  const QPointF by = nudgeOf(*event);
  const bool chosen = work_.selectedThing() != nullptr;
  if (!by.isNull() && handle() != nullptr) return nudgeJoint(by, event->modifiers());
  if (!by.isNull()) {
    if (!chosen) {
      begun_ = work_.scene();
      ++drags_;
      orbit(6 * by.x(), 6 * by.y(), target());
      return;
    }
    // To the right and towards the eye, as the picture has it, in steps of five centimetres.
    const auto camera = stage::cameraOf(work_.scene().eye, {64, 64});
    Vec3 right = camera.look.row(0).transpose(), back = camera.look.row(2).transpose();
    right.y() = back.y() = 0;
    constexpr float step = 0.05f;
    const Vec3 move = right.normalized() * (static_cast<float>(by.x()) * step) +
                      (back.norm() > 1e-3f ? back.normalized() : Vec3(0, 0, 1)) * (static_cast<float>(by.y()) * step);
    work_.moveSelected(work_.scene(), move, "stage nudge");
    return;
  }
  const auto turn = [&](float degrees) { work_.turnSelected(work_.scene(), degrees, "stage turn"); };
  switch (event->key()) {
    case Qt::Key_Comma:
      return turn(-5);
    case Qt::Key_Period:
      return turn(5);
    case Qt::Key_PageUp:
    case Qt::Key_PageDown: {
      const float step = event->key() == Qt::Key_PageUp ? 0.05f : -0.05f;
      return work_.moveSelected(work_.scene(), {0, step, 0}, "stage raise");
    }
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      return dolly(1 / 1.12);
    case Qt::Key_Minus:
      return dolly(1.12);
    case Qt::Key_Delete:
      return work_.removeSelected();
    case Qt::Key_F:
      return work_.fitEye();
    case Qt::Key_D:
      if (event->modifiers().testFlag(Qt::ControlModifier)) return work_.duplicateSelected();
      break;
    case Qt::Key_J: {
      // The next thing, in their order.
      const auto& things = work_.scene().things;
      if (things.empty()) return;
      std::size_t next = 0;
      for (std::size_t i = 0; i < things.size(); ++i)
        if (things[i].id == work_.selected()) next = (i + 1) % things.size();
      return work_.select(things[next].id);
    }
    case Qt::Key_Escape:
      if (grip_ != Grip::none) {
        grip_ = Grip::none;
        if (moved_) work_.takeBack(begunText_);
        work_.hold(false);
        return request();
      }
      if (linesShown()) {
        showLines(false);
        emit linesDone();
        return;
      }
      if (handle() != nullptr) return chooseJoint({});
      return work_.select({});
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (chosenJoint()) emit turnsAsked();
      return;
    case Qt::Key_G:
      return work_.letDownSelected();
    case Qt::Key_X:
      if (event->modifiers().testFlag(Qt::ControlModifier)) return emit cutAsked();
      return work_.mirrorSelected();
    case Qt::Key_P:
      if (const Handle* at = handle(); at != nullptr && at->point) {
        if (work_.pinOf(*at->point) != nullptr)
          work_.unpin(*at->point);
        else
          work_.pin(*at->point, {});
      }
      return;
    case Qt::Key_Menu:
      return showMenu(mapToGlobal(rect().center()));
    default:
      break;
  }
  QWidget::keyPressEvent(event);
}

void StageTable::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  request();
}

void StageTable::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  request();
}

}  // namespace hscaffold::app
