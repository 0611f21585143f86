#include "app/stage/stage_guides.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/bench/bench_parts.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "core/kinds.h"
#include "core/pose/inks.h"
#include "core/pose/pose_map.h"
#include "core/stage/scene_maps.h"
#include "core/strokes/stroke.h"

namespace hscaffold::app {
namespace {

constexpr int pictureWidth = 118, pictureHeight = 92;

/// What each map shows, small.
QImage pictureOf(const std::string& id, const stage::Look& look, const stage::Scene& scene, const StopToken& stop) {
  const Size size = look.camera.size;
  if (id == "pose")
    return toQImage(pose::drawnFigures(stage::figuresIn(scene, look), size, pose::houseInks(), 1, stop).view());
  if (id == "depth") return greyImage(stage::depthMap(look).view());
  if (id == "tone") return greyImage(stage::toneMap(look).view());
  const auto strokes = stage::strokesOf(stage::linesOf(look, {}, stop));
  return greyImage(drawnStrokes(strokes, size, stop).view());
}

}  // namespace

StageGuides::StageGuides(Desk& desk, StageWork& work, QWidget* parent) : QWidget(parent), desk_(desk), work_(work) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 10, 10);
  column->setSpacing(8);
  for (const auto& map : stage::stageMaps()) column->addWidget(card(map));
  column->addWidget(titleLabel("In words"));
  words_ = noteLabel();
  words_->setObjectName("stage in words");
  words_->setWordWrap(true);
  column->addWidget(words_);
  auto* add =
      namedButton("stage words", "Add its words",
                  "What figures do, from where they are seen, and what stands before what, into the prompt", "link");
  connect(add, &QPushButton::clicked, &work_, &StageWork::addWords);
  column->addWidget(add, 0, Qt::AlignLeft);
  column->addStretch(1);
  connect(&work_, &StageWork::changed, this, &StageGuides::refresh);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.guideList || changes.frame || changes.guides.size() > 0) refresh();
  });
  refresh();
}

QWidget* StageGuides::card(const stage::StageMap& map) {
  auto* frame = new QFrame;
  frame->setProperty("role", "popover");
  auto* row = new QHBoxLayout(frame);
  row->setContentsMargins(8, 6, 6, 6);
  row->setSpacing(8);
  Card made{&map, new QLabel, titleLabel(""), noteLabel(), nullptr, nullptr};
  made.picture->setObjectName(QString("stage picture %1").arg(map.id));
  made.picture->setFixedSize(pictureWidth, pictureHeight);
  made.picture->setAlignment(Qt::AlignCenter);
  row->addWidget(made.picture);
  auto* column = new QVBoxLayout;
  column->setSpacing(2);
  made.name->setText(QString::fromStdString(kindOf(map.kind).name));
  setOwnSheet(*made.name, QString("color: %1").arg(kindColour(map.kind).name()));
  made.state->setWordWrap(true);
  made.state->setObjectName(QString("stage state %1").arg(map.id));
  column->addWidget(made.name);
  column->addWidget(made.state);
  column->addStretch(1);
  const std::string id = map.id;
  made.use = new QPushButton("Use");
  made.use->setObjectName(QString("use %1").arg(map.id));
  made.use->setToolTip("A guide of it on the Bench, which follows the stage");
  connect(made.use, &QPushButton::clicked, this, [this, id] { work_.use({id}); });
  made.freeze = new QPushButton("Freeze");
  made.freeze->setProperty("role", "link");
  made.freeze->setObjectName(QString("freeze %1").arg(map.id));
  connect(made.freeze, &QPushButton::clicked, this, [this, id] {
    if (const Guide* guide = work_.guideOf(id)) work_.freeze(id, !guide->stage.frozen);
  });
  if (id == "depth") {
    // Both in one: the nearer wins.
    join_ = namedButton("join depth", "With a picture...",
                        "Puts what stands on the stage into the depth of a picture: scales are matched on the ground",
                        "link");
    connect(join_, &QPushButton::clicked, this, [this] {
      QMenu* menu = newMenu(*this);
      for (const std::string& each : work_.joinable())
        if (const Guide* guide = desk_.document.state().guide(each))
          menu->addAction(QString::fromStdString(guide->name), this, [this, each] { work_.joinDepth(each); });
      menu->popup(join_->mapToGlobal(QPoint(0, join_->height())));
    });
    column->addWidget(join_, 0, Qt::AlignLeft);
  }
  column->addWidget(made.use, 0, Qt::AlignLeft);
  column->addWidget(made.freeze, 0, Qt::AlignLeft);
  row->addLayout(column, 1);
  cards_.push_back(made);
  return frame;
}

