#include "app/stage/stage_table.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

#include "app/images.h"
#include "app/theme/theme.h"
#include "app/workbench/arrows.h"
#include "core/image/colour.h"
#include "core/pose/fit.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::isFigure;
using stage::Scene;
using stage::skeletonOf;
using stage::Thing;
using stage::Vec3;

constexpr double rim = 34, reach = 11;
constexpr float inDegrees = 180 / stage::pi;

float sizeOf(const Thing& thing) {
  if (const auto* person = std::get_if<stage::Person>(&thing.is)) return person->size;
  if (const auto* beast = std::get_if<stage::Beast>(&thing.is)) return beast->size;
  return std::get<stage::Prop>(thing.is).size.y();
}

}  // namespace

StageTable::StageTable(Desk& desk, StageWork& work, QWidget* parent) : QWidget(parent), desk_(desk), work_(work) {
  setObjectName("stage");
  setAccessibleName("The stage");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  connect(&work_, &StageWork::changed, this, &StageTable::request);
  connect(&desk_.document, &StudyDocument::replaced, this, &StageTable::request);
  connect(&themeSignals(), &ThemeSignals::changed, this, qOverload<>(&QWidget::update));
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
  if (seen.far <= 0.05f) return {};
  return QPointF(static_cast<double>(seen.x), static_cast<double>(seen.y));
}

std::optional<QPointF> StageTable::jointPlace(const char* id) const {
  const Thing* thing = work_.selectedThing();
  if (thing == nullptr || !isFigure(*thing)) return {};
  const auto point = skeletonOf(*thing).find(id);
  for (const Joint& joint : joints_)
    if (point && joint.point == *point) return placeOf(joint.at);
  return {};
}

Vec3 StageTable::target() const {
  if (const Thing* thing = work_.selectedThing())
    return thing->place.at + Vec3(0, 0.5f * std::min(2.0f, sizeOf(*thing)), 0);
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
  joints_.clear();
  const Scene& scene = work_.scene();
  if (const Thing* thing = work_.selectedThing(); thing != nullptr && isFigure(*thing) && !thing->hidden) {
    Scene alone;
    alone.ground = false;
    alone.things.push_back(*thing);
    const auto set = stage::setOf(alone);
    const auto& skeleton = skeletonOf(*thing);
    for (std::size_t i = 0; i < set.actors[0].points.size() && i < skeleton.points.size(); ++i)
      if (skeleton.isBody(i) && std::find(skeleton.head.begin(), skeleton.head.end(), i) == skeleton.head.end())
        joints_.push_back({i, set.actors[0].points[i]});
  }
  update();
  if (!isVisible() || width() < 8) return;
  struct Shown {
    QImage picture;
    Image<std::uint16_t> object;
    std::vector<std::string> ids;
    QStringList outside;
  };
  auto camera = wideCamera();
  // While something is dragged it is seen coarsely and at once.
  if (grip_ != Grip::none) camera.size = {camera.size.width / 2, camera.size.height / 2};
  desk_.tasks.run(
      this, "stage", Priority::hand,
      [scene, camera, frame = desk_.document.state().frame](const StopToken& stop) {
        Shown out;
        const auto look = stage::lookThrough(scene, stage::setOf(scene), camera, stop);
        const auto pixels = toSrgb8(look.seen.colour.view());
        out.picture = toQImage(pixels.view());
        out.object = look.seen.object.clone();
        for (const Thing& thing : scene.things) out.ids.push_back(thing.id);
        for (const std::string& each : stage::whatIsOutside(scene, look.set, frame))
          out.outside << QString::fromStdString(each);
        return out;
      },
      [this](Shown shown) {
        picture_ = std::move(shown.picture);
        object_ = std::move(shown.object);
        ids_ = std::move(shown.ids);
        if (outside_ != shown.outside) {
          outside_ = std::move(shown.outside);
          emit outsideChanged();
        }
        update();
      });
}

void StageTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.fillRect(rect(), theme().table);
  if (!picture_.isNull()) painter.drawImage(QRectF(rect()), picture_);
  const QRectF frame = frameOnTable();
  QPainterPath beyond;
  beyond.addRect(rect());
  beyond.addRect(frame);
  painter.fillPath(beyond, QColor(20, 20, 22, 150));
  // Thirds and middle lines, so faint that they are no part of the picture.
  painter.setPen(QPen(QColor(255, 255, 255, 46), 1));
  for (const double share : {1.0 / 3, 2.0 / 3}) {
    painter.drawLine(QPointF(frame.left() + share * frame.width(), frame.top()),
                     QPointF(frame.left() + share * frame.width(), frame.bottom()));
    painter.drawLine(QPointF(frame.left(), frame.top() + share * frame.height()),
                     QPointF(frame.right(), frame.top() + share * frame.height()));
  }
  painter.setPen(QPen(QColor("#f3efe6"), 1.2));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(frame);
  painter.setFont(textFont(9));
  if (const Thing* thing = work_.selectedThing()) {
    // Where it stands.
    QPolygonF ring;
    const float radius = isFigure(*thing) ? 0.32f : 0.5f * std::get<stage::Prop>(thing->is).size.x();
    for (int i = 0; i <= 36; ++i) {
      const float a = 2 * stage::pi * static_cast<float>(i) / 36;
      if (const auto p = placeOf(thing->place.at + Vec3(radius * std::cos(a), 0.005f, radius * std::sin(a))))
        ring << *p;
    }
    painter.setPen(QPen(theme().accent, 1.6));
    painter.drawPolyline(ring);
    paintJoints(painter);
    if (const auto top = placeOf(thing->place.at + Vec3(0, sizeOf(*thing) + 0.12f, 0))) {
      const QString name = QString::fromStdString(thing->name);
      const QRectF box = QRectF(painter.fontMetrics().boundingRect(name)).adjusted(-6, -3, 6, 3);
      QRectF at(QPointF(top->x() - box.width() / 2, top->y() - box.height()), box.size());
      at.moveLeft(std::clamp(at.left(), 4.0, std::max(4.0, width() - at.width() - 4)));
      at.moveTop(std::clamp(at.top(), 4.0, std::max(4.0, height() - at.height() - 4)));
      painter.setPen(Qt::NoPen);
      painter.setBrush(QColor(20, 20, 22, 190));
      painter.drawRoundedRect(at, 4, 4);
      painter.setPen(QColor("#f3efe6"));
      painter.drawText(at, Qt::AlignCenter, name);
    }
  } else if (work_.scene().things.empty()) {
    painter.setPen(QColor("#f3efe6"));
    painter.setFont(textFont(12));
    painter.drawText(frame, Qt::AlignCenter, "Take a set, or put a figure or a thing on the ground");
  }
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().accent, 1));
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
  }
}

void StageTable::paintJoints(QPainter& painter) const {
  painter.setPen(QPen(QColor(20, 20, 22), 1.2));
  for (const Joint& joint : joints_) {
    const auto at = placeOf(joint.at);
    if (!at) continue;
    const bool held = grip_ == Grip::joint && joint.point == point_;
    painter.setBrush(held ? theme().accent : QColor("#f3efe6"));
    painter.drawEllipse(*at, held ? 5.5 : 3.8, held ? 5.5 : 3.8);
  }
}

std::optional<std::size_t> StageTable::jointAt(QPointF at) const {
  std::optional<std::size_t> best;
  double least = reach;
  for (const Joint& joint : joints_) {
    const auto place = placeOf(joint.at);
    if (!place) continue;
    const double away = std::hypot(place->x() - at.x(), place->y() - at.y());
    if (away < least) least = away, best = joint.point;
  }
  return best;
}

