// PoseWork: everything that changes one figure at once.
#include <algorithm>

#include "app/document/study_document.h"
#include "app/points.h"
#include "app/workbench/pose/pose_work.h"
#include "core/pose/fit.h"

namespace hscaffold::app {
namespace {

QString titleOf(const pose::Figure& figure, std::size_t number) {
  return figure.name.empty() ? QString("Figure %1").arg(number + 1) : QString::fromStdString(figure.name);
}

}  // namespace

void PoseWork::remove(std::size_t figure) {
  if (!figures_ || figure >= figures_->figures.size()) return;
  auto all = figures_->figures;
  const QString name = titleOf(*all[figure], figure);
  all.erase(all.begin() + static_cast<std::ptrdiff_t>(figure));
  led_.clear();
  points_.clear();
  selected_ = all.empty() ? std::nullopt : std::optional(std::min(figure, all.size() - 1));
  commit("Remove " + name, std::move(all));
}

void PoseWork::change(std::size_t figure, const QString& name,
                      const std::function<pose::Figure(const pose::Figure&)>& edit, const std::string& merge) {
  if (!figures_ || start_ || figure >= figures_->figures.size()) return;
  auto all = figures_->figures;
  pose::Figure next = edit(*all[figure]);
  if (next == *all[figure]) return;
  all[figure] = std::make_shared<const pose::Figure>(std::move(next));
  commit(name, std::move(all), merge);
}

void PoseWork::setOn(std::size_t figure, bool on) {
  change(figure, on ? "Turn figure on" : "Turn figure off", [on](pose::Figure f) {
    f.on = on;
    return f;
  });
}

void PoseWork::rename(std::size_t figure, const QString& name) {
  change(figure, "Rename figure", [&](pose::Figure f) {
    f.name = fittedText(name.trimmed().toStdString(), longestName);
    return f;
  });
}

void PoseWork::mirror(std::size_t figure) {
  led_.erase(figure);
  change(figure, "Mirror figure", [](const pose::Figure& f) {
    const auto bounds = pose::boundsOf(f);
    return bounds ? pose::mirrored(f, bounds->middle().x) : f;
  });
}

void PoseWork::swapSides(std::size_t figure) {
  led_.erase(figure);
  change(figure, "Swap sides", [](const pose::Figure& f) { return pose::withSidesSwapped(f); });
}

void PoseWork::relax(std::size_t figure) {
  change(figure, "Relax figure", [](const pose::Figure& f) { return pose::relaxed(f); });
}

void PoseWork::fillIn(std::size_t figure) {
  change(figure, "Fill in points", [this](const pose::Figure& f) {
    const auto body = pose::lifted(f, pose::startsFor(f.skeleton));
    const auto guess = pose::figureFrom(f.kind(), body.pose, body.place);
    pose::Figure out = f;
    int added = 0;
    for (std::size_t i = 0; i < out.points.size(); ++i)
      if (!out.points[i].there() && guess.points[i].there()) {
        out.points[i] = {guess.points[i].at, pose::Presence::hidden, 0.3, false};
        ++added;
      }
    if (added == 0) emit said("Nothing is missing from this figure.");
    for (std::size_t b = 0; b < out.natural.size(); ++b) {
      const pose::Bone& bone = out.kind().bones[b];
      if (out.points[bone.from].there() && out.points[bone.to].there())
        out.natural[b] = std::max(out.natural[b], pose::lengthOf(out, bone));
    }
    return out;
  });
}

void PoseWork::setPart(std::size_t figure, const std::string& part, bool there) {
  change(figure, there ? "Add a part" : "Take a part away",
         [&](const pose::Figure& f) { return pose::withPart(f, part, there); });
}

void PoseWork::bringNearer(std::size_t figure, int places) {
  if (!figures_ || figure >= figures_->figures.size()) return;
  const auto last = static_cast<std::ptrdiff_t>(figures_->figures.size()) - 1;
  const auto to = std::clamp(static_cast<std::ptrdiff_t>(figure) + places, std::ptrdiff_t{0}, last);
  if (to == static_cast<std::ptrdiff_t>(figure)) return;
  auto all = figures_->figures;
  const FigurePtr moved = all[figure];
  all.erase(all.begin() + static_cast<std::ptrdiff_t>(figure));
  all.insert(all.begin() + to, moved);
  led_.clear();
  selected_ = static_cast<std::size_t>(to);
  commit(places > 0 ? "Bring figure nearer" : "Send figure farther", std::move(all));
}

void PoseWork::setPresence(std::size_t figure, const std::set<std::size_t>& points, pose::Presence presence) {
  static constexpr const char* names[] = {"Mark absent", "Mark hidden", "Mark seen"};
  change(figure, names[static_cast<std::size_t>(presence)], [&](pose::Figure f) {
    for (const std::size_t i : points) f.points[i].presence = presence;
    return f;
  });
}

void PoseWork::cyclePresence(std::size_t figure, std::size_t point) {
  if (!figures_ || figure >= figures_->figures.size()) return;
  using pose::Presence;
  const Presence now = figures_->figures[figure]->points[point].presence;
  setPresence(figure, {point},
              now == Presence::seen     ? Presence::hidden
              : now == Presence::hidden ? Presence::absent
                                        : Presence::seen);
}

void PoseWork::togglePins(std::size_t figure, const std::set<std::size_t>& points) {
  change(figure, "Pin", [&](pose::Figure f) {
    const bool all = std::all_of(points.begin(), points.end(), [&](std::size_t i) { return f.points[i].pinned; });
    for (const std::size_t i : points) f.points[i].pinned = !all;
    return f;
  });
}

void PoseWork::nudge(QPointF by) {
  if (!selected_) return;
  const std::string merge = "nudge figure " + guide_ + std::to_string(*selected_);
  change(
      *selected_, "Nudge",
      [&](const pose::Figure& f) {
        if (points_.empty()) return pose::moved(f, toPoint(by));
        if (points_.size() > 1) return pose::draggedTogether(f, points_, toPoint(by));
        return pose::dragged(f, *points_.begin(), f.points[*points_.begin()].at + toPoint(by));
      },
      merge);
}

void PoseWork::moveTo(std::size_t figure, std::size_t point, QPointF to) {
  change(figure, "Place point", [&](const pose::Figure& f) { return pose::dragged(f, point, toPoint(to)); });
}

}  // namespace hscaffold::app
