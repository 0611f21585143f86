#include "app/workbench/pose/figure_edits.h"

#include <QApplication>
#include <QClipboard>
#include <QMimeData>
#include <algorithm>
#include <nlohmann/json.hpp>

#include "app/document/study_document.h"
#include "app/points.h"
#include "app/workbench/pose/pose_work.h"
#include "core/pose/coco.h"
#include "core/pose/finder.h"
#include "core/pose/fit.h"
#include "core/pose/library.h"
#include "core/pose/pose_words.h"
#include "core/study/study.h"

namespace hscaffold::app {
namespace {

constexpr const char* figuresMime = "application/x-humble-scaffold-figures+json";

}  // namespace

void setFigureOn(PoseWork& work, std::size_t figure, bool on) {
  work.change(figure, on ? "Turn figure on" : "Turn figure off", [on](pose::Figure f) {
    f.on = on;
    return f;
  });
}

void renameFigure(PoseWork& work, std::size_t figure, const QString& name) {
  work.change(figure, "Rename figure", [&](pose::Figure f) {
    f.name = fittedText(name.trimmed().toStdString(), longestName);
    return f;
  });
}

void mirrorFigure(PoseWork& work, std::size_t figure) {
  work.forgetLed(figure);
  work.change(figure, "Mirror figure", [](const pose::Figure& f) {
    const auto bounds = pose::boundsOf(f);
    return bounds ? pose::mirrored(f, bounds->middle().x) : f;
  });
}

void swapSides(PoseWork& work, std::size_t figure) {
  work.forgetLed(figure);
  work.change(figure, "Swap sides", [](const pose::Figure& f) { return pose::withSidesSwapped(f); });
}

void relaxFigure(PoseWork& work, std::size_t figure) {
  work.change(figure, "Relax figure", [](const pose::Figure& f) { return pose::relaxed(f); });
}

void fillInPoints(PoseWork& work, std::size_t figure) {
  work.change(figure, "Fill in points", [&work](const pose::Figure& f) {
    const auto body = pose::lifted(f, pose::startsFor(f.skeleton));
    const auto guess = pose::figureFrom(f.kind(), body.pose, body.place);
    pose::Figure out = f;
    int added = 0;
    for (std::size_t i = 0; i < out.points.size(); ++i)
      if (!out.points[i].there() && guess.points[i].there()) {
        out.points[i] = {guess.points[i].at, pose::Presence::hidden, 0.3, false};
        ++added;
      }
    if (added == 0) emit work.said("Nothing is missing from this figure.");
    for (std::size_t b = 0; b < out.natural.size(); ++b) {
      const pose::Bone& bone = out.kind().bones[b];
      if (out.points[bone.from].there() && out.points[bone.to].there())
        out.natural[b] = std::max(out.natural[b], pose::lengthOf(out, bone));
    }
    return out;
  });
}

void setPart(PoseWork& work, std::size_t figure, const std::string& part, bool there) {
  work.change(figure, there ? "Add a part" : "Take a part away",
              [&](const pose::Figure& f) { return pose::withPart(f, part, there); });
}

void setPresence(PoseWork& work, std::size_t figure, const std::set<std::size_t>& points, pose::Presence presence) {
  static constexpr const char* names[] = {"Mark absent", "Mark hidden", "Mark seen"};
  work.change(figure, names[static_cast<std::size_t>(presence)], [&](pose::Figure f) {
    for (const std::size_t i : points) f.points[i].presence = presence;
    return f;
  });
}

void cyclePresence(PoseWork& work, std::size_t figure, std::size_t point) {
  if (work.figures() == nullptr || figure >= work.figures()->figures.size()) return;
  using pose::Presence;
  const Presence now = work.figures()->figures[figure]->points[point].presence;
  setPresence(work, figure, {point},
              now == Presence::seen     ? Presence::hidden
              : now == Presence::hidden ? Presence::absent
                                        : Presence::seen);
}

void togglePins(PoseWork& work, std::size_t figure, const std::set<std::size_t>& points) {
  work.change(figure, "Pin", [&](pose::Figure f) {
    const bool all = std::all_of(points.begin(), points.end(), [&](std::size_t i) { return f.points[i].pinned; });
    for (const std::size_t i : points) f.points[i].pinned = !all;
    return f;
  });
}

void placePoint(PoseWork& work, std::size_t figure, std::size_t point, QPointF to) {
  work.change(figure, "Place point", [&](const pose::Figure& f) { return pose::dragged(f, point, toPoint(to)); });
}

void copyFigure(const PoseWork& work, std::size_t figure) {
  if (work.figures() == nullptr || figure >= work.figures()->figures.size()) return;
  pose::Figures one;
  one.frame = work.frame();
  one.figures = {work.figures()->figures[figure]};
  const QByteArray text = QByteArray::fromStdString(pose::cocoFrom(one).dump(1));
  auto* data = new QMimeData;
  data->setData(figuresMime, text);
  data->setText(QString::fromUtf8(text));
  QApplication::clipboard()->setMimeData(data);
}

bool pasteFigures(PoseWork& work) {
  const QMimeData* data = QApplication::clipboard()->mimeData();
  std::string text;
  if (data->hasFormat(figuresMime))
    text = data->data(figuresMime).toStdString();
  else if (data->hasText() && data->text().contains("\"keypoints\""))
    text = data->text().toStdString();
  else
    return false;
  try {
    auto read = pose::figuresFromCoco(text, "The clipboard");
    const auto fitted = pose::fittedInto(std::move(read.figures), read.size, work.frame());
    std::vector<pose::Figure> figures;
    // A little aside, so that a copy is seen beside what it was taken from.
    for (const auto& figure : fitted.figures) figures.push_back(pose::moved(*figure, {16, 0}));
    work.add(std::move(figures), "Paste figures");
  } catch (const Problem& problem) {
    emit work.said(problem.what());
  }
  return true;
}

void nudgeSelected(PoseWork& work, QPointF by) {
  if (!work.selected() || work.guide() == nullptr) return;
  const auto& points = work.points();
  work.change(
      *work.selected(), "Nudge",
      [&](const pose::Figure& f) {
        if (points.empty()) return pose::moved(f, toPoint(by));
        if (points.size() > 1) return pose::draggedTogether(f, points, toPoint(by));
        return pose::dragged(f, *points.begin(), f.points[*points.begin()].at + toPoint(by));
      },
      "nudge figure " + work.guide()->id + std::to_string(*work.selected()));
}

void confirmPoints(PoseWork& work) {
  if (!work.selected() || work.points().empty()) return;
  work.change(*work.selected(), "Joint is right", [&work](pose::Figure figure) {
    for (const std::size_t p : work.points()) figure.points[p].confidence = 1;
    return figure;
  });
}

bool selectNextDoubt(PoseWork& work) {
  const auto* all = work.figures();
  if (all == nullptr || all->figures.empty()) return false;
  const std::size_t count = all->figures.size(), now = work.selected().value_or(0);
  for (std::size_t step = 0; step <= count; ++step) {
    const std::size_t f = (now + count - step % count) % count;
    const auto doubts = pose::doubtfulPoints(*all->figures[f]);
    std::size_t next = 0;
    // In the figure in hand, the one after the one in hand.
    if (step == 0 && work.points().size() == 1)
      if (const auto at = std::find(doubts.begin(), doubts.end(), *work.points().begin()); at != doubts.end())
        next = static_cast<std::size_t>(at - doubts.begin()) + 1;
    if (next >= doubts.size()) {
      if (step < count || doubts.empty()) continue;
      next = 0;
    }
    work.select(f, {doubts[next]});
    return true;
  }
  return false;
}

void addPoseWords(PoseWork& work, StudyDocument& document) {
  const Guide* of = work.guide();
  if (of == nullptr || work.figures() == nullptr) return;
  const std::string words = pose::wordsFor(*work.figures());
  if (words.empty()) {
    emit work.said("There is no figure to put into words.");
    return;
  }
  document.change("Add pose words", [&](StudyState& s) {
    Guide& g = *s.guide(of->id);
    auto prompt = pose::withPoseWords(s.brief.prompt, g.words, words);
    if (!prompt) prompt = pose::withPoseWords(s.brief.prompt, {}, words);
    s.brief.prompt = *prompt;
    g.words = words;
  });
}

}  // namespace hscaffold::app