void StageTable::mousePressEvent(QMouseEvent* event) {
  setFocus();
  pressed_ = event->position();
  begun_ = work_.scene();
  about_ = target();
  moved_ = false;
  ++drags_;
  if (event->button() != Qt::LeftButton) {
    grip_ = Grip::pan;
    return;
  }
  if (const auto joint = jointAt(pressed_)) {
    grip_ = Grip::joint;
    point_ = *joint;
    update();
    return;
  }
  std::string under;
  if (!object_.empty() && width() > 0) {
    const int x = std::clamp(static_cast<int>(pressed_.x() * object_.width() / width()), 0, object_.width() - 1),
              y = std::clamp(static_cast<int>(pressed_.y() * object_.height() / height()), 0, object_.height() - 1);
    const std::size_t number = object_(x, y);
    if (number > 0 && number <= ids_.size()) under = ids_[number - 1];
  }
  if (under.empty()) {
    grip_ = Grip::orbit;
    return;
  }
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

void StageTable::dragJoint(QPointF by) {
  const Thing* start = begun_.thing(work_.selected());
  if (start == nullptr || !isFigure(*start)) return;
  // In the plane of the picture, as a body would follow: the figure as it is seen, led there by the point.
  const auto seen = stage::poseSeen(*start, begun_.eye);
  const auto& skeleton = skeletonOf(*start);
  const auto camera = wideCamera();
  const float focal = camera.millimetres / 36 * static_cast<float>(camera.size.width);
  const float far = std::max(0.2f, camera.seen(start->place.at + Vec3(0, 0.5f * sizeOf(*start), 0)).far);
  const double size = static_cast<double>(sizeOf(*start) * focal / far);
  pose::Figure figure = pose::figureFrom(skeleton, *seen, {{0, 0}, size, {}});
  figure.body = *seen;
  const Point to = figure.points[point_].at + Point{by.x(), by.y()};
  const auto led = pose::ledBy(figure, point_, to, {}, pose::startsFor(skeleton.id));
  if (!led.body) return;
  work_.edit(
      "Pose on the stage",
      [&](Scene& scene) {
        for (Thing& thing : scene.things)
          if (thing.id == start->id) stage::takePoseSeen(thing, scene.eye, *led.body);
      },
      "stage joint " + std::to_string(drags_));
}

void StageTable::mouseMoveEvent(QMouseEvent* event) {
  if (grip_ == Grip::none) {
    setCursor(jointAt(event->position()) ? Qt::PointingHandCursor : Qt::ArrowCursor);
    return;
  }
  const QPointF by = event->position() - pressed_;
  constexpr double least = 3;
  moved_ = moved_ || std::hypot(by.x(), by.y()) > least;
  if (!moved_) return;
  switch (grip_) {
    case Grip::orbit:
      orbit(by.x(), by.y(), about_);
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
        work_.editSelected(
            "Turn on the stage",
            [&](Thing& thing) {
              thing.place.turn = std::remainder(start->place.turn + static_cast<float>(by.x()), 360.0f);
            },
            "stage drag " + std::to_string(drags_));
        break;
      }
      if (const auto to = onLevel(event->position() + lift_, start->place.at.y())) {
        // Near the horizon a pixel is a field: nothing is lost there by one pull.
        const Vec3& eye = begun_.eye.at;
        const float most = std::max(12.0f, 3 * (start->place.at - eye).norm());
        Vec3 way = *to - eye;
        way *= std::min(1.0f, most / std::max(1e-3f, way.norm()));
        const Vec3 at = eye + way;
        work_.editSelected(
            "Move on the stage",
            [&](Thing& thing) {
              constexpr float edge = 500;
              thing.place.at.x() = std::clamp(at.x(), -edge, edge);
              thing.place.at.z() = std::clamp(at.z(), -edge, edge);
            },
            "stage drag " + std::to_string(drags_));
      }
      break;
    }
    case Grip::joint:
      dragJoint(by);
      break;
    case Grip::none:
      break;
  }
}

void StageTable::mouseReleaseEvent(QMouseEvent*) {
  const Grip was = std::exchange(grip_, Grip::none);
  if (was == Grip::none) return;
  if (was == Grip::orbit && !moved_) work_.select({});
  work_.seal();
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
    work_.editSelected(
        "Move on the stage", [&](Thing& thing) { thing.place.at += move; }, "stage nudge");
    return;
  }
  const auto turn = [&](float degrees) {
    work_.editSelected(
        "Turn on the stage",
        [&](Thing& thing) { thing.place.turn = std::remainder(thing.place.turn + degrees, 360.0f); }, "stage turn");
  };
  switch (event->key()) {
    case Qt::Key_Comma:
      return turn(-5);
    case Qt::Key_Period:
      return turn(5);
    case Qt::Key_PageUp:
    case Qt::Key_PageDown: {
      const float step = event->key() == Qt::Key_PageUp ? 0.05f : -0.05f;
      work_.editSelected(
          "Raise on the stage", [&](Thing& thing) { thing.place.at.y() += step; }, "stage raise");
      return;
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
        work_.edit("As it was", [&](Scene& scene) { scene = begun_; });
        return;
      }
      return work_.select({});
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
