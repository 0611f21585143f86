#include "app/stage/shot_strip.h"

#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "app/widgets/light_dial.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/image/colour.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::Scene;

constexpr int shotHeight = 64;

/// The dial is the stage from above, the eye at its lower rim.
double dialTurn(const Scene& scene) { return 90 - static_cast<double>(scene.light.from - scene.eye.turn); }

QString wordsOf(const Scene& scene) {
  static const char* const sides[] = {"behind you", "behind you, right", "the right", "the back, right",
                                      "the back",   "the back, left",    "the left",  "behind you, left"};
  const auto side = static_cast<int>(std::lround(std::remainder(scene.light.from - scene.eye.turn, 360.0f) / 45));
  const float high = scene.light.height;
  return QString("from %1, %2")
      .arg(high > 75 ? "above" : sides[(side % 8 + 8) % 8], high > 75   ? "steep"
                                                            : high > 40 ? "high"
                                                            : high > 18 ? "half high"
                                                                        : "low");
}

}  // namespace

ShotStrip::ShotStrip(Desk& desk, StageWork& work, QWidget* parent) : QWidget(parent), desk_(desk), work_(work) {
  setFixedHeight(124);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 4, 12, 6);
  row->setSpacing(12);
  auto* column = new QVBoxLayout;
  column->setSpacing(2);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel("Shots"));
  head->addStretch(1);
  auto* keep = namedButton("keep shot", "+ Keep this shot", "Keeps where the eye is now", "link");
  connect(keep, &QPushButton::clicked, &work_, &StageWork::keepShot);
  head->addWidget(keep);
  column->addLayout(head);
  shots_ = new QListWidget;
  shots_->setObjectName("shots");
  shots_->setAccessibleName("Shots");
  shots_->setFont(textFont(8.5));
  shots_->setViewMode(QListView::IconMode);
  shots_->setFlow(QListView::LeftToRight);
  shots_->setWrapping(false);
  shots_->setMovement(QListView::Static);
  shots_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  shots_->setContextMenuPolicy(Qt::CustomContextMenu);
  shots_->setToolTip("Go to a shot by a click or Return; a right click names it, renews it, forgets it");
  connect(shots_, &QListWidget::itemActivated, this,
          [this] { work_.takeShot(static_cast<std::size_t>(shots_->currentRow())); });
  connect(shots_, &QListWidget::itemClicked, this,
          [this](QListWidgetItem* item) { work_.takeShot(static_cast<std::size_t>(shots_->row(item))); });
  connect(shots_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (!filling_) work_.nameShot(static_cast<std::size_t>(shots_->row(item)), item->text());
  });
  connect(shots_, &QListWidget::customContextMenuRequested, this, &ShotStrip::showMenu);
  column->addWidget(shots_, 1);
  row->addLayout(column, 1);

  auto* light = new QVBoxLayout;
  light->setSpacing(2);
  light->addWidget(titleLabel("Light"));
  auto* dialRow = new QHBoxLayout;
  dial_ = new LightDial;
  dial_->setObjectName("stage light");
  dial_->setAccessibleName("Light of the stage");
  dial_->setToolTip(
      "The stage from above, you at the lower rim: where the light comes from; the middle is straight above");
  dial_->setFixedSize(62, 62);
  connect(dial_, &LightDial::edited, this, [this](double from, double height) {
    work_.edit(
        "Light of the stage",
        [&](Scene& scene) {
          scene.light.from = std::remainder(static_cast<float>(90 - from) + scene.eye.turn, 360.0f);
          scene.light.height = static_cast<float>(std::clamp(height, 2.0, 90.0));
        },
        "stage light");
  });
  connect(dial_, &LightDial::finished, &work_, &StageWork::seal);
  dialRow->addWidget(dial_);
  auto* numbers = new QGridLayout;
  numbers->setSpacing(3);
  const auto number = [&](const char* name, const QString& text, float stage::SceneLight::*value, const QString& tip) {
    auto* field = new ScrubField;
    field->setObjectName(name);
    field->setAccessibleName(text);
    field->setUp({0, 1, static_cast<double>(stage::SceneLight{}.*value), 0.05, 2});
    field->setFixedWidth(70);
    field->setToolTip(tip);
    const int line = numbers->rowCount();
    numbers->addWidget(noteLabel(text), line, 0);
    numbers->addWidget(field, line, 1);
    connect(field, &ScrubField::edited, this, [this, name, value](double to) {
      work_.edit(
          "Light of the stage", [&](Scene& scene) { scene.light.*value = static_cast<float>(to); },
          std::string("stage ") + name);
    });
    connect(field, &ScrubField::finished, &work_, &StageWork::seal);
    return field;
  };
  strength_ = number("light strength", "Strength", &stage::SceneLight::strength, "Against the light from all round");
  soft_ = number("light softness", "Soft", &stage::SceneLight::soft, "How blurred the borders of shadows are");
  dialRow->addLayout(numbers);
  light->addLayout(dialRow, 1);
  lightWords_ = noteLabel();
  lightWords_->setObjectName("light words");
  light->addWidget(lightWords_);
  row->addLayout(light);
  connect(&work_, &StageWork::changed, this, &ShotStrip::refresh);
  refresh();
}

