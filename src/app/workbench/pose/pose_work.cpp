#include "app/workbench/pose/pose_work.h"

#include <algorithm>
#include <cmath>

#include "app/document/study_document.h"
#include "app/document/study_edits.h"
#include "app/maps/map_room.h"
#include "app/points.h"
#include "core/kinds.h"
#include "core/pose/fit.h"
#include "core/pose/library.h"
#include "core/pose/pose_words.h"

namespace hscaffold::app {
PoseWork::PoseWork(StudyDocument& document, MapRoom& maps, QObject* parent)
    : QObject(parent), document_(document), maps_(maps) {
  connect(&document_, &StudyDocument::changed, this, &PoseWork::refresh);
  connect(&document_, &StudyDocument::closing, this, [this] {
    cancel();
    // What another study's figures are called says nothing about this one's.
    guide_.clear();
    figures_.reset();
    led_.clear();
  });
  connect(&maps_, &MapRoom::factsChanged, this, [this](const QString& guide) {
    if (guide.toStdString() == guide_) emit changed();  // words are known
  });
  refresh();
}

Size PoseWork::frame() const { return document_.state().frame; }

const Guide* PoseWork::guide() const {
  const Guide* guide = document_.state().selectedGuide();
  return guide != nullptr && kindOf(guide->kind).hasSlot(pose::figuresSlot) ? guide : nullptr;
}

const pose::Figures* PoseWork::figures() const { return start_ ? &live_ : figures_.get(); }

void PoseWork::refresh() {
  const Guide* of = guide();
  const std::string id = of != nullptr ? of->id : std::string();
  auto now = of != nullptr ? maps_.figuresOf(*of) : nullptr;
  if (id == guide_ && now == figures_) return;
  if (start_) {
    start_.reset();
    maps_.endLive(guide_);
  }
  if (id != guide_) {
    selected_.reset();
    led_.clear();
  }
  guide_ = id;
  figures_ = std::move(now);
  if (!figures_ || (selected_ && *selected_ >= figures_->figures.size())) selected_.reset();
  if (!selected_ || (!points_.empty() && *points_.rbegin() >= figures_->figures[*selected_]->points.size()))
    points_.clear();
  if (figures_ && !selected_ && !figures_->figures.empty()) selected_ = figures_->figures.size() - 1;
  emit changed();
}

std::optional<std::size_t> PoseWork::selected() const { return selected_; }

const pose::Figure* PoseWork::selectedFigure() const {
  const auto* all = figures();
  return all != nullptr && selected_ ? all->figures[*selected_].get() : nullptr;
}

void PoseWork::select(std::optional<std::size_t> figure, std::set<std::size_t> points) {
  if (start_ && figure != selected_) return;  // another one would take what is being dragged
  if (figure && (figures() == nullptr || *figure >= figures()->figures.size())) figure.reset();
  if (figure == selected_ && points == points_) return;
  selected_ = figure;
  points_ = std::move(points);
  emit changed();
}

bool PoseWork::selectNext(int step) {
  const auto* all = figures();
  if (all == nullptr || all->figures.empty()) return false;
  const auto count = static_cast<int>(all->figures.size());
  const int now = selected_ ? static_cast<int>(*selected_) : 0;
  select(static_cast<std::size_t>(((now + step) % count + count) % count));
  return true;
}

void PoseWork::setFitting(bool fitting) {
  if (fitting == fitting_) return;
  fitting_ = fitting;
  emit changed();
}

bool PoseWork::begin(std::size_t figure) {
  if (start_ || !figures_ || figure >= figures_->figures.size() || document_.forLooking()) return false;
  start_ = figures_->figures[figure];
  live_ = *figures_;
  selected_ = figure;
  const Guide& of = *guide();
  const auto& inks = maps_.inksOf(of);
  const double thickness = valueOf(*kindOf(of.kind).fields, of.tuning, "thickness") / 100;
  pose::Figures behind = live_;
  behind.figures.resize(figure);
  behind_ = pose::drawnFigures(behind, live_.frame, inks, thickness);
  marks_.clear();
  for (std::size_t f = figure; f < live_.figures.size(); ++f)
    marks_.push_back(pose::marksOf(*live_.figures[f], inks, thickness));
  drawn_ = marks_.front().bounds;
  return true;
}

void PoseWork::update(pose::Figure figure) {
  if (!start_ || !selected_ || guide() == nullptr) return;
  live_.figures[*selected_] = std::make_shared<const pose::Figure>(std::move(figure));
  showLive();
  emit changed();
}

/// The figure in hand drawn where it is, and the others where it was.
void PoseWork::showLive() {
  const Guide& of = *guide();
  const double thickness = valueOf(*kindOf(of.kind).fields, of.tuning, "thickness") / 100;
  auto& marks = marks_.front();
  marks = pose::marksOf(*live_.figures[*selected_], maps_.inksOf(of), thickness);
  const Box part = cut(joined(drawn_, marks.bounds), document_.state().frame);
  drawn_ = marks.bounds;
  maps_.showLiveFigures(guide_, behind_, marks_, part);
}

void PoseWork::end(const QString& name) {
  if (!start_) return;
  const std::string id = guide_;
  const bool same = *live_.figures[*selected_] == *start_;
  auto figures = live_.figures;
  // What was put somewhere by hand is not in doubt any more.
  pose::Figure placed = *figures[*selected_];
  for (const std::size_t p : points_)
    if (placed.points[p].at != start_->points[p].at) placed.points[p].confidence = 1;
  if (!same) figures[*selected_] = std::make_shared<const pose::Figure>(std::move(placed));
  start_.reset();
  if (!same) commit(name, std::move(figures));
  maps_.endLive(id);
  emit changed();
}

void PoseWork::cancel() {
  if (!start_) return;
  start_.reset();
  maps_.endLive(guide_);
  emit changed();
}

pose::Figure PoseWork::draggedFrom(std::size_t point, QPointF to, bool alone) const {
  const pose::Figure& figure = *start_;
  if (alone) return pose::dragged(figure, point, toPoint(to), pose::Drag::alone);
  if (fitting_ && figure.kind().points[point].handle) {
    const auto led = led_.find(*selected_);
    return pose::ledBy(figure, point, toPoint(to), led != led_.end() ? led->second : std::vector<std::size_t>(),
                       pose::startsFor(figure.skeleton));
  }
  return pose::dragged(figure, point, toPoint(to));
}

void PoseWork::rememberLed(std::size_t point) {
  if (!selected_) return;
  auto& led = led_[*selected_];
  if (std::find(led.begin(), led.end(), point) == led.end()) led.push_back(point);
}

void PoseWork::commit(const QString& name, std::vector<FigurePtr> figures, const std::string& merge) {
  if (guide() != nullptr) commitTo(*guide(), name, std::move(figures), merge);
}

void PoseWork::addTo(const std::string& id, pose::Figures found, const QString& name) {
  const Guide* of = document_.state().guide(id);
  if (of == nullptr || found.figures.empty()) return;
  if (of == guide()) cancel();
  const GuidePlace place = document_.placeOf(*of);
  found = pose::following(found, place.frame, place.placing);
  const auto before = maps_.figuresOf(*of);
  auto all = before ? before->figures : std::vector<FigurePtr>();
  if (all.size() + found.figures.size() > pose::mostFigures) {
    emit said(QString("There can be %1 figures at most.").arg(pose::mostFigures));
    return;
  }
  all.insert(all.end(), found.figures.begin(), found.figures.end());
  const std::size_t last = all.size() - 1;
  commitTo(*of, name, std::move(all), {});
  if (guide() == nullptr || guide()->id != id) return;
  led_.erase(last);
  select(last);
}

void PoseWork::commitTo(const Guide& guide, const QString& name, std::vector<FigurePtr> figures,
                        const std::string& merge) {
  const Guide* of = &guide;
  const std::string id = guide.id;
  const GuidePlace place = document_.placeOf(*of);
  pose::Figures next;
  next.frame = place.frame;
  next.placing = place.placing;
  next.figures = std::move(figures);
  const std::string words = of->words.empty() ? std::string() : pose::wordsFor(next);
  const std::string kept = document_.work().keep(pose::figuresForm(), std::move(next));
  document_.change(
      name,
      [&](StudyState& s) {
        if (s.guide(id) == nullptr) return;
        Guide& g = *s.guide(id);
        g.work.put(pose::figuresSlot, kept);
        if (g.words.empty() || g.words == words) return;
        // Words that were edited by hand are the artist's own.
        const auto prompt = pose::withPoseWords(s.brief.prompt, g.words, words);
        g.words = prompt ? words : std::string();
        if (prompt) s.brief.prompt = *prompt;
      },
      merge);
}

void PoseWork::add(std::vector<pose::Figure> figures, const QString& name) {
  if (figures.empty()) return;
  cancel();
  if (guide() == nullptr) {
    // With the first figures comes the guide that holds them: one step.
    pose::Figures first;
    for (pose::Figure& figure : figures)
      first.figures.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
    if (first.figures.size() > pose::mostFigures) first.figures.resize(pose::mostFigures);
    addPoseGuide(document_, "Pose", std::move(first));
    return;
  }
  // A guide made on the command line may have none yet.
  auto all = figures_ ? figures_->figures : std::vector<FigurePtr>();
  if (all.size() + figures.size() > pose::mostFigures) {
    emit said(QString("There can be %1 figures at most.").arg(pose::mostFigures));
    return;
  }
  for (pose::Figure& figure : figures) all.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
  const std::size_t last = all.size() - 1;
  led_.erase(last);
  commit(name, std::move(all));
  select(last);
}

void PoseWork::loadInks(const std::filesystem::path& file) {
  const Guide* of = guide();
  if (of == nullptr) return;
  std::string kept;
  if (!file.empty()) {
    const Bytes bytes = readWholeFile(file);
    kept = document_.work().keep(pose::inksForm(), pose::inksFromJson(textOf(bytes), file.filename().string()));
  }
  document_.change(file.empty() ? "House inks" : "Load inks",
                   [&](StudyState& s) { s.guide(of->id)->work.put(pose::inksSlot, kept); });
}

QString PoseWork::words() const {
  const Guide* of = guide();
  const MapPicture* map = of != nullptr ? maps_.mapOf(of->id) : nullptr;
  return map != nullptr ? QString::fromStdString(map->facts.words) : QString();
}

}  // namespace hscaffold::app
