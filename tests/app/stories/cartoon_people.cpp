#include "app/stories/cartoon_people.h"

#include <QPainter>
#include <QPainterPath>
#include <QPen>
#include <algorithm>
#include <cmath>

#include "app/points.h"
#include "core/pose/find/maps.h"
#include "core/pose/pose_fixtures.h"

using namespace hscaffold;

namespace fixtures {
namespace {

const QColor ink(40, 30, 35);

/// One person, larger or smaller.
class Person {
 public:
  Person(QPainter& painter, const pose::Figure& figure, int number) : painter_(painter), figure_(figure) {
    const double spine =
        std::hypot(middle("left_shoulder", "right_shoulder").x() - middle("left_hip", "right_hip").x(),
                   middle("left_shoulder", "right_shoulder").y() - middle("left_hip", "right_hip").y());
    broad_ = 0.2 * spine;
    line_ = std::max(1.0, 0.03 * spine);
    const QColor tops[] = {{190, 70, 60}, {60, 110, 170}, {220, 170, 60},
                           {80, 140, 90}, {150, 80, 150}, {230, 230, 220}};
    const QColor skins[] = {{240, 205, 175}, {200, 150, 110}, {130, 85, 60}};
    top_ = tops[number % 6];
    legs_ = number % 2 == 0 ? QColor(60, 65, 95) : QColor(110, 85, 60);
    skin_ = skins[number % 3];
    hair_ = number % 2 == 0 ? QColor(60, 40, 25) : QColor(190, 130, 50);
  }
  void draw() {
    for (const char* side : {"right", "left"}) leg(side);
    for (const char* side : {"right", "left"})
      if (figure_.points[at(side + std::string("_wrist"))].presence == pose::Presence::hidden) arm(side);
    trunk();
    head();
    for (const char* side : {"right", "left"})
      if (figure_.points[at(side + std::string("_wrist"))].presence != pose::Presence::hidden) arm(side);
  }

 private:
  [[nodiscard]] QPointF place(const std::string& point) const { return app::toQt(figure_.points[at(point)].at); }
  [[nodiscard]] QPointF middle(const char* a, const char* b) const { return (place(a) + place(b)) / 2; }
  void limb(QPointF a, QPointF b, double width, const QColor& colour) {
    painter_.setPen(QPen(ink, width + 2 * line_, Qt::SolidLine, Qt::RoundCap));
    painter_.drawLine(a, b);
    painter_.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap));
    painter_.drawLine(a, b);
  }
  void shape(const QPainterPath& path, const QColor& colour) {
    painter_.setPen(QPen(ink, line_));
    painter_.setBrush(colour);
    painter_.drawPath(path);
  }
  void egg(QPointF at, double across, double down, const QColor& colour) {
    QPainterPath path;
    path.addEllipse(at, across, down);
    shape(path, colour);
  }
  void arm(const std::string& side) {
    limb(place(side + "_shoulder"), place(side + "_elbow"), 0.75 * broad_, top_);
    limb(place(side + "_elbow"), place(side + "_wrist"), 0.6 * broad_, skin_);
    egg(place(side + "_wrist"), 0.42 * broad_, 0.42 * broad_, skin_);
  }
  void leg(const std::string& side) {
    limb(place(side + "_hip"), place(side + "_knee"), 1.05 * broad_, legs_);
    limb(place(side + "_knee"), place(side + "_ankle"), 0.8 * broad_, legs_);
    egg(place(side + "_ankle") + QPointF(0, 0.25 * broad_), 0.75 * broad_, 0.4 * broad_, QColor(50, 40, 40));
  }
  void trunk() {
    QPainterPath path;
    QPolygonF ring;
    const QPointF chest = middle("left_shoulder", "right_shoulder"), hips = middle("left_hip", "right_hip");
    for (const char* corner : {"left_shoulder", "right_shoulder", "right_hip", "left_hip"}) {
      const QPointF from = std::string(corner).ends_with("hip") ? hips : chest, way = place(corner) - from;
      const double length = std::max(1.0, std::hypot(way.x(), way.y()));
      ring << place(corner) + way * (0.45 * broad_ / length);
    }
    path.addPolygon(ring);
    path.closeSubpath();
    shape(path, top_);
  }
  void head() {
    const QPointF ears = middle("left_ear", "right_ear"), neck = middle("left_shoulder", "right_shoulder");
    const double size = 0.95 * broad_;
    limb(neck, ears, 0.55 * broad_, skin_);
    egg(ears, size, 1.25 * size, skin_);
    QPainterPath cap;
    cap.moveTo(ears.x() - size, ears.y() - 0.3 * size);
    cap.arcTo(QRectF(ears.x() - size, ears.y() - 1.3 * size, 2 * size, 2 * size), 180, -180);
    cap.closeSubpath();
    shape(cap, hair_);
    for (const char* eye : {"left_eye", "right_eye"}) {
      painter_.setPen(Qt::NoPen);
      painter_.setBrush(Qt::white);
      painter_.drawEllipse(place(eye), 0.22 * size, 0.15 * size);
      painter_.setBrush(ink);
      painter_.drawEllipse(place(eye), 0.12 * size, 0.13 * size);
    }
    painter_.setPen(QPen(skin_.darker(160), line_));
    painter_.drawLine(place("nose") - QPointF(0, 0.25 * size), place("nose"));
    painter_.drawLine(place("nose") + QPointF(-0.25 * size, 0.4 * size),
                      place("nose") + QPointF(0.25 * size, 0.4 * size));
  }