void ShotStrip::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  makePictures();
}

void ShotStrip::refresh() {
  const Scene& scene = work_.scene();
  filling_ = true;
  const Size frame = desk_.document.state().frame;
  const QSize icon(std::clamp(shotHeight * frame.width / std::max(1, frame.height), 30, 120), shotHeight);
  shots_->setIconSize(icon);
  shots_->setGridSize({icon.width() + 14, shotHeight + 20});
  while (shots_->count() > static_cast<int>(scene.shots.size())) delete shots_->takeItem(shots_->count() - 1);
  while (shots_->count() < static_cast<int>(scene.shots.size())) shots_->addItem(new QListWidgetItem);
  for (int i = 0; i < shots_->count(); ++i) {
    const auto& shot = scene.shots[static_cast<std::size_t>(i)];
    auto* item = shots_->item(i);
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    item->setText(QString::fromStdString(shot.name));
    item->setToolTip(QString("%1: %2 mm, %3 m high, tilted %4°")
                         .arg(QString::fromStdString(shot.name))
                         .arg(std::lround(shot.eye.millimetres))
                         .arg(static_cast<double>(shot.eye.at.y()), 0, 'f', 1)
                         .arg(std::lround(shot.eye.tilt)));
  }
  filling_ = false;
  dial_->show(dialTurn(scene), static_cast<double>(scene.light.height));
  lightWords_->setText(wordsOf(scene));
  strength_->showValue(static_cast<double>(scene.light.strength));
  soft_->showValue(static_cast<double>(scene.light.soft));
  makePictures();
}

void ShotStrip::makePictures() {
  if (!isVisible() || work_.scene().shots.empty()) return;
  const auto& state = desk_.document.state();
  std::string now = stage::sceneDigest(state);
  if (now == shown_) return;
  shown_ = std::move(now);
  const auto ratio = devicePixelRatioF();
  desk_.tasks.run(
      this, "stage shots", Priority::facts,
      [scene = work_.scene(), frame = state.frame, ratio](const StopToken& stop) {
        std::vector<QImage> out;
        const int high = std::max(8, static_cast<int>(shotHeight * ratio));
        const Size size{std::max(8, high * frame.width / std::max(1, frame.height)), high};
        const auto set = stage::setOf(scene);
        for (const auto& shot : scene.shots) {
          throwIfStopped(stop);
          const auto look = stage::lookThrough(scene, set, stage::cameraOf(shot.eye, size), stop);
          const auto pixels = toSrgb8(look.seen.colour.view());
          out.push_back(toQImage(pixels.view()).copy());
        }
        return out;
      },
      [this, ratio](const std::vector<QImage>& made) {
        filling_ = true;
        for (int i = 0; i < shots_->count() && i < static_cast<int>(made.size()); ++i) {
          auto pixmap = QPixmap::fromImage(made[static_cast<std::size_t>(i)]);
          pixmap.setDevicePixelRatio(ratio);
          shots_->item(i)->setIcon(QIcon(pixmap));
        }
        filling_ = false;
      });
}

void ShotStrip::showMenu(const QPoint& at) {
  auto* item = shots_->itemAt(at);
  if (item == nullptr) return;
  const auto shot = static_cast<std::size_t>(shots_->row(item));
  QMenu* menu = newMenu(*this);
  menu->addAction("Go there", this, [this, shot] { work_.takeShot(shot); });
  menu->addAction("Name...", this, [this, shot] {
    if (auto* named = shots_->item(static_cast<int>(shot))) shots_->editItem(named);
  });
  menu->addAction("From where the eye is now", this, [this, shot] { work_.renewShot(shot); });
  menu->addSeparator();
  menu->addAction("Forget it", this, [this, shot] { work_.removeShot(shot); });
  menu->popup(shots_->viewport()->mapToGlobal(at));
}

}  // namespace hscaffold::app
