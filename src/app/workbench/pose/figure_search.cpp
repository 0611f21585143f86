#include "app/workbench/pose/figure_search.h"

#include <QSettings>
#include <algorithm>
#include <utility>

#include "app/document/study_document.h"
#include "app/document/study_edits.h"
#include "app/maps/map_room.h"
#include "app/tasks/task_runner.h"
#include "app/workbench/pose/pose_work.h"
#include "core/pose/find/network_finder.h"

namespace hscaffold::app {
namespace {

constexpr const char* finderKey = "find figures";

}  // namespace

FigureSearch::FigureSearch(PoseWork& work, StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent), work_(work), document_(document), maps_(maps), tasks_(tasks) {
  connect(&work_, &PoseWork::findAsked, this, [this](const QRectF& box) { findFigures(box); });
  connect(&document_, &StudyDocument::closing, this, [this] { finding_ = false; });
  connect(&tasks_, &TaskRunner::ended, this, [this](const QString& key) {
    if (key == finderKey && std::exchange(finding_, false)) emit changed();
  });
}

void FigureSearch::find(std::shared_ptr<pose::FigureFinder> finder) {
  if (finding_) return;
  if (work_.guide() == nullptr) addPoseGuide(document_, "Pose");
  const Guide* of = work_.guide();
  const auto picture = of != nullptr ? maps_.placedPicture(of->reference) : nullptr;
  if (!picture) {
    emit work_.said("There is no picture to find figures in: bring one in first.");
    return;
  }
  finding_ = true;
  emit changed();
  struct Found {
    std::vector<pose::Figure> figures;
    QString trouble;
  };
  tasks_.run(
      this, finderKey, Priority::maps,
      [finder, picture](const StopToken& stop) {
        Found found;
        try {
          found.figures = pose::tidied(finder->find(*picture, stop));
        } catch (const Cancelled&) {
          found.trouble = "Finding was stopped.";
        } catch (const std::exception& error) {
          found.trouble = error.what();
        }
        return found;
      },
      [this, id = of->id, place = document_.placeOf(*of), name = QString::fromStdString(finder->name())](Found found) {
        finding_ = false;
        const std::size_t count = found.figures.size();
        for (std::size_t i = 0; i < count; ++i)
          if (found.figures[i].name.empty()) found.figures[i].name = "Found " + std::to_string(count - i);
        // They belong to the guide that asked, where its picture lay then; both may be otherwise by now.
        pose::Figures all{place.frame, place.placing, {}};
        for (pose::Figure& figure : found.figures)
          all.figures.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
        if (document_.state().guide(id) == nullptr && count > 0)
          found.trouble = "The guide for which figures were found is gone.";
        work_.addTo(id, std::move(all), "Find figures");
        emit work_.said(!found.trouble.isEmpty() ? found.trouble
                        : count == 0
                            ? QString("%1 found no figure; the pose library (B) has poses to put on it.").arg(name)
                        : count == 1 ? QString("One figure found; K goes to what is doubtful of it.")
                                     : QString("%1 figures found; look through them with N.").arg(count));
        emit changed();
      });
}

void FigureSearch::findFigures(const std::optional<QRectF>& box) {
  pose::NetworkFinderTuning tuning;
  tuning.sought = pose::Sought::everybody;
  tuning.faintestFigure = faintest() / 100.0;
  if (box) {
    tuning.box = pose::Bounds{box->left(), box->top(), box->right(), box->bottom()};
    // Whoever draws a box knows that somebody is in it.
    tuning.faintestFigure = 0;
  }
  find(std::make_shared<pose::NetworkFinder>(tuning));
}

int FigureSearch::faintest() { return std::clamp(QSettings().value("faintest figure", 30).toInt(), 0, 100); }

void FigureSearch::setFaintest(int percent) { QSettings().setValue("faintest figure", percent); }

void FigureSearch::stop() { tasks_.stop(finderKey); }

}  // namespace hscaffold::app