void StageGuides::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  makePictures();
}

void StageGuides::refresh() {
  join_->setVisible(!work_.joinable().empty());
  for (const Card& card : cards_) {
    const Guide* guide = work_.guideOf(card.map->id);
    card.use->setVisible(guide == nullptr);
    card.freeze->setVisible(guide != nullptr);
    if (guide == nullptr) {
      card.state->setText("no guide");
      continue;
    }
    card.freeze->setText(guide->stage.frozen ? "Follow again" : "Freeze");
    card.freeze->setToolTip(guide->stage.frozen ? "Brought up to date now, and with every change of the stage"
                                                : "Stays as it is, whatever happens on the stage");
    const bool stale = guide->stage.made != stage::sceneDigest(desk_.document.state());
    card.state->setText(guide->stage.frozen ? "frozen" : stale ? "about to follow" : "follows the stage");
    QString says = QString::fromStdString(guide->name);
    if (const stage::Thing* to = work_.scene().thing(guide->stage.fastened.thing))
      says += "; its hand work goes along with " + QString::fromStdString(stage::calledOf(*to));
    card.state->setToolTip(says);
  }
  makePictures();
}

void StageGuides::makePictures() {
  if (!isVisible()) return;
  const auto& state = desk_.document.state();
  std::string now = stage::sceneDigest(state);
  if (now == shown_) return;
  shown_ = std::move(now);
  if (work_.scene().things.empty()) {
    for (const Card& card : cards_) card.picture->clear();
    words_->setText("Nothing is on the stage yet.");
    return;
  }
  struct Made {
    std::vector<QImage> pictures;
    QString words;
  };
  const auto ratio = devicePixelRatioF();
  desk_.tasks.run(
      this, "stage guide pictures", Priority::facts,
      [scene = work_.scene(), frame = state.frame, ratio](const StopToken& stop) {
        Made out;
        const double scale = std::min(pictureWidth / static_cast<double>(frame.width),
                                      pictureHeight / static_cast<double>(frame.height));
        // Seen at twice the size, so that lines stay fine.
        const auto side = [&](int of) { return std::max(8, static_cast<int>(2 * ratio * scale * of)); };
        const auto look = stage::lookAt(scene, {side(frame.width), side(frame.height)}, stop, {.fine = true});
        for (const auto& map : stage::stageMaps()) {
          throwIfStopped(stop);
          out.pictures.push_back(pictureOf(map.id, look, scene, stop));
        }
        out.words = QString::fromStdString(stage::wordsFor(scene, look));
        return out;
      },
      [this, ratio](const Made& made) {
        for (std::size_t i = 0; i < cards_.size() && i < made.pictures.size(); ++i) {
          auto pixmap = QPixmap::fromImage(made.pictures[i].scaled(QSize(pictureWidth, pictureHeight) * ratio,
                                                                   Qt::KeepAspectRatio, Qt::SmoothTransformation));
          pixmap.setDevicePixelRatio(ratio);
          cards_[i].picture->setPixmap(pixmap);
        }
        words_->setText(made.words.isEmpty() ? "No words are known for this." : made.words);
      });
}

}  // namespace hscaffold::app