  QPainter& painter_;
  const pose::Figure& figure_;
  double broad_ = 1, line_ = 1;
  QColor top_, legs_, skin_, hair_;
};

}  // namespace

std::vector<pose::Figure> skeletonsOf(const std::vector<CartoonPerson>& people) {
  std::vector<pose::Figure> out;
  for (const auto& person : people) out.push_back(posedAs(person.pose, person.size, person.at));
  return out;
}

QImage cartoonOf(const std::vector<pose::Figure>& figures, QSize size) {
  QImage out(size, QImage::Format_RGB32);
  out.fill(QColor(190, 215, 225));
  QPainter painter(&out);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.fillRect(QRectF(0, 0.33 * size.height(), size.width(), 0.15 * size.height()), QColor(95, 145, 165));
  painter.fillRect(QRectF(0, 0.48 * size.height(), size.width(), size.height()), QColor(185, 155, 120));
  painter.setPen(QPen(QColor(140, 110, 85), 2));
  for (int i = 0; i < 9; ++i) {
    const double y = size.height() * (0.48 + 0.52 * i * i / 64.0);
    painter.drawLine(QPointF(0, y), QPointF(size.width(), y));
  }
  for (std::size_t i = 0; i < figures.size(); ++i) Person(painter, figures[i], static_cast<int>(i)).draw();
  return out;
}

double shareRight(const pose::Figure& truth, const pose::Figure& found) {
  const auto box = *pose::boundsOf(truth);
  const double near = 0.1 * std::max(box.width(), box.height());
  int right = 0, all = 0;
  for (std::size_t p = 0; p < pose::bodyPointsOf(truth.kind()); ++p) {
    ++all;
    const Point off = found.points[p].at - truth.points[p].at;
    right += found.points[p].there() && std::hypot(off.x, off.y) < near ? 1 : 0;
  }
  return static_cast<double>(right) / all;
}

std::vector<int> matched(const std::vector<pose::Figure>& truth, const std::vector<pose::Figure>& found) {
  std::vector<int> out;
  for (const auto& figure : truth) {
    int best = -1;
    double most = 1.0 / 3;
    for (std::size_t f = 0; f < found.size(); ++f)
      if (const double share = shareRight(figure, found[f]); share > most) most = share, best = static_cast<int>(f);
    out.push_back(best);
  }
  return out;
}

}  // namespace fixtures
